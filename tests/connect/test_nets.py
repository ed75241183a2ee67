"""What slipped through once: each situation is made clean now, or what is wrong with it is said in these words."""

import pytest
from msgspec.structs import replace
from tests.connect.sound import LEVEL, beam, column, girder, joined, sound
from tests.connect.test_kinds import brace, on_its_line

from uncus.connect.buildable import weld_runs
from uncus.connect.buildable.inspect import inspected
from uncus.connect.situation import Holding, Surroundings
from uncus.job.records import Connection, Double, End, Line, Member, Project, Role, derived_id
from uncus.shop.shop import Shop
from uncus.steel.features import Hole
from uncus.units import Units


def said(shop: Shop) -> list[str]:
    return [f.text for f in shop.all_findings]


def framed_corner(section, rise, post, floor, **more):
    """A brace in the corner of a beam and a column, rising so far over 3 m."""
    one = brace(section, (3000.0, 0.0, 2800.0 + rise), **more)
    tab = Connection(id="tab", kind="shear tab", member="floor", end=End.LEFT, support="col")
    return joined("corner gusset", [post, beam(0, floor, id="floor"), tab, one], support="col", others=("floor",))


@pytest.mark.parametrize("rise", [3600.0, 5200.0, -4200.0])
@pytest.mark.parametrize(
    ("section", "more"),
    [
        ("HSS4X4X1/4", {"line": Line.CENTRE}),
        ("PIPE4STD", {"line": Line.CENTRE}),
        ("L4X3X3/8", {"double": Double()}),
        ("HSS6X6X1/4", {"line": Line.CENTRE}),
    ],
)
def test_a_steep_brace_stands_clear_of_its_gussets_own_angles(section, more, rise):
    shop = framed_corner(section, rise, column("W10X49", roll=90, id="col"), "W16X31", **more)
    assert not [text for text in said(shop) if "fill the same space" in text]


@pytest.mark.parametrize("post", ["HSS8X8X3/8", "PIPE8STD"])
def test_a_gusset_goes_to_a_tube_by_welds_unless_angles_are_asked_for(post):
    shop = framed_corner("HSS4X4X1/4", 2600.0, column(post, id="col"), "W16X31", line=Line.CENTRE)
    assert not [p for p in shop.connections["c"].parts if "angle" in p.words]
    assert not [text for text in said(shop) if "closed" in text]


def test_clip_angles_turn_their_short_legs_to_a_narrow_web():
    """Between the fillets of a W10X39 the long legs of two angles do not stand; the short ones do, or it is said."""
    shop = framed_corner("HSS4X4X1/4", 2600.0, column("W10X39", id="col"), "W12X26", line=Line.CENTRE)
    clip = next(p for p in shop.connections["c"].parts if "clip" in p.words)
    assert not [t for t in said(shop) if "fill the same space" in t] and clip.part.section.d > clip.part.section.b
    narrow = framed_corner("HSS4X4X1/4", 2600.0, column("W8X18", id="col"), "W8X18", line=Line.CENTRE)
    assert any("do not stand between the flanges" in t for t in said(narrow))


BETWEEN = column("W14X90")  # whose web a beam along north goes to
BETWEEN_FLANGES = [
    ("welded end", [BETWEEN, beam(40, "HSS6X6X1/4", line=Line.CENTRE)], {}, "does not go between the flanges"),
    ("welded end", [column("PIPE8STD"), beam(0, "HSS4X4X1/4", line=Line.CENTRE)], {}, "only a round tube is saddled"),
    ("welded end", [column("PIPE4STD"), beam(0, "PIPE6STD", line=Line.CENTRE)], {}, "let that one end on this"),
    (
        "welded end",
        [column("PIPE8STD"), beam(0, "PIPE4STD", line=Line.CENTRE, aside=0.8)],
        {},
        "beside the middle of the round",
    ),
    ("end tee", [column("W10X49"), beam(0, "HSS8X8X3/8", line=Line.CENTRE)], {}, "does not go between the flanges"),
    ("double angle", [column("W10X39"), beam(0, "W12X26")], {"angle": "L6X4X1/2"}, "do not stand on the flat"),
    ("end tee", [girder("W14X90"), beam(-12, "HSS6X6X3/8", -6)], {}, "does not go between the flanges"),
]


@pytest.mark.parametrize(("kind", "members", "params", "words"), BETWEEN_FLANGES)
def test_what_does_not_go_between_flanges_is_refused(kind, members, params, words):
    shop = joined(kind, members, params=params)
    assert any(words in text for text in said(shop)), said(shop)
    assert not shop.connections["c"].parts


def between(kind, post, section, **more):
    """A seat under a channel, or a brace's gusset, at the web of a column."""
    if kind == "seat":
        return joined("seat", [column(post), beam(0, section)], params=more)
    if kind == "side gusset":
        return joined(
            kind, [column(post), on_its_line(brace(section, (3000.0, 0.0, LEVEL + 2600.0), at=(0.0, 0.0, LEVEL)))]
        )
    foot = Connection(id=derived_id("connection", "col", End.LEFT), kind="base plate", member="col", end=End.LEFT,
        params={"along": 1300.0, "across": 1300.0})  # fmt: skip
    up = on_its_line(brace(section, (3000.0, 0.0, 4500.0), at=(0.0, 0.0, 0.0)))
    return joined(kind, [column(post, id="col"), foot, up], support="col")


@pytest.mark.parametrize("post", ["W8X31", "W10X49", "W14X90"])
@pytest.mark.parametrize(("kind", "section", "more"), [("seat", "C12X20.7", {}), ("seat", "C12X20.7", {"long": 250.0}),
    ("side gusset", "HSS6X6X1/4", {}), ("side gusset", "L4X4X3/8", {}), ("base gusset", "HSS6X6X1/4", {}),
    ("base gusset", "L4X4X3/8", {})])  # fmt: skip
def test_what_stands_between_a_columns_flanges_is_clean_or_told(kind, section, more, post):
    shop = between(kind, post, section, **more)
    if not said(shop):
        sound(shop, root=1.6)
    assert not said(shop) or post != "W14X90" or more


TYPED = [
    ("shear tab", [girder("W18X35"), beam(0, "W16X31")], {"down": 45.0, "rows": 2}, "fill the same space"),
    ("double angle", [column("W10X49", roll=90), beam(0, "W16X31")], {"down": 40.0, "rows": 2}, "fill the same space"),
    ("through plate", [column("HSS8X8X3/8"), beam(0, "W16X31")], {"down": 45.0, "rows": 2}, "fill the same space"),
    ("shear tab", [column(roll=90), beam(0, "W16X31")], {"weld": 15.9, "thickness": 6.35}, "larger than the 1/4"),
    ("shear tab", [column(roll=90), beam(0, "W16X31")], {"thickness": 25.0}, "is 25 mm thick, which"),
    ("base plate", [column(id="beam")], {"along": 200.0, "across": 200.0}, "smaller than the column"),
    ("cap plate", [girder("W16X40", z=LEVEL, line=Line.BOTTOM), column("W10X49", id="beam", top=LEVEL)],
        {"along": 150.0}, "runs"),
]  # fmt: skip


@pytest.mark.parametrize(("kind", "members", "params", "words"), TYPED)
def test_typed_values_are_held_against_the_steel(kind, members, params, words):
    support = None if kind == "base plate" else "support"
    right = kind == "cap plate"
    shop = joined(kind, members, params=params, support=support, right=right)
    assert any(words in text for text in said(shop)), said(shop)


@pytest.mark.parametrize("one", ["W18X35", "W18X40", "W18X60", "W18X86"])
def test_webs_of_two_thicknesses_have_fills_or_are_drawn_together(one):
    sound(joined("beam splice", [beam(180, one, id="support", right=True), beam(0, "W18X35")]))


@pytest.mark.parametrize(
    ("one", "other"), [("W24X84", "W16X31"), ("W16X31", "W24X84"), ("W16X31", "W16X36"), ("W18X106", "W18X35")]
)
def test_no_through_plate_has_air_at_one_of_its_beams(one, other):
    beams = [beam(0, one), beam(180, other, id="mate", right=True)]
    shop = joined("through plate", [column("HSS8X8X3/8"), *beams], others=("mate",))
    if not said(shop):
        sound(shop)


def test_angles_on_opposite_sides_of_their_splice_are_told():
    line = {"line": Line.CENTRE}
    far, near = beam(180, "L4X4X3/8", id="support", right=True, **line), beam(0, "L4X4X3/8", **line)
    sound(joined("brace splice", [far, near]))
    shop = joined("brace splice", [beam(180, "L4X4X3/8", id="support", **line), near])
    assert any("opposite sides of their splice plate" in text for text in said(shop))


@pytest.mark.parametrize("slope", [12, -20])
def test_rows_square_to_a_sloping_beam_hold_their_distance_at_the_nearest_hole(slope):
    params = {"along": "beam", "first": 101.6, "rows": 3}
    shop = joined("shear tab", [column("W14X90", roll=90), beam(0, "W24X84", slope)], params=params)
    (tab,) = (p for p in shop.connections["c"].parts if p.key == "tab")
    assert min(h.x for h in tab.part.holes) == pytest.approx(101.6, abs=0.01)


@pytest.mark.parametrize("high", [3.0, 6.0, 9.0, 20.0])
def test_a_cope_goes_through_the_flange_it_is_in(high):
    """A beam that rises so little over the girder's flange that a saw would run along the inside of its own."""
    shop = joined("shear tab", [girder("W21X44"), beam(0, "W16X31", z=LEVEL - 18.0 + high)])
    s = shop.assemblies["beam"].main.part
    for cope in s.copes:
        assert cope.depth >= s.section.tf + s.section.r


def test_only_what_stands_on_the_ground_gets_a_base_plate():
    posts = [column(id=f"p{n}", at=(n * 6000.0, 0.0)) for n in range(3)]
    high = Member(id="high", role=Role.POST, section="HSS4X4X1/4", start=(3000, 0, 4000), end=(3000, 0, 5500))
    hung = Member(id="hung", role=Role.HANGER, section="L4X4X3/8", start=(9000, 0, 1000), end=(9000, 0, 5500))
    about = Surroundings([*posts, high, hung])
    assert about.standing(posts[0], End.LEFT).holding is Holding.GROUND
    assert "in mid-air" in about.standing(high, End.LEFT) and "hanger" in about.standing(hung, End.LEFT)
    stepped = column(id="low", at=(18_000.0, 0.0))
    assert Surroundings([*posts, stepped]).standing(stepped, End.LEFT).holding is Holding.GROUND


@pytest.mark.parametrize(("kind", "params", "tight"), [("double angle", {}, True), ("shear end plate", {}, True),
    ("shear end plate", {"shims": 6.0}, False), ("shear tab", {}, False)])  # fmt: skip
def test_a_beam_that_cannot_be_entered_between_its_columns_is_told(kind, params, tight):
    posts = [column(roll=90, id="support"), column(roll=90, id="far", at=(5000.0, 0.0))]
    ends = [Connection(id=e, kind=kind, member="beam", end=end, support=s, params=params) for e, end, s
        in (("c", End.LEFT, "support"), ("d", End.RIGHT, "far"))]  # fmt: skip
    shop = Shop([Project(), *posts, beam(0), *ends])
    assert any("cannot be entered between them" in text for text in said(shop)) == tight


def test_the_nets_tell_what_no_kind_would_do():
    """A made joint is spoilt behind its kind's back: a hole left out, a ply set off the next, a weld beside its
    plate."""
    members = [girder("W18X35"), beam(0, "W16X31")]
    shop = joined("shear tab", members)
    joint, made = shop.joint("c"), shop.connections["c"]
    assert not made.findings
    beside = next(i for i, (owner, f) in enumerate(made.features) if owner == "beam" and isinstance(f, Hole))
    holed = replace(made, features=tuple(f for i, f in enumerate(made.features) if i != beside))
    assert "1 of the 3/4 bolts miss the beam W16X31" in inspected(joint, holed).findings[0].text
    tab = made.parts[0]
    for off, told in ((1.0, False), (3.0, True)):
        away = replace(
            tab, placement=tab.placement.moved((0.0, -off if tab.placement.y @ joint.member.frame.y < 0 else off, 0.0))
        )
        texts = [f.text for f in inspected(joint, replace(made, parts=(away,))).findings]
        assert any("of air between" in text for text in texts) == told, texts
    piece = weld_runs.Placed(tab.part, tab.placement, "shear tab")
    (weld,) = made.welds
    assert not list(weld_runs.inspect([weld_runs.Welded("c", [weld], {"c/tab": piece})], Units.METRIC))
    aside = replace(weld, path=tuple((x, y, z + 30.0) for x, y, z in weld.path))
    ((id, text),) = weld_runs.inspect([weld_runs.Welded("c", [aside], {"c/tab": piece})], Units.METRIC)
    assert id == "c"
    assert "off the shear tab" in text and " mm " in text
