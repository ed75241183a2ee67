"""A ladder's landings, each on bearers out from the wall with a rail round it, and the gate at its top."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Parts
from uncus.compose.ladder_flights import BESIDE, GATE, Flight, Params
from uncus.compose.rail import add_rail
from uncus.compose.rail_path import WELDED, Leg
from uncus.compose.rail_path import Params as RailParams
from uncus.compose.stair_rules import RULES
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, HoleRow, Lugs
from uncus.job.records import Role

_OFF_WALL = 20.0  # mm that a landing's floor stands off the wall
_PAST = 100.0  # mm of it beyond the flight that stands on it
_IN = 45.0  # mm that its rail stands in from its edges
_EVERY = 1000.0  # mm between its bearers at most
_LEAF = 500.0  # mm that the gate at the top is high
_AIR = 2.0  # mm


def add_landing(parts: Parts, below: Placement, above: Placement, p: Params) -> None:
    """The landing at the foot of a flight, beside the head of the one below: `below` and `above` are their frames."""
    s = section(p.bearer)
    if s.form is not Form.CHANNEL:
        raise ValueError(f"under its landings are channels, which {p.bearer} is not")
    way = 1.0 if float((above.origin - below.origin) @ above.x) > 0 else -1.0
    outer = p.width / 2 + section(p.stile).b
    near, far = -(p.beside - outer - BESIDE), outer + _PAST  # from the middle of the flight above, away from the other
    x0, x1 = sorted((way * near, way * far))
    out = -(p.off + p.depth)
    axes = np.column_stack([above.x, -above.z, above.y])
    frame = Placement(above.to_model((0.0, 0.0, -p.floor / 2)), axes)
    parts.plate("floor", Role.TREAD, frame, Blank(rectangle((x0, out), (x1, -_OFF_WALL)), (), (), (), Lugs()), p.floor)
    n = max(2, math.ceil((x1 - x0 - s.b) / _EVERY) + 1)
    for k in range(n):
        x = x0 + s.b / 2 + (x1 - x0 - s.b) * k / (n - 1)
        _bearer(parts, above, p, f"bearer {k + 1}", (x, out))
    _guard(parts, above, p, (way, near, far, out))


def _bearer(parts: Parts, at: Placement, p: Params, key: str, where: tuple[float, float]) -> None:
    """A channel out from a plate that is anchored to the wall."""
    s, (x, out) = section(p.bearer), where
    z = -p.floor - s.d / 2
    a, b = at.to_model((x, -p.plate, z)), at.to_model((x, out, z))
    parts.member(key, Role.BEAM, p.bearer, a, b, at.z)
    parts.cut(key, "square", "square")
    parts.attach(f"{key} floor", "welded on", key, "floor")
    wide, high = s.b / 2 + 2.6 * p.hole, s.d / 2
    axes = np.column_stack([at.x, at.y, at.z])  # seen from the landing, the wall behind it
    holes = HoleRow(-wide + 1.4 * p.hole, -high + 1.6 * p.hole, p.hole, columns=2, rows=2, dx=2 * (wide - 1.4 * p.hole),
        dz=2 * high - 3.2 * p.hole)  # fmt: skip
    blank = Blank(rectangle((-wide, -high), (wide, high)), (), (holes,))
    parts.plate(f"{key} plate", Role.PLATE, Placement(at.to_model((x, -p.plate / 2, z)), axes), blank, p.plate)
    parts.attach(f"{key} plate weld", "welded on", f"{key} plate", key)
    parts.attach(f"{key} plate anchors", "anchored", f"{key} plate", deep=101.6)


def _guard(parts: Parts, at: Placement, p: Params, sizes: tuple[float, float, float, float]) -> None:
    """The rail round a landing: from the wall, along its far side and its front, to where one steps onto it."""
    (way, near, far, out), rule = sizes, RULES[p.rule]
    r = RailParams(rule=p.rule, top=p.guard, posts=p.guard, middle=p.guard, foot=WELDED, from_end=_IN,
        plate=p.plate, hole=p.hole, toe=rule.toe_board or 0.0)  # fmt: skip
    d, floor = section(p.guard).d, ((1e6, parts.name_of("floor")),)
    spots = _spots(at, way, [(far - _IN, -_OFF_WALL - _IN), (far - _IN, out + _IN), (near + _IN, out + _IN)])
    legs = [Leg(0, spots[0], spots[1], False, True, floor), Leg(1, spots[1], spots[2], True, False, floor)]
    add_rail(parts.under("rail "), r, legs)
    if p.gate == GATE:  # across where one steps onto it
        a, b = _spots(at, way, [(near + _IN, out + _IN + 1.5 * d), (near + _IN, -p.off)])
        gate = msgspec.structs.replace(r, gates="1", toe=0.0, from_end=1.5 * d)
        add_rail(parts.under("gate "), gate, [Leg(0, a, b, False, False, floor)])


def _spots(at: Placement, way: float, corners: list[tuple[float, float]]) -> list[Vec]:
    return [at.to_model((way * x, y, 0.0)) for x, y in corners]


def add_gate(parts: Parts, flight: Flight, p: Params) -> None:
    """A leaf of flats between the stiles over the top of a flight, on hinges at the left one; it opens onto the floor
    and rests against a stop on the right one."""
    at, s, leaf = flight.at, section(p.stile), section(p.leaf)
    if leaf.form is not Form.FLAT:
        raise ValueError(f"its gate is of flats, which {p.leaf} is not")
    stop = leaf.d / 2 + _AIR
    if stop + p.plate > s.d / 2:
        raise ValueError(f"its gate of {p.leaf} has no stop on stiles of {p.stile}; make it of narrower flats")
    top = flight.climb + flight.over
    low, high = max(top - _LEAF, flight.climb + 250.0), top - leaf.d
    if high - low < 4 * leaf.d:
        raise ValueError("its stiles do not run far enough over the top for a gate; let them run on")
    half, pin = p.width / 2, 1.5 * p.hole
    sides = {"left": -half + 2 * pin + _AIR + leaf.b / 2, "right": half - 4 * _AIR - leaf.b / 2}
    for side, x in sides.items():
        a, b = (at.to_model((x, -p.off, z)) for z in (low, high))
        parts.member(f"gate {side}", Role.RAIL, p.leaf, a, b, at.y)
    for name, z in (("low", low + leaf.d), ("high", high - leaf.d)):
        a, b = (at.to_model((x, -p.off, z)) for x in (sides["left"] + leaf.b / 2, sides["right"] - leaf.b / 2))
        parts.member(f"gate {name}", Role.RAIL, p.leaf, a, b, at.z)
        for side in sides:
            parts.attach(f"gate {name} {side}", "welded on", f"gate {name}", f"gate {side}")
        _hinge(parts, flight, p, f"gate hinge {name}", (z + 1.5 * leaf.d) if name == "low" else z - 1.5 * leaf.d)
    z = (low + high) / 2
    axes = np.column_stack([at.x, at.y, at.z])
    frame = Placement(at.to_model((half, -p.off - stop - p.plate / 2, z)), axes)
    parts.plate("gate stop", Role.PLATE, frame, Blank(rectangle((-45.0, -30.0), (0.0, 30.0))), p.plate)
    parts.attach("gate stop weld", "welded on", "gate stop", "right stile")


def _hinge(parts: Parts, flight: Flight, p: Params, key: str, z: float) -> None:
    """A lug on the left stile and one over it on the leaf, with the bolt that it turns about."""
    at, pin, leaf = flight.at, 1.5 * p.hole, section(p.leaf)
    wide = min(pin, 0.45 * leaf.d, 0.45 * section(p.stile).d)
    for name, owner, x, way, up in (
        ("lug", "left stile", -p.width / 2, 1.0, 0.0),
        ("leaf lug", "gate left", -p.width / 2 + 2 * pin + _AIR, -1.0, p.plate),
    ):
        frame = Placement(at.to_model((x, -p.off, z + up)), np.column_stack([way * at.x, -at.z, way * at.y]))
        blank = Blank(rectangle((0.0, -wide), (2 * pin - _AIR, wide)), (), (HoleRow(pin if way > 0 else pin + _AIR, 0.0,
            p.hole),))  # fmt: skip
        parts.plate(f"{key} {name}", Role.PLATE, frame, blank, p.plate)
        parts.attach(f"{key} {name} weld", "welded on", f"{key} {name}", owner)
    parts.attach(f"{key} pin", "bolted on", f"{key} lug", f"{key} leaf lug")
