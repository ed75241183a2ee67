"""What lies where on a sheet: boxes and lines kept by the squares of paper they touch, so that asking about a place
looks at the few that are there, however full the sheet."""

from __future__ import annotations

from math import floor

import numpy as np
from numpy.typing import NDArray

from uncus.draw.lettering import Box

Segment = tuple[float, float, float, float]

_SIDE = 10.0  # mm of a square: a text lies on two or three
_ROW = 1 << 20
_WIDE = 64  # squares under one box, beyond which it is looked at wherever one asks
_FLAT = 1e-9
_HAIR = 1e-6  # mm that a line's squares reach beyond it
_MANY = 20  # lines near another, beyond which they are held against it all together
_INNER = 0.01, 0.99  # shares of a line between which another crosses it: touching at an end is none


def passes(line: Segment, box: Box) -> bool:
    """Whether a line passes through a box (Liang and Barsky's clipping); along its edge is not through it."""
    x1, y1, x2, y2 = line
    left, lower, right, upper = box
    if (x1 <= left and x2 <= left) or (x1 >= right and x2 >= right):
        return False
    if (y1 <= lower and y2 <= lower) or (y1 >= upper and y2 >= upper):
        return False
    low, high = 0.0, 1.0
    for start, run, near, far in ((x1, x2 - x1, left, right), (y1, y2 - y1, lower, upper)):
        if -_FLAT < run < _FLAT:
            if start <= near or start >= far:
                return False
            continue
        t1, t2 = (near - start) / run, (far - start) / run
        if t1 > t2:
            t1, t2 = t2, t1
        if t1 > low:
            low = t1
        if t2 < high:
            high = t2
    return low < high


def crosses(row: Segment, line: Segment) -> bool:
    """Whether two lines cross, touching at an end apart."""
    x1, y1, x2, y2 = line
    dx, dy = x2 - x1, y2 - y1
    ex, ey = row[2] - row[0], row[3] - row[1]
    size = dx * ey - dy * ex
    if abs(size) <= _FLAT:
        return False
    ax, ay = row[0] - x1, row[1] - y1
    low, high = _INNER
    return low < (ax * ey - ay * ex) / size < high and low < (ax * dy - ay * dx) / size < high


def meet(a: Box, b: Box) -> bool:
    """Whether two boxes share more than an edge."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def _under(box: Box) -> list[int]:
    """The squares a box touches."""
    left, low = floor(box[0] / _SIDE) * _ROW, floor(box[1] / _SIDE)
    right, high = floor(box[2] / _SIDE) * _ROW, floor(box[3] / _SIDE)
    if left == right:
        return [left + low] if low == high else [left + y for y in range(low, high + 1)]
    if low == high:
        return [x + low for x in range(left, right + 1, _ROW)]
    return [x + y for x in range(left, right + 1, _ROW) for y in range(low, high + 1)]


def _along(line: Segment) -> list[int]:
    """The squares a line touches, with those a hair beside it."""
    x1, y1, x2, y2 = line if line[0] <= line[2] else (line[2], line[3], line[0], line[1])
    around = x1 - _HAIR, min(y1, y2) - _HAIR, x2 + _HAIR, max(y1, y2) + _HAIR
    if around[2] - around[0] < _SIDE or around[3] - around[1] < _SIDE:
        return _under(around)
    slope, found = (y2 - y1) / (x2 - x1), []
    for x in range(floor(around[0] / _SIDE), floor(around[2] / _SIDE) + 1):
        left, right = max(x * _SIDE, x1), min((x + 1) * _SIDE, x2)
        a, b = sorted((y1 + (left - x1) * slope, y1 + (right - x1) * slope))
        found += [x * _ROW + y for y in range(floor((a - _HAIR) / _SIDE), floor((b + _HAIR) / _SIDE) + 1)]
    return found


class Boxes:
    """Boxes of a sheet."""

    def __init__(self) -> None:
        self._rows: list[Box] = []
        self._at: dict[int, list[int]] = {}
        self._wide: list[int] = []

    def __len__(self) -> int:
        return len(self._rows)

    def since(self, number: int) -> list[Box]:
        """Those after so many."""
        return self._rows[number:]

    def copy(self) -> Boxes:
        made = Boxes()
        made._rows, made._wide = self._rows.copy(), self._wide.copy()
        made._at = {square: some.copy() for square, some in self._at.items()}
        return made

    def add(self, box: Box) -> None:
        own = len(self._rows)
        self._rows.append(box)
        if (box[2] - box[0]) * (box[3] - box[1]) > _WIDE * _SIDE * _SIDE:
            self._wide.append(own)
            return
        for square in _under(box):
            self._at.setdefault(square, []).append(own)

    def meets(self, box: Box) -> bool:
        """Whether any lies under a box."""
        x1, y1, x2, y2 = box
        rows, at = self._rows, self._at
        for square in _under(box):
            for n in at.get(square, ()):
                a = rows[n]
                if a[0] < x2 and x1 < a[2] and a[1] < y2 and y1 < a[3]:
                    return True
        return any(meet(rows[n], box) for n in self._wide)

    def on(self, line: Segment) -> int:
        """How many a line passes through."""
        near = {n for square in _along(line) for n in self._at.get(square, ())}
        return sum(passes(line, self._rows[n]) for n in (*near, *self._wide))


class Lines:
    """Lines of a sheet."""

    def __init__(self) -> None:
        self._rows: list[Segment] = []
        self._at: dict[int, list[int]] = {}
        self._known: NDArray[np.float64] = np.zeros((0, 4))  # the rows, as far as they were asked for together
        self._told: dict[Segment, int] = {}  # how many lines asked about before cross, shared by copies till one grows

    def copy(self) -> Lines:
        made = Lines()
        made._known, made._told = self._known, self._told
        made._rows = self._rows.copy()
        made._at = {square: some.copy() for square, some in self._at.items()}
        return made

    def add(self, line: Segment) -> None:
        own = len(self._rows)
        self._rows.append(line)
        if self._told:
            self._told = {}
        for square in _along(line):
            self._at.setdefault(square, []).append(own)

    def through(self, box: Box, most: int = 1) -> int:
        """How many pass through a box, `most` at most."""
        seen: set[int] = set()
        rows, at, found = self._rows, self._at, 0
        for square in _under(box):
            for n in at.get(square, ()):
                if n not in seen:
                    seen.add(n)
                    if passes(rows[n], box):
                        found += 1
                        if found == most:
                            return found
        return found

    def across(self, line: Segment) -> int:
        """How many a line crosses."""
        found = self._told.get(line)
        if found is None:
            found = self._told[line] = self._across(line)
        return found

    def _across(self, line: Segment) -> int:
        near = {n for square in _along(line) for n in self._at.get(square, ())}
        if len(near) < _MANY:
            return sum(crosses(self._rows[n], line) for n in near)
        return _crossed(self._table()[list(near)], line)

    def _table(self) -> NDArray[np.float64]:
        if len(self._known) != len(self._rows):
            self._known = np.array(self._rows, dtype=np.float64).reshape(-1, 4)
        return self._known


def _crossed(rows: NDArray[np.float64], line: Segment) -> int:
    """Of many lines how many cross one, as `crosses`."""
    x1, y1, x2, y2 = line
    dx, dy = x2 - x1, y2 - y1
    ex, ey = rows[:, 2] - rows[:, 0], rows[:, 3] - rows[:, 1]
    size = dx * ey - dy * ex
    ax, ay = rows[:, 0] - x1, rows[:, 1] - y1
    low, high = _INNER
    with np.errstate(divide="ignore", invalid="ignore"):
        t, u = (ax * ey - ay * ex) / size, (ax * dy - ay * dx) / size
    return int(((np.abs(size) > _FLAT) & (low < t) & (t < high) & (low < u) & (u < high)).sum())
