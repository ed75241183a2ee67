"""Welds that lie on both pieces they join: nowhere farther from either's steel than a weld can bridge."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form
from uncus.frame.placement import Placement, Vec, settled
from uncus.job.records import Point
from uncus.steel import profile
from uncus.steel.flat import hole_outline
from uncus.steel.flats import flat_parts
from uncus.steel.forming import formed
from uncus.steel.joint import Weld, WeldForm
from uncus.steel.part import Part
from uncus.units import Units, length_in_words

_ALONG = np.array([0.02, 0.5, 0.98])  # shares of a run at which it is looked at
_RING, _CORNERS = 24, 16  # points of a weld all round a tube, and how many of them it is looked at
_FILLET = 1.6  # mm of gap before a fillet's leg must grow (AWS D1.1 5.21.1)
_EDGE = 1.0  # mm between points of a bent plate's edge
_GROOVE = 7.0  # mm of root opening


class Placed(NamedTuple):
    """A piece in the model, and what it is called."""

    part: Part
    placement: Placement
    words: str


class Welded(NamedTuple):
    """A joint's or attachment's welds, and the pieces they join by id; pieces that are not there are left out."""

    id: str
    welds: Sequence[Weld]
    pieces: Mapping[str, Placed]


def inspect(joints: Iterable[Welded], units: Units) -> Iterator[tuple[str, str]]:
    """What is said of welds that are off a piece, with the id of their joint; each piece of a joint once."""
    held = [
        (joint, weld, id, piece)
        for joint in joints
        for weld in joint.welds
        for id in weld.joins
        if (piece := joint.pieces.get(id)) is not None and piece.part.rolling is None
    ]
    said = set()
    for (joint, weld, id, piece), spots in zip(held, _spots(held), strict=True):
        away = _away(piece.part, spots)
        if away > _bridged(weld, piece.part) and (joint.id, piece.words) not in said:
            said.add((joint.id, piece.words))
            far = length_in_words(away, units)
            other = next((p.words for j in weld.joins if j != id and (p := joint.pieces.get(j))), "other piece")
            yield (
                joint.id,
                (
                    f"The weld of the {other} runs {far} off the {piece.words}; give other sizes, so that both lie "
                    f"under it."
                ),
            )


def _spots(held: Sequence[tuple[Welded, Weld, str, Placed]]) -> Iterator[tuple[float, ...]]:
    """Of each weld at a piece, the spots it is looked at in the piece's own frame, one number after the other."""
    if not held:
        return
    spots = [_looked_at(weld.path) for _, weld, _, _ in held]
    sizes = np.array([len(some) for some in spots])
    of = np.repeat(np.arange(len(held)), sizes)
    origins = np.array([piece.placement.origin for *_, piece in held])
    axes = np.array([piece.placement.axes for *_, piece in held])
    local = settled(np.einsum("ni,nij->nj", np.concatenate(spots) - origins[of], axes[of]), 3)
    ends = np.cumsum(sizes).tolist()
    for first, last in zip([0, *ends[:-1]], ends, strict=True):
        yield tuple(local[first:last].ravel().tolist())


@lru_cache(maxsize=4096)
def _looked_at(path: tuple[Point, ...]) -> Vec:
    """Spots (n, 3) along a weld: near the ends and in the middle of each run; of a ring of many runs some corners."""
    points = np.array(path)
    if len(points) > _RING:
        return points[:: len(points) // _CORNERS]
    a, b = points[:-1, None], points[1:, None]
    return np.asarray((a + _ALONG[:, None] * (b - a)).reshape(-1, 3))


def _bridged(weld: Weld, part: Part) -> float:
    most = max(_FILLET, weld.root) if weld.form is WeldForm.FILLET else _GROOVE
    if part.section is not None and part.section.form is Form.BOX:
        most += part.section.r  # a flare groove beside the rounded corner
    return most + profile.facets(part.section)


@lru_cache(maxsize=16384)
def _away(part: Part, spots: tuple[float, ...]) -> float:
    """How far the farthest of some spots (x, y, z one after the other, in a part's own frame) is from its steel."""
    points = np.array(spots).reshape(-1, 3)
    each = flat_parts(part, Placement.identity())
    away = np.min([off(one, at, points) for one, at in each], axis=0)
    if part.bends and (beside := away > _EDGE).any():
        away[beside] = np.minimum(away[beside], _off_edges(part, points[beside]))
    return float(away.max())


def _off_edges(part: Part, points: Vec) -> NDArray[np.float64]:
    """How far points are from the edges of a bent plate, its bends with them."""
    ring = shapely.Polygon(part.outline).exterior
    along = shapely.get_coordinates(shapely.segmentize(ring, _EDGE))
    sides = [np.column_stack([along[:, 0], np.full(len(along), y), along[:, 1]]) for y in (*part.y_range, 0.0)]
    edges = formed(part, np.vstack(sides))
    return np.asarray([np.linalg.norm(edges - p, axis=1).min() for p in points])


def off(part: Part, placement: Placement, points: Vec) -> NDArray[np.float64]:
    """How far points (n, 3) are from a part's steel, a section's copes and holes left out of account: (n,), mm."""
    local = placement.to_local(points)
    if part.section is None:
        flat = shapely.distance(_bored(part), shapely.points(local[:, [0, 2]]))
        beyond = np.maximum(np.abs(local[:, 1]) - part.thickness / 2, 0.0)
    else:
        flat = shapely.distance(profile.outline(part.section), shapely.points(local[:, 1:]))
        low, high = (cut.x(local[:, 1], local[:, 2]) for cut in (part.left, part.right))
        beyond = np.maximum(np.maximum(low - local[:, 0], local[:, 0] - high), 0.0)
    return np.asarray(np.hypot(flat, beyond))


@lru_cache(maxsize=4096)
def _bored(part: Part) -> BaseGeometry:
    """A plate's outline without its holes."""
    shape = shapely.Polygon(part.outline)
    return shape.difference(shapely.union_all([hole_outline(h) for h in part.holes])) if part.holes else shape
