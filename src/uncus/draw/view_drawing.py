"""One view of an erector's drawn on a board: grid lines and levels with their dimensions, steel as its frame shows it,
marks and words, site work, signs of other views."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence

import numpy as np

from uncus.catalog.sections import section
from uncus.draw import view_lines
from uncus.draw.bearings import TALL, north, scale_bar
from uncus.draw.board import Board
from uncus.draw.dimension import TEXT
from uncus.draw.lettering import Box, width
from uncus.draw.plan import BUBBLE, Plan, beside_column, ring_of
from uncus.draw.projection import Ring, project
from uncus.draw.sheet import Layer, Text, link_to
from uncus.draw.sights import Line, Spot, clipped, is_level, is_upright, placed
from uncus.draw.view_job import Piece, Sight, Sign
from uncus.frame.axes import UP, work_axes
from uncus.frame.placement import Vec, unit
from uncus.job.drawings import Edit
from uncus.job.records import Member, Role
from uncus.job.views import BOTH, DASHED, EACH, FROM_LEVEL, FULL, ONCE, OUTLINES, SOLID, STICKS, UNSAID, Showing
from uncus.units import Units, format_elevation, format_length

_END_ON = 0.999  # cosine to the way it is looked of what is seen at its end
_SLOPING = (math.radians(0.3), math.radians(80.0))
_SHORTENED = 0.6  # of a member's length that is seen, less than which nothing of it is said but its mark
_SHORT = 0.5  # mm of paper, under which a member's line is a point
_PLACED = 1.0  # mm by which heights differ
_CLEAR = 4.0  # mm of paper that a line is held clear of its ends
_TRIANGLE = 2.6  # mm of paper
_TAB = 1.3  # mm of paper from a member's line to the tick of its tab
_DOT = 0.45  # mm of paper, half of a bolt's dot at least
_LEAST_SHAPE = 4.0  # mm of paper of a section that is turned into the view
_MANY = 3  # like pieces side by side, from which they are marked once
_BESIDE = 0.05  # of their length that like pieces are out of line with one another
Ends = tuple[Vec, Vec]


class ViewPlan(Plan):
    """Draws a view in paper mm; keys of what it says begin with its frame's id."""

    def __init__(
        self, board: Board, scale: float, units: Units, edits: tuple[Edit, ...], sight: Sight, window: Box
    ) -> None:
        super().__init__(board, scale, 0.0, 0.0, units, edits)
        self.sight, self.frame, self.window = sight, sight.frame, window
        self.view = sight.frame.id
        self.low, self.high = np.array(window[:2]), np.array(window[2:])
        self.lines: Sequence[Line] = ()
        self.heights = [line.height for line in sight.lines if line.height is not None]
        self.plumb = abs(float(placed(sight.frame).y[2])) > _END_ON  # whether what is up is up on paper
        self.up = float(np.sign(np.cross(self.frame.x, self.frame.y) @ UP))  # of what is towards the viewer

    @property
    def shows(self) -> Showing:
        return self.frame.shows

    def crossed(self, lines: Sequence[Line]) -> None:
        """Grid lines and levels with what stands about them."""
        self.lines = lines
        view_lines.draw(self, self.window, self.frame.shows, lines)

    # -- steel ------------------------------------------------------------------------------------
    def steel(self, pieces: Sequence[Piece]) -> None:
        """Draw the pieces, and say their marks and words."""
        shows = self.frame.shows
        for piece in pieces:
            if piece.way in (OUTLINES, BOTH):
                self._outlined(piece)
        self._solid([piece for piece in pieces if piece.way == SOLID])
        drawn = [(piece, self._lined(piece)) for piece in pieces]
        own = [(piece, ends) for piece, ends in drawn if not piece.faint]
        for piece, ends in own:
            if ends is None or math.dist(*ends) < _SHORT:
                m = piece.member
                x, y = self.at(*m.start[:2])
                self.points[f"{m.id}|foot"] = (x, y, *m.start[:2])
                deep = section(m.section).d / self.scale
                self.say(f"{self.view}|mark {m.id}", beside_column(piece.mark, x, y, deep))
                off = view_lines.from_lines(self.lines, *m.start[:2], self.units) if shows.offs else []
                for n, words in enumerate(off):
                    self.say(f"{self.view}|off {m.id} {n}", beside_column(words, x, y, deep, TEXT))
        lying = [(piece, ends) for piece, ends in own if ends is not None and math.dist(*ends) >= _SHORT]
        for piece, ends in lying:
            self._told_by_shape(piece, ends)
        if shows.offs:
            self._off_lines(lying)
        together = self._side_by_side(lying) if shows.repeats else {}
        sized: set[tuple[str, ...]] = set()
        flat = is_level(self.frame)
        for piece, (a, b) in lying:
            m = piece.member
            u, v = (a * self.scale).tolist()
            self.points[f"{m.id}|left"] = (*a.tolist(), u, v)
            if m.id in together:
                if not together[m.id]:
                    continue
                self.along(f"{self.view}|mark {m.id}", f"{piece.mark} ({together[m.id]})", a, b, 0.0, 2.4, 3.0)
            else:
                self.along(f"{self.view}|mark {m.id}", piece.mark, a, b, 0.0, 2.4, 3.0)
            words = self._said_of(piece, flat)
            if words and (shows.sizes == EACH or (piece.mark, words) not in sized):
                sized.add((piece.mark, words))
                self.along(f"{self.view}|size {m.id}", words, a, b, 0.45, -2.4)

    def _off_lines(self, lying: Sequence[tuple[Piece, Ends]]) -> None:
        """Steel along the view's axes that is on no line, from the lines next to it."""
        if any(line.askew for line in self.lines):
            return
        runs = [run for piece, (a, b) in lying if not piece.path and piece.member.role is not Role.BRACE
            and (run := view_lines.run_of(a * self.scale, b * self.scale))]  # fmt: skip
        upright, flat = ([run for up, run in runs if up is way] for way in (True, False))
        view_lines.off_lines(self, self.lines, upright, flat if is_level(self.frame) else ())

    def _lined(self, piece: Piece) -> Ends | None:
        """Draw a piece's line, where lines are shown; both ends of what is seen of it, on paper, or None for one that
        is seen at its end."""
        m = piece.member
        way = unit(np.subtract(m.end, m.start))
        shown = piece.way in (STICKS, BOTH)
        if not piece.path and abs(float(way[2])) > _END_ON:
            if piece.way == STICKS:
                self.end_on(m, not piece.faint)
            return None
        layer, ends = _layer(piece), list[Vec]()
        for a, b in (np.array(stretch) for stretch in stretches(piece)):
            share = clipped(a, b, self.low, self.high)
            if share is not None:
                p, q = (np.array(self.at(*(a + s * (b - a)).tolist())) for s in share)
                ends += [p, q]
                if piece.path and shown:
                    self.board.line(layer, *p.tolist(), *q.tolist())
        if not ends:
            return None
        if not piece.path and shown:
            self._stick_between(ends[0], ends[-1], layer)
        if shown:
            self._tabs(piece, ends[0], ends[-1])
            for at, other, held in ((ends[0], ends[-1], piece.moments[0]), (ends[-1], ends[0], piece.moments[1])):
                if held:
                    self._triangle(at, other)
        return ends[0], ends[-1]

    def _stick_between(self, a: Vec, b: Vec, layer: Layer) -> None:
        """A line held clear of its ends, so that what frames into what can be seen."""
        long = float(np.linalg.norm(b - a))
        clear = (b - a) / max(long, 1e-9) * min(_CLEAR, long * 0.1)
        self.board.line(layer, *(a + clear).tolist(), *(b - clear).tolist())

    def _triangle(self, at: Vec, other: Vec) -> None:
        """An end that holds a moment: a filled triangle with its point to what holds it."""
        long = float(np.linalg.norm(other - at))
        if long < 3 * _TRIANGLE:
            return
        on = (other - at) / long
        across = np.array([-on[1], on[0]])
        tip = at + on * min(_CLEAR, long * 0.1) * 0.25
        foot = tip + on * _TRIANGLE
        corners = (tip, foot + across * _TRIANGLE / 2, foot - across * _TRIANGLE / 2)
        self.board.poly(Layer.THIN, [(float(p[0]), float(p[1])) for p in corners], closed=True, filled=True)
        self.board.forbid(*tip.tolist(), *foot.tolist())

    def _outlined(self, piece: Piece) -> None:
        """Each of a piece's parts by what is seen of it, whatever stands before it."""
        layer = Layer.THIN if piece.way == BOTH and not piece.faint else _layer(piece, Layer.OUTLINE)
        for body in piece.bodies:
            view = project([body], "front")
            self._segments(view.seen, layer)
            self._rings(view.rings)

    def _solid(self, pieces: Sequence[Piece]) -> None:
        """All parts by what is seen of them together."""
        by_layer: dict[Layer, list] = defaultdict(list)  # type: ignore[type-arg]
        for piece in pieces:
            by_layer[_layer(piece, Layer.OUTLINE)] += piece.bodies
        for layer, own in by_layer.items():
            rest = [body for other, some in by_layer.items() if other is not layer for body in some]
            if not own:
                continue
            view = project([*own, *rest], "front", len(own))
            self._segments(view.seen, layer)
            self._rings(view.rings)
            if self.frame.shows.hidden == DASHED:
                self._segments(view.hidden, Layer.HIDDEN)
            elif self.frame.shows.hidden == FULL:
                self._segments(view.hidden, Layer.THIN)

    def _segments(self, segments: Vec, layer: Layer) -> None:
        """Segments (n, 4) of a view in its own mm, as far as they lie in it."""
        for a, b in zip(segments[:, :2], segments[:, 2:], strict=True):
            share = clipped(a, b, self.low, self.high)
            if share is not None:
                (p, q) = (self.at(*(a + s * (b - a)).tolist()) for s in share)
                self.board.line(layer, *p, *q)

    def _rings(self, rings: Iterable[Ring]) -> None:
        """Holes that are seen face on."""
        for ring in rings if self.frame.shows.holes else ():
            if ring.seen and self._within([(ring.u, ring.v)]):
                self.board.circle(Layer.THIN, *self.at(ring.u, ring.v), max(_DOT, ring.d / 2 / self.scale))

    def _tabs(self, piece: Piece, a: Vec, b: Vec) -> None:
        """A tick at each end on the side that its tab stands on."""
        long = float(np.linalg.norm(b - a))
        if long < 6 * _TRIANGLE:
            return
        on = (b - a) / long
        left = np.array([-on[1], on[0]])
        for side, at, way in ((piece.tabs[0], a, on), (piece.tabs[1], b, -on)):
            if side:
                p = at + way * (_CLEAR + 1.0) + left * side * _TAB
                q = p + way * _TRIANGLE
                self.board.line(Layer.OUTLINE, *p.tolist(), *q.tolist())

    def _told_by_shape(self, piece: Piece, ends: Ends) -> None:
        """A member's section, turned into the view about its line."""
        if not self.frame.shows.shape or piece.way != STICKS or piece.path:
            return
        m, (a, b) = piece.member, ends
        s = section(m.section)
        if float(np.linalg.norm(b - a)) < 4 * _LEAST_SHAPE:
            return
        on = unit(b - a)
        frame = work_axes(np.asarray(m.start), np.asarray(m.end), m.roll)
        ring = ring_of(s)
        points = ring @ np.vstack([frame.y, frame.z])  # in the view's axes, square to the member
        across = np.array([-on[1], on[0]])
        up, aside = points[:, :2] @ across, points[:, 2]
        size = max(1.0, _LEAST_SHAPE * self.scale / max(s.d, s.b)) / self.scale
        at = a + 0.72 * (b - a)
        shown = at + size * (np.outer(aside, on) + np.outer(up, across))
        self.board.poly(Layer.THIN, [(float(x), float(y)) for x, y in shown], closed=True)
        self.board.keep_clear((*shown.min(axis=0).tolist(), *shown.max(axis=0).tolist()))

    def _side_by_side(self, lying: Sequence[tuple[Piece, Ends]]) -> dict[str, int]:
        """Pieces of one mark that lie beside one another, as many as are marked together at the middle one of them;
        none at the others. How far they go is drawn across them."""
        groups: dict[tuple[object, ...], list[tuple[float, Piece, Ends]]] = defaultdict(list)
        for piece, (a, b) in lying:
            on, long = unit(b - a), float(np.linalg.norm(b - a))
            across = np.array([-on[1], on[0]])
            step = max(_BESIDE * long, 1.0)
            turn = round(math.degrees(math.atan2(on[1], on[0])), 1)
            key = piece.mark, turn, round(long / step), round(float(a @ on) / step)
            groups[key].append((float(a @ across), piece, (a, b)))
        found: dict[str, int] = {}
        for group in groups.values():
            if len(group) < _MANY:
                continue
            group.sort(key=lambda one: one[0])
            middle = group[(len(group) - 1) // 2][1]
            found |= {piece.member.id: 0 for _, piece, _ in group} | {middle.member.id: len(group)}
            (_, _, first), (_, _, last) = group[0], group[-1]
            p, q = (ends[0] + 0.3 * (ends[1] - ends[0]) for ends in (first, last))
            self.board.line(Layer.DIMENSION, *p.tolist(), *q.tolist())
            for x, y in (p.tolist(), q.tolist()):
                self.board.circle(Layer.DIMENSION, x, y, 0.8)
        return found

    # -- words ------------------------------------------------------------------------------------
    def _said_of(self, piece: Piece, flat: bool) -> str:
        """A member's section with its height or slope, and what else is asked of it. Nothing for one that is seen much
        shortened."""
        m, shows = piece.member, self.frame.shows
        more = " ".join((*piece.words, *([f"({piece.studs})"] if piece.studs else [])))
        name = m.section if shows.sizes in (ONCE, EACH) else ""
        if flat:
            height = self._height(m)
        elif math.dist(m.start[:2], m.end[:2]) < _SHORTENED * math.dist(m.start, m.end):
            return ""
        else:
            height = self._slope(m) or self._off_level(m)
        return " ".join(filter(None, (name, height, more)))

    def _height(self, m: Member) -> str:
        if self.frame.shows.heights == UNSAID:
            return ""
        base = self.frame.origin[2]
        heights = [base + self.up * p[2] for p in (m.start, m.end)]
        if all(abs(h - base) <= _PLACED for h in heights):
            return ""
        own = heights if abs(heights[0] - heights[1]) > _PLACED else heights[:1]
        if self.frame.shows.heights == FROM_LEVEL:
            signed = (f"{'+' if h > base else '-'}{format_length(abs(h - base), self.units)}" for h in own)
            return f"({' to '.join(signed)})"
        return f"({' to '.join(format_elevation(h, self.units) for h in own)})"

    def _off_level(self, m: Member) -> str:
        """The height of level steel in an upright view that is at no level."""
        if not self._says_heights() or abs(m.end[1] - m.start[1]) > _PLACED or self._at_level(m.start[1]):
            return ""
        z = self.frame.origin[2] + m.start[1]
        if self.frame.shows.heights == FROM_LEVEL and self.heights:
            near = min(self.heights, key=lambda h: abs(z - h))
            return f"({'+' if z > near else '-'}{format_length(abs(z - near), self.units)})"
        return f"({format_elevation(z, self.units)})"

    def _at_level(self, v: float) -> bool:
        return any(abs(self.frame.origin[2] + v - h) <= _PLACED for h in self.heights)

    def _says_heights(self) -> bool:
        shows = self.frame.shows
        return self.plumb and shows.offs and shows.heights != UNSAID

    def _slope(self, m: Member) -> str:
        """The slope of a member in an upright view, with the heights of its work points where one is at no level; of a
        brace these alone."""
        run, rise = math.hypot(m.end[0] - m.start[0], m.end[2] - m.start[2]), abs(m.end[1] - m.start[1])
        slope = math.atan2(rise, run)
        if not self.plumb or slope <= _SLOPING[0]:
            return ""
        ends = [p[1] for p in (m.start, m.end)]
        said = " to ".join(format_elevation(self.frame.origin[2] + v, self.units) for v in ends)
        told = self._says_heights() and not all(map(self._at_level, ends))
        if m.role is Role.BRACE:
            return f"(WP {said})" if told else ""
        if slope >= _SLOPING[1]:
            return ""
        more = f", {said}" if told else ""
        if self.units is Units.METRIC:
            return f"({math.degrees(slope):.1f} DEG{more})"
        return f"({format_length(12 * 25.4 * math.tan(slope), self.units)} IN 12{more})"

    # -- site work and signs ----------------------------------------------------------------------
    def bolts(self) -> None:
        """Site bolts as filled dots, shop bolts as open ones."""
        half = max(_DOT, 12.0 / self.scale)
        for spots, filled in ((self.sight.bolts, True), (self.sight.shop, False)):
            for u, v in self._within(spots):
                x, y = self.at(u, v)
                corners = [(x - half, y), (x, y + half), (x + half, y), (x, y - half)]
                self.board.poly(Layer.THIN, corners, closed=True, filled=filled)
                self.board.forbid(x - half, y, x + half, y)

    def welds(self) -> None:
        for n, weld in enumerate(self.sight.welds):
            if not self._within([weld.at]):
                continue
            x, y = self.at(*weld.at)
            key = f"{self.view}|weld {n} {weld.words}"
            self.tips[key] = (x, y)
            self.say(key, _around(x, y, weld.words))

    def _within(self, spots: Iterable[Spot]) -> list[Spot]:
        x0, y0, x1, y1 = self.window
        return [(u, v) for u, v in spots if x0 <= u <= x1 and y0 <= v <= y1]

    def signs(self) -> None:
        for sign in self.sight.signs:
            since = len(self.board.items)
            if sign.box:
                self._detail(sign)
            else:
                self._cut(sign)
            self.board.spot(f"{self.view}|sign {sign.frame}", since, link_to(sign.sheet))

    def _cut(self, sign: Sign) -> None:
        """Where another view cuts this one: a bubble at each end with an arrow the way it is looked."""
        share = clipped(np.array(sign.a), np.array(sign.b), self.low, self.high)
        if share is None:
            return
        a, b = np.array(sign.a), np.array(sign.b)
        ends = [np.array(self.at(*(a + s * (b - a)).tolist())) for s in share]
        on = unit(ends[1] - ends[0])
        look = np.array(sign.towards)
        for end, way in ((ends[0], -on), (ends[1], on)):
            first, covered = view_lines.clear_of(self, end, way)
            at = next((p for n in range(24) if self._clear(p := end + way * (first + 4.0 * n))), end + way * first)
            self.board.line(Layer.THIN, *(end + way * covered).tolist(), *(at - way * BUBBLE).tolist())
            self._bubbled(at, sign)
            across = np.array([-look[1], look[0]])
            tip = at + look * (BUBBLE + 3.0)
            corners = (tip, at + look * BUBBLE + across * 2.4, at + look * BUBBLE - across * 2.4)
            self.board.poly(Layer.THIN, [(float(p[0]), float(p[1])) for p in corners], closed=True, filled=True)

    def _clear(self, at: Vec) -> bool:
        reach = BUBBLE + 3.0
        return self.board.is_free((at[0] - reach, at[1] - reach, at[0] + reach, at[1] + reach))

    def _detail(self, sign: Sign) -> None:
        """What another view shows larger: a box about it, and its sign at a corner."""
        (x0, y0), (x1, y1) = self.at(*sign.a), self.at(*sign.b)
        self.board.poly(Layer.HIDDEN, [(x0, y0), (x1, y0), (x1, y1), (x0, y1)], closed=True)
        corners = ((x1, y1, 1, 1), (x0, y1, -1, 1), (x1, y0, 1, -1), (x0, y0, -1, -1))
        for n in range(16):
            for x, y, sx, sy in corners:
                at = np.array([x + sx * (BUBBLE + 2.0 + 3.0 * n), y + sy * (BUBBLE + 2.0 + 3.0 * n)])
                if self._clear(at):
                    way = unit(at - np.array([x, y]))
                    self.board.line(Layer.THIN, x, y, *(at - way * BUBBLE).tolist())
                    self._bubbled(at, sign)
                    return

    def _bubbled(self, at: Vec, sign: Sign) -> None:
        """A bubble with a view's number over its sheet's name."""
        x, y = at.tolist()
        self.board.circle(Layer.THIN, x, y, BUBBLE)
        self.board.line(Layer.THIN, x - BUBBLE, y, x + BUBBLE, y)
        for words, up in ((sign.number, 2.0), (sign.sheet, -2.2)):
            self.board.text(Text(x, y + up, words, 2.5 if width(words, 2.5) < 8 else 1.8, "c"))
        self.board.keep_clear((x - BUBBLE, y - BUBBLE, x + BUBBLE, y + BUBBLE))

    def match_lines(self, sides: Iterable[tuple[str, str]]) -> None:
        """Where the view goes on, on another sheet: `sides` (left, right, below, above) with what that is called."""
        (left, low), (right, high) = self.at(*self.window[:2]), self.at(*self.window[2:])
        lines = {"left": (left, low, left, high), "right": (right, low, right, high), "below": (left, low, right, low),
            "above": (left, high, right, high)}  # fmt: skip
        for side, name in sides:
            x0, y0, x1, y1 = lines[side]
            self.board.line(Layer.MATCH, x0, y0, x1, y1)
            upright = x0 == x1
            words, middle = f"MATCH LINE, SEE {name}", np.array([x0 + x1, y0 + y1]) / 2
            out = {"left": -1.0, "right": 1.0, "below": -1.0, "above": 1.0}[side]
            away = np.array([out, 0.0] if upright else [0.0, out])
            spots = ((middle + away * (3.0 + 1.5 * k)).tolist() for k in range(40))
            self.board.place(Text(x, y, words, TEXT, "c", 90.0 if upright else 0.0) for x, y in spots)

    def titled(self, words: str) -> None:
        """The view's title under it, by which it is moved as a whole."""
        x0, y0, x1, _ = self.board.extent()
        since = len(self.board.items)
        text = Text((x0 + x1) / 2, y0 - 6.0, words, 3.5, "c")
        self.board.text(text)
        half = width(words, 3.5) / 2
        self.board.line(Layer.THIN, text.x - half, y0 - 9.0, text.x + half, y0 - 9.0)
        self.board.spot(f"{self.view}|place", since, "view")

    def measured(self) -> None:
        """A scale bar under the view, and where north is in one that is level."""
        place, (x0, y0, _, _) = placed(self.frame), self.board.extent()
        if is_level(self.frame):
            east, up = float(place.x[1]), float(place.y[1])  # how far north each of its own ways goes
            north(self.board, x0 + 6.0, y0 - TALL / 2 - 2.0, math.degrees(math.atan2(-east, up)))
        elif not is_upright(self.frame):
            return  # nothing is as long as it is in a view askew
        scale_bar(self.board, x0 + 18.0, y0 - TALL / 2 - 4.0, self.scale, self.units)


def _layer(piece: Piece, usual: Layer = Layer.STICK) -> Layer:
    if piece.faint:
        return Layer.FAINT
    if piece.standing:
        return Layer.STANDING
    if piece.heavy:
        return Layer.HEAVY
    return Layer.HIDDEN if piece.dashed else usual


def stretches(piece: Piece) -> Iterator[tuple[Spot, Spot]]:
    """A piece's line in the view, stretch by stretch."""
    m = piece.member
    return itertools.pairwise(piece.path or ((m.start[0], m.start[1]), (m.end[0], m.end[1])))


def _around(x: float, y: float, words: str) -> Iterator[Text]:
    for out in range(1, 60):
        for sx, sy in ((1, 1), (-1, 1), (1, -1), (-1, -1)):
            yield Text(x + sx * (4.0 + 1.5 * out), y + sy * (3.0 + 1.5 * out), words, TEXT, "l" if sx > 0 else "r")
