"""What the model view draws, as arrays: equal parts once, placed many times. No Qt, no OpenGL."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Sequence
from enum import StrEnum
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.app.canvas.laid import Laid
from uncus.catalog.bolts import bolt_sizes, rod_sizes, stud_diameter
from uncus.frame.arcs import arc_of
from uncus.frame.axes import work_axes
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
    """One shape and its instances: (k, 12) rows of a 3 x 4 matrix, and whose each is."""

    shape: Shape
    places: Array32
    owners: list[str]


_NO_TRIANGLES = np.zeros((0, 6), dtype=np.float32)
_STICK = Shape(_NO_TRIANGLES, np.array([(0, 0, 0), (1, 0, 0)], dtype=np.float32))


def outline_batches(laid: Sequence[Laid], parts: Sequence[Part]) -> list[Batch]:
    """Edges alone."""
    found = _part_batches(laid, parts, Detail.PLAIN)
    return [Batch(Shape(_NO_TRIANGLES, b.shape.lines), b.places, b.owners) for b in found]


def stick_batches(assemblies: Iterable[Assembly]) -> list[Batch]:
    """Work lines alone."""
    places, owners = [], []
    for a in assemblies:
        points = np.array([a.member.start, a.member.end])
        if a.member.is_rolled:
            arc = arc_of(a.member, work_axes(*points))
            points = arc.points() if arc else points
        for start, way in zip(points, np.diff(points, axis=0), strict=False):
            places.append(np.column_stack([way, np.zeros(3), np.zeros(3), start]).ravel())
            owners.append(a.id)
    return [Batch(_STICK, np.array(places, dtype=np.float32), owners)] if places else []


MANY = 3_000  # parts beyond which a moving view shows main parts alone


def moving_batches(laid: Sequence[Laid], parts: Sequence[Part]) -> list[Batch]:
    """What is drawn while the view moves: stock without holes or bolts; of very many, without plates."""
    many = sum(len(one.parts) for one in laid) > MANY
    return _part_batches(laid, parts, Detail.STOCK, most=1 if many else None)


def ghost_batches(laid: Sequence[Laid], parts: Sequence[Part]) -> list[Batch]:
    """What is seen through: stock of all parts, no bolts."""
    return _part_batches(laid, parts, Detail.STOCK)


def batches(laid: Sequence[Laid], parts: Sequence[Part]) -> list[Batch]:
    """Everything to draw for some assemblies: parts, then bolts and rods; of very many, without holes and bolts."""
    fine = sum(one.fine for one in laid) < FINE_LIMIT
    out = _part_batches(laid, parts, Detail.FINE if fine else Detail.PLAIN)
    return out + (_fastener_batches([one.assembly for one in laid]) if fine else [])


def _part_batches(laid: Sequence[Laid], parts: Sequence[Part], detail: Detail, most: int | None = None) -> list[Batch]:
    """Equal parts together; of each assembly its first `most` parts (the main one first)."""
    if not laid:
        return []
    index = np.concatenate([one.parts[:most] for one in laid])
    places = np.concatenate([one.places[:most] for one in laid]).astype(np.float32)
    owners = [one.assembly.id for one in laid for _ in one.pieces[:most]]
    order = np.argsort(index, kind="stable")
    starts = np.flatnonzero(np.diff(index[order], prepend=-1))
    return [
        Batch(part_shape(parts[int(index[rows[0]])], detail), places[rows], [owners[i] for i in rows.tolist()])
        for rows in np.split(order, starts[1:])
    ]


def _fastener_batches(assemblies: list[Assembly]) -> list[Batch]:
    kinds: dict[tuple[str, str, float], tuple[list[NDArray[np.float64]], list[str]]] = defaultdict(lambda: ([], []))
    for assembly in assemblies:
        for group in assembly.holds:
            places, owners = kinds[(str(group.kind), group.size, group.length)]
            z = np.asarray(group.axis)
            side = np.array([1.0, 0, 0]) if abs(z[0]) < 0.9 else np.array([0, 1.0, 0])
            x = np.cross(side, z) / np.linalg.norm(np.cross(side, z))
            axes = np.column_stack([x, np.cross(z, x), z])
            for point in group.points:
                places.append(np.hstack([axes, np.asarray(point)[:, None]]).ravel())
                owners.append(assembly.id)
    return [
        Batch(_bolt_shape(*key), np.array(places, dtype=np.float32), owners) for key, (places, owners) in kinds.items()
    ]


def extent(assemblies: Iterable[Assembly]) -> NDArray[np.float64]:
    """Ends of all members, (n, 3): enough to frame a view."""
    points = [p for a in assemblies for p in (a.member.start, a.member.end)]
    return np.array(points, dtype=np.float64).reshape(-1, 3)
