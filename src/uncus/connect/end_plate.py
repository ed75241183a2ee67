"""Shear end plate: a plate on the end of the beam's web, bolted flat to what holds it; skewed and sloping ends too."""

from typing import Annotated

import msgspec

from uncus.connect import params as p_
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import meeting
from uncus.connect.rows import Asked, rows_in_web, web_middle
from uncus.connect.strength import missing, shear
from uncus.frame.axes import is_vertical
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rows: p_.Rows = None
    bolt: p_.Bolt = None
    thickness: p_.Thickness = None
    gage: p_.Gage = None
    down: p_.Down = None
    pitch: p_.Pitch = None
    edge: p_.Edge = None
    hole: p_.Hole = None
    shims: Annotated[
        float, About("Room for shims", low=0, high=20, help="The beam is this much shorter at this end.")
    ] = 0.0
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Plate, bolts and web welds; a finding alone where the joint cannot be made."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam, rules = joint.member, joint.rules
    if not beam.section.flanged:
        return fit.refused(f"A shear end plate goes to a web with flanges, and the {beam.words} has none.")
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    t = p.thickness or rules.tab_thickness
    bolt, edge, pitch = fit.size(p.bolt), p.edge or rules.edge, p.pitch or rules.pitch
    cleared = clearing(fit, m, (t + p.shims) * m.slant, bevel=True, flush=True)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    support = m.surface.body
    if cleared.stands_off:
        return fit.refused(f"The {beam.words} is too wide to enter the {support.words}; choose a shear tab.")
    y = web_middle(beam.section)
    end = m.trace(y, t + p.shims)
    web = rows_in_web(fit, m, cleared, Asked(p.rows, pitch, edge, p.down), end, end)
    if isinstance(web, str):
        return fit.refused(web)
    cleared.apply(fit, m)
    rows, q0 = web
    clear = beam.section.tw / 2 + (p.weld or rules.tab_weld) + bolt.head_flats * 0.9
    gage = p.gage or max(139.7 if fit.inch else 140.0, up_to(2 * clear, fit.inch, 0.5, 10))
    qs = [q0 - i * pitch for i in range(rows)]
    low, high, half = qs[-1] - edge, qs[0] + edge, gage / 2 + edge
    frame = m.on_side(m.trace(y, p.shims), 0.0, y).moved((0.0, t / 2, 0.0))
    id = fit.plate("plate", frame, rectangle(-half, half, low, high), t, beam.id, "end plate")
    spots = [(x, q) for x in (-gage / 2, gage / 2) for q in qs]
    points = [frame.to_model((x, -t / 2, q)) for x, q in spots]
    if p.shims:
        shim = fit.plate("shim", frame.moved((0, -t / 2 - p.shims / 2, 0)), rectangle(-half, half, low, high), p.shims,
            beam.id, "shim")  # fmt: skip
        fit.bolts("bolts", bolt, points, -m.surface.normal, (id, shim, support.id), True, along=m.up)
    else:
        holes = {id: p_.HoleKind(p.hole)} if p.hole else None
        fit.bolts("bolts", bolt, points, -m.surface.normal, (id, support.id), True, holes, along=m.up)
    fit.weld("weld", p.weld or fit.leg(beam.section.tw), [m.model(end, q, y) for q in (low, high)], (beam.id, id))
    if m.surface.flange and half > m.surface.high + 0.5:
        fit.find(f"The end plate is wider than the {support.words}; give a smaller gage.")
    inner = support.section.d / 2 - support.section.k
    if not m.surface.flange and support.section.flanged and is_vertical(m.surface.along) and half > inner:
        fit.find(f"The end plate does not fit between the flanges of the {support.words}; give a smaller gage.")
    return fit.done()


KIND = Kind(
    "shear end plate",
    "Shear end plate",
    Params,
    build,
    "A plate shop-welded to the beam's web, field-bolted flat to a flange, web or tube wall; square, skewed or "
    "sloping.",
    checks=shear.end_plate,
    missing=(
        missing.WALL_BENDING,
        missing.TENSION_WITH_SHEAR,
        missing.SLIP,
        missing.NOTCH,
    ),
)
