"""The NC heading, line by line, for each form of profile."""

import math

import pytest

from uncus.catalog.sections import section
from uncus.deliver.nc import Heading, nc_text
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.part import plate, rolled

HEAD = Heading("26-014", "m1", "m1", 3, texts=("Tern Point Boathouse", "Ünïcode"))


def lines(part):
    return nc_text(part, HEAD).splitlines()


@pytest.mark.parametrize(
    ("name", "code"),
    [
        ("W12X26", "I"),
        ("C10X15.3", "U"),
        ("L4X4X3/8", "L"),
        ("WT6X25", "T"),
        ("HSS6X4X1/4", "M"),
        ("PIPE4STD", "RO"),
        ("HEB200", "I"),
    ],
)
def test_headings(name, code):
    s = section(name)
    part, _ = rolled(s, "A992", "", EndCut(0), EndCut(3000))
    found = lines(part)
    assert found[0] == "ST" and found[-1] == "EN"
    assert [x.strip() for x in found[1:9]] == ["26-014", "m1", "1", "m1", "A992", "3", name, code]
    sizes = [float(x) for x in found[9:15]]
    assert sizes == pytest.approx([3000, s.d, s.b, s.tf, s.tw, s.r], abs=0.005)
    assert float(found[15]) == pytest.approx(s.kg_m, abs=0.001)
    assert [float(x) for x in found[17:21]] == [0, 0, 0, 0]
    assert found[21:25] == ["  Tern Point Boathouse", "  ?n?code", "  -", "  -"]
    assert all(x.isascii() for x in found)
    assert "AK" not in found and "BO" not in found and "SI" in found


def test_painted_surface_is_the_outside_of_the_profile():
    box, _ = rolled(section("HSS6X4X1/4"), "A500-C", "", EndCut(0), EndCut(1000))
    outside = (2 * (6 + 4) - 8 * 0.5 + 2 * math.pi * 0.5) * 25.4 / 1000
    assert float(lines(box)[16]) == pytest.approx(outside, rel=0.005)
    flat = plate([(0, 0), (300, 0), (300, 200), (0, 200)], 10, "A36", "")
    assert float(lines(flat)[16]) == pytest.approx(0.4)


def test_saw_angles_are_degrees_of_web_and_flange():
    part, _ = rolled(
        section("W12X26"),
        "A992",
        "",
        EndCut(0, 0.0, math.tan(math.radians(10))),
        EndCut(3000, math.tan(math.radians(-20)), 0.0),
    )
    web_start, web_end, flange_start, flange_end = (float(x) for x in lines(part)[17:21])
    assert (web_start, web_end, flange_start, flange_end) == pytest.approx((10, 0, 0, -20), abs=0.001)


def test_the_stamp_keeps_clear_of_holes():
    holes = [Hole(Face.WEB, x, 0.0, 22.0) for x in (290.0, 320.0, 500.0)]
    part, _ = rolled(section("W12X26"), "A992", "", EndCut(0), EndCut(3000), holes)
    stamp = next(x for x in lines(part) if x.endswith("rm1"))
    x = float(stamp.split("u")[0].split()[1])
    assert min(abs(x - h.x) for h in holes) > 40


def test_a_plate_is_its_own_rectangle_and_contour():
    part = plate([(0, -50), (200, -50), (200, 50), (0, 50)], 12.7, "A36", "", [Hole(Face.WEB, 50, 0, 20)])
    found = lines(part)
    assert found[8].strip() == "B" and [float(x) for x in found[9:11]] == [200, 100]
    assert "  v 50.00u 50.00 20.00 0.00" in found
    start = found.index("AK")
    points = [tuple(float(v.rstrip("u")) for v in x.split()[1:3]) for x in found[start + 1 : start + 6]]
    assert points[0] == points[-1] and {(0, 0), (200, 0), (200, 100), (0, 100)} == set(points)
