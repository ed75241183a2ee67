"""Moment end plate: a plate over the whole depth of the beam's end, flush or run on past a flange, bolted to a
flange."""

import math
from typing import Annotated, NamedTuple

import msgspec

from uncus.catalog.bolts import BoltSize
from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.buildable.reach import room_beside
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.protected import beside_end_plate
from uncus.connect.stiffening import (
    Continuity,
    ContinuityThickness,
    Doubler,
    DoublerThickness,
    stiffen,
)
from uncus.connect.strength import missing, moment
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution

_MOST_SKEW = 30.0  # degrees


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


class _Ends(NamedTuple):
    """The beam's flanges on its plate, in the plate's frame: z of a face of the section (z of the beam) where bolts
    stand at either side, at the lowest and the highest of the two."""

    m: Meeting
    frame: Placement
    off: float
    half: float

    def at(self, z: float, x: float) -> float:
        """z on the plate where a level of the beam crosses it at x across."""
        ends = []
        for y in (-1.0, 1.0):
            spot = self.frame.to_local(self.m.body.frame.to_model((self.m.side_x(y, z, self.off), y, z)))
            ends.append((float(spot[0]), float(spot[2])))
        (x0, z0), (x1, z1) = ends
        return z0 + (x - x0) * (z1 - z0) / (x1 - x0)

    def high(self, z: float) -> float:
        return max(self.at(z, -self.half), self.at(z, self.half))

    def low(self, z: float) -> float:
        return min(self.at(z, -self.half), self.at(z, self.half))


def rows(ends: _Ends, p: Params, beside: tuple[float, float], pitch: float) -> list[float]:
    """z of each row of bolts on the plate, from the top; `beside` a flange above it and below it."""
    s = ends.m.body.section
    above, below = beside
    qs = [ends.low(s.d / 2 - s.tf) - below - i * pitch for i in range(p.inner)]
    low = [ends.high(s.tf - s.d / 2) + above + i * pitch for i in reversed(range(p.inner))]
    if p.layout != "flush":
        qs.insert(0, ends.high(s.d / 2) + above)
    if p.layout == "past both flanges":
        low.append(ends.low(-s.d / 2) - below)
    return [*qs, *low]


def build(joint: Joint) -> Contribution:
    """Plate, bolts, welds and the column's stiffening; a finding alone where the joint cannot be made."""
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
    if abs(m.skew) > _MOST_SKEW:
        return fit.refused(
            f"The {beam.words} meets the {support.words} skewed by {abs(m.skew):.0f}°; a moment end plate takes "
            f"{_MOST_SKEW:.0f}° at most.")  # fmt: skip
    if not m.surface.flange:
        return fit.refused(
            f"The {beam.words} meets a web of the {support.words}; a moment end plate needs a flange: choose flange "
            f"plates or a welded moment joint.")  # fmt: skip
    bolt = fit.size(p.bolt)
    t = p.thickness or fit.stocked(bolt.d)
    cleared = clearing(fit, m, t * m.slant, bevel=True, flush=True)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    cleared.apply(fit, m)
    edge = p.edge or max(rules.edge, up_to(1.25 * bolt.edge, fit.inch))
    beside = p.beside or up_to(bolt.d + 12.7, fit.inch)
    above = below = beside
    if m.sloping and not p.beside:  # each flange leans over the bolts at one of its sides
        leant = max(beside, up_to(room_beside(bolt, t + m.surface.thickness, abs(m.kz)), fit.inch))
        above, below = (leant, beside) if m.kz * m.sign > 0 else (beside, leant)
    gage = p.gage or end_gage(fit, m, bolt, t)
    frame = m.on_side(m.trace(0.0), 0.0, 0.0).moved((0.0, t / 2, 0.0))
    ends = _Ends(m, frame, t, gage / 2)
    qs = rows(ends, p, (above, below), p.pitch or rules.pitch)
    lean = 1 / math.cos(math.radians(m.skew))
    wide = p.width or max(up_to(s.b * lean, fit.inch, 0.5, 10), gage + 2 * bolt.edge)
    tip = ends._replace(half=min(wide, s.b * lean) / 2)
    over = {"flush": 12.0}.get(p.layout, 6.0)
    low, high = tip.low(-s.d / 2) - (12.0 if p.layout == "past the top" else over), tip.high(s.d / 2) + over
    if p.layout != "flush":
        high = max(qs[0] + edge, high)
    if p.layout == "past both flanges":
        low = min(qs[-1] - edge, low)
    id = fit.plate("plate", frame, rectangle(-wide / 2, wide / 2, low, high), t, beam.id, "end plate")
    points = [frame.to_model((x, -t / 2, q)) for q in qs for x in (-gage / 2, gage / 2)]
    fit.bolts("bolts", bolt, points, -m.surface.normal, (id, support.id), field=True)
    weld_end(fit, m, id, m.trace(0.0, t), p.flange_weld == "full penetration", p.weld)
    middle = (s.d - s.tf) / 2
    flanges = [(words, m.flat(m.side_x(0.0, z), z)[1], s.tf) for words, z in (("top", middle), ("bottom", -middle))]
    stiffen(fit, m, p, flanges)
    return fit.done()


def end_gage(fit: Fitup, m: Meeting, bolt: BoltSize, t: float = 0.0) -> float:
    """The beam's own gage, or wider where the heads would meet the support's fillet or the beam's web, which on a
    skew leans over one line of them."""
    s, support = m.body.section, m.surface.body.section
    clear = max(support.clear if support.form is Form.I else 0.0, s.tw / 2 + s.r)
    least = 2 * clear + bolt.head_flats
    if m.skewed:
        skew = math.radians(abs(m.skew))
        web = s.tw / 2 / math.cos(skew) + t * math.tan(skew)  # where it leaves the plate
        least = max(least, 2 * (web + room_beside(bolt, t + m.surface.thickness, math.tan(skew))))
    return max(s.gage or s.b / 2, up_to(least, fit.inch, 0.5, 10))


def weld_end(fit: Fitup, m: Meeting, plate: str, end: float, full: bool, leg: float | None, mark: str = "") -> None:
    """Welds of an I's end to a plate: along both flanges and both sides of the web."""
    s, beam = m.body.section, m.body
    form = fit.GROOVE if full else fit.FILLET
    here, cut = m.model(end, 0.0, 0.0), m.bevel_cut(end)
    for words, z in (("top", s.d / 2), ("bottom", -s.d / 2)):
        path = [beam.frame.to_model((cut.x(y, z), y, z)) for y in (-s.b / 2, s.b / 2)]
        fit.weld(
            f"{words} flange{mark}",
            s.tf if full else leg or fit.leg(s.tf),
            path,
            (beam.id, plate),
            1 if full else 2,
            form=form,
        )
    inside = m.c * s.k
    path = [here + q * m.up for q in (m.bottom(end) + inside, m.top(end) - inside)]
    fit.weld(f"web{mark}", leg or fit.leg(s.tw), path, (beam.id, plate))


KIND = Kind(
    "moment end plate",
    "Moment end plate",
    Params,
    build,
    "A plate shop-welded over the whole end of an I, field-bolted to a flange; flush or run on past its flanges.",
    protects=beside_end_plate,
    checks=moment.moment_end_plate,
    missing=(
        missing.TENSION_WITH_SHEAR,
        missing.STIFFENED_FLANGES,
        missing.CONTINUITY_WELDS,
        missing.FLANGE_BETWEEN_BOLTS,
        missing.COLUMN_WEB,
    ),
)
