"""Where the edges of a plate lie on other steel: what is welded when one is set against it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely

from uncus.catalog.sections import Form, Section
from uncus.connect.kind import Body, Stock
from uncus.connect.own_ends import own_ends
from uncus.frame.outlines import points_of
from uncus.frame.placement import Vec
from uncus.job.blanks import Blank, Corner
from uncus.steel import profile
from uncus.steel.blanks import ordered
from uncus.steel.flats import flats
from uncus.steel.forming import Bend, folded

ON = 0.6  # mm off a face within which an edge lies on it
_FINE = 2.0  # mm from one point of an edge to the next
_MOST = 600
_SPARSE = 10  # of those points, each so many that is enough to know where a plate is
_ROUND = 200  # along an arc, that are enough to know where it is
_LEAST = 8.0  # mm: shorter, nothing is welded
_PLENTY = 25.0  # mm of edges that lie on a face, more than where a round one is touched
_WALL_EDGE = 0.5  # mm past a wall's edge that still counts
_MOSTLY = 0.7  # of the way round an end or a plate, that is most of it
_STRAIGHT = 0.02  # mm
_LINES = 48  # round a tube, along which it may lie on a face
_CORNER = math.radians(16.0)  # of turn, more than an arc in pieces has


class Run(NamedTuple):
    """A stretch of a plate's edge that lies on a face: points (n, 3) in the model; `sides` 2 where the plate stands on
    the face with its edge, 1 where it lies on it, or where one corner alone of its edge touches."""

    path: Vec
    sides: int

    @property
    def length(self) -> float:
        return float(np.linalg.norm(np.diff(self.path, axis=0), axis=1).sum())


def blank_of(body: Body) -> Blank:
    """The blank of a plate, or what a length of flat bar is between its ends."""
    if body.record.blank is not None:
        return body.record.blank
    half, (left, right) = body.section.d / 2, own_ends(body)
    corners = [(cut.x(0.0, z), z) for cut, z in ((left, -half), (right, -half), (right, half), (left, half))]
    return Blank(tuple(Corner(x, z) for x, z in corners))


def bends_of(body: Body) -> tuple[Bend, ...]:
    blank = body.record.blank
    return _bends(blank, body.section.tw) if blank is not None and blank.folds else ()


@lru_cache(maxsize=1024)
def _bends(blank: Blank, thickness: float) -> tuple[Bend, ...]:
    return ordered(blank.folds, shapely.Polygon(points_of(blank.outline)), thickness)


def surface(body: Body) -> Vec:
    """Points (n, 3) of the model round a member, near enough to one another to say what is beside it."""
    if body.section.form is Form.FLAT and body.arc is None:
        return body.frame.to_model(_sparse(blank_of(body), bends_of(body), body.section.tw))
    half_y, half_z, n = body.section.b / 2, body.section.d / 2, 2 if body.arc is None else _ROUND
    xs = np.linspace(0.0, body.length, n)
    corners = [_on_length(body, xs, y, z) for y in (-half_y, half_y) for z in (-half_z, half_z)]
    return np.vstack(corners)


@lru_cache(maxsize=1024)
def _sparse(blank: Blank, bends: tuple[Bend, ...], thickness: float) -> Vec:
    rim, edges = _rim(blank, bends, thickness)
    some = {*range(0, rim.shape[1], _SPARSE), *(at for low, high in edges for at in (low, high - 1))}
    return rim[:, sorted(some)].reshape(-1, 3)


def runs(body: Body, other: Body) -> list[Run]:
    """Where a plate's edges, or the ends of a rolled length, lie on another member's faces; or where those of the other
    lie on its own; or where the one lies on the other with its length: the first that is plain, or the longest."""
    best: list[Run] = []
    for way, one, two in ((_lying, body, other), (_lying, other, body), (_along, body, other), (_along, other, body)):
        found = way(one, two)
        if sum(run.length for run in found) > sum(run.length for run in best):
            best = found
        if way is _lying and _is_plain(one, found):
            break
    return best


def _is_plain(body: Body, found: Sequence[Run]) -> bool:
    """Whether what lies of an end, or of a plate's edges, is how it is set on: it stands there, or most of the way
    round it lies. What lies of one side alone may be that of a length that lies along."""
    if any(run.sides == 2 for run in found):
        return sum(run.length for run in found) > _PLENTY
    if body.section.form is Form.FLAT and body.arc is None:
        around = shapely.LinearRing(points_of(blank_of(body).outline)).length
    else:
        around = profile.outline(body.section).exterior.length
    return sum(run.length for run in found) > _MOSTLY * float(around)


def _lying(body: Body, other: Body) -> list[Run]:
    return _of_plate(body, other) if body.section.form is Form.FLAT and body.arc is None else _of_ends(body, other)


def _of_ends(body: Body, other: Body) -> list[Run]:
    """Where the outline of an end lies."""
    faces = [_Face(stock, other) for stock in other.stock]
    found = []
    outline = np.asarray(profile.outline(body.section).exterior.coords)[:-1]
    for cut in own_ends(body):
        for edge in _around(outline):
            x = cut.x(edge[:, 0], edge[:, 1])
            flat = np.column_stack([x, edge])
            points = body.along(cut.at).to_model(flat)
            mask = np.any([face.holds(points) for face in faces], axis=0)
            found += [Run(_thinned(points[a : b + 1]), 1) for a, b in _stretches(mask)]
    return [run for run in found if run.length >= _LEAST]


def _along(body: Body, other: Body) -> list[Run]:
    """Where a rolled length lies along a face: the long edges of its walls, or the line along which a tube touches."""
    s = body.section
    if s.form is Form.FLAT and body.record.blank is not None:
        return []
    faces = [_Face(stock, other) for stock in other.stock]
    n = int(min(_MOST, max(8, math.ceil(body.length / _FINE))))
    xs = np.linspace(0.0, body.length, n + 1)
    found: list[Run] = []
    for y, z in _long_edges(s):
        points = _on_length(body, xs, y, z)
        mask = np.any([face.holds(points) for face in faces], axis=0)
        found += [Run(_thinned(points[a : b + 1]), 2 if s.form in profile.ROUNDS else 1) for a, b in _stretches(mask)]
    found = [run for run in found if run.length >= _LEAST]
    if s.form in profile.ROUNDS and found:  # of the lines that are near enough the one in the middle
        return found[len(found) // 2 : len(found) // 2 + 1]
    return found


@lru_cache(maxsize=1024)
def _long_edges(s: Section) -> list[tuple[float, float]]:
    """The corners (y, z) of a section's walls; of a round one, lines all round."""
    if s.form in profile.ROUNDS:
        turn = 2 * math.pi * np.arange(_LINES) / _LINES
        return [(s.d / 2 * math.cos(t), s.d / 2 * math.sin(t)) for t in turn]
    found = []
    for wall in profile.walls(s):
        for side in (-0.5, 0.5):
            for end in (wall.lo, wall.hi):
                across = wall.mid + side * wall.thickness
                found.append((across, end) if wall.upright else (end, across))
    corners = np.asarray(
        profile.outline(s).exterior.simplify(_STRAIGHT).coords
    )  # where one wall ends in another there is none
    kept = [spot for spot in found if np.hypot(*(corners - spot).T).min() < ON]
    return list(dict.fromkeys((round(y, 6), round(z, 6)) for y, z in kept))


def _on_length(body: Body, xs: Vec, y: float, z: float) -> Vec:
    flat = np.column_stack([xs, np.full(len(xs), y), np.full(len(xs), z)])
    if body.arc is None:
        return body.frame.to_model(flat)
    return np.array([body.along(p[0]).to_model(p) for p in flat])


def _of_plate(plate: Body, other: Body) -> list[Run]:
    """Where a plate's edges lie, in the order of its outline."""
    faces = [_Face(stock, other) for stock in other.stock]
    rim, edges = _rim(blank_of(plate), bends_of(plate), plate.section.tw)
    near, middle, far = (plate.frame.to_model(points) for points in rim)
    both = np.vstack([near, far])
    on = np.any([face.holds(both) for face in faces], axis=0).reshape(2, -1)
    if not on.any():
        return []
    found = []
    for low, high in edges:
        one, two = on[:, low:high]
        for mask, path, number in ((one & two, middle, 2), (one & ~two, near, 1), (two & ~one, far, 1)):
            found += [Run(_thinned(path[low:high][a : b + 1]), number) for a, b in _stretches(mask)]
    return [run for run in found if run.length >= _LEAST]


@lru_cache(maxsize=1024)
def _rim(blank: Blank, bends: tuple[Bend, ...], thickness: float) -> tuple[Vec, tuple[tuple[int, int], ...]]:
    """Points (3, n, 3) along all edges of a plate once it is bent, in its own frame: on its near side, in its middle
    and on its far side; and from where to where each edge has them. Plates alike, such as treads, share them."""
    found = list(_edges(blank))
    ends = np.cumsum([0, *map(len, found)]).tolist()
    flat = np.vstack([np.column_stack([edge[:, 0], np.zeros(len(edge)), edge[:, 1]]) for edge in found])
    sides = [flat + (0.0, y, 0.0) for y in (-thickness / 2, 0.0, thickness / 2)]
    rim = np.array([folded(side, bends, thickness) if bends else side for side in sides])
    rim.setflags(write=False)
    return rim, tuple(zip(ends, ends[1:], strict=False))


def _edges(blank: Blank) -> Iterator[Vec]:
    """Each edge of a blank, and of its openings, as points (n, 2) near to one another; an arc's pieces as one edge."""
    for ring in (blank.outline, *blank.openings):
        yield from _around(np.array(points_of(ring)))


def _around(points: Vec) -> Iterator[Vec]:
    """The edges of a ring from corner to corner, as points near to one another."""
    steps = np.roll(points, -1, axis=0) - points
    turns = np.abs(_turns(np.roll(steps, 1, axis=0), steps))
    corners = np.flatnonzero(turns > _CORNER)
    corners = corners if len(corners) else np.array([0])
    for a, b in zip(corners, [*corners[1:], corners[0] + len(points)], strict=True):
        line = shapely.LineString(points[np.arange(a, b + 1) % len(points)])
        n = int(min(_MOST, max(8, math.ceil(line.length / _FINE))))
        at = line.interpolate(np.linspace(0.0, 1.0, n + 1), normalized=True)
        yield shapely.get_coordinates(at)


def _turns(a: Vec, b: Vec) -> Vec:
    return np.asarray(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], np.einsum("ij,ij->i", a, b)))


class _Face:
    """All faces of one stock of a member, asked for points at once."""

    def __init__(self, stock: Stock, body: Body) -> None:
        self.stock, self.body = stock, body
        self.is_plate = stock.section.form is Form.FLAT
        if self.is_plate:
            blank = blank_of(body)
            ring = tuple((float(x), float(z)) for x, z in points_of(blank.outline))
            openings = shapely.union_all([shapely.Polygon(points_of(o)) for o in blank.openings])
            own = flats(ring, bends_of(body), stock.section.tw)
            self.flats = [(one.place, shapely.Polygon(one.outline).difference(openings)) for one in own]

    def holds(self, points: Vec) -> np.ndarray:
        """Of points (n, 3) of the model, which lie on a face."""
        arc = self.body.arc
        local = arc.unrolled(points) if arc else self.stock.frame.to_local(points)
        if self.is_plate:
            return self._on_plate(local)
        inside = (local[:, 0] > -_WALL_EDGE) & (local[:, 0] < self.body.length + _WALL_EDGE)
        return np.asarray(inside & self._on_section(local[:, 1], local[:, 2]))

    def _on_section(self, y: Vec, z: Vec) -> np.ndarray:
        s = self.stock.section
        on: np.ndarray = np.zeros(len(y), dtype=bool)
        if s.form in profile.ROUNDS:
            return np.asarray(np.abs(np.hypot(y, z) - s.d / 2) < ON)
        for wall in profile.walls(s):
            across, along = (y, z) if wall.upright else (z, y)
            off = np.abs(np.abs(across - wall.mid) - wall.thickness / 2)
            on |= (off < ON) & (along > wall.lo - _WALL_EDGE) & (along < wall.hi + _WALL_EDGE)
        return on

    def _on_plate(self, local: Vec) -> np.ndarray:
        half = self.stock.section.tw / 2
        on: np.ndarray = np.zeros(len(local), dtype=bool)
        for place, shape in self.flats:
            here = place.to_local(local)
            off = np.abs(here[:, 1])
            some = np.flatnonzero(off < half + max(ON, _WALL_EDGE))  # the rest is off its faces and its edges
            if not len(some):
                continue
            off, spots = off[some], shapely.points(here[some][:, [0, 2]])
            face = (np.abs(off - half) < ON) & shapely.dwithin(shape, spots, _WALL_EDGE)
            edge = (shapely.distance(shapely.boundary(shape), spots) < ON) & (off < half + _WALL_EDGE)
            on[some] |= face | edge
        return on


def _stretches(mask: np.ndarray) -> list[tuple[int, int]]:
    """First and last of each run of true values."""
    bounds = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return [(int(a), int(b) - 1) for a, b in bounds.reshape(-1, 2)]


def _thinned(path: Vec) -> Vec:
    """A path without the points that lie straight between others."""
    if len(path) < 3:
        return path
    way = path[-1] - path[0]
    off = path - path[0] - np.outer((path - path[0]) @ way / max(float(way @ way), 1e-12), way)
    if float(np.linalg.norm(off, axis=1).max()) < _STRAIGHT:
        return path[[0, -1]]
    middle = int(np.linalg.norm(off, axis=1).argmax())
    middle = min(max(middle, 1), len(path) - 2)
    return np.vstack([_thinned(path[: middle + 1])[:-1], _thinned(path[middle:])])
