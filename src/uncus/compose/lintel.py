"""A lintel over an opening in a wall: angles, a plate, or a beam with a plate under it, from bearing to bearing."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form, Section, section
from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.units import INCH, format_length, length_in_words

PAIR, ANGLE, PLATE, BEAM = MADES = ("two angles, back to back", "one angle", "a plate", "a beam with a plate under it")
LEFT, RIGHT = SIDES = ("to the left", "to the right")
LOOSE, WELDED = HELD = ("laid loose", "welded to each other")
_LEVEL = 1.0  # mm
_BEARING = 4 * INCH  # IRC R703.8.3: lintels bear on at least 4 in. at each end
_SHORT = 20.0  # mm of an opening under which it is none


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    made: Annotated[str, About("Made of", unit="choice", choices=MADES)] = PAIR
    wall: Annotated[float, About("Wall's thickness", low=50, high=2000)] = 203.2
    bearing: Annotated[float, About("Bears at each end for", low=0, high=1500)] = 203.2
    angle: Annotated[str, About("Angles", unit="section", only=("made", PAIR, ANGLE))] = "L5X3-1/2X5/16"
    apart: Annotated[float, About("Between their backs", low=0, high=100, only=("made", PAIR))] = 0.0
    held: Annotated[str, About("The two are", unit="choice", choices=HELD, only=("made", PAIR))] = LOOSE
    leg: Annotated[str, About("Leg stands out", unit="choice", choices=SIDES, only=("made", ANGLE),
        help="Seen from the first jamb to the second.")] = LEFT  # fmt: skip
    beam: Annotated[str, About("Beam", unit="section", only=("made", BEAM))] = "W8X18"
    plate: Annotated[float, About("Plate", low=4, high=80, only=("made", PLATE, BEAM))] = 9.525
    back: Annotated[float, About("Short of the wall's faces", low=0, high=200,
        help="Of a plate at both sides, of one angle's leg at its own.")] = 12.7  # fmt: skip


class Laid(NamedTuple):
    """Where a lintel lies: its ends in the middle of the wall at the opening's head, the way to its left, and how wide
    the opening is."""

    ends: tuple[Vec, Vec]
    left: Vec
    opening: float

    def at(self, left: float, up: float) -> tuple[Vec, Vec]:
        """Both ends, so far to the left and up."""
        off = left * self.left + np.array([0.0, 0.0, up])
        return self.ends[0] + off, self.ends[1] + off


def laid_out(given: Given) -> Laid:
    """Raises ValueError where the two jambs are at no head of an opening."""
    p: Params = given.params
    a, b = given.points[:2]
    run = np.array([b[0] - a[0], b[1] - a[1], 0.0])
    opening = float(np.linalg.norm(run))
    if opening < _SHORT:
        raise ValueError("its two jambs are one above the other; pick both at the head of the opening")
    if abs(float(b[2] - a[2])) > _LEVEL:
        raise ValueError("one of its jambs is picked higher than the other; pick both at the head of the opening")
    run /= opening
    over = np.array([0.0, 0.0, a[2] - b[2]])
    return Laid((a - run * p.bearing, b + over + run * p.bearing), np.array([-run[1], run[0], 0.0]), opening)


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts, laid = Parts(given), laid_out(given)
    if p.made in (PAIR, ANGLE):
        _angles(parts, p, laid)
    else:
        _plate(parts, p, laid)
    if p.made == BEAM:
        s = section(p.beam)
        if s.form not in (Form.I, Form.CHANNEL, Form.BOX):
            raise ValueError(f"its beam is an I, a channel or a square tube, which {p.beam} is not")
        parts.member("beam", Role.BEAM, p.beam, *laid.at(0.0, p.plate + s.d / 2), np.array([0.0, 0.0, 1.0]))
        parts.attach("weld", "welded on", "plate", "beam")
    return parts.made


def _angles(parts: Parts, p: Params, laid: Laid) -> None:
    """One or two angles on the head of the opening, their legs out level at the bottom."""
    s = section(p.angle)
    if s.form is not Form.ANGLE:
        raise ValueError(f"it is made of angles, such as L5X3-1/2X5/16, which {p.angle} is not")
    up = np.array([0.0, 0.0, 1.0])
    for key, way in (("left angle", 1.0), ("right angle", -1.0)):
        if p.made == ANGLE and way != (1.0 if p.leg == LEFT else -1.0):
            continue
        heel = p.apart / 2 if p.made == PAIR else p.wall / 2 - p.back - s.b
        a, b = laid.at(way * (heel + s.b / 2), s.d / 2)
        parts.member(key, Role.BEAM, p.angle, *((a, b) if way > 0 else (b, a)), up)  # its leg is at its far side
    if p.made == PAIR and p.held == WELDED:
        if p.apart > 0:
            raise ValueError("its angles are welded to each other, so nothing is between their backs")
        parts.attach("weld", "welded on", "left angle", "right angle")


def _plate(parts: Parts, p: Params, laid: Laid) -> None:
    half = p.wall / 2 - p.back
    if half < _SHORT:
        raise ValueError("its plate has no width; let it end less short of the wall's faces")
    a, b = laid.at(0.0, p.plate / 2)
    on = (b - a) / np.linalg.norm(b - a)
    axes = np.column_stack([on, np.array([0.0, 0.0, -1.0]), laid.left])
    blank = Blank(rectangle((0.0, -half), (float(np.linalg.norm(b - a)), half)))
    parts.plate("plate", Role.PLATE, Placement(a, axes), blank, p.plate)


def told(given: Given) -> Iterator[Said]:
    p: Params = given.params
    if p.bearing < _BEARING - 0.5:
        yield Said(f"It bears on {length_in_words(p.bearing, given.units)} at each end; IRC R703.8.3 asks for at least "
            f"{length_in_words(_BEARING, given.units)}.")  # fmt: skip
    if (over := _over(p)) > 0.5:
        yield Said(f"It stands out of the wall by {length_in_words(over, given.units)}; take a smaller section, or "
            "check the wall's thickness.")  # fmt: skip


def _over(p: Params) -> float:
    """How far it stands out of the wall's faces at most."""
    wide: Section | None = section(p.angle) if p.made in (PAIR, ANGLE) else section(p.beam) if p.made == BEAM else None
    if wide is None:
        return 0.0
    if p.made == PAIR:
        return p.apart / 2 + wide.b - p.wall / 2
    if p.made == ANGLE:
        return wide.b + p.back - p.wall
    return (wide.b - p.wall) / 2


def reading(given: Given) -> str:
    laid = laid_out(given)
    whole = laid.opening + 2 * given.params.bearing
    return f"{format_length(whole, given.units)} over {format_length(laid.opening, given.units)}, {given.params.made}"


KIND = Compound(
    "lintel",
    "Lintel",
    Params,
    ("pick the first jamb: the middle of the wall at the head of the opening", "pick the other jamb"),
    build,
    "Angles, a plate, or a beam with a plate under it, over an opening in a wall, from bearing to bearing.",
    told=told,
    reading=reading,
    metric={"wall": 200.0, "bearing": 200.0, "angle": "L120X80X8", "beam": "IPE200", "plate": 10.0, "back": 10.0},
)
