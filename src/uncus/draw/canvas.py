"""A view's lines on a board: from the view's mm to mm of paper, long stretches taken out."""

from __future__ import annotations

import math

import numpy as np
import shapely

from uncus.draw.board import Board
from uncus.draw.breaks import Shortening
from uncus.draw.projection import Ring, View
from uncus.draw.sheet import Frame, Layer

_CLOSE = 0.55  # mm of paper within which a hidden line beside one that is seen says nothing but blots
_NEAR = 12.0  # mm of paper around a view within which neighbours are shown


class Canvas:
    """Turns a view's mm into paper mm on a board."""

    def __init__(self, view: View, scale: float, short: Shortening) -> None:
        self.board = Board()
        self.view = view
        self.scale = scale
        self.short = short
        self._draw()

    def x(self, u: float) -> float:
        return self.short.u(u) / self.scale

    def y(self, v: float) -> float:
        return v / self.scale

    def at(self, p: tuple[float, float]) -> tuple[float, float]:
        return self.x(p[0]), self.y(p[1])

    @property
    def foot(self) -> float:
        return self.y(self.view.box[1])

    @property
    def head(self) -> float:
        return self.y(self.view.box[3])

    def frame(self, points: dict[str, tuple[float, float]]) -> Frame:
        """The view's own place, before it is laid on the sheet."""
        u0, v0, u1, v1 = self.view.box
        box = (self.x(u0), self.y(v0), self.x(u1), self.y(v1))
        return Frame(
            self.view.name, 0.0, 0.0, self.scale, box, {k: (*self.at(p), *p) for k, p in points.items()}, self.short
        )

    def reference(self, segments: np.ndarray) -> None:
        """Lines for reference, which do not print: as far as they are near the view."""
        u0, v0, u1, v1 = self.view.box
        room = shapely.box(self.x(u0) - _NEAR, self.y(v0) - _NEAR, self.x(u1) + _NEAR, self.y(v1) + _NEAR)
        for a, b, c, d in segments.tolist():
            kept = shapely.LineString([self.at((a, b)), self.at((c, d))]).intersection(room)
            if kept.geom_type == "LineString" and kept.length > 0.1:
                self.board.line(Layer.REFERENCE, *kept.coords[0], *kept.coords[-1])

    def centre(self, u1: float, v1: float, u2: float, v2: float) -> None:
        self.board.line(Layer.CENTRE, *self.at((u1, v1)), *self.at((u2, v2)))

    def _draw(self) -> None:
        view, board = self.view, self.board
        hidden = apart(view.hidden, view.seen, _CLOSE * self.scale)
        for layer, segments in ((Layer.OUTLINE, view.seen), (Layer.HIDDEN, hidden), (Layer.CENTRE, view.marks)):
            closed = self.short.segments(segments) if self.short.stretches else segments
            for u1, v1, u2, v2 in (closed / self.scale).tolist():
                board.line(layer, u1, v1, u2, v2)
        for ring in view.rings:
            self._ring(ring)
        for start, end in self.short.stretches:
            self._break(self.x(start), self.foot, self.head)
            self._break(self.x(end), self.foot, self.head)

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


def apart(hidden: np.ndarray, seen: np.ndarray, close: float) -> np.ndarray:
    """Hidden segments (n, 4) without those that run all along a seen one, closer than `close`: the inner walls of
    tubes at a small scale."""
    if not len(hidden) or not len(seen):
        return hidden
    a, b = seen[:, :2], seen[:, 2:]
    long = np.maximum(np.hypot(*(b - a).T), 1e-9)
    way = (b - a) / long[:, None]
    ends = hidden.reshape(-1, 2, 1, 2) - a  # (hidden, its ends, seen, 2)
    along = np.einsum("heij,ij->hei", ends, way)
    off = np.abs(ends[..., 0] * way[:, 1] - ends[..., 1] * way[:, 0])
    beside = (off < close) & (along > -close) & (along < long + close)
    return hidden[~beside.all(axis=1).any(axis=1)]  # type: ignore[no-any-return]
