"""Members welded to one another in the shop leave it as one piece: gathered, followed through edits, marked, billed,
sent."""

import ifcopenshell
import msgspec
import numpy as np
import pytest
from tests.conftest import marked
from tests.connect.sound import beam, column, girder, joined, sound, wrong
from tests.draw.gallery import truss

from uncus.bill.listing import all_lists
from uncus.bill.sources import Billing
from uncus.deliver.ifc import ifc_text
from uncus.draw.drawn import draw_all
from uncus.draw.register import register
from uncus.job.job import Job
from uncus.job.records import Connection, Double, Line, Member, Project
from uncus.job.start import SERIES, usual_rules
from uncus.mark.content import assembly_content
from uncus.mark.marker import Marker
from uncus.mark.marking import Marks, propose
from uncus.shop.shipping import groups
from uncus.shop.shop import build
from uncus.units import Units

replace = msgspec.structs.replace


def records(*more):
    return [Project(name="Trusses", number="3"), usual_rules(Units.IMPERIAL), *SERIES, *more]


def contents(shop):
    return {id: assembly_content(a) for id, a in shop.shipped.items()}


TUBE, FLANGE = girder("HSS12X12X1/2", line=Line.CENTRE), column("W14X90", roll=90)


@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize("section", ["HSS4X4X1/4", "PIPE4STD", "L3X3X1/4", "W6X15"])
@pytest.mark.parametrize(
    ("support", "turn", "slope"),
    [(TUBE, 0, 0), (TUBE, 20, 0), (TUBE, 0, 10), (TUBE, 90, 45), (TUBE, -90, -60), (TUBE, 90, 30), (FLANGE, 0, 0),
        (FLANGE, 25, 0), (FLANGE, 0, 40), (FLANGE, -20, -35), (FLANGE, 0, 60)],
)  # fmt: skip
def test_an_end_is_cut_to_the_side_and_welded_all_round(support, section, turn, slope, right):
    """Closed, apart, and every point of the weld on the support's side."""
    level = 3000.0
    shop = joined("welded end", [support, beam(turn, section, slope, level, right, line=Line.CENTRE)], right)
    sound(shop)
    (weld,) = shop.connections["c"].welds
    local = np.array([shop.body("support").frame.to_local(np.array(p)) for p in weld.path])
    s = shop.body("support").section
    off = np.minimum(np.abs(np.abs(local[:, 1]) - s.b / 2), np.abs(np.abs(local[:, 2]) - s.d / 2))
    assert off.max() < 0.01 and set(shop.shipped) == {"support"}
    assert shop.ships_as("beam") == "support" and not shop.shipped["support"].site_welds


def test_a_joint_that_is_a_weld_alone_can_be_shown():
    pieces, spots = joined("welded end", [TUBE, beam(0, "HSS4X4X1/4", line=Line.CENTRE)]).made_by("c")
    assert (
        not pieces and 8 <= len(spots) <= 16 and np.ptp(np.array(spots), axis=0).max() == pytest.approx(101.6, abs=0.1)
    )


def test_what_cannot_be_welded_says_why():
    assert "is round" in wrong(joined("welded end", [column("PIPE8STD"), beam(0, "HSS4X4X1/4", line=Line.CENTRE)]))[0]
    pair = beam(0, "L3X3X1/4", double=Double(), line=Line.CENTRE)
    assert "pair" in wrong(joined("welded end", [column("W14X90", roll=90), pair]))[0]
    site = joined("welded end", [column("W14X90", roll=90), beam(0)], params={"where": "on site"})
    assert set(site.shipped) == {"support", "beam"} and site.shipped["beam"].site_welds


def test_a_truss_is_one_piece_and_weighs_what_its_members_do():
    shop = build(Job(records(*truss())))
    ((root, whole),) = shop.shipped.items()
    assert root == "truss-low" and len(whole.pieces) == 10 and all(p.owner == root for p in whole.pieces)
    assert whole.gross == pytest.approx(sum(a.gross for a in shop.assemblies.values()))
    assert len(whole.welds) == 16 and len({p.part for p in whole.pieces}) <= 4
    assert set(shop.in_piece(root)) == set(shop.assemblies) and shop.ships_as("truss-3") == root


EDITS = {
    "a web welded on site": lambda job: [replace(c, params={"where": "on site"}) for c in job.all(Connection)
        if c.member == "truss-2"],
    "a chord moved": lambda job: [replace(m, end=(m.end[0] + 300.0, *m.end[1:])) for m in job.all(Member)
        if m.id == "truss-high"],
    "the lower chord the shorter": lambda job: [replace(m, end=(m.end[0] - 900.0, *m.end[1:])) for m in job.all(Member)
        if m.id == "truss-high"],
    "a web of another size": lambda job: [replace(job.get("truss-1", Member), section="HSS3X3X1/4")],
    "a second truss": lambda job: truss(y=6000.0, name="second"),
}  # fmt: skip
DROPS = {
    "a web gone": lambda job: ["truss-4", *(c.id for c in job.all(Connection) if c.member == "truss-4")],
    "the chord gone": lambda job: ["truss-low"],
    "all joints gone": lambda job: [c.id for c in job.all(Connection)],
}


@pytest.mark.parametrize("name", [*EDITS, *DROPS])
def test_following_an_edit_ends_where_building_anew_does(name):
    """Pieces, their contents and the marks proposed; and again when it is undone."""
    job = Job(records(*truss()))
    shop = build(job)
    marker = Marker(job, shop)

    def follow(delta):
        marker.follow(delta, shop.follow(delta))

    job.follow(follow)
    with job.change(name) as change:
        for record in EDITS[name](job) if name in EDITS else ():
            change.put(record)
        for id in DROPS[name](job) if name in DROPS else ():
            change.drop(id)
    for step in (lambda: None, job.undo):
        step()
        fresh = build(job)
        assert contents(shop) == contents(fresh) and dict(shop.carried) == dict(fresh.carried), name
        said = [(r.mark, r.part, sorted(r.pieces)) for r in marker.proposal().rows]
        assert said == [(r.mark, r.part, sorted(r.pieces)) for r in propose(job, fresh).rows]


def test_trusses_alike_share_their_mark_sheet_list_and_file():
    job, shop = marked(records(*truss(), *truss(y=6000.0, name="second"), *truss(3, y=12_000.0, name="third")))
    marks = Marks(job, shop.carried)
    assert marks.of_assembly("truss-5") == marks.of_assembly("second-low") != marks.of_assembly("third-1")
    assert not marks.unmarked(shop.shipped.values())
    entries = [e for e in register(job, shop) if e.kind == "assembly"]
    assert [e.job.required for e in entries] == [2, 1] and {len(e.pieces) for e in entries} == {20, 8}
    (sheet,) = draw_all(entries[0].job)
    assert {"front|chords", "front|panel points main"} <= {s.key for s in sheet.spots}
    bill = {row[0]: row[1] for row in all_lists(Billing(job, shop, marks))[0].rows}
    assert {e.name: e.job.required for e in entries} == bill
    model = ifcopenshell.file.from_string(ifc_text(job, shop, marks))
    whole = model.by_type("IfcElementAssembly")
    assert len(whole) == 3
    parts = [
        p
        for rel in model.by_type("IfcRelAggregates")
        for p in rel.RelatedObjects
        if p.is_a() in ("IfcBeam", "IfcMember")
    ]
    assert len(parts) == 28 and all(p.Tag for p in parts)


@pytest.mark.parametrize(
    ("lengths", "heights", "bonds", "carries"),
    [
        ((6000, 8000, 3000), (0, 0, 0), (("c", "a"), ("c", "b")), "b"),  # the longest of those that hang on none
        ((6000, 6000, 9000), (0, 500, 0), (("c", "a"), ("c", "b")), "b"),  # of equals the highest
        ((6000, 6000, 1000), (0, 0, 0), (("c", "a"), ("c", "b")), "b"),  # then the last by name
        ((2000, 9000, 8000), (0, 0, 0), (("b", "a"), ("c", "a")), "a"),  # however short, if all hang on it
        ((2000, 9000, 8000), (0, 0, 0), (("a", "b"), ("b", "c"), ("c", "a")), "b"),  # in a ring the longest
    ],
)
def test_who_carries_the_others_of_a_piece(lengths, heights, bonds, carries):
    members = {
        id: build(Job([Member(id=id, role="beam", section="W12X26", start=(0, 0, z), end=(mm, 0, z))])).assemblies[id]
        for id, mm, z in zip("abc", lengths, heights, strict=True)
    }
    found = groups(bonds, members)
    assert list(found) == [carries] and found[carries][0] == carries and set(found[carries]) == set("abc")
    assert groups([*bonds, ("b", "gone")], {"a": members["a"]}) == {}
