"""A picture of some steel from a point, as topics carry it: shaded faces with their edges, in PNG."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from uncus.job.topics import Viewed

Array = NDArray[np.float64]
SIZE = 640, 480  # px
_SMALL, _AT_ONCE = 12, 1500  # px of a side of triangles that are drawn many at once, and how many
_PAPER, _INK = (250, 250, 248), 0.45  # behind everything; how dark an edge is, of its face
_NEAR = 1.0  # mm before the eye from where on something is seen
_LIGHT = np.array([-0.35, -0.55, 0.76])
_STEP = 0.004  # of its depth by which a face lies before another for an edge to be drawn


class Shape(NamedTuple):
    """A solid: triangles (n, 3, 3) in the model, and its colour (red, green, blue of 255)."""

    triangles: Array
    colour: tuple[int, int, int]


def picture(shapes: Iterable[Shape], view: Viewed, size: tuple[int, int] = SIZE) -> bytes:
    """PNG of shapes as a view sees them; the same bytes for the same view of the same shapes."""
    some = [shape for shape in shapes if len(shape.triangles)]
    wide, high = size
    colour = np.tile(np.array(_PAPER, dtype=np.float64), (high, wide, 1))
    if some:
        triangles = np.concatenate([shape.triangles for shape in some])
        paint = np.repeat([shape.colour for shape in some], [len(shape.triangles) for shape in some], axis=0)
        normals = _normals(triangles)
        towards = (normals * (np.array(view.way) if view.height else triangles[:, 0] - view.eye)).sum(axis=1) < 0
        triangles, paint, normals = triangles[towards], paint[towards], normals[towards]  # of solids, which are closed
        shade = 0.55 + 0.45 * np.abs(normals @ (_LIGHT / np.linalg.norm(_LIGHT)))
        depth, face = _drawn(*_projected(triangles, view, size), size)
        seen = face >= 0
        colour[seen] = paint[face[seen]] * shade[face[seen], None]
        colour[_edges(depth, face, normals)] *= _INK
    out = io.BytesIO()
    from PIL import Image

    Image.fromarray(colour.clip(0, 255).astype(np.uint8), "RGB").save(out, "PNG")
    return out.getvalue()


def _normals(triangles: Array) -> Array:
    across = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    return np.asarray(across / np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12))


def _projected(triangles: Array, view: Viewed, size: tuple[int, int]) -> tuple[Array, Array]:
    """Corners on the picture (n, 3, 2), and what is the larger the nearer they are (n, 3): 0 of triangles that are not
    wholly before the eye."""
    way = np.array(view.way) / np.linalg.norm(view.way)
    right = np.cross(way, view.up)
    right /= np.linalg.norm(right)
    frame = np.stack([right, np.cross(right, way), way])
    x, y, z = np.moveaxis((triangles - view.eye) @ frame.T, -1, 0)
    before = (z > _NEAR).all(axis=1, keepdims=True)
    if view.height:
        scale, near = np.full_like(z, size[1] / view.height), np.exp(-z / 1e6)
    else:
        depth = np.maximum(z, _NEAR)
        scale, near = size[1] / 2 / np.tan(np.radians(view.angle) / 2) / depth, 1.0 / depth
    at = np.stack([size[0] / 2 + x * scale, size[1] / 2 - y * scale], axis=-1)
    return at, np.where(before, near, 0.0)


def _drawn(at: Array, near: Array, size: tuple[int, int]) -> tuple[Array, NDArray[np.int64]]:
    """How near what is seen at each pixel is, and which triangle that is: -1 where there is none."""
    wide, high = size
    low = np.clip(np.floor(at.min(axis=1)), 0, size).astype(int)
    far = np.clip(np.ceil(at.max(axis=1)) + 1, 0, size).astype(int)
    seen = (near.min(axis=1) > 0) & (low < far).all(axis=1)
    small = seen & ((far - low).max(axis=1) <= _SMALL)
    depth, face = np.zeros(wide * high), np.full(wide * high, -1, dtype=np.int64)
    rows = np.flatnonzero(small)
    for some in np.array_split(rows, len(rows) // _AT_ONCE + 1):
        x = low[some, 0, None, None] + np.arange(_SMALL)[None, None, :]
        y = low[some, 1, None, None] + np.arange(_SMALL)[None, :, None]
        corners = at[some].transpose(1, 2, 0)[..., None, None]
        covered, is_near = _covered(corners, near[some].T[..., None, None], x, y)
        n, j, i = np.nonzero(covered & (x < wide) & (y < high))
        spots, value = y[n, j, 0] * wide + x[n, 0, i], is_near[n, j, i]
        order = np.argsort(value, kind="stable")  # of several at a pixel the nearest is written last
        order = order[value[order] > depth[spots[order]]]
        depth[spots[order]], face[spots[order]] = value[order], some[n[order]]
    deep, owns = depth.reshape(high, wide), face.reshape(high, wide)
    for one in np.flatnonzero(seen & ~small).tolist():
        (x0, y0), (x1, y1) = low[one].tolist(), far[one].tolist()
        covered, is_near = _covered(at[one], near[one], np.arange(x0, x1), np.arange(y0, y1)[:, None])
        was, own = deep[y0:y1, x0:x1], owns[y0:y1, x0:x1]
        covered &= is_near > was
        was[covered], own[covered] = is_near[covered], one
    return deep, owns


def _covered(corners: Array, near: Array, x: Array, y: Array) -> tuple[NDArray[np.bool_], Array]:
    """Which pixels triangles cover, and how near they are there: `corners` (3, 2, ...) and what is `near` at each
    (3, ...) beside the pixels' own axes."""
    (ax, ay), (bx, by), (cx, cy) = corners
    turn = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    turn = np.where(np.abs(turn) < 1e-9, np.inf, turn)
    px, py = x + 0.5 - ax, y + 0.5 - ay
    v = (px * (cy - ay) - py * (cx - ax)) / turn
    w = ((bx - ax) * py - (by - ay) * px) / turn
    is_near = near[0] + v * (near[1] - near[0]) + w * (near[2] - near[0])
    return (v >= 0) & (w >= 0) & (v + w <= 1) & np.isfinite(turn), is_near


def _edges(depth: Array, face: NDArray[np.int64], normals: Array) -> NDArray[np.bool_]:
    """Pixels where one face ends at another, or at nothing."""
    found = np.zeros(face.shape, dtype=bool)
    turned = np.where((face >= 0)[..., None], normals[face], 0.0).astype(np.float32)
    for axis in (0, 1):
        first, next_ = [slice(None)] * 2, [slice(None)] * 2
        first[axis], next_[axis] = slice(None, -1), slice(1, None)
        i, j = tuple(first), tuple(next_)
        bent = np.abs((turned[i] * turned[j]).sum(axis=-1)) < 0.95
        stepped = np.abs(depth[i] - depth[j]) > _STEP * np.maximum(depth[i], depth[j])
        found[i] |= (face[i] != face[j]) & (bent | stepped)
    return found
