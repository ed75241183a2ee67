"""Straight flights: their stringers, what these stand on and hang from, and the treads between them."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Parts
from uncus.compose.treads import Step, TreadParams, add_tread
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, HoleRow
from uncus.job.forms import About
from uncus.job.records import End, Role

FEET = FLOOR, FOOT_BEAM, PIT, FOOT_FACE, FOOT_OPEN = (
    "on the floor, with a plate",
    "on a beam, bolted",
    "in a pit",
    "against a face, with a plate",
    "left open",
)
HEADS = FACE, RETURN, HEAD_OPEN = ("against a face, with an end plate",
    "on the landing, turned level", "left open")  # fmt: skip


class FlightParams(TreadParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What of a stair's values its flights are made by."""

    stringer: Annotated[str, About("Stringers", unit="section", help="A channel, a flat or a tube.")] = "C10X15.3"
    over: Annotated[float, About("Stringer over the nosings", low=-500, high=500,
        help="How far its top lies above the line of the nosings, plumb.")] = 38.1  # fmt: skip
    foot: Annotated[str, About("Foot", unit="choice", choices=FEET)] = FLOOR
    pit: Annotated[float, About("Depth of the pit", low=0, high=1000, only=("foot", PIT))] = 152.4
    head: Annotated[str, About("Head", unit="choice", choices=HEADS)] = HEAD_OPEN
    returned: Annotated[float, About("Turned level for", low=50, high=5000, only=("head", RETURN))] = 914.4
    plate: Annotated[float, About("Plates at the ends", low=4, high=40)] = 9.525
    anchor: Annotated[float, About("Holes for anchors", low=6, high=40)] = 20.6375


class Flight(NamedTuple):
    """Where a flight is: `at` stands under its first nosing on the floor below, x on, y to the left, z up; `rise` and
    `going` of `risers` steps, the last of which is onto the landing."""

    name: str
    at: Placement
    rise: float
    going: float
    risers: int

    @property
    def slope(self) -> float:
        return math.atan2(self.rise, self.going)

    def nosing(self, x: float) -> float:
        """How high the line of the nosings is so far on from the first."""
        return self.rise * (1 + x / self.going)


def add_flight(parts: Parts, flight: Flight, p: FlightParams, hosts: tuple[str | None, str | None]) -> None:
    """Stringers with their feet and heads, and all treads; `hosts` are the members that the feet stand on and the heads
    hang from, by key or id."""
    s = section(p.stringer)
    if s.form not in (Form.CHANNEL, Form.FLAT, Form.BOX):
        raise ValueError(f"stringers are channels, flats or tubes, which {p.stringer} is not")
    deep = s.d / 2 / math.cos(flight.slope)
    drop = deep - p.over  # of the axis below the nosings, plumb

    def axis(x: float) -> tuple[float, float]:
        return x, flight.nosing(x) - drop

    floor = {PIT: -p.pit}.get(p.foot, 0.0) + (p.plate if p.foot in (FLOOR, FOOT_BEAM, PIT) else 0.0)
    start = (floor - flight.rise + drop) * flight.going / flight.rise
    if p.foot == FOOT_FACE:
        start = p.plate
    top = (flight.risers - 1) * flight.going
    back = p.plate if p.head == FACE else 0.0
    end = top - back
    if end - start < s.d:
        raise ValueError("its stringers have no length; give it more risers or a longer going")
    keys = []
    for side, way in (("right", -1.0), ("left", 1.0)):
        y = way * (p.width / 2 + s.b / 2)
        key = f"{flight.name} {side} stringer"
        a, b = (flight.at.to_model((x, y, z)) for x, z in (axis(start), axis(end)))
        up = flight.at.axes @ np.array([-math.sin(flight.slope), 0.0, math.cos(flight.slope)])
        # a channel turns its web to the treads: its toes, at its far side, look away from them
        parts.member(key, Role.STRINGER, p.stringer, a, b, up if way > 0 or s.form is not Form.CHANNEL else -up)
        head = "square" if p.head == RETURN else "plumb"
        parts.cut(key, {FOOT_OPEN: "square", FOOT_FACE: "plumb"}.get(p.foot, "level"), head)
        keys.append(key)
        _foot(parts, flight, p, key, y, start, s.d, s.b, hosts[0])
        _head(parts, flight, p, key, y, end, (drop, deep), s.b, way, hosts[1])
    _treads(parts, flight, p, (keys[0], keys[1]))


def _treads(parts: Parts, flight: Flight, p: FlightParams, sides: tuple[str, str]) -> None:
    axes = np.column_stack([-flight.at.y, -flight.at.z, flight.at.x])
    for n in range(1, flight.risers):
        spot = flight.at.to_model(((n - 1) * flight.going - p.nosing, p.width / 2, n * flight.rise))
        step = Step(Placement(spot, axes), p.width, flight.going + p.nosing)
        add_tread(parts, f"{flight.name} tread {n}", step, p, flight.rise, sides)


def _foot(
    parts: Parts, flight: Flight, p: FlightParams, key: str, y: float, x: float, d: float, b: float, host: str | None
) -> None:
    """The plate under a stringer cut level, with its anchors or bolts."""
    if p.foot == FOOT_OPEN:
        return
    if p.foot == FOOT_FACE:
        _foot_face(parts, flight, p, key, y, (d / 2 / math.cos(flight.slope), b), host)
        return
    half = d / 2 / math.sin(flight.slope)
    low = -p.pit if p.foot == PIT else 0.0
    axes = np.column_stack([flight.at.x, -flight.at.z, flight.at.y])  # seen from above, x on
    frame = Placement(flight.at.to_model((x, y, low + p.plate / 2)), axes)
    long, wide = half + 2.5 * p.anchor, b / 2 + 2.5 * p.anchor
    z = b / 2 + 1.25 * p.anchor
    holes = HoleRow(-long * 0.6, -z, p.anchor, columns=2, rows=2, dx=1.2 * long, dz=2 * z)
    parts.plate(f"{key} foot", Role.PLATE, frame, Blank(rectangle((-long, -wide), (long, wide)), (), (holes,)), p.plate)
    parts.attach(f"{key} foot weld", "welded on", f"{key} foot", key)
    if p.foot == FOOT_BEAM and host is not None:
        parts.attach(f"{key} foot bolts", "bolted on", f"{key} foot", host)
    elif p.foot != FOOT_BEAM:
        parts.attach(f"{key} foot anchors", "anchored", f"{key} foot")


def _foot_face(
    parts: Parts, flight: Flight, p: FlightParams, key: str, y: float, size: tuple[float, float], host: str | None
) -> None:
    """The plate at a stringer's foot that stands against a face under the floor it begins at."""
    deep, b = size
    middle = flight.nosing(p.plate) - (deep - p.over)
    axes = np.column_stack([flight.at.y, -flight.at.x, flight.at.z])  # seen from the flight
    frame = Placement(flight.at.to_model((p.plate / 2, y, 0.0)), axes)
    wide, z = b / 2 + 2.75 * p.anchor, b / 2 + 1.4 * p.anchor
    bolted = -(p.tread_thickness + section(p.stringer).d / 3)  # on the web of what it stands against, clear of its top
    low = min(middle - deep, bolted - 1.6 * p.anchor)
    holes = HoleRow(-z, bolted, p.anchor, columns=2, dx=2 * z)
    blank = Blank(rectangle((-wide, low), (wide, middle + deep)), (), (holes,))
    parts.plate(f"{key} foot", Role.PLATE, frame, blank, p.plate)
    parts.attach(f"{key} foot weld", "welded on", f"{key} foot", key)
    if host is not None:
        parts.attach(f"{key} foot bolts", "bolted on", f"{key} foot", host)


def _head(
    parts: Parts,
    flight: Flight,
    p: FlightParams,
    key: str,
    y: float,
    x: float,
    axis: tuple[float, float],
    b: float,
    way: float,
    host: str | None,
) -> None:
    """What holds a stringer's upper end."""
    drop, deep = axis
    middle = flight.nosing(x) - drop
    if p.head == FACE:
        axes = np.column_stack([-flight.at.y, flight.at.x, flight.at.z])  # seen from the flight
        frame = Placement(flight.at.to_model((x + p.plate / 2, y, middle)), axes)
        wide, high = b / 2 + 2.75 * p.anchor, deep
        z = b / 2 + 1.4 * p.anchor
        third = section(p.stringer).d / 3  # rows that lie on a face as deep as the stringer, under the floor
        top = flight.risers * flight.rise - p.tread_thickness - middle
        holes = HoleRow(-z, top - 2 * third, p.anchor, columns=2, rows=2, dx=2 * z, dz=third)
        blank = Blank(rectangle((-wide, -high), (wide, high)), (), (holes,))
        parts.plate(f"{key} head", Role.PLATE, frame, blank, p.plate)
        parts.attach(f"{key} head weld", "welded on", f"{key} head", key)
        if host is not None:
            parts.attach(f"{key} head bolts", "bolted on", f"{key} head", host)
    elif p.head == RETURN:
        _returned(parts, flight, p, key, y, x, middle, way)


def _returned(
    parts: Parts, flight: Flight, p: FlightParams, key: str, y: float, x: float, z: float, way: float
) -> None:
    """A stringer that turns level: a length of the same section, mitred to it."""
    a, b = (flight.at.to_model((at, y, z)) for at in (x, x + p.returned))
    channel = section(p.stringer).form is Form.CHANNEL
    up: Vec = flight.at.z if way > 0 or not channel else -flight.at.z
    parts.member(f"{key} level", Role.STRINGER, p.stringer, a, b, up)
    parts.join(f"{key} mitre", "mitred ends", key, End.RIGHT, f"{key} level")
