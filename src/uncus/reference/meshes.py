"""Triangles from outside: welded, told alike, their sharp edges found, sliced."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.reference.model import Array, Index, Shape

_WELD = 0.01  # mm: points nearer than this are one
_SHARP = math.cos(math.radians(20.0))


def settled_shape(points: Array, triangles: NDArray[np.int32]) -> tuple[Shape, Array] | None:
    """A shape about its own middle, and that middle; points that are one are welded and triangles without area left
    out. None where nothing is left."""
    if not len(points) or not len(triangles) or not np.isfinite(points).all():
        return None
    if triangles.min() < 0 or triangles.max() >= len(points):
        return None
    used = np.unique(triangles)
    low, high = points[used].min(axis=0), points[used].max(axis=0)
    middle = np.round((low + high) / 2 / _WELD) * _WELD
    cells = np.round((points - middle) / _WELD).astype(np.int64)
    _, first, number = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    welded = number.reshape(-1)[triangles]
    kept = (welded[:, 0] != welded[:, 1]) & (welded[:, 1] != welded[:, 2]) & (welded[:, 2] != welded[:, 0])
    welded = welded[kept]
    if not len(welded):
        return None
    own = (points - middle)[first]
    corners = own[welded]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    welded = welded[area > 1e-6]
    if not len(welded):
        return None
    made = welded.astype(np.int32)
    return Shape(own.astype(np.float32), made, sharp_lines(own, made)), middle


def sharp_lines(points: Array, triangles: Index) -> Index:
    """Edges (n, 2) between two triangles at more than 20 degrees, and those that only one or more than two have."""
    pairs = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    owner = np.tile(np.arange(len(triangles)), 3)
    order = np.lexsort((pairs[:, 1], pairs[:, 0]))
    pairs, owner = pairs[order], owner[order]
    starts = np.flatnonzero(np.r_[True, (pairs[1:] != pairs[:-1]).any(axis=1)])
    counts = np.diff(np.r_[starts, len(pairs)])
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    second = np.minimum(starts + 1, len(owner) - 1)
    cosine = np.einsum("ij,ij->i", normals[owner[starts]], normals[owner[second]])
    return np.asarray(pairs[starts[(counts != 2) | (cosine < _SHARP)]], dtype=np.int32)


def corner_normals(shape: Shape) -> Array:
    """The unit normal of each triangle, for each of its corners, (3 m, 3)."""
    corners = shape.points.astype(np.float64)[shape.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    return np.repeat(normals, 3, axis=0)


def sliced(points: Array, triangles: Index, at: float) -> BaseGeometry:
    """What lies in the plane x = `at` of a body, as (y, z): its loops of crossings, what is within another one taken
    from it."""
    above = points[:, 0] > at
    over = above[triangles]
    crossed = triangles[over.any(axis=1) & ~over.all(axis=1)]
    # an edge that two triangles share is cut at one and the same point: it is always gone along the same way
    edges = np.sort(crossed[:, [[0, 1], [1, 2], [2, 0]]], axis=2)
    meets = above[edges[:, :, 0]] != above[edges[:, :, 1]]  # of each triangle two of the three
    a, b = (points[edges[meets][:, i]] for i in (0, 1))
    t = (at - a[:, 0]) / (b[:, 0] - a[:, 0])
    lines = (a + t[:, None] * (b - a))[:, 1:].reshape(-1, 2, 2)
    lines = lines[(lines[:, 0] != lines[:, 1]).any(axis=1)]
    if not len(lines):
        return shapely.Polygon()
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.unary_union(shapely.linestrings(lines)))))
    loops = [shapely.Polygon(face.exterior) for face in faces]
    steel = [f for f in faces if sum(loop.contains(f.representative_point()) for loop in loops) % 2]
    return shapely.union_all(steel)
