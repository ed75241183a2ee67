"""Braces of a bay with four corners: their make-up, where they cross, and how they lie in its plane."""

from __future__ import annotations

from typing import Annotated, Any, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.frame.axes import UP
from uncus.frame.numbers.kind import between
from uncus.frame.placement import Vec, unit
from uncus.frame.roll import towards
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Double, Layout, Leg, Line, Member, Role, Turnbuckle
from uncus.units import INCH

_BACKED = (Form.ANGLE, Form.CHANNEL)
_TIES = ("with turnbuckles", "turned themselves")
_CROSSINGS = ("the second in two lengths", "both in one length", "set off to either side")
_FLAT = 5.0  # mm that diagonals may pass each other by


class Braces(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What braces of a bay are made of."""

    section: Annotated[
        str, About("Section", unit="section", help="A round bar, such as ROD1 or RD24, makes tie rods.")
    ] = "L4X4X3/8"
    crossing: Annotated[
        str,
        About(
            "Where an X crosses",
            unit="choice",
            choices=_CROSSINGS,
            help="In two lengths: held to a plate on the first brace. Set off: each on its own side of the gussets, so "
            "that they pass; tie rods are always.",
            only=("shape", "X"),
        ),
    ] = _CROSSINGS[0]
    pair: Annotated[
        str, About("Angles", unit="choice", choices=("single", *(str(x) for x in Layout)), help="One angle, or a pair.")
    ] = "single"
    leg: Annotated[
        str,
        About(
            "Leg at the gusset",
            unit="choice",
            choices=tuple(str(x) for x in Leg),
            help="Of a pair.",
            only=("pair", str(Layout.BACK_TO_BACK)),
        ),
    ] = "long"
    gap: Annotated[
        float,
        About(
            "Gap between backs",
            high=150,
            help="In a pair, or between braces set off to either side: their gussets fill it.",
        ),
    ] = 3 / 8 * INCH
    spacing: Annotated[
        float,
        About(
            "Stitches at most apart",
            low=100,
            high=20_000,
            help="Stitch plates of a pair.",
            only=("pair", *(str(x) for x in Layout)),
        ),
    ] = 36 * INCH
    turnbuckles: Annotated[
        str,
        About(
            "Tie rods",
            unit="choice",
            choices=_TIES,
            help="Of round bars: a turnbuckle at a quarter of each, from its lower end, or the rod turned in the "
            "clevises at its ends.",
        ),
    ] = _TIES[0]


METRIC: dict[str, Any] = {"section": "L100X100X10", "gap": 10.0, "spacing": 900.0}


class Bay(NamedTuple):
    """Its corners, one after the other round it; the first two are the lower side."""

    a: Vec
    b: Vec
    c: Vec
    d: Vec

    @property
    def normal(self) -> Vec:
        """Square to its plane, up where it is not upright."""
        n = unit(np.cross(self.c - self.a, self.d - self.b))
        return n if n @ UP >= -1e-9 else -n

    @property
    def is_upright(self) -> bool:
        return abs(float(self.normal @ UP)) < 1e-6

    def moved(self, by: Vec) -> Bay:
        return Bay(*(np.asarray(p + by) for p in self))

    def crossing(self) -> Vec:
        """Where its diagonals cross. Raises JobError where they pass each other."""
        one, other = self.c - self.a, self.d - self.b
        (s, t), *_ = np.linalg.lstsq(np.column_stack([one, -other]), self.b - self.a, rcond=None)
        p, q = self.a + s * one, self.b + t * other
        if not (0.05 < s < 0.95 and 0.05 < t < 0.95):
            raise JobError("The four corners do not go round a bay; pick them one after the other round it.")
        if float(np.linalg.norm(p - q)) > _FLAT:
            raise JobError(
                f"The diagonals of the bay pass each other by {float(np.linalg.norm(p - q)):.0f} mm: its corners do "
                f"not lie in one plane; pick other corners."
            )
        return np.asarray((p + q) / 2)


Run = tuple[Vec, Vec]


def braces(p: Braces, bay: Bay, runs: list[Run], crossed: bool) -> list[Member]:
    """A brace along each run of a bay; two that are `crossed` pass each other as asked."""
    rods = section(p.section).form is Form.ROUND
    if crossed and (rods or p.crossing == _CROSSINGS[2]):
        return _set_off(p, bay, runs)
    if crossed and p.crossing == _CROSSINGS[0]:
        middle, (start, end) = bay.crossing(), runs[1]
        runs = [runs[0], (start, middle), (middle, end)]
    double = None if p.pair == "single" else Double(Layout(p.pair), Leg(p.leg), p.gap, None, p.spacing)
    # a single angle lies with its back on the bay's plane, where its gussets are, its gage line on the work points
    line = Line.GAGE if double is None and section(p.section).form is Form.ANGLE else Line.CENTRE
    return [_brace(p, bay, run, line=line, double=double) for run in runs]


def _brace(p: Braces, bay: Bay, run: Run, line: Line = Line.CENTRE, **values: Any) -> Member:
    """A brace with its web or upright leg in the bay's plane, and its turnbuckle, if it has one, within reach of who
    stands below and clear of where rods cross."""
    a, b = run
    made = between(Role.BRACE, p.section, a, b, line, **values)
    if not bay.is_upright:
        made = msgspec.structs.replace(made, roll=towards(made, np.cross(b - a, bay.normal)) % 360.0)
    if section(p.section).form is Form.ROUND and p.turnbuckles == _TIES[0]:
        share = 0.25 if a[2] <= b[2] + 1e-6 else 0.75
        made = msgspec.structs.replace(made, turnbuckle=Turnbuckle(round(made.work_length * share)))
    return made


def _set_off(p: Braces, bay: Bay, runs: list[Run]) -> list[Member]:
    """Two braces in one length each, at either side of the plane of their work points: where the bay is upright the
    second runs the other way, so that its back looks at the first's, and their gussets lie between them; rods stand
    clear of each other, and both begin at their lower ends, so that they are one piece twice."""
    s = section(p.section)
    if p.pair != "single" or s.form not in (*_BACKED, Form.ROUND):
        kind = "a pair" if p.pair != "single" else s.name
        raise JobError(
            f"Only single angles, channels and round bars lie on one side of their gussets and can be set off; for "
            f"{kind} choose two lengths.")  # fmt: skip
    out = (s.b + p.gap) / 2
    first, (c, d) = runs
    one, other = _brace(p, bay, first, aside=out), _brace(p, bay, (d, c), aside=out)
    if not bay.is_upright:  # in plan both look up; the second is turned to look down
        other = msgspec.structs.replace(other, roll=(other.roll + 180.0) % 360.0)
    return [one, other]
