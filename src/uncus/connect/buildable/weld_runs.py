"""Welds that lie on both pieces they join: nowhere farther from either's steel than a weld can bridge."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form
from uncus.frame.placement import Placement, Vec, settled
from uncus.steel import profile
from uncus.steel.flat import hole_outline
from uncus.steel.flats import flat_parts
from uncus.steel.joint import Weld, WeldForm
from uncus.steel.part import Part
from uncus.units import Units, length_in_words

_ALONG = np.array([0.02, 0.5, 0.98])  # shares of a run at which it is looked at
_FILLET = 1.6  # mm of gap before a fillet's leg must grow (AWS D1.1 5.21.1)
_GROOVE = 7.0  # mm of root opening


class Placed(NamedTuple):
    """A piece in the model, and what it is called."""

    part: Part
    placement: Placement
    words: str


def inspect(welds: Sequence[Weld], pieces: Mapping[str, Placed], units: Units) -> Iterator[str]:
    """What is said of welds that are off a piece, each pair of pieces once; pieces that are not there are left out."""
    said = set()
    for weld in welds:
        spots = _spots(weld)
        for id in weld.joins:
            piece = pieces.get(id)
            if piece is None or piece.part.curve is not None:
                continue
            local = settled(piece.placement.to_local(spots), 3)
            away = _away(piece.part, tuple(local.ravel().tolist()))
            if away > _bridged(weld, piece.part) and piece.words not in said:
                said.add(piece.words)
                far = length_in_words(away, units)
                other = next((p.words for j in weld.joins if j != id and (p := pieces.get(j))), "other piece")
                yield (
                    f"The weld of the {other} runs {far} off the {piece.words}; give other sizes, so that both lie "
                    f"under it."
                )


def _spots(weld: Weld) -> Vec:
    path = np.asarray(weld.path)
    a, b = path[:-1, None], path[1:, None]
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
    return float(np.min([off(one, at, points) for one, at in each], axis=0).max())


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
