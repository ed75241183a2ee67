"""Lines parted where words stand on them, so that the words are read."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Container, Iterable, Sequence

import numpy as np
from msgspec.structs import replace

from uncus.draw.lettering import box_of, width
from uncus.draw.sheet import Layer, Line, Primitive, Text
from uncus.draw.sights import clipped

WORDS_OVER = (Layer.STICK, Layer.OUTLINE, Layer.THIN, Layer.CENTRE, Layer.DIMENSION, Layer.HIDDEN, Layer.HEAVY,
    Layer.STANDING, Layer.FAINT)  # fmt: skip
_ROUND = 0.1  # mm of paper about words
_LEAST = 0.8  # mm of paper of what is left of a line


def parted(items: Sequence[Primitive], words: Iterable[Text], layers: Container[Layer] = WORDS_OVER) -> list[Primitive]:
    """Primitives with the straight lines of some layers left out under words; what is left of a line that is hardly to
    be seen is left out as well."""
    at = [n for n, item in enumerate(items) if isinstance(item, Line) and item.layer in layers]
    if not at:
        return list(items)
    lines = np.array([(i.x1, i.y1, i.x2, i.y2) for n in at if isinstance(i := items[n], Line)])
    low, high = np.minimum(lines[:, :2], lines[:, 2:]), np.maximum(lines[:, :2], lines[:, 2:])
    gone = defaultdict[int, list[tuple[float, float]]](list)
    for text in words:
        x0, y0, x1, y1 = box_of(text, _ROUND)
        near = (low[:, 0] < x1) & (high[:, 0] > x0) & (low[:, 1] < y1) & (high[:, 1] > y0)
        for n in np.flatnonzero(near).tolist():
            share = _under(text, lines[n])
            if share is not None and share[1] > share[0]:
                gone[at[n]].append(share)
    found: list[Primitive] = []
    for n, item in enumerate(items):
        if n in gone and isinstance(item, Line):
            found += _left(item, gone[n])
        else:
            found.append(item)
    return found


def _under(text: Text, line: np.ndarray) -> tuple[float, float] | None:
    """From which to which share of a line it lies under a text: what is said just over it is not on it."""
    w, h = width(text.text, text.height, text.narrow), text.height * 1.25
    left = {"l": 0.0, "c": -w / 2, "r": -w}[text.anchor]
    c, s = math.cos(math.radians(text.angle)), math.sin(math.radians(text.angle))
    turn = np.array([[c, s], [-s, c]])
    a, b = (turn @ (p - (text.x, text.y)) for p in (line[:2], line[2:]))
    return clipped(a, b, np.array([left - _ROUND, -h / 2 - _ROUND]), np.array([left + w + _ROUND, h / 2 + _ROUND]))


def _left(line: Line, gone: Sequence[tuple[float, float]]) -> list[Line]:
    """What is left of a line, some shares of which are gone."""
    long, at, found = math.hypot(line.x2 - line.x1, line.y2 - line.y1), 0.0, []
    dx, dy = line.x2 - line.x1, line.y2 - line.y1
    for first, last in [*sorted(gone), (1.0, 1.0)]:
        if (first - at) * long > _LEAST:
            found.append(replace(line, x1=line.x1 + at * dx, y1=line.y1 + at * dy, x2=line.x1 + first * dx,
                y2=line.y1 + first * dy))  # fmt: skip
        at = max(at, last)
    return found
