"""Seat: an angle under the beam that carries it, and a lighter one at its top that keeps it upright; bent plates in
their place under a beam that slopes."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Form, Section, section, usual_gage
from uncus.connect import params as p_
from uncus.connect.bent import SQUARE, Fold, bent_plate
from uncus.connect.coping import clearing
from uncus.connect.double_angle import corner_frame
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, angle_between, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.rows import web_middle
from uncus.connect.strength import shear
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution

_MOST_SKEW, _MOST_SLOPE = 45.0, 30.0  # degrees up to which a leg under the flange is bolted and welded as usual


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    angle: Annotated[str | None, About("Seat angle", unit="section", help="Its long leg stands on the support.")] = None
    long: Annotated[float | None, About("Length of the seat", low=80, high=600)] = None
    to_support: Annotated[str, About("To the support", unit="choice", choices=("welded", "bolted"))] = "welded"
    top: Annotated[str, About("Top angle", unit="choice", choices=("on the flange", "none"))] = "on the flange"
    top_angle: Annotated[
        str | None, About("Top angle's section", unit="section", help="Nothing: a light one, by the job's units.")
    ] = None
    bolt: p_.Bolt = None
    gap: p_.Gap = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Seat and top angles with their bolts and welds; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam = joint.member
    if not beam.section.flanged:
        return fit.refused(f"A seat is for a beam with flanges, and the {beam.words} has none.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    if abs(m.skew) > _MOST_SKEW or abs(m.slope) > _MOST_SLOPE:
        return fit.refused(
            f"The {beam.words} is skewed by {abs(m.skew):.0f}° and slopes by {abs(m.slope):.0f}°; a seat holds it up "
            f"to {_MOST_SKEW:.0f}° and {_MOST_SLOPE:.0f}°.")  # fmt: skip
    cleared = clearing(fit, m, max(joint.rules.gap, 12.0) if p.gap is None else p.gap, bevel=m.skewed or m.sloping)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    if cleared.stands_off or cleared.copes:
        return fit.refused(f"The flanges of the {m.surface.body.words} are in the way of a seat; choose another kind.")
    seat, top = (
        section(p.angle or joint.rules.seat_angle),
        section(p.top_angle or ("L4X4X1/4" if fit.inch else "L100X100X8")),
    )
    if Form.ANGLE not in (seat.form, top.form) or seat.form is not top.form:
        return fit.refused("A seat and its top angle are L sections; choose angles.")
    cleared.apply(fit, m)
    under = _Bearing.at(m, -1.0)
    if seat.b - under.off(m.body.frame.to_model((cleared.cut.x(0.0, under.z), 0.0, under.z))) < 40:
        fit.find(f"The {beam.words} bears on less than 40 mm of its seat; choose a wider outstanding leg.")
    _angle(fit, m, p, seat, "seat", under)
    if p.top != "none":
        _angle(fit, m, p, top, "top", _Bearing.at(m, 1.0))
    return fit.done()


class _Bearing(NamedTuple):
    """Where a flange's outer face (z of the beam) and the side of the support meet: a point of that line on the
    beam's middle, its direction, and the legs' directions from there: `out` under (or on) the flange, `stands` on
    the support."""

    m: Meeting
    z: float
    heel: Vec
    along: Vec
    out: Vec
    stands: Vec

    @classmethod
    def at(cls, m: Meeting, sign: float) -> _Bearing:
        z = sign * m.body.section.d / 2
        y = web_middle(m.body.section)  # a channel's web stands over the middle of its seat
        face = sign * m.body.frame.z
        along = unit(np.cross(face, m.surface.normal))
        out, stands = np.cross(along, face), np.cross(along, m.surface.normal)
        out = out if float(out @ m.surface.normal) > 0 else -out
        stands = stands if float(stands @ face) > 0 else -stands
        return cls(m, z, m.body.frame.to_model((m.a + m.ky * y + m.kz * z, y, z)), along, out, stands)

    def off(self, spot: Vec) -> float:
        """How far along the flange a point is from the line."""
        return float((spot - self.heel) @ self.out)

    def spot(self, off: float, y: float) -> Vec:
        """The point of the flange so far from the line, at y across the beam."""
        here = self.m.body.frame.to_model((0.0, y, self.z))
        run = self.m.body.frame.x
        return here + (off - self.off(here)) / float(run @ self.out) * run

    @property
    def square(self) -> bool:
        return abs(angle_between(self.out, self.stands) - 90.0) < SQUARE


def _angle(fit: Fitup, m: Meeting, p: Params, s: Section, key: str, at: _Bearing) -> None:
    """One angle, or a bent plate on a slope: its long leg on the support, the other on the beam's flange, bolted
    there."""
    beam, support = m.body, m.surface.body
    bolt = fit.size(p.bolt)
    gage = beam.section.gage or beam.section.b / 2
    held = support.section.gage if m.surface.flange and support.section.form is Form.I else 0.0
    middle = -beam.section.b / 2 + gage if beam.section.form is Form.CHANNEL else 0.0
    ys = [middle] if beam.section.form is Form.CHANNEL else [-gage / 2, gage / 2]
    fold, legs, t = None, (s.b, s.d), s.tw
    rows = [usual_gage(s.d)] if s.d < 125 else [57.15, min(s.d - 31.75, 133.35)]
    line = usual_gage(s.b)
    if not at.square:
        t = fit.stocked(s.tw)
        fold = Fold(at.heel, at.out, at.stands, t, usual_radius(fit.rules.plate_grade, t))
        line = fold.gage(bolt, line, t + beam.section.tf, fit.inch)
        edge = up_to(1.25 * bolt.edge, fit.inch, 0.125, 1)
        legs = max(s.b, line + edge), s.d
        if p.to_support == "bolted":  # the upright leg too is as long as its bolts want past the bend
            back = max(0.0, fold.gage(bolt, rows[0], t + m.surface.thickness, fit.inch) - rows[0])
            rows = [one + back for one in rows]
            legs = legs[0], max(s.d, rows[-1] + edge)
    spots = [at.spot(line, y) for y in ys]
    steps = [float((spot - at.heel) @ at.along) for spot in spots] if m.skewed else [-gage / 2, gage / 2]
    spread = max(gage, held, up_to(3 * bolt.d, fit.inch))
    bolted = [x + _middle(at, held > 0, steps) for x in (-spread / 2, spread / 2)]
    taken = [*steps, *bolted] if p.to_support == "bolted" else steps
    centre, edge = (min(taken) + max(taken)) / 2, up_to(bolt.edge, fit.inch)
    usual = max(max(taken) - min(taken) + 2 * edge, 152.4 if fit.inch else 150.0)
    long = p.long if p.long and key == "seat" else up_to(usual, fit.inch, 0.5, 10)
    ends = tuple(at.heel + (centre + way * long / 2) * at.along for way in (-1.0, 1.0))
    id = _piece(fit, key, s, fold, at, ends, legs)
    fit.bolts(f"{key} to beam", bolt, spots, -np.sign(at.z) * beam.frame.z, (id, beam.id), field=True)
    # on the support the leg is flat from where its bend ends
    flat = fold.set_back if fold else 0.0
    if p.to_support == "welded":
        leg = p.weld or fit.leg(s.tw)
        if key == "seat":
            for end, name in zip(ends, ("near", "far"), strict=True):
                fit.weld(f"seat {name}", leg, [end + q * at.stands for q in (flat, legs[1])], (support.id, id), 1)
        else:
            fit.weld(key, leg, [end + legs[1] * at.stands for end in ends], (support.id, id), 1, field=False)
    else:
        points = [at.heel + q * at.stands + x * at.along for q in rows for x in bolted]
        fit.bolts(f"{key} to support", bolt, points, -m.surface.normal, (id, support.id), field=False)
    corners = [float((end + q * at.stands - m.surface.at) @ m.surface.across) for end in ends for q in (0.0, legs[1])]
    if m.surface.flange and (max(corners) > m.surface.high + 1 or min(corners) < m.surface.low - 1):
        fit.find(f"The {key} angle is wider than the {support.words}; give it less length.")


def _middle(at: _Bearing, gaged: bool, steps: list[float]) -> float:
    """Amid what along the heel the bolts into the support stand: its own middle where it has a gage, else the
    beam's."""
    if not gaged:
        return (min(steps) + max(steps)) / 2
    surface = at.m.surface
    return float((surface.at - at.heel) @ surface.across) / float(at.along @ surface.across) if at.m.skewed else 0.0


def _piece(fit: Fitup, key: str, s: Section, fold: Fold | None, at: _Bearing, ends: tuple[Vec, ...],
    legs: tuple[float, float]) -> str:  # fmt: skip
    """The angle or bent plate itself; its id."""
    support = at.m.surface.body
    low, high = ends
    if fold is not None:
        return bent_plate(fit, key, fold, (low, high), legs, support.id, f"bent {key} plate")
    frame = corner_frame(low, at.stands, at.out, s, True)
    if float(frame.x @ at.along) < 0:
        frame = Placement(frame.origin + (high - low), frame.axes)
    return fit.length(key, frame, s, float(np.linalg.norm(high - low)), support.id, f"{key} angle", usual_grade(s))


KIND = Kind(
    "seat",
    "Seated connection",
    Params,
    build,
    "An angle under the beam, shop-fixed to the support, and a top angle; bent plates where the beam slopes.",
    checks=shear.seat,
)
