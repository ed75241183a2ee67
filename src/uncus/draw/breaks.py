"""Long members shortened: stretches of a view in which nothing happens are taken out; dimensions stay true."""

from __future__ import annotations

import msgspec
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Shortening(msgspec.Struct, frozen=True):
    """Stretches (from, to) along u taken out, and the gap (mm in the model) left in place of each."""

    stretches: tuple[tuple[float, float], ...] = ()
    gap: float = 0.0

    def u(self, value: float) -> float:
        """Where a position along the member comes to lie."""
        moved = value
        for start, end in self.stretches:
            if value >= end:
                moved -= end - start - self.gap
            elif value > start:
                moved -= (value - start) * (1 - self.gap / (end - start))
        return moved

    def back(self, moved: float) -> float:
        """The position along the member that has come to lie there: `u` the other way about."""
        taken = 0.0
        for start, end in self.stretches:
            at = start - taken
            if moved <= at:
                break
            if moved < at + self.gap:
                return start + (moved - at) * (end - start) / self.gap
            taken += end - start - self.gap
        return moved + taken

    def segments(self, segments: Array) -> Array:
        """Segments (n, 4) cut at the stretches and closed up."""
        out = segments
        for start, end in self.stretches:
            out = np.concatenate([_side(out, start, True), _side(out, end, False)])
        if self.stretches and len(out):
            out = out.copy()
            out[:, 0] = [self.u(v) for v in out[:, 0]]
            out[:, 2] = [self.u(v) for v in out[:, 2]]
        return out


def _side(segments: Array, at: float, keep_below: bool) -> Array:
    """What lies below (or above) u = at."""
    if not len(segments):
        return segments
    s = segments.copy()
    sign = 1.0 if keep_below else -1.0
    d1, d2 = sign * (s[:, 0] - at), sign * (s[:, 2] - at)
    keep = (d1 < 1e-9) | (d2 < 1e-9)
    s, d1, d2 = s[keep], d1[keep], d2[keep]
    for this, other, x, y, oy in ((d1, d2, 0, 1, 3), (d2, d1, 2, 3, 1)):
        cut = this > 1e-9
        share = this[cut] / (this[cut] - other[cut])
        s[cut, y] += (s[cut, oy] - s[cut, y]) * share
        s[cut, x] = at
    return s


def shortening(events: list[float], length: float, scale: float, room: float) -> Shortening:
    """Take out the longest empty stretches until `length` at 1:scale fits `room` mm of paper.

    events: positions along the member where something is; an eighth of an inch of paper stays clear of each.
    """
    if length / scale <= room:
        return Shortening()
    clear, gap = 14.0 * scale, 4.0 * scale
    marks = sorted({0.0, length, *(e for e in events if 0 <= e <= length)})
    spans = [(a + clear, b - clear) for a, b in zip(marks, marks[1:], strict=False) if b - a > 2 * clear + 3 * gap]
    spans.sort(key=lambda s: s[0] - s[1])
    excess = length - room * scale
    chosen: list[tuple[float, float]] = []
    for start, end in spans:
        if excess <= 0:
            break
        take = min(end - start, excess + gap)
        middle = (start + end) / 2
        chosen.append((middle - take / 2, middle + take / 2))
        excess -= take - gap
    return Shortening(tuple(sorted(chosen)), gap)
