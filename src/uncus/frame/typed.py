"""Points typed in the prompt, on the work plane.

12'-6           so far along the pointer
12'-6 at 30     so far at an angle from the plane's x (degrees, or a slope such as 4:12)
3', -2'         so far along the plane's x and y from the last point; a third number goes out of the plane
2/B             the grid crossing
2/B + 3', -2'   from the grid crossing; `origin + ...` from the plane's own origin
"""

from __future__ import annotations

import math
import re

import numpy as np

from uncus.frame.grids import crossings
from uncus.frame.placement import Vec, tidied
from uncus.frame.planes import Plane
from uncus.job.errors import JobError
from uncus.job.records import Grid, Point
from uncus.units import UnitError, Units, parse_angle, parse_length
from uncus.words import quoted

_POLAR = re.compile(r"^(?P<length>.+?)\s+at\s+(?P<angle>\S.*)$", re.IGNORECASE)


def typed_point(
    text: str, plane: Plane, grid: Grid | None, units: Units, last: Vec | None = None, pointer: Vec | None = None
) -> Vec:
    """The model point of a typed entry. `last` is the point picked before, `pointer` where the pointer is.

    Raises UnitError or JobError with a sentence.
    """
    text = text.strip()
    if len(text) > 300:
        raise UnitError(f"{quoted(text)} is too long to be a point.")
    start, rest = _start(text, plane, grid)
    if start is not None and not rest:
        return start
    origin = start if start is not None else last
    if polar := _POLAR.match(rest):
        length, angle = parse_length(polar["length"], units), math.radians(parse_angle(polar["angle"]))
        return _from(origin, rest) + length * (math.cos(angle) * plane.base.x + math.sin(angle) * plane.base.y)
    if "," in rest:
        steps = [parse_length(item, units) if item.strip() else 0.0 for item in rest.split(",")]
        if len(steps) > 3:
            raise UnitError(f"“{text}” has more than three lengths; type x, y and, where wanted, how far out.")
        base = origin if origin is not None else plane.place.origin
        return np.asarray(base + plane.base.axes @ np.array([*steps, 0.0, 0.0][:3]))
    length = parse_length(rest, units)
    origin = _from(origin, rest)
    if start is not None:
        raise UnitError(f"“{text}”: say which way from there, such as {text}, 0 or {text} at 90.")
    if pointer is None or math.dist(pointer, origin) < 1e-6:
        raise JobError("Point in the direction first, then type the length; or type it with “at” and an angle.")
    way = pointer - origin
    return np.asarray(origin + way * (length / float(np.linalg.norm(way))))


def retyped_point(text: str, before: Point, grid: Grid | None, units: Units) -> Point:
    """A work point typed anew, `x, y, z` from the grid's origin: a number left out stays as it was, so that many are
    set at one height by `, , 12'`. A grid crossing gives x and y: `2/B` or `2/B, 12'`. Raises UnitError or JobError."""
    head, _, rest = text.strip().partition(",")
    for label, x, y in crossings(grid) if grid is not None else ():
        if label.casefold() == head.strip().casefold():
            return tidied((x, y, parse_length(rest, units) if rest.strip() else before[2]))
    typed = text.split(",")
    if len(typed) != 3:
        raise UnitError(f"{quoted(text)} is no point: type x, y, z (leave one empty to keep it), or a grid crossing.")
    return tidied([parse_length(t, units) if t.strip() else was for t, was in zip(typed, before, strict=True)])


def _from(origin: Vec | None, rest: str) -> Vec:
    if origin is None:
        raise JobError(f"There is no point yet for “{rest}” to start from; pick one, or type 2/B or 2/B + {rest}, 0.")
    return origin


def _start(text: str, plane: Plane, grid: Grid | None) -> tuple[Vec | None, str]:
    """The named point an entry starts from, on the plane, and what is typed after its plus sign."""
    head, plus, rest = text.partition("+")
    name = head.strip()
    if name.casefold() == "origin":
        return plane.place.origin, rest.strip()
    if grid is not None and "/" in name and "'" not in name:
        for label, x, y in crossings(grid):
            if label.casefold() == name.casefold():
                return _on_plane(x, y, plane, label), rest.strip()
    if plus and re.fullmatch(r"[A-Za-z0-9.]+/[A-Za-z0-9.]+", name) and not re.fullmatch(r"\d+/\d+", name):
        raise JobError(f"There is no grid crossing “{name}”.")
    if re.fullmatch(r"[0-9.]+/[A-Za-z]+|[A-Za-z]+/[0-9.]+", name):
        raise JobError(f"There is no grid crossing “{name}”.")
    return None, text


def _on_plane(x: float, y: float, plane: Plane, label: str) -> Vec:
    """Where the plumb line through a grid crossing meets the plane; on an upright plane, its foot at the origin."""
    met = plane.under((x, y, 0.0), (0.0, 0.0, 1.0))
    if met is not None:
        return met
    foot = np.array([x, y, float(plane.place.origin[2])])
    if abs(plane.away(foot)) > 1.0:
        raise JobError(f"Grid crossing {label} is not on the work plane {plane.name}; choose a level's plane.")
    return foot
