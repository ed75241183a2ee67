"""Apex: two rafters meet at the ridge, each with an end plate in the plane between them, bolted; haunched on
request."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.buildable.reach import room_beside
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.haunch import haunch
from uncus.connect.kind import Body, Joint, Kind, up_to
from uncus.connect.meeting import Meeting, on_surface
from uncus.connect.moment_end_plate import weld_end
from uncus.connect.protected import beam_depth
from uncus.connect.strength import moment
from uncus.connect.surface import Surface
from uncus.frame.placement import Vec, unit
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import Face
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    layout: Annotated[str, About("End plates", unit="choice", choices=("flush", "past the bottom", "past both"))] = (
        "past the bottom"
    )
    thickness: Annotated[float | None, About("End plates' thickness", low=6, high=100)] = None
    bolt: p_.Bolt = None
    gage: p_.Gage = None
    rows: Annotated[int, About("Rows inside each flange", unit="count", low=1, high=4)] = 1
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    deep: Annotated[float, About("Haunch depth", low=0, high=2000, help="Under each rafter; nothing: none.")] = 0.0
    long: Annotated[float, About("Haunch length", low=100, high=8000)] = 1200.0
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Two end plates, their bolts and welds; a finding alone where the rafters do not meet in one plane."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    a, b = joint.member, joint.support
    if b is None:
        return fit.refused(f"The {a.words} has lost the rafter it met; connect this end again.")
    if a.section.form is not Form.I or b.section.form is not Form.I:
        return fit.refused("An apex joins two I sections; choose another kind.")
    here = a.end(joint.record.end)
    other = min(End, key=lambda e: float(np.linalg.norm(b.end(e) - here)))
    if float(np.linalg.norm(b.end(other) - here)) > 0.6 * (a.section.d + b.section.d):
        return fit.refused(f"The {a.words} and the {b.words} do not meet; bring their ends together.")
    between = a.away(joint.record.end) - b.away(other)
    if float(np.linalg.norm(between)) < 1.0 or abs(float(a.frame.y @ b.frame.y)) < 1 - 1e-4:
        return fit.refused(f"The {a.words} and the {b.words} do not lie in one upright plane; an apex needs them to.")
    n = unit(between - (between @ a.frame.y) * a.frame.y)
    t = p.thickness or fit.stocked(fit.size(p.bolt).d)
    at = (here + b.end(other)) / 2
    sides = [_side(body, end, at, sign * n, t) for body, end, sign in ((a, joint.record.end, 1.0), (b, other, -1.0))]
    _plates(fit, p, sides, at, n, t)
    return fit.done()


def _side(body: Body, end: End, at: Vec, n: Vec, t: float) -> Meeting:
    across = np.cross(n, body.frame.z)
    return on_surface(body, end, Surface(body, Face.TOP, at, n, across, -1e4, 1e4, t))


def _plates(fit: Fitup, p: Params, sides: list[Meeting], at: Vec, n: Vec, t: float) -> None:
    bolt, pitch = fit.size(p.bolt), p.pitch or fit.rules.pitch
    edge = p.edge or fit.rules.edge
    steep = max(abs(m.kz) for m in sides) + (p.deep / p.long if p.deep else 0.0)
    beside = up_to(room_beside(bolt, 2 * t, steep) + steep * t, fit.inch)
    up = sides[0].up
    # heights of both rafters' flanges on the plane between them
    tops = [float((m.model(m.trace(0.0), m.top(m.trace(0.0)), 0.0) - at) @ up) for m in sides]
    bottoms = [float((m.model(m.trace(0.0), m.bottom(m.trace(0.0)), 0.0) - at) @ up) for m in sides]
    top, bottom = max(tops), min(bottoms)
    thick = max(m.c * m.body.section.tf for m in sides)
    low = bottom - p.deep
    qs = [min(tops) - thick - beside - i * pitch for i in range(p.rows)]
    qs += [max(low, bottom if p.deep else max(bottoms)) + (thick if not p.deep else 0) + beside + i * pitch for i
        in range(p.rows - 1, -1, -1)]  # fmt: skip
    high = top + 12.0
    low -= 12.0 + (thick * 1.5 if p.deep else 0.0)
    if p.layout == "past both":
        qs.insert(0, top + beside)
        high = top + beside + edge
    if p.layout != "flush" and not p.deep:
        qs.append(bottom - beside)
        low = bottom - beside - edge
    s = max((m.body.section for m in sides), key=lambda s: s.b)
    gage = p.gage or max(s.gage or s.b / 2, up_to(s.tw + 2 * s.r + bolt.head_flats, fit.inch, 0.5, 10))
    wide = max(up_to(s.b, fit.inch, 0.5, 10), gage + 2 * bolt.edge)
    ids = []
    for m, words in zip(sides, ("", " of support"), strict=True):
        frame = m.on_side(m.trace(0.0), 0.0, 0.0)
        lift = float((at - frame.origin) @ frame.z)
        frame = frame.moved((0.0, t / 2, lift))
        id = fit.plate(f"plate{words}", frame, rectangle(-wide / 2, wide / 2, low, high), t, m.body.id, "end plate")
        m.body.frame.to_local(at)
        fit.cut(m.body.id, m.end, m.bevel_cut(m.trace(0.0, t)))
        weld_end(fit, m, id, m.trace(0.0, t), True, p.weld, words)
        if p.deep:
            tf = fit.stocked(m.body.section.tf)
            haunch(fit, m, m.trace(0.0, t), p.deep, p.long, fit.stocked(m.body.section.tw), tf, id, words)
        ids.append(id)
    across = np.cross(up, n)
    points = [at + q * up + x * across for q in qs for x in (-gage / 2, gage / 2)]
    fit.bolts("bolts", bolt, points, -n, ids, field=True)


KIND = Kind(
    "apex",
    "Apex",
    Params,
    build,
    "Two rafters at the ridge with end plates bolted face to face; equal or unequal slopes, with haunches on request.",
    serves="support",
    protects=beam_depth,
    checks=moment.plates_in_line,
)
