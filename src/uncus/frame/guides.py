"""Guides: throw-away lines for picking, made from others on the work plane."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from uncus.frame.placement import Vec, tidied, unit
from uncus.frame.planes import Plane
from uncus.job.errors import JobError
from uncus.job.records import Guide

Segment = tuple[Vec, Vec]
REACH = 100_000.0  # mm of an endless guide each side of its first point: what there is to snap to


def _direction(a: Vec, b: Vec) -> Vec:
    if math.dist(a, b) < 1.0:
        raise JobError("The line has no length; pick two different points or a longer edge.")
    return unit(b - a)


def _across(a: Vec, b: Vec, plane: Plane) -> Vec:
    """Square to a line within the plane, to its left as the plane is seen."""
    side = np.cross(plane.base.z, _direction(a, b))
    if np.linalg.norm(side) < 1e-6:
        raise JobError("The line runs straight out of the work plane; change the plane or pick another line.")
    return unit(side)


def between(a: Vec, b: Vec, endless: bool = True) -> Guide:
    _direction(a, b)
    return Guide(a=tidied(a), b=tidied(b), endless=endless)


def parallel(a: Vec, b: Vec, plane: Plane, distance: float, endless: bool = True) -> Guide:
    """Parallel to the line a-b at a distance in the plane: to its left where it is more than nothing."""
    by = _across(a, b, plane) * distance
    return Guide(a=tidied(a + by), b=tidied(b + by), endless=endless)


def distance_to(a: Vec, b: Vec, plane: Plane, through: Vec) -> float:
    """How far to the left of the line a-b a point is in the plane: what `parallel` wants to go through it."""
    return float((through - a) @ _across(a, b, plane))


def at_angle(a: Vec, b: Vec, plane: Plane, through: Vec, degrees: float) -> Guide:
    """Through a point at an angle to the line a-b, counter-clockwise as the plane is seen."""
    x, y = _direction(a, b), _across(a, b, plane)
    way = x * math.cos(math.radians(degrees)) + y * math.sin(math.radians(degrees))
    length = max(1000.0, math.dist(a, b))
    return Guide(a=tidied(through), b=tidied(through + way * length))


def square(a: Vec, b: Vec, plane: Plane, through: Vec) -> Guide:
    return at_angle(a, b, plane, through, 90.0)


def all_round(corners: Sequence[Vec]) -> list[Guide]:
    """One limited guide along each side of an outline."""
    loop = list(corners)
    pairs = zip(loop, loop[1:] + loop[:1], strict=True)
    return [Guide(a=tidied(a), b=tidied(b), endless=False) for a, b in pairs if math.dist(a, b) >= 1.0]


def stretch(guide: Guide) -> Segment:
    """The ends of what there is of a guide."""
    a, b = np.asarray(guide.a), np.asarray(guide.b)
    if not guide.endless:
        return a, b
    way = unit(b - a) * REACH
    return a - way, a + way
