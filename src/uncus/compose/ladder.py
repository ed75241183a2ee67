"""A fixed ladder: stiles, rungs, brackets to what it stands before, and a cage, landings and a gate where it is to have
them."""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.compose.ladder_flights import CAGE, GATE, Flight, Params, flights_of, frame_of
from uncus.compose.ladder_landing import add_gate, add_landing
from uncus.compose.stair_rules import NAMES, RULES
from uncus.compose.treads import folded_strip
from uncus.frame.placement import Placement, Vec, tidied
from uncus.job.blanks import HoleRow
from uncus.job.records import Climb, Role
from uncus.units import counted, format_length, length_in_words


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    if section(p.stile).form is not Form.FLAT:
        raise ValueError(f"its stiles are flats, which {p.stile} is not")
    flights = flights_of(given)
    for n, flight in enumerate(flights, 1):
        own = parts if n == 1 else parts.under(f"flight {n} ")
        _flight(own, flight, p)
        if flight.goes_on:
            add_landing(parts.under(f"landing {n} "), flight.at, flights[n].at, p)
    if p.gate == GATE:
        add_gate(parts if len(flights) == 1 else parts.under(f"flight {len(flights)} "), flights[-1], p)
    return parts.made


def _flight(parts: Parts, flight: Flight, p: Params) -> None:
    """Stiles, rungs, brackets and cage of a flight."""
    at, climb, s = flight.at, flight.climb, section(p.stile)
    half = p.width / 2 + s.b / 2
    for name, way in (("left", -1.0), ("right", 1.0)):
        a, b = (at.to_model((way * half, -p.off, z)) for z in (0.0, climb + flight.over))
        parts.member(f"{name} stile", Role.RAIL, p.stile, a, b, at.y)
    n = math.ceil(climb / p.spacing - 1e-6)
    for k in range(1, n + 1):  # the last of them is level with the top
        key = f"rung {k}"
        a, b = (at.to_model((x, -p.off, climb * k / n)) for x in (-p.width / 2, p.width / 2))
        parts.member(key, Role.TREAD, p.rung, a, b)
        for name in ("left", "right"):
            parts.attach(f"{key} {name}", "welded on", key, f"{name} stile")
    _brackets(parts, at, climb, p, half)
    if p.cage == CAGE:
        _cage(parts, at, climb + flight.caged, p, half + s.b / 2)


def _brackets(parts: Parts, at: Placement, climb: float, p: Params, half: float) -> None:
    """Bent plates from the stiles' outer sides to the wall, turned out along it with two holes."""
    s, t = section(p.stile), p.plate
    radius = usual_radius(parts.given.rules.plate_grade, t)
    wide, foot = 63.5, 2.5 * p.hole + radius + t + 2.0 * p.hole
    n = max(2, math.ceil(climb / p.bracket) + 1)
    reach = p.off + s.d / 2
    blank, starts = folded_strip(wide, [reach, foot], [90.0], t, 0, radius)
    z = starts[1] + (foot - radius - t) / 2
    blank = msgspec.structs.replace(blank, holes=(HoleRow(wide * 0.28, z, p.hole, columns=2, dx=wide * 0.44),)
        if wide > 2.6 * p.hole else (HoleRow(wide / 2, z, p.hole),))  # fmt: skip
    for k in range(n):
        high = 300.0 + (climb - 600.0) * k / (n - 1)
        for name, way in (("left", -1.0), ("right", 1.0)):
            x = way * (half + s.b / 2 + t / 2)
            # z to the wall, the near side outward, so that its foot turns out; x up or down to suit
            axes = np.column_stack([np.cross(-way * at.x, at.y), -way * at.x, at.y])
            low = -wide / 2 if float(axes[2, 0]) > 0 else wide / 2
            place = Placement(at.to_model((x, -p.off - s.d / 2, high + low)), axes)
            key = f"{name} bracket {k + 1}"
            parts.plate(key, Role.PLATE, place, blank, t)
            parts.attach(f"{key} weld", "welded on", key, f"{name} stile")
            parts.attach(f"{key} anchors", "anchored", key, deep=101.6)


def _cage(parts: Parts, at: Placement, top: float, p: Params, outer: float) -> None:
    """Hoops from stile to stile and upright bars within them."""
    hoop, bar = section(p.hoop), section(p.bar)
    if hoop.form is not Form.FLAT or bar.form is not Form.ROUND:
        raise ValueError("its cage is of flat hoops and round bars; choose such sections")
    n = max(2, math.ceil((top - p.from_) / p.hoops) + 1)
    if top - p.from_ < 300.0:
        raise ValueError("its cage begins over its top; let it begin lower")
    radius = outer + hoop.b / 2
    axis = at.to_model((0.0, -p.off, 0.0))
    low, high = p.from_ + hoop.d / 2, top - hoop.d / 2
    for k in range(n):
        z = low + (high - low) * k / (n - 1)
        start = tidied(at.to_model((radius, -p.off, z)))
        climbs = Climb(float(axis[0]), float(axis[1]), -180.0)
        parts.climbing(f"hoop {k + 1}", Role.RAIL, p.hoop, start, 0.0, climbs)
        for name in ("left", "right"):
            parts.attach(f"hoop {k + 1} {name}", "welded on", f"hoop {k + 1}", f"{name} stile")
    inner = radius - hoop.b / 2 - bar.d / 2
    if inner * math.sin(math.pi / (p.bars + 1)) < (section(p.stile).d + bar.d) / 2 + 5.0:
        raise ValueError("the first of the bars of its cage would stand in a stile; give it fewer")
    for k in range(p.bars):
        angle = math.pi * (k + 1) / (p.bars + 1)
        x, y = inner * math.cos(angle), -p.off - inner * math.sin(angle)
        a, b = (at.to_model((x, y, z)) for z in (p.from_, top))
        # so turned that the line along which it touches the hoops is one of its own
        out: Vec = at.axes @ np.array([math.cos(angle), -math.sin(angle), 0.0])
        key = parts.member(f"bar {k + 1}", Role.RAIL, p.bar, a, b, out)
        for h in range(n):
            parts.attach(f"{key} hoop {h + 1}", "welded on", key, f"hoop {h + 1}")


def told(given: Given) -> Iterator[Said]:
    """What of it breaks the rule chosen."""
    p: Params = given.params
    rule, flights, (_, whole) = RULES[p.rule], flights_of(given), frame_of(given)
    climb = flights[0].climb

    def said(mm: float) -> str:
        return length_in_words(mm, given.units)

    each = climb / math.ceil(climb / p.spacing - 1e-6)
    low, high = rule.rungs
    if not low - 0.5 <= each <= high + 0.5:
        yield Said(f"The rungs are {said(each)} apart; {rule.name} asks for {said(low)} to {said(high)}.")
    if p.over < rule.guard - 0.5:
        yield Said(f"The stiles run {said(p.over)} over the top; {rule.name} asks for {said(rule.guard)}.")
    most = rule.caged_climb if p.cage == CAGE else rule.ladder_climb
    if most is not None and climb > most + 0.5:
        yield Said(f"A flight climbs {said(climb)}; {rule.name} asks for a landing after at most {said(most)}.")
    if rule.guarded_over is not None and whole > rule.guarded_over + 0.5:
        over = f"It climbs {said(whole)}; over {said(rule.guarded_over)} {rule.name} asks for"
        if not rule.cage_guards:
            yield Said(f"{over} a ladder safety or fall arrest system; a cage is none.", False)
        elif p.cage != CAGE:
            yield Said(f"{over} a cage or a fall arrester.")


def reading(given: Given) -> str:
    p: Params = given.params
    flights = flights_of(given)
    climb = flights[0].climb
    n = math.ceil(climb / p.spacing - 1e-6)
    of = f"{len(flights)} flights of " if len(flights) > 1 else ""
    return f"{of}{counted(n, 'rung')}, {format_length(climb / n, given.units)} apart"


KIND = Compound(
    "ladder",
    "Ladder",
    Params,
    (
        "pick the foot, on the wall or edge that it stands before",
        "pick a point on the floor it leads to",
        "pick a point on the side that it is climbed from",
    ),
    build,
    "A fixed ladder with stiles, rungs, brackets and, where they are wanted, a cage, landings and gates.",
    climbs=1,
    told=told,
    reading=reading,
    metric={"rule": NAMES[2], "width": 400.0, "off": 200.0, "stile": "FL65X10", "rung": "RD20", "spacing": 280.0,
        "over": 1100.0, "bracket": 2000.0, "plate": 10.0, "hole": 14.0, "from_": 2200.0, "hoop": "FL50X6",
        "hoops": 1200.0, "bar": "RD16", "beside": 800.0, "depth": 800.0, "floor": 6.0, "bearer": "UPN140",
        "guard": "CFCHS48.3X4", "leaf": "FL40X6"},
)  # fmt: skip
