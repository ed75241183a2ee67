"""The local frame of a member: x along from the left end, z up the section, y to the left of both.

So whoever looks along +y sees the near side, left end at the left.
"""

import math

import numpy as np

from uncus.catalog.sections import Form, Section, usual_gage
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.records import Layout, Leg, Line, Member

UP = np.array([0.0, 0.0, 1.0])
NORTH = np.array([0.0, 1.0, 0.0])
_VERTICAL = math.cos(math.radians(0.5))


def is_vertical(direction: Vec) -> bool:
    """Within half a degree of plumb."""
    return abs(float(direction[2])) > _VERTICAL


def work_axes(start: Vec, end: Vec, roll: float = 0.0) -> Placement:
    """The frame of a work line: web vertical at roll 0; a plumb line's depth points north.

    roll: degrees about x, counter-clockwise seen from the far end.
    Raises ValueError for a line without length.
    """
    x = unit(np.asarray(end, dtype=np.float64) - start)
    reference = NORTH if is_vertical(x) else UP
    z = unit(reference - (reference @ x) * x)
    (x0, x1, x2), (z0, z1, z2) = x.tolist(), z.tolist()
    y = np.array([z1 * x2 - z2 * x1, z2 * x0 - z0 * x2, z0 * x1 - z1 * x0])  # z x x
    if roll:
        c, s = math.cos(math.radians(roll)), math.sin(math.radians(roll))
        y, z = c * y + s * z, c * z - s * y
    return Placement(start, np.column_stack([x, y, z]))


def overall_depth(member: Member, section: Section) -> float:
    """Depth of what the member is made of: of a double angle, of the pair."""
    double = member.double
    if double is None:
        return section.d
    if double.layout is Layout.STAR:
        return 2 * section.d + double.gap
    return section.b if double.leg is Leg.SHORT else section.d


def member_frame(member: Member, section: Section) -> Placement:
    """The frame of a member's section: origin on its centre (of the bounding box) at the left work point."""
    frame = work_axes(np.asarray(member.start), np.asarray(member.end), member.roll)
    return frame.moved((0.0, *section_offset(member, section)))


def section_offset(member: Member, section: Section) -> tuple[float, float]:
    """How far the middle of a member's section lies off its work line, in y and z of the section."""
    half = overall_depth(member, section) / 2
    out, drop = 0.0, {Line.TOP: -half, Line.BOTTOM: half}.get(member.line, 0.0)
    if member.line in (Line.GAGE, Line.CENTROID):
        out, drop = _on_line(member, section)
    return out + member.aside, drop + member.rise


def _on_line(member: Member, section: Section) -> tuple[float, float]:
    """How far a section is moved (y, z) to lie on the work line by its gage line or centroid, its back in the plane.

    A pair of angles stays with its gap on the plane; a section that has no gage line lies on its centroid.
    """
    y, z = section.centroid
    upright = section.d
    if section.form is Form.ANGLE and member.double is not None:
        if member.double.layout is Layout.STAR:
            return 0.0, 0.0
        if member.double.leg is Leg.SHORT:
            upright, z = section.b, y
    if member.line is Line.GAGE and section.form is Form.ANGLE:
        z = usual_gage(upright) - upright / 2
    elif member.line is Line.GAGE and section.form is Form.TEE:
        z = section.d / 2 - section.leg_gage
    back = section.form in (Form.ANGLE, Form.CHANNEL) and member.double is None
    return (section.b / 2 if back else 0.0), -z
