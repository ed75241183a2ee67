"""What lies under the pointer, without Qt or OpenGL: sight line against boxes, then triangles; and box selection.

Done on the processor and not with a pass of ids: on a software renderer such a pass costs a whole frame.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from uncus.shop.pieces import Assembly, Piece
from uncus.steel.solid import plain_mesh

Array = NDArray[np.float64]


class Pickables:
    """All pieces as oriented boxes in arrays."""

    def __init__(self, assemblies: Mapping[str, Assembly], shown: Iterable[str]) -> None:
        self.pieces: list[Piece] = [p for id in shown for p in assemblies[id].pieces]
        n = len(self.pieces)
        self.origin, self.axes = np.zeros((n, 3)), np.zeros((n, 3, 3))
        self.low, self.high = np.zeros((n, 3)), np.zeros((n, 3))
        for i, piece in enumerate(self.pieces):
            part = piece.part
            (y0, y1), (z0, z1) = part.y_range, part.depth_range
            self.origin[i], self.axes[i] = piece.placement.origin, piece.placement.axes
            self.low[i], self.high[i] = (0, y0, z0), (part.length, y1, z1)

    def at(self, origin: Array, direction: Array) -> tuple[Piece, Array] | None:
        """The first piece a sight line meets, and where (model)."""
        if not self.pieces:
            return None
        o = np.einsum("ni,nij->nj", origin - self.origin, self.axes)
        d = np.einsum("i,nij->nj", direction, self.axes)
        with np.errstate(divide="ignore", invalid="ignore"):
            t1, t2 = (self.low - o) / d, (self.high - o) / d
        near = np.nanmax(np.minimum(t1, t2), axis=1)
        far = np.nanmin(np.maximum(t1, t2), axis=1)
        hits = np.flatnonzero(near <= far)
        best: tuple[float, int] | None = None
        for i in hits[np.argsort(near[hits])]:
            if best is not None and near[i] > best[0]:
                break
            t = self._exact(int(i), o[i], d[i])
            if t is not None and (best is None or t < best[0]):
                best = (t, int(i))
        return (self.pieces[best[1]], origin + direction * best[0]) if best else None

    def _exact(self, i: int, o: Array, d: Array) -> float | None:
        """Distance to the nearest triangle of a piece along a local sight line."""
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
        return float(far[hit].min()) if hit.any() else None

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
            if _crosses(a, b, box, float(np.ptp(screen[i, ::2], axis=0).max()) / 2):
                found.add(self.pieces[i].owner)
        return found


def _crosses(a: Array, b: Array, box: tuple[float, float, float, float], grow: float) -> bool:
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
