"""How tightly plate is bent cold: the least inside radius by grade and thickness, and the least leg that a tool holds.

Radii: ASTM A6/A6M, Table X4.2 (AISC Manual, Table 10-13) for A36 and A572, in thicknesses; EN 10025-2, Annex on cold
flanging, for S235 to S355, in mm. All are for a bend line across the direction of rolling. Legs: DIN 6935, four times
the inside radius, measured outside.
"""

from __future__ import annotations

from bisect import bisect_left

_LEG = 4.0  # inside radii
_A6 = "ASTM A6, Table X4.2"
_EN = "EN 10025-2, cold flanging"
_A6_UP_TO = (19.05, 25.4, 50.8)  # mm of thickness, and over
_A6_RADII = {"A36": (1.5, 1.5, 1.5, 2.0), "A572-50": (1.5, 1.5, 2.0, 2.5)}
_EN_UP_TO = (1.5, 2.5, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0)
_EN_RADII = {
    "S235": (1.6, 2.5, 3.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 28.0, 36.0, 40.0),
    "S275": (2.0, 3.0, 4.0, 5.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 28.0, 32.0, 40.0, 45.0),
    "S355": (2.5, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 36.0, 45.0, 50.0),
}
_SAME = 0.06  # mm


def least_radius(grade: str, thickness: float) -> tuple[float, str] | None:
    """The least inside radius in mm of a cold bend in a plate so many mm thick, and its source; None where none is
    known."""
    if grade in _A6_RADII:
        return _A6_RADII[grade][bisect_left(_A6_UP_TO, thickness - _SAME)] * thickness, _A6
    rows = _EN_RADII.get(grade[:4])
    at = bisect_left(_EN_UP_TO, thickness - _SAME)
    return (rows[at], _EN) if rows is not None and at < len(rows) else None


def usual_radius(grade: str, thickness: float) -> float:
    """The inside radius in mm that a plate is bent to where none is given: a thickness and a half, or what its grade
    takes."""
    least = least_radius(grade, thickness)
    return max(1.5 * thickness, least[0] if least is not None else 0.0)


def least_leg(radius: float) -> tuple[float, str]:
    """The least outside length in mm of a leg that is bent to an inside radius, and its source."""
    return _LEG * radius, "DIN 6935"
