"""Annotations given their places: chains in lines outwards from the view, then words where they lie on nothing.

Deterministic: the same annotations in the same order come to lie alike. What was moved by hand lies where it was put.
"""

from __future__ import annotations

from collections.abc import Sequence

from uncus.draw.annotation import Aligned, Annotation, Bevel, Chain, Cut, LevelLine, Ray
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT, aligned, bevel, gages, heights, level_line, ray, running, steps
from uncus.draw.labels import Label, Moved, label
from uncus.draw.sheet import Text
from uncus.units import Units, format_length

_FIRST, _NEXT = 7.0, 5.0  # mm from the view to the first line, and from one line to the next
_FIGURE = 14.0  # mm a figure beside a short step may take
_LEAST = 12.0  # mm from the view to lines of the outer ranks
_ORDER: tuple[type, ...] = (Chain, Aligned, LevelLine, Ray, Bevel)


def place(
    canvas: Canvas,
    annotations: Sequence[Annotation],
    moved: Moved,
    units: Units,
    degrees: bool = False,
    title: str = "",
) -> None:
    """Draw annotations on the view's board; a title stands over its left end, before words that can go elsewhere."""
    placer = _Placer(canvas, moved, units, degrees)
    lines = [a for a in annotations if not isinstance(a, Label)]
    placer.reserve([a for a in lines if isinstance(a, Chain)])
    for one in sorted(lines, key=lambda a: (_ORDER.index(type(a)), a.rank if isinstance(a, Chain) else 0)):
        since = len(canvas.board.items)
        placer.stops = []
        placer.draw(one)
        canvas.board.spot(one.key, since, type(one).__name__.lower(), placer.stops)
    if title:
        for cut in (a for a in annotations if isinstance(a, Cut)):  # whose ticks come with the other words
            canvas.board.forbid(canvas.x(cut.at), canvas.head, canvas.x(cut.at), canvas.head + 5.0)
        at = canvas.x(0.0), placer.reach["above"] + 3
        canvas.board.place(Text(at[0], at[1] + 3 * k, title, TEXT) for k in range(60))
    label(canvas, (placer.left, placer.right), [a for a in annotations if isinstance(a, Label)], moved, units)


class _Placer:
    def __init__(self, canvas: Canvas, moved: Moved, units: Units, degrees: bool) -> None:
        self.canvas, self.board, self.moved, self.units, self.degrees = canvas, canvas.board, moved, units, degrees
        self.lanes: dict[tuple[str, int], tuple[float, list[tuple[float, float]]]] = {}
        self.past: dict[str, list[float]] = {"below": [], "above": []}  # where extension lines of outer chains run
        self.stops: list[tuple[str, float, float]] = []  # of the chain drawn last, on its line
        u0, _, u1, _ = canvas.view.box
        self.left, self.right = canvas.x(min(u0, 0.0)), canvas.x(u1)
        self.reach = {"below": canvas.foot, "above": canvas.head, "left": self.left, "right": self.right}

    def reserve(self, chains: Sequence[Chain]) -> None:
        """Where extension lines of chains across will run, so that figures of inner chains stay off them."""
        for chain in chains:
            if not chain.along_u:
                edge, way = (self.left, -1.0) if chain.side == "left" else (self.right, 1.0)
                for stop in chain.stops:
                    y = self.canvas.y(stop.at)
                    self.board.forbid(edge, y, edge + way * 40.0, y)
            elif chain.how != "running":
                edge, way = (self.canvas.foot, -1.0) if chain.side == "below" else (self.canvas.head, 1.0)
                for stop in chain.stops:
                    x = self.canvas.x(stop.at)
                    self.past[chain.side].append(x)
                    start = edge if stop.foot is None else self.canvas.y(stop.foot)
                    self.board.forbid(x, start, x, edge + way * (12.0 + 6.0 * max(0, chain.rank)))

    def draw(self, one: Annotation) -> None:
        match one:
            case Chain(side="below") | Chain(side="above"):
                self._along(one)
            case Chain():
                self._across(one)
            case Aligned():
                a, b = self.canvas.at(one.a), self.canvas.at(one.b)
                u, v = one.b[0] - one.a[0], one.b[1] - one.a[1]
                off = one.off + self.moved.get(one.key, (0.0, 0.0))[1]
                aligned(self.board, a, b, off, one.words + format_length((u * u + v * v) ** 0.5, self.units))
            case LevelLine():
                up = self.moved.get(one.key, (0.0, 0.0))[1]
                level_line(self.board, self.canvas.x(one.at), self.canvas.foot, self.canvas.head + up, one.words)
            case Ray():
                far = self.moved.get(one.key, (0.0, 0.0))[1]
                ray(self.board, self.canvas.at((0.0, 0.0)), one, one.out / self.canvas.scale, far)
            case Bevel():
                self._bevel(one)

    # -- chains -------------------------------------------------------------------------------------
    def _line(self, chain: Chain) -> float:
        """Where the next line of a side lies, moved by hand where it was."""
        foot = {"below": self.canvas.foot, "above": self.canvas.head, "left": self.left, "right": self.right}[
            chain.side
        ]
        way = -1.0 if chain.side in ("below", "left") else 1.0
        used = self.reach[chain.side]
        first = _FIRST if chain.side in ("below", "left", "right") and chain.rank >= 0 else 5.0
        line = foot + way * first if used == foot else used + way * _NEXT
        if chain.rank > 0 and chain.along_u and abs(line - foot) < _LEAST:
            line = foot + way * _LEAST
        dx, dy = self.moved.get(chain.key, (0.0, 0.0))
        line += dy if chain.along_u else dx
        # a chain is never moved into the view it measures
        return min(line, foot - 3.0) if way < 0 else max(line, foot + 3.0)

    def _use(self, side: str, far: float) -> None:
        outer = min if side in ("below", "left") else max
        self.reach[side] = outer(self.reach[side], far)

    def _along(self, chain: Chain) -> None:
        canvas = self.canvas
        edge = canvas.foot if chain.side == "below" else canvas.head
        xs = [canvas.x(s.at) for s in chain.stops]
        y = self._shared(chain, xs)
        self.stops = [(s.key, x, y) for s, x in zip(chain.stops, xs, strict=True)]
        if chain.how == "running":
            true = [(x, abs(s.at - chain.stops[0].at)) for x, s in zip(xs[1:], chain.stops[1:], strict=True)]
            self._use(chain.side, running(self.board, xs[0], true, edge, y, self.units, self.past[chain.side]))
            return
        feet = [edge if s.foot is None else canvas.y(s.foot) for s in chain.stops]
        steps(self.board, xs, chain.places, feet, y, self.units, chain.words)
        self._use(chain.side, y)

    def _shared(self, chain: Chain, xs: list[float]) -> float:
        """The line of a chain along: that of another of its rank where they lie far apart, such as copes at both
        ends."""
        low, high = min(xs) - _FIGURE, max(xs) + _FIGURE
        lane = self.lanes.get((chain.side, chain.rank))
        if lane is not None and chain.how != "running" and chain.key not in self.moved:
            y, ranges = lane
            if all(high < a or b < low for a, b in ranges):
                ranges.append((low, high))
                return y
        y = self._line(chain)
        if chain.how != "running":
            self.lanes[(chain.side, chain.rank)] = (y, [(low, high)])
        return y

    def _across(self, chain: Chain) -> None:
        x = self._line(chain)
        ys = [self.canvas.y(s.at) for s in chain.stops]
        self.stops = [(s.key, x, y) for s, y in zip(chain.stops, ys, strict=True)]
        edge = self.left if chain.side == "left" else self.right
        if chain.how == "running":
            far = heights(self.board, ys, chain.places, edge, x, self.units)
        else:
            far = gages(self.board, ys, chain.places, edge, x, self.units, chain.to_edge)
        self._use(chain.side, far)

    def _bevel(self, one: Bevel) -> None:
        """The triangle beside its end, where nothing lies."""
        dx, dy = self.moved.get(one.key, (0.0, 0.0))
        side = 1.0 if one.right else -1.0
        x0, y0 = self.canvas.x(one.at[0]), self.canvas.y(one.at[1])
        spots = [(x0 + side * out, y0 + up) for up in range(4, 90, 4) for out in (6, 12, 18, 24)]
        if not dx and not dy:
            spots = [s for s in spots if self.board.is_clean((s[0] - 9, s[1] - 2, s[0] + 9 + 8, s[1] + 15))] or spots
        x, y = spots[0]
        bevel(self.board, x + dx, y + dy, one.slope, self.units, one.right, self.degrees)
