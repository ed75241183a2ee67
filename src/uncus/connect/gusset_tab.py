"""Gusset and tab in one plate: welded to a column, beside a beam's web that is bolted to it, a brace lapping it
above or below the beam's flange, which is cut back where the plate passes."""

from typing import Annotated

import msgspec
import numpy as np
from shapely.geometry import Polygon

from uncus.connect import gusset, shear_tab
from uncus.connect.coping import clearing
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.gusset import Side, arm, fasten, outline, plane_of, set_out, weld_side
from uncus.connect.gusset_corner import face_towards, side_of, square_to
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.strength import axial, missing
from uncus.job.forms import About, checked
from uncus.job.records import Connection, End
from uncus.steel.joint import Contribution
from uncus.units import format_length

_BESIDE = 0.5  # mm that the plate may stand off the web or the brace
_OVER = 12.0  # mm between the plate's gusset and the beam's flange
_INTO = 25.0  # mm that the tab runs on into the gusset, past its cut corner


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    tab_rows: Annotated[
        int | None,
        About("Bolt rows in the beam", unit="count", low=2, high=20, help="As many as the web takes where left empty."),
    ] = None
    side: shear_tab.SIDE = None
    end_edge: Annotated[
        float | None, About("Beam end distance", low=15, high=200, help="The beam's bolts to its end.")
    ] = None
    gap: Annotated[float | None, About("Gap at the beam's end", low=0, high=150)] = None


def build(joint: Joint) -> Contribution:
    """The plate, the beam's and the brace's ends on it, its weld; a finding alone where they do not lie on one
    plate."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, column = joint.member, joint.support
    if column is None or not joint.others:
        return fit.refused(f"The plate of the {brace.words} needs a column and a beam; connect this end to both again.")
    beam = joint.others[0]
    m = _beam_end(joint, beam)
    if isinstance(m, str):
        return fit.refused(m)
    t = gusset.thickness_for(fit, brace, p)
    cleared = clearing(fit, m, joint.rules.gap if p.gap is None else p.gap)
    if isinstance(cleared, str):
        return fit.refused(cleared)
    asked = shear_tab.Params(rows=p.tab_rows, thickness=t, side=p.side, bolt=p.bolt, pitch=p.pitch, edge=p.edge,
        end_edge=p.end_edge)  # fmt: skip
    s = shear_tab.set_out(fit, m, cleared, asked)
    if isinstance(s, str):
        return fit.refused(s)
    found = _sides(fit, joint, beam, m, s, t)
    if isinstance(found, str):
        return fit.refused(found)
    plane, sides = found
    a = arm(fit, plane, brace, joint.record.end, sides, p)
    if isinstance(a, str):
        return fit.refused(a)
    over = float(brace.away(joint.record.end) @ beam.frame.z) > 0
    shape, (a,) = set_out([a], lambda arms: _outline(m, s, plane, sides, arms[0], p.edges, over))
    id = fit.plate("gusset", plane.frame, shape, t, column.id, "gusset and tab")
    weld_side(fit, plane, "to column", id, shape, sides[0], p.weld or fit.leg(t), field=False)
    points = [m.model(e, q, s.y - s.side * t / 2) for e, q in s.bolts]
    cleared.apply(fit, m)
    fit.bolts("beam bolts", fit.size(p.bolt), points, -s.side * beam.frame.y, (id, beam.id), field=True, along=m.away)
    shear_tab.flange_off(fit, m, s, cleared, over)
    fasten(fit, plane, a, id, p)
    return fit.done()


def _beam_end(joint: Joint, beam: Body) -> Meeting | str:
    """The beam's end before the column, square and level to it."""
    assert joint.support is not None
    if not beam.section.flanged:
        return f"A tab bolts to a web with flanges, and the {beam.words} has none."
    here = joint.member.end(joint.record.end)
    end = min(End, key=lambda e: float(np.linalg.norm(beam.end(e) - here)))
    if any(c.member == beam.id and c.end is end and c.kind != "setback" for c in joint.under):
        return f"The {beam.words} has a joint of its own at this end; delete that one: this plate takes its place."
    record = Connection(kind=joint.record.kind, member=beam.id, end=end, support=joint.support.id)
    m = meeting(msgspec.structs.replace(joint, record=record, member=beam, others=()))
    if isinstance(m, str):
        return m
    if m.skewed or m.sloping:
        return f"The {beam.words} meets the {joint.support.words} skewed or sloping; use a gusset and a tab apart."
    return m


def _sides(
    fit: Fitup, joint: Joint, beam: Body, m: Meeting, s: shear_tab.Setting, t: float
) -> tuple[gusset.Plane, list[Side]] | str:
    """The plate's plane and the faces its gusset stands by: the column's, and clear of the beam's flange."""
    brace, column = joint.member, joint.support
    assert column is not None
    first, second = face_towards(column, joint), face_towards(beam, joint)
    if isinstance(first, str) or isinstance(second, str):
        return f"The gusset of the {brace.words} cannot stand: {first if isinstance(first, str) else second}."
    plane = plane_of(brace, joint.record.end, second.normal, t)
    if isinstance(plane, str):
        return plane
    if not square_to(plane, first) or not square_to(plane, second):
        return f"The {brace.words} lies out of the plane of the {column.words} and the {beam.words}."
    off = float((m.model(0.0, 0.0, s.y) - plane.frame.origin) @ beam.frame.y)
    if abs(off) > _BESIDE:
        lean = float(beam.frame.y @ brace.frame.y)
        said = format_length(off * lean, fit.units)
        return (
            f"The {brace.words} does not lie on a plate beside the web of the {beam.words}: move its work line aside "
            f"by "
            f"{said}, or take the other side of the web."
        )
    return plane, [side_of(plane, first), side_of(plane, second, _OVER)]


def _outline(
    m: Meeting, s: shear_tab.Setting, plane: gusset.Plane, sides: list[Side], a: gusset.Arm, edges: str, over: bool
) -> list[tuple[float, float]]:
    """The gusset's outline and the tab's as one; the tab runs on past the corner that a gusset alone has cut off."""
    es, qs = [e for e, _ in s.bolts], [q for _, q in s.bolts]
    low, high = min(qs) - s.over, max(qs) + s.over
    low, high = (low, m.top(s.e0) + _OVER + _INTO) if over else (m.bottom(s.e0) - _OVER - _INTO, high)
    corners = rectangle(s.e0, max(es) + s.edge, low, high)
    tab = Polygon([tuple(plane.flat(m.model(e, q, s.y))) for e, q in corners])
    ring = Polygon(outline(sides, [a], edges)).union(tab).exterior.simplify(0.01).coords[:-1]
    return [(float(x), float(z)) for x, z in ring]


KIND = Kind(
    "gusset and tab",
    "Gusset and tab in one plate",
    Params,
    build,
    "One plate welded to a column: a beam's web is bolted to it, and a brace above or below the beam laps it.",
    others=1,
    serves="others",
    checks=axial.gusset_and_tab,
    missing=(
        missing.BEARING_ALONG,
        missing.WALL_BENDING,
        missing.SLIP,
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.NOTCH,
        missing.TAB_UNDER_BRACE,
        missing.FREE_EDGE,
    ),
)
