"""A ladder's values, and its flights from landing to landing."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import section
from uncus.compose.kind import Given
from uncus.compose.stair_rules import NAMES
from uncus.frame.placement import Placement
from uncus.job.forms import About
from uncus.units import FOOT, format_length

CAGE, OPEN = CAGED = ("a cage", "no cage")
GATE, NO_GATE = GATES = ("gates", "none")
RIGHT, LEFT = SIDES = ("to the right", "to the left")
_LEAST_FLIGHT = 2400.0  # mm from landing to landing: headroom, floor and bearers
BESIDE = 50.0  # mm between a flight and a landing beside it, with what its brackets need
_UNDER_FLOOR = 25.0  # mm under a landing at which the cage of the flight to it ends


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[1]
    width: Annotated[float, About("Between the stiles", low=200, high=1000)] = 406.4
    off: Annotated[float, About("Off the wall", low=0, high=1000,
        help="From the points, which lie on it, to the rungs' middle.")] = 177.8  # fmt: skip
    stile: Annotated[str, About("Stiles", unit="section", help="A flat.")] = "PL3/8X2-1/2"
    rung: Annotated[str, About("Rungs", unit="section", help="A round bar.")] = "ROD3/4"
    spacing: Annotated[float, About("Rungs apart, at most", low=150, high=500)] = 304.8
    over: Annotated[float, About("Stiles over the top", low=0, high=2000)] = 1066.8
    bracket: Annotated[float, About("Brackets at most apart", low=300, high=6000)] = 2438.4
    plate: Annotated[float, About("Brackets", low=4, high=25, help="Thickness.")] = 9.525
    hole: Annotated[float, About("Holes of brackets", low=6, high=30)] = 17.4625
    cage: Annotated[str, About("With", unit="choice", choices=CAGED)] = OPEN
    from_: Annotated[float, About("Cage begins over the foot", low=1000, high=6000, only=("cage", CAGE))] = 7 * FOOT
    hoop: Annotated[str, About("Hoops", unit="section", only=("cage", CAGE))] = "PL1/4X2"
    hoops: Annotated[float, About("Hoops at most apart", low=300, high=3000, only=("cage", CAGE))] = 4 * FOOT
    bar: Annotated[str, About("Cage bars", unit="section", only=("cage", CAGE), help="A round bar.")] = "ROD5/8"
    bars: Annotated[int, About("Bars round it", unit="count", low=3, high=11, only=("cage", CAGE))] = 7
    landing: Annotated[float, About("Landings at most apart", low=0, high=50_000,
        help="From one to the next, with the flights side by side; none: 0.")] = 0.0  # fmt: skip
    beside: Annotated[float, About("Flights lie apart", low=450, high=2000, help="From middle to middle.")] = 762.0
    side: Annotated[str, About("The second flight lies", unit="choice", choices=SIDES,
        help="Seen by who climbs.")] = RIGHT  # fmt: skip
    depth: Annotated[float, About("Landings out from the rungs", low=500, high=3000)] = 762.0
    floor: Annotated[float, About("Floor of landings", low=4, high=30, help="Checkered plate.")] = 6.35
    bearer: Annotated[str, About("Under landings", unit="section", help="A channel, from the wall out.")] = "C6X8.2"
    guard: Annotated[str, About("Rails of landings", unit="section")] = "HSS1.900X0.145"
    gate: Annotated[str, About("Gates", unit="choice", choices=GATES,
        help="At the top between the stiles, and onto each landing.")] = NO_GATE  # fmt: skip
    leaf: Annotated[str, About("Gate at the top", unit="section", only=("gate", GATE), help="Of flats.")] = (
        "PL1/4X1-1/2"
    )


class Flight(NamedTuple):
    """One flight: its frame (foot on the wall, x to the right, y into the wall, z up), how high it climbs, how far its
    stiles and its cage run on over that, and whether another stands beside its head."""

    at: Placement
    climb: float
    over: float
    caged: float
    goes_on: bool


def flights_of(given: Given) -> list[Flight]:
    """The flights from the foot up, side by side by turns. Raises ValueError where they have no room beside one
    another."""
    p: Params = given.params
    at, climb = frame_of(given)
    n = max(1, math.ceil(climb / p.landing - 1e-6)) if p.landing else 1
    if n > 1 and climb / n < _LEAST_FLIGHT:
        raise ValueError(f"its landings are nearer to each other than {format_length(_LEAST_FLIGHT, given.units)}, "
            "which leaves no headroom; set them farther apart")  # fmt: skip
    if n > 1 and p.beside < p.width + 2 * (section(p.stile).b + BESIDE):
        raise ValueError("its flights stand in one another; set them farther apart")
    way = p.beside if p.side == RIGHT else -p.beside
    found = []
    for k in range(n):
        last = k == n - 1
        foot = at.moved((way * (k % 2), 0.0, climb * k / n))
        found.append(Flight(foot, climb / n, p.over, p.over if last else -_UNDER_FLOOR, not last))
    return found


def frame_of(given: Given) -> tuple[Placement, float]:
    """The ladder's frame - its foot on the wall, x to the right, y into the wall, z up - and how high it climbs."""
    foot, top, towards = given.points[:3]
    climb = float(top[2] - foot[2])
    if climb < 600.0:
        raise ValueError("its top is no higher than its foot; pick the foot first, then the top")
    out = towards - foot
    out = np.array([out[0], out[1], 0.0])
    long = float(np.linalg.norm(out))
    if long < 10.0:
        raise ValueError("the side that it is climbed from is no side; pick a point before the wall")
    into = -out / long
    up = np.array([0.0, 0.0, 1.0])
    return Placement(foot, np.column_stack([np.cross(into, up), into, up])), climb
