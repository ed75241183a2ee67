"""Words on a view: notes with leaders, weld symbols, letters of sections; where they lie on nothing and cross nothing.

What was moved by hand lies as far from its automatic place as it was dropped, and that place does not depend on what
else was moved. The others stay where they are, unless something was dropped on them.
"""

from __future__ import annotations

import random
from collections.abc import Iterator, Mapping, Sequence

import msgspec

from uncus.draw.annotation import Cut, Note, WeldNote
from uncus.draw.board import Board, leader_start
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT, leader_to, tail_of, weld_box, weld_symbol
from uncus.draw.lettering import box_of, width
from uncus.draw.sheet import Layer, Text
from uncus.units import Units

Label = Note | WeldNote | Cut
Moved = Mapping[str, tuple[float, float]]
_LOTS = 24  # orders by lot that are tried where the usual ones leave a fault
_STALE = 8  # orders in a row that make nothing better
_MANY = 24  # labels beyond which no lots are drawn
_TANGLED = 40_000  # lines times labels from which one order must do
_WIDER = 26.0  # mm past the view's ends that words may run


class Place(msgspec.Struct, frozen=True):
    """Where a label lies: its texts, or of a weld symbol the elbow (x, y) and whether it runs to the right."""

    texts: tuple[Text, ...] = ()
    elbow: tuple[float, float, bool] = (0.0, 0.0, True)

    def shifted(self, by: tuple[float, float]) -> Place:
        texts = tuple(msgspec.structs.replace(t, x=t.x + by[0], y=t.y + by[1]) for t in self.texts)
        return Place(texts, (self.elbow[0] + by[0], self.elbow[1] + by[1], self.elbow[2]))


def label(canvas: Canvas, ends: tuple[float, float], labels: Sequence[Label], moved: Moved, units: Units) -> None:
    """Draw labels on the view's board; `ends` are the paper x of the view's left and right. Where they come to cross
    or to lie on lines, another order is tried."""
    best: tuple[Board, dict[str, Place]] | None = None
    stale = 0
    for order in _orders(canvas, ends, labels):
        placer = _Labels(canvas.board.copy(), canvas, ends, units)
        places = {one.key: placer.automatic(one) for one in order}
        if best is None or placer.board.faults < best[0].faults:
            best, stale = (placer.board, places), 0
        stale += 1
        if placer.board.faults == canvas.board.faults or stale > _STALE:
            break
    assert best is not None
    if not any(one.key in moved for one in labels):
        canvas.board = best[0]
        return
    placer = _Labels(canvas.board, canvas, ends, units)
    for one in sorted(labels, key=lambda one: one.key not in moved):
        place = best[1][one.key]
        if one.key in moved:
            placer.draw(one, place.shifted(moved[one.key]))
        elif placer.clear(one, place):
            placer.draw(one, place)
        else:
            placer.automatic(one)


def _from_middle(canvas: Canvas, ends: tuple[float, float], one: Label) -> float:
    x = canvas.x(one.at) if isinstance(one, Cut) else canvas.x(one.tip[0])
    return round(abs(x - sum(ends) / 2), 2)


_ORDER: tuple[type, ...] = (Cut, Note, WeldNote)


def _orders(canvas: Canvas, ends: tuple[float, float], labels: Sequence[Label]) -> Iterator[list[Label]]:
    """Orders to place labels in: as said, from the middle, towards it; then by lot, the same lots every time, unless
    there are so many that no lot is likely to be better."""
    tangled = len(canvas.board.items) * len(labels) > _TANGLED
    for rank in (_outwards,) if tangled else (_as_said, _outwards, _inwards):
        yield sorted(labels, key=lambda one: rank(canvas, ends, one))
    lot = random.Random(len(labels))
    for _ in range(_LOTS if len(labels) <= _MANY and not tangled else 0):
        mixed = list(labels)
        lot.shuffle(mixed)
        yield sorted(mixed, key=lambda one: not isinstance(one, Cut))


def _as_said(canvas: Canvas, ends: tuple[float, float], one: Label) -> tuple[int, float]:
    return _ORDER.index(type(one)), 0.0


def _outwards(canvas: Canvas, ends: tuple[float, float], one: Label) -> tuple[int, float]:
    """From the middle outwards: leaders then stand beside words placed before and not across them."""
    return _ORDER.index(type(one)), _from_middle(canvas, ends, one)


def _inwards(canvas: Canvas, ends: tuple[float, float], one: Label) -> tuple[int, float]:
    return int(not isinstance(one, Cut)), -_from_middle(canvas, ends, one)


class _Labels:
    def __init__(self, board: Board, canvas: Canvas, ends: tuple[float, float], units: Units) -> None:
        self.board, self.canvas, self.ends, self.units = board, canvas, ends, units

    def automatic(self, one: Label) -> Place:
        """Find a label's place and draw it there."""
        match one:
            case Note():
                place = Place((self._noted(one),))
            case WeldNote():
                place = Place(elbow=self._best_beside(one, self.canvas.at(one.tip), tail_of(one)))
            case Cut():
                place = Place(tuple(self._lettered(one)))
        self.draw(one, place)
        return place

    def clear(self, one: Label, place: Place) -> bool:
        """Whether a place is free of what lies there by now."""
        if isinstance(one, WeldNote):
            return self.board.is_free(weld_box(*place.elbow, tail_of(one)))
        return all(self.board.is_free(box_of(text)) for text in place.texts)

    def draw(self, one: Label, place: Place) -> None:
        since = len(self.board.items)
        match one:
            case Note():
                self.board.text(place.texts[0])
                if one.leader:
                    leader_to(self.board, place.texts[0], self.canvas.at(one.tip))
            case WeldNote():
                x, y, _ = place.elbow
                weld_symbol(self.board, x, y, *self.canvas.at(one.tip), one, self.units)
                self.board.keep_clear(weld_box(*place.elbow, tail_of(one)))
            case Cut():
                self._ticks(one)
                for text in place.texts:
                    self.board.text(text)
        stops = [("cut", self.canvas.x(one.at), self.canvas.head)] if isinstance(one, Cut) else []
        self.board.spot(one.key, since, type(one).__name__.lower(), stops)

    # -- sections -----------------------------------------------------------------------------------
    def _edges(self) -> tuple[tuple[float, float], ...]:
        return (self.canvas.head, 1.0), (self.canvas.foot, -1.0)

    def _ticks(self, one: Cut) -> None:
        x = self.canvas.x(one.at)
        for edge, way in self._edges():
            y = edge + way
            self.board.line(Layer.OUTLINE, x, y + way * 1.0, x, y + way * 4.0)
            self.board.line(Layer.THIN, x, y + way * 4.0, x - 2.5, y + way * 4.0)

    def _lettered(self, one: Cut) -> Iterator[Text]:
        """The letter beside each tick, where nothing lies."""
        x = self.canvas.x(one.at)
        for edge, way in self._edges():
            spots = ((x + side * (1.6 + 1.4 * out), edge + way * (3.5 + 1.6 * up)) for up in range(12) for out
                in range(4) for side in (-1.0, 1.0))  # fmt: skip
            yield self.board.best(Text(at, y, one.letter, TEXT, "r" if at < x else "l") for at, y in spots)

    # -- notes --------------------------------------------------------------------------------------
    def _noted(self, note: Note) -> Text:
        x, y = self.canvas.at(note.tip)
        if not note.leader:
            heights = (y + (k // 2 + k % 2) * 2.0 * (1 if k % 2 else -1) for k in range(200))
            return self.board.best(Text(x, at, note.words, TEXT, "l") for at in heights)
        bounds = (self.ends[0] - _WIDER, self.ends[1] + _WIDER)
        places = around(note.words, x, y, (self.canvas.foot, self.canvas.head), note.above, bounds)
        return self.board.best(places, lambda text: self.board.leader_cost(leader_start(text, (x, y)), (x, y)))

    # -- weld symbols -------------------------------------------------------------------------------
    def _best_beside(self, weld: WeldNote, tip: tuple[float, float], tail: str) -> tuple[float, float, bool]:
        """The clean place nearest to hand whose leader crosses least."""
        best: tuple[float, tuple[float, float, bool]] | None = None
        for rank, place in enumerate(self._beside(weld, tip[0])):
            if best is not None and best[0] <= rank * 0.5:
                break
            if self.board.is_clean(weld_box(*place, tail)):
                cost = rank * 0.5 + self.board.leader_cost(place[:2], tip)
                if best is None or cost < best[0]:
                    best = cost, place
        self.board.judge(best[0] if best else None)
        return best[1] if best else place  # where all is full, the farthest

    def _beside(self, weld: WeldNote, x: float) -> Iterator[tuple[float, float, bool]]:
        edge, way = (self.canvas.head, 1.0) if weld.above else (self.canvas.foot, -1.0)
        other = self.canvas.foot if weld.above else self.canvas.head
        for out in range(120):
            for shift in (8.0, 22.0, 34.0):
                for side in (1.0, -1.0):
                    yield x + side * shift, edge + way * (8 + 2.5 * out), side > 0
                    if out > 8:
                        yield x + side * shift, other - way * (8 + 2.5 * (out - 8)), side > 0


def around(
    words: str, x: float, y: float, edges: tuple[float, float], above: bool, bounds: tuple[float, float]
) -> Iterator[Text]:
    """Places for words with a leader: beyond the foot or head of the view, whichever the tip is nearer to, ever
    farther out and to either side, within bounds; then beyond the other."""
    near, far = (edges[1], edges[0]) if above else edges
    way = 1.0 if above else -1.0
    long = width(words, TEXT)
    spare = max(0.0, long - (bounds[1] - bounds[0]) / 2)  # words too long for half of the room may run past it
    bounds = bounds[0] - spare, bounds[1] + spare
    for out in range(1, 60):
        for shift in (3.0, 8.0, 14.0, 24.0, 36.0):
            for side in (1.0, -1.0):
                at = x + side * shift
                low, high = (at, at + long) if side > 0 else (at - long, at)
                if (bounds[0] <= low and high <= bounds[1]) or out > 50:
                    yield Text(at, near + way * (1.5 + 3.0 * out), words, TEXT, "l" if side > 0 else "r")
                    if out % 3 == 0:
                        yield Text(at, far - way * (1.5 + out), words, TEXT, "l" if side > 0 else "r")
