"""Bodies of what is bought: triangles packed into bytes, as records and parts hold them, and the parts made of them."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from manifold3d import Manifold
from manifold3d import Mesh as Triangles
from numpy.typing import ArrayLike, NDArray

from uncus.catalog.bought import BLACK, Bought
from uncus.steel.forming import Item
from uncus.steel.part import Part, plate

_HEAD = np.dtype("<u4")
_POINTS, _TRIANGLES = np.dtype("<f4"), np.dtype("<u4")
_MOST = 200_000  # points
_FOOT = 0.5  # mm from the least x within which a point is on the foot


def packed(points: ArrayLike, triangles: ArrayLike) -> bytes:
    """How many points and triangles, the points (mm, float32) and the triangles, little-endian."""
    p, t = np.asarray(points, dtype=_POINTS).reshape(-1, 3), np.asarray(triangles, dtype=_TRIANGLES).reshape(-1, 3)
    return np.array([len(p), len(t)], dtype=_HEAD).tobytes() + p.tobytes() + t.tobytes()


def unpacked(body: bytes) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Points (n, 3) and triangles (m, 3). Raises ValueError for what was not packed."""
    if len(body) < 8:
        raise ValueError("its body is cut short")
    n, m = np.frombuffer(body, dtype=_HEAD, count=2).tolist()
    if not 4 <= n <= _MOST or not 4 <= m <= 4 * _MOST or len(body) != 8 + 12 * (n + m):
        raise ValueError("its body is not what was packed")
    points = np.frombuffer(body, dtype=_POINTS, count=3 * n, offset=8).reshape(-1, 3).astype(np.float64)
    triangles = np.frombuffer(body, dtype=_TRIANGLES, count=3 * m, offset=8 + 12 * n).reshape(-1, 3).astype(np.int64)
    if triangles.max() >= n or not np.isfinite(points).all():
        raise ValueError("its body points to what is not there")
    return points, triangles


@lru_cache(maxsize=256)
def body_solid(body: bytes) -> Manifold:
    """The solid of a body; where its triangles close nothing, the least that holds all of its points. Raises
    ValueError."""
    points, triangles = unpacked(body)
    made = Manifold(Triangles(points.astype(np.float32), triangles.astype(np.uint32)))
    if made.is_empty() or made.volume() <= 0:
        made = Manifold.hull_points(points)
    if made.is_empty() or made.volume() <= 0:
        raise ValueError("its body has no room in it")
    return made


def is_closed(body: bytes) -> bool:
    """Whether a body's triangles close a solid by themselves."""
    points, triangles = unpacked(body)
    made = Manifold(Triangles(points.astype(np.float32), triangles.astype(np.uint32)))
    return not made.is_empty() and made.volume() > 0


@lru_cache(maxsize=1024)
def mirrored(body: bytes) -> bytes:
    """The mirror image of a body, across."""
    points, triangles = unpacked(body)
    return packed(points * (1.0, -1.0, 1.0), triangles[:, [0, 2, 1]])


class Foot(NamedTuple):
    """What of an item lies against what it is fixed to: mm across and up, about its middle."""

    wide: float
    tall: float


@lru_cache(maxsize=1024)
def item_part(facts: Bought, body: bytes, mirror: bool = False, black: bool = False) -> tuple[Part, float, Foot]:
    """The part that a bought item is, its foot's middle on its axis; how far along x its frame begins, and its foot.
    Its outline is its side view: of one with a body, what encloses that. Raises ValueError."""
    finish = BLACK if black else facts.finish
    if not body:
        foot = [z for x, z in facts.profile if x < _FOOT]
        low, tall = min(foot), max(foot) - min(foot)
        ring = tuple((x, z - low - tall / 2) for x, z in facts.profile)
        item = Item(facts.code, facts.maker, facts.words, facts.kg)
        made = plate(ring, facts.wide, "bought", finish, item=item)
        return made, min(x for x, _ in ring), Foot(facts.wide, tall)
    points, triangles = unpacked(mirrored(body) if mirror else body)
    on = points[points[:, 0] < points[:, 0].min() + _FOOT]
    low, high = on.min(axis=0), on.max(axis=0)
    points = points - (0.0, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2)
    (x0, _, z0), (x1, _, z1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    item = Item(facts.code, facts.maker, facts.words, facts.kg, packed(points - (x0, 0.0, 0.0), triangles))
    made = plate(((x0, z0), (x1, z0), (x1, z1), (x0, z1)), 2 * float(np.abs(points[:, 1]).max()), "bought", finish,
        item=item)  # fmt: skip
    return made, x0, Foot(float(high[1] - low[1]), float(high[2] - low[2]))
