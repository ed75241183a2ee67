import math

import msgspec
import numpy as np
import pytest
from tests.connect.sound import beam, column, girder, joined, sound

from uncus.connect.shear_tab import Params
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.records import Connection, End, Member, ShopRules
from uncus.shop.shop import Shop
from uncus.steel.features import Face
from uncus.units import FOOT, INCH


def tab_of(support, the_beam, right=False, params=None, rules=None) -> Shop:
    return joined("shear tab", [support, the_beam], right, params, rules)


CASES = (
    [
        pytest.param(column(roll=roll), turn, {"section": s}, id=f"column {roll} {turn} {s}")
        for roll in (0.0, 90.0)
        for turn in (0, 90, 180, 270)
        for s in ("W12X26", "W16X31", "W8X18", "C10X15.3")
    ]
    + [
        pytest.param(girder(), turn, {"section": s}, id=f"girder {turn} {s}")
        for turn in (0, 180)
        for s in ("W12X26", "W16X31", "W10X22")
    ]
    + [
        pytest.param(girder("W14X22"), 0, {"section": "W14X22"}, id="same depth, both flanges coped"),
        pytest.param(girder(), 0, {"slope": 10.0}, id="sloping onto a girder"),
        pytest.param(column("HSS8X8X1/4"), 90, {}, id="tube"),
        pytest.param(column("PIPE8STD"), 90, {"section": "W8X18"}, id="round tube"),
        pytest.param(column("HP12X53"), 90, {"section": "IPE300"}, id="other families"),
    ]
)


def test_a_tab_goes_to_site_on_the_support_or_on_the_beam():
    """Shop work belongs to what it is fixed to in the shop; what is left for the site is kept apart."""
    for on, owner, site_bolts in (("support", "support", True), ("beam", "beam", False)):
        shop = tab_of(column(), beam(90), params={"on": on})
        assert [p.owner for p in shop.pieces() if p.id == "c/tab"] == [owner]
        assembly = shop.assemblies["beam"]
        assert [g.field for g in assembly.holds] == [site_bolts]
        assert len(assembly.site_welds) == (0 if site_bolts else 1)
        assert len(shop.assemblies["support"].welds) == (1 if site_bolts else 0)
        assert len(assembly.shop_bolts["c/tab"]) == (0 if site_bolts else 1)


@pytest.mark.parametrize("right", [False, True], ids=["left end", "right end"])
@pytest.mark.parametrize("side", ["near", "far"])
@pytest.mark.parametrize(("support", "turn", "more"), CASES)
def test_joints_are_sound(support, turn, more, side, right):
    sound(tab_of(support, beam(turn, right=right, **more), right, {"side": side}))


WIDE = {"flange": column("W14X145", roll=90), "girder": girder("W24X55"), "tube": column("HSS16X16X1/2")}


@pytest.mark.sampled(4)
@pytest.mark.parametrize("measured", ["welded edge", "toe of weld"])
@pytest.mark.parametrize("right", [False, True], ids=["left end", "right end"])
@pytest.mark.parametrize("side", ["near", "far"])
@pytest.mark.parametrize("slope", [0, 15, -12])
@pytest.mark.parametrize("turn", [0, 15, -15, 30, -30, 45, -45, 60, -60])
@pytest.mark.parametrize("support", WIDE)
def test_the_distance_to_the_first_bolt_line_is_as_typed(support, turn, slope, side, right, measured):
    """Skewed either way, flat or sloping, at both sides and ends; measured on the plate as made and on its weld."""
    out = {"flange": 187.96, "tube": 203.2, "girder": 0.0}[support]  # to the face, whose middle the beam aims at
    params = {"first": 210.0 if abs(turn) > 45 else 160.0, "measured": measured, "side": side, "rows": 2}
    the_beam = beam(turn, "W16X31", slope, right=right, start=(0.0, -out * math.tan(math.radians(turn))))
    shop = tab_of(WIDE[support], the_beam, right, params)
    sound(shop)
    plate = next(p for p in shop.pieces() if p.id == "c/tab")
    from_edge = min(h.x for h in plate.part.holes)
    toe = 0.25 * INCH if measured == "toe of weld" else 0.0
    assert from_edge == pytest.approx(params["first"] + toe, abs=1e-3)
    # the welded edge touches the support's face and no corner of the plate goes past it
    s = shop.body("support").section
    face = s.d / 2 if support != "girder" else s.tw / 2
    normal = np.array([1.0, 0.0, 0.0])
    corners = plate.placement.to_model([(0.0, y, z) for y in plate.part.y_range for z in plate.part.depth_range])
    assert (corners @ normal).min() == pytest.approx(face, abs=1e-3)
    # the flange's corner is clipped beside the fillet, on the side that is nearer to the support
    main = shop.assemblies["beam"].main.part
    clips = [n for n in main.notches if n.face in (Face.TOP, Face.BOTTOM)]
    assert len(clips) == (2 if turn else 0)
    for clip in clips:
        ys = [w for _, w in clip.outline]
        assert min(map(abs, ys)) == pytest.approx(main.section.clear, abs=1e-3)
    assert abs(main.left.ky) < 1e-9 and abs(main.right.ky) < 1e-9, "the web is cut square"
    for cope in main.copes:
        assert cope.right == right and cope.radius == pytest.approx(12.7)


def test_a_bevelled_web_is_cut_only_where_asked():
    shop = tab_of(column("W14X145", roll=90), beam(30), params={"cut": "bevelled", "first": 150.0})
    sound(shop)
    main = shop.assemblies["beam"].main.part
    assert math.degrees(math.atan(abs(main.left.ky))) == pytest.approx(30) and not main.notches


@pytest.mark.parametrize(
    ("params", "turn", "slope", "piece"),
    [
        ({"columns": 2}, 0, 0, "tab"),
        ({"columns": 2, "rows": 2, "along": "beam"}, 0, 15, "tab"),
        ({"reach": "both flanges too", "ends": "past the flanges"}, 0, 0, "tab"),
        ({"reach": "top flange too", "ends": "past the flanges"}, 0, 0, "tab"),
        ({"opposite": "stiffener"}, 0, 0, "opposite"),
        ({"first": 260.0, "rows": 2}, 60, 0, "backing"),
        ({"lowered": "bottom flange coped"}, 0, 0, "tab"),
        ({"hole": "short slot"}, 0, 0, "tab"),
    ],
)
@pytest.mark.parametrize("right", [False, True])
@pytest.mark.parametrize("side", ["near", "far"])
def test_what_can_be_asked_of_a_tab(params, turn, slope, piece, right, side):
    shop = tab_of(girder("W24X55"), beam(turn, slope=slope, right=right), right, {"side": side, **params})
    sound(shop)
    assert any(p.id == f"c/{piece}" for p in shop.pieces())
    if params.get("along") == "beam":
        xs = {round(h.x, 2) for h in shop.assemblies["beam"].main.part.holes}
        assert len(xs) == 2, "square in the beam"


def test_the_first_bolt_stands_where_the_rules_say():
    shop = tab_of(column(), beam(90))
    tab = shop.assemblies["support"].pieces[-1].part
    assert tab.length == pytest.approx(3.5 * INCH) and tab.thickness == pytest.approx(0.375 * INCH)
    assert [h.x for h in tab.holes] == pytest.approx([2 * INCH] * 3)
    main = shop.assemblies["beam"].main.part
    tops = sorted(main.section.d / 2 - h.w for h in main.holes)
    assert tops == pytest.approx([3 * INCH, 6 * INCH, 9 * INCH], abs=1e-3)


def test_beams_are_cut_to_sixteenths_and_never_longer_than_the_gap_allows():
    shop = tab_of(column("W10X39"), beam(90, length=20 * FOOT))
    length = shop.assemblies["beam"].main.part.length
    assert (20 * FOOT - length) / INCH * 16 == pytest.approx(round((20 * FOOT - length) / INCH * 16), abs=1e-3)
    gap = 20 * FOOT - length - 9.92 / 2 * INCH
    assert 0.5 * INCH <= gap < (0.5 + 1 / 16) * INCH + 0.01


def test_copes_clear_the_girder_and_carry_the_rules_radius():
    rules = ShopRules(cope_radius=19.05)
    shop = tab_of(girder(), beam(0), rules=rules)
    (cope,) = shop.assemblies["beam"].main.part.copes
    assert not cope.bottom and cope.radius == pytest.approx(19.05)
    assert cope.depth >= 1.125 * INCH - 0.1, "as deep as the girder's k"
    flange = (6.0 - 0.3) / 2 * INCH
    assert cope.length >= flange - 0.5 * INCH


@pytest.mark.parametrize(
    ("support", "the_beam", "params", "says"),
    [
        (column(), beam(90, section="W6X9"), {"rows": 4}, "do not fit"),
        (column("L8X8X1"), beam(0, section="HSS8X4X1/4"), {}, "has none"),
        (column("PIPE8STD", at=(40.0, 0.0)), beam(90), {}, "aim at the middle"),
        (column(at=(9000.0, 0.0)), beam(0, length=3000.0), {}, "does not reach"),
        (girder(z=6000.0), beam(0), {}, "over or under"),
        (girder(z=3500.0), beam(0), {}, "over or under"),
        (girder("W6X9"), beam(0, section="W16X31"), {}, "do not fit"),
        (girder(), beam(90, z=3000.0), {}, "nothing of the"),
        (column("W14X145", roll=90), beam(60), {"first": 100.0}, "misses the beam"),
        (column(roll=90), beam(0, start=(0.0, 121.0)), {"side": "far"}, "stands off the flange"),
        (column(), beam(90), {"edge": 16.0}, "from the edge of the shear tab"),
        (column(), beam(90), {"pitch": 31.0}, "closer than"),
        (column(), beam(90), {"down": 30.0}, "fillet"),
    ],
)
def test_what_does_not_fit_is_a_finding_and_never_an_exception(support, the_beam, params, says):
    shop = tab_of(support, the_beam, params=params)
    texts = [f.text for f in shop.connections["c"].findings]
    assert any(says in t for t in texts), texts
    assert all(t.endswith(".") for t in texts)
    assert set(shop.assemblies) == {"beam", "support"}, "the rest is there all the same"


def test_the_joint_follows_its_members_and_comes_back():
    job = Job(
        [
            ShopRules(),
            column(),
            beam(90),
            Connection(id="c", kind="shear tab", member="beam", end=End.LEFT, support="support"),
        ]
    )
    shop = Shop(job.records.values())
    job.follow(shop.follow)
    good = shop.assemblies["beam"]
    for change in ({"section": "W16X31"}, {"end": (0.0, 7000.0, 3000.0)}, {"section": "HSS8X4X1/4"}):
        with job.change("x") as c:
            c.put(msgspec.structs.replace(job.get("beam", Member), **change))
    assert shop.connections["c"].findings and not shop.connections["c"].parts
    with job.change("drop") as c:
        c.drop("support")
    assert "lost what held it" in shop.connections["c"].findings[0].text
    for _ in range(4):
        job.undo()
    assert shop.assemblies["beam"] == good


def test_parameters_have_limits():
    for bad in ({"rows": 1}, {"bolt": "9"}, {"gap": float("nan")}, {"colour": 3}, {"edge": "wide"}, {"rows": 2.5}):
        with pytest.raises(JobError):
            checked(Params, bad)
