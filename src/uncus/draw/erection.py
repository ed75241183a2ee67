"""Erection plans, one a level: grids dimensioned, members as single lines, marks near their left ends."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import lru_cache
from typing import NamedTuple, Protocol

import msgspec
import numpy as np

from uncus.catalog.sections import Section, section
from uncus.draw.bearings import north, scale_bar
from uncus.draw.board import Board, leader_start
from uncus.draw.border import bill, named, notes, revisions, scale_words
from uncus.draw.by_hand import said
from uncus.draw.dimension import TEXT, leader_to, straight
from uncus.draw.lettering import Box, box_of, width
from uncus.draw.parted import parted
from uncus.draw.sheet import Frame, Layer, Sheet, Text
from uncus.draw.template import LARGE, SMALL, Template, fill, template
from uncus.frame.axes import is_vertical, work_axes
from uncus.frame.grids import Family, crossings, runs
from uncus.frame.placement import Vec, unit
from uncus.job.drawings import Drawing, Edit, Hidden, Moved, Written
from uncus.job.records import Grid, Level, Member
from uncus.mark.marking import natural
from uncus.steel.joint import Fasteners
from uncus.steel.profile import outline
from uncus.units import Units, format_elevation, format_length

SCALES = {Units.IMPERIAL: (24, 32, 48, 64, 96, 128, 192, 384), Units.METRIC: (20, 25, 50, 75, 100, 150, 200, 500)}
PARTED = {Units.IMPERIAL: 192.0, Units.METRIC: 200.0}  # scales beyond which what is drawn is parted
BUBBLE = 5.0
VIEW = "plan"
_FAR = 9.0  # mm of paper from its member, past which a word has a leader
_HOME = 6.0  # mm of paper from a member's left end, from where on a leader of its mark goes
_LONGER = 0.3  # what a mm of leader costs
_LEFT = 0.3  # of a member's length, up to which it does
_MIDDLE = 0.15, 0.85  # of it, between which leaders of other words go
_SHIFTS = (0.0, 6.0, -6.0, 12.0, -12.0, 20.0, -20.0, -30.0, 30.0)  # mm of paper along a member from a word's place
_SPREAD = 12  # places across and up the paper, where words that find none near theirs are tried


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


def _beyond(p: tuple[float, float], q: tuple[float, float], by: float) -> tuple[float, float]:
    """The point `by` mm past q on the way from p."""
    size = math.dist(p, q) or 1.0
    return q[0] + (q[0] - p[0]) / size * by, q[1] + (q[1] - p[1]) / size * by


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
        plan = Plan(board, scale, dx, dy, job.units, job.edits)
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
    foot = paper.column[1] + 50
    most, rows = int((paper.column[3] - foot) / 4.75) - 3, table.rows
    if len(rows) > most:
        blank = [""] * (len(table.heads) - 2)
        rows = [*rows[: most - 1], ("...", *blank, f"and {len(rows) - most + 1} more in the bill")]
    under, _ = bill(board, paper.column, table.heads, rows, table.aligned, foot - 10)
    notes(board, paper.column, lines, under, revisions(board, paper.column, job.hand.revisions if job.hand else ()) + 2)
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


@lru_cache(maxsize=1024)
def ring_of(s: Section) -> Vec:
    """A section's outline without what no plan shows of its fillets."""
    return np.asarray(outline(s).exterior.simplify(0.5).coords)


def _height_words(job: PlanJob) -> str:
    height = format_elevation(job.level.elevation, job.units)
    if all(is_vertical(unit(np.subtract(m.end, m.start))) for _, m in job.members):
        return f"COLUMNS STANDING AT {height} UNLESS NOTED"
    return f"TOP OF STEEL {height} UNLESS NOTED"


class Plan:
    """Draws at a scale what is seen along z; dx, dy in paper mm."""

    def __init__(self, board: Board, scale: float, dx: float, dy: float, units: Units, edits: tuple[Edit, ...]) -> None:
        self.board, self.scale, self.dx, self.dy, self.units = board, scale, dx, dy, units
        self.edits = edits
        self.moved = {e.key: (e.dx, e.dy) for e in edits if isinstance(e, Moved)}
        self.hidden = {e.key for e in edits if isinstance(e, Hidden)}
        self.room: Box = (-math.inf, -math.inf, math.inf, math.inf)  # of the paper, that words lie in
        self.said: set[str] = set()
        self.left_out = 0  # words that no room was left for
        self.dropped: list[tuple[str, Text]] = []
        self.tips: dict[str, tuple[float, float]] = {}  # of notes with a leader
        self.homes: dict[str, Box] = {}  # of words with one where they come to lie far from this stretch
        self.points: dict[str, tuple[float, float, float, float]] = {}

    def at(self, x: float, y: float) -> tuple[float, float]:
        return x / self.scale + self.dx, y / self.scale + self.dy

    def say(self, key: str, candidates: Iterable[Text]) -> None:
        """Words at the best of their places. Where they were moved from there by hand, or left out, the place stays
        theirs, so that no other words move for it."""
        since = len(self.board.items)
        self.said.add(key)
        text = self.board.best(self._on_paper(candidates), lambda one: self._leading(key, one), self.room)
        if not _holds(self.room, box_of(text)):
            self.left_out += 1  # there is no room for it on the paper
            return
        if key in self.hidden or key in self.moved:
            self.board.keep_clear(box_of(text))
            dx, dy = self.moved.get(key, (0.0, 0.0))
            if key not in self.hidden:
                self.dropped.append((key, msgspec.structs.replace(text, x=text.x + dx, y=text.y + dy)))
            return
        self._put(key, text, since)

    def _on_paper(self, candidates: Iterable[Text]) -> Iterator[Text]:
        """The places asked for; then, for words that find none on the drawing's part of the sheet, anywhere on it."""
        first: Text | None = None
        for text in candidates:
            first = first or text
            yield text
        left, low, right, high = self.room
        if first is not None and math.isfinite(left):
            across, up = (right - left) / _SPREAD, (high - low) / _SPREAD
            for n in range(_SPREAD * _SPREAD):
                x, y = left + (n % _SPREAD + 0.5) * across, high - (n // _SPREAD + 0.5) * up
                yield msgspec.structs.replace(first, x=x, y=y)

    def _leading(self, key: str, text: Text) -> float:
        """What the leader costs that words need at a place."""
        tip = self._tip(key, text)
        return self._cost(text, tip) if tip is not None else 0.0

    def _cost(self, text: Text, tip: tuple[float, float]) -> float:
        start = leader_start(text, tip)
        return self.board.leader_cost(start, tip) + _LONGER * math.dist(start, tip)

    def _tip(self, key: str, text: Text) -> tuple[float, float] | None:
        """Where the leader of words goes, where they need one: what they are told of, or the place next to them of a
        stretch that they lie far from."""
        if key in self.tips or key not in self.homes:
            return self.tips.get(key)
        box, (ax, ay, bx, by) = box_of(text), self.homes[key]
        dx, dy, mx, my = bx - ax, by - ay, (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        near = min(max(((mx - ax) * dx + (my - ay) * dy) / max(dx * dx + dy * dy, 1e-9), 0.0), 1.0)
        if _away(box, (ax + near * dx, ay + near * dy)) <= _FAR:
            return None
        places = ((ax + share * dx, ay + share * dy) for share in (near, 0.0, 0.25, 0.5, 0.75, 1.0))
        return min(places, key=lambda tip: self._cost(text, tip))

    def _put(self, key: str, text: Text, since: int) -> None:
        self.board.text(text)
        tip = self._tip(key, text)
        if tip is not None:
            leader_to(self.board, text, tip)
        self.board.spot(key, since, "note")

    def drop(self) -> None:
        """Draw what was moved by hand where it was dropped, once all else has its place."""
        for key, text in self.dropped:
            self._put(key, text, len(self.board.items))

    def written(self) -> tuple[str, ...]:
        """Notes added by hand; the edits that found nothing, in words."""
        lost = []
        for edit in self.edits:
            if isinstance(edit, Written):
                x, y = self.at(edit.u, edit.v)
                spots = (Text(x + side * (4 + 3 * out), y + 4 + 3 * out, edit.words, TEXT, "l" if side > 0 else "r")
                    for out in range(30) for side in (1, -1))  # fmt: skip
                if edit.leader:
                    self.tips[edit.key] = (x, y)
                self.say(edit.key, spots)
            elif edit.key not in self.said:
                lost.append(said(edit))
        return tuple(lost)

    def grid(self, grid: Grid | None, bounds: tuple[float, float, float, float]) -> None:
        if grid is None or not grid.numbers or not grid.letters:
            return
        (left, low), (right, high) = self.at(*bounds[:2]), self.at(*bounds[2:])
        out = 30.0
        # bubbles stand above for numbers and at the left for letters, on the line's own continuation
        lines = {line.label: line for line in (*grid.numbers, *grid.letters)}
        for run in runs(grid):
            p, q = self.at(*run.at(run.first)), self.at(*run.at(run.last))
            plain = abs(run.along[0] * run.along[1]) < 1e-9
            starts, ends = lines[run.label].first is not None, lines[run.label].last is not None
            # a line that ends well inside has its bubble there; one that ends at the edge has it with the others
            if run.family is Family.NUMBERS:
                ends = ends and q[1] < high - 15
                head = (q[0], high + out) if plain and not ends else _beyond(p, q, 12.0)
                tail = (p[0], low - 6) if plain and not starts else p
            else:
                starts = starts and p[0] > left + 15
                head = (left - out, p[1]) if plain and not starts else _beyond(q, p, 12.0)
                tail = (right + 6, q[1]) if plain and not ends else q
            self.board.line(Layer.CENTRE, *tail, *head)
            self.bubble(*_beyond(tail, head, BUBBLE), run.label)
        xs = sorted(g.at for g in grid.numbers if not g.turn)
        for a, b in zip(xs, xs[1:], strict=False):
            straight(self.board, self.at(a, 0)[0], self.at(b, 0)[0], high + 6, high + 11, b - a, self.units)
        if len(xs) > 1:
            x1, x2 = self.at(xs[0], 0)[0], self.at(xs[-1], 0)[0]
            straight(self.board, x1, x2, high + 12, high + 18, xs[-1] - xs[0], self.units)
        ys = sorted(g.at for g in grid.letters if not g.turn)
        for a, b in zip(ys, ys[1:], strict=False):
            self.upright(self.at(0, a)[1], self.at(0, b)[1], left - 11, b - a)
        if len(ys) > 1:
            self.upright(self.at(0, ys[0])[1], self.at(0, ys[-1])[1], left - 18, ys[-1] - ys[0])

    def bubble(self, x: float, y: float, label: str) -> None:
        self.board.circle(Layer.THIN, x, y, BUBBLE)
        size = 3.5 if width(label, 3.5) < 8 else 2.5
        self.board.text(Text(x, y, label, size, "c"))

    def upright(self, y1: float, y2: float, x: float, value: float) -> None:
        for y in (y1, y2):
            self.board.line(Layer.THIN, x - 0.9, y - 0.9, x + 0.9, y + 0.9)
        self.board.line(Layer.DIMENSION, x, y1, x, y2)
        label, middle = format_length(value, self.units), (y1 + y2) / 2
        shifts = [s * k * 4.0 for k in range(20) for s in (1.0, -1.0)]
        self.board.place(Text(x - 2.2, middle + shift, label, TEXT, "c", 90) for shift in shifts)

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

    def end_on(self, m: Member, filled: bool = True) -> None:
        s = section(m.section)
        frame = work_axes(np.asarray(m.start), np.asarray(m.end), m.roll)
        ring = ring_of(s)
        points = frame.to_model(np.column_stack([np.zeros(len(ring)), ring]))
        self.board.poly(
            Layer.THIN,
            [self.at(float(p[0]), float(p[1])) for p in points],
            closed=True,
            filled=filled and s.form == "I",
        )
        if filled and s.form == "I":  # of what is filled no line says that words would lie on it
            xs, ys = points[:, 0] / self.scale + self.dx, points[:, 1] / self.scale + self.dy
            self.board.keep_clear((float(xs.min()), float(ys.min()), float(xs.max()), float(ys.max())))

    def stick(self, m: Member) -> tuple[np.ndarray, np.ndarray]:
        """The member's line, held clear of its ends so that what frames into what can be seen."""
        a, b = np.array(self.at(*m.start[:2])), np.array(self.at(*m.end[:2]))
        long = float(np.linalg.norm(b - a))
        if long < 1e-6:
            return a, b
        u = (b - a) / long
        clear = min(4.0, long * 0.1)
        p, q = a + u * clear, b - u * clear
        self.board.line(Layer.STICK, *p.tolist(), *q.tolist())
        return p, q

    def along(
        self, key: str, words: str, a: np.ndarray, b: np.ndarray, share: float, off: float, height: float = TEXT
    ) -> None:
        """A text along a member, `share` of the way from its left end."""
        d = b - a
        long = float(np.linalg.norm(d))
        if long < 1e-6:
            return
        u = d / long
        angle = math.degrees(math.atan2(u[1], u[0]))
        flipped = angle > 90.01 or angle <= -89.99
        shown = angle + 180 if flipped else angle
        n = np.array([-u[1], u[0]]) * (-1 if flipped else 1)
        first, last = _MIDDLE if share else (min(0.1, _HOME / long), _LEFT)
        (hx, hy), (gx, gy) = (a + first * d).tolist(), (a + last * d).tolist()
        self.homes[key] = hx, hy, gx, gy
        half = width(words, height) / 2
        (ax, ay), (ux, uy), (nx, ny) = a.tolist(), u.tolist(), n.tolist()

        def candidates() -> Iterator[Text]:
            for far in (0, 1, None, 2, 3, 5, 8, 12, 18, 26, 36, 50, 70, 90, 120):
                for side in (1.0, -1.0) if far is not None else (0.0,):  # on its own line, which is parted there
                    for t in _SHIFTS:
                        on, out = long * share + half + 2 + t, (abs(off) + (far or 0)) * side * math.copysign(1.0, off)
                        yield Text(ax + ux * on + nx * out, ay + uy * on + ny * out, words, height, "c", shown)

        self.say(key, candidates())


def _holds(room: Box, box: Box) -> bool:
    return room[0] <= box[0] and room[1] <= box[1] and box[2] <= room[2] and box[3] <= room[3]


def _away(box: Box, at: tuple[float, float]) -> float:
    """How far a place is from a box."""
    x0, y0, x1, y1 = box
    return math.hypot(max(x0 - at[0], 0.0, at[0] - x1), max(y0 - at[1], 0.0, at[1] - y1))


def beside_column(mark: str, x: float, y: float, d: float, height: float = 3.0) -> Iterator[Text]:
    for out in range(1, 60):
        for sx, sy in ((1, 1), (-1, 1), (1, -1), (-1, -1)):
            yield Text(
                x + sx * (d / 2 + 0.8 * out), y + sy * (d / 2 + 1.2 * out + 0.6), mark, height, "l" if sx > 0 else "r"
            )
