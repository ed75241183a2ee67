"""A stair with a landing: two flights, straight on or turning a quarter or a half, and the landing's frame, floor and
posts."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.flights import FACE, FOOT_FACE, Flight, FlightParams, add_flight
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.stair_rules import RULES, broken, risers
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.job.blanks import Blank, HoleRow, Lugs
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.units import format_length, length_in_words

ON, LEFT, RIGHT, BACK_LEFT, BACK_RIGHT = TURNS = (
    "straight on",
    "a quarter to the left",
    "a quarter to the right",
    "half round to the left",
    "half round to the right",
)


_PAST = 3.5  # holes' widths


class Params(FlightParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    turns: Annotated[str, About("At the landing it goes", unit="choice", choices=TURNS)] = BACK_LEFT
    before: Annotated[int | None, About("Risers to the landing", unit="count", low=1, high=60,
        help="Left open: half of all.")] = None  # fmt: skip
    deep: Annotated[float | None, About("Landing's depth", low=300, high=10_000,
        help="Left open: as the stair is wide, with its stringers.")] = None  # fmt: skip
    between: Annotated[float, About("Between the flights", low=0, high=5000,
        help="From stringer to stringer of a stair that goes half round.")] = 101.6  # fmt: skip
    edge: Annotated[str, About("Landing's frame", unit="section", help="A channel.")] = "C10X15.3"
    post: Annotated[str, About("Posts", unit="section")] = "HSS3X3X1/4"


class Laid(NamedTuple):
    """Both flights and the landing between: its rectangle in the first flight's frame, and its height."""

    first: Flight
    second: Flight
    low: tuple[float, float]
    high: tuple[float, float]
    level: float


def laid_out(given: Given) -> Laid:
    """Where both flights and the landing are. Raises ValueError where the points do not climb."""
    p: Params = given.params
    foot, ahead, head = given.points[:3]
    run, climb = ahead[:2] - foot[:2], float(head[2] - foot[2])
    long = float(np.hypot(*run))
    if climb < 200.0:
        raise ValueError("its head is no higher than its foot; pick a point on the upper floor")
    if long < 10.0:
        raise ValueError("the way that it goes is no way; pick a point ahead of its foot")
    rule = RULES[p.rule]
    going = p.going or max(rule.least_going or 0.0, 280.0 if not given.imperial else 279.4)
    n = p.risers or risers(rule, climb, going)
    one = p.before or n // 2
    if not 1 <= one < n:
        raise ValueError("its landing is no higher than its foot, or no lower than its head; give other risers to it")
    rise, b = climb / n, section(p.stringer).b
    on = np.array([run[0], run[1], 0.0]) / long
    up = np.array([0.0, 0.0, 1.0])
    at = Placement(foot, np.column_stack([on, np.cross(up, on), up]))
    # the ends of what runs through stand past the flights' end plates
    wide, level, x0 = p.width + 2 * b + 2 * _PAST * p.anchor, one * rise, (one - 1) * going
    deep = p.deep or wide
    side = 1.0 if p.turns in (LEFT, BACK_LEFT) else -1.0
    low, high = [x0, -wide / 2], [x0 + deep, wide / 2]
    turn = {ON: 0.0, LEFT: 90.0, RIGHT: -90.0}.get(p.turns, 180.0)
    if p.turns == ON:
        spot = (x0 + deep, 0.0)
    elif p.turns in (LEFT, RIGHT):
        spot = (x0 + deep / 2, side * wide / 2)
    else:
        aside = side * (p.width + 2 * b + p.between)
        spot = (x0, aside)
        low[1], high[1] = min(low[1], aside - wide / 2), max(high[1], aside + wide / 2)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    second = at @ Placement((*spot, level), np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]]))
    return Laid(Flight("lower", at, rise, going, one), Flight("upper", second, rise, going, n - one),
        (low[0], low[1]), (high[0], high[1]), level)  # fmt: skip


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts, laid = Parts(given), laid_out(given)
    faces = _landing(parts, laid, p)
    on = [given.host(n) for n in range(len(given.record.anchors))]
    add_flight(parts, laid.first, msgspec.structs.replace(p, head=FACE), (on[0], "front"))
    add_flight(parts, laid.second, msgspec.structs.replace(p, foot=FOOT_FACE), (faces, on[2]))
    return parts.made


def _landing(parts: Parts, laid: Laid, p: Params) -> str:
    """The landing's frame, floor and posts; the key of what the upper flight stands against."""
    s, t = section(p.edge), p.tread_thickness
    if s.form is not Form.CHANNEL:
        raise ValueError(f"the landing's frame is of channels, which {p.edge} is not")
    at, z = laid.first.at, laid.level - t - s.d / 2
    (x0, y0), (x1, y1) = laid.low, laid.high
    quarter = {"left": p.turns == LEFT, "right": p.turns == RIGHT}
    flat = _flat(parts, s.d)
    thick = section(flat).b
    ends = y0 + (thick if quarter["right"] else 0.0), y1 - (thick if quarter["left"] else 0.0)
    for name, x, way in (("front", x0, -1.0), ("rear", x1, 1.0)):
        a, b = (at.to_model((x - way * s.b / 2, y, z)) for y in ends)
        # webs outward: along +y the section's own left is -x
        parts.member(name, Role.BEAM, p.edge, a, b, -at.z if way < 0 else at.z)
    for name, y, way in (("right", y0, -1.0), ("left", y1, 1.0)):
        if quarter[name]:  # a flat past both ends of the others, which lie on it
            a, b = (at.to_model((x, y - way * thick / 2, z)) for x in (x0, x1))
            parts.member(name, Role.BEAM, flat, a, b, at.z)
            for other in ("front", "rear"):
                parts.attach(f"{other} to {name}", "welded on", other, name)
            continue
        # webs out, between the toes of the others
        a, b = (at.to_model((x, y - way * s.b / 2, z)) for x in (x0 + s.b, x1 - s.b))
        parts.member(name, Role.BEAM, p.edge, a, b, -at.z if way > 0 else at.z)
        for other in ("front", "rear"):
            parts.attach(f"{name} to {other}", "welded on", name, other)
    _floor(parts, laid, p, ("right", "left", "front", "rear"))
    for side, y, way in (("right", y0, -1.0), ("left", y1, 1.0)):
        for end, x in (("front", x0 + 75.0), ("rear", x1 - 75.0)):
            wide = section(_flat(parts, s.d)).b if quarter[side] else s.b
            _post(parts, laid, p, f"{side} {end} post", (x, y - way * wide / 2, z - s.d / 2), side)
    return {ON: "rear", LEFT: "left", RIGHT: "right"}.get(p.turns, "front")


def _flat(parts: Parts, deep: float) -> str:
    return f"PL1/2X{deep / 25.4:.3f}" if parts.given.imperial else f"FL{deep:.3f}X12"


def _floor(parts: Parts, laid: Laid, p: Params, under: tuple[str, ...]) -> None:
    """The landing's floor plate, a little within its edges so that it is welded along them."""
    t, inset = p.tread_thickness, 8.0
    (x0, y0), (x1, y1) = laid.low, laid.high
    at = laid.first.at
    axes = np.column_stack([at.x, -at.z, at.y])
    frame = Placement(at.to_model((0.0, 0.0, laid.level - t / 2)), axes)
    ring = rectangle((x0 + inset, y0 + inset), (x1 - inset, y1 - inset))
    parts.plate("floor", Role.TREAD, frame, Blank(ring, (), (), (), Lugs()), t)
    for name in under:
        parts.attach(f"floor to {name}", "welded on", "floor", name, sides="one side")


def _post(parts: Parts, laid: Laid, p: Params, key: str, top: tuple[float, float, float], under: str) -> None:
    """A post from a base plate on the floor to the underside of the landing's frame."""
    at, s = laid.first.at, section(p.post)
    x, y, z = top
    if z < 200.0:
        return  # the landing lies on the floor
    parts.member(key, Role.POST, p.post, at.to_model((x, y, p.plate)), at.to_model((x, y, z)), at.x)
    parts.attach(f"{key} head", "welded on", under, key, least=0.0)
    half = s.d / 2 + 3.2 * p.anchor
    spot = half - 1.4 * p.anchor
    holes = HoleRow(-spot, -spot, p.anchor, columns=2, rows=2, dx=2 * spot, dz=2 * spot)
    frame = Placement(at.to_model((x, y, p.plate / 2)), np.column_stack([at.x, -at.z, at.y]))
    parts.plate(f"{key} base", Role.PLATE, frame, Blank(rectangle((-half, -half), (half, half)), (), (holes,)), p.plate)
    parts.attach(f"{key} base weld", "welded on", f"{key} base", key)
    parts.attach(f"{key} base anchors", "anchored", f"{key} base")


def told(given: Given) -> Iterator[Said]:
    """What of either flight, or of the landing, breaks the rule chosen."""
    p: Params = given.params
    rule, laid = RULES[p.rule], laid_out(given)
    for flight in (laid.first, laid.second):
        climb = flight.rise * flight.risers
        for said in broken(rule, flight.rise, flight.going, climb, p.width, given.units):
            yield Said(f"{flight.name.capitalize()} flight: {said.text}")
    deep = laid.high[0] - laid.low[0]
    if deep < min(p.width, 1219.2) - 0.5:
        is_ = length_in_words(deep, given.units)
        yield Said(f"The landing is {is_} deep; it is to be as deep as the stair is wide.")


def reading(given: Given) -> str:
    laid = laid_out(given)
    rise, going, level = (format_length(v, given.units) for v in (laid.first.rise, laid.first.going, laid.level))
    steps = f"{laid.first.risers} and {laid.second.risers} risers of {rise}, going {going}"
    return f"{steps}; landing {level} over the foot"


KIND = Compound(
    "stair with a landing",
    "Stair with a landing",
    Params,
    (
        "pick the foot: the middle of the first riser",
        "pick a point ahead, the way the first flight goes",
        "pick a point on the upper floor",
    ),
    build,
    "Two flights with a landing between, straight on or turning, on posts of its own.",
    climbs=2,
    told=told,
    reading=reading,
    metric={"width": 900.0, "stringer": "UPN200", "tread_thickness": 6.0, "lip": 50.0, "back": 40.0, "nosing": 25.0,
        "over": 40.0, "plate": 10.0, "anchor": 18.0, "end_plate": 6.0, "bolt_hole": 14.0, "rule": "ISO 14122-3",
        "pit": 150.0, "returned": 900.0, "edge": "UPN200", "post": "CFRHS80X80X4", "between": 100.0},
)  # fmt: skip
