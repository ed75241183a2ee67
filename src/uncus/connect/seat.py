"""Seat: an angle under the beam that carries it, and a lighter one at its top that keeps it upright."""

from typing import Annotated

import msgspec

from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Form, Section, section, usual_gage
from uncus.connect import params as p_
from uncus.connect.coping import clearing
from uncus.connect.double_angle import corner_frame
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.rows import web_middle
from uncus.connect.strength import shear
from uncus.frame.placement import Vec
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    angle: Annotated[str | None, About("Seat angle", unit="section", help="Its long leg stands on the support.")] = None
    long: Annotated[float | None, About("Length of the seat", low=80, high=600)] = None
    to_support: Annotated[str, About("To the support", unit="choice", choices=("welded", "bolted"))] = "welded"
    top: Annotated[str, About("Top angle", unit="choice", choices=("on the flange", "none"))] = "on the flange"
    top_angle: Annotated[str, About("Top angle's section", unit="section")] = "L4X4X1/4"
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
    if m.skewed or m.sloping:
        return fit.refused(f"The {beam.words} is skewed or slopes; a seat is for square and level beams.")
    cleared = clearing(fit, m, max(joint.rules.gap, 12.0) if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    if cleared.stands_off or cleared.copes:
        return fit.refused(f"The flanges of the {m.surface.body.words} are in the way of a seat; choose another kind.")
    seat, top = section(p.angle or joint.rules.seat_angle), section(p.top_angle)
    if Form.ANGLE not in (seat.form, top.form) or seat.form is not top.form:
        return fit.refused("A seat and its top angle are L sections; choose angles.")
    cleared.apply(fit, m)
    e0 = m.trace(0.0)
    if seat.b - (cleared.end - e0) < 40:
        fit.find(f"The {beam.words} bears on less than 40 mm of its seat; choose a wider outstanding leg.")
    _angle(fit, m, p, seat, "seat", m.bottom(e0), -m.up)
    if p.top != "none":
        _angle(fit, m, p, top, "top", m.top(e0), m.up)
    return fit.done()


def _angle(fit: Fitup, m: Meeting, p: Params, s: Section, key: str, q: float, stands: Vec) -> None:
    """One angle: its long leg on the support, the other on the beam's flange, bolted there."""
    beam, support = m.body, m.surface.body
    bolt = fit.size(p.bolt)
    gage = beam.section.gage or beam.section.b / 2
    held = support.section.gage if m.surface.flange and support.section.form is Form.I else 0.0
    spread = max(gage, held, up_to(3 * bolt.d, fit.inch)) if p.to_support == "bolted" else gage
    usual = max(spread + 2 * up_to(bolt.edge, fit.inch), 152.4 if fit.inch else 150.0)
    long = p.long if p.long and key == "seat" else up_to(usual, fit.inch, 0.5, 10)
    e0 = m.trace(0.0)
    centre = web_middle(beam.section)  # a channel's web stands over the middle of its seat
    frame = corner_frame(m.model(e0, q, centre), stands, m.away, s, True)
    frame = frame.moved((-long / 2, 0.0, 0.0))
    id = fit.length(key, frame, s, long, support.id, f"{key} angle", usual_grade(s))
    line = e0 + usual_gage(s.b)
    middle = -beam.section.b / 2 + gage if beam.section.form is Form.CHANNEL else 0.0
    ys = [middle] if beam.section.form is Form.CHANNEL else [-gage / 2, gage / 2]
    fit.bolts(f"{key} to beam", bolt, [m.model(line, q, y) for y in ys], -stands, (id, beam.id), field=True)
    edges = [(e0, q), (e0, q + s.d * (1 if key == "top" else -1))]
    if p.to_support == "welded":
        leg = p.weld or fit.leg(s.tw)
        if key == "seat":
            for y, name in ((-long / 2, "near"), (long / 2, "far")):
                fit.weld(f"{key} {name}", leg, [m.model(e, at, centre + y) for e, at in edges], (support.id, id), 1)
        else:
            path = [m.model(*edges[1], centre + y) for y in (-long / 2, long / 2)]
            fit.weld(key, leg, path, (support.id, id), 1, field=False)
    else:
        rows = [usual_gage(s.d)] if s.d < 125 else [57.15, min(s.d - 31.75, 133.35)]
        sign = 1 if key == "top" else -1
        points = [m.model(e0, q + sign * at, y) for at in rows for y in (centre - spread / 2, centre + spread / 2)]
        fit.bolts(f"{key} to support", bolt, points, -m.surface.normal, (id, support.id), field=False)
    if m.surface.flange and long / 2 > m.surface.high + 1:
        fit.find(f"The {key} angle is wider than the {support.words}; give it less length.")


KIND = Kind(
    "seat",
    "Seated connection",
    Params,
    build,
    "An angle under the beam, shop-fixed to the support, and a top angle; for square and level beams.",
    checks=shear.seat,
)
