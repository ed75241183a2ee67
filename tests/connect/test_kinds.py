"""Every kind over sections, angles, slopes and both hands: made whole, apart, bolted through, welded where it
touches."""

import math
from itertools import product

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace
from tests.connect.sound import LEVEL, beam, body_of, column, girder, joined, sound, wrong

from uncus.catalog.sections import Form
from uncus.catalog.sections import section as find
from uncus.connect.gusset import TUBES
from uncus.connect.kinds import KINDS
from uncus.connect.lapping import lap_of
from uncus.job.forms import fields
from uncus.job.records import Connection, Double, End, Layout, Leg, Line, Member, Role, Turnbuckle, derived_id
from uncus.shop.shop import Shop

ENDS = pytest.mark.parametrize("right", [False, True], ids=["left end", "right end"])
FLANGE, WEB, BOX = column("W14X90", roll=90), column("W14X90"), column("HSS14X14X1/2")
BIG = column("W14X145", roll=90)


def table(*cases):
    """Cases as (support, turns, slopes, sections, values), multiplied out."""
    return pytest.mark.parametrize(
        ("kind", "support", "turn", "slope", "section", "params"),
        [
            pytest.param(kind, *one, id="-".join([kind, *(getattr(v, "section", str(v)) for v in one)]))
            for kind, supports, turns, slopes, sections, params in cases
            for one in product(supports, turns, slopes, sections, params)
        ],
    )


@pytest.mark.sampled(6)
@ENDS
@table(
    ("double angle", (FLANGE, WEB, girder("W21X44"), BOX), (0, 180), (0, 10, -10), ("W12X26", "C12X20.7"),
     ({}, {"to_beam": "welded"}, {"to_support": "welded", "leg": "long"})),
    ("double angle", (girder("W21X44"), BIG), (12, -35), (0, 10, -10), ("W12X26", "C12X20.7"),
     ({}, {"to_beam": "welded"}, {"to_support": "welded", "leg": "long"})),
    ("double angle", (girder("W24X84"),), (20, -50), (0, 20), ("W21X44",), ({"bolt": "1"},)),
    ("shear end plate", (FLANGE, girder("W21X44"), BOX), (0, 30, -30), (0, 10, -10), ("W12X26",), ({}, {"shims": 6.0})),
    ("shear end plate", (WEB,), (0, 180), (0, -10), ("W8X18",), ({},)),
    ("seat", (FLANGE, WEB, BOX), (0, 180), (0,), ("W12X26", "C12X20.7", "W8X24"),
        ({}, {"to_support": "bolted"}, {"top": "none"})),
    ("seat", (BIG,), (0, 180, 15, -35), (0, 8, -20), ("W12X26", "C12X20.7"),
        ({}, {"to_support": "bolted"}, {"top": "none"})),
    ("seat", (FLANGE,), (0, 180), (-29, 29), ("W16X31",), ({"to_support": "bolted", "angle": "L4X4X3/4"},)),
    ("moment end plate", (BIG,), (12, -25), (0, 15, -20), ("W12X26", "W18X35"),
        ({}, {"layout": "flush", "flange_weld": "fillet"})),
    ("flange plates", (BIG,), (0, 12, -25), (8, -10), ("W12X26", "W18X35"), ({}, {"doubler": "near side"})),
    ("flange plates", (FLANGE,), (0, 180), (20, -25), ("W18X35",), ({},)),
    ("moment end plate", (BIG,), (0, 180), (35, -35), ("W18X35",), ({}, {"layout": "flush", "continuity": "none"})),
    ("welded moment", (BIG,), (12, -25), (0, 15, -20), ("W12X26", "W18X35"), ({}, {"backing": "none"})),
    ("flange plates", (WEB,), (0, 180), (0,), ("W12X26", "W18X35"), ({}, {"continuity": "none", "rows": 5})),
    ("welded moment", (WEB,), (0, 180), (0,), ("W12X26", "W18X35"), ({}, {"backing": "none"})),
    ("moment end plate", (FLANGE,), (0, 180), (0, 10, -10), ("W12X26", "W18X35"),
     ({}, {"layout": "flush", "flange_weld": "fillet"}, {"layout": "past the top", "doubler": "both sides",
         "inner": 2})),
    ("flange plates", (FLANGE,), (0, 180), (0,), ("W12X26", "W18X35"),
        ({}, {"doubler": "near side"}, {"continuity": "none"})),
    ("welded moment", (FLANGE,), (0, 180), (0,), ("W12X26", "W18X35"), ({}, {"backing": "none"})),
    ("knee", (column("W14X53", roll=90, top=3000.0),), (0, 180), (14, 0, -8), ("W14X22", "W18X35"),
     ({}, {"deep": 0.0, "cap": 0.0}, {"deep": 300.0, "long": 1500.0})),
    ("end tee", (FLANGE, WEB, girder("W18X35"), BOX), (0, 20, -20), (0, 25, -25), ("HSS6X4X1/4", "PIPE4STD"),
        ({}, {"columns": 2})),
    ("through plate", (BOX, column("PIPE8STD"), column("HSS10X6X1/4", roll=90)), (0, 180), (0, 8), ("W12X26",),
        ({}, {"side": "far"})),
    ("through plate", (BOX, column("HSS8X8X1/4"), column("HSS10X6X1/4", roll=90)), (10, -18), (0, 8), ("W12X26",),
        ({}, {"side": "far"})),
)  # fmt: skip
def test_beams_to_what_holds_them(kind, support, turn, slope, section, params, right):
    level = LEVEL - 200.0 if kind == "end tee" else LEVEL
    more = {"line": Line.CENTRE} if kind == "end tee" else {}
    if section == "C12X20.7":  # its web, not its back, on the work line
        s = find(section)
        more["aside"] = (s.b - s.tw) / 2
    skewed = support.role is Role.COLUMN and turn % 180 and kind not in ("end tee", "through plate")
    at = find(support.section).d / 2 if skewed else 0.0  # meets the middle of its face
    sound(joined(kind, [support, beam(turn, section, slope, level, right, start=(at, 0.0), **more)], right, params))


@ENDS
@pytest.mark.parametrize("mate", ["W12X26", "W12X19", "W10X22"])
@pytest.mark.parametrize("side", ["near", "far"])
def test_a_through_plate_carries_the_beam_at_either_side(mate, side, right):
    members = [BOX, beam(0, right=right), beam(180, mate, id="mate", right=not right)]
    shop = joined("through plate", members, right, {"side": side, "rows": 2}, others=("mate",))
    sound(shop)
    plate = next(p for p in shop.pieces() if p.id == "c/plate")
    assert len(plate.part.holes) == 4 and len(shop.assemblies["support"].main.part.notches) == 2


# -- ends in line -------------------------------------------------------------------------------------------

LINES = [
    ("column splice", "W12X65", lower, {}, params)
    for lower in ("W12X65", "W12X87", "W14X90")
    for params in ({}, {"web_lines": 0}, {"gap": 3.0})
] + [("beam splice", "W16X31", other, {}, p) for other in ("W16X31", "W16X40") for p in ({}, {"web_lines": 2})]
LINES += [
    ("brace splice", section, section, more, {})
    for section, more in (
        ("HSS6X6X1/4", {}),
        ("PIPE6STD", {}),
        ("L4X4X3/8", {}),
        ("L4X3X3/8", {"double": Double()}),
        ("L4X3X3/8", {"double": Double(leg=Leg.SHORT)}),
        ("L4X4X3/8", {"double": Double(layout=Layout.STAR)}),
        ("WT6X20", {}),
        ("C8X11.5", {}),
        ("W8X31", {}),
    )
]


@ENDS
@pytest.mark.parametrize(("kind", "section", "other", "more", "params"), LINES)
def test_splices(kind, section, other, more, params, right):
    if kind == "column splice":
        low, top = (0.0, 0.0, 4000.0), (0.0, 0.0, 8000.0)
        ends = {"start": top, "end": low} if right else {"start": low, "end": top}
        members = [column(other, top=4000.0), Member(id="beam", role=Role.COLUMN, section=section, **ends)]
    else:
        more = {"line": Line.CENTRE if kind == "brace splice" else Line.TOP, **more}
        members = [beam(180, other, id="support", right=not right, **more), beam(0, section, right=right, **more)]
    shop = joined(kind, members, right, params)
    sound(shop)
    fills = [p for p in shop.pieces() if "fill" in p.id]
    assert bool(fills) == (section != other)


@ENDS
@pytest.mark.parametrize("slopes", [(14, 14), (10, 20), (0, 0)])
@pytest.mark.parametrize("params", [{}, {"deep": 200.0}, {"layout": "flush"}, {"layout": "past both", "rows": 2}])
def test_an_apex(slopes, params, right):
    members = [
        beam(180, "W14X22", -slopes[1], id="support", right=not right),
        beam(0, "W14X22", -slopes[0], right=right),
    ]
    sound(joined("apex", members, right, params))


@ENDS
@pytest.mark.parametrize("turn", [0, 90])
@pytest.mark.parametrize("section", ["W10X49", "HSS8X8X1/4", "PIPE6STD"])
@pytest.mark.parametrize("params", [{}, {"bolts": 2, "stiffeners": "two pairs"}, {"bolts": 0}])
def test_a_cap_plate(section, turn, params, right):
    post = column(section, id="beam", top=4000.0)
    if not right:
        post = msgspec.structs.replace(post, start=post.end, end=post.start)
    over = msgspec.structs.replace(girder("W16X40", z=4500.0), roll=0.0)
    if turn:
        over = msgspec.structs.replace(over, start=(-4000.0, 0.0, 4500.0), end=(4000.0, 0.0, 4500.0))
    shop = joined("cap plate", [over, post], right, params)
    sound(shop)
    along, post = shop.body("support").frame.x, shop.body("beam")
    stiff = [p for p in shop.connections["c"].parts if p.key.startswith("stiffener")]
    at = {round(float(along @ p.placement.origin), 1) for p in stiff}
    s = post.section  # over the flanges, or the toes of those that run along the beam, or the walls
    flanges = s.d - s.tf if s.form is Form.I and abs(float(along @ post.frame.z)) > 0.7 else s.b - s.tw
    expected = {round(v, 1) for v in (-flanges / 2, flanges / 2)} if "stiffeners" in params else set()
    assert len(stiff) == 2 * len(at) and sorted(at) == pytest.approx(sorted(expected), abs=0.2)
    sound(joined("cap plate", [post.record], right, params, support=None))


BASES = ({}, {"rods": 6}, {"rods": 8}, {"levelling": "plate"}, {"levelling": "shims", "grout": 40.0},
    {"lug": 100.0, "grout": 30.0})  # fmt: skip


@ENDS
@pytest.mark.parametrize("section", ["W10X49", "HSS8X8X3/8", "PIPE8STD", "C10X20"])
@pytest.mark.parametrize("params", BASES)
def test_base_plates(section, params, right):
    post = column(section, id="beam", roll=30.0)
    if right:
        post = msgspec.structs.replace(post, start=post.end, end=post.start)
    shop = joined("base plate", [post], right, params, support=None)
    sound(shop)
    (rods,) = [g for g in shop.connections["c"].fasteners if g.key == "rods"]
    assert len(rods.points) == params.get("rods", 4)


# -- gussets ------------------------------------------------------------------------------------------------

BRACES = [
    ("L4X4X3/8", {}),
    ("L4X4X3/8", {"line": Line.GAGE}),
    ("L4X4X3/8", {"line": Line.CENTROID}),
    ("L4X3X3/8", {"double": Double(), "line": Line.GAGE}),
    ("L4X4X3/8", {"double": Double(layout=Layout.STAR)}),
    ("WT5X15", {}),
    ("C8X11.5", {}),
    ("HSS6X6X1/4", {}),
    ("HSS8X4X1/4", {"roll": 90.0}),
    ("PIPE5STD", {}),
    ("W8X31", {}),
    ("HEA200", {}),
    ("ROD1", {"turnbuckle": Turnbuckle()}),
    ("RD24", {}),
]


@ENDS
@pytest.mark.parametrize("post", ["W12X65", "W14X90"])
@pytest.mark.parametrize(("section", "more"), [("L4X4X3/8", {}), ("C8X11.5", {}), ("HSS4X4X1/4", {"aside": 40.0}),
    ("HSS4X4X1/4", {"aside": -40.0})])  # fmt: skip
def test_a_gusset_off_the_middle_of_a_column_is_held_by_the_clip_angles_that_clear_its_web(section, more, post, right):
    floor, col = beam(0, "W16X31", id="floor"), column(post, roll=90, id="col")
    one = brace(section, (3500.0, 0.0, 5800.0), right, **{"line": Line.CENTRE, **more})
    tab = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="col")
    shop = joined("corner gusset", [col, floor, tab, one], right, support="col", others=("floor",))
    sound(shop)
    angles = [p for p in shop.connections["c"].parts if p.key.startswith("column")]
    told = [f.text for f in shop.said("c") if "one clip angle" in f.text]
    assert len(angles) == len(told) == 1


def test_clip_angles_and_claws_have_their_bolts_where_the_flanges_want_them():
    """A narrow column's flange ends before the usual gage; an I brace is bolted at its own."""
    for section, more, angles in (("C8X11.5", {}, 2), ("HSS4X4X1/4", {"aside": 40.0}, 1)):
        floor, col = beam(0, "W16X31", id="floor"), column("W10X49", roll=90, id="col")
        tab = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="col")
        one = brace(section, (3500.0, 0.0, 5800.0), line=Line.CENTRE, **more)
        shop = joined("corner gusset", [col, floor, tab, one], support="col", others=("floor",))
        sound(shop)
        assert sum(p.key.startswith("column") for p in shop.connections["c"].parts) == angles
    one = brace("W8X31", (0.0, 2500.0, 5000.0), at=(0.0, 0.0, LEVEL), line=Line.CENTRE)
    shop = joined("side gusset", [girder(line=Line.CENTRE), one])
    flange = next(g for g in shop.connections["c"].fasteners if g.key == "claw top far bolts")
    aside = [abs(float(shop.body("beam").frame.to_local(p)[1])) for p in flange.points]
    assert aside == pytest.approx([find("W8X31").gage / 2] * 3, abs=0.01)


I_BRACES, RODS = ("W8X31", "HEA200"), ("ROD1", "RD24")


def brace(section, to, right=False, at=(0.0, 0.0, 2800.0), id="beam", **more) -> Member:
    a, b = (to, at) if right else (at, to)
    return Member(id=id, role=Role.BRACE, section=section, start=a, end=b, **more)


def on_its_line(one: Member, t=9.525) -> Member:
    """A single angle, channel or tee moved aside so that its gusset's middle lies on its work line."""
    body = body_of(Shop([one]), one.id)
    if body.section.form in (*TUBES, Form.I, Form.ROUND) or one.double is not None:
        return one
    off = float(body.frame.to_local(one.start)[1]) - lap_of(body).middle(t)
    return msgspec.structs.replace(one, aside=off)


def at_each_gusset(section, more, right, params):
    """The joint of one brace at a beam and column, on a beam, with another on a beam, and at a base."""
    for post in (column(roll=90, id="col"), column("HSS8X8X3/8", id="col")):
        floor = beam(0, "W16X31", id="floor")
        tab = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="col")
        for rise in (3000.0, -2200.0):
            one = on_its_line(brace(section, (3500.0, 0.0, 2800.0 + rise), right, **more))
            yield "corner gusset", [post, floor, tab, one], {"support": "col", "others": ("floor",)}
    over = girder(line=Line.CENTRE)
    one = brace(section, (0.0, 2500.0, 5000.0), right, (0.0, 0.0, LEVEL), **more)
    yield "side gusset", [over, one], {}
    mate = brace(section, (0.0, -3000.0, 5000.0), not right, (0.0, 0.0, LEVEL), "mate", **more)
    yield "chevron gusset", [over, one, mate], {"others": ("mate",)}
    foot = Connection(
        id=derived_id("connection", "col", End.LEFT), kind="base plate", member="col", end=End.LEFT,
        params={"along": 1300.0, "across": 1300.0},
    )  # fmt: skip
    up = brace(section, (3000.0, 0.0, 3000.0), right, (0.0, 0.0, 0.0), **more)
    yield "base gusset", [column(roll=90, id="col"), up, foot], {"support": "col"}


@ENDS
@pytest.mark.parametrize("section", ["W16X31", "W8X18", "C12X20.7", "IPE300", "UPN200"])
@pytest.mark.parametrize(
    "params",
    [
        {},
        {"anchors": "none", "across": 260.0},
        {"anchors": "beside the flange", "along": 300.0, "back": 50.0, "past": 0.0},
    ],
)
@pytest.mark.parametrize("turn", [0.0, 130.0])
def test_beams_bear_on_walls(section, params, turn, right):
    shop = joined("wall bearing", [beam(turn, section, right=right)], right=right, params=params, support=None)
    if wrong(shop):
        assert all("clear of its fillet" in text or "edge" in text for text in wrong(shop)), wrong(shop)
        return
    sound(shop)
    made, frame = shop.connections["c"], body_of(shop, "beam").frame
    plate = next(p for p in shop.pieces() if p.words == "bearing plate")
    top = float(plate.placement.origin[2]) + plate.part.thickness / 2
    assert top == pytest.approx(LEVEL - find(section).d, abs=0.01)
    reach = [abs(float(frame.to_local(at)[0]) - (5000.0 if right else 0.0)) for w in made.welds for at in w.path]
    assert min(reach) == pytest.approx(params.get("back", 0.0), abs=0.1) and max(reach) > params.get("back", 0.0) + 150


def test_a_beam_that_is_not_level_has_no_bearing_on_a_wall():
    for member in (beam(0, slope=8), beam(0, "HSS6X6X1/4"), beam(0, roll=90.0)):
        shop = joined("wall bearing", [member], support=None)
        assert len(wrong(shop)) == 1 and not shop.connections["c"].parts


def overlapping(first, second, up, section, right=False, through="HSS4X4X1/4"):
    """Two webs of a truss that meet `up` mm over the middle of their chord, at angles from either side."""
    z, found = LEVEL + up, []
    for id, name, turn, ends in (("beam", section, first, right), ("web", through, 180.0 - second, False)):
        t = math.radians(turn)
        out = (0.0, 2000.0 * math.cos(t), z + 2000.0 * math.sin(t))
        found.append(brace(name, out, ends, (0.0, 0.0, z), id, line=Line.CENTRE))
    own = Connection(id="own", kind="welded end", member="web", end=End.LEFT, support="support")
    return [girder("HSS8X8X3/8", line=Line.CENTRE), *found, own]


@ENDS
@pytest.mark.parametrize(
    ("first", "second", "up"), [(45, 45, 60), (60, 60, 40), (60, 60, 80), (35, 60, 70), (55, 48, 60)]
)
@pytest.mark.parametrize("section", ["HSS4X4X1/4", "HSS3X3X1/4", "HSS4X3X1/4"])
def test_a_web_that_overlaps_is_notched_to_the_one_that_is_there(section, first, second, up, right):
    members = overlapping(first, second, up, section, right)
    apart = joined("welded end", members, right)
    assert any("fill the same space" in f.text for f in apart.all_findings)
    shop = joined("welded end", members, right, others=("web",))
    if wrong(shop):
        assert "does not reach" in wrong(shop)[0] and up == 80, wrong(shop)
        return
    sound(shop, root=1.6)
    to = {w.joins[1] for w in shop.connections["c"].welds}
    assert to == {"support", "web"} and len(shop.assemblies["beam"].main.part.notches) >= 2
    assert len(shop.shipped) == 1, "chord and webs are one piece"


def test_webs_that_are_apart_are_welded_as_ever_and_those_that_cannot_be_notched_are_told():
    shop = joined("welded end", overlapping(45, 45, 0, "HSS3X3X1/4"), others=("web",))
    sound(shop)
    assert [w.joins[1] for w in shop.connections["c"].welds] == ["support"]
    assert not shop.assemblies["beam"].main.part.notches
    for section, up, first, says in (("PIPE4STD", 60, 60, "only square tubes"), ("HSS4X4X1/4", 60, 90, "cut square")):
        shop = joined("welded end", overlapping(first, 50, up, section), others=("web",))
        assert any(says in text for text in wrong(shop)), wrong(shop)


@pytest.mark.sampled(4)
@ENDS
@pytest.mark.parametrize(
    "held", [girder("PIPE8STD", line=Line.CENTRE), column("HSS6.625X0.250", roll=20.0)], ids=["chord", "post"]
)
@pytest.mark.parametrize("section", ["PIPE2STD", "HSS4.000X0.250", "PIPE6STD"])
@pytest.mark.parametrize(("turn", "slope"), [(0, 0), (0, 55), (30, -35), (60, 0), (60, 30)])
@pytest.mark.parametrize("params", [{}, {"where": "on site", "gap": 2.0}])
def test_a_round_tube_is_saddled_to_another(held, section, turn, slope, params, right):
    one = beam(turn, section, slope, right=right, line=Line.CENTRE, roll=25.0)
    shop = joined("welded end", [held, one], right, params)
    sound(shop, film=0.4, root=2.5 if params else 1.6)
    assert len(shop.shipped) == (2 if params else 1)
    (weld,) = shop.connections["c"].welds
    branch, chord = shop.joint("c").member, shop.joint("c").support
    sine, beta = math.sqrt(1 - float(branch.frame.x @ chord.frame.x) ** 2), branch.section.d / chord.section.d
    x, y = 1 / (2 * math.pi * sine), (3 - beta**2) / (2 - beta**2) / (3 * math.pi)  # AWS D1.1 9.5.4
    assert weld.length == pytest.approx((x + y + 3 * math.hypot(x, y)) * math.pi * branch.section.d, rel=0.08)


CROSSED = {"support": "through", "others": ("mate",)}


def crossed(section, right=False, turn=0.0, **more):
    """A brace through, and the two lengths of another that crosses it, all drawn the same way along the bay."""
    one = {"line": Line.CENTRE, "role": Role.BRACE, "section": section, **more}
    t = math.radians(turn)
    low, high, middle, end = (
        (u * math.cos(t), u * math.sin(t), v) for u, v in ((0.0, 0.0), (0.0, 4000.0), (3000.0, 2000.0), (6000.0, 0.0))
    )
    far = (6000.0 * math.cos(t), 6000.0 * math.sin(t), 4000.0)
    first, second = ("beam", "mate") if right else ("mate", "beam")
    return [
        Member(id="through", start=low, end=far, **one),
        Member(id=first, start=high, end=middle, **one),
        Member(id=second, start=middle, end=end, **one),
    ]


@pytest.mark.sampled(3)
@ENDS
@pytest.mark.parametrize("turn", [0.0, 37.0, 180.0])
@pytest.mark.parametrize("params", [{}, {"to_brace": "welded"}, {"rows": 2, "through": 4}])
@pytest.mark.parametrize(("section", "more"), [("L4X4X3/8", {}), ("L4X4X3/8", {"line": Line.GAGE}),
    ("L4X3X3/8", {"double": Double()}), ("L4X4X3/8", {"double": Double(layout=Layout.STAR)}), ("C8X11.5", {}),
    ("L100X100X10", {}), ("UPN160", {})])  # fmt: skip
def test_braces_that_cross_are_held_to_one_plate(section, more, params, turn, right):
    shop = joined("crossing gusset", crossed(section, right, turn, **more), right=right, params=params, **CROSSED)
    sound(shop)
    plate = next(p for p in shop.pieces() if p.words == "crossing gusset")
    assert plate.owner == "through" and len(plate.part.holes) >= 2
    cut = {owner for owner, _, _ in shop.connections["c"].cuts}
    assert cut == {"beam", "mate"}, "the brace that runs through is not cut"


@pytest.mark.parametrize(
    ("n", "more", "words"),
    [
        (0, {"section": "HSS6X6X1/4"}, "side gussets"),
        (1, {"start": (3000.0, 0.0, 2000.0), "end": (0.0, 0.0, 4000.0)}, "do not lie on one plate"),
        (0, {"start": (0.0, 0.0, 4000.0), "end": (6000.0, 0.0, 0.0)}, "does not cross it"),
        (1, {"start": (0.0, 0.0, 3000.0)}, "not two lengths in one line"),
    ],
)
def test_braces_that_no_crossing_gusset_holds_are_told_why(n, more, words):
    members = crossed("L4X4X3/8")
    members[n] = replace(members[n], **more)
    shop = joined("crossing gusset", members, **CROSSED)
    assert any(words in text for text in wrong(shop)) and not shop.connections["c"].parts


@pytest.mark.sampled(4)
@ENDS
@pytest.mark.parametrize("params", [{}, {"to_brace": "welded"}, {"edges": "spread by 30°", "rows": 4}])
@pytest.mark.parametrize(("section", "more"), BRACES)
def test_gussets(section, more, params, right):
    for kind, members, roles in at_each_gusset(section, more, right, params):
        bolted = "claw angles, which are bolted" if section in I_BRACES else "pinned" if section in RODS else ""
        if bolted and params.get("to_brace"):
            assert bolted in wrong(joined(kind, members, right, params, **roles))[0]
            continue
        sound(joined(kind, members, right, params, **roles))
        other = {"corner gusset": {"to_column": "welded"}, "base gusset": {"to_base": "clear of it"}}.get(kind)
        if other:
            sound(joined(kind, members, right, params | other, **roles))


def in_plan(turn, section, right=False, post=True, mate="W16X31", **more):
    """A level brace between two beams that leave a column, or meet without one, `turn` degrees apart."""
    z, t = LEVEL - 200.0, math.radians(0.45 * turn)
    flat = {} if find(section).form in TUBES else {"roll": 90.0}
    one = brace(
        section, (4000 * math.cos(t), 4000 * math.sin(t), z), right, (0.0, 0.0, z), line=Line.CENTRE, **flat, **more
    )
    held = [column("W10X49", roll=90, id="post")] if post else []
    ends = {"a": "post", "b": "post"} if post else {"b": "a"}
    held += [Connection(id=f"tab {x}", kind="shear tab", member=x, end=End.LEFT, support=to) for x, to in ends.items()]
    roles = {"support": "a", "others": ("b", "post") if post else ("b",)}
    first = beam(0, "W16X31", id="a", start=(0.0 if post else -2000.0, 0.0), length=7000.0)
    return [first, beam(turn, mate, id="b"), *held, one], roles


@pytest.mark.sampled(3)
@ENDS
@pytest.mark.parametrize("turn", [60, 90, 118, 135])
@pytest.mark.parametrize("post", [False, True], ids=["beams alone", "at a column"])
@pytest.mark.parametrize("params", [{}, {"to_first": "welded", "goes_with": "first beam"}])
@pytest.mark.parametrize(("section", "more"), [("L4X4X3/8", {}), ("L4X3X3/8", {"double": Double()}),
    ("HSS4X4X1/4", {}), ("C6X8.2", {})])  # fmt: skip
def test_gussets_in_plan(section, more, params, post, turn, right):
    members, roles = in_plan(turn, section, right, post, **more)
    shop = joined("plan gusset", members, right, params, **roles)
    if section in ("HSS4X4X1/4", "C6X8.2") and not post and any("cannot be reached" in t for t in wrong(shop)):
        return  # a tube so near its welds is told
    sound(shop)
    (plate,) = [p for p in shop.pieces() if p.words == "gusset plate"]
    assert plate.owner == ("a" if params else "b") and abs(float(plate.placement.y[2])) > 0.999


def beside_web(one: Member, floor: Member, side: str) -> Member:
    """A brace moved aside so that it lies on a plate beside a beam's web."""
    shop = Shop([one, floor])
    body, web = body_of(shop, one.id), body_of(shop, floor.id)
    t = one.double.gap if one.double else 9.525
    beside = web.frame.to_model((0.0, (-1 if side == "near" else 1) * (web.section.tw + t) / 2, 0.0))
    middle = 0.0 if body.section.form in TUBES else lap_of(body).middle(t)
    return msgspec.structs.replace(one, aside=float(body.frame.to_local(beside)[1]) - middle)


@ENDS
@pytest.mark.parametrize("side", ["near", "far"])
@pytest.mark.parametrize("rise", [2800.0, -2200.0])
@pytest.mark.parametrize(("section", "more"), [BRACES[0], BRACES[3], BRACES[6], BRACES[7]])
def test_gusset_and_tab_in_one_plate(section, more, rise, side, right):
    floor, post = beam(0, "W16X31", id="floor"), column("W14X90", roll=90, id="col")
    one = brace(section, (3500.0, 0.0, 2800.0 + rise), right, **{**more, "line": Line.CENTRE})
    roles = {"support": "col", "others": ("floor",)}
    refused = joined("gusset and tab", [post, floor, one], right, {"side": side}, **roles)
    assert "does not lie on a plate beside the web" in wrong(refused)[0]
    one = beside_web(one, floor, side)
    shop = joined("gusset and tab", [post, floor, one], right, {"side": side}, **roles)
    sound(shop)
    (plate,) = [p for p in shop.pieces() if p.words == "gusset and tab"]
    assert plate.owner == "col" and len(shop.assemblies["floor"].main.part.notches) == 1
    own = Connection(id="t", kind="shear tab", member="floor", end=End.LEFT, support="col")
    both = joined("gusset and tab", [post, floor, one, own], right, {"side": side}, **roles)
    assert "takes its place" in wrong(both)[0]


@pytest.mark.parametrize(
    ("section", "double"), [("L4X4X3/8", None), ("L5X3X3/8", Double()), ("L5X3X3/8", Double(leg=Leg.SHORT))]
)
def test_a_brace_lies_with_its_gage_line_or_centroid_on_its_work_line(section, double):
    """The holes of a brace on its gage line stand on the line between its work points."""
    for line in (Line.GAGE, Line.CENTROID):
        one = brace(section, (0.0, 2500.0, 5000.0), at=(0.0, 0.0, LEVEL), double=double, line=line)
        shop = joined("side gusset", [girder(line=Line.CENTRE), one])
        made = next(g for g in shop.connections["c"].fasteners if g.key == "bolts")
        up = shop.body("beam").frame.z
        off = [float((p - shop.body("beam").record.start) @ up) for p in map(np.array, made.points)]
        assert max(off) - min(off) < 0.01
        assert (abs(off[0]) < 0.01) == (line is Line.GAGE)


def test_a_brace_keeps_its_distance_from_steel():
    for clear in (20.0, 60.0):
        one = brace("L4X4X3/8", (0.0, 2500.0, 5000.0), at=(0.0, 0.0, LEVEL))
        shop = joined("side gusset", [girder(line=Line.CENTRE), one], params={"clear": clear})
        angle = shop.assemblies["beam"].main
        corners = angle.placement.to_model([(0.0, y, z) for y in angle.part.y_range for z in angle.part.depth_range])
        top = LEVEL + shop.body("support").section.d / 2
        assert clear <= corners[:, 2].min() - top < clear + 1.6


# -- what cannot be made ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("kind", "members", "params", "says"),
    [
        ("double angle", [girder("W21X44"), beam(60)], {}, "sharp corner"),
        ("double angle", [FLANGE, beam(0)], {"angle": "W12X26"}, "no angle"),
        ("shear end plate", [WEB, beam(0, "W18X71")], {"gage": 300.0}, "does not fit between"),
        ("seat", [FLANGE, beam(0, slope=35)], {}, "up to 45° and 30°"),
        ("moment end plate", [WEB, beam(0)], {}, "needs a flange"),
        ("flange plates", [FLANGE, beam(0, slope=35)], {}, "can be joined up to"),
        ("welded moment", [WEB, beam(0, slope=5)], {}, "square and level"),
        ("flange plates", [girder("W24X55"), beam(0)], {}, "between its flanges"),
        ("column splice", [column(), beam(0)], {}, "one line"),
        ("beam splice", [beam(180, id="support", start=(-500.0, 0)), beam(0)], {}, "end to end"),
        ("knee", [BOX, beam(0)], {}, "flange of an I column"),
        ("apex", [beam(90, id="support"), beam(0)], {}, "one upright plane"),
        ("corner gusset", [FLANGE, beam(0)], {}, "a column and a beam"),
        ("side gusset", [girder(line=Line.CENTRE), brace("L4X4X3/8", (0.0, 2500.0, 5000.0), roll=20.0)], {}, "roll it"),
        ("plan gusset", [girder(), brace("L4X4X3/8", (3000.0, 3000.0, LEVEL))], {}, "two beams"),
        ("through plate", [FLANGE, beam(0)], {}, "passes through a tube"),
        ("end tee", [FLANGE, beam(0)], {}, "goes on a tube"),
    ],
)
def test_what_cannot_be_made_is_one_clear_finding(kind, members, params, says):
    shop = joined(kind, members, params=params)
    found = wrong(shop)
    assert found and any(says in text for text in found), found
    assert all(text.endswith(".") for text in found)


def test_every_kind_describes_itself():
    for kind in KINDS.values():
        about = fields(kind.params)
        assert set(about) == set(kind.params.__struct_fields__), kind.name
        assert all(a.words and len(a.words) < 34 for a in about.values()), kind.name
        assert kind.help.endswith(".")
        for name, a in about.items():
            usual = getattr(kind.params(), name)
            assert usual is None or not a.choices or usual in a.choices, (kind.name, name)


@ENDS
@pytest.mark.parametrize("slope", [-35, -5, 20, 50])
@pytest.mark.parametrize("name", ["HSS6X6X1/4", "HSS8X4X1/4", "W14X22", "PIPE6STD", "C10X15.3", "WT6X20", "L4X4X3/8"])
def test_mitred_ends_lie_face_to_face_and_make_one_piece(name, slope, right):
    """Both lose the same wedge, to the plane halfway between them, and the weld runs round the face."""
    toes = {"roll": 90.0} if name.startswith("L") else {}  # an angle's mirror image needs its leg across
    other = beam(180, name, slope, id="support", right=not right, line=Line.CENTRE, **toes)
    one = beam(0, name, slope, right=right, line=Line.CENTRE, **toes)
    shop = joined("mitred ends", [other, one], right)
    if name.startswith(("L", "C", "WT")) and wrong(shop):
        assert "do not lie on one another" in wrong(shop)[0]
        return
    sound(shop)
    cuts = [shop.assemblies["beam"].main.part, shop.assemblies["support"].main.part]
    assert len(shop.shipped) == 1
    slopes = sorted(max(abs(c.ky), abs(c.kz)) for part in cuts for c in (part.left, part.right))
    assert slopes[2:] == [pytest.approx(math.tan(math.radians(abs(slope))), abs=1e-6)] * 2 and max(slopes[:2]) < 1e-9


@pytest.mark.parametrize(
    ("members", "says"),
    [
        ([beam(180, "HSS6X4X1/4", id="support", right=True), beam(0, "HSS6X6X1/4", 10)], "need one section"),
        ([beam(20, "HSS6X6X1/4", id="support"), beam(0, "HSS6X6X1/4")], "There are 20° between"),
        ([beam(180, "HSS6X6X1/4", id="support", start=(9.0, 0.0)), beam(0, "HSS6X6X1/4", 10)], "apart; bring"),
        ([beam(180, "W14X22", id="support", roll=90.0), beam(0, "W14X22", 20)], "do not lie on one another"),
        ([beam(180, "L4X4X3/8", id="support", double=Double()), beam(0, "L4X4X3/8", 20)], "Pairs are not mitred"),
    ],
)
def test_ends_that_do_not_fit_are_not_mitred_and_told(members, says):
    shop = joined("mitred ends", [replace(m, line=Line.CENTRE) for m in members])
    assert says in wrong(shop)[0] and not shop.connections["c"].cuts


@pytest.mark.parametrize("layout", ["past the top", "past both flanges", "flush"])
def test_a_moment_end_plate_reaches_past_a_flange_to_its_bolts_or_by_what_its_weld_needs(layout):
    shop = joined("moment end plate", [FLANGE, beam(0, "W18X35")], params={"layout": layout})
    s, (plate,) = shop.body("beam").section, (p for p in shop.connections["c"].parts if p.key == "plate")
    heights = shop.body("beam").frame.to_local(plate.placement.to_model([(x, 0, z) for x, z in plate.part.outline]))[
        :, 2
    ]
    holes = shop.body("beam").frame.to_local(plate.placement.to_model([(h.x, 0, h.w) for h in plate.part.holes]))[:, 2]
    over, under = heights.max() - s.d / 2, -s.d / 2 - heights.min()
    outer = holes.max() > s.d / 2, holes.min() < -s.d / 2
    assert outer == {"past the top": (True, False), "past both flanges": (True, True), "flush": (False, False)}[layout]
    assert [v for v, past in ((over, outer[0]), (under, outer[1])) if not past] == pytest.approx(
        [12.0] * (2 - sum(outer)), abs=0.01
    )
    edges = [
        v for v, past in ((heights.max() - holes.max(), outer[0]), (holes.min() - heights.min(), outer[1])) if past
    ]
    assert all(25.0 < edge < 60.0 for edge in edges)


@pytest.mark.parametrize("lean", [0.2, 0.4, -0.4])
def test_a_splice_of_columns_that_lean_a_little_is_set_out_where_they_meet(lean):
    """They are in one plane there, and the plates stand where those of plumb ones do."""
    lower = column("W12X65", top=4000.0)
    high = {}
    for off in (0.0, lean):
        end = (4000 * math.tan(math.radians(off)), 0.0, 8000.0)
        upper = Member(id="beam", role=Role.COLUMN, section="W12X65", start=(0.0, 0.0, 4000.0), end=end)
        shop = joined("column splice", [lower, upper])
        high[off] = sorted(
            tuple(np.round(p.placement.to_model((p.part.length / 2, 0.0, 0.0)), 0)) for p in shop.connections["c"].parts
        )
        assert not any("could not be made" in text for text in wrong(shop)) and len(high[off]) >= 2
    assert np.abs(np.subtract(high[0.0], high[lean])).max() < 6.0
