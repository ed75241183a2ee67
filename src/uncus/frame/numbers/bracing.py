"""A bay of bracing: X, single or K between two corners, single or double angles or any section."""

from typing import Annotated

import numpy as np

from uncus.frame.axes import UP
from uncus.frame.numbers.bays import METRIC, Bay, Braces, Run, braces
from uncus.frame.numbers.kind import ByNumbers, Placed
from uncus.frame.placement import Vec, unit
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Member

_SHAPES = ("X", "rising left to right", "falling left to right", "K up", "K down")


class Params(Braces, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[
        str,
        About("Shape", unit="choice", choices=_SHAPES, help="K up: both braces rise to the middle of the beam above."),
    ] = "X"
    drop: Annotated[
        float,
        About(
            "Work points drop",
            high=5_000,
            help="How far the upper work points lie below the corners picked; in plan, all of them.",
        ),
    ] = 0.0
    lift: Annotated[
        float,
        About(
            "Work points lift",
            high=5_000,
            help="How far the lower work points lie above the corners picked; in plan, all of them.",
        ),
    ] = 0.0


def build(p: Params, placed: Placed) -> list[Member]:
    bay = _bay(p, placed.points[0], placed.points[1])
    a, b, c, d = bay
    below, above = (a + b) / 2, (c + d) / 2
    shapes: dict[str, list[Run]] = {
        "X": [(a, c), (d, b)],
        _SHAPES[1]: [(a, c)],
        _SHAPES[2]: [(d, b)],
        "K up": [(a, above), (above, b)],
        "K down": [(d, below), (below, c)],
    }
    return braces(p, bay, shapes[p.shape], p.shape == "X")


def _bay(p: Params, a: Vec, c: Vec) -> Bay:
    """The bay between opposite corners: upright where they differ in height, else in plan."""
    x, y, wide, high = _axes(a, c)
    if high < 0:
        a, high = a + y * high, -high
    upright = abs(float(y @ UP)) > 0.5
    low, top = (p.lift, high - p.drop) if upright else (0.0, high)
    if top - low < 100:
        raise JobError("The work points drop and lift past each other; give less.")
    bay = Bay(a + y * low, a + x * wide + y * low, a + x * wide + y * top, a + y * top)
    return bay if upright else bay.moved((p.lift - p.drop) * UP)


def _axes(a: Vec, c: Vec) -> tuple[Vec, Vec, float, float]:
    """Axes and size of the bay between opposite corners."""
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
    "X, single or K bracing between two corners, in a wall or square in plan.",
    METRIC,
)
