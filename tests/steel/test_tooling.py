"""What of a plate's bends no press makes: radii by grade and thickness, legs by radius."""

import pytest

from uncus.catalog.bending import least_leg, least_radius
from uncus.steel.forming import Bend
from uncus.steel.part import plate
from uncus.steel.tooling import too_tight
from uncus.units import INCH, Units


@pytest.mark.parametrize(
    ("grade", "thickness", "least"),
    [
        ("A36", 0.25 * INCH, 0.375 * INCH),
        ("A36", 2.5 * INCH, 5.0 * INCH),
        ("A572-50", 0.75 * INCH, 1.125 * INCH),
        ("A572-50", 1.25 * INCH, 2.5 * INCH),
        ("S235JR", 6.0, 8.0),
        ("S275JR", 6.0, 10.0),
        ("S355J2", 12.0, 25.0),
        ("S355J2", 20.0, 50.0),
    ],
)
def test_the_least_radius_by_grade_and_thickness(grade, thickness, least):
    assert least_radius(grade, thickness)[0] == pytest.approx(least)
    assert least_radius(grade, 60.0) is None or (grade.startswith("A") and least_radius("A500-C", 6.0) is None)


@pytest.mark.parametrize(
    ("radius", "at", "told"),
    [
        (20.0, -100.0, []),
        (19.0, -100.0, ["radius"]),
        (20.0, -72.0, []),
        (20.0, -55.0, ["leg"]),
        (20.0, -145.0, ["leg"]),
        (8.0, -10.0, ["radius", "leg"]),
        (-5.0, -10.0, []),  # folded sharp along a line, as developed plates are
    ],
)
def test_bends_and_legs_that_are_too_short_are_told_with_both_figures(radius, at, told):
    ring = [(0.0, -200.0), (300.0, -200.0), (300.0, 0.0), (0.0, 0.0)]
    part = plate(ring, 10.0, "S275JR", "", bends=[Bend(0.0, at, 300.0, at, 90.0, radius)])
    found = list(too_tight(part))
    assert [s.what for s in found] == told
    for s in found:
        assert s.is_ < s.least and s.source in s.said(Units.METRIC)
    if told == ["leg"]:
        assert found[0].least == least_leg(radius)[0] == 80.0
