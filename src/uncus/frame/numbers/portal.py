"""A portal frame: two columns and one or two rafters over a span, with haunches where wanted."""

import math
from typing import Annotated

import msgspec
import numpy as np

from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between
from uncus.frame.placement import Vec
from uncus.frame.roll import towards
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Line, Member, Role
from uncus.units import FOOT


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[
        str, About("Roof", unit="choice", choices=("pitched", "mono"), help="Two slopes to a ridge, or one slope.")
    ] = "pitched"
    eaves: Annotated[float, About("Height at the eaves", low=500, high=100_000)] = 16 * FOOT
    pitch: Annotated[float, About("Pitch", unit="angle", low=0, high=70, help="Degrees, or a slope such as 3:12.")] = (
        math.degrees(math.atan2(3, 12))
    )
    column: Annotated[str, About("Column", unit="section")] = "W10X39"
    rafter: Annotated[str, About("Rafter", unit="section")] = "W14X22"
    haunch: Annotated[
        float, About("Haunch along the rafter", high=20_000, help="From the column's line; nothing for no haunch.")
    ] = 0.0
    haunch_depth: Annotated[
        float, About("Haunch depth at the column", low=100, high=5_000, help="Below the rafter, down the column.")
    ] = 1.5 * FOOT


def build(p: Params, placed: Placed) -> list[Member]:
    x, span = placed.level_way, placed.span
    foot = placed.points[0]
    far = foot + x * span
    rise = math.tan(math.radians(p.pitch))
    left_top = foot + p.eaves * UP
    if p.shape == "mono":
        right_top = far + (p.eaves + span * rise) * UP
        slopes = [(left_top, right_top)]
    else:
        ridge = foot + x * span / 2 + (p.eaves + span / 2 * rise) * UP
        right_top = far + p.eaves * UP
        slopes = [(left_top, ridge), (right_top, ridge)]
    out = [_column(p, at, top, x) for at, top in ((foot, left_top), (far, right_top))]
    out += [between(Role.RAFTER, p.rafter, a, b, Line.TOP) for a, b in slopes]
    if p.haunch > 0:
        ends = slopes if p.shape == "pitched" else [slopes[0], slopes[0][::-1]]
        out += [_haunch(p, top, towards) for top, towards in ends]
    return out


def _column(p: Params, foot: Vec, top: Vec, x: Vec) -> Member:
    """A column whose web stands in the frame's plane, whichever way that runs."""
    column = between(Role.COLUMN, p.column, foot, top)
    return msgspec.structs.replace(column, roll=round(towards(column, x), 6) % 180.0)


def _haunch(p: Params, top: Vec, towards: Vec) -> Member:
    """From the column below the knee up to the rafter."""
    length = float(np.linalg.norm(towards - top))
    if p.haunch >= length:
        raise JobError("The haunch is longer than the rafter; give less along the rafter.")
    if p.haunch_depth >= p.eaves:
        raise JobError("The haunch reaches below the column's foot; give less depth.")
    return between(
        Role.STRUT, p.rafter, top - p.haunch_depth * UP, top + (towards - top) * (p.haunch / length), Line.BOTTOM
    )


PORTAL = ByNumbers(
    "portal frame",
    "Portal frame",
    Params,
    ("pick the left foot", "pick the right foot, or type the span"),
    build,
    "Two columns and the rafters over them.",
    {"eaves": 5000.0, "column": "HEB240", "rafter": "IPE330", "haunch_depth": 450.0},
)
