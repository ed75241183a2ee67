"""Flange plates: a plate at each flange welded to the column and bolted to the beam, with a tab for its web."""

from typing import Annotated

import msgspec

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect import shear_tab
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.stiffening import (
    Continuity,
    ContinuityThickness,
    Doubler,
    DoublerThickness,
    stiffen,
)
from uncus.connect.strength import moment
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


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
    m = square_to_flange(joint, fit)
    if isinstance(m, Contribution):
        return m
    gap = joint.rules.gap if p.gap is None else p.gap
    cleared = clearing(fit, m, gap)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    tab = shear_tab.Params(rows=p.web_rows, thickness=p.tab, side=p.side, bolt=p.bolt, pitch=p.pitch)
    s = shear_tab.set_out(fit, m, cleared, tab)
    if isinstance(s, str):
        return fit.refused(s)
    cleared.apply(fit, m)
    shear_tab.tab(fit, m, s, tab)
    _plates(fit, m, p, cleared.end)
    e = m.trace(0.0)
    t = p.thickness or fit.stocked(1.15 * beam.section.tf)
    flanges = [("top", m.top(e) + t / 2, t), ("bottom", m.bottom(e) - t / 2, t)]
    stiffen(fit, m, p, flanges)
    return fit.done()


def square_to_flange(joint: Joint, fit: Fitup) -> Meeting | Contribution:
    """The meeting of an I that stands square and level on a flange; else the refusal."""
    beam = joint.member
    if beam.section.form is not Form.I:
        return fit.refused(f"This joint is for the end of an I section, which the {beam.words} is not.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    support = m.surface.body
    if m.skewed or m.sloping:
        return fit.refused(
            f"The {beam.words} is skewed or slopes against the {support.words}; choose a moment end plate."
        )
    if not m.surface.flange:
        return fit.refused(f"The {beam.words} meets a web of the {support.words}; this joint needs a flange.")
    return m


def _plates(fit: Fitup, m: Meeting, p: Params, end: float) -> None:
    beam, s, support = m.body, m.body.section, m.surface.body
    bolt = fit.size(p.bolt)
    t = p.thickness or fit.stocked(1.15 * s.tf)
    edge, pitch, gage = p.edge or fit.rules.edge, p.pitch or fit.rules.pitch, p.gage or s.gage or s.b / 2
    wide = p.width or max(up_to(s.b, fit.inch, 0.5, 10), up_to(gage + 2 * bolt.edge, fit.inch, 0.5, 10))
    e0, first = m.trace(0.0), end + fit.rules.edge
    far = first + (p.rows - 1) * pitch + edge
    for words, q, sign in (("top", m.top(e0), 1.0), ("bottom", m.bottom(e0), -1.0)):
        middle = q + sign * t / 2
        frame = Placement(m.model(0.0, middle, 0.0), axes_of(m.away, -beam.frame.y * m.sign))
        id = fit.plate(f"{words} plate", frame, rectangle(e0, far, -wide / 2, wide / 2), t, support.id, "flange plate")
        points = [m.model(first + i * pitch, q, y) for i in range(p.rows) for y in (-gage / 2, gage / 2)]
        fit.bolts(f"{words} bolts", bolt, points, -sign * m.up, (id, beam.id), field=True)
        path = [m.model(e0, middle + sign * t / 2, y) for y in (-wide / 2, wide / 2)]
        fit.weld(f"{words} plate", t, path, (support.id, id), 1, form=fit.GROOVE)
    if wide / 2 > m.surface.high + 0.5:
        fit.look(f"The flange plates are wider than the {support.words}.")


KIND = Kind(
    "flange plates",
    "Bolted flange plates",
    Params,
    build,
    "A moment joint: plates welded to the column and bolted to the beam's flanges, and a tab bolted to its web.",
    checks=moment.flange_plates,
)
