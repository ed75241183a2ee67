"""A plate set in a wall: a short upright flat whose face is the wall's, drawn by the middle of that face and the way
it looks."""

from __future__ import annotations

import math
from typing import Annotated

import msgspec

from uncus.catalog.sections import section
from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between
from uncus.job.forms import About
from uncus.job.records import Member, Role
from uncus.units import INCH, Units


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    wide: Annotated[float, About("Width", low=50, high=2500, help="Level, along the wall.")] = 12 * INCH
    high: Annotated[float, About("Height", low=50, high=3000)] = 14 * INCH
    thickness: Annotated[float, About("Thickness", low=5, high=150)] = 0.75 * INCH
    up: Annotated[float, About("Middle above the point", low=-3000, high=3000,
        help="Less than nothing where the plate's middle lies below the point picked.")] = 0.0  # fmt: skip


def build(p: Params, placed: Placed) -> list[Member]:
    """One member: its width and thickness are its section, its work line lies on the wall's face."""
    out = placed.level_way
    middle = placed.points[0] + p.up * UP
    size = _size(p, placed.units)
    # a plumb member's near side looks west at roll 0
    roll = (math.degrees(math.atan2(float(out[1]), float(out[0]))) - 180.0) % 360.0
    ends = (middle - p.high / 2 * UP, middle + p.high / 2 * UP)
    return [between(Role.EMBED, size, *ends, roll=round(roll, 9) % 360.0, aside=p.thickness / 2)]


def _size(p: Params, units: Units) -> str:
    wide, thick = max(p.wide, p.thickness), min(p.wide, p.thickness)
    if units is Units.METRIC:
        return section(f"FL{wide:.3f}X{thick:.3f}").name
    return section(f"PL{thick / INCH:.3f}X{wide / INCH:.3f}").name


EMBED = ByNumbers(
    "plate in a wall",
    "Plate in a wall",
    Params,
    (
        "pick the middle of the plate's face, on the face of the wall",
        "pick a point it looks to, such as along the beam",
    ),
    build,
    "A plate cast into a wall, to which beams are joined; give it studs or straps by “Anchors in concrete”.",
    {"wide": 300.0, "high": 350.0, "thickness": 20.0},
)
