"""Treads: each kind as the blank that it is bent of, and how its ends are held."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.compose.kind import Parts
from uncus.compose.stair_rules import NAMES
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.job.blanks import Blank, Fold, HoleRow, Lugs
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.steel.forming import neutral_radius

PLATE, CHECKERED, PAN, GRATING = KINDS = ("plate", "checkered plate", "pan for concrete", "grating")
HELD = ("bolted", "welded")
_TO_EDGE, _BOLT_ROW = 1.5, 2.7  # holes' widths from one to an edge, and to the next at least


class StepParams(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What of a stair's values it steps by; they stand first in its form."""

    rule: Annotated[str, About("Held against", unit="choice", choices=NAMES)] = NAMES[0]
    width: Annotated[float, About("Width", low=300, high=6000, help="Clear between the stringers.")] = 914.4
    risers: Annotated[int | None, About("Risers", unit="count", low=1, high=60,
        help="Left open: as many as come nearest to comfort within the rule.")] = None  # fmt: skip
    going: Annotated[float | None, About("Going", low=100, high=600,
        help="Left open: so much that the last riser is at the head.")] = None  # fmt: skip


class TreadParams(StepParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What of a stair's values its treads are made by."""

    tread: Annotated[str, About("Treads", unit="choice", choices=KINDS)] = CHECKERED
    tread_thickness: Annotated[float, About("Tread's plate", low=3, high=60)] = 6.35
    lip: Annotated[float, About("Lip in front", low=0, high=200,
        help="Turned down along the front edge; of a pan turned up, to hold the concrete.")] = 50.8  # fmt: skip
    back: Annotated[float, About("Lip at the back", low=0, high=200, help="Turned down along the back edge.")] = 38.1
    grate: Annotated[float, About("Grating weighs", low=2, high=400, unit="weight", only=("tread", GRATING),
        help="Of a square metre.")] = 42.0  # fmt: skip
    nosing: Annotated[float, About("Nosing", low=0, high=100,
        help="How far a tread runs out over the one below.")] = 25.4  # fmt: skip
    held: Annotated[str, About("Treads are", unit="choice", choices=HELD)] = HELD[1]
    end_plate: Annotated[float, About("End plate", low=3, high=25, only=("held", HELD[0]),
        help="At both ends of a bolted tread.")] = 6.35  # fmt: skip
    bolt_hole: Annotated[float, About("Holes of treads", low=8, high=30, only=("held", HELD[0]))] = 14.2875


class Step(NamedTuple):
    """Where a tread is: `place` has its origin at the left end of the nosing, x to the right, y down and z on; `long`
    from side to side, `deep` from the nosing to its back."""

    place: Placement
    long: float
    deep: float
    web: Web


class Web(NamedTuple):
    """What a bolted tread finds behind its ends: the stringers' slope, how far plumb their axis lies under the line of
    the nosings, and how far to either side of it, square to it, their web is flat."""

    slope: float
    drop: float
    flat: float

    def between(self, z: float, p: TreadParams) -> tuple[float, float]:
        """How far on from a tread's front edge holes can be in a row at height `z` from its top."""
        middle = p.nosing + (z + self.drop) / math.tan(self.slope)
        room = (self.flat - _TO_EDGE * p.bolt_hole) / math.sin(self.slope)
        return middle - room, middle + room


def folded_strip(
    long: float, legs: list[float], angles: list[float], thickness: float, fixed: int, radius: float
) -> tuple[Blank, list[float]]:
    """A strip `long` in x, bent along lines of x: outside measures of its `legs` one after the other in z, the `angles`
    between them (down, away from the near side, where negative); the leg `fixed` stays where it is. Its blank, and
    where each leg's flat begins in it. Raises ValueError for a leg shorter than its bends."""
    take = [abs(np.radians(a)) * neutral_radius(radius, thickness) for a in angles]
    set_back = [(radius + thickness) * float(np.tan(abs(np.radians(a)) / 2)) for a in angles]
    starts, at, lines = [], 0.0, []
    for n, leg in enumerate(legs):
        flat = leg - (set_back[n - 1] if n else 0.0) - (set_back[n] if n < len(angles) else 0.0)
        if flat < thickness:
            raise ValueError("a lip of its treads is shorter than its bend; make it longer or the plate thinner")
        starts.append(at)
        at += flat
        if n < len(angles):
            lines.append(at + take[n] / 2)
            at += take[n]
    folds = []
    for n, (z, angle) in enumerate(zip(lines, angles, strict=True)):
        ends = (long, 0.0) if n < fixed else (0.0, long)  # what lies left of a line turns
        folds.append(Fold(ends[0], z, ends[1], z, angle, radius))
    return Blank(rectangle((0.0, 0.0), (long, at)), (), (), tuple(folds)), starts


def add_tread(parts: Parts, key: str, step: Step, p: TreadParams, riser: float, sides: tuple[str, str]) -> None:
    """A tread between two stringers (the right and the left one's keys), held as its stair's values say."""
    ends = p.end_plate if p.held == HELD[0] else 0.0
    place, long = step.place.moved((ends, 0.0, 0.0)), step.long - 2 * ends
    t = p.tread_thickness
    legs, angles, main = _profile(p, step.deep, riser)
    radius = usual_radius(parts.given.rules.plate_grade, t)
    blank, starts = folded_strip(long, legs, angles, t, main, radius)
    if p.tread == CHECKERED:
        blank = msgspec.structs.replace(blank, lugs=Lugs())
    elif p.tread == GRATING:
        blank = msgspec.structs.replace(blank, lugs=Lugs("Grating", 0.0, p.grate))
    set_back = (radius + t) if main else 0.0
    # the flat of the tread itself begins a bend's measure behind the nosing
    own = place.moved((0.0, t / 2, set_back - starts[main]))
    parts.plate(key, Role.TREAD, own, blank, t)
    if p.held == HELD[1]:
        for name, stringer in zip(("right", "left"), sides, strict=True):
            parts.attach(f"{key} {name} weld", "welded on", key, stringer)
        return
    high = max(legs[0] if main and p.tread != PAN else 0.0, 2.5 * p.bolt_hole + 2 * t, 60.0)
    for name, x, stringer in (("left", ends / 2, sides[1]), ("right", step.long - ends / 2, sides[0])):
        _end_plate(parts, f"{key} {name}", step.place.moved((x, 0.0, 0.0)), p, step, high, riser)
        parts.attach(f"{key} {name} weld", "welded on", f"{key} {name} plate", key)
        parts.attach(f"{key} {name} bolts", "bolted on", f"{key} {name} plate", stringer)


def _profile(p: TreadParams, deep: float, riser: float) -> tuple[list[float], list[float], int]:
    """Legs, angles between them and which leg is the tread itself."""
    if p.tread == PAN:
        up = riser - 3.0  # the riser to the next tread, welded under its front
        return ([p.lip, deep, up], [90.0, 90.0], 1) if p.lip else ([deep, up], [90.0], 0)
    legs, angles, main = [deep], list[float](), 0
    if p.tread != GRATING:
        if p.lip:
            legs, angles, main = [p.lip, *legs], [-90.0], 1
        if p.back:
            legs, angles = [*legs, p.back], [*angles, -90.0]
    return legs, angles, main


def _row(p: TreadParams, step: Step, high: float, riser: float) -> tuple[float, float, float]:
    """Where a tread's two holes are: their height, and how far on each is. In the middle of the plate's usual height
    and as far apart as its edges let them, but on the flat of the stringer's web: nearer together, or lower."""
    inset = max(1.6 * p.bolt_hole + p.tread_thickness, p.nosing + 2.8 * p.bolt_hole)  # clear of a plate at the foot
    usual = -(p.tread_thickness + high / 2)
    level = math.tan(step.web.slope) * (step.deep / 2 - p.nosing) - step.web.drop  # where the web's axis is half way on
    lowest = _TO_EDGE * p.bolt_hole + 10.0 - riser
    for z in (usual, *np.linspace(usual, min(max(level, lowest), usual), 5)[1:].tolist()):
        first, last = step.web.between(z, p)
        ends = max(first, inset), min(last, step.deep - inset)
        if ends[1] - ends[0] > _BOLT_ROW * p.bolt_hole:
            return z, *ends
    return usual, inset, step.deep - inset  # the joint tells what is wrong


def _end_plate(parts: Parts, key: str, at: Placement, p: TreadParams, step: Step, high: float, riser: float) -> None:
    """A plate across the end of a tread and down from it, with two holes."""
    z, first, last = _row(p, step, high, riser)
    axes = np.column_stack([at.z, -at.x, np.cross(at.z, -at.x)])  # x on, y to the left, z up
    frame = Placement(at.to_model((0.0, 0.0, 0.0)), axes)
    low = min(-(p.tread_thickness + high), z - _TO_EDGE * p.bolt_hole)
    holes = HoleRow(first, z, p.bolt_hole, columns=2, dx=last - first)
    blank = Blank(rectangle((0.0, low), (step.deep, 0.0)), (), (holes,))
    parts.plate(f"{key} plate", Role.TREAD, frame, blank, p.end_plate)
