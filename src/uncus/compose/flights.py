"""Straight flights: their stringers, what these stand on and hang from, and the treads between them."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import numpy as np

from uncus.catalog.sections import Form, Section, section
from uncus.compose.kind import Parts
from uncus.compose.treads import GRATING, PAN, Step, TreadParams, Web, add_tread
from uncus.frame.outlines import rectangle, straight
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
HEADS = FACE, WEB, HUNG, RETURN, HEAD_OPEN = ("against a face, with an end plate", "on a beam's web, with a tab",
    "hung under a beam, with a plate", "on the landing, turned level", "left open")  # fmt: skip
_BOLT_ROW = 3.0  # holes' widths from the middle of one to that of the next
_AIR = 3.0  # mm
_TO_EDGE = 1.5  # and from a hole to an edge


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


class Head(NamedTuple):
    """The upper end of a stringer's web that a plate is bolted to: the stringer's key, where it ends along the flight
    and where the plate stands across it, from how low to how high it reaches, and the id of what it hangs on."""

    key: str
    x: float
    y: float
    room: tuple[float, float]
    host: str | None


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
    web = Web(flight.slope, drop, s.d / 2 - (s.k if s.form is Form.CHANNEL else s.r if s.form is Form.BOX else 0.0))
    _treads(parts, flight, p, (keys[0], keys[1]), web)


def _treads(parts: Parts, flight: Flight, p: FlightParams, sides: tuple[str, str], web: Web) -> None:
    axes = np.column_stack([-flight.at.y, -flight.at.z, flight.at.x])
    for n in range(1, flight.risers):
        spot = flight.at.to_model(((n - 1) * flight.going - p.nosing, p.width / 2, n * flight.rise))
        # a pan's riser stands on the next tread's front; any other ends short of what is behind it
        air = 0.0 if p.tread == PAN else _AIR
        step = Step(Placement(spot, axes), p.width, flight.going + p.nosing - air, web)
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
    inner = (b / 2 - 2.0) * (1.0 if y < 0 else -1.0)  # over the floor it keeps out of the treads' way
    outer = -math.copysign(b / 2 + p.plate, inner)
    left, right = sorted((inner, outer))
    top = middle + deep
    upper = [(wide, 0.0), (right, 0.0), (right, top), (left, top), (left, 0.0), (-wide, 0.0)]
    ring = straight([(-wide, low), (wide, low), *upper])
    parts.plate(f"{key} foot", Role.PLATE, frame, Blank(ring, (), (holes,)), p.plate)
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
        floor = flight.risers * flight.rise
        rows = _rows_on_face(parts, flight, p, host)
        holes = HoleRow(-z, floor - rows[1] - middle, p.anchor, columns=2, rows=2, dx=2 * z, dz=rows[1] - rows[0])
        blank = Blank(rectangle((-wide, -high), (wide, high)), (), (holes,))
        parts.plate(f"{key} head", Role.PLATE, frame, blank, p.plate)
        parts.attach(f"{key} head weld", "welded on", f"{key} head", key)
        if host is not None:
            parts.attach(f"{key} head bolts", "bolted on", f"{key} head", host)
    elif p.head == RETURN:
        _returned(parts, flight, p, key, y, x, middle, way)
    elif p.head in (WEB, HUNG):
        if section(p.stringer).form is Form.BOX:
            raise ValueError("a tube has no web to bolt a plate to; give its stringers' heads an end plate")
        face = y - way * (b / 2 + p.plate / 2)  # on the side of the treads
        head = Head(key, x, face, (middle - deep, middle + deep), host)
        if p.head == WEB:
            _on_web(parts, flight, p, head)
        else:
            _hung(parts, flight, p, head)


def _rows_on_face(parts: Parts, flight: Flight, p: FlightParams, host: str | None) -> tuple[float, float]:
    """How far under the floor two rows of bolts lie on the web behind a head, clear of its fillets and of the last
    tread, which runs up to that face a riser lower."""
    found = parts.body(host)
    own = section(p.stringer)
    deep, fillet = (found[1].d, found[1].k) if found is not None else (own.d, own.k)
    edge, top = _TO_EDGE * p.anchor, p.tread_thickness
    first = top + max(fillet, p.anchor) + edge
    last = top + deep - max(fillet, p.anchor) - edge
    tread = flight.rise - edge, flight.rise + top + (p.back if p.tread != GRATING else 0.0) + edge
    wide = min(own.d / 3, last - first)
    second = first + wide
    if tread[0] < second < tread[1]:
        second = tread[0] if tread[0] - first >= _BOLT_ROW * p.anchor else min(tread[1], last)
    return first, second


def _beam_over(parts: Parts, flight: Flight, key: str | None, words: str) -> tuple[Section, float, float]:
    """A level beam across the head: its section, how far on its middle is, and how high its top. Raises ValueError."""
    found = parts.body(key)
    if found is None:
        raise ValueError(f"{words} needs a beam to hang on; pick its head on that beam")
    frame, s, long = found
    ends = flight.at.to_local(frame.to_model([(0.0, 0.0, 0.0), (long, 0.0, 0.0)]))
    across = ends[1] - ends[0]
    if s.form is not Form.I or abs(float(across[2])) > 1.0 or abs(float(across[0])) > 0.02 * long:
        raise ValueError(f"{words} needs a level I beam square to the flight; give its head an end plate, or leave it "
            "open")  # fmt: skip
    return s, float(ends[:, 0].mean()), float(ends[:, 2].mean()) + s.d / 2


def _on_web(parts: Parts, flight: Flight, p: FlightParams, head: Head) -> None:
    """A tab on the web of a beam whose flange the stringer stops at, bolted to the stringer's web."""
    key, x, y, room, host = head
    s, middle, top = _beam_over(parts, flight, host, "a head on a beam's web")
    edge, row = _TO_EDGE * p.anchor, _BOLT_ROW * p.anchor
    if middle - s.b / 2 < x - 1.0:
        raise ValueError("its last riser stands past the edge of the beam that its head is on; move the head back")
    tread = (flight.risers - 1) * flight.rise  # the top of the last tread, which the tab stays over
    high = min(top - s.k, room[1]) - 3.0
    low = max(top - s.d + s.k, room[0], tread) + 3.0
    if high - low < 2 * edge:
        raise ValueError("its head has no room for a tab between the beam's flange and the last tread; give it an end "
            "plate")  # fmt: skip
    rows = max(1, 1 + int((high - low - 2 * edge) // row))
    columns = 1 if rows > 1 else 2
    axes = np.column_stack([flight.at.x, -flight.at.y, flight.at.z])
    far = middle - s.tw / 2
    inner = x - 12.0 - edge  # of the holes, in the stringer
    inner -= (columns - 1) * row
    holes = HoleRow(
        inner, (low + high - (rows - 1) * row) / 2, p.anchor, 0.0, columns=columns, rows=rows, dx=row, dz=row
    )
    blank = Blank(rectangle((inner - edge, low), (far, high)), (), (holes,))
    frame = Placement(flight.at.to_model((0.0, y, 0.0)), axes)
    parts.plate(f"{key} tab", Role.PLATE, frame, blank, p.plate)
    parts.attach(f"{key} tab weld", "welded on", f"{key} tab", host)
    parts.attach(f"{key} tab bolts", "bolted on", f"{key} tab", key)


def _hung(parts: Parts, flight: Flight, p: FlightParams, head: Head) -> None:
    """A plate from the stringer's web up to a beam that crosses over its head, and one that it hangs from there."""
    key, x, y, room, host = head
    s, middle, top = _beam_over(parts, flight, host, "a hung head")
    edge, row = _TO_EDGE * p.anchor, _BOLT_ROW * p.anchor
    under = top - s.d
    if under - room[1] < p.plate or abs(middle - x) > 300.0:
        raise ValueError("the beam that its head is to hang from does not cross over its end; pick one that does")
    if under - p.plate - room[0] > 6000.0:
        raise ValueError("the beam that its head is to hang from is more than 6 m over it; pick a nearer one")
    axes = np.column_stack([flight.at.x, -flight.at.y, flight.at.z])
    at = x - 12.0 - edge
    tread = (flight.risers - 1) * flight.rise
    low = max((room[0] + room[1]) / 2 - edge - row / 2, tread + 3.0)
    blank = Blank(rectangle((at - edge - row, low), (at + edge, under - p.plate)), (),
        (HoleRow(at - row, low + edge, p.anchor, columns=2, rows=2, dx=row, dz=row),))  # fmt: skip
    parts.plate(f"{key} hanger", Role.PLATE, Placement(flight.at.to_model((0.0, y, 0.0)), axes), blank, p.plate)
    parts.attach(f"{key} hanger bolts", "bolted on", f"{key} hanger", key)
    gage = max(s.gage, s.tw + 2 * s.r + 2 * edge) / 2 if s.gage else s.b / 4
    long, wide = max(s.b / 2, gage + edge), edge + row / 2 + p.plate
    flat = np.column_stack([flight.at.x, -flight.at.z, flight.at.y])
    frame = Placement(flight.at.to_model((middle, y, under - p.plate / 2)), flat)
    holes = HoleRow(-gage, -row / 2 - p.plate / 2, p.anchor, columns=2, rows=2, dx=2 * gage, dz=row + p.plate)
    parts.plate(f"{key} seat", Role.PLATE, frame, Blank(rectangle((-long, -wide), (long, wide)), (), (holes,)), p.plate)
    parts.attach(f"{key} seat weld", "welded on", f"{key} hanger", f"{key} seat")
    parts.attach(f"{key} seat bolts", "bolted on", f"{key} seat", host)


def _returned(
    parts: Parts, flight: Flight, p: FlightParams, key: str, y: float, x: float, z: float, way: float
) -> None:
    """A stringer that turns level: a length of the same section, mitred to it."""
    a, b = (flight.at.to_model((at, y, z)) for at in (x, x + p.returned))
    channel = section(p.stringer).form is Form.CHANNEL
    up: Vec = flight.at.z if way > 0 or not channel else -flight.at.z
    parts.member(f"{key} level", Role.STRINGER, p.stringer, a, b, up)
    parts.join(f"{key} mitre", "mitred ends", key, End.RIGHT, f"{key} level")
