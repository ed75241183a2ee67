"""Moment end plate: a plate over the whole depth of the beam's end, flush or run on past a flange, bolted to a flange."""

from typing import Annotated

import msgspec

from uncus.catalog.bolts import BoltSize
from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, rectangle
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
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    layout: Annotated[
        str,
        About("End plate", unit="choice", choices=("flush", "past the top", "past both flanges")),
    ] = "past both flanges"
    thickness: Annotated[float | None, About("Plate thickness", low=6, high=100)] = None
    width: Annotated[float | None, About("Plate width", low=60, high=1000)] = None
    bolt: p_.Bolt = None
    gage: p_.Gage = None
    beside: Annotated[
        float | None,
        About("Flange to bolt", low=20, high=200, help="From the face of the flange to the row beside it."),
    ] = None
    inner: Annotated[
        int, About("Rows inside a flange", unit="count", low=1, high=4, help="At each flange that has bolts.")
    ] = 1
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    flange_weld: Annotated[str, About("Flanges are welded", unit="choice", choices=("full penetration", "fillet"))] = (
        "full penetration"
    )
    weld: p_.Weld = None
    continuity: Continuity = "both flanges"
    continuity_thickness: ContinuityThickness = None
    doubler: Doubler = "none"
    doubler_thickness: DoublerThickness = None


def rows(m: Meeting, p: Params, end: float, beside: float, pitch: float) -> list[float]:
    """q of each row of bolts, from the top."""
    top, bottom, tf = m.top(end), m.bottom(end), m.c * m.body.section.tf
    inside = [beside + i * pitch for i in range(p.inner)]
    qs = [top - tf - at for at in inside]
    low = [bottom + tf + at for at in reversed(inside)]
    if p.layout != "flush":
        qs.insert(0, top + beside)
    if p.layout == "past both flanges":
        low.append(bottom - beside)
    return [*qs, *low]


def build(joint: Joint) -> Contribution:
    """Plate, bolts, welds and what stiffens the column; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam, rules = joint.member, joint.rules
    s = beam.section
    if s.form is not Form.I:
        return fit.refused(f"A moment end plate goes on the end of an I section, which the {beam.words} is not.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    support = m.surface.body
    if m.skewed:
        return fit.refused(f"The {beam.words} meets the {support.words} skewed; a moment end plate is square in plan.")
    if not m.surface.flange:
        return fit.refused(f"The {beam.words} meets a web of the {support.words}; a moment end plate needs a flange.")
    bolt = fit.size(p.bolt)
    t = p.thickness or fit.stocked(bolt.d)
    cleared = clearing(fit, m, t * m.slant, bevel=True, flush=True)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    cleared.apply(fit, m)
    edge = p.edge or max(rules.edge, up_to(1.25 * bolt.edge, fit.inch))
    beside = p.beside or up_to(bolt.d + 12.7, fit.inch)
    gage = p.gage or end_gage(fit, m, bolt)
    end = m.trace(0.0, t)
    qs = rows(m, p, end, beside, p.pitch or rules.pitch)
    low = min(qs[-1] - edge, m.bottom(end) - 6.0) if p.layout != "past the top" else m.bottom(end) - 12.0
    high = max(qs[0] + edge, m.top(end) + 6.0)
    low, high = (m.bottom(end) - 12.0, m.top(end) + 12.0) if p.layout == "flush" else (low, high)
    wide = p.width or max(up_to(s.b, fit.inch, 0.5, 10), gage + 2 * bolt.edge)
    frame = m.on_side(m.trace(0.0), 0.0, 0.0).moved((0.0, t / 2, 0.0))
    id = fit.plate("plate", frame, rectangle(-wide / 2, wide / 2, low, high), t, beam.id, "end plate")
    points = [frame.to_model((x, -t / 2, q)) for q in qs for x in (-gage / 2, gage / 2)]
    fit.bolts("bolts", bolt, points, -m.surface.normal, (id, support.id), field=True)
    weld_end(fit, m, id, end, p.flange_weld == "full penetration", p.weld)
    tf = m.c * s.tf
    middle = m.trace(0.0)
    flanges = [("top", m.top(middle) - tf / 2, s.tf), ("bottom", m.bottom(middle) + tf / 2, s.tf)]
    stiffen(fit, m, p, flanges)
    return fit.done()


def end_gage(fit: Fitup, m: Meeting, bolt: BoltSize) -> float:
    """The beam's own gage, or wider where the heads would meet the support's fillet or the beam's web."""
    s, support = m.body.section, m.surface.body.section
    clear = max(support.clear if support.form is Form.I else 0.0, s.tw / 2 + s.r)
    return max(s.gage or s.b / 2, up_to(2 * clear + bolt.head_flats, fit.inch, 0.5, 10))


def weld_end(fit: Fitup, m: Meeting, plate: str, end: float, full: bool, leg: float | None, mark: str = "") -> None:
    """Welds of an I's end to a plate: along both flanges and both sides of the web."""
    s, beam = m.body.section, m.body
    form = fit.GROOVE if full else fit.FILLET
    for words, q in (("top", m.top(end)), ("bottom", m.bottom(end))):
        path = [m.model(end, q, y) for y in (-s.b / 2, s.b / 2)]
        fit.weld(
            f"{words} flange{mark}",
            s.tf if full else leg or fit.leg(s.tf),
            path,
            (beam.id, plate),
            1 if full else 2,
            form=form,
        )
    inside = m.c * s.k
    path = [m.model(end, q, 0.0) for q in (m.bottom(end) + inside, m.top(end) - inside)]
    fit.weld(f"web{mark}", leg or fit.leg(s.tw), path, (beam.id, plate))


KIND = Kind(
    "moment end plate",
    "Moment end plate",
    Params,
    build,
    "A plate shop-welded over the whole end of an I, field-bolted to a flange; flush or run on past its flanges.",
    checks=moment.moment_end_plate,
)
