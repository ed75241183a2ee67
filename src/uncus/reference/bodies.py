"""The bar or plate that a body of triangles is: along which axis it is the same, its outline across, and its ends."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.reference.meshes import sliced
from uncus.reference.model import Array, Index
from uncus.reference.model import Shape as Triangles

_SAME = 0.004  # share of the area by which slices of one bar may differ
_AT = (0.5, 0.37, 0.63, 0.21, 0.79)  # shares of the length at which it is sliced, holes being where they are
_THIN = 0.34  # of a plate: its thickness at most so much of its lesser side
_APART, _ONE = 0.3, 0.9999  # sine of faces that tell a direction; cosine of directions that are one
_CAP = 0.3  # cosine to the axis beyond which a face is an end's


class Bar(NamedTuple):
    """A bar: `axes` (3 x 3) whose z runs along it, its outline in x and y of them, and where z begins and ends on its
    middle."""

    axes: Array
    outline: BaseGeometry
    first: float
    last: float


def axes_about(z: Array) -> Array:
    """Right-handed axes with a given z."""
    side = np.zeros(3)
    side[int(np.abs(z).argmin())] = 1.0
    x = np.cross(side, z)
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z])


def bar_of(points: Array, triangles: Index, lines: Index, along: Array | None = None) -> Bar | None:
    """The bar that a body is, `along` a direction that is known; None for what is no
    bar."""
    for z in (along,) if along is not None else _directions(points, triangles, lines):
        axes = axes_about(np.asarray(z))
        local = points @ axes
        turned = local[:, [2, 0, 1]]
        low, high = float(turned[:, 0].min()), float(turned[:, 0].max())
        if high - low < 1.0:
            continue
        outline = _outline(turned, triangles, low, high)
        if outline is None:
            continue
        middle = np.array(outline.bounds).reshape(2, 2).mean(axis=0)
        ends = [_end(turned, triangles, middle, which) for which in (-1.0, 1.0)]
        if None not in ends and ends[1] - ends[0] > 1.0:  # type: ignore[operator]
            return Bar(axes, outline, ends[0], ends[1])  # type: ignore[arg-type]
    return None


def _directions(points: Array, triangles: Index, lines: Index) -> list[Array]:
    """Directions that a bar could run along, the likeliest first: those that the largest faces have in common, and
    those of the longest edges."""
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    normals = normals / np.maximum(area, 1e-12)[:, None]
    faces = _groups(normals, area, 6)
    found = [np.cross(a, b) for n, a in enumerate(faces) for b in faces[n + 1 :]]
    found = [z / np.linalg.norm(z) for z in found if float(np.linalg.norm(z)) > _APART]
    if len(lines):
        ways = points[lines[:, 1]] - points[lines[:, 0]]
        sizes = np.linalg.norm(ways, axis=1)
        there = sizes > 1e-6
        found += _groups(ways[there] / sizes[there, None], sizes[there], 3)
    unlike: list[Array] = []
    for z in found:
        if all(abs(float(z @ other)) < _ONE for other in unlike):
            unlike.append(z)
    # along a bar no face but its ends looks
    return sorted(unlike, key=lambda z: float(area @ (normals @ z) ** 2))[:4]


def _groups(units: Array, sizes: NDArray[np.float64], most: int) -> list[Array]:
    """Directions that are one but for their sense, those with the most size in them first."""
    found: list[tuple[float, Array]] = []
    for n in np.argsort(-sizes)[:60]:
        if all(abs(float(units[n] @ u)) < _ONE for _, u in found):
            found.append((float(sizes[np.abs(units @ units[n]) > _ONE].sum()), units[n]))
    return [u for _, u in sorted(found, key=lambda one: -one[0])[:most]]


def _outline(turned: Array, triangles: Index, low: float, high: float) -> BaseGeometry | None:
    """The outline that most of some slices have: where a hole or a cope is, one has less."""
    found: list[BaseGeometry] = []
    for share in _AT:
        own = sliced(turned, triangles, low + share * (high - low) + 0.0137)
        if own.area > 1.0:
            found.append(own)
        if len(found) >= 2:
            largest = max(found, key=lambda one: one.area)
            alike = [one for one in found if one.symmetric_difference(largest).area < _SAME * largest.area]
            if len(alike) >= 2 and largest.geom_type == "Polygon":
                return shapely.simplify(largest, 0.01)
    return None


def _end(turned: Array, triangles: Index, middle: Array, which: float) -> float | None:
    """Where a bar's end crosses its middle line: of a square end, where that is; of one cut aslant, where its plane
    does."""
    corners = turned[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    normals = normals / np.maximum(area, 1e-12)[:, None]
    facing = normals[:, 0] * which > _CAP
    if not facing.any():
        return None
    reach = (corners[:, :, 0] * which).max(axis=1)
    # of faces that end it: the plane with the largest share of what reaches nearly as far as the farthest corner
    far = reach[facing].max()
    there = facing & (reach > far - 1.0)
    best = int(np.flatnonzero(there)[area[there].argmax()])
    n, p = normals[best], corners[best, 0]
    return float(p[0] - (n[1:] @ (middle - p[1:])) / n[0])


def plate_of(shape: Triangles) -> Bar | None:
    """The plate that a body is: along the direction square to its two largest faces; None for what is no plate."""
    points, triangles = shape.points.astype(np.float64), shape.triangles
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normals, axis=1)
    units = normals / np.maximum(area, 1e-12)[:, None]
    z = units[_most(units, area)]
    axes = axes_about(z)
    turned = (points @ axes)[:, [2, 0, 1]]
    low, high = float(turned[:, 0].min()), float(turned[:, 0].max())
    outline = sliced(turned, triangles, (low + high) / 2)
    if outline.area <= 1.0 or outline.geom_type != "Polygon":
        return None
    x0, y0, x1, y1 = outline.bounds
    if high - low > _THIN * min(x1 - x0, y1 - y0):
        return None
    flat = np.abs((turned[:, 0] - low) * (high - turned[:, 0])) < 0.05 * (high - low)
    return Bar(axes, shapely.simplify(outline, 0.01), low, high) if flat.all() else None


def _most(units: Array, area: NDArray[np.float64]) -> int:
    """The triangle whose plane has the most area in it, of the largest few."""
    best, found = -1.0, 0
    for n in np.argsort(-area)[:12].tolist():
        total = float(area[np.abs(units @ units[n]) > 0.9999].sum())
        if total > best:
            best, found = total, n
    return found
