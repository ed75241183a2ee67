"""North and the scale bar of a view."""

from __future__ import annotations

import math

from uncus.draw.board import Board
from uncus.draw.sheet import Layer, Text
from uncus.units import Units, format_length

TALL = 14.0  # mm of paper that both take, side by side
_RADIUS = 4.0
_LONG = (28.0, 62.0)  # mm of paper of a scale bar
_HIGH = 1.4
_FOOT = 304.8
_ROUND = {Units.IMPERIAL: tuple(n * _FOOT for n in (1, 2, 4, 5, 8, 10, 20, 40, 50, 80, 100, 200, 400)),
    Units.METRIC: (200.0, 500.0, 1e3, 2e3, 4e3, 5e3, 1e4, 2e4, 4e4, 5e4, 1e5, 2e5)}  # fmt: skip
_PARTS = 4


def north(board: Board, x: float, y: float, turn: float = 0.0) -> None:
    """An arrow to north about a place of the paper, turned by so many degrees from straight up."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def at(u: float, v: float) -> tuple[float, float]:
        u, v = u * _RADIUS / 6.0, v * _RADIUS / 6.0
        return x + c * u - s * v, y + s * u + c * v

    board.circle(Layer.THIN, x, y, _RADIUS)
    board.poly(Layer.THIN, [at(0, 6), at(-2.2, -4.5), at(0, -3)], closed=True, filled=True)
    board.poly(Layer.THIN, [at(0, 6), at(2.2, -4.5), at(0, -3)], closed=True)
    board.text(Text(*at(0, 9), "N", 2.5, "c"))


def scale_bar(board: Board, x: float, y: float, scale: float, units: Units) -> float:
    """A bar of round length from a place of the paper to the right, and what that is; how long it is on paper. Nothing
    where no round length would be seen well."""
    fits = [mm for mm in _ROUND[units] if _LONG[0] <= mm / scale <= _LONG[1]]
    if not fits:
        return 0.0
    long = fits[0] / scale
    for n in range(_PARTS):
        a, b = x + long * n / _PARTS, x + long * (n + 1) / _PARTS
        board.poly(Layer.THIN, [(a, y), (b, y), (b, y + _HIGH), (a, y + _HIGH)], closed=True, filled=n % 2 == 0)
    for words, at in (("0", x), (format_length(fits[0], units), x + long)):
        board.text(Text(at, y + _HIGH + 2.2, words, 1.8, "c"))
    return long
