"""Paper: sizes, border, title block, bill and notes of a sheet."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from uncus.draw.board import Board
from uncus.draw.lettering import Box, width
from uncus.draw.sheet import Layer, Text
from uncus.units import Units, format_length


class Paper(msgspec.Struct, frozen=True):
    name: str
    width: float
    height: float


SMALL = {Units.IMPERIAL: Paper("11 x 17", 431.8, 279.4), Units.METRIC: Paper("A3", 420.0, 297.0)}
LARGE = {Units.IMPERIAL: Paper("ARCH D", 914.4, 609.6), Units.METRIC: Paper("A1", 841.0, 594.0)}
MARGIN = 8.0
COLUMN = 112.0
_TITLE = 58.0


class Title(msgspec.Struct, frozen=True):
    """What the title block says; `lines` under the name."""

    name: str
    project: str
    number: str
    lines: tuple[str, ...]
    scale: str
    paper: str


def scale_words(scale: float, units: Units) -> str:
    """A scale as it is written on paper: `1" = 1'-0` or `1:10`."""
    inches = 12 / scale * 32
    if units is Units.METRIC or abs(inches - round(inches)) > 1e-6:
        return f"1:{scale:g}"

    return f"{format_length(304.8 / scale)}\" = 1'-0"


def drawing_area(paper: Paper) -> Box:
    """Where views go: left of the column of bill and title."""
    return MARGIN + 4, MARGIN + 4, paper.width - MARGIN - COLUMN - 4, paper.height - MARGIN - 4


def frame(board: Board, paper: Paper, title: Title) -> None:
    """Border and title block."""
    w, h = paper.width, paper.height
    board.poly(
        Layer.BORDER,
        [(MARGIN, MARGIN), (w - MARGIN, MARGIN), (w - MARGIN, h - MARGIN), (MARGIN, h - MARGIN)],
        closed=True,
    )
    x, y = w - MARGIN - COLUMN, MARGIN
    board.poly(Layer.BORDER, [(x, y), (w - MARGIN, y), (w - MARGIN, y + _TITLE), (x, y + _TITLE)], closed=True)
    size = 7.0
    while width(title.name, size) > COLUMN - 8 and size > 3:
        size -= 0.5
    board.text(Text(x + 4, y + _TITLE - 8, title.name, size))
    board.text(_fitted(x + 4, y + _TITLE - 18, f"{title.project}   {title.number}", 3.5))
    for i, line in enumerate(title.lines):
        board.text(_fitted(x + 4, y + _TITLE - 25.5 - 5.2 * i, line, 2.5))
    board.line(Layer.THIN, x, y + 8, w - MARGIN, y + 8)
    board.text(Text(x + 4, y + 4, f"scale {title.scale}", 2.5))
    board.text(Text(w - MARGIN - 4, y + 4, title.paper, 2.5, "r"))


def _fitted(x: float, y: float, text: str, height: float) -> Text:
    """A text made narrow, then shortened, where it would run out of the column."""
    room = COLUMN - 8
    if width(text, height) <= room:
        return Text(x, y, text, height)
    while width(text, height, True) > room and len(text) > 4:
        text = text[:-4] + "..."
    return Text(x, y, text, height, narrow=True)


def bill(board: Board, paper: Paper, heads: Sequence[str], rows: Sequence[Sequence[str]], aligned: str) -> float:
    """The sheet's bill at the top of the column; returns the y under it. `aligned`: l or r a column."""
    x, top = paper.width - MARGIN - COLUMN + 3, paper.height - MARGIN - 5
    room = COLUMN - 6
    height = 2.5
    while True:
        widths = [max(width(r[i], height, True) for r in [heads, *rows]) + 2.5 for i in range(len(heads))]
        if sum(widths) <= room or height < 1.9:
            break
        height -= 0.1
    slack = max(0.0, room - sum(widths)) / max(1, len(heads) - 1)
    lefts = [x + sum(widths[:i]) + slack * i for i in range(len(heads))]
    step = height * 1.9
    for n, row in enumerate([heads, *rows]):
        y = top - n * step - (1.0 if n else 0.0)
        for i, cell in enumerate(row):
            at = lefts[i] if aligned[i] == "l" else lefts[i] + widths[i] - 2.5
            if cell:
                board.text(Text(at, y, cell, height, aligned[i], narrow=True))
    line = top - step * 0.5 - 0.4
    board.line(Layer.THIN, x, line, paper.width - MARGIN - 3, line)
    return top - (len(rows) + 1) * step - 1.0


def notes(board: Board, paper: Paper, lines: Sequence[str], top: float) -> None:
    """Notes in the column, from `top` down, wrapped to its width and never into the title."""
    x, y = paper.width - MARGIN - COLUMN + 3, top - 4
    for line in lines:
        words, row = line.split(), ""
        for word in [*words, ""]:
            if word and width(f"{row} {word}".strip(), 2.5) <= COLUMN - 6:
                row = f"{row} {word}".strip()
                continue
            if row and y > MARGIN + _TITLE + 3:
                board.text(Text(x, y, row, 2.5))
                y -= 4.6
            row = word
