"""Lengths cut from stock of several lengths at the least cost, and how far that can be from the least there is.

Gilmore and Gomory, "A Linear Programming Approach to the Cutting-Stock Problem", Operations Research 9 (1961): a linear
program over patterns of a bar, whose prices of lengths make the next pattern a knapsack; then whole bars of the
patterns found, beside a bar after the other filled as well as it can be.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence

import msgspec
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Runs = tuple[tuple[int, int, int], ...]  # which want, how many in a row, how often
_FINE = 0.25  # mm that widths are rounded up to
_LIMITED = 1.0  # the same where pieces of a bar are limited, which takes as many times the work
_DEAR = 1e6  # times the dearest stock: what a length costs that no pattern holds
_SECONDS = 6.0  # for whole bars of the patterns
_ROUNDS = 400
_NONE = 1e-7


class Want(msgspec.Struct, frozen=True):
    """A length (mm, with its kerf) that so many are wanted of. Laid head to tail in a run of `runs` so many take
    `saves` less for each that follows another."""

    width: float
    number: int
    saves: float = 0.0
    runs: tuple[int, ...] = (1,)


class Bar(msgspec.Struct, frozen=True):
    """A stock that can be had: what of it can be used (mm), what it costs, how many there are (None: any)."""

    room: float
    cost: float
    number: int | None = None


class Pattern(msgspec.Struct, frozen=True):
    """What is cut from one bar: of which stock, and how often each run (want, pieces in a row)."""

    stock: int
    runs: Runs

    def made(self, want: int) -> int:
        return sum(row * times for n, row, times in self.runs if n == want)


class Cutting(msgspec.Struct, frozen=True):
    """Patterns and on how many bars each; what they cost, what any cutting costs at least, and how many of each want
    no stock was left for."""

    bars: tuple[tuple[Pattern, int], ...]
    cost: float
    bound: float
    short: tuple[int, ...]


class _Unit(msgspec.Struct, frozen=True):
    want: int
    row: int
    width: int


def cutting(
    wants: Sequence[Want], stock: Sequence[Bar], most: int = 0, stopped: Callable[[], bool] = lambda: False
) -> Cutting:
    """How to cut what is wanted; `most` pieces a bar at most (0: any)."""
    short = [w.number if all(w.width > b.room + _NONE for b in stock) else 0 for w in wants]
    left = [w.number - s for w, s in zip(wants, short, strict=True)]
    if not any(left):
        return Cutting((), 0.0, 0.0, tuple(short))
    knapsack = _Knapsack(wants, stock, most)
    first, missing = _in_turn(knapsack, wants, stock, left)
    left = [number - m for number, m in zip(left, missing, strict=True)]
    if not first:
        return Cutting((), 0.0, 0.0, tuple(s + m for s, m in zip(short, missing, strict=True)))
    bound, found = _priced(knapsack, stock, left, [p for p, _ in first], stopped)
    best = _whole(found, stock, left)
    chosen = best if best is not None and _cost(best, stock) < _cost(first, stock) - _NONE else first
    cost = _cost(chosen, stock)
    return Cutting(tuple(chosen), cost, min(bound, cost), tuple(s + m for s, m in zip(short, missing, strict=True)))


def _cost(bars: Sequence[tuple[Pattern, int]], stock: Sequence[Bar]) -> float:
    return sum(stock[p.stock].cost * n for p, n in bars)


class _Knapsack:
    """The best pattern of each stock for values of the wants."""

    def __init__(self, wants: Sequence[Want], stock: Sequence[Bar], most: int) -> None:
        self.wants = wants
        fewest = min(w.width for w in wants)
        widest = max(b.room for b in stock)
        self.most = most if 0 < most < widest / fewest else 0
        step = _LIMITED if self.most else _FINE
        self.rooms = [int(b.room / step + 1e-6) for b in stock]
        self.units = [
            _Unit(n, row, int(np.ceil((w.width * row - w.saves * (row - 1)) / step - 1e-6)))
            for n, w in enumerate(wants)
            for row in w.runs
        ]

    def best(self, values: Sequence[float], left: Sequence[int]) -> list[tuple[float, Runs]]:
        """For each stock the most that a bar of it is worth, and what lies on it: no more of a want than is `left`."""
        whole = max(self.rooms)
        pieces = self.most or 0
        worth = np.zeros((pieces + 1, whole + 1))
        taken: list[tuple[_Unit, int, NDArray[np.bool_]]] = []
        for unit in self.units:
            value = values[unit.want]
            if value <= _NONE or unit.width > whole:
                continue
            fits = min(whole // unit.width, left[unit.want] // unit.row, (pieces // unit.row) if pieces else whole)
            times = 1
            while fits > 0:
                own = min(times, fits)
                fits -= own
                times *= 2
                taken.append((unit, own, _take(worth, unit, own, value, pieces)))
        return [self._walked(worth, taken, room, pieces) for room in self.rooms]

    def _walked(
        self, worth: Array, taken: list[tuple[_Unit, int, NDArray[np.bool_]]], room: int, pieces: int
    ) -> tuple[float, Runs]:
        """What the best pattern of a room is made of."""
        counts: Counter[tuple[int, int]] = Counter()
        at, deep = room, pieces
        for unit, own, better in reversed(taken):
            if better[deep, at]:
                counts[unit.want, unit.row] += own
                at -= unit.width * own
                deep -= unit.row * own if pieces else 0
        return float(worth[pieces, room]), tuple((n, row, times) for (n, row), times in sorted(counts.items()))


def _take(worth: Array, unit: _Unit, own: int, value: float, pieces: int) -> NDArray[np.bool_]:
    """So many of a unit taken where they are worth it, by room (and pieces so far); in which they were."""
    wide, many = unit.width * own, unit.row * own if pieces else 0
    better = np.zeros(worth.shape, dtype=bool)
    if wide >= worth.shape[1] or many >= worth.shape[0]:
        return better
    lower = worth[: worth.shape[0] - many, : worth.shape[1] - wide] + value * unit.row * own
    upper = worth[many:, wide:]
    better[many:, wide:] = lower > upper + 1e-12
    np.maximum(upper, lower, out=upper)
    return better


def _in_turn(
    knapsack: _Knapsack, wants: Sequence[Want], stock: Sequence[Bar], left: Sequence[int]
) -> tuple[list[tuple[Pattern, int]], list[int]]:
    """A bar after the other, each filled as well as it can be with what is left, the stock that does it at the least
    cost for what lies on it; how many of each want found no stock."""
    left, there = list(left), [b.number for b in stock]
    found: list[tuple[Pattern, int]] = []
    values = [w.width + w.width * w.width / 1e6 for w in wants]  # the long ones first
    while any(left):
        some = knapsack.best(values, left)
        best: tuple[float, Pattern, int] | None = None
        for n, (worth, runs) in enumerate(some):
            if not runs or there[n] == 0:
                continue
            pattern = Pattern(n, runs)
            often = min(left[w] // pattern.made(w) for w in {w for w, _, _ in runs})
            number = there[n]
            often = often if number is None else min(often, number)
            rate = stock[n].cost / worth
            if often and (best is None or rate < best[0] - 1e-12):
                best = rate, pattern, often
        if best is None:
            break
        _, pattern, often = best
        found.append((pattern, often))
        for w in {w for w, _, _ in pattern.runs}:
            left[w] -= pattern.made(w) * often
        number = there[pattern.stock]
        if number is not None:
            there[pattern.stock] = number - often
    return found, left


def _priced(
    knapsack: _Knapsack,
    stock: Sequence[Bar],
    left: Sequence[int],
    patterns: list[Pattern],
    stopped: Callable[[], bool],
) -> tuple[float, list[Pattern]]:
    """The least cost of parts of bars, and all patterns that came up on the way there."""
    from scipy.optimize import linprog

    wanted = [n for n, number in enumerate(left) if number]
    limited = [n for n, b in enumerate(stock) if b.number is not None]
    dear = _DEAR * max(b.cost for b in stock)
    known = set(patterns)
    patterns = list(known)
    bound = 0.0
    any_number = [max(left)] * len(left)
    for _ in range(_ROUNDS):
        if stopped():
            break
        costs = [stock[p.stock].cost for p in patterns] + [dear] * len(wanted)
        rows = np.zeros((len(wanted) + len(limited), len(costs)))
        for column, p in enumerate(patterns):
            for i, w in enumerate(wanted):
                rows[i, column] = -p.made(w)
            for i, s in enumerate(limited):
                rows[len(wanted) + i, column] = p.stock == s
        for i in range(len(wanted)):
            rows[i, len(patterns) + i] = -1.0
        most = [-left[w] for w in wanted] + [stock[s].number for s in limited]
        result = linprog(costs, A_ub=rows, b_ub=most, method="highs")
        if result.status != 0:
            break
        bound = float(result.fun)
        duals = -result.ineqlin.marginals
        values = [0.0] * len(left)
        for i, w in enumerate(wanted):
            values[w] = float(duals[i])
        rents = dict(zip(limited, (-duals[len(wanted) :]).tolist(), strict=True))
        new = []
        for n, (worth, runs) in enumerate(knapsack.best(values, any_number)):
            pattern = Pattern(n, runs)
            if runs and worth > stock[n].cost - rents.get(n, 0.0) + 1e-6 * stock[n].cost and pattern not in known:
                new.append(pattern)
        if not new:
            break
        known.update(new)
        patterns += new
    return bound, patterns


def _whole(patterns: Sequence[Pattern], stock: Sequence[Bar], left: Sequence[int]) -> list[tuple[Pattern, int]] | None:
    """Whole bars of patterns that make all that is wanted, at the least cost; None where that was not found in time."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    wanted = [n for n, number in enumerate(left) if number]
    limited = [n for n, b in enumerate(stock) if b.number is not None]
    made = np.array([[p.made(w) for p in patterns] for w in wanted], dtype=np.float64)
    rules = [LinearConstraint(made, [left[w] for w in wanted], np.inf)]
    if limited:
        used = np.array([[float(p.stock == s) for p in patterns] for s in limited])
        rules.append(LinearConstraint(used, 0, [stock[s].number for s in limited]))
    costs = [stock[p.stock].cost for p in patterns]
    options = {"time_limit": _SECONDS, "mip_rel_gap": 1e-4}
    result = milp(
        costs, constraints=rules, integrality=np.ones(len(patterns)), bounds=Bounds(0, np.inf), options=options
    )
    if result.x is None:
        return None
    bars = [(p, round(n)) for p, n in zip(patterns, result.x, strict=True) if round(n)]
    return _without_extra(bars, left)


def _without_extra(bars: Sequence[tuple[Pattern, int]], left: Sequence[int]) -> list[tuple[Pattern, int]]:
    """The bars without what they make beyond what is wanted."""
    more = [sum(p.made(w) * n for p, n in bars) - number for w, number in enumerate(left)]
    found: Counter[Pattern] = Counter()
    for pattern, times in bars:
        for _ in range(times):
            runs = []
            for w, row, often in pattern.runs:
                while often and more[w] >= row:
                    often, more[w] = often - 1, more[w] - row
                over = more[w] if often and 0 < more[w] < row else 0
                if over:  # a run that is shorter than it was
                    more[w] = 0
                    runs += [(w, row - over, 1)]
                    often -= 1
                if often:
                    runs.append((w, row, often))
            if runs:
                found[Pattern(pattern.stock, tuple(sorted(runs)))] += 1
    return list(found.items())
