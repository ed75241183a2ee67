"""The flats of a bent plate: what lies between its bends, each still in one plane, and where it stands once it is
bent."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely

from uncus.frame.placement import Placement
from uncus.steel.forming import Bend, folded, zone
from uncus.steel.part import Part, plate

Outline = tuple[tuple[float, float], ...]
_FAR = 1e5
_OVER = 0.01  # mm
_DUST = 1e-3  # mm2
_STILL = 0.01  # mm, and thousandths of a turn


class Flat(NamedTuple):
    """A flat of a bent plate: `place` takes points of the flat plate (x, y, z) to where they are once it is bent; its
    `outline` (x, z) in the flat plate, free of the bends' zones."""

    place: Placement
    outline: Outline

    @property
    def stays(self) -> bool:
        """Whether no bend turns it."""
        off = np.abs(self.place.axes - np.eye(3)).max() * 1e3 + np.abs(self.place.origin).max()
        return bool(off < _STILL)


@lru_cache(maxsize=4096)
def flats(outline: Outline, bends: tuple[Bend, ...], thickness: float) -> tuple[Flat, ...]:
    """Each flat of a plate; the whole of one that is not bent."""
    if not bends:
        return (Flat(Placement.identity(), outline),)
    left: shapely.Geometry = shapely.Polygon(outline)
    for bend in bends:
        if not bend.sharp:
            left = left.difference(_band(bend, thickness))
    sharp = [_line(bend) for bend in bends if bend.sharp]
    shapes = _split(left, sharp)
    spots, steps = [], []
    for shape in shapes:
        at = shape.representative_point()
        step = min(1.0, float(shape.exterior.distance(at)) / 2)
        spots += [(at.x, 0.0, at.y), (at.x + step, 0.0, at.y), (at.x, 0.0, at.y + step)]
        steps.append(step)
    there = folded(np.array(spots), bends, thickness).reshape(-1, 3, 3)
    found = []
    for shape, (here, along, up), spot, step in zip(shapes, there, spots[::3], steps, strict=True):
        x, z = (along - here) / step, (up - here) / step
        axes = np.column_stack([x, np.cross(z, x), z])
        round_ = shapely.geometry.polygon.orient(shape).exterior.coords[:-1]
        ring = tuple((float(u), float(v)) for u, v in round_)
        found.append(Flat(Placement(here - axes @ np.array(spot), axes), ring))
    return tuple(found)


def _line(bend: Bend) -> shapely.LineString:
    """A sharp fold's line, a little longer than it is."""
    a, b = np.array([bend.x1, bend.z1]), np.array([bend.x2, bend.z2])
    over = (b - a) / max(float(np.hypot(*(b - a))), 1e-9) * _OVER
    return shapely.LineString([a - over, b + over])


def _split(left: shapely.Geometry, lines: Sequence[shapely.LineString]) -> Sequence[shapely.Polygon]:
    """The pieces that lines part a shape into."""
    if not lines:
        return list(shapely.get_parts(left))
    network = shapely.union_all([shapely.boundary(left), *lines])
    pieces = shapely.get_parts(shapely.polygonize([network]))
    return [p for p in pieces if p.area > _DUST and shapely.intersects(left, p.representative_point())]


def _band(bend: Bend, thickness: float) -> shapely.Polygon:
    """The strip of the flat plate that a bend takes up."""
    at, n, half = np.array([bend.x1, bend.z1]), bend.left, zone(bend, thickness) / 2
    run = np.array([n[1], -n[0]])
    return shapely.Polygon([at + a * _FAR * run + b * half * n for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])


def flat_parts(part: Part, placement: Placement) -> Sequence[tuple[Part, Placement]]:
    """A plate as flat plates where they lie: itself, or each flat of a bent one with the holes in it."""
    if not part.bends:
        return ((part, placement),)
    found = []
    for place, ring in flats(part.outline, part.bends, part.thickness):
        inside = shapely.Polygon(ring)
        holes = [h for h in part.holes if inside.intersects(shapely.Point(h.x, h.w))]
        one = plate(ring, part.thickness, part.grade, part.finish, holes)
        found.append((one, (placement @ place).moved((min(x for x, _ in ring), 0.0, 0.0))))
    return tuple(found)
