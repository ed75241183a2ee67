"""Where a pick lands: on the named point nearest the pointer on screen, of the kind that is forced, or on the plane."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import Protocol

import msgspec
import numpy as np
from numpy.typing import ArrayLike, NDArray

from uncus.frame.grids import crossings, runs
from uncus.frame.guides import stretch
from uncus.frame.placement import point_of
from uncus.frame.planes import Plane
from uncus.job.records import Grid, Guide, Level, Member, Point

Array = NDArray[np.float64]
_TOUCH = 1.0  # mm within which two lines meet
_MOST = 24  # lines near the pointer that are looked at for crossings
FAR_ENOUGH = 80_000.0  # mm of a plumb or level line each side of where it is met
OVER = 1800.0  # mm by which grid lines run past the last crossing


class SnapKind(StrEnum):
    END = "end"
    MIDDLE = "middle"
    CROSSING = "crossing"
    LIFTED = "crossing lifted"
    APPARENT = "crossing on the plane"
    GRID = "grid crossing"
    SQUARE = "square to"
    HOLE = "hole centre"
    CORNER = "corner"
    NEAREST = "nearest"
    PLANE = "on the plane"


class Snap(msgspec.Struct, frozen=True):
    """A picked point, the name of what it snapped to, and the piece it belongs to."""

    point: Point
    words: str
    piece: str = ""
    kind: SnapKind = SnapKind.PLANE
    line: tuple[Point, Point] | None = None  # the line it lies on, where it lies on one


class Sight(Protocol):
    """How the model is seen."""

    def to_screen(self, points: ArrayLike) -> Array:
        """(n, 3): pixel x, pixel y and depth (less is nearer)."""

    def ray(self, x: float, y: float) -> tuple[Array, Array]:
        """Origin and direction of the line of sight through a pixel."""


class NamedLine(msgspec.Struct, frozen=True, eq=False):
    """A further line to snap along, such as a piece's edge."""

    a: Array
    b: Array
    words: str
    piece: str


class Wanted(msgspec.Struct, frozen=True, eq=False):
    """What a pick is held to: one kind of snap, the plane, the point picked before, and how deep is seen: what is
    clipped away is not snapped to unless it lies on the work plane (`seen`: least and greatest depth on screen)."""

    only: SnapKind | None = None
    held: bool = False
    last: Point | None = None
    reach: float = 12.0
    seen: tuple[float, float] = (-math.inf, math.inf)


# pixels added to a candidate's distance: among points as good as equally near, the more telling kind wins
_COST = {
    SnapKind.END: 0.0,
    SnapKind.HOLE: 0.0,
    SnapKind.GRID: 0.5,
    SnapKind.CROSSING: 1.0,
    SnapKind.LIFTED: 1.5,
    SnapKind.CORNER: 2.0,
    SnapKind.MIDDLE: 1.0,
    SnapKind.SQUARE: 3.0,
    SnapKind.APPARENT: 4.5,
    SnapKind.NEAREST: 30.0,
}
_OFF_PLANE = 2.5  # pixels added where the point is not on the work plane


class _Candidates:
    def __init__(self) -> None:
        self.points: list[Array] = []
        self.named: list[tuple[SnapKind, str, str, tuple[Point, Point] | None]] = []
        self.more: list[float] = []  # what a candidate costs beyond its kind

    def add(
        self,
        point: Array,
        kind: SnapKind,
        words: str,
        piece: str = "",
        line: tuple[Point, Point] | None = None,
        more: float = 0.0,
    ) -> None:
        self.points.append(point)
        self.more.append(more)
        self.named.append((kind, words, piece, line))


class SnapIndex:
    """Named points and lines of a job as arrays, so that what is near the pointer is a few expressions."""

    def __init__(
        self,
        members: Iterable[Member],
        grid: Grid | None,
        plane: Plane,
        guides: Iterable[Guide] = (),
        levels: Iterable[Level] = (),
    ) -> None:
        self.plane = plane
        points: list[Point] = []
        self._named: list[tuple[SnapKind, str, str]] = []
        a: list[Point] = []
        b: list[Point] = []
        self._lines: list[tuple[str, str]] = []  # words, piece ("" for grid lines and guides)
        for m in members:
            name = f"{m.role} {m.section}"
            middle = tuple((p + q) / 2 for p, q in zip(m.start, m.end, strict=True))
            points += [m.start, m.end, middle]  # type: ignore[list-item]
            self._named += [
                (SnapKind.END, f"left end of {name}", m.id),
                (SnapKind.END, f"right end of {name}", m.id),
                (SnapKind.MIDDLE, f"middle of {name}", m.id),
            ]
            a.append(m.start)
            b.append(m.end)
            self._lines.append((name, m.id))
        self._members = len(a)
        for guide in guides:
            p, q = stretch(guide)
            a.append(tuple(p.tolist()))
            b.append(tuple(q.tolist()))
            self._lines.append(("guide", ""))
            if not guide.endless:
                points += [guide.a, guide.b]
                self._named += [(SnapKind.END, "end of guide", "")] * 2
        if grid is not None:
            self._take_grid(grid, points, a, b)
        self._take_levels(levels, a, b)
        self.points: Array = np.array(points, dtype=np.float64).reshape(-1, 3)
        self.a: Array = np.array(a, dtype=np.float64).reshape(-1, 3)
        self.b: Array = np.array(b, dtype=np.float64).reshape(-1, 3)

    def _take_grid(self, grid: Grid, points: list[Point], a: list[Point], b: list[Point]) -> None:
        plane = self.plane
        up = np.array([0.0, 0.0, 1.0])
        for label, x, y in crossings(grid):
            at = plane.under((x, y, 0.0), up)
            if at is None and abs(plane.away((x, y, plane.place.origin[2]))) <= _TOUCH:
                at = np.array([x, y, plane.place.origin[2]])
            if at is not None:
                points.append(point_of(at))
                self._named.append((SnapKind.GRID, f"grid {label}", ""))
        for run in runs(grid, OVER):
            ends = []
            for x, y in (run.at(run.first), run.at(run.last)):
                at = plane.under((x, y, 0.0), up)
                if at is not None:
                    ends.append(point_of(at))
            if len(ends) == 2:
                a.append(ends[0])
                b.append(ends[1])
                self._lines.append((f"grid line {run.label}", ""))
            elif (foot := _plumb(run, plane)) is not None:  # an upright plane meets the line's wall in a plumb line
                a.append((foot[0], foot[1], foot[2] - FAR_ENOUGH))
                b.append((foot[0], foot[1], foot[2] + FAR_ENOUGH))
                self._lines.append((f"grid line {run.label}", ""))

    def _take_levels(self, levels: Iterable[Level], a: list[Point], b: list[Point]) -> None:
        """On a plane that is not level, each level is a line to snap to."""
        n = self.plane.base.z
        way = np.cross((0.0, 0.0, 1.0), n)
        if np.linalg.norm(way) < 1e-6:
            return
        way = way / np.linalg.norm(way)
        steepest = np.cross(n, way)
        for level in levels:
            origin = self.plane.place.origin
            at = origin + steepest * ((level.elevation - origin[2]) / steepest[2])
            a.append(point_of(at - way * FAR_ENOUGH))
            b.append(point_of(at + way * FAR_ENOUGH))
            self._lines.append((f"level {level.name}", ""))

    # -- finding ------------------------------------------------------------------------------------
    def find(
        self,
        at: tuple[float, float],
        sight: Sight,
        wanted: Wanted,
        extra: Iterable[Snap] = (),
        edges: Sequence[NamedLine] = (),
    ) -> Snap | None:
        """Where a pick at a pixel lands. `extra` are further named points (holes, corners) near the pointer, `edges`
        further lines to land on."""
        found = _Candidates()
        origin, direction = sight.ray(*at)
        self._from_points(at, sight, wanted, found)
        for snap in extra:
            found.add(np.asarray(snap.point), snap.kind, snap.words, snap.piece)
        near = _near_lines(self.a, self.b, at, sight, wanted.reach)
        self._crossings(near, found)
        lines = [NamedLine(self.a[i], self.b[i], *self._lines[i]) for i in near.tolist()]
        if edges:
            a, b = np.array([e.a for e in edges]), np.array([e.b for e in edges])
            lines += [edges[i] for i in _near_lines(a, b, at, sight, wanted.reach).tolist()]
        _from_lines(lines, wanted, origin, direction, found)
        best = self._best(at, sight, wanted, found)
        if best is None and wanted.only in (None, SnapKind.PLANE):
            met = self.plane.under(origin, direction)
            if met is not None:
                best = Snap(point_of(np.round(met, 1)), str(SnapKind.PLANE))
        if best is not None and wanted.held and abs(self.plane.away(best.point)) > 1e-6:
            dropped = point_of(np.round(self.plane.onto(best.point), 6))
            best = msgspec.structs.replace(best, point=dropped, words=f"{best.words}, dropped onto the plane")
        return best

    def _from_points(self, at: tuple[float, float], sight: Sight, wanted: Wanted, found: _Candidates) -> None:
        if not len(self.points):
            return
        screen = sight.to_screen(self.points)
        for i in np.flatnonzero(np.hypot(screen[:, 0] - at[0], screen[:, 1] - at[1]) <= wanted.reach):
            kind, words, piece = self._named[i]
            found.add(self.points[i], kind, words, piece)

    def _crossings(self, near: NDArray[np.int64], found: _Candidates) -> None:
        """True crossings between lines near the pointer; crossings as the plane sees them, lifted onto members and as
        they are on the plane."""
        lying = np.arange(self._members, len(self.a))
        for i in near.tolist():
            others = near if i < self._members else np.arange(len(self.a))
            if i < self._members:
                others = np.union1d(others, lying)
            others = others[others != i]
            if not len(others):
                continue
            n, away = self.plane.base.z, self.plane.place
            t, s = _plan_crossing(self.a[i], self.b[i], self.a[others], self.b[others], n)
            ok = (t >= -1e-6) & (t <= 1 + 1e-6) & (s >= -1e-6) & (s <= 1 + 1e-6)
            for k in np.flatnonzero(ok).tolist():
                j = int(others[k])
                mine = self.a[i] + t[k] * (self.b[i] - self.a[i])
                theirs = self.a[j] + s[k] * (self.b[j] - self.a[j])
                if abs(float((mine - theirs) @ n)) <= _TOUCH:
                    if i < j or j not in near:
                        found.add(mine, SnapKind.CROSSING, self._crossing_words(i, j), self._piece(i, j))
                    continue
                if i < self._members:
                    words = f"{self._lines[j][0]} lifted onto {self._lines[i][0]}"
                    # the crossing of a grid line or guide says more than that of another member
                    found.add(mine, SnapKind.LIFTED, words, self._lines[i][1], more=1.0 if j < self._members else 0.0)
                member = i if i < self._members else j
                if member < self._members and (i < j or j not in near):
                    gap = float((mine - away.origin) @ n) if member == i else float((theirs - away.origin) @ n)
                    flat = mine - float((mine - away.origin) @ n) * n
                    found.add(flat, SnapKind.APPARENT,
                        f"on the plane {'below' if gap > 0 else 'above'} {self._lines[member][0]}")  # fmt: skip
            self._touching(i, others, t, found)

    def _touching(self, i: int, others: NDArray[np.int64], t: Array, found: _Candidates) -> None:
        """Lines that look parallel as the plane sees them (one stands on the plane) but meet in space."""
        for j in others[np.isnan(t)].tolist():
            if j < i:
                continue
            met = closest(self.a[i], self.b[i], self.a[j], self.b[j])
            if met is not None and met[2] <= _TOUCH and all(-1e-6 <= u <= 1 + 1e-6 for u in met[:2]):
                found.add(
                    self.a[i] + met[0] * (self.b[i] - self.a[i]),
                    SnapKind.CROSSING,
                    self._crossing_words(i, j),
                    self._piece(i, j),
                )

    def _crossing_words(self, i: int, j: int) -> str:
        return f"crossing of {self._lines[i][0]} and {self._lines[j][0]}"

    def _piece(self, i: int, j: int) -> str:
        return self._lines[i][1] or self._lines[j][1]

    def _best(self, at: tuple[float, float], sight: Sight, wanted: Wanted, found: _Candidates) -> Snap | None:
        use = [k for k, named in enumerate(found.named) if wanted.only is None or named[0] is wanted.only]
        if not use:
            return None
        points = np.array([found.points[k] for k in use])
        screen = sight.to_screen(points)
        away = np.hypot(screen[:, 0] - at[0], screen[:, 1] - at[1])
        cost = away + np.array([_COST.get(found.named[k][0], 0.0) + found.more[k] for k in use])
        off = np.abs(self.plane.place.to_local(points)[:, 2]) > _TOUCH
        lifted = np.array([found.named[k][0] is SnapKind.LIFTED for k in use])
        cost += np.where(off & ~lifted, _OFF_PLANE, 0.0)
        in_sight = (screen[:, 2] >= wanted.seen[0]) & (screen[:, 2] <= wanted.seen[1])
        close = np.flatnonzero((away <= wanted.reach) & (in_sight | ~off))
        if not len(close):
            return None
        tied = close[cost[close] <= cost[close].min() + 0.75]  # among equals the one in front wins
        k = use[int(tied[np.argmin(screen[tied, 2])])]
        kind, words, piece, line = found.named[k]
        return Snap(point_of(found.points[k]), words, piece, kind, line)


def _near_lines(a: Array, b: Array, at: tuple[float, float], sight: Sight, reach: float) -> NDArray[np.int64]:
    """Lines that pass near the pointer on screen, nearest first."""
    if not len(a):
        return np.zeros(0, dtype=np.int64)
    p, q = sight.to_screen(a)[:, :2], sight.to_screen(b)[:, :2]
    d = q - p
    size = np.maximum(np.einsum("ij,ij->i", d, d), 1e-9)
    t = np.clip(((at - p) * d).sum(axis=1) / size, 0.0, 1.0)
    away = np.hypot(*(p + t[:, None] * d - at).T)
    close = np.flatnonzero(away <= reach)
    return close[np.argsort(away[close], kind="stable")][:_MOST]


def _from_lines(
    lines: Iterable[NamedLine], wanted: Wanted, origin: Array, direction: Array, found: _Candidates
) -> None:
    """The foot of the square from the point before, and the point nearest the line of sight."""
    for one in lines:
        d = one.b - one.a
        line = (point_of(one.a), point_of(one.b))
        if wanted.last is not None:
            t = float((np.asarray(wanted.last) - one.a) @ d / (d @ d))
            if -1e-9 <= t <= 1 + 1e-9:
                found.add(one.a + t * d, SnapKind.SQUARE, f"square to {one.words}", one.piece, line)
        met = closest(one.a, one.b, origin, origin + direction)
        if met is not None:
            found.add(
                one.a + min(1.0, max(0.0, met[0])) * d, SnapKind.NEAREST, f"nearest on {one.words}", one.piece, line
            )


def _plumb(run, plane: Plane) -> Point | None:  # type: ignore[no-untyped-def]
    """Where the plumb wall of a grid line crosses an upright plane."""
    n = plane.base.z[:2]
    slope = float(run.along @ n)
    if abs(slope) < 1e-6:
        return None
    t = float((plane.place.origin[:2] - run.origin) @ n) / slope
    x, y = run.at(t)
    return (x, y, float(plane.place.origin[2])) if run.reaches(x, y) or np.isinf(run.first) else None


def _plan_crossing(a: Array, b: Array, c: Array, d: Array, normal: Array) -> tuple[Array, Array]:
    """Where a line a-b crosses lines c-d (k, 3) as seen along a direction: shares along each, nan where they are
    parallel so seen."""
    u, v = b - a, d - c
    with np.errstate(divide="ignore", invalid="ignore"):
        turn = np.cross(u, v) @ normal
        w = c - a
        t = np.cross(w, v) @ normal / turn
        s = np.cross(w, np.broadcast_to(u, v.shape)) @ normal / turn
    flat = np.abs(turn) < 1e-9 * np.linalg.norm(u) * np.linalg.norm(v, axis=1) + 1e-12
    return np.where(flat, np.nan, t), np.where(flat, np.nan, s)


def closest(a: ArrayLike, b: ArrayLike, c: ArrayLike, d: ArrayLike) -> tuple[float, float, float] | None:
    """Shares along the endless lines a-b and c-d at which they come nearest, and how near; None where parallel."""
    a, b, c, d = (np.asarray(p, dtype=np.float64) for p in (a, b, c, d))
    u, v, w = b - a, d - c, a - c
    uu, uv, vv = float(u @ u), float(u @ v), float(v @ v)
    det = uu * vv - uv * uv
    if det < 1e-12 * uu * vv:
        return None
    t = (uv * float(v @ w) - vv * float(u @ w)) / det
    s = (uu * float(v @ w) - uv * float(u @ w)) / det
    return t, s, float(np.linalg.norm(a + t * u - c - s * v))
