"""Dimensions on a board, in paper mm: running, straight, and chains of gages."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

from uncus.draw.annotation import Ray, WeldNote
from uncus.draw.board import Board, leader_start, spread
from uncus.draw.lettering import box_of, width
from uncus.draw.sheet import Layer, Text
from uncus.units import Units, chain, format_length

TEXT = 2.5
_APART = 3.6
_TICK = 0.9


def tick(board: Board, x: float, y: float) -> None:
    board.line(Layer.THIN, x - _TICK, y - _TICK, x + _TICK, y + _TICK)


def running(
    board: Board,
    start: float,
    stops: Sequence[tuple[float, float]],
    foot: float,
    y: float,
    units: Units,
    past: Sequence[float] = (),
) -> float:
    """Running dimensions from `start` (paper x) to stops of (paper x, true mm), extension lines from `foot` to the
    line at `y`, figures standing beyond it, below or above, clear of lines that run `past` at some x. Returns the
    farthest y used."""
    stops = sorted(stops)
    if not stops:
        return y
    way = -1.0 if y < foot else 1.0
    board.line(Layer.DIMENSION, min(start, stops[0][0]), y, max(start, stops[-1][0]), y)
    board.circle(Layer.DIMENSION, start, y, 0.8)
    labels = [format_length(value, units) for _, value in stops]
    places = _between([x for x, _ in stops], past)
    farthest = y
    for (x, _), at, label in zip(stops, places, labels, strict=True):
        for a, b in _broken(board, x, foot + way, y + way, upright=True):
            board.line(Layer.DIMENSION, x, a, x, b)
        tick(board, x, y)
        board.line(Layer.DIMENSION, x, y + way, at, y + way * 4)
        long = width(label, TEXT)
        board.text(Text(at, y + way * 4.8, label, TEXT, "r" if way < 0 else "l", 90))
        end = y + way * (5 + long)
        farthest = min(farthest, end) if way < 0 else max(farthest, end)
    return farthest


def _between(xs: Sequence[float], past: Sequence[float]) -> list[float]:
    """Places of standing figures, apart from one another and from the lines that run past."""
    both = sorted([(x, 0) for x in xs] + [(x, 1) for x in past])
    placed = spread([x for x, _ in both], _APART, [1e6 if line else 1.0 for _, line in both])
    return [at for at, (_, line) in zip(placed, both, strict=True) if not line]


def steps(
    board: Board,
    xs: Sequence[float],
    values: Sequence[float],
    feet: Sequence[float],
    y: float,
    units: Units,
    words: str = "",
) -> None:
    """A chain along x at paper `y` through paper `xs` whose true positions are `values`, each with its own foot; the
    figures add up as printed."""
    for n, (size, foot) in enumerate(zip(chain(list(values), units), feet, strict=False)):
        straight(board, xs[n], xs[n + 1], (foot, feet[n + 1]), y, size, units, words)


def aligned(board: Board, a: tuple[float, float], b: tuple[float, float], off: float, label: str) -> None:
    """One dimension straight from a to b (paper), its line `off` mm to the left of that way."""
    long = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / long, (b[1] - a[1]) / long
    nx, ny = -uy * off, ux * off
    for x, y in (a, b):
        board.line(Layer.DIMENSION, x, y, x + nx * 1.2, y + ny * 1.2)
    (x1, y1), (x2, y2) = (a[0] + nx, a[1] + ny), (b[0] + nx, b[1] + ny)
    board.line(Layer.DIMENSION, x1, y1, x2, y2)
    for x, y in ((x1, y1), (x2, y2)):
        board.line(Layer.THIN, x - _TICK, y - _TICK, x + _TICK, y + _TICK)
    turn = math.degrees(math.atan2(uy, ux))
    turn = turn - 180 if turn > 90.01 else turn + 180 if turn < -89.99 else turn
    side = math.copysign(1.0, off)
    half = width(label, TEXT) / 2

    def candidates() -> Iterator[Text]:
        for out in range(40):
            for along in (0.0, long / 2 + half + 2, -long / 2 - half - 2):
                far = side * (2.2 + 2.0 * out)
                x, y = (x1 + x2) / 2 + ux * along - uy * far, (y1 + y2) / 2 + uy * along + ux * far
                yield Text(x, y, label, TEXT, "c", turn)

    board.place(candidates())


def level_line(board: Board, x: float, foot: float, head: float, words: str) -> None:
    """A level across an upright piece that lies along x, its name beyond the view."""
    board.line(Layer.CENTRE, x, foot - 3, x, head + 4)
    board.place(
        Text(x + shift, head + 4.5 + out, words, TEXT, "l", 90) for out in range(60) for shift in (0.0, 3.6, -3.6)
    )


def ray(board: Board, middle: tuple[float, float], one: Ray, out: float, moved: float) -> None:
    """A centre line from the middle at an angle to past `out` mm of paper, its words standing beyond it."""
    c, s = math.cos(math.radians(one.turn)), math.sin(math.radians(one.turn))
    end = out + 3.0 + moved
    board.line(Layer.CENTRE, *middle, middle[0] + end * c, middle[1] + end * s)
    half = width(one.words, TEXT) / 2
    reach = end + 1.5 + abs(c) * half + abs(s) * TEXT / 2 + 4.0 * one.rank
    board.place(
        Text(middle[0] + (reach + 1.5 * k) * c, middle[1] + (reach + 1.5 * k) * s, one.words, TEXT, "c")
        for k in range(80)
    )


def straight(
    board: Board,
    x1: float,
    x2: float,
    foot: float | tuple[float, float],
    y: float,
    value: float,
    units: Units,
    words: str = "",
) -> None:
    """One dimension along x: extension lines from `foot` (or one from each), figure over the line or beside it where
    it is short."""
    label = words + format_length(value, units)
    feet = foot if isinstance(foot, tuple) else (foot, foot)
    way = 1 if y < feet[0] else -1
    for x, from_y in zip((x1, x2), feet, strict=True):
        for a, b in _broken(board, x, from_y - way, y - way, upright=True):
            board.line(Layer.DIMENSION, x, a, x, b)
        tick(board, x, y)
    board.line(Layer.DIMENSION, x1, y, x2, y)
    long, middle = width(label, TEXT), (x1 + x2) / 2
    if long + 2 < x2 - x1:
        first = [Text(middle, y + 2.2, label, TEXT, "c")]
    else:
        first = [Text(x2 + 1.5, y + 2.2, label, TEXT, "l"), Text(x1 - 1.5, y + 2.2, label, TEXT, "r")]
    board.place(_then_away(first, label, middle, y, way))


def _then_away(first: list[Text], label: str, x: float, y: float, way: int) -> Iterator[Text]:
    yield from first
    for step in range(1, 120):
        for shift in (0.0, 8.0, -8.0, 16.0, -16.0):
            yield Text(x + shift, y - way * step * 2.0 + 2.2, label, TEXT, "c")


def gages(
    board: Board,
    ys: Sequence[float],
    values: Sequence[float],
    foot: float,
    x: float,
    units: Units,
    to_edge: bool = False,
) -> float:
    """A chain along y at paper `x` through paper `ys` (falling) whose true places down from a datum are `values`;
    figures beside it, on the side away from the piece. The first step is from an edge, the last to one where
    `to_edge` says so; equal steps between them are gathered as `3 @ 3`. Returns the farthest x used."""
    side = -1.0 if x < foot else 1.0
    for y in ys:
        for a, b in _broken(board, y, foot + side, x + side):
            board.line(Layer.DIMENSION, a, y, b, y)
        tick(board, x, y)
    board.line(Layer.DIMENSION, x, ys[0], x, ys[-1])
    plain = chain(list(values), units)
    last = len(plain) - 1 if to_edge and len(plain) > 1 else len(plain)
    steps = [*((1, s) for s in plain[:1]), *gathered(plain[1:last]), *((1, s) for s in plain[max(last, 1) :])]
    labels, middles, at = [], [], 0
    for count, step in steps:
        words = format_length(step, units)
        labels.append(f"{count} @ {words} = {format_length(count * step, units)}" if count > 1 else words)
        middles.append((ys[at] + ys[at + count]) / 2)
        at += count
    places = spread([-m for m in middles], _APART)
    anchor = "r" if side < 0 else "l"
    far = x
    for label, at_y in zip(labels, places, strict=True):
        text = Text(x + side * 1.4, -at_y, label, TEXT, anchor)
        placed = board.place(_beside(text, side))
        far = min(far, placed.x - width(label, TEXT)) if side < 0 else max(far, placed.x + width(label, TEXT))
    return far


def heights(board: Board, ys: Sequence[float], values: Sequence[float], foot: float, x: float, units: Units) -> float:
    """Running figures up or down a line at paper `x`: each stop's own distance from the datum, which has none, standing
    beside it. Returns the farthest x used."""
    side = -1.0 if x < foot else 1.0
    board.line(Layer.DIMENSION, x, min(ys), x, max(ys))
    datum = min(range(len(ys)), key=lambda n: abs(values[n]))
    board.circle(Layer.DIMENSION, x, ys[datum], 0.8)
    rising = sorted((y, abs(value)) for n, (y, value) in enumerate(zip(ys, values, strict=True)) if n != datum)
    far = x
    for (y, value), at in zip(rising, spread([y for y, _ in rising], _APART), strict=True):
        for a, b in _broken(board, y, foot + side, x + side):
            board.line(Layer.DIMENSION, a, y, b, y)
        tick(board, x, y)
        board.line(Layer.DIMENSION, x + side, y, x + side * 4, at)
        label = format_length(value, units)
        board.text(Text(x + side * 4.8, at, label, TEXT, "r" if side < 0 else "l"))
        far = x + side * max(abs(far - x), 5 + width(label, TEXT))
    return far


def _broken(board: Board, at: float, start: float, end: float, upright: bool = False) -> list[tuple[float, float]]:
    """The stretches of an extension line from `start` to `end` (paper x, or y of an upright one) at the other place,
    left open where a figure that is there lies on it."""
    low, high = min(start, end), max(start, end)
    boxes = (box_of(item) for item in board.items if isinstance(item, Text))
    if upright:
        boxes = ((b[1], b[0], b[3], b[2]) for b in boxes)
    gaps = sorted((b[0] - 0.5, b[2] + 0.5) for b in boxes if b[1] < at < b[3] and low < b[2] and b[0] < high)
    runs, at = [], low
    for left, right in gaps:
        if left > at:
            runs.append((at, left))
        at = max(at, right)
    if at < high:
        runs.append((at, high))
    return runs or [(low, high)]


def _beside(text: Text, side: float) -> Iterator[Text]:
    for step in range(60):
        for up in (0.0, 1.0, -1.0, 1.8, -1.8, 2.6, -2.6, 3.6, -3.6, 4.6, -4.6):
            yield Text(text.x + side * step * 2.0, text.y + up, text.text, text.height, text.anchor)


def gathered(steps: Sequence[float]) -> list[tuple[int, float]]:
    """Runs of equal steps as (count, step)."""
    out: list[tuple[int, float]] = []
    for step in steps:
        if out and abs(out[-1][1] - step) < 0.01:
            out[-1] = (out[-1][0] + 1, step)
        else:
            out.append((1, step))
    return out


def bevel(board: Board, x: float, y: float, slope: float, units: Units, right: bool, degrees: bool = False) -> None:
    """A bevel triangle at an end: 12 along the depth to what it leans; degrees in metric jobs and where they are
    asked."""
    side = 1.0 if right else -1.0
    tall = 9.0
    run = max(1.2, min(9.0, abs(slope) * tall))
    lean = math.copysign(run, slope)
    x0 = x + side * 4 - min(0.0, lean) if side > 0 else x + side * 4 - max(0.0, lean)
    board.poly(Layer.THIN, [(x0, y), (x0, y + tall), (x0 + lean, y + tall)], closed=True)
    if units is Units.IMPERIAL and not degrees:
        away = -1.0 if lean > 0 else 1.0
        texts = [
            (x0 + away * 1.2, y + tall / 2, "12", "r" if away < 0 else "l"),
            (x0 + lean / 2, y + tall + 2.2, format_length(12 * 25.4 * abs(slope), units), "c"),
        ]
    else:
        texts = [(x0 + lean / 2, y + tall + 2.2, f"{math.degrees(math.atan(abs(slope))):.1f}°", "c")]
    for tx, ty, label, anchor in texts:
        board.place(Text(tx, ty + 2.0 * k, label, TEXT, anchor) for k in range(40))


def weld_symbol(board: Board, x: float, y: float, tip_x: float, tip_y: float, weld: WeldNote, units: Units) -> None:
    """A weld symbol with its arrow to the joint. Fillet: its leg to the left of the triangle; groove: a single
    bevel, its tail saying that it goes through (AWS A2.4: the other side above the line; ISO 2553, system A, in
    metric jobs: the dashed line is the other side's, legs are marked z)."""
    metric = units is Units.METRIC
    long = 14.0
    right = tip_x <= x
    end = x + long if right else x - long
    board.line(Layer.LEADER, tip_x, tip_y, x, y)
    _arrow(board, x, y, tip_x, tip_y)
    board.line(Layer.THIN, x, y, end, y)
    if metric and not weld.both:
        for n in range(5):  # the identification line
            x0 = min(x, end) + long * n / 5
            board.line(Layer.THIN, x0, y - 1.0, x0 + long / 8, y - 1.0)
    middle = (x + end) / 2 + 1.5
    size = format_length(weld.size, units)
    arrow_side = 1 if metric else -1  # system A shows the arrow side on the full line, above; AWS below the line
    for sign in (-1, 1) if weld.both else (arrow_side,):
        if weld.groove:
            board.line(Layer.THIN, middle, y, middle, y + sign * 2.8)
            board.line(Layer.THIN, middle, y, middle + 2.4, y + sign * 2.8)
        else:
            board.poly(Layer.THIN, [(middle, y), (middle, y + sign * 2.6), (middle + 2.6, y)], closed=True)
            board.text(Text(middle - 0.8, y + sign * 2.2, f"z{size}" if metric else size, 2.0, "r"))
    if weld.around:
        board.circle(Layer.THIN, x, y, 1.1)
    if weld.field:
        board.line(Layer.THIN, x, y, x, y + 5)
        board.poly(Layer.THIN, [(x, y + 5), (x + 2.5, y + 4.2), (x, y + 3.4)], closed=True, filled=True)
    tail = tail_of(weld)
    if tail:
        way = 1 if right else -1
        board.line(Layer.THIN, end, y, end + way * 1.6, y + 1.6)
        board.line(Layer.THIN, end, y, end + way * 1.6, y - 1.6)
        board.text(Text(end + way * 2.4, y, tail, 2.0, "l" if right else "r"))


def tail_of(weld: WeldNote) -> str:
    return f"CJP {weld.tail}".strip() if weld.groove else weld.tail


def weld_box(x: float, y: float, right: bool, tail: str) -> tuple[float, float, float, float]:
    """The room a weld symbol takes."""
    reach = 14 + 3 + width(tail, 2.0)
    return (x - 2, y - 4, x + reach, y + 5.5) if right else (x - reach, y - 4, x + 2, y + 5.5)


def _arrow(board: Board, x: float, y: float, tip_x: float, tip_y: float) -> None:
    turn = math.atan2(y - tip_y, x - tip_x)
    wing = [(tip_x + 2.2 * math.cos(turn + a), tip_y + 2.2 * math.sin(turn + a)) for a in (-0.2, 0.2)]
    board.poly(Layer.THIN, [(tip_x, tip_y), *wing], closed=True, filled=True)


def leader_to(board: Board, text: Text, tip: tuple[float, float]) -> None:
    """The leader from a text to its tip."""
    x, y = leader_start(text, tip)
    board.line(Layer.LEADER, x, y, *tip)
    _arrow(board, x, y, *tip)
