"""Others' models as the view draws and picks them: shapes that stand often once each, single ones laid together by
colour. No Qt, no OpenGL."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Mapping
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.massing import CUBE
from uncus.app.canvas.picking import struck
from uncus.app.canvas.scene import Batch, Key, Shape
from uncus.frame.placement import point_of
from uncus.frame.snaps import NamedLine, Snap, SnapKind
from uncus.job.records import Reference
from uncus.reference.laying import shown_products
from uncus.reference.meshes import corner_normals
from uncus.reference.model import Model, Product
from uncus.reference.placing import matrix_of, placed

Array = NDArray[np.float64]
Colour = tuple[float, float, float]
MOST = 36_000  # triangles of a picture that moves; what is small on screen is a box, or left out
_TINY = 3.0  # pixels across under which nothing is drawn while the view moves
_IDENTITY = np.eye(3, 4, dtype=np.float32).reshape(1, 12)
_CHUNK = 60_000  # triangles that are laid together at most
_SHAPES = 80  # different ones in it
_NEAREST = 6  # products whose corners are offered
_CORNERS = 400  # corners and edges of one product that are offered, the nearest


class Drawn(NamedTuple):
    """What is drawn of others' models: solid at rest, while the view moves, and lines that stand alone (drawings);
    `tints` are the colours that the batches' owners number."""

    rest: dict[Key, Batch]
    lines: dict[Key, Batch]
    tints: NDArray[np.float32]


class Met(NamedTuple):
    """A product that a sight line meets, and where along it."""

    reference: str
    product: int
    far: float


class Stood(NamedTuple):
    """A reference with its model as it stands in the job: places (n, 12) and boxes of its shown instances."""

    of: Reference
    model: Model
    rows: NDArray[np.intp]
    places: Array
    low: Array
    high: Array

    @classmethod
    def of_record(cls, of: Reference, model: Model) -> Stood:
        shown = np.array(shown_products(of, model), dtype=bool)
        rows = np.flatnonzero(shown[model.product]) if len(model.product) else np.zeros(0, dtype=np.intp)
        matrix = matrix_of(of)
        axes = np.einsum("ij,njk->nik", matrix[:, :3], model.places[rows, :, :3])
        at = model.places[rows, :, 3] @ matrix[:, :3].T + matrix[:, 3]
        places = np.concatenate([axes, at[:, :, None]], axis=2)
        low, high = model.shape_boxes
        low, high = low[model.shape[rows]], high[model.shape[rows]]
        middle = np.einsum("nij,nj->ni", axes, (low + high) / 2) + at
        reach = np.einsum("nij,nj->ni", np.abs(axes), (high - low) / 2)
        return cls(of, model, rows, places, middle - reach, middle + reach)


class Others:
    """All references that are shown; made anew when one of them, or what is shown of it, is another."""

    def __init__(self, standing: Mapping[str, tuple[Reference, Model]]) -> None:
        self.stood = [Stood.of_record(of, model) for of, model in standing.values() if of.shown]
        self._low = np.concatenate([s.low for s in self.stood]) if self.stood else np.zeros((0, 3))
        self._high = np.concatenate([s.high for s in self.stood]) if self.stood else np.zeros((0, 3))
        self._start = np.cumsum([0, *(len(s.rows) for s in self.stood)])
        self._shape_start = np.cumsum([0, *(len(s.model.shapes) for s in self.stood)])[:-1]
        self._owners: list[NDArray[np.int32]] = []
        self._moving: tuple[object, dict[Key, Batch]] | None = None

    def __len__(self) -> int:
        return len(self._low)

    @property
    def extent(self) -> Array:
        """Two corners of all of it, (2, 3); none where nothing is shown."""
        return np.array([self._low.min(axis=0), self._high.max(axis=0)]) if len(self) else np.zeros((0, 3))

    # -- drawing ---------------------------------------------------------------------------------------------------
    def drawn(self, colours: Mapping[str, Mapping[int, Colour]], plain: Colour | None = None) -> Drawn:
        """Batches. `colours` are those of products by reference and number; others have the file's own, or `plain`."""
        rest: dict[Key, Batch] = {}
        lines: dict[Key, Batch] = {}
        table: dict[Colour, int] = {}
        self._owners = []
        for s in self.stood:
            owners = self._owners_of(s, colours.get(s.of.id, {}), plain, table)
            self._owners.append(owners)
            shapes = s.model.shape[s.rows]
            order = np.argsort(shapes, kind="stable")
            starts = np.flatnonzero(np.diff(shapes[order], prepend=-1))
            single: dict[int, list[int]] = defaultdict(list)
            for some in np.split(order, starts[1:]) if len(order) else ():
                k = int(shapes[some[0]])
                shape = s.model.shapes[k]
                if not len(shape.triangles):
                    batch = Batch(_lined(s, k), s.places[some].reshape(-1, 12).astype(np.float32), owners[some])
                    lines[s.of.id, k] = batch
                elif len(some) == 1:
                    single[int(owners[some[0]])].append(int(some[0]))
                else:
                    places = s.places[some].reshape(-1, 12).astype(np.float32)
                    rest[s.of.id, k] = Batch(_faced(s, k), places, owners[some])
            for owner, rows in single.items():
                for n, chunk in enumerate(_chunks(s, rows)):
                    rest[s.of.id, "single", owner, n] = Batch(chunk, _IDENTITY, np.array([owner], dtype=np.int32))
        self._moving = None
        tints = np.array(list(table) or [(0.7, 0.7, 0.7)], dtype=np.float32)
        return Drawn(rest, lines, tints)

    @staticmethod
    def _owners_of(
        s: Stood, colours: Mapping[int, Colour], plain: Colour | None, table: dict[Colour, int]
    ) -> NDArray[np.int32]:
        own = np.round(s.model.colours[s.rows], 2).tolist()  # of all at once: one by one it holds the window up
        products = s.model.product[s.rows].tolist()
        chosen = (colours.get(p) or plain or tuple(c) for p, c in zip(products, own, strict=True))
        return np.array([table.setdefault(colour, len(table)) for colour in chosen], dtype=np.int32)

    def moving(self, camera: Camera) -> dict[Key, Batch]:
        """What is drawn while the view moves: what is largest on screen by its shape, the rest as boxes; the same
        batches as before where that has not changed."""
        middle, radius = (self._low + self._high) / 2, np.linalg.norm(self._high - self._low, axis=1) / 2
        local = (middle - camera.target) @ camera.axes[:2].T / camera.scale
        size = radius / camera.scale
        seen = (np.abs(local[:, 0]) < camera.width / 2 + size) & (np.abs(local[:, 1]) < camera.height / 2 + size)
        state = seen.tobytes(), round(math.log2(max(camera.scale, 1e-6)))
        if self._moving is None or self._moving[0] != state:
            self._moving = state, self._massed(seen & (2 * size > _TINY), size)
        return self._moving[1]

    def _massed(self, seen: NDArray[np.bool_], size: NDArray[np.float64]) -> dict[Key, Batch]:
        cost = np.concatenate([np.diff(s.model.triangle_at)[s.model.shape[s.rows]] for s in self.stood])
        wanted = np.flatnonzero(seen & (cost > 0))
        wanted = wanted[np.argsort(-size[wanted], kind="stable")]
        whole = np.cumsum(np.minimum(cost[wanted], MOST)) + 12 * (len(wanted) - np.arange(len(wanted)) - 1) <= MOST
        shapes = np.concatenate(
            [s.model.shape[s.rows] + at for s, at in zip(self.stood, self._shape_start, strict=True)]
        )
        _, first = np.unique(shapes[wanted], return_index=True)
        few = shapes[wanted][np.sort(first)[:_SHAPES]]  # each is a call of its own to draw
        whole &= np.isin(shapes[wanted], few)
        boxes = wanted[~whole][: MOST // 12]
        found: dict[Key, Batch] = {}
        for n, s in enumerate(self.stood):
            own = wanted[whole]
            own = own[(own >= self._start[n]) & (own < self._start[n + 1])] - self._start[n]
            own_shapes = s.model.shape[s.rows][own]
            for k in np.unique(own_shapes).tolist():
                rows = own[own_shapes == k]
                places = s.places[rows].reshape(-1, 12).astype(np.float32)
                found[s.of.id, k] = Batch(_faced(s, k), places, self._owners[n][rows])
        if len(boxes):
            found["boxes",] = Batch(CUBE, self._boxed(boxes), np.concatenate(self._owners)[boxes])
        return found

    def _boxed(self, rows: NDArray[np.intp]) -> NDArray[np.float32]:
        """A cube's places, each stretched to a product's own box along its own axes."""
        made = []
        for n, s in enumerate(self.stood):
            own = rows[(rows >= self._start[n]) & (rows < self._start[n + 1])] - self._start[n]
            low, high = (side[s.model.shape[s.rows][own]] for side in s.model.shape_boxes)
            places = s.places[own].copy()
            places[:, :, 3] += np.einsum("nij,nj->ni", places[:, :, :3], low)
            places[:, :, :3] *= (high - low)[:, None, :]
            made.append(places.reshape(-1, 12))
        return np.concatenate(made).astype(np.float32)

    # -- pointing --------------------------------------------------------------------------------------------------
    def _boxes_met(self, origin: Array, way: Array, grow: float) -> NDArray[np.intp]:
        """Instances whose boxes, grown, a sight line meets, the nearest first."""
        with np.errstate(divide="ignore", invalid="ignore"):
            t1, t2 = (self._low - grow - origin) / way, (self._high + grow - origin) / way
            near, far = np.fmax.reduce(np.minimum(t1, t2), axis=1), np.fmin.reduce(np.maximum(t1, t2), axis=1)
        hits = np.flatnonzero(near <= far)
        return np.asarray(hits[np.argsort(near[hits])])

    def _of(self, row: int) -> tuple[Stood, int]:
        n = int(np.searchsorted(self._start, row, side="right")) - 1
        return self.stood[n], row - int(self._start[n])

    def at(self, origin: Array, way: Array, span: tuple[float, float] = (-math.inf, math.inf)) -> Met | None:
        """The first product that a sight line meets."""
        best: Met | None = None
        for row in self._boxes_met(origin, way, 0.0)[:200].tolist():
            s, n = self._of(row)
            far = _met(s, n, origin, way, span)
            if far is not None and (best is None or far < best.far):
                best = Met(s.of.id, int(s.model.product[s.rows[n]]), far)
        return best

    def near(self, origin: Array, way: Array, reach: float) -> tuple[list[Snap], list[NamedLine]]:
        """Corners, line ends and edges of what is near a sight line, and the axes of what has one."""
        snaps: list[Snap] = []
        edges: list[NamedLine] = []
        for row in self._boxes_met(origin, way, reach)[:_NEAREST].tolist():
            s, n = self._of(row)
            product = s.model.products[int(s.model.product[s.rows[n]])]
            words = f"{product.name or product.cls.removeprefix('Ifc')} of {s.of.name}"
            shape = s.model.shapes[int(s.model.shape[s.rows[n]])]
            ends = (shape.points.astype(np.float64) @ s.places[n, :, :3].T + s.places[n, :, 3])[shape.lines]
            for a, b in _close(ends, origin, way, reach):
                for p in (a, b):
                    kind = SnapKind.CORNER if len(shape.triangles) else SnapKind.END
                    snaps.append(Snap(point_of(p), f"{kind} of {words}", "", kind, (point_of(a), point_of(b))))
                edges.append(NamedLine(a, b, f"edge of {words}", ""))
            snaps += list(_axis_snaps(s, product, words))
        return snaps, edges


def _axis_snaps(s: Stood, product: Product, words: str) -> Iterator[Snap]:
    if product.axis is not None:
        a, b = placed(s.of, np.array(product.axis))
        line = point_of(a), point_of(b)
        for p in (a, b):
            yield Snap(point_of(p), f"axis end of {words}", "", SnapKind.END, line)
        yield Snap(point_of((a + b) / 2), f"middle of the axis of {words}", "", SnapKind.MIDDLE, line)


def _close(ends: Array, origin: Array, way: Array, reach: float) -> list[Array]:
    """Lines (n, 2, 3) that come within reach of a sight line."""
    if not len(ends):
        return []
    way = way / np.linalg.norm(way)
    flat = ends - origin
    flat = flat - (flat @ way)[..., None] * way  # seen along it: from a line to a point
    a, d = flat[:, 0], flat[:, 1] - flat[:, 0]
    t = np.clip(-np.einsum("ij,ij->i", a, d) / np.maximum(np.einsum("ij,ij->i", d, d), 1e-12), 0.0, 1.0)
    off = np.linalg.norm(a + t[:, None] * d, axis=1)
    rows = np.flatnonzero(off <= reach)
    return list(ends[rows[np.argsort(off[rows])][:_CORNERS]])


def _met(s: Stood, n: int, origin: Array, way: Array, span: tuple[float, float]) -> float | None:
    shape = s.model.shapes[int(s.model.shape[s.rows[n]])]
    if not len(shape.triangles):
        return None
    points = shape.points.astype(np.float64) @ s.places[n, :, :3].T + s.places[n, :, 3]
    met = struck(points[shape.triangles], origin, way, span)
    return met[0] if met is not None else None


# -- shapes -----------------------------------------------------------------------------------------------------------
def _faced(s: Stood, k: int) -> Shape:
    """A shape as it is drawn, about its own middle."""
    known = s.model.__dict__.setdefault("drawn", {})
    if k not in known:
        shape = s.model.shapes[k]
        corners = shape.points[shape.triangles].reshape(-1, 3)
        faces = np.hstack([corners, corner_normals(shape)]).astype(np.float32)
        known[k] = Shape(faces, shape.points[shape.lines].reshape(-1, 3).astype(np.float32))
    return known[k]  # type: ignore[no-any-return]


def _lined(s: Stood, k: int) -> Shape:
    shape = s.model.shapes[k]
    return Shape(np.zeros((0, 6), dtype=np.float32), shape.points[shape.lines].reshape(-1, 3).astype(np.float32))


def _chunks(s: Stood, rows: list[int]) -> Iterator[Shape]:
    """Single shapes laid together where they stand."""
    faces: list[NDArray[np.float32]] = []
    lines: list[NDArray[np.float32]] = []
    count = 0
    for n in rows:
        shape = _faced(s, int(s.model.shape[s.rows[n]]))
        axes, at = s.places[n, :, :3], s.places[n, :, 3]
        corners = shape.triangles[:, :3] @ axes.T + at
        faces.append(np.hstack([corners, shape.triangles[:, 3:] @ axes.T]).astype(np.float32))
        lines.append((shape.lines @ axes.T + at).astype(np.float32))
        count += len(shape.triangles) // 3
        if count > _CHUNK:
            yield Shape(np.concatenate(faces), np.concatenate(lines))
            faces, lines, count = [], [], 0
    if faces:
        yield Shape(np.concatenate(faces), np.concatenate(lines))
