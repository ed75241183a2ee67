"""Gusset at a column's base: between the column and the top of its base plate."""

from typing import Annotated

from uncus.connect import base_plate, gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import Plane, Side, arm, fasten, outline, plane_of, set_out, thickness_for, weld_side
from uncus.connect.gusset_corner import face_towards, side_of, square_to
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.strength import axial, missing
from uncus.frame.axes import UP, is_vertical
from uncus.job.forms import About, checked
from uncus.job.records import Connection, End
from uncus.steel.joint import Contribution


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    edges: Annotated[str, gusset.EDGES] = "spread by 30°"
    plate: Annotated[
        float | None,
        About(
            "Base plate's top",
            low=0,
            high=600,
            help="Above the column's work point; that of the column's own base plate where left empty.",
        ),
    ] = None
    to_base: Annotated[str, About("To the base plate", unit="choice", choices=("welded", "clear of it"))] = "welded"


def build(joint: Joint) -> Contribution:
    """Gusset, its welds and the brace's end; a finding alone where it cannot stand."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, column = joint.member, joint.support
    if column is None:
        return fit.refused(f"The {brace.words} has lost the column that held it; connect this end again.")
    if not is_vertical(column.frame.x):
        return fit.refused(f"The {column.words} does not stand plumb; a gusset at its base needs it to.")
    surface = face_towards(column, joint)
    if isinstance(surface, str):
        return fit.refused(f"The gusset of the {brace.words} cannot stand: {surface}.")
    if brace.away(joint.record.end)[2] < 0.05:
        return fit.refused(f"The {brace.words} does not rise from the base of the {column.words}.")
    t = thickness_for(fit, brace, p)
    plane = plane_of(brace, joint.record.end, surface.normal, t)
    if isinstance(plane, str):
        return fit.refused(plane)
    if not square_to(plane, surface) or abs(float(plane.frame.y @ UP)) > 0.01:
        return fit.refused(f"The {brace.words} lies out of the plane of the {column.words}.")
    foot = min(End, key=lambda e: float(column.end(e)[2]))
    plate = next(
        (c for c in joint.under if c.kind == base_plate.KIND.name and c.member == column.id and c.end is foot), None
    )
    if plate is None and p.plate is None:
        return fit.refused(
            f"The {column.words} has no base plate yet for the gusset to stand on; connect its foot first."
        )
    top = base_plate.top_of(plate.params, joint.rules) if p.plate is None and plate else p.plate or 0.0
    clear = p.to_base != "welded"
    base = column.end(foot) + top * UP
    base_id = f"{plate.id}/plate" if plate else column.id
    level = Side(plane.flat(base), plane.run(UP), column, base_id, 25.0 if clear else 0.0)
    if plate and not clear:
        level = level._replace(reach=_reach(fit, column, plate, plane))
    sides = [side_of(plane, surface), level]
    a = arm(fit, plane, brace, joint.record.end, sides, p)
    if isinstance(a, str):
        return fit.refused(a)
    shape, (a,) = set_out([a], lambda arms: outline(sides, arms, p.edges))
    id = fit.plate("gusset", plane.frame, shape, t, column.id, "gusset plate")
    leg = p.weld or fit.leg(t)
    weld_side(fit, plane, "to column", id, shape, sides[0], leg, field=False)
    if not clear:
        weld_side(fit, plane, "to base", id, shape, level, leg, field=False)
    fasten(fit, plane, a, id, p)
    return fit.done()


def _reach(fit: Fitup, column: Body, plate: Connection, plane: Plane) -> float:
    """How far the base plate reaches from the column's middle in the gusset's plane, less room for the weld's end."""
    p = checked(base_plate.Params, plate.params)
    along, across = base_plate.size_of(p, column.section, fit.rules, fit.inch)
    return float(along / 2 if abs(float(plane.frame.x @ column.frame.z)) > 0.7 else across / 2) - fit.rules.tab_weld


KIND = Kind(
    "base gusset",
    "Gusset at a column's base",
    Params,
    build,
    "A brace's gusset between a column and the top of its base plate, welded to both or clear of the plate.",
    checks=axial.gusset,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.FREE_EDGE,
    ),
)
