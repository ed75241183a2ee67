"""What is drawn while the view moves: the stock of members, as many of them as lie in the view, plain enough to be
drawn many times a second. No Qt, no OpenGL."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cached_property, partial

import numpy as np
from numpy.typing import NDArray

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.laid import LONG, Flags, Layouts
from uncus.app.canvas.scene import Array32, Batch, Detail, Shape, part_shape

MANY = 3_000  # pieces beyond which main parts alone are drawn
MOST = 60_000  # triangles of one picture; where stock would take more, a box stands for each piece


def _cube() -> Shape:
    """A box from nothing to one."""
    triangles = []
    for axis in range(3):
        u, v = (axis + 1) % 3, (axis + 2) % 3
        for side in (0.0, 1.0):
            ring = []
            for a, b in ((0, 0), (1, 0), (1, 1), (0, 1)) if side else ((0, 0), (0, 1), (1, 1), (1, 0)):
                corner = [0.0, 0.0, 0.0]
                corner[axis], corner[u], corner[v] = side, float(a), float(b)
                ring.append(corner)
            normal = [0.0, 0.0, 0.0]
            normal[axis] = 1.0 if side else -1.0
            triangles += [[*ring[k], *normal] for k in (0, 1, 2, 0, 2, 3)]
    return Shape(np.array(triangles, dtype=np.float32), np.zeros((0, 3), dtype=np.float32))


CUBE = _cube()


class Group:
    """Pieces that one shape stands for: its rows, and the columns of each place scaled to its size, which are worked
    out when they are first drawn."""

    def __init__(self, shape: Shape, rows: NDArray[np.intp], lay: Callable[[], Array32]) -> None:
        self.shape, self.rows, self._lay = shape, rows, lay

    @cached_property
    def places(self) -> Array32:
        return self._lay()


def _placed(laid: Layouts, rows: NDArray[np.intp], stretched: bool) -> Array32:
    """Where pieces are, as long as they are if their shape is `LONG`."""
    places = laid.places[rows]
    if stretched:
        places[:, [0, 4, 8]] *= laid.high[rows, :1] / LONG
    return places.astype(np.float32)


class Massing:
    """Kept for as long as the steel that is shown is the same; `picture` gives the batches for a camera."""

    def __init__(self, laid: Layouts, shown: Flags) -> None:
        self._laid = laid
        there = laid.there & shown[laid.owner]
        if int(there.sum()) > MANY:
            there &= laid.main
        self._rows = np.flatnonzero(there)
        self._centre, self._radius = laid.centre[self._rows], laid.radius[self._rows]
        self._groups = list(self._grouped())
        self._boxes = Group(CUBE, self._rows, self._boxed)
        self._all_tri = sum(len(g.shape.triangles) // 3 * len(g.rows) for g in self._groups)
        self._last: tuple[object, list[Batch]] | None = None

    def _grouped(self) -> Iterator[Group]:
        """Members of a section by the stock of it, stretched to their lengths; all else by its own shape."""
        laid = self._laid
        stocks = laid.stock(self._rows)
        order = np.argsort(stocks, kind="stable")
        starts = np.flatnonzero(np.diff(stocks[order], prepend=-1))
        for some in np.split(order, starts[1:]) if len(order) else ():
            rows = self._rows[some]
            stock = laid.stocks[int(stocks[some[0]])]
            stretched = stock.section is not None and stock.rolling is None
            yield Group(part_shape(stock, Detail.STOCK), rows, partial(_placed, laid, rows, stretched))

    def _boxed(self) -> Array32:
        laid, rows = self._laid, self._rows
        places = laid.places[rows].reshape(-1, 3, 4).copy()
        size = laid.high[rows] - laid.low[rows]
        places[:, :, 3] += np.einsum("nij,nj->ni", places[:, :, :3], laid.low[rows])
        places[:, :, :3] *= size[:, None, :]
        return places.reshape(-1, 12).astype(np.float32)

    def picture(self, camera: Camera) -> list[Batch]:
        """The batches of what lies in the view; the same ones as before where that has not changed."""
        seen = self._in_view(camera)
        whole = bool(seen.all())
        tri = self._all_tri
        if not whole:
            shown = np.zeros(len(self._laid.there), dtype=bool)
            shown[self._rows[seen]] = True
            tri = sum(len(g.shape.triangles) // 3 * int(shown[g.rows].sum()) for g in self._groups)
        boxes = tri > MOST
        state = whole, boxes, b"" if whole else seen.tobytes()
        if self._last is None or self._last[0] != state:
            owner, groups = self._laid.owner, [self._boxes] if boxes else self._groups
            made = []
            for g in groups:
                part = slice(None) if whole else shown[g.rows]
                places = g.places[part]
                if len(places):
                    made.append(Batch(g.shape, places, owner[g.rows[part]]))
            self._last = state, made
        return self._last[1]

    def _in_view(self, camera: Camera) -> Flags:
        local = (self._centre - camera.target) @ camera.axes[:2].T / camera.scale
        reach = self._radius / camera.scale
        return np.asarray(
            (np.abs(local[:, 0]) < camera.width / 2 + reach) & (np.abs(local[:, 1]) < camera.height / 2 + reach)
        )
