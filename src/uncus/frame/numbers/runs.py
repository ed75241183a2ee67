"""Runs of purlins or girts: lines side by side over a slope or wall, each cut at the frames."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between, left_to_right, refuse_too_many, spaced
from uncus.frame.placement import unit
from uncus.frame.roll import RollBy, towards
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Line, Member, Role
from uncus.units import FOOT, parse_lengths

replace = msgspec.structs.replace


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    role: Annotated[str, About("Role", unit="choice", choices=(str(Role.PURLIN), str(Role.GIRT)))] = "purlin"
    section: Annotated[str, About("Section", unit="section")] = "W8X18"
    first: Annotated[
        float,
        About("First line from the edge", high=20_000, help="Along the slope or up the wall from the first point."),
    ] = 0.0
    last: Annotated[float, About("Last line from the other edge", high=20_000)] = 0.0
    lines: Annotated[
        str,
        About("Spacings", unit="spacings", help="Between the lines, such as 3@5', 4'; empty for even ones as below."),
    ] = ""
    largest: Annotated[
        float, About("Else at most apart", low=200, high=20_000, help="Lines are spaced evenly, no farther apart.")
    ] = 6 * FOOT
    bays: Annotated[
        str,
        About("Bays", unit="spacings", help="Lengths from frame to frame, such as 22', 20'; empty for one length."),
    ] = ""
    turned: Annotated[str, About("Turned", unit="choice", choices=("square to the slope", "web vertical"))] = (
        "square to the slope"
    )
    line: Annotated[str, About("Work line at", unit="choice", choices=tuple(str(x) for x in Line))] = "bottom"


def build(p: Params, placed: Placed) -> list[Member]:
    low, high, far = placed.points
    slope, along = high - low, far - low
    along = along - (along @ unit(slope)) * unit(slope) if abs(unit(slope) @ UP) > 0.999 else along
    height, length = float(np.linalg.norm(slope)), float(np.linalg.norm(along))
    if min(height, length) < 100 or np.linalg.norm(np.cross(unit(slope), unit(along))) < 0.01:
        raise JobError("The three points are in line; pick the last frame to the side of the first.")
    up, way = unit(slope), unit(along)
    normal = unit(np.cross(way, up))
    normal = normal if normal @ UP >= 0 else -normal
    out = []
    bays, lines = _bays(p, length, placed), _lines(p, height, placed)
    refuse_too_many("run of purlins or girts", len(bays) * len(lines))
    for v in lines:
        for s, e in bays:
            a, b = left_to_right(low + up * v + way * s, low + up * v + way * e)
            made = between(Role(p.role), p.section, a, b, Line(p.line))
            if p.turned == "square to the slope" and abs(float(normal @ UP)) > 0.02:
                made = replace(made, roll=towards(made, normal) % 360.0, roll_by=str(RollBy.FLANGE))
            out.append(made)
    return out


def _lines(p: Params, height: float, placed: Placed) -> list[float]:
    if not p.lines:
        room = height - p.first - p.last
        if room < 0:
            raise JobError("First and last line lie past each other; give less from the edges.")
        return [p.first + v for v in spaced(room, p.largest)] if room > 1 else [p.first]
    at, found = p.first, [p.first]
    for spacing in parse_lengths(p.lines, placed.units):
        at += spacing
        found.append(at)
    if at > height + 1:
        raise JobError("The spacings run past the edge; give fewer or smaller ones.")
    return found


def _bays(p: Params, length: float, placed: Placed) -> list[tuple[float, float]]:
    if not p.bays:
        return [(0.0, length)]
    at, found = 0.0, []
    for bay in parse_lengths(p.bays, placed.units):
        found.append((at, at + bay))
        at += bay
    if abs(at - length) > 1.0:
        raise JobError("The bays do not add up to the distance to the last frame; check them, or leave them empty.")
    return found


RUNS = ByNumbers(
    "run of purlins or girts",
    "Purlins or girts",
    Params,
    (
        "pick the low edge at the first frame",
        "pick the high edge at the first frame",
        "pick the low edge at the last frame",
    ),
    build,
    "Lines side by side over a slope or a wall, cut at the frames.",
    {"section": "IPE160", "largest": 1800.0},
)
