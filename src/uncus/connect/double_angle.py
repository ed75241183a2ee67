"""Double angle: one angle at either side of the beam's web, bolted or welded to it, and to what holds it."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Form, Section, section, usual_gage
from uncus.connect import params as p_
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.rows import Asked, rows_in_web, web_middle
from uncus.connect.strength import shear
from uncus.frame.placement import Placement, Vec
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    angle: p_.Angle = None
    leg: Annotated[str, About("Leg on the beam", unit="choice", choices=("short", "long"))] = "short"
    to_beam: Annotated[str, About("To the beam", unit="choice", choices=("bolted", "welded"))] = "bolted"
    to_support: Annotated[str, About("To the support", unit="choice", choices=("bolted", "welded"))] = "bolted"
    rows: p_.Rows = None
    bolt: p_.Bolt = None
    down: p_.Down = None
    pitch: p_.Pitch = None
    edge: Annotated[float | None, About("Edge distance", low=15, high=200, help="Bolts to the angles' ends.")] = None
    gage: Annotated[float | None, About("Gage on the beam", low=20, high=200, help="From the angle's heel.")] = None
    support_gage: Annotated[
        float | None, About("Gage on the support", low=20, high=200, help="From the angle's heel.")
    ] = None
    gap: p_.Gap = None
    weld: p_.Weld = None


def corner_frame(heel: Vec, first: Vec, second: Vec, s: Section, long_first: bool) -> Placement:
    """The frame of an angle whose heel passes a point, one leg's outer face running out along `first` and the other's
    along `second` (unit, square); the long leg along `first` or not. Its x is first cross second, or against it."""
    y, z = (second, first) if long_first else (first, second)
    return Placement(heel + y * s.b / 2 + z * s.d / 2, np.column_stack([np.cross(y, z), y, z]))


def build(joint: Joint) -> Contribution:
    """Two angles, bolts or welds to either side; a finding alone where they cannot stand."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam = joint.member
    if not beam.section.flanged:
        return fit.refused(f"Double angles go to a web with flanges, and the {beam.words} has none.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    if m.skewed:
        return fit.refused(
            f"The {beam.words} meets the {m.surface.body.words} skewed by {abs(m.skew):.1f}°; angles are square: choose a tab or an end plate."
        )
    cleared = clearing(fit, m, joint.rules.gap if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    if cleared.stands_off:
        return fit.refused(f"The {beam.words} is too wide to enter the {m.surface.body.words}; choose a shear tab.")
    s = section(p.angle or joint.rules.angle)
    if s.form is not Form.ANGLE:
        return fit.refused(f"{s.name} is no angle; choose an L section.")
    on_beam, out = (s.d, s.b) if p.leg == "long" else (s.b, s.d)
    e0, pitch, edge = m.trace(0.0), p.pitch or joint.rules.pitch, p.edge or joint.rules.edge - 6.35
    line = e0 + (p.gage or usual_gage(on_beam))
    web = rows_in_web(fit, m, cleared, Asked(p.rows, pitch, edge, p.down), line, e0 + on_beam)
    if isinstance(web, str):
        return fit.refused(web)
    across = beam.section.tw / 2 + out + abs(web_middle(beam.section))
    if m.surface.sunk and abs(float(beam.frame.y @ m.surface.across)) > 0.7:  # between a column's flanges
        middle = float((m.model(e0, 0.0, web_middle(beam.section)) - m.surface.at) @ m.surface.across)
        low, high = m.surface.clear
        if beam.section.tw / 2 + out > min(high - middle, middle - low):
            return fit.refused(
                f"The angles do not stand on the flat of the web of the {m.surface.body.words}; choose smaller legs, or the "
                "long leg on the beam."
            )
    cleared.apply(fit, m)
    rows, q0 = web
    qs = [q0 - i * pitch for i in range(rows)]
    _angles(fit, m, p, s, cleared.end, line, qs, edge)
    if m.surface.flange and across > m.surface.high + 3:
        fit.find(f"The angles stand off the flange of the {m.surface.body.words}; choose smaller legs.")
    return fit.done()


def _angles(
    fit: Fitup, m: Meeting, p: Params, s: Section, end: float, line: float, qs: list[float], edge: float
) -> None:
    beam, support = m.body, m.surface.body
    on_beam, out = (s.d, s.b) if p.leg == "long" else (s.b, s.d)
    e0, low, high = m.trace(0.0), qs[-1] - edge, qs[0] + edge
    owner = support.id if p.to_beam == "bolted" and p.to_support == "welded" else beam.id
    middle, half = web_middle(beam.section), beam.section.tw / 2
    ids = []
    leg = p.weld or fit.leg(s.tw)
    for side, key in ((-1.0, "near"), (1.0, "far")):
        y = middle + side * half
        frame = corner_frame(m.model(e0, low, y), m.away, side * beam.frame.y, s, p.leg == "long")
        if frame.x @ m.up < 0:
            frame = frame.moved((low - high, 0.0, 0.0))
        id = fit.length(key, frame, s, high - low, owner, f"{key} angle", usual_grade(s))
        ids.append(id)
        if p.to_beam == "welded":
            toe, start = e0 + on_beam, max(end, e0) + 2.0
            path = [m.model(e, q, y) for e, q in ((start, high), (toe, high), (toe, low), (start, low))]
            fit.weld(f"{key} to beam", leg, path, (beam.id, id), 1)
        if p.to_support == "bolted":
            # lines a whole half inch apart line up with those of a beam opposite that has another web
            apart = beam.section.tw + 2 * (p.support_gage or usual_gage(out))
            apart = apart if p.support_gage else up_to(apart, fit.inch, 0.5, 10)
            points = [m.model(e0, q, middle + side * apart / 2) for q in qs]
            fit.bolts(f"{key} to support", fit.size(p.bolt), points, -m.surface.normal, (id, support.id), field=True)
        else:
            field = owner == beam.id
            path = [m.model(e0, q, y + side * (out - inset)) for q, inset in ((high, 12.7), (high, 0.0), (low, 0.0))]
            fit.weld(f"{key} to support", leg, path, (support.id, id), 1, field)
    if p.to_beam == "bolted":
        points = [m.model(line, q, middle) for q in qs]
        fit.bolts("to beam", fit.size(p.bolt), points, beam.frame.y, (ids[0], beam.id, ids[1]), owner != beam.id)


KIND = Kind(
    "double angle",
    "Double angle",
    Params,
    build,
    "Two angles on the beam's web, bolted or welded to it, and to a flange, web or tube wall square to it.",
    checks=shear.double_angle,
)
