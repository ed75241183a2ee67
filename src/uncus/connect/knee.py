"""Knee: a rafter's end plate bolted to the flange of a column at its top, haunched below; the column capped in line."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.buildable.reach import room_for_nut
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.haunch import haunch
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.moment_end_plate import end_gage, weld_end
from uncus.connect.protected import beam_depth
from uncus.connect.stiffening import cross_plate, full
from uncus.connect.strength import missing, moment
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    deep: Annotated[
        float | None, About("Haunch depth", low=0, high=2000, help="Under the rafter at the plate; nothing: no haunch.")
    ] = None
    long: Annotated[
        float | None, About("Haunch length", low=100, high=8000, help="Along the rafter from the plate.")
    ] = None
    haunch_web: Annotated[float | None, About("Haunch web's thickness", low=4, high=50)] = None
    haunch_flange: Annotated[float | None, About("Haunch flange's thickness", low=5, high=80)] = None
    thickness: Annotated[float | None, About("End plate's thickness", low=6, high=100)] = None
    width: Annotated[float | None, About("End plate's width", low=60, high=1000)] = None
    bolt: p_.Bolt = None
    gage: p_.Gage = None
    top_rows: Annotated[int, About("Rows at the top", unit="count", low=1, high=5)] = 2
    bottom_rows: Annotated[int, About("Rows at the haunch", unit="count", low=1, high=5)] = 2
    pitch: p_.Pitch = None
    cap: Annotated[float | None, About("Cap plate's thickness", low=0, high=80,
        help="Nothing: the column is left plain.")] = None  # fmt: skip
    stiffener: Annotated[
        float | None, About("Stiffener's thickness", low=0, high=80, help="In the column where the haunch pushes.")
    ] = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """End plate, haunch, bolts, cap and stiffeners; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    rafter = joint.member
    if rafter.section.form is not Form.I:
        return fit.refused(f"A knee joins I sections, which the {rafter.words} is not.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    column = m.surface.body
    if m.skewed or not m.surface.flange or column.section.form is not Form.I:
        return fit.refused(f"A knee needs the {rafter.words} square in plan to the flange of an I column.")
    bolt = fit.size(p.bolt)
    t = p.thickness or fit.stocked(bolt.d)
    cleared = clearing(fit, m, t * m.slant, bevel=True, flush=True)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    cleared.apply(fit, m)
    cap = fit.stocked(rafter.section.tf) if p.cap is None else p.cap
    _plate(fit, m, p, t, cap)
    _cap(fit, m, joint, cap)
    return fit.done()


def _plate(fit: Fitup, m: Meeting, p: Params, t: float, cap: float) -> None:
    rafter, column, s = m.body, m.surface.body, m.body.section
    bolt, pitch = fit.size(p.bolt), p.pitch or fit.rules.pitch
    end = m.trace(0.0, t)
    deep = s.d * 0.9 if p.deep is None else p.deep
    long = p.long or 2.0 * max(deep, s.d)
    tf = p.haunch_flange or fit.stocked(s.tf)
    wide = p.width or max(up_to(s.b, fit.inch, 0.5, 10), end_gage(fit, m, bolt) + 2 * bolt.edge)
    gage = p.gage or end_gage(fit, m, bolt)
    top, bottom = m.top(end), m.bottom(end) - deep
    beside = up_to(bolt.d + 12.7, fit.inch)
    # the column ends under the cap: its own edge distance counts from there
    under = max(beside, up_to(bolt.edge + m.c * (cap - s.tf) + abs(m.kz) * (t + column.section.tf), fit.inch))
    qs = [top - m.c * s.tf - under - i * pitch for i in range(p.top_rows)]
    low = bottom + (m.c * s.tf if deep < 1 else 0.0)
    rising = m.kz * m.sign + (deep / long if deep >= 1 else 0.0)  # of the haunch's flange, from the plate on
    inner = max(beside, up_to(room_for_nut(bolt, t + column.section.tf, rising) + max(rising, 0.0) * t, fit.inch))
    qs += [low + inner + i * pitch for i in range(p.bottom_rows - 1, -1, -1)]
    frame = m.on_side(m.trace(0.0), 0.0, 0.0).moved((0.0, t / 2, 0.0))
    below = bottom - tf * 1.5 - 12.0
    id = fit.plate("plate", frame, rectangle(-wide / 2, wide / 2, below, top), t, rafter.id, "end plate")
    points = [frame.to_model((x, -t / 2, q)) for q in qs for x in (-gage / 2, gage / 2)]
    fit.bolts("bolts", bolt, points, -m.surface.normal, (id, column.id), field=True)
    weld_end(fit, m, id, end, True, p.weld)
    if deep >= 1:
        haunch(fit, m, end, deep, long, p.haunch_web or fit.stocked(s.tw), tf, id)
    stiffener = fit.stocked(tf) if p.stiffener is None else p.stiffener
    if stiffener:
        level = m.model(m.trace(0.0), bottom - tf / 2, 0.0)
        x = float(column.frame.to_local(level)[0])
        for side, words in ((-1.0, "near"), (1.0, "far")):
            cross_plate(fit, column, f"stiffener {words}", x, stiffener, side, "stiffener", full(fit, column.section))


def _cap(fit: Fitup, m: Meeting, joint: Joint, cap: float) -> None:
    """The column cut in line with the rafter's top, and a plate on it up to the end plate."""
    rafter, column = m.body, m.surface.body
    here = rafter.end(joint.record.end)
    top = min(End, key=lambda e: float(np.linalg.norm(column.end(e) - here)))
    up = rafter.frame.z
    n = column.frame.axes.T @ up
    if abs(n[0]) < 0.2:
        fit.find(f"The {rafter.words} is too steep against the {column.words} for a cap in line with it.")
        return
    level = rafter.section.d / 2 - cap
    c = level - float((column.frame.origin - rafter.frame.origin) @ up)
    fit.cut(column.id, top, EndCut(float(c / n[0]), float(-n[1] / n[0]), float(-n[2] / n[0])))
    if not cap:
        return
    depth = column.section.d
    s = m.sign
    # x in the rafter's frame over the column: from the flange the plate is on, back over the column's depth
    faces = [m.local(m.trace(0.0), 0.0)[0] + m.kz * (z - m.local(m.trace(0.0), 0.0)[1]) for z in (level, level + cap)]
    near = min(s * x for x in faces)
    far = max(s * x for x in faces) - depth * m.c
    wide = column.section.b / 2
    frame = Placement(rafter.frame.to_model((0.0, 0.0, level + cap / 2)), axes_of(rafter.frame.x, -rafter.frame.y))
    x0, x1 = sorted((s * near, s * far))
    id = fit.plate("cap", frame, rectangle(x0, x1, -wide, wide), cap, column.id, "cap plate")
    mid = level
    for words, x in (("inner", s * near), ("outer", s * far)):
        at = min(x1, max(x0, x))
        path = [rafter.frame.to_model((at, y, mid)) for y in (-wide, wide)]
        fit.weld(f"cap {words}", fit.leg(cap) if cap < 25 else 12.0, path, (column.id, id), 1)


KIND = Kind(
    "knee",
    "Haunched knee",
    Params,
    build,
    "A rafter's end plate bolted to a column's flange, with a haunch below, a cap in line and stiffeners in the "
    "column.",
    protects=beam_depth,
    checks=moment.plates_in_line,
    missing=(
        missing.FLANGE_BETWEEN_BOLTS,
        missing.HAUNCH,
        missing.STIFFENERS,
    ),
)
