"""A board: primitives being gathered, and the one solver that finds free places for text.

Candidates are tried from the least cost up; a text never lies on another. Deterministic: the same calls in the same
order give the same places.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator

import msgspec
import numpy as np

from uncus.draw.lettering import Box, box_of, clean
from uncus.draw.sheet import Circle, Layer, Line, Polyline, Primitive, Text

_LINE_COST = 3.0


def overlap(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


class _Boxes:
    """Boxes in one array that grows: how many a box lies on is one expression."""

    def __init__(self) -> None:
        self._rows = np.zeros((64, 4))
        self._count = 0

    def add(self, box: Box) -> None:
        if self._count == len(self._rows):
            self._rows = np.concatenate([self._rows, np.zeros_like(self._rows)])
        self._rows[self._count] = box
        self._count += 1

    def hits(self, box: Box) -> int:
        rows = self._rows[: self._count]
        over = (rows[:, 0] < box[2]) & (rows[:, 2] > box[0]) & (rows[:, 1] < box[3]) & (rows[:, 3] > box[1])
        return int(np.count_nonzero(over))

    def __iter__(self) -> Iterator[Box]:
        return iter(map(tuple, self._rows[: self._count].tolist()))  # type: ignore[arg-type]


class Board:
    """Primitives and where text already is. Lines are kept as ink that text avoids where it can."""

    def __init__(self) -> None:
        self.items: list[Primitive] = []
        self._boxes = _Boxes()
        self._ink = _Boxes()

    # -- drawing ------------------------------------------------------------------------------------
    def line(self, layer: Layer, x1: float, y1: float, x2: float, y2: float) -> None:
        self.items.append(Line(layer, x1, y1, x2, y2))
        if layer in (Layer.OUTLINE, Layer.DIMENSION, Layer.STICK, Layer.CENTRE):
            self._ink.add((min(x1, x2), min(y1, y2), max(x1, x2), max(y1, y2)))

    def circle(self, layer: Layer, x: float, y: float, r: float) -> None:
        self.items.append(Circle(layer, x, y, r))
        self._ink.add((x - r, y - r, x + r, y + r))

    def poly(
        self, layer: Layer, points: Iterable[tuple[float, float]], closed: bool = False, filled: bool = False
    ) -> None:
        self.items.append(Polyline(layer, tuple(points), closed, filled))

    def keep_clear(self, box: Box) -> None:
        """No text goes here."""
        self._boxes.add(box)

    # -- text ---------------------------------------------------------------------------------------
    def is_free(self, box: Box) -> bool:
        return self._boxes.hits(box) == 0

    def text(self, text: Text) -> None:
        """Put a text exactly here; the caller has seen to it that the place is free."""
        text = msgspec.structs.replace(text, text=clean(text.text))
        self.items.append(text)
        self._boxes.add(box_of(text))

    def place(self, candidates: Iterable[Text], most: int = 400) -> Text:
        """Put a text at the best of its candidates (in order of preference) that lies on no other text.

        Ink under it counts against a place but does not forbid it. The last candidates should lead ever farther away.
        """
        best: tuple[float, Text] | None = None
        for rank, candidate in enumerate(itertools.islice(candidates, most)):
            if best is not None and best[0] <= rank * 0.5:
                break
            box = box_of(candidate)
            if not self.is_free(box):
                continue
            cost = rank * 0.5 + _LINE_COST * self._ink.hits(box)
            if best is None or cost < best[0]:
                best = (cost, candidate)
        if best is None:
            raise RuntimeError("no free place for a text on the sheet")
        self.text(best[1])
        return best[1]

    # -- as a whole ---------------------------------------------------------------------------------
    def extent(self) -> Box:
        """The box of everything drawn."""
        boxes = [*self._boxes, *(b for item in self.items if (b := _box(item)))]
        return (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))

    def moved(self, dx: float, dy: float) -> list[Primitive]:
        return [_moved(item, dx, dy) for item in self.items]


def _box(item: Primitive) -> Box | None:
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


def spread(wanted: list[float], least: float) -> list[float]:
    """Positions in rising order at least `least` apart, as near to the wanted ones (rising) as can be (least squares).

    Pool-adjacent-violators on wanted minus i * least.
    """
    blocks: list[list[float]] = []  # sum, count
    for i, value in enumerate(wanted):
        blocks.append([value - i * least, 1.0])
        while len(blocks) > 1 and blocks[-2][0] / blocks[-2][1] > blocks[-1][0] / blocks[-1][1]:
            total, count = blocks.pop()
            blocks[-1][0] += total
            blocks[-1][1] += count
    out: list[float] = []
    for total, count in blocks:
        out += [total / count + (len(out) + k) * least for k in range(int(count))]
    return out
