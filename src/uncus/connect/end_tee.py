"""End tee: a tube's end capped, with a stem on the cap that is bolted to a plate on what holds it."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import meeting
from uncus.connect.section_weld import weld_round
from uncus.connect.shear_tab import SIDE
from uncus.connect.strength import missing, shear
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rows: Annotated[int, About("Bolt rows", unit="count", low=1, high=12)] = 2
    columns: Annotated[int, About("Bolt lines", unit="count", low=1, high=3)] = 1
    bolt: p_.Bolt = None
    stem: Annotated[float | None, About("Stem's thickness", low=5, high=60)] = None
    cap: Annotated[float | None, About("Cap's thickness", low=5, high=60)] = None
    tab: Annotated[float | None, About("Plate on the support", low=5, high=60)] = None
    side: SIDE = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    gap: p_.Gap = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Cap, stem, plate on the support, bolts and welds; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit, rules = Fitup(joint), joint.rules
    tube = joint.member
    s = tube.section
    if s.form not in (Form.BOX, Form.TUBE):
        return fit.refused(f"An end tee goes on a tube, which the {tube.words} is not.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    support = m.surface.body
    if (m.sloping and abs(m.slope) > 60) or abs(m.skew) > 45:
        return fit.refused(f"The {tube.words} meets the {support.words} too flat for an end tee; choose a gusset.")
    bolt, pitch, edge = fit.size(p.bolt), p.pitch or rules.pitch, p.edge or rules.edge
    t, cap, tab = p.stem or rules.tab_thickness, p.cap or fit.stocked(9.5), p.tab or rules.tab_thickness
    side = -1.0 if (p.side or rules.side) == "near" else 1.0
    gap = rules.gap if p.gap is None else p.gap
    y = side * (t + tab) / 2
    start = m.nearest(-t / 2, t / 2) + gap
    e0 = m.nearest(y - tab / 2, y + tab / 2)
    line = start + edge
    last = line + (p.columns - 1) * pitch
    stop = up_to(last + edge + 6.0 - start, fit.inch) + start
    half = (p.rows - 1) * pitch / 2
    # the stem's middle is on the tube's axis where it ends
    q_axis = m.kz * m.sign * stop
    qs = [q_axis + half - i * pitch for i in range(p.rows)]
    low, high = qs[-1] - edge, qs[0] + edge
    stem = fit.plate("stem", m.frame(0.0, 0.0, 0.0), rectangle(start, stop, low, high), t, tube.id, "tee stem")
    plate = fit.plate("tab", m.frame(0.0, 0.0, y), rectangle(e0, last + edge, low, high), tab, support.id, "shear tab")
    points = [m.model(line + c * pitch, q, side * t / 2) for c in range(p.columns) for q in qs]
    fit.bolts("bolts", bolt, points, -side * tube.frame.y, (plate, stem), True)
    deep = max(m.c * s.d + 2 * fit.rules.tab_weld * 2, high - low)
    wide = s.b + 4 * fit.rules.tab_weld
    corners = [m.model(e0, q, y + h * tab / 2) for q in (low, high) for h in (-1, 1)]
    corners += [m.model(stop, q_axis + g * deep / 2, h * wide / 2) for g in (-1, 1) for h in (-1, 1)]
    if m.surface.sunk and m.surface.over(np.array(corners), m.away) > 0.5:
        return fit.refused(
            f"The end tee of the {tube.words} does not go between the flanges of the {support.words}; give it more "
            f"gap, fewer rows or a gusset.")  # fmt: skip
    across = np.cross(m.away, m.up)
    frame = Placement(m.model(stop + cap / 2, q_axis, 0.0), np.column_stack([across, m.away, m.up]))
    lid = fit.plate("cap", frame, rectangle(-wide / 2, wide / 2, -deep / 2, deep / 2), cap, tube.id, "cap plate")
    cut = m.square_cut(stop + cap)
    fit.cut(tube.id, m.end, cut)
    leg = p.weld or fit.leg(t)
    fit.weld("stem", leg, [m.model(stop, q, 0.0) for q in (low, high)], (lid, stem))
    touching = y + (tab / 2 if m.trace(y + 1) > m.trace(y - 1) else -tab / 2) if m.skewed else y
    fit.weld("tab", fit.leg(tab), [m.model(e0, q, touching) for q in (low, high)], (support.id, plate))
    weld_round(fit, "cap", tube, cut, max(rules.tab_weld, s.tw), lid)
    return fit.done()


KIND = Kind(
    "end tee",
    "End tee on a tube",
    Params,
    build,
    "A tube capped, with a stem bolted to a plate on a flange, web or tube; square, skewed or sloping.",
    checks=shear.end_tee,
    missing=(
        missing.NOTCH,
        missing.CAP_BENDING,
    ),
)
