"""Measures between points, in words: straight and by the work plane's axes, angles, edge distances, chains."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from uncus.frame.placement import unit
from uncus.frame.planes import Plane
from uncus.job.errors import JobError
from uncus.job.records import Point
from uncus.units import Units, format_angle, format_length


def straight(a: Point, b: Point, plane: Plane, units: Units) -> str:
    """The true distance, then what of it lies along the plane's x and y and out of it: points at different depths
    mislead, so both are said."""
    local = np.subtract(b, a) @ plane.base.axes
    parts = [
        f"{axis} {format_length(abs(float(c)), units)}"
        for axis, c in zip(("x", "y", "out"), local, strict=True)
        if abs(c) > 0.5
    ]
    words = format_length(math.dist(a, b), units)
    return words if len(parts) < 2 else f"{words}   {'  '.join(parts)}"


def angle(corner: Point, a: Point, b: Point, plane: Plane) -> str:
    """The angle at a corner between two directions, in space; as the plane sees it too where that differs.

    Raises JobError where a direction has no length.
    """
    u, v = np.subtract(a, corner), np.subtract(b, corner)
    if min(np.linalg.norm(u), np.linalg.norm(v)) < 1.0:
        raise JobError("An angle needs three different points: the corner, then one on each side.")
    true = math.degrees(math.acos(max(-1.0, min(1.0, float(unit(u) @ unit(v))))))
    flat = [w - (w @ plane.base.z) * plane.base.z for w in (u, v)]
    words = format_angle(true)
    if min(np.linalg.norm(w) for w in flat) >= 1.0:
        seen = math.degrees(math.acos(max(-1.0, min(1.0, float(unit(flat[0]) @ unit(flat[1]))))))
        if abs(seen - true) > 0.005:
            words += f"   on the plane {format_angle(seen)}"
    return words


def edge_foot(point: Point, line: tuple[Point, Point]) -> Point:
    """The foot of the square from a point to a line's endless run."""
    a, b = np.asarray(line[0]), np.asarray(line[1])
    x = unit(b - a)
    foot = a + ((np.asarray(point) - a) @ x) * x
    return float(foot[0]), float(foot[1]), float(foot[2])


def chain(points: Sequence[Point], units: Units) -> str:
    """Each step, then the sum along the way."""
    steps = [math.dist(a, b) for a, b in zip(points, points[1:], strict=False)]
    shown = [format_length(s, units) for s in steps]
    return f"{' + '.join(shown)} = {format_length(sum(steps), units)}" if len(steps) > 1 else "".join(shown)
