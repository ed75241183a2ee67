"""Lists as they are printed: pages of lines and lettering like any sheet, so that what is seen is what is printed.
Heads stand on every page, groups are added up, pages are counted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import msgspec

from uncus.bill.logo import logo
from uncus.bill.shown import head_words, shown
from uncus.bill.table import Cell, Table, Unit, total
from uncus.draw.board import Board
from uncus.draw.lettering import shortened, width
from uncus.draw.sheet import Layer, Sheet, Text
from uncus.units import Units

_PAPER = {Units.IMPERIAL: (215.9, 279.4), Units.METRIC: (210.0, 297.0)}  # letter, A4
_EDGE, _FOOT = 14.0, 12.0
_LETTERS, _TITLE, _STEP = 2.2, 4.0, 4.6
_BETWEEN = 3.0  # mm between columns
_WIDEST = 70.0  # mm that a column of words takes before it goes on in a further line
_LEAST = 9.0
_LOGO = 40.0, 10.0  # mm wide and high at most
_MOST_LINES = 12  # of one cell


class _Line(msgspec.Struct, frozen=True):
    """A line to be printed: a head of a group, a row's cells line by line, or a sum."""

    cells: tuple[tuple[str, ...], ...] = ()
    words: str = ""
    is_sum: bool = False

    @property
    def lines(self) -> int:
        return max((len(c) for c in self.cells), default=1)


def printed(table: Table, units: Units, project: str, on: str = "") -> tuple[Sheet, ...]:
    """The pages of a list, with its notes under the last row."""
    wide, high = _PAPER[units]
    if table.landscape:
        wide, high = high, wide
    room = wide - 2 * _EDGE
    kinds = [c.unit for c in table.columns]
    texts = [[told(cell, unit, units) for cell, unit in zip(row, kinds, strict=True)] for row in table.rows]
    widths = _widths(table, texts, units, room)
    heads = _heads_of(table, widths, units)
    lines = list(_lines(table, texts, widths, units))
    tall = high - 2 * _EDGE - _FOOT - 16.0 - (max(map(len, heads)) + 0.5) * _STEP
    pages = list(_paged(lines, tall, len(table.notes)))
    return tuple(
        _page(table, page, heads, widths, (wide, high), (project, on), (n, len(pages)))
        for n, page in enumerate(pages, 1)
    )


def _widths(table: Table, texts: Sequence[Sequence[str]], units: Units, room: float) -> list[float]:
    """Of each column, by what it holds; where all take too much, those of words give way."""
    heads = [head_words(c.words, c.unit, units) for c in table.columns]
    sums = [_sum(table, n, units) if c.total else "" for n, c in enumerate(table.columns)]
    wanted = []
    for n, head in enumerate(heads):
        longest = max((width(row[n], _LETTERS, True) for row in (*texts, sums)), default=0.0)
        word = max((width(w, _LETTERS, True) for w in head.split()), default=0.0)
        wanted.append(min(_WIDEST, max(longest, word, _LEAST)) + _BETWEEN)
    soft = sorted(n for n, c in enumerate(table.columns) if c.unit is Unit.TEXT)
    while sum(wanted) > room + 0.01 and any(wanted[n] > 2 * _LEAST for n in soft):
        # the widest give way first, down to the next one
        widest = max(wanted[n] for n in soft)
        most = [n for n in soft if wanted[n] > widest - 0.01]
        below = max((wanted[n] for n in soft if n not in most), default=0.0)
        less = min(widest - max(below, 2 * _LEAST), (sum(wanted) - room) / len(most))
        for n in most:
            wanted[n] -= less
    return [w * min(1.0, room / sum(wanted)) for w in wanted]


def told(cell: Cell, unit: Unit, units: Units) -> str:
    """A cell as it is printed: what is weighed to as many places all down its column."""
    found = shown(cell, unit, units)
    if isinstance(found, str) or unit not in (Unit.WEIGHT, Unit.AREA):
        return str(found)
    return f"{found:,.1f}" if units is Units.IMPERIAL else f"{found:,.2f}"


def _sum(table: Table, column: int, units: Units, first: int = 0, last: int | None = None) -> str:
    return told(total(table, column, first, last), table.columns[column].unit, units)


def _lines(table: Table, texts: Sequence[Sequence[str]], widths: Sequence[float], units: Units) -> Iterator[_Line]:
    adds = any(c.total for c in table.columns)

    def row(n: int) -> _Line:
        return _Line(tuple(tuple(_wrapped(t, w - _BETWEEN)) for t, w in zip(texts[n], widths, strict=True)))

    def sums(first: int, last: int | None, words: str) -> _Line:
        cells = [(_sum(table, n, units, first, last),) if c.total else ("",) for n, c in enumerate(table.columns)]
        return _Line(tuple(cells), words, True)

    for group in table.groups:
        yield _Line(words=group.words or "none")
        yield from (row(n) for n in range(group.first, group.last))
        if adds and group.last - group.first > 1:
            yield sums(group.first, group.last, "")
    if not table.groups:
        yield from (row(n) for n in range(len(table.rows)))
    if adds and table.rows:
        yield sums(0, None, "TOTAL")


def _wrapped(text: str, room: float) -> list[str]:
    """Words in as many lines as they need."""
    if width(text, _LETTERS, True) <= room:
        return [text]
    lines, line = list[str](), ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and width(longer, _LETTERS, True) > room:
            lines.append(line)
            line = word
        else:
            line = longer
    lines = [shortened(one, _LETTERS, room) for one in (*lines, line)]
    return lines if len(lines) <= _MOST_LINES else [*lines[: _MOST_LINES - 1], "..."]


def _paged(lines: Sequence[_Line], room: float, notes: int) -> Iterator[list[_Line]]:
    """Lines a page; a group's head is never the last one, and rows are not parted."""
    page, used = list[_Line](), 0.0
    for n, line in enumerate(lines):
        tall = line.lines * _STEP
        follows = lines[n + 1].lines * _STEP if line.words and not line.is_sum and n + 1 < len(lines) else 0.0
        if page and used + tall + follows > room:
            yield page
            page, used = [], 0.0
        page.append(line)
        used += tall
    if page and notes and used + notes * _STEP > room:
        yield page
        page = []
    yield page


def _page(
    table: Table,
    lines: Sequence[_Line],
    heads: Sequence[Sequence[str]],
    widths: Sequence[float],
    paper: tuple[float, float],
    said: tuple[str, str],
    of: tuple[int, int],
) -> Sheet:
    board = Board()
    (wide, high), (project, on), (number, count) = paper, said, of
    left, right, y = _EDGE, wide - _EDGE, high - _EDGE
    board.text(Text(left, y - _TITLE / 2, shortened(table.title, _TITLE, (right - left) * 0.6), _TITLE))
    if table.logo:
        outlines = logo(table.logo)
        large = min(_LOGO[0], _LOGO[1] / max(max(y for _, y in ring) for ring in outlines))
        across = max(max(x for x, _ in ring) for ring in outlines) * large
        for ring in outlines:
            points = tuple((right - across + px * large, y - 6.0 + py * large) for px, py in ring)
            board.poly(Layer.OUTLINE, points, inked=False)
        right -= across + 4.0
    board.text(Text(right, y - _TITLE / 2, shortened(table.office, 3.0, (right - left) * 0.35), 3.0, "r"))
    right = wide - _EDGE
    under = "   ".join(filter(None, (project, table.heading, on)))
    board.text(Text(left, y - 9.0, shortened(under, 2.5, right - left), 2.5))
    y = _heads(board, table, heads, widths, left, y - 16.0)
    for line in lines:
        y = _put(board, table, line, widths, left, y)
    if number == count:
        for note in table.notes:
            board.text(Text(left, y - _STEP, shortened(note, _LETTERS, right - left), _LETTERS))
            y -= _STEP
    board.line(Layer.THIN, left, _EDGE + 6.0, right, _EDGE + 6.0)
    board.text(Text(left, _EDGE + 2.0, shortened(project, _LETTERS, (right - left) * 0.7), _LETTERS))
    board.text(Text(right, _EDGE + 2.0, f"{number} of {count}", _LETTERS, "r"))
    name = table.name if count == 1 else f"{table.name} ({number})"
    return Sheet(name, table.title, "list", wide, high, 1.0, tuple(board.items), spots=tuple(board.spots),
        number=number, of=count)  # fmt: skip


def _heads_of(table: Table, widths: Sequence[float], units: Units) -> list[list[str]]:
    """Column heads, in as many lines as they need."""
    return [
        _wrapped(head_words(c.words, c.unit, units), w - _BETWEEN) for c, w in zip(table.columns, widths, strict=True)
    ]


def _heads(
    board: Board, table: Table, heads: Sequence[Sequence[str]], widths: Sequence[float], left: float, y: float
) -> float:
    """The heads over a line; where the first row goes."""
    tall = max(map(len, heads))
    x = left
    for head, c, w in zip(heads, table.columns, widths, strict=True):
        for n, words in enumerate(reversed(head)):
            _cell(board, words, c.unit, x, w, y - (tall - 1) * _STEP + n * _STEP)
        x += w
    y -= (tall - 1) * _STEP + _STEP / 2
    board.line(Layer.OUTLINE, left, y, x, y)
    return y - _STEP / 2


def _cell(board: Board, words: str, unit: Unit, x: float, wide: float, y: float) -> None:
    if words:
        right = unit is not Unit.TEXT
        words = shortened(words, _LETTERS, wide - _BETWEEN + 0.5)
        board.text(
            Text(x + (wide - _BETWEEN if right else 0.0), y, words, _LETTERS, "r" if right else "l", narrow=True)
        )


def _put(board: Board, table: Table, line: _Line, widths: Sequence[float], left: float, y: float) -> float:
    """One line; where the next one goes."""
    whole = sum(widths)
    if not line.cells:
        board.text(Text(left, y, shortened(line.words, _LETTERS + 0.3, whole), _LETTERS + 0.3))
        board.line(Layer.THIN, left, y - _STEP / 2, left + whole, y - _STEP / 2)
        return y - _STEP
    if line.is_sum:
        board.line(Layer.OUTLINE if line.words else Layer.THIN, left, y + _STEP / 2, left + whole, y + _STEP / 2)
    x = left
    for n, (cell, w) in enumerate(zip(line.cells, widths, strict=True)):
        for k, words in enumerate(cell):
            _cell(board, line.words if n == 0 and line.is_sum and not words else words, table.columns[n].unit, x, w,
                y - k * _STEP)  # fmt: skip
        x += w
    y -= line.lines * _STEP
    if not line.is_sum:
        board.line(Layer.THIN, left, y + _STEP / 2, left + whole, y + _STEP / 2)
    return y
