"""Plates cut to an outline: the part that a blank makes, and whether it can be bent as its folds say."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache

import msgspec
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from uncus.frame.outlines import OutlineError, points_of, polygon
from uncus.job.blanks import Blank, Fold
from uncus.steel.features import EndCut, Face, Feature, Hole, Notch
from uncus.steel.forming import Bend, zone
from uncus.steel.part import Part, plate

_FAR = 1e5
_DUST = 1.0  # mm2


def cut_to(
    blank: Blank,
    thickness: float,
    grade: str,
    finish: str,
    cuts: tuple[EndCut, EndCut],
    features: Iterable[Feature] = (),
) -> tuple[Part, float]:
    """The part of a blank between two cuts, all in its member's frame, and how far its left end lies along that frame.

    Raises ValueError, in words that follow the plate's name, where there is no such plate.
    """
    return _cut_to(blank, thickness, grade, finish, cuts, tuple(features))


@lru_cache(maxsize=4096)
def _cut_to(
    blank: Blank,
    thickness: float,
    grade: str,
    finish: str,
    cuts: tuple[EndCut, EndCut],
    features: tuple[Feature, ...],
) -> tuple[Part, float]:
    shape = polygon(blank.outline)
    own = _cut_off(shape, cuts)
    taken = [*_openings(blank, own), *_holes(blank, own), *features]
    ring = [(float(x), float(z)) for x, z in own.exterior.coords[:-1]]
    bends = ordered(blank.folds, own, thickness)
    made = plate(ring, thickness, grade, finish, taken, bends)
    if blank.lugs is not None:
        made = msgspec.structs.replace(made, surface=blank.lugs)
    return made, min(x for x, _ in ring)


def _cut_off(shape: shapely.Polygon, cuts: tuple[EndCut, EndCut]) -> shapely.Polygon:
    """A blank between the planes of its ends; as it is where they are its own."""
    x0, z0, x1, z1 = shape.bounds
    left, right = cuts
    kept: BaseGeometry = shape
    if any(left.x(0.0, z) > x0 + 1e-3 for z in (z0, z1)):
        kept = kept.difference(_half(left, z0, z1, -1.0))
    if any(right.x(0.0, z) < x1 - 1e-3 for z in (z0, z1)):
        kept = kept.difference(_half(right, z0, z1, 1.0))
    whole = [g for g in shapely.get_parts(kept) if g.area > _DUST]
    if not whole:
        raise ValueError("nothing of it is left between its ends")
    return max(whole, key=lambda g: g.area)


def _half(cut: EndCut, z0: float, z1: float, way: float) -> shapely.Polygon:
    low, high = z0 - 10.0, z1 + 10.0
    line = [(cut.x(0.0, low), low), (cut.x(0.0, high), high)]
    return shapely.Polygon([*line, (way * _FAR, high), (way * _FAR, low)])


def _openings(blank: Blank, shape: shapely.Polygon) -> list[Notch]:
    found = []
    for n, ring in enumerate(blank.openings, 1):
        opening = polygon(ring)
        if not shape.intersects(opening):
            raise OutlineError(f"opening {n} lies beside it; move it onto the plate")
        found.append(Notch(Face.WEB, tuple((float(x), float(z)) for x, z in points_of(ring))))
    return found


def _holes(blank: Blank, shape: shapely.Polygon) -> list[Hole]:
    found = []
    for row in blank.holes:
        for x, z in row.spots():
            if not shape.contains(shapely.Point(x, z)):
                raise OutlineError("a hole lies beside it; move the hole onto the plate or take it out")
            angle = (row.angle + row.turn) % 180.0 if row.slot else 0.0
            found.append(Hole(Face.WEB, x, z, row.d, row.slot, angle))
    return found


def ordered(folds: Sequence[Fold], shape: shapely.Polygon, thickness: float) -> tuple[Bend, ...]:
    """Folds in the order in which they are applied: the outermost first, each turning all that lies beyond it. Raises
    OutlineError where two of them turn one another, cross on the plate, or one turns two pieces apart."""
    if not folds:
        return ()
    if all(f.radius < 0 for f in folds):
        return _ordered_sharp([_bend(f) for f in folds])
    bends = [_bend(f) for f in folds]
    lines = [_across(b, shape) for b in bends]
    for n, (bend, line) in enumerate(zip(bends, lines, strict=True), 1):
        if line.is_empty or line.length < 1.0:
            raise OutlineError(f"bend {n} does not cross it; move its line onto the plate")
        if line.geom_type != "LineString":
            raise OutlineError(f"bend {n} crosses it more than once; a bend goes straight through")
        band = _band(bend, thickness)
        for m in range(n - 1):
            if band.intersects(lines[m]) and _band(bends[m], thickness).intersects(line):
                raise OutlineError(f"bends {m + 1} and {n} run into one another; set them apart or bend less sharply")
    middles = np.array([line.interpolate(0.5, normalized=True).coords[0] for line in lines]).reshape(-1, 2)
    return _in_order(bends, middles)


def _bend(f: Fold) -> Bend:
    return Bend(f.x1, f.z1, f.x2, f.z2, f.angle, f.radius)


def _ordered_sharp(bends: list[Bend]) -> tuple[Bend, ...]:
    """The folds of a developed surface, which run from edge to edge as they are."""
    return _in_order(bends, np.array([((b.x1 + b.x2) / 2, (b.z1 + b.z2) / 2) for b in bends]))


def _in_order(bends: list[Bend], middles: np.ndarray) -> tuple[Bend, ...]:
    """Bends that turn the fewest others first; raises OutlineError where two turn one another."""
    turns = np.array([bend.off(middles[:, 0], middles[:, 1]) > 0 for bend in bends]).reshape(len(bends), -1)
    np.fill_diagonal(turns, False)
    both = np.argwhere(turns & turns.T)
    if len(both):
        n, m = sorted(both[0].tolist())
        raise OutlineError(f"bends {n + 1} and {m + 1} each turn the other's side; turn one of them about")
    return tuple(bends[n] for n in sorted(range(len(bends)), key=lambda n: (int(turns[n].sum()), n)))


def _across(bend: Bend, shape: shapely.Polygon) -> BaseGeometry:
    """Where a bend's line, endless, crosses a plate."""
    along = np.array([bend.x2 - bend.x1, bend.z2 - bend.z1])
    along = along / math.hypot(*along.tolist()) * _FAR
    at = np.array([bend.x1, bend.z1])
    return shapely.line_merge(shape.intersection(shapely.LineString([at - along, at + along])))


def _band(bend: Bend, thickness: float) -> shapely.Polygon:
    n, half = bend.left, zone(bend, thickness) / 2
    run, at = np.array([n[1], -n[0]]), np.array([bend.x1, bend.z1])
    return shapely.Polygon([at + a * _FAR * run + b * half * n for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))])
