"""What the model view draws, as arrays: equal parts once, placed many times. No Qt, no OpenGL."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from enum import StrEnum
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.app.canvas.laid import Flags, Layouts
from uncus.catalog.bolts import bolt_sizes, rod_sizes, stud_diameter
from uncus.frame.arcs import arc_of
from uncus.frame.axes import work_axes
from uncus.frame.helices import helix_of
from uncus.job.records import Member
from uncus.shop.pieces import Assembly
from uncus.steel.joint import FastenerKind
from uncus.steel.part import Part
from uncus.steel.solid import Mesh, edges, plain_mesh, stock_mesh, triangle_normals, view_mesh

Array32 = NDArray[np.float32]
_SHARP = math.cos(math.radians(20))
FINE_LIMIT = 250_000  # triangles of holes and bolts beyond which they are left out of the view


class Shape(msgspec.Struct, frozen=True, eq=False):
    """Triangles (n, 6) as position and normal, and edges (m, 3) as pairs of positions."""

    triangles: Array32
    lines: Array32


def _shape(source: Mesh) -> Shape:
    normals = np.repeat(triangle_normals(source), 3, axis=0)
    corners = source.points[source.triangles].reshape(-1, 3)
    found = edges(source)
    n = triangle_normals(source)
    sharp = np.einsum("ij,ij->i", n[found[:, 2]], n[found[:, 3]]) < _SHARP
    lines = source.points[found[sharp][:, :2]].reshape(-1, 3)
    return Shape(np.hstack([corners, normals]).astype(np.float32), lines.astype(np.float32))


class Detail(StrEnum):
    """How much of a part is drawn: with its holes, without them, or its stock alone."""

    FINE = "fine"
    PLAIN = "plain"
    STOCK = "stock"


_MESHES = {Detail.FINE: view_mesh, Detail.PLAIN: plain_mesh, Detail.STOCK: stock_mesh}


@lru_cache(maxsize=16384)
def part_shape(part: Part, detail: Detail) -> Shape:
    return _shape(_MESHES[detail](part))


def _bolt_shape(kind: str, size: str, length: float) -> Shape:
    """A head and a shank, or a rod, along +z from the head's underside."""
    if kind == FastenerKind.STUD:
        d = stud_diameter(size)
        prisms = [(d / 2, 0.0, length, 8), (0.8 * d, 0.0, d / 2, 8)]
    else:
        d = rod_sizes()[size].d if kind == FastenerKind.ROD else bolt_sizes()[size].d
        prisms = [(d / 2, 0.0, length, 8)]
    if kind == FastenerKind.BOLT:
        bolt = bolt_sizes()[size]
        prisms += [
            (bolt.head_flats / math.sqrt(3), -bolt.head_height, 0.0, 6),
            (bolt.head_flats / math.sqrt(3), length - bolt.nut_height - d / 3, length - d / 3, 6),
        ]
    triangles, lines = [], []
    for r, z0, z1, sides in prisms:
        a = 2 * math.pi * np.arange(sides + 1) / sides
        ring = np.column_stack([r * np.cos(a), r * np.sin(a)])
        for p, q in zip(ring, ring[1:], strict=False):
            n = np.array([*(p + q) / np.linalg.norm(p + q), 0.0])
            quad = [(*p, z0), (*q, z0), (*q, z1), (*p, z0), (*q, z1), (*p, z1)]
            triangles += [(*v, *n) for v in quad]
            for z, s in ((z0, -1.0), (z1, 1.0)):
                fan = [(0, 0, z), (*p, z), (*q, z)]
                triangles += [(*v, 0, 0, s) for v in fan]
                if sides == 6:
                    lines += [(*p, z), (*q, z)]
    return Shape(np.array(triangles, dtype=np.float32), np.array(lines, dtype=np.float32).reshape(-1, 3))


class Batch(msgspec.Struct, eq=False):
    """One shape and its instances: (k, 12) rows of a 3 x 4 matrix, and whose each is, an index into the owners."""

    shape: Shape
    places: Array32
    owners: NDArray[np.int32]


_NO_TRIANGLES = np.zeros((0, 6), dtype=np.float32)
_STICK = Shape(_NO_TRIANGLES, np.array([(0, 0, 0), (1, 0, 0)], dtype=np.float32))
Key = tuple[object, ...]


class Solid:
    """Batches of all that is drawn solid, each kept for as long as its rows are the same: parts, then bolts and rods;
    of very many, without holes and bolts."""

    def __init__(self) -> None:
        self._batches: dict[Key, Batch] = {}
        self._bolts: dict[Key, Batch] = {}
        self._shown: Flags | None = None
        self._detail = Detail.FINE

    def follow(self, laid: Layouts, shown: Flags) -> dict[Key, Batch]:
        """The batches as they are now, by shape; what is `shown` is told by owner. Those that are the same objects as
        before need not be drawn otherwise."""
        detail = Detail.FINE if laid.fine < FINE_LIMIT else Detail.PLAIN
        before = self._shown
        same = before is not None and len(before) <= len(shown) and np.array_equal(before, shown[: len(before)])
        changed = laid.changed_parts
        if not same or detail is not self._detail:
            self._batches, changed = {}, set(laid.rows_of)
        if changed or not same:
            self._bolts = _fastener_batches(laid, shown) if detail is Detail.FINE else {}
        for part in changed:
            batch = _part_batch(laid, part, shown, detail)
            if batch is not None:
                self._batches[part,] = batch
            else:
                self._batches.pop((part,), None)
        self._shown, self._detail = shown, detail
        laid.changed_parts = set()
        return {**self._batches, **self._bolts}


def _part_batch(laid: Layouts, part: int, shown: Flags, detail: Detail) -> Batch | None:
    """The instances of a part that are shown, in the order of their rows."""
    own = laid.rows_of[part]
    rows = np.sort(np.fromiter(own, np.int64, len(own)))
    rows = rows[shown[laid.owner[rows]]] if len(rows) else rows
    if not len(rows):
        return None
    return Batch(part_shape(laid.parts[part], detail), laid.places[rows].astype(np.float32), laid.owner[rows])


def batches(laid: Layouts, shown: Flags, detail: Detail = Detail.PLAIN, lines_only: bool = False) -> list[Batch]:
    """The pieces of some owners: without bolts; `lines_only` their edges alone."""
    rows = np.flatnonzero(laid.there & shown[laid.owner]) if shown.any() else np.zeros(0, dtype=np.int64)
    found = [_part_batch(laid, part, shown, detail) for part in np.unique(laid.part[rows]).tolist()]
    made = [b for b in found if b is not None]
    return [Batch(Shape(_NO_TRIANGLES, b.shape.lines), b.places, b.owners) for b in made] if lines_only else made


def stick_batches(laid: Layouts, ids: Iterable[str]) -> list[Batch]:
    """Work lines alone."""
    places, owners = [], []
    for id in ids:
        member = laid.assemblies[id].member
        points = _work_line(member)
        for start, way in zip(points, np.diff(points, axis=0), strict=False):
            places.append(np.column_stack([way, np.zeros(3), np.zeros(3), start]).ravel())
            owners.append(laid.owner_of(id))
    return [Batch(_STICK, np.array(places, dtype=np.float32), np.array(owners, dtype=np.int32))] if places else []


def _work_line(member: Member) -> NDArray[np.float64]:
    """Points along a member's work line: its ends, and more of one that is rolled or climbs."""
    ends = np.array([member.start, member.end])
    if member.is_rolled:
        arc = arc_of(member, work_axes(*ends))
        return arc.points() if arc else ends
    helix = helix_of(member, (0.0, 0.0))
    return helix.points() if helix else ends


def _fastener_batches(laid: Layouts, shown: Flags) -> dict[Key, Batch]:
    kinds: dict[tuple[str, str, float], tuple[list[NDArray[np.float64]], list[int]]] = defaultdict(lambda: ([], []))
    for id, assembly in laid.assemblies.items():
        owner = laid.owner_of(id)
        if owner is None or not shown[owner]:
            continue
        for group in assembly.holds:
            places, owners = kinds[str(group.kind), group.size, group.length]
            z = np.asarray(group.axis)
            side = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
            x = np.cross(side, z) / np.linalg.norm(np.cross(side, z))
            axes = np.column_stack([x, np.cross(z, x), z])
            for point in group.points:
                places.append(np.hstack([axes, np.asarray(point)[:, None]]).ravel())
                owners.append(owner)
    return {
        key: Batch(_bolt_shape(*key), np.array(places, dtype=np.float32), np.array(owners, dtype=np.int32))
        for key, (places, owners) in kinds.items()
    }


def extent(assemblies: Iterable[Assembly]) -> NDArray[np.float64]:
    """Ends of all members, (n, 3): enough to frame a view."""
    points = [p for a in assemblies for p in (a.member.start, a.member.end)]
    return np.array(points, dtype=np.float64).reshape(-1, 3)
