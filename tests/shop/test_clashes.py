"""Steel held against all steel about it: what is said, where, and of whom; the same however a job came to be as it
is."""

import random
from itertools import combinations

import msgspec
import numpy as np
import pytest
from tests.conftest import how_many
from tests.connect.sound import beam, column, girder, joined, placed

from uncus.catalog.sections import section
from uncus.connect.clash import Boxes, near, overlap, overlaps
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.job.records import Attachment, Connection, End, Line, Member, Project, Role
from uncus.sample.frames import irregular
from uncus.shop.clashes import Clash, Steel
from uncus.shop.pieces import Piece
from uncus.shop.shop import Shop, build
from uncus.steel.features import Cope, EndCut, Face, Hole
from uncus.steel.part import Part, plate, rolled
from uncus.steel.solid import TOLERANCE
from uncus.units import Units

SHAPES = ("W12X26", "C8X11.5", "L4X4X3/8", "HSS6X6X3/8", "PIPE4STD", "WT5X15")


def any_part(lot: random.Random) -> Part:
    if lot.random() < 0.4:
        outline = [(0, 0), (lot.uniform(50, 400), 0), (lot.uniform(50, 400), 200), (0, 150)]
        holes = [Hole(Face.WEB, 25, y, 26, slot=lot.choice((0.0, 9.0))) for y in (40, 100) if lot.random() < 0.6]
        return plate(outline, lot.uniform(5, 30), "A36", "", holes)
    cut = EndCut(lot.uniform(300, 900), lot.uniform(-0.4, 0.4), lot.uniform(-0.4, 0.4))
    features = [Cope(True, False, 60, 40, 12.7)] if lot.random() < 0.3 else []
    features += [Hole(Face.WEB, x, 0, 30) for x in (60, 130, 200) if lot.random() < 0.5]
    return rolled(section(lot.choice(SHAPES)), "A992", "", EndCut(0.0), cut, features)[0]


def any_place(lot: random.Random) -> Placement:
    axes = np.linalg.qr(np.array([[lot.gauss(0, 1) for _ in range(3)] for _ in range(3)]))[0]
    axes = np.eye(3) if lot.random() < 0.4 else axes * np.sign(np.linalg.det(axes))
    return Placement([lot.uniform(-300, 300) for _ in range(3)], axes)


def test_nothing_that_stands_in_other_steel_is_passed_over():
    """Solids cut against each other one by one, with no box, block or key between."""
    lot = random.Random(4)
    met = 0
    for _ in range(how_many(400, 4000)):
        pair = [Piece("", any_part(lot), any_place(lot), "", "", "") for _ in range(2)]
        common = placed(pair[0]) ^ placed(pair[1])
        found = overlap(pair[0].part, pair[0].placement, pair[1].part, pair[1].placement)
        if found is None:
            deep = 2 * common.volume() / common.surface_area() if common.volume() > 1 else 0.0
            assert deep < 2 * TOLERANCE, (common.volume(), deep)
        else:
            met += 1
            assert found.volume == pytest.approx(common.volume(), rel=0.02) and found.depth > TOLERANCE
            low, high = np.array(common.bounding_box()).reshape(2, 3)
            assert (low - 0.01 <= found.at).all() and (found.at <= high + 0.01).all()
            boxes = Boxes.of((p.part, p.placement) for p in pair)
            assert near(boxes, np.array([0]), boxes, np.array([1])).all()
    assert met > 12


@pytest.mark.parametrize(("off", "meets"), [(-0.3, True), (-0.1, False), (0.0, False), (5.0, False)])
def test_faces_that_meet_are_meant_to(off, meets):
    """Two plates on one another: apart, touching, or one in the other by less or more than the tolerance."""
    one = plate([(0, 0), (100, 0), (100, 100), (0, 100)], 10, "A36", "")
    found = overlap(one, Placement.identity(), one, Placement([20.0, 10.0 + off, 0.0], np.eye(3)))
    assert (found is not None) == meets
    if found:
        assert found.volume == pytest.approx(80 * 100 * 0.3) and found.depth == pytest.approx(0.3)


def test_a_rod_through_a_hole_shares_nothing():
    """Only what a hole leaves is steel."""
    rod = rolled(section("PIPE1-1/2STD"), "A53B", "", EndCut(0.0), EndCut(200.0))[0]
    through = Placement([150.0, 100.0, 100.0], np.column_stack([[0, -1, 0], [1, 0, 0], [0, 0, 1]]))
    sheet = [(0, 0), (300, 0), (300, 200), (0, 200)]
    for d, clear in ((60.0, True), (40.0, False)):
        bored = plate(sheet, 10, "A36", "", [Hole(Face.WEB, 150, 100, d)])
        assert (overlap(bored, Placement.identity(), rod, through) is None) == clear


def crossing(units=Units.IMPERIAL, rise=4000.0) -> list:
    ends = ((0, 0, 0), (0, 6000, 4000)), ((0, 6000, 0), (0, 0, rise))
    braces = [
        Member(id=n, role=Role.BRACE, section="L4X4X3/8", start=a, end=b) for n, (a, b) in zip("ab", ends, strict=True)
    ]
    return [Project(units=units), *braces]


def test_braces_that_cross_unjoined_are_told_with_place_and_size():
    (said,) = Shop(crossing()).all_findings
    assert said.text.startswith("The brace L4X4X3/8 and the brace L4X4X3/8 fill the same space, ")
    assert '" from the left end' in said.text and "in³" in said.text and said.about == "a"
    (low,) = Shop(crossing(rise=1500.0)).all_findings
    assert '" from the right end of the brace' in low.text, "a place is told from the nearer end"
    (metric,) = Shop(crossing(Units.METRIC)).all_findings
    assert "cm³" in metric.text and " mm deep" in metric.text


def test_members_that_a_joint_ties_and_still_fill_the_same_space_are_said_at_the_joint():
    bolts = Connection(id="z", kind="crossing bolts", member="a", end=End.LEFT, support="b")
    said = [f for f in Shop([*crossing(), bolts]).all_findings if "fill the same space" in f.text]
    assert said and {f.about for f in said} == {"z"}


def test_an_end_that_has_no_joint_yet_is_not_told_and_one_that_runs_through_is():
    post, one = column(), beam(z=3000.0)
    loose = Shop([Project(), post, one])
    assert loose.assemblies and not loose.all_findings, "it is simply not joined yet"
    through = beam(z=3000.0, start=(-2000.0, 0.0))
    (said,) = Shop([Project(), post, through]).all_findings
    assert "the column W10X49 fill" in said.text or "column W10X49 and" in said.text


def test_what_two_joints_make_is_held_against_each_other():
    """A stiffener of one joint's where another has its tab: said at the joint, gone with it."""
    members = [girder("W18X35"), beam(0, "W12X26")]
    tab = Connection(id="c", kind="shear tab", member="beam", end=End.LEFT, support="support")
    skewed = beam(30, "W12X26", id="other", z=3000.0)
    near_by = Connection(id="d", kind="shear tab", member="other", end=End.LEFT, support="support")
    shop = Shop([Project(), *members, skewed, tab, near_by])
    said = [f.text for f in shop.all_findings]
    assert any("fill the same space" in text for text in said)
    assert not any("fill the same space" in f.text for f in joined("shear tab", members).all_findings)


def test_a_clash_of_a_joint_and_an_attachment_is_the_joints_and_goes_with_either():
    """A stiffener typed where a tab stands; and a cap too small for its post, whose weld runs off it until it is
    mended."""
    stiff = Attachment(id="a", member="support", kind="stiffeners", params={"by": "places", "places": "4000"})
    tab = Connection(id="z", kind="shear tab", member="beam", end=End.LEFT, support="support")
    job = Job([Project(units=Units.METRIC), girder("W18X35"), beam(6, "W12X26"), tab, stiff])
    shop = build(job)
    job.follow(shop.follow)
    (both,) = (f for f in shop.all_findings if "tab" in f.text and "stiffener" in f.text)
    assert both.about == "z" and both in shop.said("z")
    with job.change("gone") as change:
        change.drop("a")
    assert not [f for f in shop.all_findings if "fill the same" in f.text]
    post = column("W10X49", id="post", top=3000.0, at=(0.0, 2000.0))
    cap = Connection(id="cap", kind="cap plate", member="post", end=End.RIGHT, support="over", params={"along": 150.0})
    with job.change("a post") as change:
        for record in (post, girder("W16X40", z=3000.0, id="over", line=Line.BOTTOM), cap):
            change.put(record)
    assert any("runs" in f.text and "off the cap plate" in f.text for f in shop.said("cap"))
    with job.change("larger") as change:
        change.put(msgspec.structs.replace(cap, params={}))
    assert not [f for f in shop.all_findings if "off the" in f.text]
    job.undo()
    with job.change("gone") as change:
        change.drop("cap")
    assert not [f for f in shop.all_findings if f.about == "cap"]


def test_what_is_left_out_at_loose_ends_is_nothing_that_would_be_said():
    """Members that nothing joins yet, crossing at their ends: not worked out, and not told were it so."""
    shop = Shop([r for r in irregular(2, 1) if not isinstance(r, Connection)])
    steel = Steel(shop._bodies, {}, {}, {}, shop._at, shop._fixed, Units.IMPERIAL)
    pieces = list(shop.pieces())
    left = [(a, b) for a, b in combinations(pieces, 2) if steel.ends_loose(a, b)]
    shared = overlaps([((a.part, a.placement), (b.part, b.placement)) for a, b in left])
    found = [Clash(a, b, one) for (a, b), one in zip(left, shared, strict=True) if one is not None]
    assert len(found) > 20 and not any(steel.finding(clash) for clash in found)
    assert not shop.all_findings
