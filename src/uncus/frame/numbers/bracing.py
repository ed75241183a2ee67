"""A bay of bracing: X, single or K between two corners, single or double angles or any section."""

from typing import Annotated, Any

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between
from uncus.frame.placement import Vec, unit
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Double, Layout, Leg, Line, Member, Role, Turnbuckle
from uncus.units import INCH

_BACKED = (Form.ANGLE, Form.CHANNEL)
_SHAPES = ("X", "rising left to right", "falling left to right", "K up", "K down")

_TIES = ("with turnbuckles", "turned themselves")
_CROSSINGS = ("the second in two lengths", "both in one length", "set off to either side")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[
        str,
        About("Shape", unit="choice", choices=_SHAPES, help="K up: both braces rise to the middle of the beam above."),
    ] = "X"
    section: Annotated[
        str, About("Section", unit="section", help="A round bar, such as ROD1 or RD24, makes tie rods.")
    ] = "L4X4X3/8"
    crossing: Annotated[
        str,
        About(
            "Where an X crosses",
            unit="choice",
            choices=_CROSSINGS,
            help="In two lengths: held to a plate on the first brace. Set off: each on its own side of the gussets, so "
            "that they pass; tie rods are always.",
            only=("shape", "X"),
        ),
    ] = _CROSSINGS[0]
    pair: Annotated[
        str, About("Angles", unit="choice", choices=("single", *(str(x) for x in Layout)), help="One angle, or a pair.")
    ] = "single"
    leg: Annotated[
        str,
        About(
            "Leg at the gusset",
            unit="choice",
            choices=tuple(str(x) for x in Leg),
            help="Of a pair.",
            only=("pair", str(Layout.BACK_TO_BACK)),
        ),
    ] = "long"
    gap: Annotated[
        float,
        About(
            "Gap between backs",
            high=150,
            help="In a pair, or between braces set off to either side: their gussets fill it.",
        ),
    ] = 3 / 8 * INCH
    spacing: Annotated[
        float,
        About(
            "Stitches at most apart",
            low=100,
            high=20_000,
            help="Stitch plates of a pair.",
            only=("pair", *(str(x) for x in Layout)),
        ),
    ] = 36 * INCH
    turnbuckles: Annotated[
        str,
        About(
            "Tie rods",
            unit="choice",
            choices=_TIES,
            help="Of round bars: a turnbuckle at a quarter of each, from its lower end, or the rod turned in the "
            "clevises at its ends.",
        ),
    ] = _TIES[0]
    drop: Annotated[
        float, About("Work points drop", high=5_000, help="How far the upper work points lie below the corners picked.")
    ] = 0.0
    lift: Annotated[
        float, About("Work points lift", high=5_000, help="How far the lower work points lie above the corners picked.")
    ] = 0.0


def build(p: Params, placed: Placed) -> list[Member]:
    a, c = placed.points[0], placed.points[1]
    x, y, wide, high = _bay(a, c)
    if high < 0:
        a, high = a + y * high, -high
    low, top = p.lift, high - p.drop
    if top - low < 100:
        raise JobError("The work points drop and lift past each other; give less.")

    def at(u: float, v: float) -> Vec:
        return np.asarray(a + x * u + y * v)

    shapes: dict[str, list[tuple[tuple[float, float], tuple[float, float]]]] = {
        "X": [((0, low), (wide, top)), ((0, top), (wide, low))],
        _SHAPES[1]: [((0, low), (wide, top))],
        _SHAPES[2]: [((0, top), (wide, low))],
        "K up": [((0, low), (wide / 2, top)), ((wide / 2, top), (wide, low))],
        "K down": [((0, top), (wide / 2, low)), ((wide / 2, low), (wide, top))],
    }
    if p.crossing == _CROSSINGS[0] and section(p.section).form is not Form.ROUND:
        middle = (wide / 2, (low + top) / 2)
        first, (start, end) = shapes["X"]
        shapes["X"] = [first, (start, middle), (middle, end)]
    rods = section(p.section).form is Form.ROUND
    if p.shape == "X" and (rods or p.crossing == _CROSSINGS[2]):
        return _set_off(p, [(at(*s), at(*e)) for s, e in shapes["X"]])
    double = None if p.pair == "single" else Double(Layout(p.pair), Leg(p.leg), p.gap, None, p.spacing)
    # a single angle lies with its back on the bay's plane, where its gussets are, its gage line on the work points
    line = Line.GAGE if double is None and section(p.section).form is Form.ANGLE else Line.CENTRE
    lines = [(at(*start), at(*end)) for start, end in shapes[p.shape]]
    return [between(Role.BRACE, p.section, a, b, line, double=double, **_tied(p, a, b)) for a, b in lines]


def _tied(p: Params, a: Vec, b: Vec) -> dict[str, Any]:
    """What a round bar has besides: a turnbuckle within reach of who stands below, and clear of where rods cross."""
    if section(p.section).form is not Form.ROUND or p.turnbuckles != _TIES[0]:
        return {}
    long = float(np.linalg.norm(b - a))
    return {"turnbuckle": Turnbuckle(round(long * (0.25 if a[2] <= b[2] else 0.75)))}


def _set_off(p: Params, lines: list[tuple[Vec, Vec]]) -> list[Member]:
    """Two braces in one length each, at either side of the plane of their work points: the second runs the other
    way, so that its back looks at the first's, and their gussets lie between them; rods stand clear of each other, and
    both begin at their lower ends, so that they are one piece twice."""
    s = section(p.section)
    if p.pair != "single" or s.form not in (*_BACKED, Form.ROUND):
        kind = "a pair" if p.pair != "single" else s.name
        raise JobError(
            f"Only single angles, channels and round bars lie on one side of their gussets and can be set off; for "
            f"{kind} choose two lengths.")  # fmt: skip
    out = (s.b + p.gap) / 2
    (a, b), (c, d) = lines
    return [between(Role.BRACE, p.section, start, end, aside=out, **_tied(p, start, end)) for start, end
        in ((a, b), (d, c))]  # fmt: skip


def _bay(a: Vec, c: Vec) -> tuple[Vec, Vec, float, float]:
    """Axes and size of the bay between opposite corners: upright where they differ in height, else in plan."""
    d = c - a
    level = d - (d @ UP) * UP
    wide = float(np.linalg.norm(level))
    high = float(d @ UP)
    if abs(high) < 100.0:  # in plan: along the axis of the building that is longer
        x = np.array([1.0, 0, 0]) if abs(d[0]) >= abs(d[1]) else np.array([0, 1.0, 0])
        y = np.array([0, 1.0, 0]) if abs(d[0]) >= abs(d[1]) else np.array([1.0, 0, 0])
        if float(d @ x) < 0:
            x = -x
        wide, high = float(d @ x), float(d @ y)
        if min(wide, abs(high)) < 100:
            raise JobError("The bay has no width or no height; pick two opposite corners.")
        return x, y, wide, high
    if wide < 100:
        raise JobError("The bay has no width; pick two opposite corners.")
    return unit(level), UP, wide, high


BRACING = ByNumbers(
    "bay of bracing",
    "Bracing bay",
    Params,
    ("pick a lower corner of the bay", "pick the opposite upper corner"),
    build,
    "X, single or K bracing between two corners, in a wall or in plan.",
    {"gap": 10.0, "spacing": 900.0},
)
