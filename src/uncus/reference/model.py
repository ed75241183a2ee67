"""Others' model as it was read: its products, their shapes once each and where they stand, its storeys and axes.

All in millimetres in the file's own coordinates; where it is put in the job is the record's to say. No library of IFC
is needed to hold one: reading is done elsewhere (`reference.reading`), and what was read is kept as plain arrays.
"""

from __future__ import annotations

import io
from collections.abc import Iterable, Iterator
from functools import cached_property
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.job.record import Point

Array = NDArray[np.float64]
Array32 = NDArray[np.float32]
Index = NDArray[np.int32]
OWN_SET, OWN_NAME = "Uncus", "Record"  # the property set and property that a member of ours is written to
FORM = 2  # of what is kept: raised whenever reading finds more or otherwise
_ARRAYS = (
    "points", "triangles", "lines", "point_at", "triangle_at", "line_at", "product", "shape", "places", "colours",
)  # fmt: skip


class Profile(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A profile as its file tells it: `kind` is the class of the schema, `sizes` its parameters (mm, by the schema's
    names), `outer` and `inner` the rings of one that is drawn, `turn` (2 x 2) and `at` how it lies in its plane."""

    kind: str
    name: str = ""
    sizes: dict[str, float] = {}
    outer: tuple[tuple[float, float], ...] = ()
    inner: tuple[tuple[tuple[float, float], ...], ...] = ()
    turn: tuple[float, float, float, float] = (1.0, 0.0, 0.0, 1.0)
    at: tuple[float, float] = (0.0, 0.0)

    @property
    def key(self) -> bytes:
        """What tells it from others."""
        return msgspec.json.encode(self)


class Swept(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A body swept straight: its profile lies in x and y of `axes` (3 x 3, row by row: the columns are x, y, z) at
    `origin` and goes `depth` along z. `cut`: more is taken from it than openings."""

    profile: Profile
    origin: Point
    axes: tuple[float, float, float, float, float, float, float, float, float]
    depth: float
    cut: bool = False


class Product(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A thing of the model. `guid` is its GlobalId, followed by a number where the file gives one twice; `owner` that
    of the assembly it is part of; `axis` the two ends of its reference line; `own` a record of ours that it was
    written from, as JSON."""

    guid: str
    cls: str
    name: str = ""
    tag: str = ""
    kind: str = ""  # its predefined type
    storey: str = ""
    layer: str = ""
    material: str = ""
    section: str = ""  # the profile's name, where its material tells one
    owner: str = ""
    swept: Swept | None = None
    axis: tuple[Point, Point] | None = None
    own: str = ""
    kg: float = 0.0  # of an assembly, as it says
    why: str = ""  # its shape could not be made: why


class SecondOf(msgspec.Struct, frozen=True, tag=True):
    """What the second piece of a pair carries where a member is written: whose it is."""

    id: str


class Storey(msgspec.Struct, frozen=True, gc=False):
    name: str
    elevation: float


class Axis(msgspec.Struct, frozen=True, gc=False):
    """A straight axis of a grid: `family` is U, V or W."""

    label: str
    family: str
    a: Point
    b: Point


class Words(msgspec.Struct, frozen=True, gc=False):
    """A text of a drawing: where it begins, its layer, mm high, degrees from x."""

    text: str
    at: Point
    layer: str
    height: float
    turn: float = 0.0


class Facts(msgspec.Struct, frozen=True):
    """All of a model but its arrays. `notes` are sentences on what reading found."""

    schema: str
    products: tuple[Product, ...]
    storeys: tuple[Storey, ...] = ()
    axes: tuple[Axis, ...] = ()
    notes: tuple[str, ...] = ()
    project: str = ""
    words: tuple[Words, ...] = ()


class Shape(msgspec.Struct, frozen=True, eq=False):
    """Points (n, 3) about their own middle, triangles (m, 3) and sharp edges (k, 2) by number."""

    points: Array32
    triangles: Index
    lines: Index


class Model(msgspec.Struct, frozen=True, eq=False, dict=True):
    """Instances, one a product that has a shape: `product` and `shape` (n,) by number, `places` (n, 3, 4) and `colours`
    (n, 3). Shape k has the points `point_at[k]` up to `point_at[k + 1]` of all, and so on."""

    facts: Facts
    points: Array32
    triangles: Index
    lines: Index
    point_at: Index
    triangle_at: Index
    line_at: Index
    product: Index
    shape: Index
    places: Array
    colours: Array32

    @classmethod
    def of(cls, facts: Facts, shapes: Iterable[Shape], stands: Iterable[tuple[int, int, Array, Any]]) -> Model:
        """`stands`: product, shape, place (3, 4) and colour of each instance."""
        made, rows = list(shapes), list(stands)

        def joined(name: str, width: int, kind: Any) -> tuple[Any, Index]:
            own = [getattr(s, name).reshape(-1, width) for s in made]
            at = np.concatenate([[0], np.cumsum([len(one) for one in own])]).astype(np.int32)
            return (np.concatenate(own) if own else np.zeros((0, width))).astype(kind), at

        points, point_at = joined("points", 3, np.float32)
        triangles, triangle_at = joined("triangles", 3, np.int32)
        lines, line_at = joined("lines", 2, np.int32)
        product, shape = (np.array([row[i] for row in rows], dtype=np.int32) for i in (0, 1))
        places = np.array([row[2] for row in rows], dtype=np.float64).reshape(-1, 3, 4)
        colours = np.array([row[3] for row in rows], dtype=np.float32).reshape(-1, 3)
        return cls(facts, points, triangles, lines, point_at, triangle_at, line_at, product, shape, places, colours)

    @property
    def products(self) -> tuple[Product, ...]:
        return self.facts.products

    @cached_property
    def by_guid(self) -> dict[str, int]:
        """The number of each product."""
        return {p.guid: n for n, p in enumerate(self.products)}

    @cached_property
    def instance_of(self) -> dict[int, int]:
        """The instance of each product that has one."""
        return {int(p): n for n, p in enumerate(self.product)}

    @cached_property
    def own_owners(self) -> frozenset[str]:
        """Assemblies of which a product carries the record of ours that it was written from."""
        return frozenset(p.owner for p in self.products if p.own and p.owner)

    def shape_of(self, k: int) -> Shape:
        return Shape(
            self.points[self.point_at[k] : self.point_at[k + 1]],
            self.triangles[self.triangle_at[k] : self.triangle_at[k + 1]],
            self.lines[self.line_at[k] : self.line_at[k + 1]],
        )

    @cached_property
    def shapes(self) -> tuple[Shape, ...]:
        return tuple(self.shape_of(k) for k in range(len(self.point_at) - 1))

    @cached_property
    def shape_boxes(self) -> tuple[Array, Array]:
        """Lowest and highest point of each shape, (k, 3)."""
        low = np.zeros((len(self.shapes), 3))
        high = np.zeros((len(self.shapes), 3))
        for k, shape in enumerate(self.shapes):
            if len(shape.points):
                low[k], high[k] = shape.points.min(axis=0), shape.points.max(axis=0)
        return low, high

    @cached_property
    def boxes(self) -> tuple[Array, Array]:
        """Lowest and highest point of each instance as it stands, (n, 3)."""
        low, high = self.shape_boxes
        low, high = low[self.shape], high[self.shape]
        axes, at = self.places[:, :, :3], self.places[:, :, 3]
        middle = np.einsum("nij,nj->ni", axes, (low + high) / 2) + at
        reach = np.einsum("nij,nj->ni", np.abs(axes), (high - low) / 2)
        return middle - reach, middle + reach

    @property
    def extent(self) -> tuple[Array, Array] | None:
        """Lowest and highest point of all of it; None where it has no shape."""
        if not len(self.product):
            return None
        low, high = self.boxes
        return low.min(axis=0), high.max(axis=0)

    def points_of(self, n: int) -> Array:
        """The points of an instance, (k, 3)."""
        place = self.places[n]
        points = self.shapes[int(self.shape[n])].points.astype(np.float64)
        return np.asarray(points @ place[:, :3].T + place[:, 3])

    # -- as it is kept -------------------------------------------------------------------------------------------
    def packed(self) -> bytes:
        """The bytes that `unpacked` reads: arrays as NPY (numpy's own open format) in a ZIP, the rest as JSON."""
        data = io.BytesIO()
        facts = np.frombuffer(msgspec.json.encode(self.facts), dtype=np.uint8)
        np.savez(data, form=np.array([FORM]), facts=facts, **{name: getattr(self, name) for name in _ARRAYS})
        return data.getvalue()

    @classmethod
    def unpacked(cls, data: bytes) -> Model | None:
        """A model that was packed; None where it is of another form, or not what was packed."""
        try:
            with np.load(io.BytesIO(data), allow_pickle=False) as kept:
                if int(kept["form"][0]) != FORM:
                    return None
                facts = msgspec.json.decode(kept["facts"].tobytes(), type=Facts)
                made = cls(facts, **{name: kept[name] for name in _ARRAYS})
            return made if made._is_whole() else None
        except Exception:  # neither zipfile nor numpy promises a list of what spoilt bytes raise
            return None

    def _is_whole(self) -> bool:
        """Whether every number points to something that is there."""
        n, k = len(self.product), len(self.point_at) - 1
        if k < 0 or not (len(self.triangle_at) == len(self.line_at) == k + 1):
            return False
        if self.places.shape != (n, 3, 4) or self.colours.shape != (n, 3) or self.shape.shape != (n,):
            return False
        for at, of in ((self.point_at, self.points), (self.triangle_at, self.triangles), (self.line_at, self.lines)):
            if at[0] != 0 or at[-1] != len(of) or (np.diff(at) < 0).any():
                return False
        sizes = np.diff(self.point_at)
        for at, of in ((self.triangle_at, self.triangles), (self.line_at, self.lines)):
            most = np.repeat(sizes, np.diff(at))
            if len(of) and (of.min() < 0 or (of.max(axis=1) >= most).any()):
                return False
        bounds = ((self.product, len(self.products)), (self.shape, k))
        if any(len(a) and (a.min() < 0 or a.max() >= most) for a, most in bounds):
            return False
        return bool(np.isfinite(self.places).all() and np.isfinite(self.points).all())

    def each(self) -> Iterator[tuple[int, Product]]:
        """Instances with their products."""
        for n, p in enumerate(self.product.tolist()):
            yield n, self.products[p]
