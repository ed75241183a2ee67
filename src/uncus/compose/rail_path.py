"""The path of a rail: its values, the legs it runs in, where its posts stand, which of its bays open."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Given
from uncus.compose.stair_rules import NAMES, RULES
from uncus.frame.placement import Vec
from uncus.job.forms import About

MIDDLE, BARS, PANELS = BETWEEN = ("middle rails", "bars", "panels")
FOUR, TWO, SIDE, WELDED, SOCKET = FEET = ("plate with four bolts", "plate with two bolts", "plate on the side",
    "welded on", "into a socket")  # fmt: skip
CUT, RETURNED, WALL = ENDS = ("cut", "returned to the middle rail", "to a wall, with a plate")
MITRED, BENT, PARTED = CORNERS = ("mitred", "bent", "parted")
_TIGHT = 35.0  # degrees between two legs under which a corner is parted whatever is asked for
SLOPING = math.radians(1.0)
GATE, LOOSE = "gate", "removable"
_IN_LINE = math.radians(0.5)
_CLEAR = 15.0  # mm between parted ends


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[0]
    height: Annotated[float | None, About("Height", low=200, high=3000,
        help="Over the path to the top of the top rail; left open: what the rule asks of a guard.")] = None  # fmt: skip
    top: Annotated[str, About("Top rail", unit="section")] = "HSS1.900X0.145"
    posts: Annotated[str, About("Posts", unit="section")] = "HSS1.900X0.145"
    spacing: Annotated[float, About("Posts at most apart", low=200, high=6000)] = 1828.8
    longest: Annotated[float, About("Rails at most long", low=500, high=20_000,
        help="Longer ones come in lengths that are welded on site, past posts.")] = 6096.0  # fmt: skip
    from_end: Annotated[float, About("From ends and corners", low=0, high=3000)] = 152.4
    between: Annotated[str, About("Between", unit="choice", choices=BETWEEN)] = MIDDLE
    middle: Annotated[str, About("Middle rails", unit="section", only=("between", MIDDLE))] = "HSS1.900X0.145"
    rails: Annotated[int, About("How many", unit="count", low=0, high=12, only=("between", MIDDLE))] = 1
    bar: Annotated[str, About("Bars", unit="section", only=("between", BARS), help="A flat, such as PL1/4X1.")] = (
        "PL1/4X1"
    )
    gap: Annotated[float, About("Clear between bars", low=20, high=500, only=("between", BARS))] = 101.6
    low: Annotated[float, About("Lowest edge over the path", low=10, high=500, only=("between", BARS, PANELS))] = 76.2
    panel: Annotated[float, About("Panels", low=1.5, high=20, only=("between", PANELS), help="Thickness.")] = 3.175
    toe: Annotated[float, About("Toe board", low=0, high=400, help="Its height; none: 0.")] = 0.0
    toe_thickness: Annotated[float, About("Toe board's thickness", low=3, high=15)] = 6.35
    foot: Annotated[str, About("Posts stand", unit="choice", choices=FEET)] = FOUR
    plate: Annotated[float, About("Plates of posts", low=4, high=40)] = 9.525
    hole: Annotated[float, About("Holes of plates", low=6, high=30)] = 14.2875
    aside: Annotated[float, About("To the left of the path", low=-3000, high=3000,
        help="Seen along it; minus to the right.")] = 0.0  # fmt: skip
    socket: Annotated[str, About("Sockets", unit="section", only=("foot", SOCKET),
        help="The tubes that posts go into: square bolted, round grouted.")] = "HSS2-1/2X2-1/2X1/8"  # fmt: skip
    socket_deep: Annotated[float, About("Sockets' depth", low=50, high=600, only=("foot", SOCKET),
        help="Under the path.")] = 152.4  # fmt: skip
    corners: Annotated[str, About("Corners", unit="choice", choices=CORNERS)] = MITRED
    bent_to: Annotated[float, About("Bent to", low=20, high=3000, only=("corners", BENT),
        help="The radius of the rails' axes.")] = 101.6  # fmt: skip
    gates: Annotated[str, About("Gates in bays", unit="text",
        help="Numbers of bays, counted along the path from its beginning, such as 2, 5.")] = ""  # fmt: skip
    removable: Annotated[str, About("Removable bays", unit="text",
        help="Numbers of bays whose rails are bolted to their posts.")] = ""  # fmt: skip
    closed: Annotated[bool, About("Goes round", unit="flag", help="From its last point to its first.")] = False
    first_end: Annotated[str, About("It begins", unit="choice", choices=ENDS)] = CUT
    last_end: Annotated[str, About("It ends", unit="choice", choices=ENDS)] = CUT


class Leg(NamedTuple):
    """A straight stretch of the path, after it was moved aside: which of the path's it is, and whether it goes on round
    a mitred corner at either end."""

    number: int
    a: Vec
    b: Vec
    before: bool
    after: bool
    on_: tuple[tuple[float, str], ...] = ()  # what it stands on: up to where along it, and its id

    @property
    def long(self) -> float:
        """Seen from above."""
        return float(np.hypot(*(self.b - self.a)[:2]))

    @property
    def on(self) -> Vec:
        """Level, the way it runs."""
        step = self.b - self.a
        return np.array([step[0], step[1], 0.0]) / self.long

    @property
    def slope(self) -> float:
        return math.atan2(float(self.b[2] - self.a[2]), self.long)

    def host(self, x: float) -> str | None:
        """The id of what it stands on so far along; None for none."""
        return next((id or None for end, id in self.on_ if x <= end + 1e-6), None)

    def at(self, x: float, up: float = 0.0) -> Vec:
        """A point so far along, seen from above, and so high over it."""
        return np.asarray(self.a + (self.b - self.a) * (x / self.long) + (0.0, 0.0, up))


class Top(NamedTuple):
    """A stretch of a leg's top rail: where it begins and ends along it, its key, and whether it runs on into the
    next or a bay opens there."""

    a: float
    b: float
    key: str
    on: bool = False


def tops(leg: Leg, p: Params, opened: Iterable[int]) -> list[Top]:
    """The stretches of a leg's top rail, left open at the bays (from 1) that open. Raises ValueError where nothing is
    left of one."""
    at, half, key = stations(leg, p), section(p.posts).d / 2, f"leg {leg.number + 1} top"
    edges = [0.0]
    for n in sorted(opened):
        edges += [at[n - 1] + half, at[n] - half]
    edges.append(leg.long)
    found: list[Top] = []
    for a, b in zip(edges[::2], edges[1::2], strict=True):
        if b - a < 3 * half:
            raise ValueError("two of its bays that open stand side by side, or at an end; leave a bay between them")
        cuts = _cuts(a, b, at, p.longest)
        for c, d in pairwise([a, *cuts, b]):
            found.append(Top(c, d, f"{key} {len(found) + 1}" if found else key, d in cuts))
    return found


def over_at(tops: Iterable[Top], x: float) -> str:
    """The key of the stretch of a top rail that lies over a place along its leg, or of the nearest."""
    return min(tops, key=lambda top: max(top.a - x, x - top.b, 0.0)).key


def _cuts(a: float, b: float, posts: Sequence[float], longest: float) -> list[float]:
    """Where a rail from a to b is parted so that no length is longer: a quarter of a bay past a post."""
    places = [x + (y - x) / 4 for x, y in pairwise(posts) if a < x and y < b]
    cuts, at = [], a
    while b - at > longest:
        within = [x for x in places if at < x <= at + longest]
        if not within:
            break
        at = within[-1]
        cuts.append(at)
    return cuts


def opening(p: Params, legs: Sequence[Leg]) -> dict[tuple[int, int], str]:
    """Which bays open and how: by the number of the leg and of the bay in it, from 1. Raises ValueError for a number
    that no bay has."""
    bays = [(leg.number, n) for leg in legs for n in range(1, len(stations(leg, p)))]
    found: dict[tuple[int, int], str] = {}
    for how, text in ((GATE, p.gates), (LOOSE, p.removable)):
        for word in text.replace(",", " ").split():
            if not word.isdigit() or not 1 <= int(word) <= len(bays):
                raise ValueError(f"it has no bay {word}: its bays are numbered from 1 to {len(bays)} along its path")
            found[bays[int(word) - 1]] = how
    level = {leg.number for leg in legs if abs(leg.slope) <= SLOPING}
    if any(number not in level for number, _ in found):
        raise ValueError("a bay on a slope does not open; choose one that is level")
    return found


def levels_of(p: Params, high: float) -> list[float]:
    """How high the axes of middle rails lie over the path, from the top down; of bars, their bottom rail."""
    if p.between == MIDDLE:
        return [high * k / (p.rails + 1) for k in range(p.rails, 0, -1)]
    return [p.low + section(p.top).d / 2] if p.between == BARS else []


def height_of(p: Params) -> float:
    return p.height if p.height is not None else RULES[p.rule].guard


def legs_of(given: Given) -> list[Leg]:
    """The path moved aside, and where its corners are parted. Raises ValueError for a stretch that is no way along."""
    p: Params = given.params
    points = [np.asarray(q) for q in given.points]
    if p.closed and len(points) > 2:
        points.append(points[0])
    steps = [b - a for a, b in zip(points, points[1:], strict=False)]
    if any(float(np.hypot(*s[:2])) < 50.0 for s in steps):
        raise ValueError("two points of its path stand over one another, or nearly; pick them farther apart")
    on = [np.array([s[0], s[1], 0.0]) / np.hypot(*s[:2]) for s in steps]
    left = [np.array([-d[1], d[0], 0.0]) for d in on]
    n = len(steps)
    ends: list[list[Vec]] = [[points[i] + p.aside * left[i], points[i + 1] + p.aside * left[i]] for i in range(n)]
    joined = [False] * n  # whether a leg goes on to the next
    for i in range(n if p.closed else n - 1):
        j = (i + 1) % n
        if p.corners == PARTED or float(on[i] @ on[j]) < -math.cos(math.radians(_TIGHT)) or _twists(p, steps, i, j):
            _part(p, ends[i], ends[j])
            continue
        joined[i] = True
        mitre = points[i + 1] + p.aside * (left[i] + left[j]) / (1 + float(left[i] @ left[j]))
        ends[i][1] = ends[j][0] = mitre
    found = [Leg(i, a, b, joined[i - 1] if i or p.closed else False, joined[i]) for i, (a, b) in enumerate(ends)]
    hosts = [given.host(n) or "" for n in range(len(given.record.anchors))]
    return _in_line([leg._replace(on_=((leg.long, hosts[leg.number]),)) for leg in found])


def _in_line(legs: list[Leg]) -> list[Leg]:
    """Legs that run on in one line as one: its posts are spread over all of it, whatever each stretch stands on."""
    found = legs[:1]
    for leg in legs[1:]:
        last = found[-1]
        straight = abs(last.slope - leg.slope) < _IN_LINE and float(last.on @ leg.on) > math.cos(_IN_LINE)
        if last.after and straight:
            own = tuple((last.long + end, id) for end, id in leg.on_)
            found[-1] = last._replace(b=leg.b, after=leg.after, on_=(*last.on_, *own))
        else:
            found.append(leg)
    return found


def _part(p: Params, one: list[Vec], other: list[Vec]) -> None:
    """Draw two legs back from the corner that they meet in without being joined, so that they stand clear."""
    into, away = (e[1] - e[0] for e in (one, other))
    long = [float(np.hypot(*v[:2])) for v in (into, away)]
    turn = math.atan2(abs(float(into[0] * away[1] - into[1] * away[0])), -float(into[:2] @ away[:2]))  # between them
    wide = max(section(p.top).d, section(p.posts).d) / 2
    if turn >= math.radians(_TIGHT):
        back = [max(_CLEAR, (wide + _CLEAR) / math.tan(turn / 2))] * 2
    else:  # the one goes on to the corner, the other begins where there is room beside it
        plates = 2 * (wide + 2.6 * p.hole) + _CLEAR
        back = [0.0, plates / max(math.sin(turn), 1e-3)]
    for n, (by, whole) in enumerate(zip(back, long, strict=True)):
        if by > whole - 2 * wide - _CLEAR:
            raise ValueError("two legs of its path lie too near to one another for rails on both; move a point")
        if n == 0:
            one[1] = one[1] - into * (by / whole)
        else:
            other[0] = other[0] + away * (by / whole)


def _twists(p: Params, steps: list[Vec], i: int, j: int) -> bool:
    """Whether a rail that is not round would have to twist: where it turns and changes its slope in one corner."""
    if section(p.top).form is Form.TUBE:
        return False
    a, b = steps[i], steps[j]
    turn = abs(math.atan2(float(a[0] * b[1] - a[1] * b[0]), float(a[:2] @ b[:2])))
    slopes = [math.atan2(float(s[2]), float(np.hypot(*s[:2]))) for s in (a, b)]
    return turn > _IN_LINE and abs(slopes[0] - slopes[1]) > _IN_LINE


def stations(leg: Leg, p: Params) -> list[float]:
    """Where posts stand along a leg: evenly, at most the spacing apart, away from its ends."""
    inner = leg.long - 2 * p.from_end
    if inner < p.from_end:
        return [leg.long / 2]
    n = max(1, math.ceil(inner / p.spacing - 1e-6))
    return [p.from_end + inner * k / n for k in range(n + 1)]
