"""What is drawn of an erector's view on a board, at a scale: grid lines, members as lines with their marks and words,
each at the best of its places, with a leader where that is far."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from functools import lru_cache

import msgspec
import numpy as np

from uncus.catalog.sections import Section, section
from uncus.draw.board import Board, leader_start
from uncus.draw.by_hand import said
from uncus.draw.dimension import TEXT, leader_to, straight
from uncus.draw.lettering import Box, box_of, shortened, width
from uncus.draw.sheet import Layer, Text
from uncus.frame.axes import work_axes
from uncus.frame.grids import Family, runs
from uncus.frame.placement import Vec, unit
from uncus.job.drawings import Edit, Hidden, Moved, Written
from uncus.job.records import Grid, Member, Point
from uncus.steel.profile import outline
from uncus.units import Units, format_length

BUBBLE = 5.0
VIEW = "plan"
_FAR = 9.0  # mm of paper from its member, past which a word has a leader
_HOME = 6.0  # mm of paper from a member's left end, from where on a leader of its mark goes
_LONGER = 0.3  # what a mm of leader costs
_LEFT = 0.3  # of a member's length, up to which it does
_MIDDLE = 0.15, 0.85  # of it, between which leaders of other words go
_SHIFTS = (0.0, 6.0, -6.0, 12.0, -12.0, 20.0, -20.0, -30.0, 30.0)  # mm of paper along a member from a word's place
_SMALL = 4.0  # mm of paper of a section, of whose outline words keep clear as of one line
_SPREAD = 12  # places across and up the paper, where words that find none near theirs are tried


class Plan:
    """Draws at a scale what is seen along z; dx, dy in paper mm."""

    def __init__(self, board: Board, scale: float, dx: float, dy: float, units: Units, edits: tuple[Edit, ...]) -> None:
        self.board, self.scale, self.dx, self.dy, self.units = board, scale, dx, dy, units
        self.edits = edits
        self.moved = {e.key: (e.dx, e.dy) for e in edits if isinstance(e, Moved)}
        self.hidden = {e.key for e in edits if isinstance(e, Hidden)}
        self.room: Box = (-math.inf, -math.inf, math.inf, math.inf)  # of the paper, that words lie in
        self.said: set[str] = set()
        self.left_out = 0  # words that no room was left for
        self.dropped: list[tuple[str, Text]] = []
        self.tips: dict[str, tuple[float, float]] = {}  # of notes with a leader
        self.homes: dict[str, Box] = {}  # of words with one where they come to lie far from this stretch
        self.points: dict[str, tuple[float, float, float, float]] = {}

    def at(self, x: float, y: float) -> tuple[float, float]:
        return x / self.scale + self.dx, y / self.scale + self.dy

    def say(self, key: str, candidates: Iterable[Text]) -> None:
        """Words at the best of their places. Where they were moved from there by hand, or left out, the place stays
        theirs, so that no other words move for it."""
        since = len(self.board.items)
        self.said.add(key)
        text = self.board.best(self._on_paper(candidates), lambda one: self._leading(key, one), self.room)
        if not _holds(self.room, box_of(text)):
            self.left_out += 1  # there is no room for it on the paper
            return
        if key in self.hidden or key in self.moved:
            self.board.keep_clear(box_of(text))
            dx, dy = self.moved.get(key, (0.0, 0.0))
            if key not in self.hidden:
                self.dropped.append((key, msgspec.structs.replace(text, x=text.x + dx, y=text.y + dy)))
            return
        self._put(key, text, since)

    def _on_paper(self, candidates: Iterable[Text]) -> Iterator[Text]:
        """The places asked for; then, for words that find none on the drawing's part of the sheet, anywhere on it."""
        first: Text | None = None
        for text in candidates:
            first = first or text
            yield text
        left, low, right, high = self.room
        if first is not None and math.isfinite(left):
            across, up = (right - left) / _SPREAD, (high - low) / _SPREAD
            for n in range(_SPREAD * _SPREAD):
                x, y = left + (n % _SPREAD + 0.5) * across, high - (n // _SPREAD + 0.5) * up
                yield msgspec.structs.replace(first, x=x, y=y)

    def _leading(self, key: str, text: Text) -> float:
        """What the leader costs that words need at a place."""
        tip = self._tip(key, text)
        return self._cost(text, tip) if tip is not None else 0.0

    def _cost(self, text: Text, tip: tuple[float, float]) -> float:
        start = leader_start(text, tip)
        return self.board.leader_cost(start, tip) + _LONGER * math.dist(start, tip)

    def _tip(self, key: str, text: Text) -> tuple[float, float] | None:
        """Where the leader of words goes, where they need one: what they are told of, or the place next to them of a
        stretch that they lie far from."""
        if key in self.tips or key not in self.homes:
            return self.tips.get(key)
        box, (ax, ay, bx, by) = box_of(text), self.homes[key]
        dx, dy, mx, my = bx - ax, by - ay, (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        near = min(max(((mx - ax) * dx + (my - ay) * dy) / max(dx * dx + dy * dy, 1e-9), 0.0), 1.0)
        if _away(box, (ax + near * dx, ay + near * dy)) <= _FAR:
            return None
        places = ((ax + share * dx, ay + share * dy) for share in (near, 0.0, 0.25, 0.5, 0.75, 1.0))
        return min(places, key=lambda tip: self._cost(text, tip))

    def _put(self, key: str, text: Text, since: int) -> None:
        self.board.text(text)
        tip = self._tip(key, text)
        if tip is not None:
            leader_to(self.board, text, tip)
        self.board.spot(key, since, "note")

    def drop(self) -> None:
        """Draw what was moved by hand where it was dropped, once all else has its place."""
        for key, text in self.dropped:
            self._put(key, text, len(self.board.items))

    def written(self) -> tuple[str, ...]:
        """Notes added by hand; the edits that found nothing, in words."""
        lost = []
        for edit in self.edits:
            if isinstance(edit, Written):
                x, y = self.at(edit.u, edit.v)
                spots = (Text(x + side * (4 + 3 * out), y + 4 + 3 * out, edit.words, TEXT, "l" if side > 0 else "r")
                    for out in range(30) for side in (1, -1))  # fmt: skip
                if edit.leader:
                    self.tips[edit.key] = (x, y)
                self.say(edit.key, spots)
            elif edit.key not in self.said:
                lost.append(said(edit))
        return tuple(lost)

    def grid(self, grid: Grid | None, bounds: tuple[float, float, float, float]) -> None:
        if grid is None or not grid.numbers or not grid.letters:
            return
        (left, low), (right, high) = self.at(*bounds[:2]), self.at(*bounds[2:])
        out = 30.0
        # bubbles stand above for numbers and at the left for letters, on the line's own continuation
        lines = {line.label: line for line in (*grid.numbers, *grid.letters)}
        for run in runs(grid):
            p, q = self.at(*run.at(run.first)), self.at(*run.at(run.last))
            plain = abs(run.along[0] * run.along[1]) < 1e-9
            starts, ends = lines[run.label].first is not None, lines[run.label].last is not None
            # a line that ends well inside has its bubble there; one that ends at the edge has it with the others
            if run.family is Family.NUMBERS:
                ends = ends and q[1] < high - 15
                head = (q[0], high + out) if plain and not ends else _beyond(p, q, 12.0)
                tail = (p[0], low - 6) if plain and not starts else p
            else:
                starts = starts and p[0] > left + 15
                head = (left - out, p[1]) if plain and not starts else _beyond(q, p, 12.0)
                tail = (right + 6, q[1]) if plain and not ends else q
            self.board.line(Layer.CENTRE, *tail, *head)
            self.bubble(*_beyond(tail, head, BUBBLE), run.label)
        xs = sorted(g.at for g in grid.numbers if not g.turn)
        for a, b in zip(xs, xs[1:], strict=False):
            straight(self.board, self.at(a, 0)[0], self.at(b, 0)[0], high + 6, high + 11, b - a, self.units)
        if len(xs) > 2:
            x1, x2 = self.at(xs[0], 0)[0], self.at(xs[-1], 0)[0]
            straight(self.board, x1, x2, high + 12, high + 18, xs[-1] - xs[0], self.units)
        ys = sorted(g.at for g in grid.letters if not g.turn)
        for a, b in zip(ys, ys[1:], strict=False):
            self.upright(self.at(0, a)[1], self.at(0, b)[1], left - 11, b - a)
        if len(ys) > 2:
            self.upright(self.at(0, ys[0])[1], self.at(0, ys[-1])[1], left - 18, ys[-1] - ys[0])

    def bubble(self, x: float, y: float, label: str) -> None:
        self.board.circle(Layer.THIN, x, y, BUBBLE)
        size = 3.5 if width(label, 3.5) < 8 else 2.5
        words = shortened(label, size, 2 * BUBBLE - 1.0) if width(label, size) > 2 * BUBBLE else label
        self.board.text(Text(x, y, words, size, "c", narrow=words != label))

    def upright(self, y1: float, y2: float, x: float, value: float) -> None:
        for y in (y1, y2):
            self.board.line(Layer.THIN, x - 0.9, y - 0.9, x + 0.9, y + 0.9)
        self.board.line(Layer.DIMENSION, x, y1, x, y2)
        label, middle = format_length(value, self.units), (y1 + y2) / 2
        shifts = [s * k * 4.0 for k in range(20) for s in (1.0, -1.0)]
        self.board.place(Text(x - 2.2, middle + shift, label, TEXT, "c", 90) for shift in shifts)

    def end_on(self, m: Member, filled: bool = True) -> None:
        s, (ax, ay, _) = section(m.section), m.start
        d = unit(np.subtract(m.end, m.start)).round(9).tolist()
        points = _ring_seen(s, (d[0], d[1], d[2]), m.roll) + (ax, ay)
        (x0, y0), (x1, y1) = self.at(*points.min(axis=0).tolist()), self.at(*points.max(axis=0).tolist())
        full, small = filled and s.form == "I", max(x1 - x0, y1 - y0) < _SMALL
        spots = [self.at(x, y) for x, y in points.tolist()]
        self.board.poly(Layer.THIN, spots, closed=True, filled=full, inked=not small)
        if full:  # of what is filled no line says that words would lie on it
            self.board.keep_clear((x0, y0, x1, y1))
        elif small:
            self.board.forbid(x0, y0, x1, y1)

    def stick(self, m: Member) -> tuple[np.ndarray, np.ndarray]:
        """The member's line, held clear of its ends so that what frames into what can be seen."""
        a, b = np.array(self.at(*m.start[:2])), np.array(self.at(*m.end[:2]))
        long = float(np.linalg.norm(b - a))
        if long < 1e-6:
            return a, b
        u = (b - a) / long
        clear = min(4.0, long * 0.1)
        p, q = a + u * clear, b - u * clear
        self.board.line(Layer.STICK, *p.tolist(), *q.tolist())
        return p, q

    def along(
        self, key: str, words: str, a: np.ndarray, b: np.ndarray, share: float, off: float, height: float = TEXT
    ) -> None:
        """A text along a member, `share` of the way from its left end."""
        d = b - a
        long = float(np.linalg.norm(d))
        if long < 1e-6:
            return
        u = d / long
        angle = math.degrees(math.atan2(u[1], u[0]))
        flipped = angle > 90.01 or angle <= -89.99
        shown = angle + 180 if flipped else angle
        n = np.array([-u[1], u[0]]) * (-1 if flipped else 1)
        first, last = _MIDDLE if share else (min(0.1, _HOME / long), _LEFT)
        (hx, hy), (gx, gy) = (a + first * d).tolist(), (a + last * d).tolist()
        self.homes[key] = hx, hy, gx, gy
        half = width(words, height) / 2
        (ax, ay), (ux, uy), (nx, ny) = a.tolist(), u.tolist(), n.tolist()

        def candidates() -> Iterator[Text]:
            for far in (0, 1, None, 2, 3, 5, 8, 12, 18, 26, 36, 50, 70, 90, 120):
                for side in (1.0, -1.0) if far is not None else (0.0,):  # on its own line, which is parted there
                    for t in _SHIFTS:
                        on, out = long * share + half + 2 + t, (abs(off) + (far or 0)) * side * math.copysign(1.0, off)
                        yield Text(ax + ux * on + nx * out, ay + uy * on + ny * out, words, height, "c", shown)

        self.say(key, candidates())


def _holds(room: Box, box: Box) -> bool:
    return room[0] <= box[0] and room[1] <= box[1] and box[2] <= room[2] and box[3] <= room[3]


def _away(box: Box, at: tuple[float, float]) -> float:
    """How far a place is from a box."""
    x0, y0, x1, y1 = box
    return math.hypot(max(x0 - at[0], 0.0, at[0] - x1), max(y0 - at[1], 0.0, at[1] - y1))


def beside_column(mark: str, x: float, y: float, d: float, height: float = 3.0) -> Iterator[Text]:
    for out in range(1, 60):
        for sx, sy in ((1, 1), (-1, 1), (1, -1), (-1, -1)):
            yield Text(
                x + sx * (d / 2 + 0.8 * out), y + sy * (d / 2 + 1.2 * out + 0.6), mark, height, "l" if sx > 0 else "r"
            )


def _beyond(p: tuple[float, float], q: tuple[float, float], by: float) -> tuple[float, float]:
    """The point `by` mm past q on the way from p."""
    size = math.dist(p, q) or 1.0
    return q[0] + (q[0] - p[0]) / size * by, q[1] + (q[1] - p[1]) / size * by


@lru_cache(maxsize=1024)
def _ring_seen(s: Section, along: Point, roll: float) -> Vec:
    """A section's outline (n, 2) seen along the plumb line, about where the work line of what runs so is."""
    ring = ring_of(s)
    frame = work_axes(np.zeros(3), np.array(along), roll)
    return frame.to_model(np.column_stack([np.zeros(len(ring)), ring]))[:, :2]


@lru_cache(maxsize=1024)
def ring_of(s: Section) -> Vec:
    """A section's outline without what no plan shows of its fillets."""
    return np.asarray(outline(s).exterior.simplify(0.5).coords)
