"""Corners and ends of a rail: mitred or bent round, returned, or against a wall."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from uncus.catalog.sections import section
from uncus.compose.kind import Parts
from uncus.compose.rail_path import BENT, CUT, MIDDLE, WALL, Leg, Params, stations
from uncus.frame.outlines import circle
from uncus.frame.placement import Placement, Vec, tidied, unit
from uncus.frame.plates import plate_frame
from uncus.job.blanks import Blank, HoleRow
from uncus.job.records import End, Member, Role

_STRAIGHT = math.radians(0.5)


class Bend(NamedTuple):
    """How a corner of two legs is bent round: how far before and after it, along each leg seen from above."""

    before: float
    after: float


def bend_of(leg: Leg, other: Leg, p: Params) -> Bend | None:
    """None for a corner that is mitred. Raises ValueError where a leg has no room to be bent."""
    turn = _turn(leg, other)
    if p.corners != BENT or turn < _STRAIGHT:
        return None
    tangent = p.bent_to * math.tan(turn / 2)
    found = Bend(tangent * math.cos(leg.slope), tangent * math.cos(other.slope))
    room = leg.long - stations(leg, p)[-1], stations(other, p)[0]
    if found.before > room[0] - 1.0 or found.after > room[1] - 1.0:
        raise ValueError("its corners have no room to be bent before the next post; set posts farther from corners, or "
            "bend the rails tighter")  # fmt: skip
    return found


def _turn(leg: Leg, other: Leg) -> float:
    return math.acos(min(1.0, max(-1.0, float(unit(leg.b - leg.a) @ unit(other.b - other.a)))))


def _bent(parts: Parts, key: str, rail: str, legs: tuple[Leg, Leg], bend: Bend, level: float, radius: float) -> str:
    """A length bent round the corner of two legs at a level. Its key."""
    leg, other = legs
    a, b = leg.at(leg.long - bend.before, level), other.at(bend.after, level)
    out = leg.at(leg.long, level) - (a + b) / 2
    rise = radius * (1 - math.cos(_turn(leg, other) / 2))
    return parts.member(key, Role.RAIL, rail, a, b, bow=tidied(unit(out) * rise))


def add_corner(
    parts: Parts, leg: Leg, other: Leg, levels: list[float], high: float, p: Params, tops: tuple[str, str]
) -> None:
    """Rails mitred or bent round a corner; middle ones from the last post before it to the first after."""
    a, b = f"leg {leg.number + 1}", f"leg {other.number + 1}"
    bend = bend_of(leg, other, p)
    if bend is None:
        parts.join(f"{a} top corner", "mitred ends", tops[0], End.RIGHT, tops[1])
    else:
        round_ = _bent(parts, f"{a} top bend", p.top, (leg, other), bend, high, p.bent_to)
        parts.join(f"{a} top corner", "mitred ends", tops[0], End.RIGHT, round_)
        parts.join(f"{a} top corner on", "mitred ends", round_, End.RIGHT, tops[1])
    rail = p.middle if p.between == MIDDLE else p.top
    x0, x1 = stations(leg, p)[-1], stations(other, p)[0]
    last = len(stations(leg, p))
    for k, level in enumerate(levels, 1):
        one, two = f"{a} corner rail {k}", f"{b} corner rail {k} on"
        before, after = bend or (0.0, 0.0)
        parts.member(one, Role.RAIL, rail, leg.at(x0, level), leg.at(leg.long - before, level))
        parts.member(two, Role.RAIL, rail, other.at(after, level), other.at(x1, level))
        parts.join(f"{one} post", "welded end", one, End.LEFT, f"{a} post {last}")
        parts.join(f"{two} post", "welded end", two, End.RIGHT, f"{b} post 1")
        if bend is None:
            parts.join(f"{one} mitre", "mitred ends", one, End.RIGHT, two)
            continue
        round_ = _bent(parts, f"{a} corner bend {k}", rail, (leg, other), bend, level, p.bent_to)
        parts.join(f"{one} mitre", "mitred ends", one, End.RIGHT, round_)
        parts.join(f"{one} mitre on", "mitred ends", round_, End.RIGHT, two)


def add_end(parts: Parts, leg: Leg, p: Params, levels: list[float], high: float, end: End, how: str, top: str) -> None:
    """What closes the rails at an end of the path; `top` is the top rail there."""
    if how == CUT:
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
        for name, level in ((top, high), *mids):
            _wall_plate(parts, leg, p, f"{name} {end} wall", name, leg.at(x, level), 1.0 if right else -1.0)
        return
    if not mids:
        return
    lowest, level = mids[-1]
    name = f"{key} {end} return"
    parts.member(name, Role.RAIL, p.top, leg.at(x, level), leg.at(x, high), leg.on)
    parts.join(f"{name} top", "mitred ends", name, End.RIGHT, top)
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
    plate = parts.piece(key)
    assert isinstance(plate, Member)
    return "far" if float(plate_frame(plate).y @ out) > 0 else "near"
