"""A truss: two chords, level, pitched, bowed or as scissors, and the web members between them."""

import math
from itertools import pairwise
from typing import Annotated, Any

import msgspec
import numpy as np

from uncus.catalog.sections import section
from uncus.frame.axes import UP
from uncus.frame.numbers.kind import ByNumbers, Placed, between, even
from uncus.frame.placement import Vec, unit
from uncus.frame.roll import towards
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Double, Member, Role
from uncus.units import FOOT

_CLOSED = 1.0  # mm between chords under which they meet


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    form: Annotated[
        str,
        About(
            "Form",
            unit="choice",
            choices=("parallel chords", "pitched", "bow", "scissors"),
            help="Pitched: two slopes over a level chord; bow: the upper chord bends at each panel; scissors: both "
            "chords rise to the middle.",
        ),
    ] = "parallel chords"
    web: Annotated[
        str,
        About(
            "Web",
            unit="choice",
            choices=("Pratt", "Howe", "Warren"),
            help="Pratt: diagonals fall to the middle; Howe: they rise to it; Warren: up and down without posts.",
        ),
    ] = "Pratt"
    depth: Annotated[
        float,
        About("Depth at the ends", low=0, high=20_000, help="Between work lines; nothing: the chords meet there."),
    ] = 4 * FOOT
    rise: Annotated[
        float,
        About(
            "Upper chord rises",
            low=0,
            high=30_000,
            help="From its ends to the middle.",
            only=("form", "pitched", "bow", "scissors"),
        ),
    ] = 4 * FOOT
    lift: Annotated[
        float,
        About("Lower chord rises", low=0, high=30_000, help="From its ends to the middle.", only=("form", "scissors")),
    ] = 2 * FOOT
    panels: Annotated[int, About("Panels", unit="count", low=1, high=200)] = 6
    ends: Annotated[
        str,
        About(
            "At the ends",
            unit="choice",
            choices=("posts", "no posts"),
            help="Posts: between the ends of the chords.",
        ),
    ] = "posts"
    inset: Annotated[
        float,
        About(
            "End panels in from the points picked",
            low=0,
            high=5_000,
            help="Between columns: from the column's line to the last web; the chords run on to the points picked.",
        ),
    ] = 0.0
    chord: Annotated[str, About("Chords", unit="section")] = "HSS6X6X1/4"
    diagonal: Annotated[str, About("Diagonals", unit="section")] = "HSS4X4X1/4"
    post: Annotated[str, About("Posts", unit="section")] = "HSS4X4X1/4"
    gap: Annotated[
        float,
        About(
            "Gap between webs",
            low=0,
            high=500,
            help="At the chord, along which diagonals move for it; nothing: "
            "all meet at one work point, as gussets want.",
        ),
    ] = 25.4
    pair: Annotated[str, About("Web angles", unit="choice", choices=("single", "pairs"))] = "single"
    below: Annotated[
        str,
        About("Points picked are on the", unit="choice", choices=("top chord", "bottom chord"), help="At its ends."),
    ] = "top chord"


class _Outline(msgspec.Struct, frozen=True, eq=False):
    """Where the two chords are at each panel point, (n, 3) each, and the ends of the lengths that each is made of."""

    low: Vec
    high: Vec
    lower: tuple[Vec, ...]
    upper: tuple[Vec, ...]

    def is_open(self, n: int) -> bool:
        """Whether there is room for a web at a panel point."""
        return float((self.high[n] - self.low[n]) @ UP) > _CLOSED


def build(p: Params, placed: Placed) -> list[Member]:
    if p.panels % 2 and (p.web != "Warren" or p.form != "parallel chords"):
        what = p.web if p.form == "parallel chords" else p.form
        raise JobError(f"A {what} truss needs an even number of panels, so that it has a middle; type {p.panels + 1}.")
    line = _outline(p, placed)
    out = _chords(p, line)

    def web(role: Role, section: str, a: Vec, b: Vec, **values: Any) -> None:
        double = Double() if p.pair == "pairs" and section.startswith("L") else None
        made = between(role, section, a, b, double=double, **values)
        if role is Role.POST:  # its sides lie in the truss's plane, whichever way that runs
            made = msgspec.structs.replace(made, roll=round(towards(made, placed.level_way), 6) % 360.0)
        out.append(made)

    for n in _posts(p):
        if line.is_open(n):
            past = _past_chords(p, line, n)
            # chords are welded to the faces of one that they end on, which is as wide as they are
            web(Role.POST, p.chord if past else p.post, line.low[n], line.high[n], **past)
    for n, falls in enumerate(_falling(p)):
        if line.is_open(n) and line.is_open(n + 1):  # else it would lie on a chord
            web(Role.BRACE, p.diagonal, *_diagonal(p, line, n, falls))
    return out


def _past_chords(p: Params, line: _Outline, n: int) -> dict[str, Any]:
    """How far a post goes on past its work points: through chords whose lengths end on it in the middle."""
    found = {}
    for end, spot, points in (("left_back", line.low[n], line.lower), ("right_back", line.high[n], line.upper)):
        if any(np.linalg.norm(point - spot) < _CLOSED for point in points[1:-1]):
            level = math.hypot(*_run(points, spot, 1)[:2])
            found[end] = -(section(p.chord).d / 2 / level + 12.0)
    return found


def _run(points: tuple[Vec, ...], spot: Vec, side: int) -> Vec:
    """The direction in which a chord goes on from a place on it, to the left (-1) or right (1)."""
    way = unit(points[-1] - points[0])
    beyond = [p for p in points[::side] if float((p - spot) @ way) * side > _CLOSED]
    return unit(beyond[0] - spot)


def _diagonal(p: Params, line: _Outline, n: int, falls: bool) -> tuple[Vec, Vec]:
    """The work points of a panel's diagonal: moved along the chords as far as it takes to keep clear of what else
    lands at either panel point."""
    low, high = (line.low, line.lower), (line.high, line.upper)
    first, last = (high, low) if falls else (low, high)
    a, b = first[0][n], last[0][n + 1]
    for _ in range(5):
        a, b = _clear(p, *first, n, 1, unit(b - a)), _clear(p, *last, n + 1, -1, unit(a - b))
    return a, b


def _clear(p: Params, spots: Vec, points: tuple[Vec, ...], at: int, side: int, web: Vec) -> Vec:
    """Where a diagonal that leaves a panel point along `web` starts on the chord."""
    spot = np.asarray(spots[at])
    posts = _posts(p)
    if p.gap <= 0 or p.pair == "pairs" or (at in (0, p.panels) and at not in posts):
        return spot  # held by gussets, or alone there
    run = _run(points, spot, side)
    lean = max(0.2, float(np.linalg.norm(np.cross(run, web))))
    level = math.hypot(*run[:2])
    through = any(np.linalg.norm(point - spot) < _CLOSED for point in points[1:-1])
    post = section(p.chord if through else p.post)
    clear = post.d / 2 / level + p.gap if at in posts else p.gap / 2
    if through and at not in posts:  # the mitre comes to the chord's lower side beyond the ridge
        clear += section(p.chord).d / 2 * abs(float(run[2])) / level
    lands = section(p.chord).d / 2 * float(run @ web) / lean  # how far along the chord its axis comes to its side
    return spot + run * max(0.0, clear + section(p.diagonal).d / 2 / lean - lands)


def _outline(p: Params, placed: Placed) -> _Outline:
    x, span = placed.level_way, placed.span
    if 2 * p.inset > span - 100.0 * p.panels:
        raise JobError("The end panels lie too far in for the span; give less.")
    along = p.inset + np.array(even(span - 2 * p.inset, p.panels))
    ends, middle = (0.0, span), (0.0, span / 2, span)
    upper, lower = dict.fromkeys(ends, p.depth), dict.fromkeys(ends, 0.0)
    if p.form == "bow":  # it bends between the panel points, where no web lands
        bends = (along[1:-2] + along[2:-1]) / 2
        upper = {v: p.depth + _on_arc(p.rise, span, v) for v in (0.0, *bends.tolist(), span)}
    elif p.form != "parallel chords":
        upper = {v: p.depth + (p.rise if v == span / 2 else 0.0) for v in middle}
    if p.form == "scissors":
        lower = {v: p.lift if v == span / 2 else 0.0 for v in middle}
    elif p.depth <= _CLOSED and p.inset < _CLOSED and p.form != "parallel chords" and p.ends == "posts":
        past = 1.25 * section(p.chord).d + 25.0  # the lower chord runs on under the heel of the upper one
        lower = {-past: 0.0, span + past: 0.0}
    base = placed.points[0] - (p.depth * UP if p.below == "top chord" else 0 * UP)

    def at(chord: dict[float, float]) -> Vec:
        heights = np.interp(along, list(chord), list(chord.values()))
        return np.asarray(base + along[:, None] * x + heights[:, None] * UP)

    low, high = at(lower), at(upper)
    deep = (high - low) @ UP
    if deep[1:-1].min(initial=np.inf) < 200.0 or deep.max() < 200.0:
        raise JobError("The chords come too near to one another; give more depth or rise, or less of the lower one's.")
    lengths = (tuple(base + v * x + z * UP for v, z in chord.items()) for chord in (lower, upper))
    return _Outline(low, high, *lengths)


def _on_arc(rise: float, span: float, along: float) -> float:
    """How high a circle stands over a place of its span that rises so much in the middle."""
    if rise <= 0:
        return 0.0
    if 2 * rise >= span:
        raise JobError("A bow rises less than half its span; give less.")
    radius = (span**2 / 4 + rise**2) / (2 * rise)
    return math.sqrt(radius**2 - (along - span / 2) ** 2) - (radius - rise)


def _chords(p: Params, line: _Outline) -> list[Member]:
    """Each length of the chords, the upper first, from left to right; past the posts at their ends."""
    posts = p.ends == "posts" and p.depth > _CLOSED and p.inset < _CLOSED
    upper = Role.BEAM if p.form == "parallel chords" else Role.RAFTER
    found = []
    for role, points in ((upper, line.upper), (Role.BEAM, line.lower)):
        for k, (a, b) in enumerate(pairwise(points)):
            past = _past_post(p, a, b) if posts else 0.0
            first, last = past if k == 0 else 0.0, past if k == len(points) - 2 else 0.0
            found.append(between(role, p.chord, a, b, left_back=first, right_back=last))
    return found


def _past_post(p: Params, a: Vec, b: Vec) -> float:
    """How far a chord goes on past an end work point, so that all of the post there lands on it."""
    run = unit(b - a)
    level, steep = math.hypot(*run[:2]), abs(float(run[2]))
    return -(section(p.post).d / 2 / level + section(p.chord).d / 2 * steep / level + 12.0)


def _posts(p: Params) -> list[int]:
    """The panel points that have a post."""
    between_ends = list(range(1, p.panels)) if p.web != "Warren" else []
    return [0, *between_ends, p.panels] if p.ends == "posts" else between_ends


def _falling(p: Params) -> list[bool]:
    """Of each panel's diagonal whether it falls from left to right."""
    if p.web == "Warren":
        return [n % 2 == 1 for n in range(p.panels)]
    return [(n < p.panels / 2) == (p.web == "Pratt") for n in range(p.panels)]


TRUSS = ByNumbers(
    "flat truss",
    "Truss",
    Params,
    ("pick the left end", "pick the right end, or type the span"),
    build,
    "Level, pitched, bowed or scissor chords with posts and diagonals.",
    {
        "chord": "HFRHS150X150X6",
        "diagonal": "HFRHS100X100X5",
        "post": "HFRHS100X100X5",
        "depth": 1200.0,
        "rise": 1200.0,
        "lift": 600.0,
    },
)
