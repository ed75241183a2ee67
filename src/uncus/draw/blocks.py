"""One view of a piece with its dimensions and labels, on a board of its own."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

import numpy as np

from uncus.draw.board import Board
from uncus.draw.breaks import Shortening
from uncus.draw.dimension import TEXT, bevel, gages, leader, running, straight, weld_box, weld_symbol
from uncus.draw.lettering import width
from uncus.draw.notches import noted
from uncus.draw.projection import Ring, View, axes_of, project
from uncus.draw.sheet import Layer, Text
from uncus.draw.subject import Fixed, Section, Subject
from uncus.steel.part import Part
from uncus.units import Units, format_length, sixteenths


class Canvas:
    """Turns a view's mm into paper mm on a board."""

    def __init__(self, view: View, scale: float, short: Shortening, units: Units) -> None:
        self.board = Board()
        self.view = view
        self.scale = scale
        self.short = short
        self.units = units
        self._draw()

    def x(self, u: float) -> float:
        return self.short.u(u) / self.scale

    def y(self, v: float) -> float:
        return v / self.scale

    def _draw(self) -> None:
        view, board = self.view, self.board
        for layer, segments in ((Layer.OUTLINE, view.seen), (Layer.HIDDEN, view.hidden), (Layer.CENTRE, view.marks)):
            for u1, v1, u2, v2 in (
                (self.short.segments(segments) / self.scale).tolist()
                if self.short.stretches
                else (segments / self.scale).tolist()
            ):
                board.line(layer, u1, v1, u2, v2)
        for ring in view.rings:
            self._ring(ring)
        _, low, _, high = view.box
        for start, end in self.short.stretches:
            self._break(self.x(start), self.y(low), self.y(high))
            self._break(self.x(end), self.y(low), self.y(high))

    def _ring(self, ring: Ring) -> None:
        board, x, y, r = self.board, self.x(ring.u), self.y(ring.v), ring.d / 2 / self.scale
        layer = Layer.OUTLINE if ring.seen else Layer.HIDDEN
        reach = max(0.0, ring.slot - ring.d) / 2 / self.scale
        if reach:
            turn = math.radians(ring.angle)
            arc = np.linspace(-math.pi / 2, math.pi / 2, 9)
            points = [
                (
                    x + s * reach * math.cos(turn) + r * math.cos(turn + a + o),
                    y + s * reach * math.sin(turn) + r * math.sin(turn + a + o),
                )
                for s, o in ((1, 0.0), (-1, math.pi))
                for a in arc
            ]
            board.poly(layer, points, closed=True)
        else:
            board.circle(layer, x, y, r)
        for dx, dy in ((1, 0), (0, 1)):
            cross = r + reach + 0.8
            board.line(Layer.CENTRE, x - dx * cross, y - dy * cross, x + dx * cross, y + dy * cross)

    def _break(self, x: float, low: float, high: float) -> None:
        middle, a = (low + high) / 2, 1.2
        points = [
            (x, low - 2),
            (x, middle - 2),
            (x + a, middle - 0.8),
            (x - a, middle + 0.8),
            (x, middle + 2),
            (x, high + 2),
        ]
        self.board.poly(Layer.THIN, points)


def distinct(values: Iterable[float], apart: float = 0.05) -> list[float]:
    """Values in falling order, those nearer than `apart` mm as one; kept exact, since figures are rounded only in print."""
    out: list[float] = []
    for value in sorted(values, reverse=True):
        if not out or out[-1] - value > apart:
            out.append(value)
    return out


# -- the long views -----------------------------------------------------------------------------------
def long_view(
    subject: Subject, name: str, scale: float, short: Shortening, units: Units, labelled: set[object]
) -> Board:
    """Front, top or bottom with its dimensions; `labelled` holds what other views have shown already."""
    view = project(subject.bodies, name)
    canvas = Canvas(view, scale, short, units)
    board = canvas.board
    main, length = subject.main, subject.main.length
    low, high = view.box[1], view.box[3]
    foot, head = canvas.y(low), canvas.y(high)
    if name == "front":
        _depths(canvas, main, labelled)
    stops = _stops(subject, view, name, labelled)
    bottom = running(board, canvas.x(0.0), [(canvas.x(u), u) for u in stops], foot, foot - 7, units)
    if name == "front":
        bottom = min(bottom - 5, foot - 12)
        straight(board, canvas.x(0.0), canvas.x(length), foot, bottom, length, units)
        _copes(canvas, main, head)
        _bevels(canvas, main)
        for one in noted(main, units):
            x, y = canvas.x(one.at[0]), canvas.y(one.at[1])
            leader(board, x, y, _around(one.words, x, y, head if one.at[1] >= 0 else foot, one.at[1] >= 0))
    _labels(canvas, subject, name, head, foot, labelled)
    if name != "front":
        board.place(Text(canvas.x(0.0), head + 6 + 3 * k, f"{name} view".upper(), TEXT) for k in range(60))
    return board


def _stops(subject: Subject, view: View, name: str, dimensioned: set[object]) -> list[float]:
    """Positions along the piece that this view dimensions: holes seen face on, plates that stand across; each once."""
    stops: set[float] = set()
    for ring in view.rings:
        stops.add(ring.u)
    if name == "front":
        for f in subject.fixed:
            if f.normal in ("x", ""):
                at = float(f.box()[0][0])
                if 1.0 < at < subject.main.length - 1.0:
                    stops.add(at)
    fresh: list[float] = []
    flat = "web" if name == "front" else "flange"  # a hole through both flanges is dimensioned in the top view alone
    for u in sorted(stops):
        if ("stop", flat, round(u)) in dimensioned or (fresh and u - fresh[-1] < 0.6):
            continue
        dimensioned.add(("stop", flat, round(u)))
        fresh.append(u)
    return fresh


def _depths(canvas: Canvas, main: Part, done: set[object]) -> None:
    """Gages of the web's holes near each end from the top, and cope depths, at the ends."""
    low, high = main.depth_range
    rings = [(h.x, h.w) for h in main.holes if h.face == "web"]
    length = main.length
    for right in (False, True):
        near = [(x, w) for x, w in rings if (x > length / 2) == right]
        foot = canvas.x(length) if right else canvas.x(0.0)
        side = 1.0 if right else -1.0
        at = foot + side * 7
        columns = {tuple(distinct(w for x, w in near if abs(x - x0) < 1)) for x0, _ in near}
        if columns and all(len(c) == 1 for c in columns):  # a slanting row: one chain down all of its holes
            columns = {tuple(distinct(z for c in columns for z in c))}
        for column in sorted(columns, reverse=True):
            ys = [high, *column]
            if main.is_plate:
                ys.append(low)
            if ("gage", right, column) in done or (right and ("gage", False, column) in done and main.is_plate):
                continue
            done.add(("gage", right, column))
            at = gages(canvas.board, [canvas.y(z) for z in ys], ys, foot, at, canvas.units, main.is_plate) + side * 4
        copes = [c for c in main.copes if c.right == right]
        for cope in copes:
            z = (low, low + cope.depth) if cope.bottom else (high, high - cope.depth)
            falling = sorted(z, reverse=True)
            at = gages(canvas.board, [canvas.y(v) for v in falling], falling, foot, at, canvas.units) + side * 4
    if main.is_plate:
        far = canvas.x(0.0) - 22
        gages(canvas.board, [canvas.y(high), canvas.y(low)], [high, low], canvas.x(0.0), far, canvas.units)


def _copes(canvas: Canvas, main: Part, head: float) -> None:
    foot = canvas.y(main.depth_range[0])
    for cope in main.copes:
        x1, x2 = (main.length - cope.length, main.length) if cope.right else (0.0, cope.length)
        y = foot - 4 if cope.bottom else head + 5
        straight(
            canvas.board,
            canvas.x(x1),
            canvas.x(x2),
            foot if cope.bottom else canvas.y(main.depth_range[1]),
            y,
            cope.length,
            canvas.units,
        )


def _bevels(canvas: Canvas, main: Part) -> None:
    for cut, right in ((main.left, False), (main.right, True)):
        if abs(cut.kz) > 1e-4:
            x = canvas.x(main.length) + 20 if right else canvas.x(0.0) - 20
            bevel(canvas.board, x, canvas.y(main.depth_range[1]) + 6, cut.kz, canvas.units, right)


def _labels(canvas: Canvas, subject: Subject, name: str, head: float, foot: float, labelled: set[object]) -> None:
    """The mark of each fixed part, where it is seen best; a weld symbol once for each mark."""
    axes = axes_of(name)
    board, units = canvas.board, canvas.units
    face_on = {"front": "y", "top": "z", "bottom": "z"}[name]
    for f in subject.fixed:
        here = (round(float(f.centre[0])), round(float(f.centre[1])), round(float(f.centre[2])))
        best = f.normal == face_on or (name == "front" and f.normal in ("x", ""))
        if not best or ("label", f.mark, here) in labelled:
            continue
        labelled.add(("label", f.mark, here))
        u, v, _ = (axes @ f.centre).tolist()
        x, y = canvas.x(u), canvas.y(v)
        words = f.mark + _side(f, name, subject, units)
        above = v >= 0
        leader(board, x, y, _around(words, x, y, head if above else foot, above))
        if f.weld is not None and ("weld", f.mark, f.weld.size) not in labelled:
            labelled.add(("weld", f.mark, f.weld.size))
            _weld(canvas, f, axes, head, foot, above)


def _side(f: Fixed, name: str, subject: Subject, units: Units) -> str:
    """Near or far side, and how far a plate's nearer face lies off the centre line."""
    low, high = f.box()
    axis = {"front": 1, "top": 2, "bottom": 2}[name]
    middle = float(f.centre[axis])
    words = ""
    if (
        name == "front"
        and f.normal == "x"
        and subject.main.section is not None
        and abs(middle) > subject.main.section.tw
    ):
        words = " NS" if middle < 0 else " FS"
    if f.normal in ("y", "z"):
        near = float(min(abs(low[axis]), abs(high[axis]))) if low[axis] * high[axis] > 0 else 0.0
        if sixteenths(near):
            side = ("NS of" if middle < 0 else "FS of") if axis == 1 else ("above" if middle > 0 else "below")
            words = f" {format_length(near, units)} {side} CL"
    return words


def _around(words: str, x: float, y: float, edge: float, above: bool) -> Iterator[Text]:
    """Places for a label: beyond the edge of the view, ever farther out and to either side."""
    way = 1.0 if above else -1.0
    for out in range(1, 40):
        for shift in (3.0, -3.0, 8.0, -8.0, 14.0, -14.0):
            yield Text(x + shift, edge + way * (1.5 + 3.0 * out), words, TEXT, "l" if shift > 0 else "r")


def _weld(canvas: Canvas, f: Fixed, axes: np.ndarray, head: float, foot: float, above: bool) -> None:
    weld, board = f.weld, canvas.board
    assert weld is not None
    low, high = f.box()
    corner = axes @ np.where(np.abs(low) < np.abs(high), low, high)
    tip_x, tip_y = canvas.x(float(corner[0])), canvas.y(float(corner[1]))
    size, tail = format_length(weld.size, canvas.units), "TYP"
    edge, way = (head, 1.0) if above else (foot, -1.0)
    for out in range(80):
        for right, shift in ((True, 8.0), (False, -8.0), (True, 22.0), (False, -22.0)):
            x, y = tip_x + shift, edge + way * (8 + 2.5 * out)
            box = weld_box(x, y, right, tail)
            if board.is_free(box):
                weld_symbol(board, x, y, tip_x, tip_y, size, weld.sides == 2, weld.field, weld.around, tail)
                board.keep_clear(box)
                return


# -- sections -----------------------------------------------------------------------------------------
def section_view(subject: Subject, section: Section, letter: str, scale: float, units: Units) -> Board:
    """A section across: the plates face on, dimensioned from the main part's top and middle."""
    name = "left end" if section.at_end and section.x < subject.main.length / 2 else "right end"
    view = project(subject.section_bodies(section), name)
    canvas = Canvas(view, scale, Shortening(), units)
    board = canvas.board
    axes = axes_of(name)
    left, low, right, high = view.box
    rings = view.rings
    vs = distinct(r.v for r in rings)
    us = distinct(r.u for r in rings)[::-1]
    main_top = subject.main.depth_range[1]
    if vs:
        ys = [main_top, *vs] if not section.at_end else [high, *vs, low]
        x = canvas.x(left) - 8
        gages(board, [canvas.y(v) for v in ys], ys, canvas.x(left), x, units, section.at_end)
    foot = canvas.y(low)
    if us:
        if section.at_end:
            stops = [(canvas.x(u), u - left) for u in [*us, right]]
            running(board, canvas.x(left), stops, foot, foot - 6, units)
        else:
            board.line(Layer.CENTRE, 0, canvas.y(low) - 4, 0, canvas.y(high) + 4)
            for k, u in enumerate(us):
                y = foot - 6 - 5 * k
                straight(board, min(0.0, canvas.x(u)), max(0.0, canvas.x(u)), foot, y, abs(u), units)
    for f in section.fixed:
        c = axes @ f.centre
        x, y = canvas.x(float(c[0])), canvas.y(float(c[1]))
        edge = canvas.y(high)
        leader(board, x, y, _around(f.mark, x, y, edge, True))
    bottom = board.extent()[1]
    words = "LEFT END" if name == "left end" else ("RIGHT END" if section.at_end else f"SECTION {letter}-{letter}")
    if section.others:
        words += f" ({1 + len(section.others)} places)"
    board.text(Text((canvas.x(left) + canvas.x(right)) / 2, bottom - 4, words, TEXT, "c"))
    return board


def cut_mark(board: Board, canvas_x: float, head: float, foot: float, letter: str) -> None:
    """Where a section is cut: ticks over and under the view with its letter."""
    for y, way in ((head, 1.0), (foot, -1.0)):
        board.line(Layer.OUTLINE, canvas_x, y + way * 2, canvas_x, y + way * 5)
        board.line(Layer.THIN, canvas_x, y + way * 5, canvas_x - 2.5, y + way * 5)
    board.place(
        Text(canvas_x - 3.5 - width(letter, TEXT) * k, head + 5 + 1.5 * k, letter, TEXT, "r") for k in range(80)
    )
