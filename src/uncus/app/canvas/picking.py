"""What lies under the pointer, without Qt or OpenGL: sight line against boxes, then triangles; and box selection.

Done on the processor and not with a pass of ids: on a software renderer such a pass costs a whole frame.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from uncus.app.canvas.laid import Laid
from uncus.shop.pieces import Piece
from uncus.steel.solid import plain_mesh

Array = NDArray[np.float64]


class Pickables:
    """All pieces as oriented boxes in arrays."""

    def __init__(self, laid: Sequence[Laid]) -> None:
        self.pieces: list[Piece] = [p for one in laid for p in one.pieces]
        n = len(self.pieces)

        def stacked(name: str, wide: int) -> Array:
            return np.concatenate([getattr(one, name) for one in laid]) if n else np.zeros((0, wide))

        rows = stacked("places", 12).reshape(n, 3, 4)
        self.origin, self.axes = rows[:, :, 3], rows[:, :, :3]
        self.low, self.high = stacked("low", 3), stacked("high", 3)

    def _boxes(self, origin: Array, direction: Array, grow: float = 0.0) -> tuple[Array, Array, Array, Array]:
        """Local sight lines (n, 3) origins and directions, and where they enter and leave each box."""
        o = np.einsum("ni,nij->nj", origin - self.origin, self.axes)
        d = np.einsum("i,nij->nj", direction, self.axes)
        with np.errstate(divide="ignore", invalid="ignore"):
            t1, t2 = (self.low - grow - o) / d, (self.high + grow - o) / d
        return o, d, np.nanmax(np.minimum(t1, t2), axis=1), np.nanmin(np.maximum(t1, t2), axis=1)

    def at(
        self, origin: Array, direction: Array, span: tuple[float, float] = (-math.inf, math.inf)
    ) -> tuple[Piece, Array] | None:
        """The first piece a sight line meets within a span of its length (what is clipped away is not met), and where
        (model)."""
        hit = self._first(origin, direction, span)
        return (self.pieces[hit[1]], origin + direction * hit[0]) if hit else None

    def _first(self, origin: Array, direction: Array, span: tuple[float, float]) -> tuple[float, int, int] | None:
        """Distance, piece and triangle of the first hit."""
        if not self.pieces:
            return None
        o, d, near, far = self._boxes(origin, direction)
        hits = np.flatnonzero((near <= far) & (far >= span[0]) & (near <= span[1]))
        best: tuple[float, int, int] | None = None
        for i in hits[np.argsort(near[hits])]:
            if best is not None and near[i] > best[0]:
                break
            met = self._exact(int(i), o[i], d[i], span)
            if met is not None and (best is None or met[0] < best[0]):
                best = (met[0], int(i), met[1])
        return best

    def normal_at(self, origin: Array, direction: Array) -> Array | None:
        """The outward normal (model) of the first face a sight line meets."""
        hit = self._first(origin, direction, (-math.inf, math.inf))
        if hit is None:
            return None
        piece = self.pieces[hit[1]]
        mesh = plain_mesh(piece.part)
        a, b, c = mesh.points[mesh.triangles[hit[2]]]
        n = np.cross(b - a, c - a)
        return np.asarray(piece.placement.axes @ (n / np.linalg.norm(n)))

    def near(self, origin: Array, direction: Array, grow: float, most: int = 8) -> list[Piece]:
        """Pieces whose boxes, grown by some mm, a sight line meets; those in front first."""
        if not self.pieces:
            return []
        _, _, near, far = self._boxes(origin, direction, grow)
        hits = np.flatnonzero(near <= far)
        return [self.pieces[i] for i in hits[np.argsort(near[hits])][:most]]

    def _exact(self, i: int, o: Array, d: Array, span: tuple[float, float]) -> tuple[float, int] | None:
        """Distance to the nearest triangle of a piece along a local sight line, and which."""
        mesh = plain_mesh(self.pieces[i].part)
        t = mesh.points[mesh.triangles]
        e1, e2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
        p = np.cross(d, e2)
        det = np.einsum("ij,ij->i", e1, p)
        with np.errstate(divide="ignore", invalid="ignore"):
            s = o - t[:, 0]
            u = np.einsum("ij,ij->i", s, p) / det
            q = np.cross(s, e1)
            v = q @ d / det
            far = np.einsum("ij,ij->i", e2, q) / det
            hit = (np.abs(det) > 1e-12) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
        hit &= (far >= span[0]) & (far <= span[1])
        if not hit.any():
            return None
        k = int(np.flatnonzero(hit)[np.argmin(far[hit])])
        return float(far[k]), k

    def corners(self) -> Array:
        """(n, 8, 3) corners of every piece in the model."""
        pick = np.array([[(i >> k) & 1 for k in range(3)] for i in range(8)])
        local = np.where(pick[None] == 1, self.high[:, None], self.low[:, None])
        return np.einsum("nij,nkj->nki", self.axes, local) + self.origin[:, None]

    def within(self, screen: Array, box: tuple[float, float, float, float], whole: bool) -> set[str]:
        """Owners of pieces inside (`whole`) or touching a box of pixels; `screen` (n, 8, 2) are their corners."""
        if not self.pieces:
            return set()
        x0, y0, x1, y1 = box
        low, high = screen.min(axis=1), screen.max(axis=1)
        if whole:
            main = np.array([p.main for p in self.pieces])
            ok = main & (low >= (x0, y0)).all(axis=1) & (high <= (x1, y1)).all(axis=1)
            return {self.pieces[i].owner for i in np.flatnonzero(ok)}
        rough = (low <= (x1, y1)).all(axis=1) & (high >= (x0, y0)).all(axis=1)
        # a long slanted piece's box of pixels covers much that it does not: its axis must cross the drawn box
        found = set()
        for i in np.flatnonzero(rough):
            a, b = screen[i, ::2].mean(axis=0), screen[i, 1::2].mean(axis=0)
            if crosses(a, b, box, float(np.ptp(screen[i, ::2], axis=0).max()) / 2):
                found.add(self.pieces[i].owner)
        return found


def crosses(a: Array, b: Array, box: tuple[float, float, float, float], grow: float) -> bool:
    """Whether a segment meets a box grown by some pixels (Liang-Barsky)."""
    low, high = 0.0, 1.0
    d = b - a
    for axis, (start, end) in enumerate(((box[0] - grow, box[2] + grow), (box[1] - grow, box[3] + grow))):
        if abs(d[axis]) < 1e-9:
            if not start <= a[axis] <= end:
                return False
            continue
        t1, t2 = sorted(((start - a[axis]) / d[axis], (end - a[axis]) / d[axis]))
        low, high = max(low, t1), min(high, t2)
    return low <= high
