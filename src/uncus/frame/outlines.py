"""Outlines of lines and arcs: corners rounded and clipped, arcs as points, and runs of points as arcs again."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely

from uncus.job.blanks import Corner, Ring

_TURN = math.radians(0.9)  # at most from one point of an arc to the next: so little that no edge shows between them
_FINEST = math.radians(0.25)
_OFF = 0.01  # mm that the straight between two points may lie off the arc
_ON = 2e-3  # mm by which points read back may miss their circle
_LEAST_RUN = 4  # steps from point to point that make an arc when they are read back
_STEP = math.radians(3.0)  # of an arc that is read back, from a point to the next
_FLATTEST = 1e6  # mm of radius beyond which an arc is straight

Spot = tuple[float, float]


class Edge(NamedTuple):
    """An edge from a point to the next, straight or (bulge) an arc."""

    x: float
    z: float
    bulge: float


class OutlineError(ValueError):
    """An outline that cannot be cut, in a sentence."""


def edges(ring: Ring) -> list[Edge]:
    """A ring with its corners rounded and clipped: lines and arcs alone. Raises OutlineError where an edge is too short
    for what its corners take."""
    found: list[Edge] = []
    n = len(ring)
    for i, c in enumerate(ring):
        before, after = ring[i - 1], ring[(i + 1) % n]
        if not (c.round or c.clip):
            found.append(Edge(c.x, c.z, c.bulge))
            continue
        if before.bulge or c.bulge:
            raise OutlineError("Only a corner between two straight edges is rounded or clipped; draw the arc instead.")
        back, on = _unit(c, before), _unit(c, after)
        turn = math.acos(max(-1.0, min(1.0, back[0] * on[0] + back[1] * on[1])))  # between its edges
        if math.pi - turn < 1e-4 or turn < 1e-3:
            raise OutlineError("A corner that does not turn, or turns right back, is neither rounded nor clipped.")
        reach = c.round / math.tan(turn / 2) if c.round else c.clip
        first = Edge(c.x + reach * back[0], c.z + reach * back[1], 0.0)
        last = Edge(c.x + reach * on[0], c.z + reach * on[1], 0.0)
        if c.round:
            way = math.copysign(1.0, on[0] * back[1] - on[1] * back[0])
            first = first._replace(bulge=way * math.tan((math.pi - turn) / 4))
        found += [first, last]
        room = min(_long(c, before), _long(c, after))
        if reach > room + 1e-6:
            raise OutlineError("A corner takes more of an edge than there is; round or clip it by less.")
    takes = _reaches(ring)
    for i, c in enumerate(ring):
        if takes[i - 1] and takes[i] and takes[i - 1] + takes[i] > _long(ring[i - 1], c) + 1e-6:
            raise OutlineError("Two rounded or clipped corners meet on the edge between them; give less.")
    return found


def _reaches(ring: Ring) -> list[float]:
    found = []
    for i, c in enumerate(ring):
        back, on = _unit(c, ring[i - 1]), _unit(c, ring[(i + 1) % len(ring)])
        turn = math.acos(max(-1.0, min(1.0, back[0] * on[0] + back[1] * on[1])))
        found.append(c.round / math.tan(turn / 2) if c.round and turn > 1e-3 else c.clip)
    return found


def _unit(a: Corner, b: Corner) -> Spot:
    long = _long(a, b)
    if long < 1e-9:
        raise OutlineError("Two corners of an outline lie on one another.")
    return (b.x - a.x) / long, (b.z - a.z) / long


def _long(a: Corner, b: Corner) -> float:
    return math.hypot(b.x - a.x, b.z - a.z)


def circle_of(a: Spot, b: Spot, bulge: float) -> tuple[float, float, float]:
    """Centre and radius of the arc from a to b."""
    k = (1 - bulge**2) / (4 * bulge)
    x, z = (a[0] + b[0]) / 2 - k * (b[1] - a[1]), (a[1] + b[1]) / 2 + k * (b[0] - a[0])
    return x, z, math.hypot(a[0] - x, a[1] - z)


def radius_of(a: Edge, b: Edge) -> float:
    """The radius of the arc from an edge's point to the next's."""
    return circle_of((a.x, a.z), (b.x, b.z), a.bulge)[2]


def middle_of(a: Edge, b: Edge) -> Spot:
    """The middle of an edge, on its arc."""
    dx, dz = b.x - a.x, b.z - a.z
    return (a.x + b.x) / 2 + a.bulge * dz / 2, (a.z + b.z) / 2 - a.bulge * dx / 2


def _arc(a: Spot, b: Spot, bulge: float) -> list[Spot]:
    """Points on the arc from a (with it) to b (without it): no farther apart than lets the straight between them pass
    for it, and where it turns from one way along an axis to the other."""
    x, z, radius = circle_of(a, b, bulge)
    first, swept = math.atan2(a[1] - z, a[0] - x), 4 * math.atan(bulge)
    step = min(_TURN, max(_FINEST, 2 * math.acos(max(0.0, 1 - _OFF / radius)))) if radius > _OFF else _TURN
    n = max(2, math.ceil(abs(swept) / step))
    low, high = sorted((first, first + swept))
    quarters = [q * math.pi / 2 for q in range(math.ceil(low / (math.pi / 2)), math.floor(high / (math.pi / 2)) + 1)]
    angles = [first + swept * i / n for i in range(n)]
    angles = [t for t in angles if all(abs(t - q) > step / 4 for q in quarters) or t == first]
    angles += [q for q in quarters if abs(q - first) > 1e-9 and abs(q - first - swept) > 1e-9]
    angles.sort(reverse=swept < 0)
    return [a, *((x + radius * math.cos(t), z + radius * math.sin(t)) for t in angles[1:])]


def points_of(ring: Ring) -> list[Spot]:
    """A ring's points, its arcs in pieces. Raises OutlineError."""
    along = edges(ring)
    found: list[Spot] = []
    for a, b in zip(along, along[1:] + along[:1], strict=True):
        if math.hypot(b.x - a.x, b.z - a.z) < 1e-6:
            continue
        found += _arc((a.x, a.z), (b.x, b.z), a.bulge) if abs(a.bulge) > 1e-9 else [(a.x, a.z)]
    return found


def polygon(ring: Ring) -> shapely.Polygon:
    """A ring as a polygon, counter-clockwise. Raises OutlineError where it crosses itself or encloses nothing."""
    return _polygon(tuple(ring))


@lru_cache(maxsize=4096)
def _polygon(ring: Ring) -> shapely.Polygon:
    shape = shapely.Polygon(points_of(ring))
    if not shape.is_valid or shape.area < 1.0:
        raise OutlineError("The outline crosses itself or encloses nothing; move the corner that lies wrong.")
    return shapely.geometry.polygon.orient(shape)


# -- back to arcs ------------------------------------------------------------------------------------------


def with_arcs(points: Sequence[Spot]) -> list[Edge]:
    """A closed ring of points with its runs on one circle made arcs again, none of them more than half a circle."""
    n = len(points)
    p = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if n <= _LEAST_RUN:
        return [Edge(x, z, 0.0) for x, z in p.tolist()]
    chords = np.hypot(*(np.roll(p, -1, axis=0) - p).T)
    start = (int(chords.argmax()) + 1) % n if chords.max() > 3 * np.median(chords) else 0
    p = np.roll(p, -start, axis=0)
    p = np.vstack([p, p[:1]])
    found: list[Edge] = []
    i = 0
    while i < n:
        last = _run(p, i, n)
        if last - i < _LEAST_RUN:
            found.append(Edge(float(p[i, 0]), float(p[i, 1]), 0.0))
            i += 1
            continue
        for first, end in _halves(p, i, last):
            found.append(Edge(float(p[first, 0]), float(p[first, 1]), _bulge(p[first], p[(first + end) // 2], p[end])))
        i = last
    return found


def _run(p: np.ndarray, first: int, n: int) -> int:
    """The last point that lies on one arc with those from `first` on; `first` itself where they lie on none."""
    good, step = first, _LEAST_RUN
    while good + step <= n and _on_arc(p[first : good + step + 1]):
        good, step = good + step, step * 2
    while step > 1:
        step //= 2
        if good + step <= n and good + step - first >= _LEAST_RUN and _on_arc(p[first : good + step + 1]):
            good += step
    return good


def _on_arc(p: np.ndarray) -> bool:
    """Whether points lie on one arc, going round it by little steps, less than once."""
    a, m, b = p[0], p[len(p) // 2], p[-1]
    if math.dist(a, b) < math.dist(a, m):  # nearly round: three that lie well apart
        m, b = p[len(p) // 3], p[2 * len(p) // 3]
    (ax, az), (mx, mz), (bx, bz) = a.tolist(), m.tolist(), b.tolist()
    d = 2 * (ax * (mz - bz) + mx * (bz - az) + bx * (az - mz))
    if abs(d) < 1e-12:
        return False
    sa, sm, sb = ax * ax + az * az, mx * mx + mz * mz, bx * bx + bz * bz
    x = (sa * (mz - bz) + sm * (bz - az) + sb * (az - mz)) / d
    z = (sa * (bx - mx) + sm * (ax - bx) + sb * (mx - ax)) / d
    off = p - (x, z)
    radius = math.hypot(ax - x, az - z)
    if float(np.abs(np.hypot(*off.T) - radius).max()) > _ON or radius > _FLATTEST:
        return False
    u, v = off[:-1], off[1:]
    turns = np.arctan2(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], np.einsum("ij,ij->i", u, v))
    one_way = bool((turns > 0).all() or (turns < 0).all())
    return one_way and float(np.abs(turns).max()) < _STEP and abs(float(turns.sum())) < 2 * math.pi + 1e-3


def _halves(p: np.ndarray, first: int, last: int) -> list[tuple[int, int]]:
    """A run as it is, or in two where it turns by more than half a circle."""
    d = np.diff(p[first : last + 1], axis=0)
    turns = np.arctan2(d[:-1, 0] * d[1:, 1] - d[:-1, 1] * d[1:, 0], np.einsum("ij,ij->i", d[:-1], d[1:]))
    if abs(float(turns.sum())) < math.pi * 0.999:
        return [(first, last)]
    middle = first + int(np.searchsorted(np.abs(np.cumsum(turns)), abs(float(turns.sum())) / 2)) + 1
    return [(first, middle), (middle, last)]


def _bulge(a: np.ndarray, m: np.ndarray, b: np.ndarray) -> float:
    """Of the arc from a by m to b: the angle at m that the chord is seen under says how far it turns."""
    u, v = a - m, b - m
    seen = math.atan2(u[0] * v[1] - u[1] * v[0], float(u @ v))
    return -math.copysign(math.tan((math.pi - abs(seen)) / 2), seen)


# -- made outlines -------------------------------------------------------------------------------------------


def straight(points: Iterable[Spot]) -> Ring:
    """A ring of straight edges."""
    return tuple(Corner(float(x), float(z)) for x, z in points)


def arc_through(a: Spot, by: Spot, b: Spot) -> float:
    """The bulge of the edge from a to b that bends through a point; 0 where the three are in line."""
    area = (by[0] - a[0]) * (b[1] - a[1]) - (by[1] - a[1]) * (b[0] - a[0])
    if abs(area) < 1e-6 * max(1.0, (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2):
        return 0.0
    return float(_bulge(np.array(a), np.array(by), np.array(b)))


def rectangle(a: Spot, b: Spot) -> Ring:
    """The upright rectangle between two opposite corners."""
    (x0, x1), (z0, z1) = sorted((a[0], b[0])), sorted((a[1], b[1]))
    return straight([(x0, z0), (x1, z0), (x1, z1), (x0, z1)])


def circle(x: float, z: float, radius: float) -> Ring:
    """A whole circle: two arcs."""
    return Corner(x - radius, z, 1.0), Corner(x + radius, z, 1.0)
