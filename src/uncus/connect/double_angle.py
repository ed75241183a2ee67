"""Double angle: one angle at either side of the beam's web, bolted or welded to it, and to what holds it; bent
plates in their place where the beam is skewed."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Form, Section, section, usual_gage
from uncus.connect import params as p_
from uncus.connect.bent import Fold, Gripped, bent_plate
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.rows import Asked, rows_in_web, web_middle
from uncus.connect.strength import missing, shear
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution

_MOST_SKEW = 55.0  # degrees


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
    if abs(m.skew) > _MOST_SKEW:
        return fit.refused(
            f"The {beam.words} meets the {m.surface.body.words} skewed by {abs(m.skew):.1f}°; no bolt or weld gets "
            f"into its sharp corner: choose a tab or an end plate."
        )
    cleared = clearing(fit, m, joint.rules.gap if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    if cleared.stands_off:
        return fit.refused(f"The {beam.words} is too wide to enter the {m.surface.body.words}; choose a shear tab.")
    s = section(p.angle or joint.rules.angle)
    if s.form is not Form.ANGLE:
        return fit.refused(f"{s.name} is no angle; choose an L section.")
    pitch, edge = p.pitch or joint.rules.pitch, p.edge or joint.rules.edge - 6.35
    sides = [_side(fit, m, p, s, sign, cleared.end) for sign in (-1.0, 1.0)]
    line, reach = max(side.line for side in sides), max(side.toe for side in sides)
    sides = [side.to(line, reach) for side in sides]
    web = rows_in_web(fit, m, cleared, Asked(p.rows, pitch, edge, p.down), line, reach)
    if isinstance(web, str):
        return fit.refused(web)
    out = max(side.legs[1] for side in sides)
    across = beam.section.tw / 2 + out + abs(web_middle(beam.section))
    if m.surface.sunk and abs(float(beam.frame.y @ m.surface.across)) > 0.7:  # between a column's flanges
        middle = float((m.model(m.trace(0.0), 0.0, web_middle(beam.section)) - m.surface.at) @ m.surface.across)
        low, high = m.surface.clear
        if beam.section.tw / 2 + out > min(high - middle, middle - low):
            return fit.refused(
                f"The angles do not stand on the flat of the web of the {m.surface.body.words}; choose smaller legs, "
                f"or the "
                "long leg on the beam."
            )
    cleared.apply(fit, m)
    rows, q0 = web
    qs = [q0 - i * pitch for i in range(rows)]
    _hold(fit, m, p, s, cleared.end, sides, qs, edge)
    if m.surface.flange and across > m.surface.high + 3:
        what = "bent plates" if m.skewed else "angles"
        fit.find(f"The {what} stand off the flange of the {m.surface.body.words}; choose smaller legs.")
    return fit.done()


class _Side(NamedTuple):
    """What holds the beam at one side of its web (`sign` along its y): where its heel stands along e, its leg on the
    beam and the one on the support as long as `legs`; e of its bolts (or of the toe's weld) in the web, and of its
    toe; its bolts on the support from the heel; bent where the two are not square."""

    sign: float
    y: float
    heel: float
    legs: tuple[float, float]
    line: float
    toe: float
    gage: float
    fold: Fold | None = None

    def to(self, line: float, toe: float) -> _Side:
        """With the leg on the beam made to reach as far as the other side's."""
        return self._replace(line=line, toe=toe, legs=(toe - self.heel, self.legs[1]))


def _side(fit: Fitup, m: Meeting, p: Params, s: Section, sign: float, end: float) -> _Side:
    y = web_middle(m.body.section) + sign * m.body.section.tw / 2
    heel = m.trace(y)
    on_beam, out = (s.d, s.b) if p.leg == "long" else (s.b, s.d)
    first, second = p.gage or usual_gage(on_beam), p.support_gage or usual_gage(out)
    if not m.skewed:
        return _Side(sign, y, heel, (on_beam, out), heel + first, heel + on_beam, second)
    t = fit.stocked(s.tw)
    fold = Fold(m.model(heel, 0.0, y), m.away, sign * _along(m), t, usual_radius(fit.rules.plate_grade, t))
    bolt, edge = fit.size(p.bolt), up_to(1.25 * fit.size(p.bolt).edge, fit.inch, 0.125, 1)
    # nearest its heel the plate is not flat yet, and the web not there
    if p.to_beam == "bolted":
        first = p.gage or fold.gage(bolt, first, 2 * t + m.body.section.tw, fit.inch)
    first = max(first, end - heel + fit.rules.edge)
    if p.to_support == "bolted":
        second = p.support_gage or fold.gage(bolt, second, t + m.surface.thickness, fit.inch)
    if p.gage is None and p.to_beam == p.to_support == "bolted":
        held = Gripped(second, bolt, t + m.surface.thickness)
        first = fold.clear(Gripped(first, bolt, 2 * t + m.body.section.tw), held, fit.inch)
    legs = max(on_beam, first + edge), max(out, second + edge)
    return _Side(sign, y, heel, legs, heel + first, heel + legs[0], second, fold)


def _along(m: Meeting) -> Vec:
    """Along the side, square to where the web meets it, to the member's far side."""
    across = np.cross(m.surface.normal, m.up)
    return unit(across if float(across @ m.body.frame.y) > 0 else -across)


def _made(fit: Fitup, m: Meeting, side: _Side, s: Section, span: tuple[float, float], owner: str) -> str:
    """The angle or the bent plate of one side; its id."""
    low, high = span
    key = "near" if side.sign < 0 else "far"
    if side.fold is not None:
        ends = m.model(side.heel, low, side.y), m.model(side.heel, high, side.y)
        return bent_plate(fit, key, side.fold, ends, side.legs, owner, f"{key} bent plate")
    long_first = side.legs[0] == s.d
    frame = corner_frame(m.model(side.heel, low, side.y), m.away, side.sign * m.body.frame.y, s, long_first)
    if frame.x @ m.up < 0:
        frame = frame.moved((low - high, 0.0, 0.0))
    return fit.length(key, frame, s, high - low, owner, f"{key} angle", usual_grade(s))


def _hold(fit: Fitup, m: Meeting, p: Params, s: Section, end: float, sides: list[_Side], qs: list[float],
    edge: float) -> None:  # fmt: skip
    """Both sides' angles or bent plates with their bolts and welds."""
    beam, support = m.body, m.surface.body
    low, high = qs[-1] - edge, qs[0] + edge
    owner = support.id if p.to_beam == "bolted" and p.to_support == "welded" else beam.id
    ids = []
    leg = p.weld or fit.leg(s.tw)
    for side in sides:
        key = "near" if side.sign < 0 else "far"
        id = _made(fit, m, side, s, (low, high), owner)
        ids.append(id)
        flat = side.fold.set_back if side.fold else 0.0
        if p.to_beam == "welded":
            start = max(end, side.heel + flat) + 2.0
            corners = ((start, high), (side.toe, high), (side.toe, low), (start, low))
            fit.weld(f"{key} to beam", leg, [m.model(e, q, side.y) for e, q in corners], (beam.id, id), 1)
        run = side.fold.second if side.fold else side.sign * beam.frame.y
        if p.to_support == "bolted":
            gage = side.gage
            if not p.support_gage and not side.fold:
                # lines a whole half inch apart line up with those of a beam opposite that has another web
                gage = (up_to(beam.section.tw + 2 * gage, fit.inch, 0.5, 10) - beam.section.tw) / 2
            points = [m.model(side.heel, q, side.y) + gage * run for q in qs]
            fit.bolts(f"{key} to support", fit.size(p.bolt), points, -m.surface.normal, (id, support.id), field=True)
        else:
            field, out = owner == beam.id, side.legs[1]
            back = min(12.7, out - flat - 2.0)
            path = [m.model(side.heel, q, side.y) + at * run for q, at in ((high, out - back), (high, out), (low, out))]
            fit.weld(f"{key} to support", leg, path, (support.id, id), 1, field)
    if p.to_beam == "bolted":
        points = [m.model(sides[0].line, q, web_middle(beam.section)) for q in qs]
        fit.bolts("to beam", fit.size(p.bolt), points, beam.frame.y, (ids[0], beam.id, ids[1]), owner != beam.id)


KIND = Kind(
    "double angle",
    "Double angle",
    Params,
    build,
    "Two angles on the beam's web, bolted or welded to it, and to a flange, web or tube wall; bent plates where it is "
    "skewed.",
    checks=shear.double_angle,
    missing=(
        missing.BEARING_ALONG,
        missing.WALL_BENDING,
        missing.TENSION_WITH_SHEAR,
        missing.SLIP,
        missing.NOTCH,
    ),
)
