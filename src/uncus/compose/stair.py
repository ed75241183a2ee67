"""A straight stair: one flight between two floors, its stringers, treads and ends."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from uncus.compose.flights import Flight, FlightParams, add_flight
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.stair_rules import NAMES, RULES, broken, risers
from uncus.frame.placement import Placement
from uncus.units import format_length, length_in_words


class Laid(NamedTuple):
    """A straight flight as it comes out, and how far its last riser is from the head that was picked."""

    flight: Flight
    climb: float
    off: float


def laid_out(given: Given) -> Laid:
    """Where the flight is and how it steps. Raises ValueError where the points do not climb."""
    p: FlightParams = given.params
    foot, head = given.points[:2]
    run, climb = head[:2] - foot[:2], float(head[2] - foot[2])
    long = float(np.hypot(*run))
    if climb < 100.0:
        raise ValueError("its head is no higher than its foot; pick the foot first, then the head")
    if long < 100.0:
        raise ValueError("its head stands over its foot; pick the head where the last riser is to be")
    n = p.risers or risers(RULES[p.rule], climb, p.going or _guess(RULES[p.rule].least_going, long, climb))
    if n < 2:
        raise ValueError("a flight has two risers at least")
    going = p.going or long / (n - 1)
    on = np.array([run[0], run[1], 0.0]) / long
    up = np.array([0.0, 0.0, 1.0])
    at = Placement(foot, np.column_stack([on, np.cross(up, on), up]))
    return Laid(Flight("flight", at, climb / n, going, n), climb, long - going * (n - 1))


def _guess(least: float | None, long: float, climb: float) -> float:
    """A going by which risers are counted before any is known: as the slope is."""
    slope = climb / long
    return max(least or 0.0, 622.3 / (1 + 2 * slope))


def build(given: Given) -> dict[str, Piece]:
    parts = Parts(given)
    on = [given.host(n) for n in range(len(given.record.anchors))]
    add_flight(parts, laid_out(given).flight, given.params, (on[0], on[1]))
    return parts.made


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen, and what does not fit together."""
    p: FlightParams = given.params
    found = laid_out(given)
    flight = found.flight
    yield from broken(RULES[p.rule], flight.rise, flight.going, found.climb, p.width, given.units)
    if abs(found.off) > 1.0:
        way = "short of" if found.off > 0 else "past"
        yield Said(f"The last riser stands {length_in_words(abs(found.off), given.units)} {way} the head that was "
            "picked; leave the going open, or move the foot.")  # fmt: skip


def reading(given: Given) -> str:
    flight = laid_out(given).flight
    said = (format_length(v, given.units) for v in (flight.rise, flight.going, 2 * flight.rise + flight.going))
    rise, going, step = said
    return (
        f"{flight.risers} risers of {rise}, going {going}; 2 R + G = {step}; {math.degrees(flight.slope):.1f} degrees"
    )


KIND = Compound(
    "stair",
    "Straight stair",
    FlightParams,
    ("pick the foot: the middle of the first riser", "pick the head: the middle of the last riser, on its floor"),
    build,
    "A flight between two floors: stringers, treads and what they stand on, which follow the floors.",
    climbs=1,
    told=told,
    reading=reading,
    metric={"width": 900.0, "stringer": "UPN200", "tread_thickness": 6.0, "lip": 50.0, "back": 40.0, "nosing": 25.0,
        "over": 40.0, "plate": 10.0, "anchor": 18.0, "end_plate": 6.0, "bolt_hole": 14.0, "rule": NAMES[2],
        "pit": 150.0, "returned": 900.0},
)  # fmt: skip
