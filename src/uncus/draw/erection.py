"""Erection plans, one a level: grids dimensioned, members as single lines, marks near their left ends."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple, Protocol

import msgspec
import numpy as np

from uncus.catalog.sections import section
from uncus.draw.bearings import north, scale_bar
from uncus.draw.board import Board
from uncus.draw.border import bill, named, notes, revisions, scale_words
from uncus.draw.lettering import Box
from uncus.draw.parted import parted
from uncus.draw.plan import VIEW, Plan, beside_column
from uncus.draw.sheet import Frame, Layer, Sheet
from uncus.draw.template import LARGE, SMALL, Template, fill, template
from uncus.frame.axes import is_vertical
from uncus.frame.grids import crossings, runs
from uncus.frame.placement import unit
from uncus.job.drawings import Drawing, Edit
from uncus.job.records import Grid, Level, Member
from uncus.mark.marking import natural
from uncus.steel.joint import Fasteners
from uncus.units import Units, format_elevation, format_length

SCALES = {Units.IMPERIAL: (24, 32, 48, 64, 96, 128, 192, 384), Units.METRIC: (20, 25, 50, 75, 100, 150, 200, 500)}
PARTED = {Units.IMPERIAL: 192.0, Units.METRIC: 200.0}  # scales beyond which what is drawn is parted


class PlanJob(msgspec.Struct, frozen=True):
    """All a worker needs to draw one plan."""

    name: str
    level: Level
    grid: Grid | None
    members: tuple[tuple[str, Member], ...]  # mark and member
    through: tuple[Member, ...]  # columns that pass the level or end at it, for reference
    rods: tuple[Fasteners, ...]
    project: str
    number: str
    units: Units
    content: str
    hand: Drawing | None = None
    since: str = ""
    on: str = ""

    @property
    def edits(self) -> tuple[Edit, ...]:
        return self.hand.edits if self.hand else ()


class ErectionJob(msgspec.Struct, frozen=True, kw_only=True):
    """What every sheet of an erector's is given beside what it shows. (A plan has the same in an order of its own, by
    which those that went out are known again.)"""

    name: str
    project: str
    number: str
    units: Units
    content: str
    hand: Drawing | None = None
    since: str = ""
    on: str = ""

    @property
    def edits(self) -> tuple[Edit, ...]:
        return self.hand.edits if self.hand else ()


def level_of(levels: list[Level], member: Member) -> Level | None:
    """The level a member is drawn at: the highest that is not above its higher end; columns at their foot's."""
    a, b = member.start[2], member.end[2]
    upright = is_vertical(unit(np.subtract(member.end, member.start)))
    z = min(a, b) if upright else max(a, b)
    under = [level for level in levels if level.elevation <= z + 1000.0]
    if upright:
        under = [level for level in levels if level.elevation <= z + 300.0]
    return (
        max(under, key=lambda level: level.elevation)
        if under
        else min(levels, key=lambda level: level.elevation, default=None)
    )


def passes(member: Member, level: Level) -> bool:
    """Whether a plumb member stands through a level or ends at it."""
    low, high = sorted((member.start[2], member.end[2]))
    upright = is_vertical(unit(np.subtract(member.end, member.start)))
    return upright and low + 300.0 < level.elevation <= high + 1000.0


def _bounds(job: PlanJob) -> Box:
    points = [p for _, m in job.members for p in (m.start, m.end)]
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    if job.grid:
        met = [(x, y) for _, x, y in crossings(job.grid)]
        for x, y in met or [run.at(t) for run in runs(job.grid) for t in (run.first, run.last)]:
            xs.append(x)
            ys.append(y)
    return min(xs), min(ys), max(xs), max(ys)


def fit(units: Units, bounds: Box) -> tuple[Template, float]:
    """The smaller paper at a readable scale, else the large one."""
    x0, y0, x1, y1 = bounds
    small, large = template(SMALL[units]), template(LARGE[units])
    for paper, largest in ((small, 100.0), (large, math.inf)):
        left, low, right, high = paper.drawing
        room_x, room_y = right - left - 62, high - low - 62
        for scale in SCALES[units]:
            if scale <= largest and (x1 - x0) / scale <= room_x and (y1 - y0) / scale <= room_y:
                return paper, float(scale)
    return large, max((x1 - x0) / room_x, (y1 - y0) / room_y)


def beside(board: Board, paper: Template, table: Tabled, lines: Sequence[str], hand: Drawing | None) -> None:
    """What stands beside an erector's views: as much of the table as there is room for, notes, revisions."""
    foot = paper.column[1] + 50
    most, rows = int((paper.column[3] - foot) / 4.75) - 3, table.rows
    if len(rows) > most:
        blank = [""] * (len(table.heads) - 2)
        rows = [*rows[: most - 1], ("...", *blank, f"and {len(rows) - most + 1} more in the bill")]
    under, _ = bill(board, paper.column, table.heads, rows, table.aligned, foot - 10)
    low = revisions(board, paper.column, hand.revisions if hand else ())
    notes(board, paper.column, lines, under, low + 2)


def is_large(job: PlanJob) -> bool:
    """Whether a plan would be drawn at a scale that nobody reads on one sheet."""
    return fit(job.units, _bounds(job))[1] > PARTED[job.units]


def draw(job: PlanJob) -> Sheet:
    """The plan of a level."""
    lines = ["MARKS STAND AT THE LEFT END OF EACH MEMBER.", "TOP OF STEEL AT THE LEVEL UNLESS A HEIGHT IS GIVEN."]
    if job.rods:
        one = job.rods[0]
        total = sum(len(r.points) for r in job.rods)
        length = format_length(one.length, job.units)
        lines.append(f"{total} ANCHOR RODS {one.size} {one.grade} x {length} UNLESS NOTED.")
    bounds = _bounds(job)

    def view(board: Board, scale: float, dx: float, dy: float, room: Box) -> Plan:
        plan = _LevelPlan(board, scale, dx, dy, job.units, job.edits)
        plan.room = room
        since = len(board.items)
        plan.grid(job.grid, bounds)
        board.spot(f"{VIEW}|grid", since)
        plan.members(job)
        return plan

    third = f"{len(job.members)} PIECES"
    title = Titled(f"ERECTION PLAN: {job.level.name.upper()}", _height_words(job), third, job.level.name)
    return laid_out(job, marked(job.members), bounds, title, lines, view)


class Titled(NamedTuple):
    """What the title block says of a sheet in three lines, which sheet of how many it is, and what its entry is
    called."""

    first: str
    second: str
    third: str
    name: str
    of: str = "1 OF 1"


class Tabled(NamedTuple):
    """The table beside a view: its heads, rows, and how each column is aligned, l or r."""

    heads: tuple[str, ...]
    rows: list[tuple[str, ...]]
    aligned: str


def marked(members: Sequence[tuple[str, Member]]) -> Tabled:
    """What of a view's members there are, by mark and section."""
    counts: dict[tuple[str, str], int] = {}
    for mark, m in members:
        counts[(mark, m.section)] = counts.get((mark, m.section), 0) + 1
    ordered = sorted(counts.items(), key=lambda i: natural(i[0][0]))
    rows: list[tuple[str, ...]] = [(mark, str(n), name) for (mark, name), n in ordered]
    return Tabled(("MARK", "NO", "SECTION"), rows, "lrl")


class Shown(Protocol):
    """What sheets of an erector's views have in common."""

    @property
    def name(self) -> str: ...

    @property
    def project(self) -> str: ...

    @property
    def number(self) -> str: ...

    @property
    def units(self) -> Units: ...

    @property
    def content(self) -> str: ...

    @property
    def hand(self) -> Drawing | None: ...

    @property
    def on(self) -> str: ...


def laid_out(
    job: Shown,
    table: Tabled,
    bounds: Box,
    words: Titled,
    lines: list[str],
    view: Callable[[Board, float, float, float, Box], Plan],
) -> Sheet:
    """A sheet with one view seen from above, its title, bill, notes and revisions."""
    paper, scale = fit(job.units, bounds)
    x0, y0, x1, y1 = bounds
    left, low, right, high = paper.drawing
    board = Board()
    title = {
        **named(job.name, job.hand, job.on),
        "project": f"{job.project}   {job.number}",
        "sheet": words.of,
        "line 1": words.first,
        "line 2": words.second,
        "line 3": words.third,
        "scale": scale_words(scale, job.units),
        "paper": paper.name,
    }
    fill(board, paper, title)
    dx = (left + right) / 2 - (x0 + x1) / 2 / scale + 8
    dy = (low + high) / 2 - (y0 + y1) / 2 / scale - 8
    plan = view(board, scale, dx, dy, paper.drawing)
    lost = plan.written()
    plan.drop()
    board.items = parted(board.items, board.struck())
    north(board, right - 8, low + 12)
    _measured(board, right - 16, low + 8, scale, job.units)
    beside(board, paper, table, lines, job.hand)
    frame = Frame(VIEW, dx, dy, scale, (*plan.at(x0, y0), *plan.at(x1, y1)), plan.points)
    return Sheet(job.name, words.name, "erection", paper.width, paper.height, scale, tuple(board.items), job.content,
        tuple(board.spots), (frame,), lost, wrong=tuple(_wrong(plan)))  # fmt: skip


def _wrong(plan: Plan) -> Iterator[str]:
    if plan.left_out:
        yield "There is no room for all that is said; make views of parts of it, which are drawn larger."


def _measured(board: Board, right: float, y: float, scale: float, units: Units) -> None:
    """A scale bar up to a place of the paper, where nothing is drawn there."""
    trial = Board()
    long = scale_bar(trial, 0.0, y, scale, units)
    if long:
        x0, y0, x1, y1 = trial.extent()
        if board.is_clean((right - (x1 - x0), y0, right, y1)):
            scale_bar(board, right - x1, y, scale, units)


def _height_words(job: PlanJob) -> str:
    height = format_elevation(job.level.elevation, job.units)
    if all(is_vertical(unit(np.subtract(m.end, m.start))) for _, m in job.members):
        return f"COLUMNS STANDING AT {height} UNLESS NOTED"
    return f"TOP OF STEEL {height} UNLESS NOTED"


class _LevelPlan(Plan):
    """Draws the plan of a level in paper mm."""

    def members(self, job: PlanJob) -> None:
        upright: list[tuple[str, Member]] = []
        lying: list[tuple[str, Member]] = []
        for mark, m in job.members:
            (upright if is_vertical(unit(np.subtract(m.end, m.start))) else lying).append((mark, m))
        for _, m in upright:
            self.end_on(m)
        for m in job.through:
            self.end_on(m, filled=False)
        ends = [self.stick(m) for _, m in lying]
        for group in job.rods:
            for p in group.points:
                x, y = self.at(p[0], p[1])
                self.board.circle(Layer.THIN, x, y, max(0.5, 20 / self.scale))
        for mark, m in upright:
            x, y = self.at(m.start[0], m.start[1])
            self.points[f"{m.id}|foot"] = (x, y, *m.start[:2])
            self.say(f"{VIEW}|mark {m.id}", beside_column(mark, x, y, section(m.section).d / self.scale))
        sized: dict[tuple[str, str], bool] = {}
        for (mark, m), (a, b) in zip(lying, ends, strict=True):
            self.points[f"{m.id}|left"] = (*self.at(*m.start[:2]), *m.start[:2])
            self.along(f"{VIEW}|mark {m.id}", mark, a, b, 0.0, 2.4, 3.0)
            first = not sized.get((mark, m.section))
            sized[(mark, m.section)] = True
            words = m.section if first else ""
            z = max(m.start[2], m.end[2])
            if abs(m.start[2] - m.end[2]) > 1:
                words = (
                    f"{words} ({' to '.join(format_elevation(p[2], self.units) for p in (m.start, m.end))})".strip()
                    if first
                    else ""
                )
            elif abs(z - job.level.elevation) > 1:
                words = f"{words} ({format_elevation(z, self.units)})".strip() if first else ""
            if words:
                self.along(f"{VIEW}|size {m.id}", words, a, b, 0.45, -2.4)
