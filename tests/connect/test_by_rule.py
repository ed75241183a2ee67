"""Running the office's rules: every end is done, or left with a reason; and what is typed in the rules is what is
made."""

import math
from collections import Counter

import msgspec
import numpy as np
import pytest
from msgspec import convert
from msgspec.structs import replace
from tests.connect.sound import LEVEL, beam, column, girder
from tests.connect.test_kinds import brace, in_plan, on_its_line

from uncus.connect.by_rule import DONE, FAILED, LOOK, SKIPPED, rules_of, setbacks
from uncus.connect.situation import Holding
from uncus.frame.numbers.bracing import BRACING
from uncus.frame.numbers.kind import Placed, made
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Connection, Double, End, Fact, Line, Member, OfficeRule, Project, Role, ShopRules
from uncus.job.start import usual_rules
from uncus.lens.office import connect
from uncus.sample.frames import frame
from uncus.shop.shop import Shop, build
from uncus.units import Units


def everything(job):
    return [m.id for m in job.all(Member)]


def run(*records):
    job = Job([ShopRules(), *records])
    return job, connect(job, everything(job))


def put(job, records):
    with job.change("c") as change:
        for record in records:
            change.put(record)


def test_every_end_of_a_frame_is_connected_once():
    job = Job([r for r in frame(2, 2) if not isinstance(r, Connection)])
    report = connect(job, everything(job))
    ends = {(c.member, c.end) for c in report.made}
    beams = [m for m in job.all(Member) if m.role is Role.BEAM]
    assert {line.state for line in report.lines} == {DONE}
    assert all((m.id, end) in ends for m in beams for end in End)
    put(job, report.made)
    assert connect(job, everything(job)).lines == (), "connected ends are left alone"
    assert not Shop(job.records.values()).all_findings


POST = column("W10X49", id="post", roll=90)
ONE = {"line": Line.CENTRE}
UPPER = Member(id="up", role=Role.COLUMN, section="W12X53", start=(0, 0, 3000.0), end=(0, 0, 6000.0))
PAIR = [
    girder(**ONE),
    brace("L4X3X3/8", (0, 2500.0, 5000.0), at=(0, 0, LEVEL), double=Double()),
    brace("L4X3X3/8", (0, -2500.0, 5000.0), at=(0, 0, LEVEL), id="mate", double=Double()),
]


@pytest.mark.parametrize(
    ("members", "of", "end", "kind"),
    [
        ([POST], "post", End.LEFT, "base plate"),
        ([POST, beam(0)], "beam", End.LEFT, "shear tab"),
        ([column("HSS10X10X1/2", id="post"), beam(0, "HSS6X4X1/4", **ONE)], "beam", End.LEFT, "end tee"),
        ([column("W12X65", id="post", top=3000.0), UPPER], "up", End.LEFT, "column splice"),
        ([column("W10X49", id="post", top=LEVEL - 450), girder("W18X35")], "post", End.RIGHT, "cap plate"),
        (
            [
                POST,
                beam(0, "W16X31", id="floor"),
                on_its_line(brace("L4X4X3/8", (3500.0, 0, 5800.0), at=(0, 0, 2800.0))),
            ],
            "beam",
            End.LEFT,
            "corner gusset",
        ),
        ([POST, brace("L4X4X3/8", (3500.0, 0, 3000.0), at=(0, 0, 0.0))], "beam", End.LEFT, "base gusset"),
        ([girder(**ONE), PAIR[1]], "beam", End.LEFT, "side gusset"),
        (PAIR, "beam", End.LEFT, "chevron gusset"),
        ([beam(180, "W16X31", id="other"), beam(0, "W16X31")], "beam", End.LEFT, "beam splice"),
        ([beam(180, "W14X22", -10, id="other"), beam(0, "W14X22", -10)], "beam", End.LEFT, "apex"),
        (
            [brace("L4X4X3/8", (0, 3000.0, 5800.0)), brace("L4X4X3/8", (0, -3000.0, -200.0), True, id="on")],
            "on",
            End.RIGHT,
            "brace splice",
        ),
    ],
)
def test_each_situation_has_its_usual_kind(members, of, end, kind):
    job, report = run(*members)
    made = {(c.member, c.end): c for c in report.made}
    if (of, end) not in made:  # the other member's end came first: one joint serves both
        (of, end) = next((c.member, c.end) for c in report.made if of in c.members)
    assert made[(of, end)].kind == kind, [line for line in report.lines if line.member == of]
    put(job, report.made)
    assert not [f.text for c in build(job).connections.values() for f in c.findings if f.severity == "wrong"]


def test_a_pair_of_braces_gets_one_gusset_and_a_splice_is_made_once():
    _, report = run(*PAIR)
    assert [c.kind for c in report.made] == ["chevron gusset"] and report.made[0].others == ("mate",)
    _, report = run(beam(180, "W16X31", id="other"), beam(0, "W16X31"))
    assert [c.kind for c in report.made] == ["beam splice"]


@pytest.mark.parametrize(
    "values", [{}, {"pair": "back to back", "section": "L4X3X3/8"}, {"section": "HSS4X4X1/4"}, {"section": "C8X11.5"}]
)
@pytest.mark.parametrize("mirrored", [False, True])
def test_a_bay_of_bracing_by_numbers_is_connected_whole(values, mirrored):
    """X between two columns and two beams, its corners at either hand: nothing fills anything, every end is held."""
    high, wide = 4000.0, 6000.0
    posts = [column("W10X49", id=f"post{x:.0f}", roll=90, at=(x, 0.0), top=high + 500) for x in (0.0, wide)]
    floor = Member(
        id="floor", role=Role.BEAM, section="W16X31", start=(0, 0, high), end=(wide, 0, high), line=Line.CENTRE
    )
    corners = [(0.0, 0.0, 0.0), (wide, 0.0, high)] if not mirrored else [(wide, 0.0, 0.0), (0.0, 0.0, high)]
    made = BRACING.build(convert(values, BRACING.params), Placed(tuple(np.array(c) for c in corners), Units.IMPERIAL))
    assert [m.role for m in made] == [Role.BRACE] * 3
    job, report = run(*posts, floor, *(replace(m, id=f"brace{n}") for n, m in enumerate(made)))
    put(job, report.made)
    kinds = Counter(c.kind for c in job.all(Connection) if c.member.startswith("brace"))
    assert not [line for line in report.lines if line.state in (SKIPPED, FAILED)], report.lines
    assert kinds["crossing gusset"] == (0 if "HSS" in values.get("section", "") else 1)
    said = [f.text for f in Shop(job.records.values()).all_findings if "fill the same space" in f.text]
    assert not said


def by_numbers(kind, points, units, others=(), **values):
    """A frame by numbers joined by rule, all of it: its report, its steel."""
    values = {**(BY_NUMBERS[kind].metric if units is Units.METRIC else {}), **values}
    members = made(BY_NUMBERS[kind], convert(values, BY_NUMBERS[kind].params), points, units)
    job = Job([Project(units=units), usual_rules(units), *others, *members])
    report = connect(job, everything(job))
    put(job, report.records)
    return report, Shop(job.records.values())


WAYS = [(1.0, 0.0), (0.0, 1.0), (0.6, -0.8)]


@pytest.mark.sampled(6)
@pytest.mark.parametrize("units", [Units.IMPERIAL, Units.METRIC])
@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("ends", ["free", "free and closed", "posts", "no posts"])
@pytest.mark.parametrize("web", ["Pratt", "Howe", "Warren"])
@pytest.mark.parametrize("form", ["parallel chords", "pitched", "bow", "scissors"])
def test_a_truss_is_one_piece_welded_in_the_shop_and_fits_between_its_columns(form, web, ends, way, units):
    """Any form, web and direction, free or between columns: every end is joined, nothing fills anything, no weld runs
    off what it is on."""
    far, values, columns = (12_000 * way[0], 12_000 * way[1]), {"form": form, "web": web}, []
    if ends == "free and closed":
        if form != "pitched":
            return
        values |= {"depth": 0.0, "rise": 2400.0}
    elif ends != "free":
        values |= {"ends": ends, "inset": 450.0}
        name, roll = ("W10X49" if units is Units.IMPERIAL else "HEB240"), math.degrees(math.atan2(way[0], -way[1]))
        columns = [
            Member(id=f"column{x:.0f}{y:.0f}", role=Role.COLUMN, section=name, start=(x, y, 0.0), end=(x, y, 7500.0),
                roll=roll)
            for x, y in ((0.0, 0.0), far)
        ]  # fmt: skip
    report, shop = by_numbers("flat truss", [(0.0, 0.0, 6000.0), (*far, 6000.0)], units, columns, **values)
    left = [line for line in report.lines if line.state in (SKIPPED, FAILED)]
    loose = 2 if ends == "free and closed" else 0  # the lower chord runs on past the upper one's heels
    assert [line.why for line in left] == ["nothing stands at this end that could hold it"] * loose
    assert not [f.text for f in shop.all_findings if f.severity == "wrong"]
    assert len(shop.shipped) == 1 + len(columns)
    kinds = {c.kind for c in report.made} - {"welded end", "mitred ends"}
    # a Howe's diagonals leave a closed end too flat to be cut to the chord
    assert kinds <= ({"end tee", "base plate"} if columns else {"corner gusset"} if loose and web == "Howe" else set())


def test_two_braces_between_floor_beams_are_no_truss_and_their_beams_stay_apart():
    """A sway frame without columns at its corners: gussets on site, and every beam its own piece."""
    beams = [
        Member(id=f"floor{z}", role=Role.BEAM, section="W16X31", start=(0, 0, z), end=(9000, 0, z)) for z in (0, 3600)
    ]
    lines = (((1500, 0, 0), (4500, 0, 3600)), ((4500, 0, 3600), (7500, 0, 0)))
    braces = [Member(id=f"b{n}", role=Role.BRACE, section="HSS4X4X1/4", start=a, end=b) for n, (a, b)
        in enumerate(lines)]  # fmt: skip
    job, report = run(*beams, *braces)
    assert {c.kind for c in report.made} & {"welded end", "mitred ends"} == set()
    assert {c.kind for c in report.made if c.member.startswith("b")} == {"side gusset", "chevron gusset"}
    put(job, report.made)
    assert len(Shop(job.records.values()).shipped) == 4


@pytest.mark.sampled(3)
@pytest.mark.parametrize("units", [Units.IMPERIAL, Units.METRIC])
@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize(("shape", "kinds"), [
    ("pitched", {"base plate": 2, "knee": 2, "apex": 1}), ("mono", {"base plate": 2, "knee": 2})])  # fmt: skip
def test_a_portal_has_bases_knees_and_an_apex_by_rule_whichever_way_it_spans(shape, kinds, way, units):
    far = (12_000 * way[0], 12_000 * way[1], 0.0)
    report, shop = by_numbers("portal frame", [(0.0, 0.0, 0.0), far], units, shape=shape)
    assert Counter(c.kind for c in report.made) == kinds and {line.state for line in report.lines} == {DONE}
    assert not [f.text for f in shop.all_findings if f.severity == "wrong"]


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("name", ["L4X4X3/8", "C8X11.5"])
def test_braces_set_off_to_either_side_pass_and_share_the_plane_of_their_gussets(name, mirrored):
    posts = [column("W14X90", id=f"post{x:.0f}", roll=90, at=(x, 0.0), top=4500.0) for x in (0.0, 6000.0)]
    floor = Member(id="floor", role=Role.BEAM, section="W16X31", start=(0, 0, 4000.0), end=(6000.0, 0, 4000.0))
    corners = [(6000.0 * mirrored, 0.0, 0.0), (6000.0 * (not mirrored), 0.0, 4000.0)]
    values = convert({"section": name, "crossing": "set off to either side"}, BRACING.params)
    made = BRACING.build(values, Placed(tuple(np.array(c) for c in corners), Units.IMPERIAL))
    job, report = run(*posts, floor, *(replace(m, id=f"brace{n}") for n, m in enumerate(made)))
    put(job, report.made)
    shop = Shop(job.records.values())
    gussets = [p for p in shop.pieces() if p.words == "gusset plate"]
    assert len(made) == 2 and len(gussets) == 4
    assert not [f.text for f in shop.all_findings if "fill the same space" in f.text]
    assert np.ptp([p.placement.origin[1] for p in gussets]) < 0.1, "all in one plane"
    with pytest.raises(JobError, match="choose two lengths"):
        BRACING.build(replace(values, section="HSS4X4X1/4"), Placed(tuple(map(np.array, corners)), Units.IMPERIAL))


def test_what_is_left_says_why():
    lonely = Member(id="b", role=Role.BEAM, section="W12X26", start=(0, 0, 3000), end=(5000, 0, 3000), line=Line.TOP)
    post = Member(id="p", role=Role.COLUMN, section="W10X49", start=(0, 0, 0), end=(0, 0, 4000))
    on_top = Member(id="q", role=Role.POST, section="W8X31", start=(2500, 0, 3000), end=(2500, 0, 4500))
    strange = msgspec.structs.replace(lonely, id="s", section="W99X1")
    shallow = Member(id="f", role=Role.BEAM, section="W4X13", start=(0, 0, 2000), end=(4000, 0, 2000), line=Line.TOP)
    _, report = run(lonely, post, on_top, strange, shallow)
    why = {(x.member, x.end): (x.state, x.why) for x in report.lines}
    assert "nothing stands" in why[("b", End.RIGHT)][1]
    assert "a beam below" in why[("q", End.LEFT)][1]
    assert "not in the catalogue" in why[("s", End.LEFT)][1]
    assert why[("f", End.LEFT)][0] == FAILED and "do not fit" in why[("f", End.LEFT)][1]
    assert "failed" in report.words and "skipped" in report.words
    assert all(line.id in {c.id for c in report.made} for line in report.lines if line.state in (DONE, LOOK))


FAR = column("W10X49", id="far", roll=90, at=(5000.0, 0.0))


def test_the_offices_own_rules_come_in_order_and_pick_by_lens():
    deep = OfficeRule(
        order=1,
        name="Deep beams",
        kind="double angle",
        members=Fact("section", "begins", "W16"),
        params={"to_beam": "welded"},
    )
    left = OfficeRule(order=2, name="Left ends", kind="shear end plate", holding=Holding.COLUMN, ends="left")
    rest = OfficeRule(order=3, name="All others", kind="shear tab")
    job, report = run(POST, FAR, beam(0, "W16X31"), beam(0, "W12X26", z=5000.0, id="upper"), rest, left, deep)
    assert [r.name for r in rules_of(job)] == ["Deep beams", "Left ends", "All others"]
    kinds = {(c.member, c.end): (c.kind, c.params) for c in report.made}
    assert kinds[("beam", End.LEFT)] == ("double angle", {"to_beam": "welded"})
    assert kinds[("upper", End.LEFT)][0] == "shear end plate" and kinds[("upper", End.RIGHT)][0] == "shear tab"


def test_a_rule_that_cannot_be_made_gives_way_to_the_next():
    first = OfficeRule(order=1, name="Knees", kind="knee")
    second = OfficeRule(order=2, name="Plates", kind="shear end plate")
    _, report = run(column("W14X145", id="post", roll=90), beam(20), first, second)
    (made,) = [c for c in report.made if c.member == "beam"]
    assert made.kind == "shear end plate"


def test_running_again_leaves_locked_joints():
    job, report = run(POST, beam(0))
    put(job, report.made)
    mine = next(c for c in report.made if c.member == "beam")
    put(job, [msgspec.structs.replace(mine, locked=True, params={"rows": 2})])
    again = connect(job, ["beam"], redo=True)
    assert not again.made and again.of(SKIPPED)[0].why == "its joint is locked"
    put(job, [msgspec.structs.replace(mine, params={"rows": 2})])
    assert [c.params for c in connect(job, ["beam"], redo=True).made] == [{}]


def test_setbacks_leave_a_gap_and_give_way_to_joints():
    """Before any joint an advance bill has real lengths; joints take their place, and all can go as one."""
    job = Job([ShopRules(), POST, FAR, beam(0, "W16X31")])
    report = setbacks(job, everything(job), 20.0)
    assert {(c.member, c.kind) for c in report.made} == {("beam", "setback")} and len(report.made) == 2
    put(job, report.made)
    shop = build(job)
    depth = shop.body("post").section.d
    assert shop.assemblies["beam"].main.part.length == pytest.approx(5000.0 - depth - 2 * 20.0)
    joints = connect(job, everything(job), shop)
    put(job, joints.made)
    assert not [c for c in job.all(Connection) if c.kind == "setback"], "the joint has the setback's place"
    assert setbacks(job, everything(job), 20.0).made == ()


@pytest.mark.parametrize("post", [True, False])
@pytest.mark.parametrize("turn", [60, 90, 118])
def test_level_braces_stand_between_the_beams_at_their_ends(turn, post):
    """The beams at either side of it, not those behind it, and the column in their corner, whose joints it clears."""
    members, _ = in_plan(turn, "L4X4X3/8", post=post)
    behind = beam(180, "W16X31", id="behind", start=(-200.0, 0.0))
    job, report = run(*[m for m in members if isinstance(m, Member)], *([behind] if post else []))
    (made,) = [c for c in report.made if c.member == "beam"]
    assert made.kind == "plan gusset" and {made.support, made.others[0]} == {"a", "b"}
    assert made.others[1:] == (("post",) if post else ())
    put(job, report.made)
    assert not [f.text for f in build(job).said(made.id) if f.severity == "wrong"]


def skewed_bay(units, corners, **values):
    """Beams between four columns, none square to another, and bracing between their ends."""
    inch = units is Units.IMPERIAL
    shapes = ("W10X49", "W16X31") if inch else ("HEB240", "IPE400")
    posts = [Member(id=f"post {n}", role=Role.COLUMN, section=shapes[0], start=(x, y, 0), end=(x, y, LEVEL))
        for n, (x, y) in enumerate(corners)]  # fmt: skip
    sides = [sorted(pair) for pair in zip(corners, (*corners[1:], corners[0]), strict=True)]
    beams = [Member(id=f"beam {n}", role=Role.BEAM, section=shapes[1], start=(*a, LEVEL), end=(*b, LEVEL),
        line=Line.TOP) for n, (a, b) in enumerate(sides)]  # fmt: skip
    kind = BY_NUMBERS["bracing between four corners"]
    braces = made(kind, convert(values, kind.params), [(*p, LEVEL) for p in corners], units)
    return [Project(units=units), usual_rules(units), *posts, *beams, *braces], [b.id for b in braces]


@pytest.mark.parametrize("units", list(Units))
@pytest.mark.parametrize("hand", [1, -1], ids=["one hand", "other hand"])
@pytest.mark.parametrize(
    ("values", "kinds"),
    [
        ({}, {"plan gusset": 4, "crossing gusset": 1}),
        ({"pair": "back to back"}, {"plan gusset": 4, "crossing gusset": 1}),
        ({"section": "HSS4X4X1/4", "shape": "first to third corner"}, {"plan gusset": 2}),
        ({"section": "rod"}, {"plan gusset": 4}),
        ({"shape": "K from the first two corners"}, {"plan gusset": 2, "chevron gusset": 1}),
    ],
)  # fmt: skip
def test_plan_bracing_at_skewed_corners_is_joined_with_nothing_found(units, hand, values, kinds):
    corners = [(0.0, 0.0), (7000.0, 0.0), (8500.0, hand * 6000.0), (600.0, hand * 5200.0)]
    kind = BY_NUMBERS["bracing between four corners"]
    values = {**(kind.metric if units is Units.METRIC else {}), "below": 203.2, **values}
    if values.get("section") == "rod":
        values["section"] = "ROD1" if units is Units.IMPERIAL else "RD24"
    records, braces = skewed_bay(units, corners, **values)
    job, report = run(*records)
    put(job, report.records)
    joints = [c for c in job.all(Connection) if c.member in braces]
    assert Counter(c.kind for c in joints) == kinds
    assert [f.text for f in build(job).all_findings if "tab is extended" not in f.text] == []
