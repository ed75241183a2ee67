"""A rail along a path: posts, a top rail, what is between, a toe board; round corners, up flights, along landings."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.stair_rules import NAMES, RULES
from uncus.frame.outlines import circle, rectangle, straight
from uncus.frame.placement import Placement, Vec
from uncus.frame.plates import plate_frame
from uncus.job.blanks import Blank, HoleRow
from uncus.job.forms import About
from uncus.job.records import End, Member, Role
from uncus.units import counted, format_length, length_in_words

MIDDLE, BARS, PANELS = BETWEEN = ("middle rails", "bars", "panels")
FOUR, TWO, SIDE, WELDED = FEET = ("plate with four bolts", "plate with two bolts", "plate on the side", "welded on")
CUT, RETURNED, WALL = ENDS = ("cut", "returned to the middle rail", "to a wall, with a plate")
MITRED, PARTED = CORNERS = ("mitred", "parted")
_TIGHT = 35.0  # degrees between two legs under which a corner is parted whatever is asked for
_SLOPING = math.radians(1.0)
_IN_LINE = math.radians(0.5)
_CLEAR = 15.0  # mm between parted ends


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[0]
    height: Annotated[float | None, About("Height", low=200, high=3000,
        help="Over the path to the top of the top rail; left open: what the rule asks of a guard.")] = None  # fmt: skip
    top: Annotated[str, About("Top rail", unit="section")] = "HSS1.900X0.145"
    posts: Annotated[str, About("Posts", unit="section")] = "HSS1.900X0.145"
    spacing: Annotated[float, About("Posts at most apart", low=200, high=6000)] = 1828.8
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
    corners: Annotated[str, About("Corners", unit="choice", choices=CORNERS)] = MITRED
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

    def at(self, x: float, up: float = 0.0) -> Vec:
        """A point so far along, seen from above, and so high over it."""
        return np.asarray(self.a + (self.b - self.a) * (x / self.long) + (0.0, 0.0, up))


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
    return [Leg(i, a, b, joined[i - 1] if i or p.closed else False, joined[i]) for i, (a, b) in enumerate(ends)]


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


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts, legs = Parts(given), legs_of(given)
    top = section(p.top)
    high = height_of(p) - top.d / 2
    if p.between != MIDDLE and Form.TUBE in (section(p.posts).form, top.form):
        raise ValueError(f"{p.between} stand between square posts and rails; choose square tubes for both")
    levels = _levels(p, high)
    for leg in legs:
        key = f"leg {leg.number + 1}"
        parts.member(f"{key} top", Role.RAIL, p.top, leg.at(0.0, high), leg.at(leg.long, high))
        posts = _posts(parts, leg, p, key, high, given.record.anchors[leg.number].on or None)
        _bays(parts, leg, p, key, levels, posts, high)
    for leg in legs:
        if leg.after:
            other = legs[(leg.number + 1) % len(legs)]
            _corner(parts, leg, other, levels, p)
        _end(parts, leg, p, levels, high, End.RIGHT, p.last_end if leg is legs[-1] else CUT)
        _end(parts, leg, p, levels, high, End.LEFT, p.first_end if leg is legs[0] else CUT)
    return parts.made


def _levels(p: Params, high: float) -> list[float]:
    """How high the axes of middle rails lie over the path; of bars, their bottom rail."""
    if p.between == MIDDLE:
        return [high * k / (p.rails + 1) for k in range(p.rails, 0, -1)]
    return [p.low + section(p.top).d / 2] if p.between == BARS else []


def _posts(parts: Parts, leg: Leg, p: Params, key: str, high: float, host: str | None) -> list[tuple[float, str]]:
    found = []
    sloping = abs(leg.slope) > _SLOPING
    square = section(p.posts).form is not Form.TUBE
    for n, x in enumerate(stations(leg, p), 1):
        name = f"{key} post {n}"
        foot = leg.at(x)
        up = leg.on if square else None
        start = foot + (0.0, 0.0, p.plate if p.foot in (FOUR, TWO) and not sloping else 0.0)
        if p.foot == SIDE:
            start = foot - (0.0, 0.0, 8 * p.hole)
        parts.member(name, Role.POST, p.posts, start, leg.at(x, high), up)
        parts.join(f"{name} head", "welded end", name, End.RIGHT, f"{key} top")
        if p.foot == SIDE:
            _side_plate(parts, leg, p, name, foot, host)
        elif p.foot == WELDED or sloping:
            if host is not None:
                parts.join(f"{name} foot", "welded end", name, End.LEFT, host)
        else:
            _foot_plate(parts, leg, p, name, foot, host)
        found.append((x, name))
    return found


def _foot_plate(parts: Parts, leg: Leg, p: Params, key: str, foot: Vec, host: str | None) -> None:
    s = section(p.posts)
    half = max(s.d, s.b) / 2 + 2.6 * p.hole
    long, wide = (half, half) if p.foot == FOUR else (half, max(s.b / 2 + p.plate, 1.6 * p.hole))
    at = half - 1.3 * p.hole
    rows = 2 if p.foot == FOUR else 1
    holes = HoleRow(-at, -at if rows == 2 else 0.0, p.hole, columns=2, rows=rows, dx=2 * at, dz=2 * at)
    axes = np.column_stack([leg.on, [0.0, 0.0, -1.0], np.cross(leg.on, [0.0, 0.0, -1.0])])
    place = Placement(foot + (0.0, 0.0, p.plate / 2), axes)
    parts.plate(
        f"{key} plate", Role.PLATE, place, Blank(rectangle((-long, -wide), (long, wide)), (), (holes,)), p.plate
    )
    parts.attach(f"{key} plate weld", "welded on", f"{key} plate", key)
    if host is not None:
        parts.attach(f"{key} plate bolts", "bolted on", f"{key} plate", host)
    else:
        parts.attach(f"{key} plate anchors", "anchored", f"{key} plate", deep=101.6)


def _side_plate(parts: Parts, leg: Leg, p: Params, key: str, foot: Vec, host: str | None) -> None:
    """A plate between the post and the side of what it stands beside, to the right of the path."""
    s = section(p.posts)
    right = np.array([leg.on[1], -leg.on[0], 0.0])
    axes = np.column_stack([leg.on, -right, [0.0, 0.0, 1.0]])
    place = Placement(foot + right * (s.b / 2 + p.plate / 2), axes)
    wide, at = s.d / 2 + 2.6 * p.hole, s.d / 2 + 1.3 * p.hole
    low = -8 * p.hole
    holes = HoleRow(-at, low + 1.6 * p.hole, p.hole, columns=2, rows=2, dx=2 * at, dz=4.8 * p.hole)
    blank = Blank(rectangle((-wide, low), (wide, 0.0)), (), (holes,))
    parts.plate(f"{key} plate", Role.PLATE, place, blank, p.plate)
    parts.attach(f"{key} plate weld", "welded on", key, f"{key} plate")
    if host is not None:
        parts.attach(f"{key} plate bolts", "bolted on", f"{key} plate", host)


def _bays(
    parts: Parts, leg: Leg, p: Params, key: str, levels: list[float], posts: list[tuple[float, str]], high: float
) -> None:
    """What is between each two posts of a leg."""
    rail = p.middle if p.between == MIDDLE else p.top
    for n, ((x0, one), (x1, other)) in enumerate(zip(posts, posts[1:], strict=False), 1):
        for k, level in enumerate(levels, 1):
            name = f"{key} bay {n} rail {k}"
            parts.member(name, Role.RAIL, rail, leg.at(x0, level), leg.at(x1, level))
            parts.join(f"{name} left", "welded end", name, End.LEFT, one)
            parts.join(f"{name} right", "welded end", name, End.RIGHT, other)
        if p.between == BARS:
            _bars(parts, leg, p, f"{key} bay {n}", (x0, x1), (levels[0], high), (f"{key} bay {n} rail 1", f"{key} top"))
        elif p.between == PANELS:
            _panel(parts, leg, p, f"{key} bay {n}", (x0, x1), high, (one, other))
        if p.toe:
            _toe(parts, leg, p, f"{key} bay {n}", (x0, x1), (one, other))


def _bars(
    parts: Parts,
    leg: Leg,
    p: Params,
    key: str,
    span: tuple[float, float],
    ends: tuple[float, float],
    to: tuple[str, str],
) -> None:
    """Upright bars between two rails, alike and no farther apart than is asked."""
    s, post, rail = section(p.bar), section(p.posts), section(p.top)
    if s.form is not Form.FLAT:
        raise ValueError(f"its bars are flats, such as PL1/4X1, which {p.bar} is not")
    clear = span[1] - span[0] - post.d
    n = max(0, math.ceil((clear - p.gap) / (p.gap + s.d)))
    half = rail.d / 2 / math.cos(leg.slope)
    for k in range(n):
        x = span[0] + post.d / 2 + (clear - n * s.d) / (n + 1) * (k + 1) + s.d * (k + 0.5)
        name = f"{key} bar {k + 1}"
        if abs(leg.slope) > _SLOPING:  # cut to the rails' slope
            parts.member(name, Role.RAIL, p.bar, leg.at(x, ends[0]), leg.at(x, ends[1]), leg.on)
            parts.join(f"{name} foot", "welded end", name, End.LEFT, to[0])
            parts.join(f"{name} head", "welded end", name, End.RIGHT, to[1])
            continue
        parts.member(name, Role.RAIL, p.bar, leg.at(x, ends[0] + half), leg.at(x, ends[1] - half), leg.on)
        parts.attach(f"{name} foot", "welded on", name, to[0])
        parts.attach(f"{name} head", "welded on", name, to[1])


def _panel(
    parts: Parts, leg: Leg, p: Params, key: str, span: tuple[float, float], high: float, posts: tuple[str, str]
) -> None:
    """A plate between two posts, under the top rail."""
    post, rail = section(p.posts), section(p.top)
    x0, x1 = span[0] + post.d / 2, span[1] - post.d / 2
    rise = math.tan(leg.slope) * (x1 - x0)
    top = high - rail.d / 2 / math.cos(leg.slope) - 25.0
    axes = np.column_stack([leg.on, np.cross([0.0, 0.0, 1.0], leg.on), [0.0, 0.0, 1.0]])
    ring = straight([(0.0, p.low), (x1 - x0, p.low + rise), (x1 - x0, top + rise), (0.0, top)])
    parts.plate(f"{key} panel", Role.PANEL, Placement(leg.at(x0), axes), Blank(ring), p.panel)
    for end, post_key in zip(("left", "right"), posts, strict=True):
        parts.attach(f"{key} panel {end}", "welded on", f"{key} panel", post_key)


def _toe(parts: Parts, leg: Leg, p: Params, key: str, span: tuple[float, float], posts: tuple[str, str]) -> None:
    """A board along the foot of a bay, from post to post."""
    post = section(p.posts)
    x0, x1 = span[0] + post.d / 2, span[1] - post.d / 2
    rise = math.tan(leg.slope) * (x1 - x0)
    axes = np.column_stack([leg.on, np.cross([0.0, 0.0, 1.0], leg.on), [0.0, 0.0, 1.0]])
    low = 6.0
    ring = straight([(0.0, low), (x1 - x0, low + rise), (x1 - x0, low + p.toe + rise), (0.0, low + p.toe)])
    parts.plate(f"{key} toe board", Role.PLATE, Placement(leg.at(x0), axes), Blank(ring), p.toe_thickness)
    for end, post_key in zip(("left", "right"), posts, strict=True):
        parts.attach(f"{key} toe board {end}", "welded on", f"{key} toe board", post_key)


def _corner(parts: Parts, leg: Leg, other: Leg, levels: list[float], p: Params) -> None:
    """Rails mitred round a corner; middle ones from the last post before it to the first after."""
    a, b = f"leg {leg.number + 1}", f"leg {other.number + 1}"
    parts.join(f"{a} top corner", "mitred ends", f"{a} top", End.RIGHT, f"{b} top")
    rail = p.middle if p.between == MIDDLE else p.top
    x0, x1 = stations(leg, p)[-1], stations(other, p)[0]
    last = len(stations(leg, p))
    for k, level in enumerate(levels, 1):
        one, two = f"{a} corner rail {k}", f"{b} corner rail {k} on"
        parts.member(one, Role.RAIL, rail, leg.at(x0, level), leg.at(leg.long, level))
        parts.member(two, Role.RAIL, rail, other.at(0.0, level), other.at(x1, level))
        parts.join(f"{one} post", "welded end", one, End.LEFT, f"{a} post {last}")
        parts.join(f"{two} post", "welded end", two, End.RIGHT, f"{b} post 1")
        parts.join(f"{one} mitre", "mitred ends", one, End.RIGHT, two)


def _end(parts: Parts, leg: Leg, p: Params, levels: list[float], high: float, end: End, how: str) -> None:
    """What closes the rails at an end of the path."""
    if how == CUT or (leg.after if end is End.RIGHT else leg.before):
        return
    key, right = f"leg {leg.number + 1}", end is End.RIGHT
    x = leg.long if right else 0.0
    at = stations(leg, p)
    post = f"{key} post {len(at) if right else 1}"
    rail = p.middle if p.between == MIDDLE else p.top
    mids = []
    for k, level in enumerate(levels, 1):
        name = f"{key} {end} rail {k}"
        ends = leg.at(at[-1], level), leg.at(x, level)
        parts.member(name, Role.RAIL, rail, *(ends if right else (leg.at(x, level), leg.at(at[0], level))))
        parts.join(f"{name} post", "welded end", name, end.other, post)
        mids.append((name, level))
    if how == WALL:
        for name, level in ((f"{key} top", high), *mids):
            _wall_plate(parts, leg, p, f"{name} {end} wall", name, leg.at(x, level), 1.0 if right else -1.0)
        return
    if not mids:
        return
    lowest, level = mids[-1]
    name = f"{key} {end} return"
    parts.member(name, Role.RAIL, p.top, leg.at(x, level), leg.at(x, high), leg.on)
    parts.join(f"{name} top", "mitred ends", name, End.RIGHT, f"{key} top")
    parts.join(f"{name} low", "mitred ends", name, End.LEFT, lowest)
    for other, _ in mids[:-1]:
        parts.join(f"{other} return", "welded end", other, end, name)


def _wall_plate(parts: Parts, leg: Leg, p: Params, key: str, rail: str, at: Vec, way: float) -> None:
    """A round plate between a rail's end and a wall, square to the rail's run in plan."""
    radius = section(p.top).d / 2 + 3.0 * p.hole
    out = leg.on * way
    side = np.array([-out[1], out[0], 0.0])
    place = Placement(at + out * p.plate / 2, np.column_stack([side, np.cross([0.0, 0.0, 1.0], side), [0.0, 0.0, 1.0]]))
    holes = HoleRow(-(radius - 1.5 * p.hole), 0.0, p.hole, columns=2, dx=2 * (radius - 1.5 * p.hole))
    parts.plate(key, Role.PLATE, place, Blank(circle(0.0, 0.0, radius), (), (holes,)), p.plate)
    parts.attach(f"{key} weld", "welded on", key, rail)
    parts.attach(f"{key} anchors", "anchored", key, side=_facing(parts, key, out), deep=101.6)


def _facing(parts: Parts, key: str, out: Vec) -> str:
    """On which side of a plate lies what it is anchored in."""
    plate = parts.made[key]
    assert isinstance(plate, Member)
    return "far" if float(plate_frame(plate).y @ out) > 0 else "near"


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen, and what cannot be made as it is asked for."""
    p: Params = given.params
    rule, units, legs = RULES[p.rule], given.units, legs_of(given)

    def said(what: str, value: float, limit: float, way: str) -> Said:
        return Said(f"{what} is {length_in_words(value, units)}; {rule.name} asks for {way} "
            f"{length_in_words(limit, units)}.")  # fmt: skip

    height = height_of(p)
    if height < rule.guard - 0.5:
        yield said("The rail's height", height, rule.guard, "at least")
    if rule.middle_gap is not None:
        gap = _widest_gap(p, height)
        if gap > rule.middle_gap + 0.5:
            yield said("The widest opening", gap, rule.middle_gap, "at most")
    if rule.toe_board is not None and p.toe < rule.toe_board - 0.5:
        yield said("The toe board", p.toe, rule.toe_board, "at least")
    if rule.post_spacing is not None and p.spacing > rule.post_spacing + 0.5:
        yield said("The posts' spacing", p.spacing, rule.post_spacing, "at most")
    parted = sum(1 for leg in legs[:-1] if not leg.after)
    if parted and p.corners == MITRED:
        yield Said(f"{counted(parted, 'corner')} of the rail is parted: too sharp to be mitred, or turning and "
            "climbing at once, which only a round rail does.", False)  # fmt: skip
    hosts = [a.on for a in given.record.anchors]
    if any(abs(leg.slope) > _SLOPING and not hosts[leg.number] and p.foot != SIDE for leg in legs):
        yield Said("Its posts on a slope stand on nothing: pick the path on the stringer they are to stand on.")


def _widest_gap(p: Params, height: float) -> float:
    """The largest opening between its rails, or its bars."""
    if p.between == BARS:
        return max(p.gap, p.low)
    if p.between == PANELS:
        return max(p.low, 25.0)
    rail = section(p.middle).d
    return (height - rail * (p.rails + 1)) / (p.rails + 1)


def reading(given: Given) -> str:
    p: Params = given.params
    legs = legs_of(given)
    posts = sum(len(stations(leg, p)) for leg in legs)
    each = (stations(leg, p) for leg in legs)
    apart = max((b - a for at in each for a, b in zip(at, at[1:], strict=False)), default=0.0)
    total = format_length(sum(leg.long for leg in legs), given.units)
    spaced = f", at most {format_length(apart, given.units)} apart" if apart else ""
    return f"{total} of rail, {format_length(height_of(p), given.units)} high, {counted(posts, 'post')}{spaced}"


KIND = Compound(
    "rail",
    "Rail",
    Params,
    ("pick where the rail begins", "pick its next point, or Enter to make it"),
    build,
    "Posts and rails along a path over beams and corners, up flights and along landings.",
    open=True,
    told=told,
    reading=reading,
    metric={"rule": NAMES[2], "top": "CFCHS48.3X4", "posts": "CFCHS48.3X4", "middle": "CFCHS48.3X4", "spacing": 1500.0,
        "from_end": 150.0, "bar": "FL25X6", "gap": 100.0, "low": 75.0, "panel": 3.0, "toe": 100.0, "toe_thickness": 6.0,
        "plate": 10.0, "hole": 14.0},
)  # fmt: skip
