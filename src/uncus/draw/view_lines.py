"""Grid lines and levels of an erector's view: bubbles and tags, dimensions on the sides asked for, and of steel that is
on no line from those next to it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import NamedTuple, Protocol

import numpy as np

from uncus.draw.dimension import TEXT, straight, tick
from uncus.draw.lettering import Box, shortened, width
from uncus.draw.plan import BUBBLE, Plan
from uncus.draw.sheet import Layer, Text
from uncus.draw.sights import Line
from uncus.frame.placement import Vec, unit
from uncus.job.views import Showing
from uncus.units import Units, format_elevation, format_length

_NAME = 45.0  # mm of paper that a level's name may take
_NEAR = 9.0  # mm of paper from a view to a sign at a side where nothing is
BARE = 10.0  # mm of paper that a side takes where nothing stands there
FULL = 42.0  # and with bubbles and dimensions
LEVELS = 32.0  # and with the tags of levels
_OUT = 30.0  # mm of paper from a view to its bubbles
_ASIDE = 16  # places tried for the bubble of a line aslant
_ROWS = (5.0, 12.0)  # mm of paper from a view to its dimensions: from line to line, over all
_ON = 2.0  # mm within which steel is on a line
_TOGETHER = 0.5  # of the shorter one's length that pieces lie beside one another, from which they are in one chain
_AT = 0.22  # of their common length from its start, where their chain lies
_LEAST = 4.0  # mm of paper of a step that is dimensioned
_SAME = 0.8  # mm within which steps are alike


class Lined(Protocol):
    """A view with lines, as far as what stands about it goes."""

    lines: Sequence[Line]

    @property
    def shows(self) -> Showing: ...

    def at(self, x: float, y: float) -> tuple[float, float]: ...


def sides(shows: Showing, crossed: bool) -> tuple[float, float, float, float]:
    """mm of paper that lines take at the left, below, at the right and above a view that they cross."""
    if not crossed:
        return (12.0,) * 4
    return (FULL if shows.left else LEVELS, FULL if shows.below else BARE, FULL + 8.0 if shows.right else LEVELS,
        FULL if shows.above or not shows.below else BARE)  # fmt: skip


def draw(plan: Plan, window: Box, shows: Showing, lines: Sequence[Line]) -> None:
    """Lines that cross a view with all that stands about it."""
    (left, low), (right, high) = plan.at(*window[:2]), plan.at(*window[2:])
    grids = [line for line in lines if line.height is None]
    levels = [line for line in lines if line.height is not None]
    above, at_left = shows.above or not shows.below, shows.left or not shows.right
    rows = _rows([plan.at(*line.a)[0] for line in grids if line.upright])
    for line in grids:
        if line.upright:
            x, _ = plan.at(*line.a)
            out = _OUT + rows[x]
            top, foot = high + (out if above else 6), low - (out if shows.below else 6)
            plan.board.line(Layer.CENTRE, x, foot, x, top)
            for there, y in ((above, top + BUBBLE), (shows.below, foot - BUBBLE)):
                if there:
                    plan.bubble(x, y, line.name)
    rows = _rows([plan.at(*line.a)[1] for line in grids if line.flat])
    for line in grids:
        if line.flat:
            _, y = plan.at(*line.a)
            out = _OUT + rows[y]
            first, last = left - (out if at_left else 6), right + (out if shows.right else 6)
            plan.board.line(Layer.CENTRE, last, y, first, y)
            for there, x in ((at_left, first - BUBBLE), (shows.right, last + BUBBLE)):
                if there:
                    plan.bubble(x, y, line.name)
        elif not line.upright:
            _aslant(plan, line)
    for line in levels:
        _level(plan, line, left, right)
    _steps(plan, grids, levels, (left, low, right, high), shows)


def _rows(places: Sequence[float]) -> dict[float, float]:
    """How much farther out than others the bubbles of lines stand, by where the lines are on paper: those too near to
    one another in rows."""
    last: list[float] = []
    found = {}
    for at in sorted(set(places)):
        row = next((n for n, there in enumerate(last) if at - there >= 2 * BUBBLE), len(last))
        last[row:] = [at, *last[row + 1 :]]
        found[at] = row * (2 * BUBBLE + 1.0)
    return found


def _aslant(plan: Plan, line: Line) -> None:
    """A line aslant in the view, its bubble past its higher end; of one that lies on the ground past its nearer."""
    a, b = np.array(plan.at(*line.a)), np.array(plan.at(*line.b))
    if line.askew:
        a, b = b, a
    on = unit(b - a)
    for out in range(12, 12 * _ASIDE, 12):
        end = b + out * on
        x, y = (end + BUBBLE * on).tolist()
        box = x - BUBBLE, y - BUBBLE, x + BUBBLE, y + BUBBLE
        if plan.board.is_free(box):
            break
    plan.board.line(Layer.CENTRE, *(a - 4.0 * on).tolist(), *end.tolist())
    plan.bubble(x, y, line.name)
    plan.board.keep_clear(box)


def _level(plan: Plan, line: Line, left: float, right: float) -> None:
    """A level with its name over it and its height under it, at the right."""
    _, y = plan.at(*line.a)
    assert line.height is not None
    plan.board.line(Layer.CENTRE, left - 21, y, right + 26, y)
    name = shortened(line.name.upper(), TEXT, _NAME)
    for words, off in ((name, 1.8), (format_elevation(line.height, plan.units), -2.2)):
        ups = [0.0, *(s * k * 1.5 for k in range(1, 12) for s in (1.0, -1.0))]
        plan.board.place(Text(right + 8, y + off + up, words, TEXT, "l") for up in ups)


def _steps(plan: Plan, grids: Sequence[Line], levels: Sequence[Line], room: Box, shows: Showing) -> None:
    left, low, right, high = room
    xs = sorted({line.a[0] for line in grids if line.upright})
    rows = [(0, a, b) for a, b in pairwise(xs)] + ([(1, xs[0], xs[-1])] if shows.overall and len(xs) > 2 else [])
    for row, a, b in rows:
        x1, x2, out = plan.at(a, 0)[0], plan.at(b, 0)[0], _ROWS[row]
        if shows.above:
            straight(plan.board, x1, x2, high + out + 1, high + out + 6, b - a, plan.units)
        if shows.below:
            straight(plan.board, x1, x2, low - out - 1, low - out - 6, b - a, plan.units)
    ys = sorted({line.a[1] for line in levels if line.flat} or {line.a[1] for line in grids if line.flat})
    tags = 26.0 if levels else 0.0  # levels have their tags at the right
    rows = [(0, a, b) for a, b in pairwise(ys)] + ([(1, ys[0], ys[-1])] if shows.overall and len(ys) > 2 else [])
    for row, a, b in rows:
        y1, y2 = plan.at(0, a)[1], plan.at(0, b)[1]
        if shows.left:
            plan.upright(y1, y2, left - 11 - 7 * row, b - a)
        if shows.right:
            plan.upright(y1, y2, right + tags + 13 + 7 * row, b - a)


def clear_of(plan: Lined, end: Vec, way: Vec) -> tuple[float, float]:
    """How far out of a view's edge something stands clear of what its lines have there: past the bubble of a line that
    it is on, else past the dimensions; and how far out a line to it is drawn already."""
    shows, lines = plan.shows, plan.lines
    upright = abs(float(way[1])) > abs(float(way[0]))
    outward = float(way[int(upright)]) > 0
    if upright:
        full = shows.above or not shows.below if outward else shows.below
    else:
        full = shows.right if outward else shows.left or not shows.right
    own = [line for line in lines if line.height is None and (line.upright if upright else line.flat)]
    if not full or not own:
        return _NEAR, 0.0
    axis = 0 if upright else 1
    on_one = any(abs(plan.at(*line.a)[axis] - float(end[axis])) < 1.5 * BUBBLE for line in own)
    return (_OUT + 3 * BUBBLE + 2.0, _OUT + 2 * BUBBLE) if on_one else (_ROWS[1] + BUBBLE + 7.0, 0.0)


# -- off the lines --------------------------------------------------------------------------------------
class Run(NamedTuple):
    """A piece that lies along one of the view's axes: where across, from and to where along it (mm of the view)."""

    at: float
    first: float
    last: float


def off_lines(plan: Plan, lines: Sequence[Line], upright: Sequence[Run], flat: Sequence[Run]) -> None:
    """Chains from line to line of what lies between them, those alike in a bay once."""
    grids = [line for line in lines if line.height is None]
    xs = sorted({line.a[0] for line in grids if line.upright})
    ys = sorted({line.a[1] for line in lines if line.flat})
    for across, runs, to in ((xs, upright, _across), (ys, flat, _up)):
        for a, b in pairwise(across):
            told = set[tuple[int, ...]]()
            for stops, along in _chains(runs, a, b):
                key = tuple(round(step / _SAME) for step in np.diff(stops).tolist())
                if key not in told and min(np.diff(stops)) / plan.scale >= _LEAST:
                    told.add(key)
                    to(plan, stops, along)


def _chains(runs: Sequence[Run], a: float, b: float) -> Iterator[tuple[list[float], float]]:
    """Of the runs between two lines those that lie beside one another: stops from line to line, and where along."""
    rest = sorted(run for run in runs if a + _ON < run.at < b - _ON)
    while rest:
        first, *others = rest
        own = [first, *(run for run in others if _beside(first, run))]
        rest = [run for run in others if not _beside(first, run)]
        start, end = max(r.first for r in own), min(r.last for r in own)
        stops = [a]
        for run in own:
            if run.at - stops[-1] > _ON:
                stops.append(run.at)
        yield [*stops, b], start + _AT * (end - start)


def _beside(one: Run, other: Run) -> bool:
    both = min(one.last, other.last) - max(one.first, other.first)
    return both > _TOGETHER * min(one.last - one.first, other.last - other.first)


def _across(plan: Plan, stops: Sequence[float], along: float) -> None:
    """A chain to the right at a height of the view."""
    places = [plan.at(stop, along) for stop in stops]
    y = places[0][1]
    plan.board.line(Layer.DIMENSION, places[0][0], y, places[-1][0], y)
    for x, _ in places:
        tick(plan.board, x, y)
    for (x1, x2), words in _figures([x for x, _ in places], stops, plan.units):
        ups = (2.2, -2.2, 5.4, -5.4, 8.6, -8.6)
        plan.board.place(Text((x1 + x2) / 2, y + up + k, words, TEXT, "c") for k in range(0, 60, 3) for up in ups)


def _up(plan: Plan, stops: Sequence[float], along: float) -> None:
    """A chain upwards at a place of the view."""
    places = [plan.at(along, stop) for stop in stops]
    x = places[0][0]
    plan.board.line(Layer.DIMENSION, x, places[0][1], x, places[-1][1])
    for _, y in places:
        tick(plan.board, x, y)
    for (y1, y2), words in _figures([y for _, y in places], stops, plan.units):
        asides = (-2.2, 2.2, -5.4, 5.4, -8.6, 8.6)
        plan.board.place(Text(x + aside - k, (y1 + y2) / 2, words, TEXT, "c", 90) for k in range(0, 60, 3)
            for aside in asides)  # fmt: skip


def _figures(
    places: Sequence[float], stops: Sequence[float], units: Units
) -> Iterator[tuple[tuple[float, float], str]]:
    """What is said of a chain, between which places: equal steps together, where that is no longer than they are."""
    steps = np.diff(stops).tolist()
    n = 0
    while n < len(steps):
        m = n
        while m + 1 < len(steps) and abs(steps[m + 1] - steps[n]) <= _SAME:
            m += 1
        number, one = m - n + 1, format_length(steps[n], units)
        words = f"{number} @ {one} = {format_length(stops[m + 1] - stops[n], units)}"
        if number > 1 and width(words, TEXT) < places[m + 1] - places[n]:
            yield (places[n], places[m + 1]), words
        else:
            for k in range(n, m + 1):
                yield (places[k], places[k + 1]), format_length(steps[k], units)
        n = m + 1


def from_lines(lines: Sequence[Line], u: float, v: float, units: Units) -> list[str]:
    """How far a place of a view is from the nearest upright and the nearest flat line, where it is on neither."""
    found = []
    for own, at, axis in (([x for x in lines if x.upright], u, 0), ([x for x in lines if x.flat and x.height is None],
            v, 1)):  # fmt: skip
        if own:
            near = min(own, key=lambda line: abs(line.a[axis] - at))
            if (away := abs(near.a[axis] - at)) > _ON:
                found.append(f"{format_length(away, units)} FROM {near.name}")
    return found


def run_of(a: Vec, b: Vec) -> tuple[bool, Run] | None:
    """Whether a stretch runs up the view (else across it), and how; None for one that runs aslant."""
    d = np.abs(b - a)
    if min(d) > _ON or max(d) < 10 * _ON:
        return None
    upright = bool(d[0] < d[1])
    along, across = (1, 0) if upright else (0, 1)
    first, last = sorted((float(a[along]), float(b[along])))
    return upright, Run(float(a[across] + b[across]) / 2, first, last)
