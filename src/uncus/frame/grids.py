"""Grid lines from typed spacings, where they run and cross, and what stands on them."""

from __future__ import annotations

import math
import string
from collections.abc import Iterable, Iterator, Sequence
from enum import StrEnum
from functools import lru_cache

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.job.records import Grid, GridLine, Level, Member, Point

Vec2 = NDArray[np.float64]
ON = 1.0  # mm within which a work point stands on a line or level


class Family(StrEnum):
    NUMBERS = "numbers"
    LETTERS = "letters"


class Run(msgspec.Struct, frozen=True, eq=False):
    """A grid line in plan: where it crosses its base line, its direction and what of it there is."""

    label: str
    family: Family
    origin: Vec2
    along: Vec2
    first: float
    last: float

    def away(self, x: float, y: float) -> float:
        """Signed distance of a plan point, growing in the sense in which the family's positions grow."""
        dx, dy = x - self.origin[0], y - self.origin[1]
        side = self.along[1] * dx - self.along[0] * dy
        return float(side if self.family is Family.NUMBERS else -side)

    def nearest(self, x: float, y: float) -> tuple[float, float]:
        """The point of the line that is nearest to a plan point."""
        return self.at(float((x - self.origin[0]) * self.along[0] + (y - self.origin[1]) * self.along[1]))

    def turned_from(self, other: Run) -> float:
        """Degrees, counter-clockwise and at most 90 either way, by which the line runs off another."""
        sine = float(other.along[0] * self.along[1] - other.along[1] * self.along[0])
        return math.degrees(math.asin(max(-1.0, min(1.0, sine)))) * (1 if float(other.along @ self.along) >= 0 else -1)

    def at(self, t: float) -> tuple[float, float]:
        return float(self.origin[0] + t * self.along[0]), float(self.origin[1] + t * self.along[1])

    def reaches(self, x: float, y: float, slack: float = ON) -> bool:
        t = (x - self.origin[0]) * self.along[0] + (y - self.origin[1]) * self.along[1]
        return bool(self.first - slack <= t <= self.last + slack)


def _letters() -> Iterator[str]:
    """A, B, C ... without I and O, which read as figures; then AA, AB ..."""
    plain = [c for c in string.ascii_uppercase if c not in "IO"]
    yield from plain
    for first in plain:
        yield from (first + second for second in plain)


def labels(family: Family) -> Iterator[str]:
    return (str(n) for n in range(1, 10_000)) if family is Family.NUMBERS else _letters()


def make_grid(across: Sequence[float], up: Sequence[float]) -> Grid:
    """A grid of numbered lines at the running sum of `across` (x) and lettered ones at that of `up` (y); mm."""

    def running(names: Iterator[str], spacings: Sequence[float]) -> tuple[GridLine, ...]:
        at, lines = 0.0, [GridLine(next(names), 0.0)]
        for spacing in spacings:
            at += spacing
            lines.append(GridLine(next(names), at))
        return tuple(lines)

    return Grid(numbers=running(labels(Family.NUMBERS), across), letters=running(labels(Family.LETTERS), up))


def _run(line: GridLine, family: Family, ends: tuple[float, float] = (-math.inf, math.inf)) -> Run:
    angle = math.radians(line.turn + (90.0 if family is Family.NUMBERS else 0.0))
    along = np.array([math.cos(angle), math.sin(angle)]).round(15)
    origin = np.array([line.at, 0.0] if family is Family.NUMBERS else [0.0, line.at])
    return Run(
        line.label,
        family,
        origin,
        along,
        ends[0] if line.first is None else line.first,
        ends[1] if line.last is None else line.last,
    )


@lru_cache(maxsize=16)
def _endless(grid: Grid) -> tuple[Run, ...]:
    return tuple([_run(g, Family.NUMBERS) for g in grid.numbers] + [_run(g, Family.LETTERS) for g in grid.letters])


def crossing(a: Run, b: Run) -> tuple[float, float] | None:
    """Where two grid lines meet in plan; None where they do not."""
    turn = a.along[0] * b.along[1] - a.along[1] * b.along[0]
    if abs(turn) < 1e-9:
        return None
    d = b.origin - a.origin
    t = float((d[0] * b.along[1] - d[1] * b.along[0]) / turn)
    x, y = a.at(t)
    # a hundred-thousandth of a millimetre is noise of sines and cosines
    x, y = round(x, 5) + 0.0, round(y, 5) + 0.0
    return (x, y) if a.reaches(x, y) and b.reaches(x, y) else None


@lru_cache(maxsize=64)
def crossings(grid: Grid) -> tuple[tuple[str, float, float], ...]:
    """Every crossing as (name, x, y), such as `2/B`."""
    found = []
    numbers = [_run(g, Family.NUMBERS) for g in grid.numbers]
    letters = [_run(g, Family.LETTERS) for g in grid.letters]
    for n in numbers:
        for c in letters:
            if (at := crossing(n, c)) is not None:
                found.append((f"{n.label}/{c.label}", *at))
    return tuple(found)


@lru_cache(maxsize=64)
def runs(grid: Grid, over: float = 0.0) -> tuple[Run, ...]:
    """Every line with its ends: a partial line's own, else past the outermost crossings by `over` mm."""
    points = np.array([(x, y) for _, x, y in crossings(grid)]).reshape(-1, 2)
    if not len(points):
        lone = [*[(g.at, 0.0) for g in grid.numbers], *[(0.0, g.at) for g in grid.letters], (0.0, 0.0)]
        points = np.array(lone)
    out = []
    for lines, family in ((grid.numbers, Family.NUMBERS), (grid.letters, Family.LETTERS)):
        for line in lines:
            r = _run(line, family)
            t = (points - r.origin) @ r.along
            out.append(_run(line, family, (float(t.min()) - over, float(t.max()) + over)))
    return tuple(out)


def bounds(grid: Grid) -> tuple[float, float, float, float] | None:
    """x0, y0, x1, y1 round all crossings; None where there is no crossing."""
    points = crossings(grid)
    if not points:
        return None
    xs, ys = [x for _, x, _ in points], [y for _, _, y in points]
    return min(xs), min(ys), max(xs), max(ys)


@lru_cache(maxsize=65536)
def where(grid: Grid | None, x: float, y: float, near: float = 300.0) -> str:
    """A place in words: on a crossing `2/B`, on a line `2, A-B`, or between lines `1-2, A-B`."""
    if grid is None or not grid.numbers or not grid.letters:
        return ""
    all_runs = _endless(grid)

    def along(family: Family) -> str:
        away = [(r.away(x, y), r.label, r) for r in all_runs if r.family is family]
        hits = [item for item in away if abs(item[0]) <= near and item[2].reaches(x, y, near)]
        if hits:
            return min(hits, key=lambda item: abs(item[0]))[1]
        past = [item[:2] for item in away if item[0] > 0]
        before = [item[:2] for item in away if item[0] <= 0]
        if not past or not before:
            return f"beyond {min(away, key=lambda item: abs(item[0]))[1]}"
        return f"{min(past)[1]}-{max(before)[1]}"

    first, second = along(Family.NUMBERS), along(Family.LETTERS)
    return f"{first}/{second}" if "-" not in first + second else f"{first}, {second}"


def respaced(old: Sequence[GridLine], spacings: Sequence[float], family: Family) -> tuple[GridLine, ...]:
    """A family's lines at new spacings: the names and skews there are stay in their order, new lines get the next
    names that are free."""
    kept = sorted(old, key=lambda line: line.at)
    start = kept[0].at if kept else 0.0
    positions = [start]
    for spacing in spacings:
        positions.append(positions[-1] + spacing)
    taken = {line.label for line in kept}
    free = (name for name in labels(family) if name not in taken)
    return tuple(
        msgspec.structs.replace(kept[n], at=at) if n < len(kept) else GridLine(next(free), at)
        for n, at in enumerate(positions)
    )


# -- members that stand on lines and levels -----------------------------------------------------------


def follow_grid(
    members: Iterable[Member], before: Grid, after: Grid, renamed: dict[str, str] | None = None
) -> list[Member]:
    """Members with their work points carried along by the grid lines they stand on; only those that move.

    A point on a crossing goes to the new crossing; on one line it moves square to the family's sense; between lines it
    stays. `renamed` gives new labels by old ones.
    """
    shift = _grid_shift(before, after, renamed or {})
    out = []
    for m in members:
        start, end = shift(m.start), shift(m.end)
        if (start, end) != (m.start, m.end):
            out.append(msgspec.structs.replace(m, start=start, end=end))
    return out


def _grid_shift(before: Grid, after: Grid, renamed: dict[str, str]):  # type: ignore[no-untyped-def]
    new = {(r.family, r.label): r for r in _endless(after)}
    pairs = []
    for r in _endless(before):
        there = new.get((r.family, renamed.get(r.label, r.label)))
        if there is not None:
            pairs.append((r, there))

    def shift(p: Point) -> Point:
        x, y, z = p
        on = {
            family: next(
                (
                    (old, there)
                    for old, there in pairs
                    if old.family is family and abs(old.away(x, y)) <= ON and old.reaches(x, y)
                ),
                None,
            )
            for family in Family
        }
        n, c = on[Family.NUMBERS], on[Family.LETTERS]
        if n and c:
            at = crossing(_whole(n[1]), _whole(c[1]))
            return (*at, z) if at and (abs(at[0] - x) > 1e-6 or abs(at[1] - y) > 1e-6) else p
        if n:
            # along x at its own y
            x2 = n[1].origin[0] + (y / n[1].along[1]) * n[1].along[0]
            x1 = n[0].origin[0] + (y / n[0].along[1]) * n[0].along[0]
            return (float(x + x2 - x1), y, z) if abs(x2 - x1) > 1e-6 else p
        if c:
            y2 = c[1].origin[1] + (x / c[1].along[0]) * c[1].along[1]
            y1 = c[0].origin[1] + (x / c[0].along[0]) * c[0].along[1]
            return (x, float(y + y2 - y1), z) if abs(y2 - y1) > 1e-6 else p
        return p

    return shift


def _whole(run: Run) -> Run:
    return msgspec.structs.replace(run, first=-math.inf, last=math.inf)


def follow_levels(members: Iterable[Member], before: Iterable[Level], after: Iterable[Level]) -> list[Member]:
    """Members with the work points that stand on a moved level carried along; only those that move."""
    new = {level.id: level.elevation for level in after}
    moved = [(b.elevation, new[b.id]) for b in before if b.id in new and abs(new[b.id] - b.elevation) > 1e-6]
    out = []
    for m in members:
        ends = []
        for x, y, z in (m.start, m.end):
            to = next((there for here, there in moved if abs(here - z) <= ON), None)
            ends.append((x, y, z if to is None else to))
        if (ends[0], ends[1]) != (m.start, m.end):
            out.append(msgspec.structs.replace(m, start=ends[0], end=ends[1]))
    return out
