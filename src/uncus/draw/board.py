"""A board: primitives being gathered, and the one solver that finds free places for text.

Candidates are tried from the least cost up; a text never lies on another. Deterministic: the same calls in the same
order give the same places.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Sequence

import msgspec

from uncus.draw.cells import Boxes, Lines
from uncus.draw.lettering import MARGIN, Box, box_of, clean, width
from uncus.draw.sheet import UNPRINTED, Circle, Layer, Line, Polyline, Primitive, Spot, Text

_MOST = 600  # places tried for a text
_STEP = 2.0  # mm from one to the next where all of them are taken
_LINE_COST = 40.0  # of a text on a line, in steps of half a place farther out
_LINES_COUNTED = 3
_CLEAR = 0.1  # mm about a text that a line under it is within
_EDGE_COST = 3.0  # of a leader over an edge of the view
_EDGES_COUNTED = 8
_CROSS_COST = 80.0  # of a leader across another or across a text


_ANYWHERE = -math.inf, -math.inf, math.inf, math.inf
_INKED = frozenset({Layer.OUTLINE, Layer.DIMENSION, Layer.STICK, Layer.CENTRE, Layer.THIN, Layer.LEADER, Layer.HEAVY,
    Layer.STANDING, Layer.MATCH})  # fmt: skip


class Board:
    """Primitives and where text already is. Lines are kept as ink that text stays off where it can."""

    def __init__(self) -> None:
        self.items: list[Primitive] = []
        self.spots: list[Spot] = []
        self._boxes = Boxes()
        self._ink = Lines()
        self._leaders = Lines()
        self._edges = Lines()  # of the views, which leaders should not run over
        # the extent as far as it was asked for: of which list, how many of it and of the boxes, and the box itself
        self._reached: tuple[list[Primitive], int, int, tuple[Box, ...]] = self.items, 0, 0, ()
        self.faults = 0  # words that found no place clear of lines, or whose leader crosses something

    def copy(self) -> Board:
        """A board to try on what may be thrown away."""
        made = Board()
        made.items, made.spots, made.faults = list(self.items), list(self.spots), self.faults
        made._boxes, made._ink = self._boxes.copy(), self._ink.copy()
        made._leaders, made._edges = self._leaders.copy(), self._edges.copy()
        return made

    # -- drawing ------------------------------------------------------------------------------------
    def line(self, layer: Layer, x1: float, y1: float, x2: float, y2: float) -> None:
        self.items.append(Line(layer, x1, y1, x2, y2))
        if layer in _INKED:
            self._ink.add((x1, y1, x2, y2))
        if layer is Layer.LEADER:
            self._leaders.add((x1, y1, x2, y2))
        if layer is Layer.OUTLINE:
            self._edges.add((x1, y1, x2, y2))

    def circle(self, layer: Layer, x: float, y: float, r: float) -> None:
        self.items.append(Circle(layer, x, y, r))
        if layer in _INKED:
            self._ink.add((x - r, y, x + r, y))
            self._ink.add((x, y - r, x, y + r))

    def poly(
        self,
        layer: Layer,
        points: Iterable[tuple[float, float]],
        closed: bool = False,
        filled: bool = False,
        inked: bool = True,
    ) -> None:
        """A line through points; one that is not `inked` no text keeps off."""
        ring = tuple(points)
        self.items.append(Polyline(layer, ring, closed, filled))
        if layer in _INKED and inked and not filled:
            for a, b in itertools.pairwise((*ring, ring[0]) if closed else ring):
                self._ink.add((*a, *b))

    def keep_clear(self, box: Box) -> None:
        """No text goes here."""
        self._boxes.add(box)

    def forbid(self, x1: float, y1: float, x2: float, y2: float) -> None:
        """A line that will come: text stays off it as if it were there."""
        self._ink.add((x1, y1, x2, y2))

    def spot(self, key: str, since: int, kind: str = "", stops: Sequence[tuple[str, float, float]] = ()) -> None:
        """What was drawn since then is one annotation."""
        new = self.items[since:]
        boxes = [b for item in new if (b := box_around(item))]
        if boxes:
            texts = tuple((item.text, box_of(item)) for item in new if isinstance(item, Text))
            self.spots.append(Spot(key, united(boxes), texts, kind, tuple(stops)))

    # -- text ---------------------------------------------------------------------------------------
    def is_free(self, box: Box) -> bool:
        return not self._boxes.meets(box)

    def is_clean(self, box: Box) -> bool:
        """Neither text nor a line here."""
        return self.is_free(box) and not self._ink.through(box)

    def text(self, text: Text) -> None:
        """Put a text exactly here; the caller has seen to it that the place is free."""
        text = msgspec.structs.replace(text, text=clean(text.text))
        self.items.append(text)
        self._boxes.add(box_of(text))

    def place(self, candidates: Iterable[Text]) -> Text:
        """Put a text at the best of its candidates."""
        best = self.best(candidates)
        self.text(best)
        return best

    def leader_cost(self, start: tuple[float, float], tip: tuple[float, float]) -> float:
        """What a leader counts against its place: much across other leaders and texts, a little over the view's
        edges."""
        line = (*start, *tip)
        crossed = self._leaders.across(line) + self._boxes.on(line)
        return _CROSS_COST * crossed + _EDGE_COST * min(_EDGES_COUNTED, self._edges.across(line))

    def best(
        self, candidates: Iterable[Text], more: Callable[[Text], float] = lambda _: 0.0, room: Box = _ANYWHERE
    ) -> Text:
        """The best of a text's candidates (in order of preference) that lies on no other text, and in the room there
        is; `more` is what a place costs besides.

        A line under it counts much against a place but does not forbid it. The last candidates should lead ever
        farther away.
        """
        best: tuple[float, Text] | None = None
        candidate: Text | None = None
        left, low, right, high = room
        for rank, candidate in enumerate(itertools.islice(candidates, _MOST)):
            if best is not None and best[0] <= rank * 0.5:
                break
            x0, y0, x1, y1 = box_of(candidate, 0.0)
            if x0 < left or y0 < low or x1 > right or y1 > high:
                continue
            if self._boxes.meets((x0 - MARGIN, y0 - MARGIN, x1 + MARGIN, y1 + MARGIN)):
                continue
            on = x0 - _CLEAR, y0 - _CLEAR, x1 + _CLEAR, y1 + _CLEAR
            cost = rank * 0.5 + _LINE_COST * self._ink.through(on, _LINES_COUNTED)
            if best is None or cost < best[0]:
                cost += more(candidate)
                if best is None or cost < best[0]:
                    best = (cost, candidate)
        if best is None:
            if candidate is None:
                raise ValueError("a text without any place to go")
            self.judge(None)
            return self._beyond(candidate)
        self.judge(best[0])
        return best[1]

    def _beyond(self, text: Text) -> Text:
        """Where all places asked for are taken: straight up from the last of them, as far as it takes."""
        while not self.is_free(box_of(text)):
            text = msgspec.structs.replace(text, y=text.y + _STEP)
        return text

    def judge(self, cost: float | None) -> None:
        """Count a place that is none too good: on lines, across something, or none found at all."""
        self.faults += cost is None or cost >= _LINE_COST

    def struck(self) -> list[Text]:
        """The texts that lie on a line."""
        texts = (item for item in self.items if isinstance(item, Text))
        return [text for text in texts if self._ink.through(box_of(text, _CLEAR))]

    # -- as a whole ---------------------------------------------------------------------------------
    def extent(self) -> Box:
        """The box of everything drawn that prints."""
        of, items, boxes, reached = self._reached
        if of is not self.items or items > len(self.items):
            items, boxes, reached = 0, 0, ()
        drawn = (b for item in self.items[items:] if not _unprinted(item) and (b := box_around(item)))
        whole = united([*reached, *self._boxes.since(boxes), *drawn])
        self._reached = self.items, len(self.items), len(self._boxes), (whole,)
        return whole

    def moved(self, dx: float, dy: float) -> list[Primitive]:
        return [_moved(item, dx, dy) for item in self.items]

    def spots_moved(self, dx: float, dy: float) -> list[Spot]:
        return [
            Spot(
                s.key,
                shifted(s.box, dx, dy),
                tuple((w, shifted(b, dx, dy)) for w, b in s.texts),
                s.kind,
                tuple((k, x + dx, y + dy) for k, x, y in s.stops),
            )
            for s in self.spots
        ]


def _unprinted(item: Primitive) -> bool:
    return not isinstance(item, Text) and item.layer in UNPRINTED


def shifted(box: Box, dx: float, dy: float) -> Box:
    return box[0] + dx, box[1] + dy, box[2] + dx, box[3] + dy


def united(boxes: Sequence[Box]) -> Box:
    """The box around boxes."""
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)


def leader_start(text: Text, tip: tuple[float, float]) -> tuple[float, float]:
    """Where a text's leader leaves it: the nearer end of its line."""
    long = width(text.text, text.height, text.narrow)
    left = {"l": 0.0, "c": -long / 2, "r": -long}[text.anchor]
    ends = (text.x + left - 0.8, text.x + left + long + 0.8)
    return min(ends, key=lambda x: abs(x - tip[0])), text.y


def box_around(item: Primitive) -> Box | None:
    if isinstance(item, Line):
        return min(item.x1, item.x2), min(item.y1, item.y2), max(item.x1, item.x2), max(item.y1, item.y2)
    if isinstance(item, Circle):
        return item.x - item.r, item.y - item.r, item.x + item.r, item.y + item.r
    if isinstance(item, Polyline):
        xs, ys = [p[0] for p in item.points], [p[1] for p in item.points]
        return min(xs), min(ys), max(xs), max(ys)
    return box_of(item)


def _moved(item: Primitive, dx: float, dy: float) -> Primitive:
    if isinstance(item, Line):
        return Line(item.layer, item.x1 + dx, item.y1 + dy, item.x2 + dx, item.y2 + dy)
    if isinstance(item, Polyline):
        return msgspec.structs.replace(item, points=tuple((x + dx, y + dy) for x, y in item.points))
    return msgspec.structs.replace(item, x=item.x + dx, y=item.y + dy)


def spread(wanted: list[float], least: float, weights: Sequence[float] = ()) -> list[float]:
    """Positions in rising order at least `least` apart, as near to the wanted ones (rising) as can be (least squares,
    those of more weight moved less).

    Pool-adjacent-violators on wanted minus i * least.
    """
    blocks: list[list[float]] = []  # weighted sum, weight, count
    for i, value in enumerate(wanted):
        w = weights[i] if weights else 1.0
        blocks.append([(value - i * least) * w, w, 1.0])
        while len(blocks) > 1 and blocks[-2][0] / blocks[-2][1] > blocks[-1][0] / blocks[-1][1]:
            last = blocks.pop()
            blocks[-1] = [a + b for a, b in zip(blocks[-1], last, strict=True)]
    out: list[float] = []
    for total, weight, count in blocks:
        out += [total / weight + (len(out) + k) * least for k in range(int(count))]
    return out
