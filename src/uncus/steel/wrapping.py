"""The outside of a round tube laid flat: the pattern that is wrapped round it to mark its saddles, slots and holes."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form
from uncus.steel.features import Face, Saddle
from uncus.steel.flat import hole_outline
from uncus.steel.part import Part

_STEPS = 720  # to the whole way round
_FINE = 1.0  # mm between points of what is cut through the wall


def is_wrapped(part: Part) -> bool:
    """Whether a part is cut to a pattern wrapped round it: a straight round tube with a saddle."""
    saddled = any(isinstance(cut.saddle, Saddle) for cut in (part.left, part.right))
    return saddled and part.form is Form.TUBE and part.rolling is None


def wrapped(part: Part) -> Polygon:
    """The pattern as (x, s): s runs round the outside from the middle of the bottom, up the near side, over the top,
    so that it is seen from outside with x to the right."""
    assert part.section is not None
    radius = part.section.d / 2
    turn = np.linspace(0.0, 2 * math.pi, _STEPS + 1)
    y, z = -radius * np.sin(turn), -radius * np.cos(turn)
    edges = [np.column_stack([cut.x(y, z), radius * turn]) for cut in (part.left, part.right)]
    shape: BaseGeometry = Polygon(np.vstack([edges[1], edges[0][::-1]]))
    for notch in part.notches:
        shape = shape.difference(_round(Polygon(notch.outline), notch.face, radius))
    for hole in part.holes:
        shape = shape.difference(_round(hole_outline(hole), hole.face, radius))
    pieces = [g for g in getattr(shape, "geoms", [shape]) if g.geom_type == "Polygon"]
    return max(pieces, key=lambda g: g.area)


# where on the way round each half of a tube has a coordinate across it, as a share of the radius
_TURNS: dict[Face, Callable[[np.ndarray], np.ndarray]] = {
    Face.WEB: lambda w: np.arccos(-w),
    Face.TOP: lambda w: math.pi + np.arcsin(w),
    Face.BACK: lambda w: 2 * math.pi - np.arccos(-w),
    Face.BOTTOM: lambda w: -np.arcsin(w),
}


def _round(flat: Polygon, face: Face, radius: float) -> BaseGeometry:
    """What is cut through one half of a tube, seen square to it, as it lies on the outside; twice, as the bottom's
    lies on both sides of the seam."""
    seen = shapely.segmentize(flat.intersection(box(-1e6, -radius, 1e6, radius)), _FINE)

    def laid(points: np.ndarray) -> np.ndarray:
        return np.column_stack([points[:, 0], radius * _TURNS[face](np.clip(points[:, 1] / radius, -1.0, 1.0))])

    once = shapely.transform(seen, laid)
    whole = 2 * math.pi * radius
    return shapely.union_all([shapely.transform(once, lambda p, n=n: p + [0.0, n * whole]) for n in (0, 1)])
