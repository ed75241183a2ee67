"""What stands beside the views: bill, notes and revisions, in the column of a sheet's template."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.draw.board import Board
from uncus.draw.lettering import Box, shortened, width
from uncus.draw.sheet import Layer, Text
from uncus.job.drawings import Drawing, Revision
from uncus.units import Units, format_length

TEXT = 2.5
_LINE = 4.6


def scale_words(scale: float, units: Units) -> str:
    """A scale as it is written on paper: `1" = 1'-0` or `1:10`."""
    inches = 12 / scale * 32
    if units is Units.METRIC or abs(inches - round(inches)) > 1e-6:
        return f"1:{scale:g}"

    return f"{format_length(304.8 / scale)}\" = 1'-0"


def bill(
    board: Board, column: Box, heads: Sequence[str], rows: Sequence[Sequence[str]], aligned: str, foot: float
) -> tuple[float, list[Sequence[str]]]:
    """The sheet's bill at the top of the column, down to `foot` at most; the y under it and the rows that found no
    room. `aligned`: l or r a column."""
    x, room = column[0], column[2] - column[0]
    top = column[3] - 4
    height = TEXT
    while True:
        widths = [max(width(r[i], height, True) for r in [heads, *rows]) + 2.5 for i in range(len(heads))]
        if sum(widths) <= room or height < 1.9:
            break
        height -= 0.1
    slack = max(0.0, room - sum(widths)) / max(1, len(heads) - 1)
    lefts = [x + sum(widths[:i]) + slack * i for i in range(len(heads))]
    step = height * 1.9
    most = max(1, int((top - foot) / step) - 1)
    shown, left = list(rows[:most]), list(rows[most:])
    for n, row in enumerate([heads, *shown]):
        since = len(board.items)
        y = top - n * step - (1.0 if n else 0.0)
        for i, cell in enumerate(row):
            at = lefts[i] if aligned[i] == "l" else lefts[i] + widths[i] - 2.5
            if cell:
                board.text(Text(at, y, cell, height, aligned[i], narrow=True))
        if n:
            board.spot(f"bill|{row[0] or 'total'}", since, "bill")
    line = top - step * 0.5 - 0.4
    board.line(Layer.THIN, x, line, column[2], line)
    return top - (len(shown) + 1) * step - 1.0, left


def wrapped(lines: Sequence[str], room: float) -> list[str]:
    """Lines broken between words to a width."""
    out = []
    for line in lines:
        row = ""
        for word in line.split():
            if row and width(f"{row} {word}", TEXT) > room:
                out.append(row)
                row = word
            else:
                row = f"{row} {word}".strip()
        out.append(row)
    return [row for row in out if row]


def notes(board: Board, column: Box, lines: Sequence[str], top: float, foot: float) -> list[str]:
    """Notes in the column from `top` down to `foot`; the lines that found no room."""
    y = top - 4
    rows = wrapped(lines, column[2] - column[0])
    for n, row in enumerate(rows):
        if y < foot:
            return rows[n:]
        since = len(board.items)
        board.text(Text(column[0], y, row, TEXT))
        board.spot(f"notes|{row}", since, "notes")
        y -= _LINE
    return []


def named(name: str, hand: Drawing | None, on: str) -> dict[str, str]:
    """A title's fields that tell a sheet's name with its revision, who drew and checked it, and the day it goes out;
    until then that of its last revision."""
    last = hand.revisions[-1] if hand and hand.revisions else None
    return {
        "name": name,
        "drawn": hand.drawn if hand else "",
        "checked": hand.checked if hand else "",
        "date": on or (last.on if last else ""),
        "revision": last.mark if last else "",
    }


def revisions(board: Board, column: Box, made: Sequence[Revision]) -> float:
    """The block of revisions at the foot of the column, the newest lowest; the y over it."""
    if not made:
        return column[1]
    shown = list(made[-6:])
    y = column[1] + 3
    for one in reversed(shown):
        who = f"{one.drawn}/{one.checked}" if one.checked else one.drawn
        long = width(who, 2.0, True)
        words = shortened(one.words, 2.0, column[2] - column[0] - 34 - long)
        board.text(Text(column[0], y, one.mark, 2.5))
        board.text(Text(column[0] + 8, y, one.on, 2.0, narrow=True))
        board.text(Text(column[0] + 26, y, words, 2.0, narrow=True))
        if who:
            board.text(Text(column[2], y, who, 2.0, "r", narrow=True))
        y += 3.8
    board.line(Layer.THIN, column[0], y - 1.2, column[2], y - 1.2)
    board.text(Text(column[0], y + 1.2, "REVISIONS", 2.0))
    board.line(Layer.THIN, column[0], y + 3.2, column[2], y + 3.2)
    return y + 4
