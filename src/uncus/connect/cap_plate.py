"""Cap plate: a plate on the top of a column, under the beam that runs over it or alone."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.section_weld import weld_round
from uncus.connect.stiffening import cross_plate, full
from uncus.connect.strength import base
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: p_.Thickness = None
    along: Annotated[float | None, About("Plate along the beam", low=50, high=2000)] = None
    across: Annotated[float | None, About("Plate across the beam", low=50, high=2000)] = None
    bolts: Annotated[
        int,
        About("Bolts", unit="count", low=0, high=4, help="Through the beam's flange: four, or two across the corners."),
    ] = 4
    bolt: p_.Bolt = None
    gage: p_.Gage = None
    spread: Annotated[float | None, About("Between bolts along the beam", low=40, high=1500)] = None
    stiffeners: Annotated[
        str, About("Stiffeners in the beam", unit="choice", choices=("none", "one pair", "two pairs"))
    ] = "none"
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """Plate, weld, and bolts to the beam above where there is one; a finding alone where it does not lie over the
    top."""
    p: Params = checked(Params, joint.record.params)
    fit, rules = Fitup(joint), joint.rules
    column, beam = joint.member, joint.support
    up = -column.away(joint.record.end)
    if not is_vertical(up) or up[2] < 0:
        return fit.refused(f"The {column.words} has no plumb top at this end; a cap plate needs one.")
    t = p.thickness or fit.stocked(12.0)
    bolt = fit.size(p.bolt)
    s = column.section
    here = column.end(joint.record.end)
    level, x_axis = 0.0, column.frame.z
    gage = along = 0.0
    if beam is not None:
        if not beam.section.flanged or abs(float(beam.frame.z[2])) < 0.9998:
            return fit.refused(
                f"The {beam.words} over this column is not level with its flange down; a cap plate needs that."
            )
        local = beam.frame.to_local(here)
        if not -s.d < local[0] < beam.length + s.d or abs(local[1]) > beam.section.b:
            return fit.refused(f"The {beam.words} does not lie over the {column.words}; choose another beam.")
        sign = np.sign(beam.frame.z[2])
        level = float((beam.frame.to_model((local[0], 0.0, -sign * beam.section.d / 2)) - here) @ up)
        x_axis = beam.frame.x
        gage = p.gage or beam.section.gage or beam.section.b / 2
    turned = abs(float(x_axis @ column.frame.z)) < 0.7
    deep, wide = (s.b, s.d) if turned else (s.d, s.b)
    if beam is not None and p.bolts:
        usual = deep + 2 * up_to(bolt.edge + bolt.washer_od / 2, fit.inch)
        spread = p.spread or usual
        along = spread + 2 * (p_edge := rules.edge)
        wide = max(wide, gage + 2 * p_edge)
    along = p.along or max(up_to(deep + 2 * 12.7, fit.inch), up_to(along, fit.inch))
    wide = p.across or max(up_to(wide + 2 * 12.7, fit.inch), wide)
    x = float(column.frame.to_local(here + (level - t) * up)[0])
    fit.cut(column.id, joint.record.end, EndCut(x))
    frame = Placement(here + (level - t / 2) * up, axes_of(x_axis, np.cross(x_axis, up)))
    id = fit.plate("cap", frame, rectangle(-along / 2, along / 2, -wide / 2, wide / 2), t, column.id, "cap plate")
    weld_round(fit, "weld", column, EndCut(x), p.weld or fit.leg(min(t, 16.0)), id)
    if beam is None:
        return fit.done()
    if p.bolts:
        xs, ys = [-spread / 2, spread / 2], [-gage / 2, gage / 2]
        spots = [(a, b) for a in xs for b in ys] if p.bolts == 4 else list(zip(xs, ys, strict=True))
        points = [here + level * up + a * x_axis + b * beam.frame.y for a, b in spots]
        fit.bolts("bolts", bolt, points, up, (id, beam.id), field=True)
        _reach(fit, column, frame, xs, gage, bolt.head_flats / 2)
    if p.stiffeners != "none":
        at = float(beam.frame.to_local(here)[0])
        half = deep / 2 - (s.tf / 2 if s.form is Form.I and not turned else s.tw / 2)
        offs = [0.0] if p.stiffeners == "one pair" else [-half, half]
        for n, off in enumerate(offs):
            for side, words in ((-1.0, "near"), (1.0, "far")):
                cross_plate(
                    fit,
                    beam,
                    f"stiffener {n + 1} {words}",
                    at + off,
                    fit.stocked(10.0),
                    side,
                    "stiffener",
                    full(fit, beam.section),
                )
    return fit.done()


def _reach(fit: Fitup, column, frame: Placement, xs: list[float], gage: float, head: float) -> None:  # type: ignore[no-untyped-def]
    """Finding where a bolt's head would stand in the column under the plate."""
    s = column.section
    for x in xs:
        local = column.frame.axes.T @ (frame.x * x + frame.z * gage / 2)
        y, z = abs(float(local[1])), abs(float(local[2]))
        in_flange = s.form is Form.I and s.d / 2 - s.tf - head < z < s.d / 2 + head and y < s.b / 2 + head
        hollow = s.form in (Form.BOX, Form.TUBE) and y < s.b / 2 + head and z < s.d / 2 + head
        in_web = s.form is Form.I and y < s.tw / 2 + head and z < s.d / 2
        if in_flange or hollow or in_web:
            fit.find(f"A bolt of the cap plate stands in the {column.words}; give it more spread or a larger gage.")
            return


KIND = Kind(
    "cap plate",
    "Cap plate",
    Params,
    build,
    "A plate on the top of a plumb column, with bolts to a beam that runs over it or alone.",
    needs="either",
    checks=base.cap_plate,
)
