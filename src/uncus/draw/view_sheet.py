"""A view frame as an erector's drawing: its steel as lines with their marks, grid lines and levels with their
dimensions."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from uncus.catalog.sections import section
from uncus.draw.board import Board
from uncus.draw.dimension import TEXT, straight
from uncus.draw.erection import BUBBLE, VIEW, ErectionJob, Plan, Titled, beside_column, laid_out, marked
from uncus.draw.lettering import Box
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.draw.sights import Line, Spot, clipped, is_level, looking
from uncus.frame.axes import UP
from uncus.frame.placement import Vec, unit
from uncus.job.records import Member, Role, ViewFrame
from uncus.units import Units, format_elevation, format_length

_END_ON = 0.999  # cosine to the way it is looked of what is seen at its end
_SLOPING = (math.radians(0.3), math.radians(80.0))
_SHORTENED = 0.6  # of a member's length that is seen, less than which nothing of it is said but its mark
_SHORT = 0.5  # mm of paper, under which a member's line is a point
_PLACED = 1.0  # mm by which heights differ
_NEAR = 3000.0  # mm from what is seen to a grid line or level that is drawn with it
_MARGIN = 150.0  # mm round what is seen


class ViewJob(ErectionJob, frozen=True, kw_only=True):
    """All a worker needs to draw a view: its members (mark and member) are turned to its axes; `paths` are the lines of
    those that are bent, by id."""

    frame: ViewFrame
    members: tuple[tuple[str, Member], ...]
    paths: tuple[tuple[str, tuple[Spot, ...]], ...]
    lines: tuple[Line, ...]


def draw(job: ViewJob) -> Sheet:
    """The sheet of a view frame."""
    bounds, lines = _bounds(job)

    def view(board: Board, scale: float, dx: float, dy: float, room: Box) -> Plan:
        seen = _View(board, scale, dx, dy, job.units, job.edits)
        seen.room = room
        since = len(board.items)
        seen.crossed(lines, bounds)
        board.spot(f"{VIEW}|grid", since)
        seen.steel(job)
        return seen

    notes = ["MARKS STAND AT THE LEFT END OF EACH MEMBER."]
    if is_level(job.frame):
        notes.append("TOP OF STEEL AT THE VIEW'S LEVEL UNLESS A HEIGHT IS GIVEN.")
    title = Titled(job.frame.name.upper(), _second(job), f"{len(job.members)} PIECES", job.frame.name)
    return laid_out(job, marked(job.members), bounds, title, notes, view, lambda *_: None)


def _second(job: ViewJob) -> str:
    if is_level(job.frame):
        return f"TOP OF STEEL {format_elevation(job.frame.origin[2], job.units)} UNLESS NOTED"
    return looking(job.frame)


def _half(frame: ViewFrame) -> Vec:
    return np.array([frame.width, frame.height]) / 2


def _bounds(job: ViewJob) -> tuple[Box, list[Line]]:
    """What of the frame has something in it - its steel, with the grid lines and levels that cross there or near it -
    and those lines, within it."""
    half, paths = _half(job.frame), dict(job.paths)
    spots: list[Vec] = []
    for _, m in job.members:
        for a, b in _pieces(m, paths):
            share = clipped(a, b, -half, half)
            spots += [a + s * (b - a) for s in share] if share is not None else []
    low, high = (np.min(spots, axis=0) - _MARGIN, np.max(spots, axis=0) + _MARGIN) if spots else (-half, half)
    near = [line for line in job.lines if clipped(np.array(line.a), np.array(line.b), low - _NEAR, high + _NEAR)]
    for line in near:
        axis = 0 if line.upright else 1
        if line.upright or line.flat:
            low[axis], high[axis] = min(low[axis], line.a[axis]), max(high[axis], line.a[axis])
    within = [(line, clipped(np.array(line.a), np.array(line.b), low - 1.0, high + 1.0)) for line in near]
    return (float(low[0]), float(low[1]), float(high[0]), float(high[1])), [
        _cut_to(line, share) for line, share in within if share is not None
    ]


def _cut_to(line: Line, share: tuple[float, float]) -> Line:
    """The stretch of a line that lies in a view."""
    a, b = np.array(line.a), np.array(line.b)
    (u1, v1), (u2, v2) = ((a + s * (b - a)).tolist() for s in share)
    return msgspec.structs.replace(line, a=(u1, v1), b=(u2, v2))


def _pieces(m: Member, paths: dict[str, tuple[Spot, ...]]) -> Iterator[tuple[Vec, Vec]]:
    """A member's line in the view, piece by piece."""
    points = np.array(paths.get(m.id) or (m.start[:2], m.end[:2]), dtype=np.float64)
    yield from zip(points, points[1:], strict=False)


class _View(Plan):
    """Draws a view in paper mm."""

    # -- grid lines and levels --------------------------------------------------------------------
    def crossed(self, lines: Sequence[Line], bounds: Box) -> None:
        (left, low), (right, high) = self.at(*bounds[:2]), self.at(*bounds[2:])
        grids = [line for line in lines if line.height is None]
        levels = [line for line in lines if line.height is not None]
        for line in grids:
            if line.upright:
                x, _ = self.at(*line.a)
                self.board.line(Layer.CENTRE, x, low - 6, x, high + 30)
                self.bubble(x, high + 35, line.name)
            elif line.flat:
                _, y = self.at(*line.a)
                self.board.line(Layer.CENTRE, right + 6, y, left - 30, y)
                self.bubble(left - 35, y, line.name)
            else:
                self._aslant(line)
        for line in levels:
            self._level(line, left, right)
        self._steps(grids, levels, (left, low, right, high))

    def _aslant(self, line: Line) -> None:
        """A line askew in the view, its bubble past its higher end."""
        a, b = np.array(self.at(*line.a)), np.array(self.at(*line.b))
        on = unit(b - a)
        for out in (12.0, 24.0, 36.0, 48.0, 60.0):
            end = b + out * on
            x, y = (end + BUBBLE * on).tolist()
            box = x - BUBBLE, y - BUBBLE, x + BUBBLE, y + BUBBLE
            if self.board.is_free(box):
                break
        self.board.line(Layer.CENTRE, *(a - 4.0 * on).tolist(), *end.tolist())
        self.bubble(x, y, line.name)
        self.board.keep_clear(box)

    def _level(self, line: Line, left: float, right: float) -> None:
        """A level with its name over it and its height under it, at the right."""
        _, y = self.at(*line.a)
        assert line.height is not None
        self.board.line(Layer.CENTRE, left - 21, y, right + 26, y)
        for words, off in ((line.name.upper(), 1.8), (format_elevation(line.height, self.units), -2.2)):
            ups = [0.0, *(s * k * 1.5 for k in range(1, 12) for s in (1.0, -1.0))]
            self.board.place(Text(right + 8, y + off + up, words, TEXT, "l") for up in ups)

    def _steps(self, grids: Sequence[Line], levels: Sequence[Line], room: Box) -> None:
        left, _, _, high = room
        xs = sorted({line.a[0] for line in grids if line.upright})
        for row, (a, b) in [*((0, p) for p in zip(xs, xs[1:], strict=False)), *([(1, (xs[0], xs[-1]))] if len(xs) > 2
            else [])]:  # fmt: skip
            x1, x2, y = self.at(a, 0)[0], self.at(b, 0)[0], high + (5 if row == 0 else 12)
            straight(self.board, x1, x2, y + 1, y + 6, b - a, self.units)
        heights = [line.a[1] for line in levels if line.flat] or [line.a[1] for line in grids if line.flat]
        ys = sorted(set(heights))
        for a, b in zip(ys, ys[1:], strict=False):
            self.upright(self.at(0, a)[1], self.at(0, b)[1], left - 11, b - a)
        if len(ys) > 2:
            self.upright(self.at(0, ys[0])[1], self.at(0, ys[-1])[1], left - 18, ys[-1] - ys[0])

    # -- steel ------------------------------------------------------------------------------------
    def steel(self, job: ViewJob) -> None:
        half, paths = _half(job.frame), dict(job.paths)
        flat = is_level(job.frame)
        seen = [(mark, m, self._drawn(m, half, paths)) for mark, m in job.members]
        sized: set[tuple[str, str]] = set()
        for mark, m, ends in seen:
            if ends is None or math.dist(*ends) < _SHORT:
                x, y = self.at(*m.start[:2])
                self.points[f"{m.id}|foot"] = (x, y, *m.start[:2])
                self.say(f"{VIEW}|mark {m.id}", beside_column(mark, x, y, section(m.section).d / self.scale))
        for mark, m, ends in seen:
            if ends is None or math.dist(*ends) < _SHORT:
                continue
            a, b = ends
            u, v = ((a - (self.dx, self.dy)) * self.scale).tolist()
            self.points[f"{m.id}|left"] = (*a.tolist(), u, v)
            self.along(f"{VIEW}|mark {m.id}", mark, a, b, 0.0, 2.4, 3.0)
            if (mark, m.section) in sized:
                continue
            if words := _size(m, job, flat):
                sized.add((mark, m.section))
                self.along(f"{VIEW}|size {m.id}", words, a, b, 0.45, -2.4)

    def _drawn(self, m: Member, half: Vec, paths: dict[str, tuple[Spot, ...]]) -> tuple[Vec, Vec] | None:
        """Draw a member; both ends of what is seen of its line, on paper, or None for one that is seen at its end."""
        way = unit(np.subtract(m.end, m.start))
        if m.id not in paths and abs(float(way[2])) > _END_ON:
            self.end_on(m)
            return None
        ends: list[Vec] = []
        for a, b in _pieces(m, paths):
            share = clipped(a, b, -half, half)
            if share is not None:
                p, q = (np.array(self.at(*(a + s * (b - a)).tolist())) for s in share)
                ends += [p, q]
                if m.id in paths:
                    self.board.line(Layer.STICK, *p.tolist(), *q.tolist())
        if m.id not in paths:
            self._stick_between(ends[0], ends[-1])
        return ends[0], ends[-1]

    def _stick_between(self, a: Vec, b: Vec) -> None:
        """A line held clear of its ends, so that what frames into what can be seen."""
        long = float(np.linalg.norm(b - a))
        clear = (b - a) / max(long, 1e-9) * min(4.0, long * 0.1)
        self.board.line(Layer.STICK, *(a + clear).tolist(), *(b - clear).tolist())


def _size(m: Member, job: ViewJob, flat: bool) -> str:
    """A member's section; in a level view with its height where that is another, in one that stands with its slope.
    Nothing for one that is seen much shortened."""
    if flat:
        up = float(np.sign(np.cross(job.frame.x, job.frame.y) @ UP))
        heights = [job.frame.origin[2] + up * p[2] for p in (m.start, m.end)]
        if abs(heights[0] - heights[1]) > _PLACED:
            said = " to ".join(format_elevation(h, job.units) for h in heights)
            return f"{m.section} ({said})"
        off = heights[0] - job.frame.origin[2]
        return f"{m.section} ({format_elevation(heights[0], job.units)})" if abs(off) > _PLACED else m.section
    if math.dist(m.start[:2], m.end[:2]) < _SHORTENED * math.dist(m.start, m.end):
        return ""
    run, rise = math.hypot(m.end[0] - m.start[0], m.end[2] - m.start[2]), abs(m.end[1] - m.start[1])
    slope = math.atan2(rise, run)
    if m.role is Role.BRACE or not _SLOPING[0] < slope < _SLOPING[1]:
        return m.section
    if job.units is Units.METRIC:
        return f"{m.section} ({math.degrees(slope):.1f} DEG)"
    return f"{m.section} ({format_length(12 * 25.4 * math.tan(slope), job.units)} IN 12)"
