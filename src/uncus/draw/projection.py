"""Exact hidden lines. An edge is hidden where it lies behind a front-facing triangle: inside it (three linear
inequalities in the edge's own parameter) and behind its plane (a fourth); intervals are united and complemented.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence, Set
from functools import cache, lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from uncus.frame.placement import Placement
from uncus.steel import profile
from uncus.steel.features import Face, Hole
from uncus.steel.forming import formed
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh, plain_normals, plain_sides, sharp_edges

Array = NDArray[np.float64]
Index = NDArray[np.intp]
_DEPTH = 0.05  # mm in front before something hides
_INSIDE = 0.02  # mm inside a silhouette before it hides; as much over the seams between triangles
_AT_ONCE = 100_000  # pairs of edges and triangles worked out together, as many as a cache holds
_SKEWED = 20  # degrees between two ways that boxes are made along
_DIRECT = 100_000  # edges times triangles, up to which all are held against all
_SMOOTH = math.cos(math.radians(20))

DIRECTIONS: dict[str, tuple[tuple[int, int, int], tuple[int, int, int]]] = {
    "front": ((1, 0, 0), (0, 0, 1)),
    "top": ((1, 0, 0), (0, 1, 0)),
    "bottom": ((1, 0, 0), (0, -1, 0)),
    "left end": ((0, -1, 0), (0, 0, 1)),
    "right end": ((0, 1, 0), (0, 0, 1)),
}


class Ring(msgspec.Struct, frozen=True):
    """A hole seen face on: centre, diameter, slot length and direction in the view, and whether it is seen; which of
    the bodies it is in, and which of that part's holes it is."""

    u: float
    v: float
    d: float
    slot: float
    angle: float
    seen: bool
    body: int = 0
    hole: int = 0


class View(msgspec.Struct, frozen=True, eq=False):
    """Segments (n, 4) as u1 v1 u2 v2 in mm, seen and hidden; holes face on; centre lines of holes edge on (m, 4)."""

    name: str
    seen: Array
    hidden: Array
    rings: tuple[Ring, ...]
    marks: Array

    @property
    def box(self) -> tuple[float, float, float, float]:
        pts = self.seen.reshape(-1, 2)
        return (*pts.min(axis=0).tolist(), *pts.max(axis=0).tolist())


@cache
def axes_of(name: str) -> Array:
    """Rows: right, up, towards the viewer."""
    right, up = (np.array(v, dtype=np.float64) for v in DIRECTIONS[name])
    axes = np.stack([right, up, np.cross(right, up)])
    axes.setflags(write=False)
    return axes


Body = tuple[Part, Placement]


def project(bodies: Sequence[Body], name: str, first: int | None = None) -> View:
    """A view of parts in a common frame, looking as `DIRECTIONS` says; of the `first` so many alone, where the others
    only hide. A sheet that is tried at several scales asks for the same ones again."""
    return _projected(tuple(bodies), name, len(bodies) if first is None else first)


@lru_cache(maxsize=64)
def _projected(bodies: tuple[Body, ...], name: str, first: int) -> View:
    axes = axes_of(name)
    starts, ends, triangles, seams, own_hidden = [], [], [], [], []
    for part, place in bodies:
        mesh = plain_mesh(part)
        points = place.to_model(mesh.points) @ axes.T
        normals = plain_normals(part) @ place.axes.T @ axes.T
        front = normals[:, 2] > 1e-6
        triangles.append(points[mesh.triangles[front]])
        sides = plain_sides(part)[front]
        # what hides goes on beyond the sides at which it has another triangle
        seams.append(np.bincount(sides.ravel())[sides] > 1 if len(sides) else np.zeros((0, 3), dtype=bool))
        if len(triangles) > first:
            continue
        edges = sharp_edges(part)
        n1, n2 = normals[edges[:, 2]], normals[edges[:, 3]]
        sharp = np.einsum("ij,ij->i", n1, n2) < _SMOOTH
        turn = (n1[:, 2] > 1e-6) != (n2[:, 2] > 1e-6)
        use = edges[sharp | turn]
        away = ~(front[use[:, 2]] | front[use[:, 3]])
        starts.append(points[use[:, 0]])
        ends.append(points[use[:, 1]])
        own_hidden.append(away)
    a, b = np.concatenate(starts), np.concatenate(ends)
    flat = np.hypot(*(b - a)[:, :2].T) > 1e-3
    a, b, away = a[flat], b[flat], np.concatenate(own_hidden)[flat]
    front_triangles = np.concatenate(triangles)
    rings, ring_edges, marks = _holes(bodies[:first], axes)
    count = len(a)
    if len(ring_edges):
        a, b = np.concatenate([a, ring_edges[:, 0]]), np.concatenate([b, ring_edges[:, 1]])
        away = np.concatenate([away, np.zeros(len(ring_edges), dtype=bool)])
    covered = _hidden_intervals(a, b, ~away, front_triangles, np.concatenate(seams))
    seen, hidden = _split(a[:count], b[:count], away[:count], covered)
    seen, hidden = merged(seen, hidden)
    return View(name, seen, hidden, _judged(rings, covered, count, a, b, _behind(bodies, name)), marks)


def _hidden_intervals(
    a: Array, b: Array, asked: NDArray[np.bool_], triangles: Array, seams: NDArray[np.bool_]
) -> dict[int, list[tuple[float, float]]]:
    """For each edge that is `asked` for, the parameter intervals in which something is in front of it."""
    own = np.flatnonzero(asked)
    ways = _ways(a[own], b[own]) if len(own) * len(triangles) > _DIRECT else np.eye(3)
    p, q, t = a[own] @ ways, b[own] @ ways, triangles @ ways
    at, tri = _before(np.minimum(p, q), np.maximum(p, q), t.min(axis=1), t.max(axis=1))
    found: dict[int, list[tuple[float, float]]] = defaultdict(list)
    for start in range(0, len(at), _AT_ONCE):
        edges, others = _astride(a, b, own[at[start : start + _AT_ONCE]], triangles, tri[start : start + _AT_ONCE])
        for e, x, y in zip(*_within(a, b, edges, triangles, seams, others), strict=True):
            found[e].append((x, y))
    return found


def _ways(a: Array, b: Array) -> Array:
    """Axes (3, 3, to multiply from the right) in which the two ways that most of the edges run, by their length in the
    view, are square to each other: boxes about edges aslant are hardly larger than they are then."""
    d = (b - a)[:, :2]
    long = np.hypot(d[:, 0], d[:, 1])
    degrees = np.rint(np.degrees(np.arctan2(d[:, 1], d[:, 0]))).astype(int) % 180
    weight = np.bincount(degrees, long, 180)
    first = int(weight.argmax())
    apart = np.abs(np.arange(180) - first)
    weight[np.minimum(apart, 180 - apart) < _SKEWED] = 0.0
    second = int(weight.argmax()) if weight.any() else (first + 90) % 180
    axes = np.eye(3)
    turns = np.radians([first, second])
    axes[:2, :2] = np.linalg.inv(np.stack([np.cos(turns), np.sin(turns)], axis=1))
    return axes


def _astride(a: Array, b: Array, edge: Index, triangles: Array, tri: Index) -> tuple[Index, Index]:
    """Of pairs of edges and triangles those where the triangle lies on both sides of the edge's line in the view, or
    within a hair of it."""
    p, t = a[edge, :2], triangles[tri, :, :2]
    d = b[edge, :2] - p
    rel = t - p[:, None]
    off = (d[:, None, 0] * rel[:, :, 1] - d[:, None, 1] * rel[:, :, 0]) / np.hypot(d[:, 0], d[:, 1])[:, None]
    keep = (off.min(axis=1) < _INSIDE) & (off.max(axis=1) > -_INSIDE)
    return edge[keep], tri[keep]


def _within(
    a: Array, b: Array, edge: Index, triangles: Array, seams: NDArray[np.bool_], tri: Index
) -> tuple[list[int], list[float], list[float]]:
    """Of pairs of edges and triangles that hide some of them: the edges, from and to where on them."""
    p, d, t = a[edge], (b - a)[edge], triangles[tri]
    low, high = np.zeros(len(edge)), np.ones(len(edge))
    for i in range(3):  # left of each side, by more than a hair; of a seam, by less
        side = t[:, (i + 1) % 3, :2] - t[:, i, :2]
        length = np.hypot(side[:, 0], side[:, 1])
        rel = p[:, :2] - t[:, i, :2]
        c0 = side[:, 0] * rel[:, 1] - side[:, 1] * rel[:, 0] - np.where(seams[tri, i], -_INSIDE, _INSIDE) * length
        c1 = side[:, 0] * d[:, 1] - side[:, 1] * d[:, 0]
        _clip(c0, c1, low, high)
    (ux, uy, uz), (vx, vy, vz) = (t[:, 1] - t[:, 0]).T, (t[:, 2] - t[:, 0]).T
    nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    # depth of the plane minus depth of the edge
    rx, ry, rz = (t[:, 0] - p).T
    c0 = (nx * rx + ny * ry + nz * rz) / nz - _DEPTH
    c1 = -(nx * d[:, 0] + ny * d[:, 1] + nz * d[:, 2]) / nz
    _clip(c0, c1, low, high)
    keep = high - low > 1e-9
    return edge[keep].tolist(), low[keep].tolist(), high[keep].tolist()


def _before(low: Array, high: Array, nearest: Array, farthest: Array) -> tuple[Index, Index]:
    """Edges (by their boxes' corners) and triangles (by theirs) before them whose boxes meet in the view, in pairs."""
    if len(low) * len(nearest) > _DIRECT:
        boxes = shapely.box(nearest[:, 0], nearest[:, 1], farthest[:, 0], farthest[:, 1])
        edge, tri = shapely.STRtree(boxes).query(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
        near = farthest[tri, 2] > low[edge, 2] + _DEPTH
        return edge[near], tri[near]
    meet = farthest[:, 2] > low[:, 2, None] + _DEPTH
    for k in range(2):
        meet &= (nearest[:, k] <= high[:, k, None]) & (farthest[:, k] >= low[:, k, None])
    edge, tri = np.nonzero(meet)
    return edge, tri


def _clip(c0: Array, c1: Array, low: Array, high: Array) -> None:
    """Narrow low..high to where c0 + c1 t > 0, in place."""
    with np.errstate(divide="ignore", invalid="ignore"):
        root = -c0 / c1
    np.maximum(low, np.where(c1 > 1e-12, root, low), out=low)
    np.minimum(high, np.where(c1 < -1e-12, root, high), out=high)
    high[(np.abs(c1) <= 1e-12) & (c0 <= 0)] = -1.0


def union(intervals: list[tuple[float, float]], gap: float = 0.0) -> list[tuple[float, float]]:
    """Intervals united, those closer than `gap` joined."""
    out: list[tuple[float, float]] = []
    for low, high in sorted(intervals):
        if out and low <= out[-1][1] + gap:
            out[-1] = (out[-1][0], max(out[-1][1], high))
        else:
            out.append((low, high))
    return out


def _split(
    a: Array, b: Array, away: NDArray[np.bool_], covered: dict[int, list[tuple[float, float]]]
) -> tuple[Array, Array]:
    seen, hidden = [], []
    p, q = a[:, :2].tolist(), b[:, :2].tolist()
    for i in range(len(p)):
        (x1, y1), (x2, y2) = p[i], q[i]
        length = math.hypot(x2 - x1, y2 - y1)
        if away[i]:
            hidden.append((x1, y1, x2, y2))
            continue
        at, tolerance = 0.0, 0.05 / length
        dark = union(covered[i], tolerance) if i in covered else []
        for low, high in [*dark, (1.0, 1.0)]:
            if low - at > tolerance:
                seen.append((x1 + (x2 - x1) * at, y1 + (y2 - y1) * at, x1 + (x2 - x1) * low, y1 + (y2 - y1) * low))
            if high > low:
                hidden.append(
                    (x1 + (x2 - x1) * low, y1 + (y2 - y1) * low, x1 + (x2 - x1) * high, y1 + (y2 - y1) * high)
                )
            at = high
    return np.array(seen).reshape(-1, 4), np.array(hidden).reshape(-1, 4)


_Runs = list[tuple[float, float]]


def merged(seen: Array, hidden: Array) -> tuple[Array, Array]:
    """Collinear segments that touch made one; hidden ones only where nothing seen lies on them."""
    lines: dict[tuple[int, int, float], tuple[tuple[float, float, float, float], _Runs, _Runs]] = {}
    for which, segments in enumerate((seen, hidden)):
        along = segments[:, 2:] - segments[:, :2]
        u = along / np.hypot(along[:, 0], along[:, 1])[:, None]
        u[(u[:, 0] < -1e-9) | ((np.abs(u[:, 0]) <= 1e-9) & (u[:, 1] < 0))] *= -1.0
        off = u[:, 0] * segments[:, 1] - u[:, 1] * segments[:, 0]
        ways = np.rint(u * 2000).astype(int).tolist()
        rows = zip(segments.tolist(), u.tolist(), off.tolist(), ways, np.rint(off * 10).tolist(), strict=True)
        for (x1, y1, x2, y2), (ux, uy), offset, (i, j), k in rows:
            known = lines.get((i, j, k)) or lines.get((i, j, k + 1)) or lines.get((i, j, k - 1))
            if known is None:
                known = lines[i, j, k] = ((ux, uy, -uy * offset, ux * offset), [], [])
            vx, vy, _, _ = known[0]
            s, e = vx * x1 + vy * y1, vx * x2 + vy * y2
            (known[2] if which else known[1]).append((s, e) if s < e else (e, s))
    out_seen, out_hidden = [], []
    for (ux, uy, ox, oy), shown, behind in lines.values():
        light = union(shown, 0.1)
        out_seen += [(ox + ux * s, oy + uy * s, ox + ux * e, oy + uy * e) for s, e in light]
        for s, e in _without(union(behind, 0.1), light):
            if e - s > 0.5:
                out_hidden.append((ox + ux * s, oy + uy * s, ox + ux * e, oy + uy * e))
    return np.array(out_seen).reshape(-1, 4), np.array(out_hidden).reshape(-1, 4)


def _without(intervals: list[tuple[float, float]], taken: list[tuple[float, float]]) -> list[tuple[float, float]]:
    out = []
    for low, high in intervals:
        at = low
        for s, e in taken:
            if e <= at or s >= high:
                continue
            if s > at:
                out.append((at, s))
            at = max(at, e)
        if at < high:
            out.append((at, high))
    return out


# -- holes --------------------------------------------------------------------------------------------
_RING = 12
_TURNS = 2 * math.pi * np.arange(_RING + 1) / _RING
_AROUND = np.column_stack([np.cos(_TURNS), np.sin(_TURNS), np.zeros(_RING + 1)])


def _hole_frame(part: Part, hole: Hole) -> tuple[Array, Array, Array, float]:
    """Centre in the wall, direction along the face's w, direction through, half thickness; all in the part's frame."""
    if part.section is None:
        return np.array([hole.x, 0.0, hole.w]), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), part.thickness / 2
    wall = profile.faces(part.section).get(hole.face)
    if wall is None:
        r = part.section.d / 2
        return np.array([hole.x, -r, hole.w]), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), part.section.tw / 2
    if wall.upright:
        return np.array([hole.x, wall.mid, hole.w]), np.array([0.0, 0, 1]), np.array([0.0, 1, 0]), wall.thickness / 2
    return np.array([hole.x, hole.w, wall.mid]), np.array([0.0, 1, 0]), np.array([0.0, 0, 1]), wall.thickness / 2


def _formed_frame(
    part: Part, frame: tuple[Array, Array, Array, float], x: Array
) -> tuple[Array, Array, Array, Array, float]:
    """A hole's centre, directions along x, across and through, where the part is formed."""
    centre, across, through, half = frame
    if not part.is_formed:
        return centre, x, across, through, half
    spots = formed(part, [centre, centre + x * 1e-3, centre + across * 1e-3, centre + through * 1e-3])
    ways = [(p - spots[0]) / np.linalg.norm(p - spots[0]) for p in spots[1:]]
    return spots[0], ways[0], ways[1], ways[2], half


_Found = tuple[float, float, float, float, float, int, int]


class _Drilled(NamedTuple):
    """A part's holes in its own frame: centres (n, 3), directions along x, across and through (3, n, 3), half the
    thickness there, diameters, slots and their angles in radians (n,)."""

    centres: Array
    ways: Array
    half: Array
    d: Array
    slot: Array
    angle: Array


@lru_cache(maxsize=4096)
def _drilled(part: Part) -> _Drilled:
    x = np.array([1.0, 0, 0])
    found = [_formed_frame(part, _hole_frame(part, hole), x) for hole in part.holes]
    centres, *ways, half = zip(*found, strict=True)
    sizes = np.array([(hole.d, hole.slot, math.radians(hole.angle)) for hole in part.holes]).T
    return _Drilled(np.array(centres), np.array(ways), np.array(half), *sizes)


def _holes(bodies: Sequence[Body], axes: Array) -> tuple[list[_Found], Array, Array]:
    """Holes face on (u, v, d, slot, angle, body, hole) with short test edges around them, and edge-on centre lines."""
    rings: list[_Found] = []
    tests, marks = [], []
    for number, (part, place) in enumerate(bodies):
        if not part.holes:
            continue
        own = _drilled(part)
        along, across, through = own.ways @ (axes @ place.axes).T
        centres = place.to_model(own.centres) @ axes.T
        steep = np.abs(through[:, 2])
        on = np.flatnonzero(steep > 0.999)
        slot = np.cos(own.angle)[:, None] * along + np.sin(own.angle)[:, None] * across
        turn = np.degrees(np.arctan2(slot[:, 1], slot[:, 0]))
        sizes = np.column_stack([centres[:, :2], own.d, own.slot, turn])[on].tolist()
        rings += [(u, v, d, s, angle, number, n) for (u, v, d, s, angle), n in zip(sizes, on.tolist(), strict=True)]
        rims = centres[on, None] + own.d[on, None, None] / 2 * _AROUND
        rims[:, :, 2] += own.half[on, None]
        tests.append(np.stack([rims[:, :-1], rims[:, 1:]], axis=2).reshape(-1, 2, 3))
        off = steep < 0.05
        out = through[off] * (own.half[off, None] + 3)
        marks.append(np.concatenate([(centres[off] - out)[:, :2], (centres[off] + out)[:, :2]], axis=1))
    return rings, _stacked(tests, (2, 3)), _stacked(marks, (4,))


def _stacked(some: list[Array], shape: tuple[int, ...]) -> Array:
    return np.concatenate(some) if some else np.zeros((0, *shape))


_FAR_FACE = {"top": Face.BOTTOM, "bottom": Face.TOP}


def far_holes(part: Part, view: str) -> Set[int]:
    """A section's holes in the flange that a view from above or below looks at from inside: not this view's own,
    even where they are seen past the end of the nearer flange."""
    face = _FAR_FACE.get(view) if part.section is not None else None
    return {n for n, hole in enumerate(part.holes) if hole.face is face}


def _behind(bodies: Sequence[Body], view: str) -> Set[int]:
    return far_holes(bodies[0][0], view) if bodies else set()


def _judged(
    rings: list[_Found],
    covered: dict[int, list[tuple[float, float]]],
    first: int,
    a: Array,
    b: Array,
    behind: Set[int],
) -> tuple[Ring, ...]:
    """Each hole seen or hidden by most of its rim; a hidden one under a seen one of its size is left out. The first
    body's holes `behind` count as hidden."""
    found: dict[tuple[int, int, int], Ring] = {}
    for number, (u, v, d, slot, angle, body, hole) in enumerate(rings):
        rim = (covered[at] for at in range(first + number * _RING, first + (number + 1) * _RING) if at in covered)
        dark = sum(min(1.0, sum(e - s for s, e in (union(some) if len(some) > 1 else some))) for some in rim)
        hidden = dark >= _RING / 2 or (body == 0 and hole in behind)
        ring = Ring(u, v, d, slot, angle, not hidden, body, hole)
        key = (round(u * 2), round(v * 2), round(d * 2))
        if key not in found or (ring.seen and not found[key].seen):
            found[key] = ring
    return tuple(found.values())
