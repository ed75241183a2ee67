"""Schedules on sheets: a table in as many columns side by side as the paper takes, and the columns of a building by
grid and level."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise

import msgspec

from uncus.draw.board import Board
from uncus.draw.border import named, notes, revisions
from uncus.draw.dimension import TEXT
from uncus.draw.erection import ErectionJob
from uncus.draw.lettering import shortened, width
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.draw.template import LARGE, SMALL, Template, fill, template
from uncus.units import format_elevation

_STEP = 4.8  # mm of paper from row to row
_APART = 10.0  # and between tables side by side
_TOP, _LEAST = 6.0, 4  # mm of paper over the first, and rows of a table that are kept together at least
_TITLE = 3.5
_FEW = 2  # sheets of the smaller paper, more than which the larger is taken
_STRIP = 30.0  # mm of paper that a column takes at least
_LEVELS = 26.0  # and the names of the levels
_ROW = 24.0  # mm of paper from level to level
_OVER, _UNDER = 28.0, 16.0  # mm of paper over the highest level and under the lowest
_PLACED = 4  # rows of places over a strip at most


class Table(msgspec.Struct, frozen=True):
    """Rows of words under a title and their heads; `aligned`: l or r a column. A row whose first cell is empty goes on
    from the one above."""

    title: str
    heads: tuple[str, ...]
    aligned: str
    rows: tuple[tuple[str, ...], ...]


class Length(msgspec.Struct, frozen=True):
    """A length of a column: its section, foot and top (mm)."""

    section: str
    base: float
    top: float


class Shaft(msgspec.Struct, frozen=True):
    """Columns alike, of lengths that stand over one another: where each is by the grid with its marks, the lengths from
    the lowest, and the kind of base with the underside of its plate."""

    places: tuple[str, ...]
    lengths: tuple[Length, ...]
    base: str = ""
    under: float = 0.0


class ScheduleJob(ErectionJob, frozen=True, kw_only=True):
    """All a worker needs to draw a schedule: tables, or shafts at levels (name, height)."""

    title: str
    tables: tuple[Table, ...] = ()
    shafts: tuple[Shaft, ...] = ()
    levels: tuple[tuple[str, float], ...] = ()
    says: tuple[str, ...] = ()


def draw(job: ScheduleJob) -> tuple[Sheet, ...]:
    """The schedule's sheets, on the smaller paper where that takes few."""
    small, large = template(SMALL[job.units]), template(LARGE[job.units])
    return min((found for paper in (small, large) if (found := _on(job, paper)) and len(found) <= _FEW), key=len,
        default=_on(job, large))  # fmt: skip


def _on(job: ScheduleJob, paper: Template) -> tuple[Sheet, ...]:
    boards = list(_tables(job.tables, paper) if job.tables else _strips(job, paper))
    found = []
    for number, drawn in enumerate(boards, 1):
        board = Board()
        fill(board, paper, {**named(job.name, job.hand, job.on), "project": f"{job.project}   {job.number}",
            "sheet": f"{number} OF {len(boards)}", "line 1": job.title, "scale": "", "paper": paper.name})  # fmt: skip
        low = revisions(board, paper.column, job.hand.revisions if job.hand else ())
        notes(board, paper.column, list(job.says), paper.column[3], low + 2)
        name = job.name if len(boards) == 1 else f"{job.name} ({number})"
        items, spots = (*board.items, *drawn.items), (*board.spots, *drawn.spots)
        found.append(Sheet(name, job.title, "erection", paper.width, paper.height, 1.0, items, job.content, spots,
            (), (), number, len(boards)))  # fmt: skip
    return tuple(found)


# -- tables ---------------------------------------------------------------------------------------------
def _tables(tables: Sequence[Table], paper: Template) -> Iterator[Board]:
    """Tables under one another, and side by side where that is not enough."""
    left, low, right, high = paper.drawing
    board, x, y, widest = Board(), left, high - _TOP, 0.0
    for table in tables:
        widths = _widths(table, right - left)
        wide, rows = sum(widths), table.rows
        while True:
            room = int((y - low) / _STEP) - 3
            if room >= min(_LEAST, len(rows)):
                own, rows = rows[:room], rows[room:]
                _table(board, table, own, widths, (x, y))
                y, widest = y - _STEP * (len(own) + 4), max(widest, wide)
                if not rows:
                    break
            x, y, widest = x + widest + _APART, high - _TOP, 0.0
            if x + wide > right + 0.1:
                yield board
                board, x = Board(), left
    yield board


def _widths(table: Table, room: float) -> list[float]:
    widths = [max(width(row[i], TEXT, True) for row in (table.heads, *table.rows)) + 4.0
        for i in range(len(table.heads))]  # fmt: skip
    return [w / max(1.0, sum(widths) / room) for w in widths]


def _table(
    board: Board, table: Table, rows: Sequence[tuple[str, ...]], widths: Sequence[float], at: tuple[float, float]
) -> None:
    x0, y = at
    lefts = [x0 + sum(widths[:i]) for i in range(len(widths))]
    board.text(Text(x0, y, table.title, _TITLE))
    y -= _STEP * 1.5
    for n, row in enumerate((table.heads, *rows)):
        since = len(board.items)
        for i, cell in enumerate(row):
            right = table.aligned[i] == "r"
            words = shortened(cell, TEXT, widths[i] - (4.2 if right else 0.8)) if cell else ""
            if words:
                x = lefts[i] + (widths[i] - 4.0 if right else 0.0)
                board.text(Text(x, y, words, TEXT, table.aligned[i], narrow=True))
        if n:
            board.spot(f"schedule|{table.title} {' '.join(row)}", since, "bill")
        line = y - _STEP / 2
        board.line(Layer.OUTLINE if n == 0 else Layer.THIN, x0, line, x0 + sum(widths), line)
        y -= _STEP


# -- columns by grid and level --------------------------------------------------------------------------
def _strips(job: ScheduleJob, paper: Template) -> Iterator[Board]:
    """Shafts beside one another, levels across them from the lowest up."""
    left, low, right, high = paper.drawing
    rows = max(1, len(job.levels))
    tall = _OVER + _UNDER + (rows - 1) * _ROW
    squeeze = min(1.0, (high - low) / tall)
    tall *= squeeze
    bands = max(1, int((high - low) / tall))
    page: list[tuple[Shaft, float, float]] = []
    band, x = 0, left + _LEVELS
    for shaft in job.shafts:
        wide = _wide(shaft)
        if x + wide > right and x > left + _LEVELS:
            band, x = band + 1, left + _LEVELS
        if band == bands:
            yield _bands(job, paper, page, tall, squeeze)
            page, band = [], 0
        page.append((shaft, x, high - band * tall))
        x += wide
    yield _bands(job, paper, page, tall, squeeze)


def _wide(shaft: Shaft) -> float:
    """What a shaft's strip takes: the places it is at in rows of a few."""
    return max(_STRIP, *(width(words, TEXT, True) + 6.0 for words in _placed(shaft)))


def _placed(shaft: Shaft) -> list[str]:
    each = math.ceil(len(shaft.places) / _PLACED)
    return ["   ".join(shaft.places[n : n + each]) for n in range(0, len(shaft.places), each)] or [""]


def _bands(
    job: ScheduleJob, paper: Template, page: Sequence[tuple[Shaft, float, float]], tall: float, squeeze: float
) -> Board:
    board = Board()
    left = paper.drawing[0]
    for top in dict.fromkeys(top for _, _, top in page):
        own = [(shaft, x) for shaft, x, at in page if at == top]
        right = max(x + _wide(shaft) for shaft, x in own)
        heights = [z for _, z in job.levels] or [0.0]
        places = [top - _OVER * squeeze - (len(heights) - 1 - n) * _ROW * squeeze for n in range(len(heights))]
        for (name, z), y in zip(job.levels, places, strict=False):
            board.line(Layer.CENTRE, left, y, right, y)
            room = _LEVELS - 2.0
            board.text(Text(left, y + 2.0, shortened(name.upper(), TEXT, room), TEXT, narrow=True))
            board.text(Text(left, y - 2.2, format_elevation(z, job.units), 1.8, narrow=True))
        for shaft, x in own:
            _shaft(board, job, shaft, x, top, heights, places)
        board.line(Layer.OUTLINE, left, top - tall + 1.0, right, top - tall + 1.0)
    return board


def _shaft(
    board: Board,
    job: ScheduleJob,
    shaft: Shaft,
    x: float,
    top: float,
    heights: Sequence[float],
    places: Sequence[float],
) -> None:
    """One strip: where the columns are, their lengths as lines with section and marks beside, heights at ends and
    splices, the base under them."""
    since, middle = len(board.items), x + 7.0
    for n, words in enumerate(_placed(shaft)):
        board.text(Text(x + 1.0, top - 3.0 - 3.4 * n, words, TEXT, narrow=True))
    ends: list[float] = []
    for length in shaft.lengths:
        foot, head = _at(length.base, heights, places), _at(length.top, heights, places)
        foot, head = (foot, head) if head - foot > 1.0 else (foot, foot + 1.0)
        board.line(Layer.STICK, middle, foot + 0.4, middle, head - 0.4)
        rows = [foot, *(y for y in places if foot < y < head), head]
        low, high = max(pairwise(rows), key=lambda step: step[1] - step[0])
        board.text(Text(middle + 2.6, (low + high) / 2, length.section, TEXT, "c", 90.0, narrow=True))
        ends += [length.base, length.top]
    for z in sorted({round(z, 1) for z in ends}):
        y = _at(z, heights, places)
        board.line(Layer.THIN, middle - 1.5, y, middle + 1.5, y)
        if all(abs(z - level) > 1.0 for level in heights):
            board.place(Text(middle + 5.0, y + off, format_elevation(z, job.units), 1.8, "l", narrow=True)
                for off in (1.4, -1.4, *(s * k * 2.4 for k in range(2, 9) for s in (1, -1))))  # fmt: skip
    if shaft.base:
        y = _at(shaft.lengths[0].base, heights, places) - 4.0
        board.text(Text(x + 1.0, y, f"{shaft.base}  {format_elevation(shaft.under, job.units)}", TEXT, narrow=True))
    board.spot(f"shaft|{' '.join(shaft.places)} {shaft.lengths[0].base:g}", since, "bill")


def _at(z: float, heights: Sequence[float], places: Sequence[float]) -> float:
    """Where a height is between the rows of the levels: on a level at its row, else in between by its share; past them
    by the first or last step's measure, kept in reach."""
    for (a, b), (p, q) in zip(pairwise(heights), pairwise(places), strict=True):
        if a <= z <= b:
            return p + (q - p) * (z - a) / max(b - a, 1e-9)
    if z < heights[0]:
        return places[0] - min(6.0, (heights[0] - z) / 300.0)
    return places[-1] + min(8.0, 1.0 + (z - heights[-1]) / 300.0) if z > heights[-1] else places[-1]
