"""Flange plates: a plate at each flange welded to the column and bolted to the beam, with a tab for its web."""

import math
from typing import Annotated

import msgspec

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect import shear_tab
from uncus.connect.buildable.reach import room_beside
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, axes_of
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.moment_at_web import behind, web_end, web_outline, weld_in_column
from uncus.connect.protected import past_flange_plates
from uncus.connect.stiffening import (
    Continuity,
    ContinuityThickness,
    Doubler,
    DoublerThickness,
    stiffen,
)
from uncus.connect.strength import missing, moment
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution

MOST_SKEW, MOST_SLOPE = 30.0, 30.0  # degrees up to which groove welds keep their root (AWS D1.1 3.11: to 60 degrees)
_PAST = 19.05  # mm that plates run past a column's flanges at full width (AISC Manual part 12)


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: Annotated[float | None, About("Flange plates' thickness", low=6, high=100)] = None
    width: Annotated[float | None, About("Flange plates' width", low=60, high=1000)] = None
    rows: Annotated[int, About("Bolt rows in a flange", unit="count", low=1, high=20)] = 3
    bolt: p_.Bolt = None
    gage: p_.Gage = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: p_.Gap = None
    web_rows: Annotated[int | None, About("Bolt rows in the web", unit="count", low=2, high=20)] = None
    tab: Annotated[float | None, About("Tab thickness", low=4, high=60)] = None
    side: Annotated[str | None, About("Side of the web", unit="choice", choices=("near", "far"))] = None
    continuity: Continuity = "both flanges"
    continuity_thickness: ContinuityThickness = None
    doubler: Doubler = "none"
    doubler_thickness: DoublerThickness = None


def build(joint: Joint) -> Contribution:
    """Both flange plates, the web's tab and the column's stiffening; a finding alone where they cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam = joint.member
    m = before_column(joint, fit)
    if isinstance(m, Contribution):
        return m
    gap = joint.rules.gap if p.gap is None else p.gap
    at_web = not m.surface.flange
    cleared = clearing(fit, m, gap, bevel=m.skewed, past=at_web)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    tab = shear_tab.Params(rows=p.web_rows, thickness=p.tab, side=p.side, bolt=p.bolt, pitch=p.pitch)
    s = shear_tab.set_out(fit, m, cleared, tab)
    if isinstance(s, str):
        return fit.refused(s)
    t = p.thickness or fit.stocked(1.15 * beam.section.tf)
    if at_web:  # the plates run out past the column's flanges before they narrow
        cleared = web_end(m, cleared, _PAST)
        s = s._replace(bolts=tuple((e + _PAST, q) for e, q in s.bolts))
    cleared.apply(fit, m)
    shear_tab.tab(fit, m, s, tab)
    _plates(fit, m, p, t, cleared.cut, s.y)
    levels = [(words, sign * (beam.section.d + t) / 2) for words, sign in (("top", 1.0), ("bottom", -1.0))]
    if at_web:
        behind(fit, m, p, [(words, z, t) for words, z in levels])
    else:
        stiffen(fit, m, p, [(words, m.flat(m.side_x(0.0, z), z)[1], t) for words, z in levels])
    return fit.done()


def before_column(joint: Joint, fit: Fitup) -> Meeting | Contribution:
    """The meeting of an I with a flange, or square and level with the web of an upright I; else the refusal."""
    beam = joint.member
    if beam.section.form is not Form.I:
        return fit.refused(f"This joint is for the end of an I section, which the {beam.words} is not.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    support = m.surface.body
    if abs(m.skew) > MOST_SKEW or abs(m.slope) > MOST_SLOPE:
        return fit.refused(
            f"The {beam.words} is skewed by {abs(m.skew):.0f}° and slopes by {abs(m.slope):.0f}° against the "
            f"{support.words}; its flanges can be joined up to {MOST_SKEW:.0f}° and {MOST_SLOPE:.0f}°.")  # fmt: skip
    if not m.surface.flange:
        beside = support.section.form is Form.I and is_vertical(support.frame.x)
        if not beside:
            return fit.refused(
                f"The {beam.words} meets a web of the {support.words}; a moment goes to a flange, or to an upright I "
                f"between its flanges.")  # fmt: skip
        if m.skewed or m.sloping:
            return fit.refused(
                f"The {beam.words} is skewed or slopes against the web of the {support.words}; there a moment joint is "
                f"square and level.")  # fmt: skip
    return m


def _plates(fit: Fitup, m: Meeting, p: Params, t: float, cut: EndCut, tab: float) -> None:
    beam, s, support = m.body, m.body.section, m.surface.body
    bolt = fit.size(p.bolt)
    edge, pitch, gage = p.edge or fit.rules.edge, p.pitch or fit.rules.pitch, p.gage or s.gage or s.b / 2
    wide = p.width or max(up_to(s.b, fit.inch, 0.5, 10), up_to(gage + 2 * bolt.edge, fit.inch, 0.5, 10))
    half = wide / 2
    for words, sign in (("top", 1.0), ("bottom", -1.0)):
        face, outer = sign * s.d / 2, sign * (s.d / 2 + t)
        middle = (face + outer) / 2
        # along the beam from where the side is at the plate's middle
        start = m.side_x(0.0, middle)
        first = max(m.sign * (cut.x(y, face) - start) for y in (-gage / 2, gage / 2)) + fit.rules.edge
        if m.sloping:  # tools at one of its faces lean on the column
            side = max(m.sign * (m.side_x(y, z) - start) for z in (face, outer) for y in (-gage / 2, gage / 2))
            room = room_beside(bolt, t + s.tf, abs(m.kz)) / math.cos(math.radians(m.skew))
            first = max(first, side + room)
        far = first + (p.rows - 1) * pitch + edge
        frame = Placement(
            beam.frame.to_model((start, 0.0, middle)), axes_of(m.sign * beam.frame.x, -m.sign * beam.frame.y)
        )
        # the edge is cut square through the plate: on a slope one of its faces touches and the groove is open at the
        # other
        near = [max(m.sign * (m.side_x(y, z) - start) for z in (face, outer)) for y in (half, -half)]
        shape = [(near[0], -m.sign * half), (far, -m.sign * half), (far, m.sign * half), (near[1], m.sign * half)]
        if not m.surface.flange:
            shape = web_outline(m, wide, far)
        id = fit.plate(f"{words} plate", frame, shape, t, support.id, "flange plate")
        points = [frame.to_model((first + i * pitch, -sign * t / 2, y)) for i in range(p.rows) for y
            in (-gage / 2, gage / 2)]  # fmt: skip
        fit.bolts(f"{words} bolts", bolt, points, -sign * beam.frame.z, (id, beam.id), field=True)
        if m.surface.flange:
            path = [beam.frame.to_model((m.side_x(y, outer), y, outer)) for y in (-half, half)]
            fit.weld(f"{words} plate", t, path, (support.id, id), 1, form=fit.GROOVE)
        else:
            weld_in_column(fit, m, words, frame, shape, t, id, tab)
    wider = half / math.cos(math.radians(m.skew))
    if m.surface.flange and wider > m.surface.high + 0.5:
        fit.look(f"The flange plates are wider than the {support.words}.")


KIND = Kind(
    "flange plates",
    "Bolted flange plates",
    Params,
    build,
    "A moment joint: plates welded to the column's flange, or between its flanges to the web, and bolted to the "
    "beam's.",
    protects=past_flange_plates,
    checks=moment.flange_plates,
    missing=(
        missing.STIFFENED_FLANGES,
        missing.CONTINUITY_WELDS,
        missing.COLUMN_WEB,
    ),
)
