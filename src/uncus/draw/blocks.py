"""Blocks of views that belong together, in rows over one another, on as few sheets as they need."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from uncus.draw.board import shifted, united
from uncus.draw.lettering import Box
from uncus.draw.views import Drawn

Placed = tuple[Drawn, float, float]
_GAP = 12.0  # mm of paper between blocks at least
_APART = 25.0  # and between rows of them at most


class Block(msgspec.Struct, frozen=True, eq=False):
    """Views, each with its place from the block's lower left corner, and the room they take."""

    placed: tuple[Placed, ...]
    width: float
    height: float

    @classmethod
    def of(cls, placed: Sequence[Placed]) -> Block:
        x0, y0, x1, y1 = united([shifted(drawn.board.extent(), dx, dy) for drawn, dx, dy in placed])
        return cls(tuple((drawn, dx - x0, dy - y0) for drawn, dx, dy in placed), x1 - x0, y1 - y0)

    def at(self, x: float, y: float) -> list[Placed]:
        return [(drawn, dx + x, dy + y) for drawn, dx, dy in self.placed]


def packed(blocks: Sequence[Block], area: Box) -> list[list[Placed]] | None:
    """Views of each sheet, blocks in their order from the upper left; None where one is larger than the paper."""
    wide, high = area[2] - area[0], area[3] - area[1]
    if any(b.width > wide or b.height > high for b in blocks):
        return None
    rows: list[list[Block]] = []
    for block in blocks:
        if not rows or sum(b.width + _GAP for b in rows[-1]) + block.width > wide:
            rows.append([])
        rows[-1].append(block)
    sheets: list[list[list[Block]]] = []
    for row in rows:
        if not sheets or sum(_tall(r) + _GAP for r in sheets[-1]) + _tall(row) > high:
            sheets.append([])
        sheets[-1].append(row)
    return [_spread(sheet, area) for sheet in sheets]


def _tall(row: Sequence[Block]) -> float:
    return max(b.height for b in row)


def _spread(rows: Sequence[Sequence[Block]], area: Box) -> list[Placed]:
    """Rows from the top, their blocks' heads in line, what room is left spread between."""
    x0, y0, x1, y1 = area
    step = min(_APART, (y1 - y0 - sum(map(_tall, rows))) / (len(rows) + 1))
    placed: list[Placed] = []
    y = y1 - step
    for row in rows:
        gap = (x1 - x0 - sum(b.width for b in row)) / (len(row) + 1)
        x = x0 + gap
        for block in row:
            placed += block.at(x, y - block.height)
            x += block.width + gap
        y -= _tall(row) + step
    return placed
