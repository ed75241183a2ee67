import pytest

from uncus.catalog.bolts import HoleKind, bolt_length, bolt_size, bolt_sizes, rod_sizes
from uncus.catalog.grades import GRADES, usual_grade
from uncus.catalog.sections import Form, UnknownSection, nearest, section, sections
from uncus.steel import profile
from uncus.units import INCH


@pytest.mark.parametrize(
    ("typed", "name"),
    [
        ("w12x26", "W12X26"),
        ("W 12 X 26", "W12X26"),
        ("w12×26", "W12X26"),
        ("HSS6X6X1/4", "HSS6X6X1/4"),
        ("hss 6x6x.25", "HSS6X6X1/4"),
        ("hss 3 1/2 x 3 1/2 x 1/4", "HSS3-1/2X3-1/2X1/4"),
        ("L4x4x3/8", "L4X4X3/8"),
        ("l4x4x0.375", "L4X4X3/8"),
        ("C12x20.7", "C12X20.7"),
        ("pipe 4 std", "PIPE4STD"),
        ("P4XS", "PIPE4XS"),
        ("IPE200", "IPE200"),
        ("ipe 200", "IPE200"),
        ("HE 200 A", "HEA200"),
        ("hea200", "HEA200"),
        ("UPN 200", "UPN200"),
    ],
)
def test_any_usual_spelling_finds_its_section(typed, name):
    assert section(typed).name == name


def test_every_name_finds_itself():
    for name, found in sections().items():
        assert section(name) is found
        assert section(name.lower().replace("X", " x ")) is found


@pytest.mark.parametrize(
    ("typed", "near"),
    [
        ("W12X27", "W12X26"),
        ("IPE210", "IPE200"),
        ("HSS6X6X0.3", "HSS6X6X5/16"),
        ("W12X-1", None),
        ("", None),
        ("W1/0", None),
    ],
)
def test_a_wrong_name_is_answered_with_the_nearest(typed, near):
    with pytest.raises(UnknownSection) as refused:
        section(typed)
    assert str(refused.value).endswith(".")
    if near:
        assert near in nearest(typed)
        assert near in str(refused.value)


@pytest.mark.parametrize(
    ("name", "d", "b", "tw", "tf", "k", "k1", "t", "gage", "lb_ft"),
    [  # the handbook's detailing values, inches
        ("W12X26", 12.2, 6.49, 0.230, 0.380, 1.0625, 0.75, 10.125, 3.5, 26),
        ("W10X49", 10.0, 10.0, 0.340, 0.560, 1.25, 0.8125, 7.5, 5.5, 49),
        ("W16X31", 15.9, 5.53, 0.275, 0.440, 1.125, 0.75, 13.625, 3.5, 31),
    ],
)
def test_handbook_values(name, d, b, tw, tf, k, k1, t, gage, lb_ft):
    s = section(name)
    got = [v / INCH for v in (s.d, s.b, s.tw, s.tf, s.k, s.k1, s.T, s.gage)]
    assert got == pytest.approx([d, b, tw, tf, k, k1, t, gage], abs=0.001)
    assert s.kg_m / 1.48816394 == pytest.approx(lb_ft, abs=0.01)


@pytest.mark.parametrize(
    ("name", "kg_m"),
    [("HFRHS100X100X5", 14.7), ("CFRHS100X100X5", 14.4), ("HFRHS200X100X8", 35.1), ("HFCHS114.3X5", 13.5),
        ("CFCHS219.1X10", 51.6),
     ("HFRHS300X200X12.5", 91.9), ("CFRHS150X150X8", 34.0), ("L100X100X10", 15.0), ("L200X150X12", 32.0),
         ("L150X150X15", 33.8), ("L75X50X6", 5.65)],
)  # fmt: skip
def test_sections_by_formula_weigh_what_their_standards_tables_say(name, kg_m):
    """EN 10210-2, EN 10219-2 and EN 10056-1, to the tables' own three figures."""
    assert section(name).kg_m == pytest.approx(kg_m, rel=0.004)


def test_detailing_values_leave_the_flat_between_them():
    """2 k + T is the depth to the eighth; a channel's root is as its flange is thick, its gage by DIN 997."""
    for s in sections().values():
        if s.family in ("W", "HP", "M", "S", "C", "MC") and s.T:
            assert (2 * s.k + s.T) / INCH == pytest.approx(round(s.d / INCH * 8) / 8, abs=1e-3), s.name
    upn = section("UPN200")
    assert (upn.r, upn.k, upn.gage) == (11.5, 23.0, 40.0)


def test_all_families_are_there():
    families = {s.family for s in sections().values()}
    assert families == {
        "W",
        "M",
        "S",
        "HP",
        "C",
        "MC",
        "L",
        "HSS",
        "PIPE",
        "WT",
        "MT",
        "ST",
        "IPE",
        "HEA",
        "HEB",
        "HEM",
        "UPN",
        "HFRHS",
        "HFCHS",
        "CFRHS",
        "CFCHS",
        "L EN",
    }


@pytest.mark.parametrize("form", list(Form))
def test_outlines_agree_with_their_walls_and_with_the_handbook(form):
    for s in sections().values():
        if s.form is not form:
            continue
        shape = profile.outline(s)
        assert shape.is_valid and shape.geom_type == "Polygon", s.name
        assert shape.area == pytest.approx(profile.area(s), rel=1e-6), s.name
        light = s.kg_m < 11  # the lightest shapes' handbook weights are rounded hard
        assert profile.area(s) * 7.85e-3 == pytest.approx(s.kg_m, rel=0.08 if light else 0.03), s.name
        assert usual_grade(s) in GRADES


@pytest.mark.parametrize(
    ("size", "std", "oversize", "short", "long", "edge"),
    [  # AISC 360-22 tables J3.3 and J3.4, inches
        ("5/8", 11 / 16, 13 / 16, 7 / 8, 25 / 16, 7 / 8),
        ("3/4", 13 / 16, 15 / 16, 1, 15 / 8, 1),
        ("1", 9 / 8, 5 / 4, 21 / 16, 5 / 2, 5 / 4),
    ],
)
def test_holes_follow_the_tables(size, std, oversize, short, long, edge):
    bolt = bolt_size(size)
    assert bolt.hole_size(HoleKind.STANDARD)[0] == pytest.approx(std * INCH)
    assert bolt.hole_size(HoleKind.OVERSIZE)[0] == pytest.approx(oversize * INCH)
    assert bolt.hole_size(HoleKind.SHORT_SLOT) == pytest.approx((std * INCH, short * INCH))
    assert bolt.hole_size(HoleKind.LONG_SLOT) == pytest.approx((std * INCH, long * INCH))
    assert bolt.edge == pytest.approx(edge * INCH)


def test_bolt_lengths_are_grip_washer_and_allowance_up_to_stock():
    # 3/4: grip 0.605 + washer 5/32 + 1 = 1.761 -> 2 in
    assert bolt_length(bolt_size("3/4"), 0.605 * INCH) == pytest.approx(2 * INCH)
    assert bolt_length(bolt_size("M20"), 20) == 50  # 20 + 3 + 24 = 47
    for bolt in bolt_sizes().values():
        lengths = [bolt_length(bolt, grip) for grip in range(10, 80, 5)]
        assert lengths == sorted(lengths) and all(
            n > g + bolt.washer_t for n, g in zip(lengths, range(10, 80, 5), strict=True)
        )
    assert all(rod.hole > rod.d for rod in rod_sizes().values())
    with pytest.raises(LookupError, match="no bolt size"):
        bolt_size("9/9")


def test_the_long_leg_of_an_angle_stands_upright():
    angles = [s for s in sections().values() if s.form is Form.ANGLE]
    assert len(angles) > 100 and all(s.d >= s.b for s in angles)
    s = section("L6X4X1/2")
    assert (s.d, s.b, s.gage) == pytest.approx((6 * 25.4, 4 * 25.4, 3.5 * 25.4))


@pytest.mark.parametrize(
    ("name", "clear"),
    [("W12X26", 0.75 * INCH), ("W14X90", 1.4375 * INCH), ("IPE300", 7.1 / 2 + 15), ("HEB200", 9.0 / 2 + 18)],
)
def test_a_flange_lies_flat_from_the_fillet_on(name, clear):
    """The detailing k1 of American shapes; half the web and the radius of European ones, which have none."""
    assert section(name).clear == pytest.approx(clear, abs=1.6)


def test_no_flange_is_flat_within_its_fillet():
    flanged = [s for s in sections().values() if s.flanged]
    assert all(s.clear >= max(s.k1, s.tw / 2 + s.r) - 1e-6 for s in flanged)
    assert any(s.tw / 2 + s.r > s.k1 + 1.0 for s in flanged), "detailing values are not always the larger"
