"""Crossing gusset: where two braces cross, a plate on the one that runs through, to which both lengths of the other
are held."""

from typing import Annotated

import numpy as np
import shapely

from uncus.catalog.sections import Form
from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import Arm, Flat, Plane, Side, arm, fasten, set_out, thickness_for
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.lapping import bolt_lap, lap_of
from uncus.connect.strength import axial, missing
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.joint import Contribution

_APART = 0.5  # mm by which plates that are one may be drawn apart
_MEET = 60.0  # mm within which both lengths end at one place


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    through: Annotated[
        int,
        About(
            "Bolts in the other brace",
            unit="count",
            low=1,
            high=6,
            help="That runs through, in each of its lines; in the shop.",
        ),
    ] = 2


def build(joint: Joint) -> Contribution:
    """The plate, both lengths' ends and the bolts of the brace that runs through; a finding alone where they do not
    lie on one plate."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, through, end = joint.member, joint.support, joint.record.end
    if through is None or not joint.others:
        return fit.refused(
            f"The crossing gusset of the {brace.words} joins two lengths of a brace across another; connect this end "
            f"again.")  # fmt: skip
    mate = joint.others[0]
    here = brace.end(end)
    other = min(End, key=lambda e: float(np.linalg.norm(mate.end(e) - here)))
    for one in (brace, mate, through):
        if one.section.form not in (Form.ANGLE, Form.CHANNEL):
            return fit.refused(
                f"A crossing gusset lies on the legs of angles or the webs of channels, which the {one.words} has not; "
                f"hold tubes and tees to one another by side gussets.")  # fmt: skip
    if float(np.linalg.norm(mate.end(other) - here)) > _MEET or float(brace.away(end) @ mate.away(other)) > -0.9999:
        return fit.refused(
            f"The {brace.words} and the {mate.words} are not two lengths in one line; a crossing gusset needs them to "
            f"be.")  # fmt: skip
    t = thickness_for(fit, brace, p)
    across = _across(brace.away(end), through)
    if across is None:
        return fit.refused(f"The {brace.words} lies along the {through.words} and does not cross it; splice it.")
    plane = _plane(brace, end, across, t)
    for one in (brace, mate, through):
        if not _on(plane, one, t) or abs(thickness_for(fit, one, p) - t) > _APART:
            return fit.refused(
                f"The {brace.words} and the {one.words} do not lie on one plate; turn one of them over, or give both "
                f"the same gap.")  # fmt: skip
    sides = _edges(plane, through)
    arms = []
    for body, at in ((brace, end), (mate, other)):
        side = _facing(sides, plane.run(body.away(at)))
        found = arm(fit, plane, body, at, [side], p)
        if isinstance(found, str):
            return fit.refused(found)
        arms.append(found)
    bolt, pitch = fit.size(p.bolt), p.pitch or fit.rules.pitch
    middle = _crossing(plane, brace, end, through)
    xs = [middle + (i - (p.through - 1) / 2) * pitch for i in range(p.through)]
    edge = p.edge or fit.rules.edge
    shape, arms = set_out(arms, lambda arms: _outline(plane, arms, through, xs, edge))
    id = fit.plate("gusset", plane.frame, shape, t, through.id, "crossing gusset")
    bolt_lap(fit, "through", bolt, through, lap_of(through), id, xs, field=False)
    for a, mark in zip(arms, ("", " of mate"), strict=True):
        fasten(fit, plane, a, id, p, mark)
    return fit.done()


def _across(out: Vec, through: Body) -> Vec | None:
    """Square to the brace that runs through, towards a length of the other; None where they lie alike."""
    along = through.frame.x
    off = out - float(out @ along) * along
    return unit(off) if float(np.linalg.norm(off)) > 0.15 else None


def _plane(brace: Body, end: End, across: Vec, t: float) -> Plane:
    """The plate's plane: on the brace's back or amid its gap, z away from the brace that runs through."""
    n = brace.frame.y
    z = unit(across - float(across @ n) * n)
    return Plane(Placement(brace.end(end) + lap_of(brace).middle(t) * n, np.column_stack([np.cross(n, z), n, z])), t)


def _on(plane: Plane, body: Body, t: float) -> bool:
    """Whether a brace lies flat on the plate, at either side of it or about it."""
    if abs(float(plane.frame.y @ body.frame.y)) < 1 - 1e-5 or abs(float(plane.frame.y @ body.frame.x)) > 1e-5:
        return False
    middle = body.frame.origin + lap_of(body).middle(t) * body.frame.y
    return abs(float((middle - plane.frame.origin) @ plane.frame.y)) < _APART


def _edges(plane: Plane, through: Body) -> tuple[Side, Side]:
    """Both edges of the brace that runs through, looking away from it."""
    lap, w = lap_of(through), plane.run(through.frame.z)
    low, high = (
        (-through.section.d / 2, through.section.d / 2) if through.record.double is None else (lap.low, lap.high)
    )
    at = plane.flat(through.frame.origin)
    return Side(at + low * w, -w, through, through.id), Side(at + high * w, w, through, through.id)


def _facing(sides: tuple[Side, Side], out: Flat) -> Side:
    """The edge from which a length of the other brace runs away."""
    first, second = sides
    return first if float(first.normal @ out) > float(second.normal @ out) else second


def _crossing(plane: Plane, brace: Body, end: End, through: Body) -> float:
    """How far along the brace that runs through the other's line crosses it."""
    at, out = plane.flat(brace.end(end)), plane.run(brace.away(end))
    start, along = plane.flat(through.frame.origin), plane.run(through.frame.x)
    return float(np.linalg.solve(np.column_stack([along, -out]), at - start)[0])


def _outline(plane: Plane, arms: list[Arm], through: Body, xs: list[float], edge: float) -> list[tuple[float, float]]:
    """About both lengths' bolts or welds and those of the brace that runs through."""
    points = [q for a in arms for q in (*a.corners, a.point(a.start, a.under), a.point(a.start, a.over))]
    for z, _ in lap_of(through).lines:
        for x in (min(xs) - edge, max(xs) + edge):
            points += [plane.flat(through.frame.to_model((x, 0.0, z + side * edge))) for side in (-1, 1)]
    hull = shapely.MultiPoint([tuple(q) for q in points]).convex_hull
    return [(float(x), float(z)) for x, z in hull.simplify(0.01).exterior.coords[:-1]]


KIND = Kind(
    "crossing gusset",
    "Crossing gusset",
    Params,
    build,
    "A plate where two braces cross: one runs through, the other is in two lengths; angles, their pairs, channels.",
    others=1,
    serves="others",
    checks=axial.crossing,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.FREE_EDGE,
        missing.OTHER_LENGTH,
    ),
)
