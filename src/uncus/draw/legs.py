"""Rails that turn corners or climb: each straight run of them is a leg, drawn in its own
upright plane from the side that lies to the right of who walks along; a plan tells how they stand to one another."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence

import msgspec
import numpy as np

from uncus.draw.annotation import Annotation, Chain, Note, Stop, stepping
from uncus.draw.breaks import Shortening
from uncus.draw.by_hand import applied, said
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT
from uncus.draw.placing import place
from uncus.draw.projection import project
from uncus.draw.sheet import Layer, Text
from uncus.draw.subject import Fixed, Subject, normal_of
from uncus.draw.views import Asked, Drawn
from uncus.frame.placement import Placement
from uncus.shop.pieces import Piece
from uncus.steel.joint import point
from uncus.steel.part import Part

PLAN = "plan"
_PLUMB = 0.99  # of slope from which a main part stands, as a ladder's side does
_RUN = 150.0  # mm in plan from which a length runs along and does not stand
_ALIKE = math.radians(1.0)  # between the directions of lengths in one plane
_BESIDE = 40.0  # mm between lengths in one plane: more than a rail's own width
_CORNER = 600.0  # mm from a leg's end within which the next one's line is met
_ASIDE, _ROUND = 4.6, 2.5  # mm of paper between a leg in plan and its number, and the radius of the ring about that
_SAME = 1.0  # mm within which corners are at one place of a chain

Spot = tuple[float, float, float]
Line = tuple[Spot, Spot]


class Leg(msgspec.Struct, frozen=True):
    """A straight run of an assembly, or several that are the same: their own subject, of which the longest length is
    the main one (`id` within the assembly, empty for the assembly's own main part, and `mark`), and their lines in plan
    in the order of walking."""

    numbers: tuple[int, ...]
    subject: Subject
    mark: str
    id: str
    lines: tuple[Line, ...]
    slope: float  # degrees by which it rises to the right

    def named(self, view: str) -> str:
        """The name of one of its views among those of the sheet."""
        return f"{view} {self.numbers[0]}"

    @property
    def words(self) -> str:
        which = f"LEG{'S' * (len(self.numbers) > 1)} {' AND '.join(map(str, self.numbers))}"
        if abs(self.slope) < 0.01:
            return which
        return f"{which}, {'RISING' if self.slope > 0 else 'FALLING'} {abs(self.slope):.2f}° TO THE RIGHT"


class _Length(msgspec.Struct, frozen=True):
    """A straight member in the plumb frame: both ends."""

    one: Fixed
    a: np.ndarray
    b: np.ndarray

    @property
    def way(self) -> np.ndarray:
        return np.asarray((self.b - self.a)[:2])

    @property
    def pitch(self) -> float:
        """Radians from level, whichever end is higher."""
        rise = abs(float(self.b[2] - self.a[2])) if self.runs else 0.0
        return math.atan2(rise, float(np.linalg.norm(self.way)))

    def span(self, way: np.ndarray) -> tuple[float, float]:
        a, b = float(self.a[:2] @ way), float(self.b[:2] @ way)
        return min(a, b), max(a, b)

    def over(self, other: _Length, way: np.ndarray) -> float:
        """How far it is above another of its slope."""
        slope = float(other.b[2] - other.a[2]) / float((other.b - other.a)[:2] @ way)
        return float(self.a[2] - other.a[2]) - slope * float((self.a - other.a)[:2] @ way)

    @property
    def runs(self) -> bool:
        return float(np.linalg.norm(self.way)) > _RUN


def up_of(pieces: Sequence[Piece]) -> tuple[float, float, float] | None:
    """Which way is up in a rail's main part's frame, where it turns corners or climbs; None where it is one run."""
    main = pieces[0]
    up = point(main.placement.axes.T @ np.array([0.0, 0.0, 1.0]))
    if main.part.section is None or main.part.is_formed or abs(up[0]) > _PLUMB or len(pieces) < 4:
        return None
    inverse = main.placement.inverse
    subject = Subject(main.part, tuple(_fixed(p.id, p.part, inverse @ p.placement) for p in pieces[1:]), up=up)
    return up if len([run for run in _runs(_lengths(subject)) if _over(run)]) > 1 else None


def legs_of(subject: Subject, mark: str) -> tuple[Leg, ...]:
    """The legs of an assembly in the order of walking; none where it turns no corner."""
    if subject.up is None:
        return ()
    planes = _runs(_lengths(subject))
    found = [_leg(runs) for runs in planes]
    others: dict[int, list[Fixed]] = defaultdict(list)
    held = {one.one.id for runs in planes for one in runs}
    plumb = plumb_of(subject)
    for f in subject.fixed:
        if f.id not in held:
            middle = plumb.to_model(f.centre)[:2]
            others[min(range(len(found)), key=lambda n: round(_off(middle, found[n][1]), 1))].append(f)
    legs: dict[object, Leg] = {}
    for number, n in enumerate(_walk([line for _, line in found]), 1):
        main, line = found[n]
        rest = [one.one for one in planes[n] if one.one is not main] + others[n]
        inverse = main.place.inverse
        fixed = [msgspec.structs.replace(f, place=inverse @ f.place) for f in rest]
        fixed = [msgspec.structs.replace(f, normal=normal_of(f.place)) for f in fixed]
        fixed.sort(key=lambda f: (*(round(float(c), 1) for c in f.centre[[0, 2, 1]]), f.mark))
        leg = Leg((number,), Subject(main.part, tuple(fixed)), main.mark or mark, main.id, (line,), _slope(plumb, main))
        first = legs.setdefault(_alike(leg), leg)
        if first is not leg:
            legs[_alike(leg)] = msgspec.structs.replace(first, numbers=(*first.numbers, number),
                lines=(*first.lines, line))  # fmt: skip
    return tuple(legs.values())


def _slope(plumb: Placement, main: Fixed) -> float:
    return math.degrees(math.asin(float((plumb.axes @ main.place.x)[2])))


def _alike(leg: Leg) -> object:
    """What legs that are drawn once have in common: their pieces, where these are, and what is seen of their holes."""
    boxes = [(f.mark, (np.round(f.box(), 0) + 0.0).tolist()) for f in leg.subject.fixed]
    rings = [sorted((round(r.u), round(r.v), round(r.d)) for r in project(leg.subject.bodies, view).rings)
        for view in ("front", "top")]  # fmt: skip
    return leg.mark, round(leg.slope, 2), str(boxes), str(rings)


def plumb_of(subject: Subject) -> Placement:
    """From the main part's frame to a plumb one, in which that part's plan is the first axis."""
    up = np.asarray(subject.up, float)
    across = np.cross(up, (1.0, 0.0, 0.0))
    across /= np.linalg.norm(across)
    axes = np.vstack([np.cross(across, up), across, up])
    return Placement(np.zeros(3), axes)


def _fixed(id: str, part: Part, here: Placement) -> Fixed:
    return Fixed(id, part, here, "", None, normal_of(here))


def _lengths(subject: Subject) -> list[_Length]:
    """The straight members, the main part first, turned plumb."""
    plumb = plumb_of(subject)
    members = [_fixed("", subject.main, Placement.identity()), *(f for f in subject.fixed if f.is_member)]
    straight = (f for f in members if not f.part.is_formed)
    return [_Length(f, *plumb.to_model(f.place.to_model([(0.0, 0.0, 0.0), (f.part.length, 0.0, 0.0)])))
        for f in straight]  # fmt: skip


def _runs(lengths: Sequence[_Length]) -> list[list[_Length]]:
    """Lengths by the straight run of the rail that they are of: in one upright plane, at one slope, beside or in line
    with one another."""
    runs: list[list[_Length]] = []
    for one in sorted((x for x in lengths if x.runs), key=lambda x: -float(np.linalg.norm(x.way))):
        near = [own for own in runs if any(_together(one, other) for other in own)]
        runs = [own for own in runs if all(own is not n for n in near)]
        runs.append([*itertools.chain(*near), one])
    return runs


def _together(one: _Length, other: _Length) -> bool:
    way = other.way / np.linalg.norm(other.way)
    away = one.a - other.a
    if abs(way[0] * one.way[1] - way[1] * one.way[0]) > math.sin(_ALIKE) * float(np.linalg.norm(one.way)):
        return False
    if abs(way[0] * away[1] - way[1] * away[0]) > _BESIDE or abs(one.pitch - other.pitch) > _ALIKE:
        return False
    (a, b), (c, d) = one.span(way), other.span(way)
    return max(a, c) - min(b, d) < _CORNER and (min(b, d) - max(a, c) > 0.0 or abs(one.over(other, way)) < _BESIDE)


def _over(run: Sequence[_Length]) -> bool:
    """Whether two lengths run over one another."""
    way = run[0].way / np.linalg.norm(run[0].way)
    for one, other in itertools.combinations(run, 2):
        (a, b), (c, d) = one.span(way), other.span(way)
        if min(b, d) - max(a, c) > _RUN and abs(one.over(other, way)) > _BESIDE:
            return True
    return False


def _leg(runs: Sequence[_Length]) -> tuple[Fixed, Line]:
    """A leg's main length, longest, highest; and that length's line, as far as the leg goes."""
    main = min(runs, key=lambda x: (-round(x.one.part.length), -float(x.a[2])))
    way = main.way / float(main.way @ main.way)
    along = [float((p[:2] - main.a[:2]) @ way) for x in runs for p in (x.a, x.b)]
    return main.one, (point(main.a + (main.b - main.a) * min(along)), point(main.a + (main.b - main.a) * max(along)))


def _off(p: np.ndarray, line: Line) -> float:
    a, b = np.asarray(line)[:, :2]
    s = min(max(float((p - a) @ (b - a)) / float((b - a) @ (b - a)), 0.0), 1.0)
    return float(np.linalg.norm(p - a - s * (b - a)))


def _walk(lines: Sequence[Line]) -> list[int]:
    """The order of walking: from the leg that none leads to, or the first, each to the one that begins nearest."""
    left = set(range(len(lines)))
    begins = [min((math.dist(lines[n][0], lines[m][1]) for m in left if m != n), default=0.0) for n in left]
    here = max(left, key=lambda n: (begins[n] > _CORNER, -n))
    order = []
    while True:
        order.append(here)
        left.discard(here)
        if not left:
            return order
        here = min(left, key=lambda n: (round(math.dist(lines[order[-1]][1], lines[n][0])), n))


# -- the plan -----------------------------------------------------------------------------------------------
def lines_of(legs: Sequence[Leg]) -> list[Line]:
    """The legs' lines in plan, in the order of walking."""
    return [line for _, line in sorted((n, line) for leg in legs
        for n, line in zip(leg.numbers, leg.lines, strict=True))]  # fmt: skip


def corners_of(lines: Sequence[Line]) -> list[tuple[float, float]]:
    """Where lines begin, meet and end, in the plumb frame."""
    found = [lines[0][0][:2]]
    for one, two in itertools.pairwise(lines):
        met = _met(one, two)
        found += [met] if met is not None else [one[1][:2], two[0][:2]]
    closing = _met(lines[-1], lines[0]) if len(lines) > 2 else None
    if closing is not None:
        found[0] = closing
        return found
    return [*found, lines[-1][1][:2]]


def _met(one: Line, two: Line) -> tuple[float, float] | None:
    """Where two lines cross in plan, near the end of the one and the start of the other; of two in one plane, where
    the slope changes."""
    (a, b), (c, d) = np.asarray(one), np.asarray(two)
    if math.dist(b, c) > _CORNER + _RUN:
        return None
    way = (b - a) / np.linalg.norm((b - a)[:2])
    on, across = np.array([[way[0], way[1], 0.0], [0.0, 0.0, 1.0]]), np.array([[1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
    turn = (way[0] * (d - c)[1] - way[1] * (d - c)[0]) / np.linalg.norm((d - c)[:2])
    seen = on if abs(turn) < math.sin(_ALIKE) else across
    one_way, other, away = seen @ (b - a), seen @ (d - c), seen @ (c - a)
    cross = float(one_way[0] * other[1] - one_way[1] * other[0])
    if abs(cross) < 1e-6 * float(np.linalg.norm(one_way) * np.linalg.norm(other)):
        return None
    at = a + float(away[0] * other[1] - away[1] * other[0]) / cross * (b - a)
    near = max(np.linalg.norm((at - b)[:2]), np.linalg.norm((at - c)[:2])) < _CORNER
    return (float(at[0]), float(at[1])) if near else None


def plan_view(subject: Subject, legs: Sequence[Leg], scale: float, asked: Asked) -> Drawn:
    """All legs from above: where the corners are, how the legs are turned, and the side each is seen from."""
    plumb = plumb_of(subject)
    view = project([(part, plumb @ here) for part, here in subject.bodies], "top")
    canvas = Canvas(view, scale, Shortening())
    lines = lines_of(legs)
    for number, line in enumerate(lines, 1):
        _numbered(canvas, number, line)
    found = [*_set_out(corners_of(lines), view.box), *_turns(lines)]
    edited = applied(stepping(found), asked.of(PLAN), {})
    place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees)
    board = canvas.board
    middle = (canvas.x(view.box[0]) + canvas.x(view.box[2])) / 2
    board.text(Text(middle, board.extent()[1] - 4, "FROM ABOVE", TEXT, "c"))
    frame = msgspec.structs.replace(canvas.frame({}), name=PLAN)
    return Drawn(board, frame, tuple(said(e) for e in edited.lost))


def _set_out(corners: Sequence[tuple[float, float]], box: tuple[float, float, float, float]) -> Iterator[Annotation]:
    for side, axis, edge in (("below", 0, box[1]), ("left", 1, box[0])):
        stops: list[Stop] = []
        for n, corner in sorted(enumerate(corners), key=lambda c, axis=axis: c[1][axis] * (-1.0 if axis else 1.0)):  # type: ignore[misc]
            if not stops or abs(stops[-1].at - corner[axis]) > _SAME:
                stops.append(Stop(f"corner {n}", corner[axis], edge))
        if len(stops) > 1:
            yield Chain(f"{PLAN}|{side}", side, tuple(stops), rank=1, datum=stops[0].at)
        if len(stops) > 2:
            yield Chain(f"{PLAN}|{side} in all", side, (stops[0], stops[-1]), rank=2, datum=stops[0].at)


def _numbered(canvas: Canvas, number: int, line: Line) -> None:
    """A leg's number on the side from which it is seen, and which way that is."""
    (x0, y0), (x1, y1) = canvas.at(line[0][:2]), canvas.at(line[1][:2])
    along = np.array([x1 - x0, y1 - y0]) / math.dist((x0, y0), (x1, y1))
    away = np.array([along[1], -along[0]])
    middle = np.array([x0 + x1, y0 + y1]) / 2
    out = (middle + (_ASIDE + 1.5 * n) * away for n in range(30))
    at = next((p for p in out if canvas.board.is_clean((*(p - _ROUND).tolist(), *(p + _ROUND).tolist()))), middle)
    foot = at - _ROUND * away
    canvas.board.circle(Layer.THIN, float(at[0]), float(at[1]), _ROUND)
    points = [(float(p[0]), float(p[1])) for p in (foot + along, foot - 1.2 * away, foot - along)]
    canvas.board.poly(Layer.THIN, points, closed=True)
    canvas.board.text(Text(float(at[0]), float(at[1]) - TEXT / 2, str(number), TEXT, "c"))
    canvas.board.keep_clear((*(at - _ROUND).tolist(), *(at + _ROUND).tolist()))


def _turns(lines: Sequence[Line]) -> Iterator[Annotation]:
    """The angle between legs that are not square to one another, said at their corner."""
    pairs: Iterable[tuple[Line, Line]] = itertools.pairwise((*lines, lines[0]) if len(lines) > 2 else lines)
    for n, (one, two) in enumerate(pairs, 1):
        at = _met(one, two)
        if at is None:
            continue
        ways = [math.atan2(b[1] - a[1], b[0] - a[0]) for a, b in (one, two)]
        turn = abs((math.degrees(ways[1] - ways[0]) + 180.0) % 360.0 - 180.0)
        if 0.05 < turn < 180.0 and abs(turn - 90.0) > 0.05:
            yield Note(f"{PLAN}|turn {n}", at, f"{180.0 - turn:.2f}°")
