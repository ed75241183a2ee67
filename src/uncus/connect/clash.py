"""Pieces held against each other: which come near, and how much steel two of them would both fill.

Serves the joints of a job (`shop.clashes`); faces that meet within `TOLERANCE` are meant to touch.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
from manifold3d import Manifold, OpType
from numpy.typing import NDArray

from uncus.caches import Cache
from uncus.connect.stretch import beside
from uncus.frame.placement import Placement, Vec, settled
from uncus.job.records import Point
from uncus.steel import profile
from uncus.steel.joint import point
from uncus.steel.part import Part
from uncus.steel.solid import TOLERANCE, facets, hole_cutters, mesh, plain_mesh, plain_solid, solid

Flags = NDArray[np.bool_]
Index = NDArray[np.intp]
Bounds = tuple[tuple[float, float, float], tuple[float, float, float]]
_ALONG = 0.9999  # cosine of axes that are one
_FILM = 0.002  # mm that faces which meet may stand in one another by rounding alone
_THIN = 1.0  # mm that a body is thick in the mean, below which all of it may be a film
_MANY_POINTS = 400  # of a body, beyond which it is worked out
_MANY_FACES = 2000  # of a body, beyond which it is simply taken to have thin places
_LEAST = 1.0  # mm3 that are a rounding of two faces that meet


class Overlap(msgspec.Struct, frozen=True):
    """Steel that two pieces would both fill: mm3, mm of its least extent along either piece’s axes, a point amid it
    (model)."""

    volume: float
    depth: float
    at: Point


class Boxes:
    """Boxes, each along its own axes: `centre` (n, 3), `axes` (n, 3, 3), `half` (n, 3); `low` and `high` (n, 3)
    along the model's."""

    def __init__(self, placed: Iterable[tuple[Placement, Bounds]]) -> None:
        pairs = list(placed)
        bounds = np.array([own for _, own in pairs]).reshape(-1, 2, 3)
        origin = np.array([at.origin for at, _ in pairs]).reshape(-1, 3)
        self.axes = np.array([at.axes for at, _ in pairs]).reshape(-1, 3, 3)
        self.half = (bounds[:, 1] - bounds[:, 0]) / 2
        self.centre = origin + np.einsum("nij,nj->ni", self.axes, bounds.mean(axis=1))
        reach = np.einsum("nij,nj->ni", np.abs(self.axes), self.half)
        self.low, self.high = self.centre - reach, self.centre + reach

    @classmethod
    def joined(cls, some: Sequence[Boxes]) -> Boxes:
        """All of some boxes, one after the other."""
        made = cls(())
        for name in ("axes", "half", "centre", "low", "high"):
            setattr(made, name, np.concatenate([getattr(one, name) for one in some]))
        return made

    def some(self, first: int, last: int) -> Boxes:
        """Those from one up to another."""
        made = object.__new__(Boxes)
        for name in ("axes", "half", "centre", "low", "high"):
            setattr(made, name, getattr(self, name)[first:last])
        return made

    @classmethod
    def of(cls, placed: Iterable[tuple[Part, Placement]]) -> Boxes:
        """The boxes about placed parts."""
        return cls((at, bounds(part)) for part, at in placed)


def near(a: Boxes, i: Index, b: Boxes, j: Index) -> Flags:
    """Whether boxes i of `a` and j of `b` (k,) run into each other by more than TOLERANCE: separating axes, all
    pairs at once (Gottschalk, Lin and Manocha 1996)."""
    found: Flags = ((a.low[i] < b.high[j] - TOLERANCE) & (b.low[j] < a.high[i] - TOLERANCE)).all(axis=1)
    rows = np.flatnonzero(found)
    if not len(rows):
        return found
    i, j = i[rows], j[rows]
    turn = np.einsum("kmi,kmj->kij", a.axes[i], b.axes[j])
    size = np.abs(turn)
    off = np.einsum("km,kmi->ki", b.centre[j] - a.centre[i], a.axes[i])
    half_a, half_b = a.half[i], b.half[j]
    apart = (np.abs(off) > half_a + np.einsum("kij,kj->ki", size, half_b) - TOLERANCE).any(axis=1)
    back = np.abs(np.einsum("ki,kij->kj", off, turn))
    apart |= (back > half_b + np.einsum("kij,ki->kj", size, half_a) - TOLERANCE).any(axis=1)
    for m in range(3):
        one, two = (m + 1) % 3, (m + 2) % 3
        for n in range(3):
            u, v = (n + 1) % 3, (n + 2) % 3
            across = np.abs(off[:, two] * turn[:, one, n] - off[:, one] * turn[:, two, n])
            reach = half_a[:, one] * size[:, two, n] + half_a[:, two] * size[:, one, n]
            reach += half_b[:, u] * size[:, m, v] + half_b[:, v] * size[:, m, u]
            apart |= across > reach - TOLERANCE * np.hypot(turn[:, one, n], turn[:, two, n]) + 1e-9
    found[rows] = ~apart
    return found


def overlap(a: Part, at_a: Placement, b: Part, at_b: Placement) -> Overlap | None:
    """What two pieces would both fill; None where they are apart, meet, or share no more than TOLERANCE is deep."""
    return next(overlaps([((a, at_a), (b, at_b))]))


def overlaps(pairs: Sequence[tuple[tuple[Part, Placement], tuple[Part, Placement]]]) -> Iterator[Overlap | None]:
    """What each pair of pieces would both fill, as `overlap`. Pairs that stand to each other as others do are looked
    at once."""
    pairs = [_nearby(a, b) for a, b in pairs]
    keys = keys_of(pairs)
    _learn([key for key in dict.fromkeys(keys) if _KNOWN.get(key) is None])
    for key, ((_, at), _) in zip(keys, pairs, strict=True):
        (found,) = _KNOWN.of(key, lambda key=key: (_shared(*key),))  # type: ignore[misc]
        yield found and msgspec.structs.replace(found, at=point(at.to_model(found.at)))


def _nearby(a: _Placed, b: _Placed) -> tuple[_Placed, _Placed]:
    """Of two pieces the stretches that are beside each other."""
    if a[0].length > b[0].length:
        a = beside(*a, _corners(*b))
        return a, beside(*b, _corners(*a))
    b = beside(*b, _corners(*a))
    return beside(*a, _corners(*b)), b


def _corners(part: Part, at: Placement) -> Vec:
    return at.to_model(_UNIT * np.subtract(*bounds(part)[::-1]) + bounds(part)[0])


def keys_of(pairs: Sequence[tuple[tuple[Part, Placement], tuple[Part, Placement]]]) -> list[_Key]:
    """Pairs of pieces by what they are and how they stand to each other; of what is wound only so closely as its
    rounded helix tells."""
    if not pairs:
        return []
    turn, other = (np.array([pair[side][1].axes for pair in pairs]) for side in (0, 1))
    off = np.array([b.origin - a.origin for (_, a), (_, b) in pairs])
    shifts, turns = np.einsum("ni,nij->nj", off, turn), np.einsum("nij,nik->njk", turn, other).reshape(-1, 9)
    wound = np.array([a.coil is not None or b.coil is not None for (a, _), (b, _) in pairs])[:, None]
    shifts = np.where(wound, settled(shifts, 3), settled(shifts, 5)).tolist()
    turns = np.where(wound, settled(turns, 5), settled(turns, 7)).tolist()
    return [(a, b, (*shift, *turned)) for ((a, _), (b, _)), shift, turned in zip(pairs, shifts, turns, strict=True)]


_Placed = tuple[Part, Placement]
_UNIT = np.array([(x, y, z) for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)])
_Key = tuple[Part, Part, tuple[float, ...]]  # two parts, and where the second is in the first's frame
_KNOWN: Cache[_Key, tuple[Overlap | None]] = Cache(65536)


def _learn(keys: Sequence[_Key]) -> None:
    """Know of pairs whose blocks do not even meet that they share nothing."""
    for (a, b, key), meet in zip(keys, crossing(keys), strict=True):
        if not meet:
            _KNOWN.keep((a, b, key), (None,))


def crossing(keys: Sequence[_Key]) -> Flags:
    """Whether walls, fillets or plates of each pair of parts run into each other, by the boxes about them: all pairs at
    once."""
    if not keys:
        return np.zeros(0, dtype=bool)
    here = Placement.identity()
    ones = [_blocks(a) for a, _, _ in keys]
    twos = [_blocks(b) for _, b, _ in keys]
    places = [Placement(np.array(key[:3]), np.array(key[3:]).reshape(3, 3)) for _, _, key in keys]
    one = Boxes((here, own) for some in ones for own in some)
    two = Boxes((at, own) for some, at in zip(twos, places, strict=True) for own in some)
    sizes = np.array([(len(some), len(others)) for some, others in zip(ones, twos, strict=True)])
    first = np.cumsum(sizes, axis=0) - sizes
    times = sizes.prod(axis=1)
    within = np.arange(int(times.sum())) - np.repeat(np.cumsum(times) - times, times)
    wide = np.repeat(sizes[:, 1], times)
    i, j = np.repeat(first[:, 0], times) + within // wide, np.repeat(first[:, 1], times) + within % wide
    pair = np.repeat(np.arange(len(keys)), times)
    found = np.zeros(len(keys), dtype=bool)
    found[pair[near(one, i, two, j)]] = True
    return found


def _shared(a: Part, b: Part, key: tuple[float, ...]) -> Overlap | None:
    """In the first piece's own frame."""
    place = _placed(key)
    common = _whole(plain_solid(a) ^ plain_solid(b).transform(place))
    if common.volume() < _LEAST or not any(_is_deep(one) for one in common.decompose()):
        return None
    if a.holes or b.holes:  # what passes through a hole shares nothing
        common = _bored(common, a, b, place)
    axes = _axes(place[:, :3])
    found = [deep for one in common.decompose() if _is_deep(one) for deep in _measured(one, axes)]
    deep = [one for one in found if one.depth > TOLERANCE + facets(a) + facets(b)]
    if not deep:
        return None
    worst = max(deep, key=lambda one: one.depth)
    return Overlap(common.volume(), worst.depth, worst.at)


def _whole(body: Manifold) -> Manifold:
    """A body worked out once, which otherwise every body made of it works out again."""
    return Manifold(body.to_mesh64())


def _bored(common: Manifold, a: Part, b: Part, place: Vec) -> Manifold:
    """What two pieces share, but for their holes: of many pieces' many holes few come near."""
    if a.is_formed or b.is_formed:
        return _whole(solid(a) ^ solid(b).transform(place))
    turn, shift = place[:, :3], place[:, 3]
    back = np.column_stack([turn.T, -turn.T @ shift])
    cutters = hole_cutters(a, common) + [c.transform(place) for c in hole_cutters(b, common.transform(back))]
    return _whole(common - Manifold.batch_boolean(cutters, OpType.Add)) if cutters else common


def _is_deep(common: Manifold) -> bool:
    """Whether what two pieces share is more than the rounding of two faces that lie on one another."""
    return bool(common.volume() >= _FILM / 2 * common.surface_area())


def _axes(turn: Vec) -> list[Vec]:
    """The first piece's axes and those of the second's that are not one of them, in the first's frame."""
    own = list(np.eye(3))
    return own + [axis for axis in turn.T if float(np.abs(axis).max()) < _ALONG]


def _measured(one: Manifold, axes: list[Vec]) -> Iterator[Overlap]:
    """What is deep along every axis of a piece of shared steel; films of faces that touch are gone."""
    if _is_film(one, axes):
        return
    if not _has_film(one):
        yield _extent(one, axes, 0.0)
        return
    core = one
    for axis in axes:
        core = _whole(core ^ core.translate(tuple(TOLERANCE * axis)))
        if core.num_tri() > _MANY_FACES:  # each step may square them; what is thin went in the first
            break
    yield from (_extent(left, axes, TOLERANCE) for left in core.decompose() if left.volume() > 0)


def _is_film(one: Manifold, axes: list[Vec]) -> bool:
    """Whether a piece of shared steel goes altogether where it is held against itself moved by TOLERANCE along the
    axes: it is thinner square to one of its own faces than one of those moves takes it."""
    raw = one.to_mesh64()
    points = np.asarray(raw.vert_properties)[:, :3]
    if len(points) > _MANY_POINTS:
        return False
    corners = points[np.asarray(raw.tri_verts, dtype=np.int64)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(normals, axis=1)
    normals = normals[size > 1e-9] / size[size > 1e-9, None]
    thick = np.ptp(points @ normals.T, axis=0)
    moved = TOLERANCE * np.abs(normals @ np.array(axes).T).max(axis=1)
    return bool((thick < moved).any())


def _has_film(one: Manifold) -> bool:
    """Whether a body is thin all over, as what round faces share that meet, or two faces of it look away from each
    other no farther apart than TOLERANCE."""
    if one.volume() < _THIN * one.surface_area() / 2:
        return True
    raw = one.to_mesh64()
    corners = np.asarray(raw.vert_properties)[:, :3][np.asarray(raw.tri_verts, dtype=np.int64)]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    size = np.linalg.norm(across, axis=1)
    normals = across[size > 0] / size[size > 0, None]
    away = (normals * corners[size > 0, 0]).sum(axis=1)
    faces, first = np.unique(np.round(np.column_stack([normals * 1e3, away]), 1), axis=0, return_index=True)
    normals, away = normals[first], away[first]
    if len(faces) > _MANY_FACES:
        return True
    thick = away[:, None] + away
    thin = (thick > -_FILM) & (thick < 2 * TOLERANCE)  # less than nothing: they look at each other, across a hollow
    return bool(((normals @ normals.T < -_ALONG) & thin).any())


def _extent(body: Manifold, axes: list[Vec], more: float) -> Overlap:
    points = np.asarray(body.to_mesh64().vert_properties)[:, :3]
    depth = min(float(np.ptp(points @ axis)) for axis in axes) + more
    return Overlap(body.volume(), depth, point(points.mean(axis=0)))


class Contact(NamedTuple):
    """Faces of two pieces that lie on one another: mm2, and a point amid them (model)."""

    area: float
    at: Point


def contact(a: Part, at_a: Placement, b: Part, at_b: Placement) -> Contact | None:
    """Where faces of two pieces meet within TOLERANCE; None where they meet in edges and corners alone, or not."""
    found = _contact(a, b, _beside(at_a, at_b))
    return found and Contact(found.area, point(at_a.to_model(found.at)))


def gap(a: Part, at_a: Placement, b: Part, at_b: Placement, most: float) -> float:
    """How far two pieces are apart, mm, up to `most`; 0 where they meet."""
    return _gap(a, b, _beside(at_a, at_b), most)


def _beside(one: Placement, other: Placement) -> tuple[float, ...]:
    """Where a piece is in another's own frame: the key under which what they do to each other is kept."""
    shift = settled((other.origin - one.origin) @ one.axes, 5).tolist()
    return (*shift, *settled(one.axes.T @ other.axes, 7).reshape(-1).tolist())


def _placed(key: tuple[float, ...]) -> Vec:
    return np.column_stack([np.array(key[3:]).reshape(3, 3), key[:3]])


@lru_cache(maxsize=16384)
def _gap(a: Part, b: Part, key: tuple[float, ...], most: float) -> float:
    return float(solid(a).min_gap(solid(b).transform(_placed(key)), most))


@lru_cache(maxsize=16384)
def _contact(a: Part, b: Part, key: tuple[float, ...]) -> Contact | None:
    """In the first piece's own frame."""
    if _gap(a, b, key, 2 * TOLERANCE) > TOLERANCE:
        return None
    place = _placed(key)
    one, two, step = solid(a), solid(b).transform(place), 2 * TOLERANCE
    pushed = [one.translate(tuple(way * step)) ^ two for axis in _axes(place[:, :3]) for way in (axis, -axis)]
    most = max(pushed, key=lambda shared: shared.volume())
    if most.volume() < _LEAST:
        return None
    middle = np.asarray(most.to_mesh64().vert_properties)[:, :3].mean(axis=0)
    return Contact(most.volume() / step, point(middle))


@lru_cache(maxsize=65536)
def bounds(part: Part) -> Bounds:
    """The lowest and the highest corner of a part in its own frame."""
    if part.is_formed:
        points = (mesh if part.bends else plain_mesh)(part).points
        (x0, y0, z0), (x1, y1, z1) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
        return (x0, y0, z0), (x1, y1, z1)
    (y0, y1), (z0, z1) = part.y_range, part.depth_range
    return (0.0, y0, z0), (part.length, y1, z1)


@lru_cache(maxsize=65536)
def _blocks(part: Part) -> tuple[Bounds, ...]:
    """Boxes that hold all of a part's steel and little else: the walls of its section, and its fillets."""
    if part.section is None or part.is_formed or part.section.form in profile.ROUNDS:
        return (bounds(part),)
    (x0, y0, z0), (x1, y1, z1) = bounds(part)
    found = []
    for wall in profile.walls(part.section):
        near, far = wall.mid - wall.thickness / 2, wall.mid + wall.thickness / 2
        y, z = ((near, far), (wall.lo, wall.hi)) if wall.upright else ((wall.lo, wall.hi), (near, far))
        found.append(((x0, y[0], z[0]), (x1, y[1], z[1])))
    r = part.section.r
    for f in profile.filaments(part.section):  # their centroids lie within a radius of every point of theirs
        found.append(((x0, max(f.y - r, y0), max(f.z - r, z0)), (x1, min(f.y + r, y1), min(f.z + r, z1))))
    return tuple(found)
