"""Steel held against others' models: which products a piece stands in, and by how much."""

from __future__ import annotations

import atexit
from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from manifold3d import Manifold, OpType
from manifold3d import Mesh as Triangles
from numpy.typing import NDArray

from uncus.frame.placement import Placement, point_of
from uncus.job.record import Point
from uncus.job.references import Reference
from uncus.reference.laying import shown_products
from uncus.reference.model import Model, Product, Shape
from uncus.reference.placing import matrix_of, placed
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh, solid

Array = NDArray[np.float64]
TOUCH = 2.0  # mm that steel may stand in others' models: they are drawn no finer
_LEAST = 500.0  # mm3
_MOST = 4000  # triangles of an open shape that are looked at about one piece
_SKIN = 0.05  # mm that an open shape is thick


class Standing(NamedTuple):
    """Steel in the model: a part and where it is."""

    part: Part
    place: Placement


class Clash(NamedTuple):
    """A piece, by its number, and a product that it stands in: how much of it, its least extent along the model's axes
    and a point amid it."""

    piece: int
    product: Product
    volume: float
    depth: float
    at: Point


def boxes_of(steel: Sequence[Standing]) -> Array:
    """(n, 6): lowest and highest x, y and z of each piece."""
    found = np.zeros((len(steel), 6))
    for n, one in enumerate(steel):
        points = one.place.to_model(plain_mesh(one.part).points)
        found[n] = (*points.min(axis=0), *points.max(axis=0))
    return found


def clashes(steel: Sequence[Standing], boxes: Array, of: Reference, model: Model) -> Iterator[Clash]:
    """Pieces that stand in products of a reference that are shown, by more than they touch."""
    shown = np.array(shown_products(of, model), dtype=bool)
    rows = [
        n for n, p in model.each() if shown[p_number(model, n)] and len(model.shapes[int(model.shape[n])].triangles)
    ]
    if not rows or not len(steel):
        return
    theirs = np.array([_box(of, model, n) for n in rows])
    tree = shapely.STRtree(shapely.box(theirs[:, 0], theirs[:, 1], theirs[:, 3], theirs[:, 4]))
    plan = shapely.box(boxes[:, 0] + TOUCH, boxes[:, 1] + TOUCH, boxes[:, 3] - TOUCH, boxes[:, 4] - TOUCH)
    ours, other = tree.query(plan)
    near = (boxes[ours, 2] < theirs[other, 5] - TOUCH) & (theirs[other, 2] < boxes[ours, 5] - TOUCH)
    for i, j in sorted(zip(ours[near].tolist(), other[near].tolist(), strict=True)):
        n = rows[j]
        found = _shared(steel[i], of, model, n, boxes[i])
        if found is not None:
            yield Clash(i, model.products[int(model.product[n])], *found)


def p_number(model: Model, instance: int) -> int:
    return int(model.product[instance])


def _box(of: Reference, model: Model, n: int) -> tuple[float, ...]:
    points = placed(of, model.points_of(n))
    return (*points.min(axis=0).tolist(), *points.max(axis=0).tolist())


def _shared(one: Standing, of: Reference, model: Model, n: int, box: Array) -> tuple[float, float, Point] | None:
    """mm3, mm and a point of what a piece and an instance both fill."""
    matrix = matrix_of(of)
    place = model.places[n]
    axes = matrix[:, :3] @ place[:, :3]
    at = matrix[:, :3] @ place[:, 3] + matrix[:, 3]
    shape = model.shapes[int(model.shape[n])]
    # in the piece's own frame, where numbers are small
    axes = one.place.axes.T @ axes
    at = one.place.axes.T @ (at - one.place.origin)
    body = _closed(shape.points.tobytes(), shape.triangles.tobytes())
    if body is not None:
        theirs = body.transform(np.column_stack([axes, at]))
    else:
        low, high = plain_mesh(one.part).points.min(axis=0), plain_mesh(one.part).points.max(axis=0)
        theirs = _skin(shape, axes, at, low, high)
        if theirs is None:
            return None
    whole = solid(one.part) ^ theirs
    if whole.is_empty():
        return None
    bounds = np.array(whole.bounding_box()).reshape(2, 3)
    depth, volume = float((bounds[1] - bounds[0]).min()), float(whole.volume())
    if body is None:  # a skin has no volume to speak of: how far it goes in is what counts
        reach = np.sort(bounds[1] - bounds[0])
        depth = float(reach[1])
    if depth <= TOUCH or (body is not None and volume < _LEAST):
        return None
    return volume if body is not None else 0.0, depth, point_of(one.place.to_model(bounds.mean(axis=0)))


@lru_cache(maxsize=4096)
def _closed(points: bytes, triangles: bytes) -> Manifold | None:
    """The solid of a shape; None for one that encloses nothing."""
    p = np.frombuffer(points, dtype=np.float32).reshape(-1, 3).copy()
    t = np.frombuffer(triangles, dtype=np.int32).reshape(-1, 3).astype(np.uint32)
    made = Manifold(Triangles(p, t))
    if made.is_empty() or made.volume() == 0:
        return None
    return made if made.volume() > 0 else Manifold(Triangles(p, np.ascontiguousarray(t[:, ::-1])))


atexit.register(_closed.cache_clear)  # before the library's own objects go


def _skin(shape: Shape, axes: Array, at: Array, low: Array, high: Array) -> Manifold | None:
    """An open shape's triangles near a box, each a little thick."""
    points = shape.points.astype(np.float64) @ axes.T + at
    corners = points[shape.triangles]
    near = (corners.min(axis=1) < high).all(axis=1) & (corners.max(axis=1) > low).all(axis=1)
    some = corners[near][:_MOST]
    normals = np.cross(some[:, 1] - some[:, 0], some[:, 2] - some[:, 0])
    size = np.linalg.norm(normals, axis=1)
    some, normals = some[size > 1e-9], normals[size > 1e-9] / size[size > 1e-9, None]
    if not len(some):
        return None
    both = np.concatenate([some - _SKIN / 2 * normals[:, None], some + _SKIN / 2 * normals[:, None]], axis=1)
    return Manifold.batch_boolean([Manifold.hull_points(six) for six in both], OpType.Add)
