"""The site plan: cranes with their radius rings and load tables, laying-down areas, and the building with the pieces
that no crane lifts."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import msgspec
import numpy as np

from uncus.draw.board import Board
from uncus.draw.dimension import TEXT
from uncus.draw.erection import ErectionJob, Tabled, Titled, laid_out
from uncus.draw.lettering import Box, width
from uncus.draw.plan import VIEW, Plan
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.draw.sights import Spot, clipped
from uncus.frame.grids import bounds
from uncus.frame.placement import Vec
from uncus.job.records import Crane, Grid, Reach
from uncus.units import format_length, format_weight

_MARGIN = 1500.0  # mm round what there is
_FACETS = 180
_CRANE = 3.0  # mm of paper
_RINGS = 8  # of a load table that are drawn at most


class Area(msgspec.Struct, frozen=True):
    """A laying-down area: its corners in plan, and what is said of it."""

    id: str
    corners: tuple[Spot, ...]
    words: tuple[str, ...]


class Unlifted(msgspec.Struct, frozen=True):
    """A piece that no crane lifts: its id, mark, line in plan, weight, what is wrong, and how far the crane is."""

    id: str
    mark: str
    line: tuple[Spot, Spot]
    weight: float
    words: str
    radius: float


class SiteJob(ErectionJob, frozen=True, kw_only=True):
    """All a worker needs to draw a site plan; `lines` are the building's members in plan."""

    grid: Grid | None
    lines: tuple[tuple[Spot, Spot], ...]
    cranes: tuple[Crane, ...]
    areas: tuple[Area, ...]
    unlifted: tuple[Unlifted, ...]


def draw(job: SiteJob) -> tuple[Sheet, ...]:
    """The one sheet there is."""
    box = _bounds(job)

    def view(board: Board, scale: float, dx: float, dy: float, room: Box) -> Plan:
        plan = _View(board, scale, dx, dy, job.units, job.edits)
        plan.room, plan.box = room, box
        since = len(board.items)
        plan.grid(job.grid, box)
        board.spot(f"{VIEW}|grid", since)
        plan.site(job)
        return plan

    units = job.units
    rows: list[tuple[str, ...]] = [(one.mark, format_weight(one.weight, units), format_length(one.radius, units),
        one.words.upper()) for one in job.unlifted]  # fmt: skip
    lines = ["RINGS ARE WHAT A CRANE LIFTS OUT TO THERE; BETWEEN ROWS OF ITS LOAD TABLE THE NEXT ONE OUT COUNTS."]
    if rows:
        lines.append("HEAVY LINES ARE PIECES THAT NO CRANE LIFTS FROM WHERE THEY LIE TO WHERE THEY STAND.")
    third = f"{len(rows)} PIECES NOT LIFTED" if rows else "ALL PIECES ARE LIFTED" if job.cranes else ""
    title = Titled("SITE PLAN", ", ".join(crane.name.upper() for crane in job.cranes), third, "Site plan")
    return (laid_out(job, Tabled(("MARK", "WEIGHT", "AWAY", "WHY"), rows, "lrrl"), box, title, lines, view),)


def _bounds(job: SiteJob) -> Box:
    spots: list[Sequence[float]] = [p for line in job.lines for p in line]
    spots += [p for area in job.areas for p in area.corners] + [crane.at[:2] for crane in job.cranes]
    if job.grid is not None and (around := bounds(job.grid)) is not None:
        spots += [around[:2], around[2:]]
    (x0, y0), (x1, y1) = np.min(spots, axis=0).tolist(), np.max(spots, axis=0).tolist()
    return x0 - _MARGIN, y0 - _MARGIN, x1 + _MARGIN, y1 + _MARGIN


class _View(Plan):
    """Draws a site in paper mm."""

    box: Box = (0.0, 0.0, 0.0, 0.0)

    def site(self, job: SiteJob) -> None:
        for a, b in job.lines:
            self.board.line(Layer.THIN, *self.at(*a), *self.at(*b))
        for one in job.unlifted:
            self.board.line(Layer.HEAVY, *self.at(*one.line[0]), *self.at(*one.line[1]))
        for area in job.areas:
            self.board.poly(Layer.HIDDEN, [self.at(*p) for p in area.corners], closed=True)
        for crane in job.cranes:
            self._crane(crane)
        for crane in job.cranes:
            self._said_of_crane(crane)
        for area in job.areas:
            self._said_of_area(area)
        for one in job.unlifted:
            (x, y), far = self.at(*one.line[0]), self.at(*one.line[1])
            key = f"{VIEW}|mark {one.id}"
            if math.dist((x, y), far) < 1.0:
                self.say(key, (Text(x + 1.5 + 0.8 * n, y + 1.5 + 0.8 * n, one.mark, 3.0) for n in range(60)))
            else:
                self.along(key, one.mark, np.array((x, y)), np.array(far), 0.0, 2.4, 3.0)

    def _said_of_area(self, area: Area) -> None:
        x, y = np.mean([self.at(*p) for p in area.corners], axis=0).tolist()
        for n, words in enumerate(area.words):
            ups = [0.0, *(s * k * 2.0 for k in range(1, 30) for s in (-1.0, 1.0))]
            self.say(f"{VIEW}|area {area.id} {n}", (Text(x, y + 2.0 - 4.0 * n + up, words, TEXT, "c") for up in ups))

    def _crane(self, crane: Crane) -> None:
        x, y = self.at(*crane.at[:2])
        self.board.circle(Layer.OUTLINE, x, y, _CRANE)
        for dx, dy in ((1.0, 0.0), (0.0, 1.0)):
            self.board.line(Layer.OUTLINE, x - dx * _CRANE, y - dy * _CRANE, x + dx * _CRANE, y + dy * _CRANE)
        self.board.keep_clear((x - _CRANE, y - _CRANE, x + _CRANE, y + _CRANE))
        self.points[f"{crane.id}|middle"] = (x, y, *crane.at[:2])
        for radius in (*(row.radius for row in _shown(crane)), *((crane.nearest,) if crane.nearest else ())):
            self._ring(crane.at[:2], radius)

    def _said_of_crane(self, crane: Crane) -> None:
        x, y = self.at(*crane.at[:2])
        spots = (Text(x + side * (_CRANE + 1.0), y + up, crane.name.upper(), 3.0, "l" if side > 0 else "r")
            for k in range(1, 30) for side in (1, -1) for up in (k * 3.0, -k * 3.0))  # fmt: skip
        self.say(f"{VIEW}|crane {crane.id}", spots)
        for n, row in enumerate(_shown(crane)):
            words = f"{format_length(row.radius, self.units)}: {format_weight(row.lifts, self.units)}"
            self.say(f"{VIEW}|ring {crane.id} {n}", self._at_ring(crane.at[:2], row.radius, words))
        if crane.nearest:
            words = f"NOT NEARER THAN {format_length(crane.nearest, self.units)}"
            self.say(f"{VIEW}|nearest {crane.id}", self._at_ring(crane.at[:2], crane.nearest, words))

    def _ring(self, middle: Spot, radius: float) -> None:
        """A circle, as far as it lies in the view."""
        turns = np.linspace(0.0, 2 * math.pi, _FACETS + 1)
        points = np.array(middle) + radius * np.column_stack([np.cos(turns), np.sin(turns)])
        low, high = np.array(self.box[:2]), np.array(self.box[2:])
        run: list[Spot] = []
        for a, b in zip(points, points[1:], strict=False):
            share = clipped(a, b, low, high)
            if share is not None:
                run += [self.at(*_between(a, b, s)) for s in (share if not run else share[1:])]
            if run and (share is None or share[1] < 1.0):
                self.board.poly(Layer.CENTRE, run)
                run = []
        if run:
            self.board.poly(Layer.CENTRE, run)

    def _at_ring(self, middle: Spot, radius: float, words: str) -> Iterator[Text]:
        """Places just outside a ring for what it says, round it, those in the view first."""
        x0, y0, x1, y1 = self.box
        own = []
        half = width(words, TEXT) / 2
        for n in range(72):
            turn = math.radians(90.0 + 5.0 * n)
            c, s = math.cos(turn), math.sin(turn)
            x, y = middle[0] + radius * c, middle[1] + radius * s
            out = 1.2 + abs(c) * half + abs(s) * TEXT / 2
            px, py = self.at(x, y)
            own.append((not (x0 <= x <= x1 and y0 <= y <= y1), n, px + out * c, py + out * s))
        for _, _, px, py in sorted(own):
            yield Text(px, py, words, TEXT, "c")


def _shown(crane: Crane) -> list[Reach]:
    """The rows of its load table that are drawn, always the last among them."""
    step = max(1, math.ceil(len(crane.table) / _RINGS))
    return [row for n, row in enumerate(crane.table) if (len(crane.table) - 1 - n) % step == 0]


def _between(a: Vec, b: Vec, share: float) -> tuple[float, float]:
    x, y = (a + share * (b - a)).tolist()
    return x, y
