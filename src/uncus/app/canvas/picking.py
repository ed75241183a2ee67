"""What lies under the pointer, without Qt or OpenGL: sight line against boxes, then triangles; and box selection.

Done on the processor and not with a pass of ids: on a software renderer such a pass costs a whole frame.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike, NDArray

from uncus.app.canvas.laid import Flags, Layouts
from uncus.shop.pieces import Piece
from uncus.steel.solid import plain_mesh

Array = NDArray[np.float64]
Rows = NDArray[np.intp]
_CORNERS = 3**0.5  # how much farther a corner of a grown box is than its side


def struck(t: Array, origin: Array, way: Array, span: tuple[float, float]) -> tuple[float, int] | None:
    """How far along a sight line the nearest of some triangles (n, 3, 3) is met, and which; None where none is."""
    e1, e2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    p = np.cross(way, e2)
    det = np.einsum("ij,ij->i", e1, p)
    with np.errstate(divide="ignore", invalid="ignore"):
        s = origin - t[:, 0]
        u = np.einsum("ij,ij->i", s, p) / det
        q = np.cross(s, e1)
        v = q @ way / det
        far = np.einsum("ij,ij->i", e2, q) / det
        hit = (np.abs(det) > 1e-12) & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9)
    hit &= (far >= span[0]) & (far <= span[1])
    if not hit.any():
        return None
    k = int(np.flatnonzero(hit)[np.argmin(far[hit])])
    return float(far[k]), k


class Pickables:
    """The pieces of some owners as oriented boxes in arrays: of all, or where `shown` (by owner) says so."""

    def __init__(self, layouts: Layouts, shown: Flags | None = None) -> None:
        self._all = layouts
        there = layouts.there if shown is None else layouts.there & shown[layouts.owner]
        self.rows = np.flatnonzero(there)
        self._centre, self._radius = layouts.centre[self.rows], layouts.radius[self.rows]

    def __len__(self) -> int:
        return len(self.rows)

    def piece(self, row: int) -> Piece:
        piece = self._all.pieces[row]
        assert piece is not None
        return piece

    def _boxes(self, origin: Array, direction: Array, grow: float = 0.0) -> tuple[Rows, Array, Array, Array, Array]:
        """Rows whose ball a sight line meets: in each one's frame its origin and direction (n, 3), and where it enters
        and leaves the box."""
        off = self._centre - origin
        along = off @ direction
        near = np.einsum("ij,ij->i", off, off) - along * along <= (self._radius + _CORNERS * grow) ** 2
        rows = self.rows[near]
        laid = self._all
        places = laid.places[rows].reshape(-1, 3, 4)
        axes = places[:, :, :3]
        o = np.einsum("ni,nij->nj", origin - places[:, :, 3], axes)
        d = np.einsum("i,nij->nj", direction, axes)
        with np.errstate(divide="ignore", invalid="ignore"):
            t1, t2 = (laid.low[rows] - grow - o) / d, (laid.high[rows] + grow - o) / d
            enter, leave = np.fmax.reduce(np.minimum(t1, t2), axis=1), np.fmin.reduce(np.maximum(t1, t2), axis=1)
        return rows, o, d, enter, leave

    def at(
        self, origin: Array, direction: Array, span: tuple[float, float] = (-math.inf, math.inf)
    ) -> tuple[Piece, Array] | None:
        """The first piece a sight line meets within a span of its length (what is clipped away is not met), and where
        (model)."""
        hit = self._first(origin, direction, span)
        return (self.piece(hit[1]), origin + direction * hit[0]) if hit else None

    def _first(self, origin: Array, direction: Array, span: tuple[float, float]) -> tuple[float, int, int] | None:
        """Distance, row and triangle of the first hit."""
        rows, o, d, near, far = self._boxes(origin, direction)
        hits = np.flatnonzero((near <= far) & (far >= span[0]) & (near <= span[1]))
        best: tuple[float, int, int] | None = None
        for i in hits[np.argsort(near[hits])]:
            if best is not None and near[i] > best[0]:
                break
            met = self._exact(int(rows[i]), o[i], d[i], span)
            if met is not None and (best is None or met[0] < best[0]):
                best = (met[0], int(rows[i]), met[1])
        return best

    def normal_at(self, origin: Array, direction: Array) -> Array | None:
        """The outward normal (model) of the first face a sight line meets."""
        hit = self._first(origin, direction, (-math.inf, math.inf))
        if hit is None:
            return None
        piece = self.piece(hit[1])
        mesh = plain_mesh(piece.part)
        a, b, c = mesh.points[mesh.triangles[hit[2]]]
        n = np.cross(b - a, c - a)
        return np.asarray(piece.placement.axes @ (n / np.linalg.norm(n)))

    def near(self, origin: Array, direction: Array, grow: float, most: int = 8) -> list[Piece]:
        """Pieces whose boxes, grown by some mm, a sight line meets; those in front first."""
        rows, _, _, near, far = self._boxes(origin, direction, grow)
        hits = np.flatnonzero(near <= far)
        return [self.piece(row) for row in rows[hits[np.argsort(near[hits])][:most]].tolist()]

    def _exact(self, row: int, o: Array, d: Array, span: tuple[float, float]) -> tuple[float, int] | None:
        """Distance to the nearest triangle of a piece along a local sight line, and which."""
        mesh = plain_mesh(self.piece(row).part)
        return struck(mesh.points[mesh.triangles], o, d, span)

    def corners(self) -> Array:
        """(n, 8, 3) corners of every piece in the model."""
        pick = np.array([[(i >> k) & 1 for k in range(3)] for i in range(8)])
        places = self._all.places[self.rows].reshape(-1, 3, 4)
        local = np.where(pick[None] == 1, self._all.high[self.rows][:, None], self._all.low[self.rows][:, None])
        return np.asarray(np.einsum("nij,nkj->nki", places[:, :, :3], local) + places[:, None, :, 3])

    def within(self, screen: Array, box: tuple[float, float, float, float], whole: bool) -> set[str]:
        """Owners of pieces inside (`whole`) or touching a box of pixels; `screen` (n, 8, 2) are their corners."""
        if not len(self.rows):
            return set()
        x0, y0, x1, y1 = box
        low, high = screen.min(axis=1), screen.max(axis=1)
        if whole:
            ok = self._all.main[self.rows] & (low >= (x0, y0)).all(axis=1) & (high <= (x1, y1)).all(axis=1)
            return self._owners(np.flatnonzero(ok))
        rough = (low <= (x1, y1)).all(axis=1) & (high >= (x0, y0)).all(axis=1)
        # a long slanted piece's box of pixels covers much that it does not: its axis must cross the drawn box
        found = []
        for i in np.flatnonzero(rough):
            a, b = screen[i, ::2].mean(axis=0), screen[i, 1::2].mean(axis=0)
            if crosses(a, b, box, float(np.ptp(screen[i, ::2], axis=0).max()) / 2):
                found.append(i)
        return self._owners(found)

    def _owners(self, of: ArrayLike) -> set[str]:
        owners = self._all.owner[self.rows[np.asarray(of, dtype=np.int64)]]
        return {self._all.owners[n] for n in np.unique(owners).tolist()}


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
