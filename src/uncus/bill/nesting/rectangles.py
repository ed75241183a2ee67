"""Rectangles on sheets, by the free rectangles that are left (maximal rectangles: J. Jylänki, "A Thousand Ways to Pack
the Bin", 2010), in several orders and by several rules; the way that takes the least sheet is kept."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

Free = tuple[float, float, float, float]  # left, low, right, high
_HAIR = 1e-6


class Spot(NamedTuple):
    """Where a rectangle lies, by its number; whether it is turned by a quarter."""

    number: int
    x: float
    y: float
    turned: bool


Score = Callable[[Free, float, float], tuple[float, float]]


def _short_side(free: Free, wide: float, high: float) -> tuple[float, float]:
    a, b = free[2] - free[0] - wide, free[3] - free[1] - high
    return min(a, b), max(a, b)


def _leftmost(free: Free, wide: float, high: float) -> tuple[float, float]:
    return free[0] + wide, free[1]


def _least_area(free: Free, wide: float, high: float) -> tuple[float, float]:
    return (free[2] - free[0]) * (free[3] - free[1]) - wide * high, min(
        free[2] - free[0] - wide, free[3] - free[1] - high
    )


RULES: tuple[Score, ...] = (_short_side, _leftmost, _least_area)


def orders(sizes: Sequence[tuple[float, float]]) -> Iterator[list[int]]:
    """Orders to try: by area, longer side, sum of sides, width."""
    numbers = range(len(sizes))
    for key in (
        lambda n: -sizes[n][0] * sizes[n][1],
        lambda n: -max(sizes[n]),
        lambda n: -sum(sizes[n]),
        lambda n: (-min(sizes[n]), -max(sizes[n])),
    ):
        yield sorted(numbers, key=key)


def filled(
    sizes: Sequence[tuple[float, float]],
    order: Sequence[int],
    wide: float,
    high: float,
    score: Score,
    turn: bool = True,
) -> list[Spot]:
    """What goes on one sheet of the rectangles in an order, each where the score is least; the rest are left out."""
    free: list[Free] = [(0.0, 0.0, wide, high)]
    found = []
    for number in order:
        w, h = sizes[number]
        best: tuple[tuple[float, float], float, float, bool] | None = None
        for turned in (False, True) if turn and abs(w - h) > _HAIR else (False,):
            a, b = (h, w) if turned else (w, h)
            for f in free:
                if f[2] - f[0] >= a - _HAIR and f[3] - f[1] >= b - _HAIR:
                    said = score(f, a, b)
                    if best is None or said < best[0]:
                        best = said, f[0], f[1], turned
        if best is not None:
            _, x, y, turned = best
            found.append(Spot(number, x, y, turned))
            a, b = (h, w) if turned else (w, h)
            free = _without(free, (x, y, x + a, y + b))
    return found


def _without(free: Sequence[Free], taken: Free) -> list[Free]:
    """The largest free rectangles once one is taken out of them."""
    x0, y0, x1, y1 = taken
    found: list[Free] = []
    for f in free:
        if x0 >= f[2] - _HAIR or x1 <= f[0] + _HAIR or y0 >= f[3] - _HAIR or y1 <= f[1] + _HAIR:
            found.append(f)
            continue
        parts = ((f[0], f[1], x0, f[3]), (x1, f[1], f[2], f[3]), (f[0], f[1], f[2], y0), (f[0], y1, f[2], f[3]))
        found += [p for p in parts if p[2] - p[0] > _HAIR and p[3] - p[1] > _HAIR]
    return [
        f
        for n, f in enumerate(found)
        if not any(_holds(o, f) and (m < n or not _holds(f, o)) for m, o in enumerate(found) if m != n)
    ]


def _holds(a: Free, b: Free) -> bool:
    return a[0] <= b[0] + _HAIR and a[1] <= b[1] + _HAIR and a[2] >= b[2] - _HAIR and a[3] >= b[3] - _HAIR
