"""Gusset in the corner of a beam and a column: welded to the beam, welded or bolted by angles to the column."""

import math
from typing import Annotated

import numpy as np

from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import (
    TUBES,
    Arm,
    Clips,
    Plane,
    Side,
    angle_side,
    arm,
    clips,
    fasten,
    in_way,
    outline,
    past_clips,
    plane_of,
    thickness_for,
    weld_side,
)
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.strength import axial
from uncus.connect.surface import Surface, facing
from uncus.frame.placement import Vec
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    to_column: Annotated[
        str | None,
        About(
            "To the column",
            unit="choice",
            choices=("angles", "welded"),
            help="Angles are bolted on site. Where left empty they are, but on tubes, whose walls no hand reaches behind.",
        ),
    ] = None
    goes_with: Annotated[
        str,
        About(
            "Gusset goes with the", unit="choice", choices=("beam", "column"), help="Where it is welded in the shop."
        ),
    ] = "beam"


def face_towards(body: Body, joint: Joint) -> Surface | str:
    """The face of a member that looks at the joint's brace."""
    brace = joint.member
    away = brace.away(joint.record.end)
    here = brace.end(joint.record.end)
    flat = away - float(away @ body.frame.x) * body.frame.x
    size = float(np.linalg.norm(flat))
    if size < 1e-3:
        return f"the {brace.words} runs along the {body.words}"
    return facing(body, here, flat / size)


def side_of(plane: Plane, surface: Surface, gap: float = 0.0) -> Side:
    """A face as the gusset's plane sees it."""
    room = math.inf
    if not surface.flange:
        middle = float((plane.frame.origin - surface.at) @ surface.across)
        low, high = surface.clear
        room = min(high - middle, middle - low)
    side = Side(plane.flat(surface.at), _unit2(plane.run(surface.normal)), surface.body, surface.body.id, gap)
    return side._replace(room=room)


def _unit2(v: Vec) -> Vec:
    return np.asarray(v / np.linalg.norm(v))


def square_to(plane: Plane, surface: Surface) -> bool:
    """Whether the gusset stands square on a face."""
    return abs(float(plane.frame.y @ surface.normal)) < 0.01


def build(joint: Joint) -> Contribution:
    """Gusset, its welds and clips, and the brace's end; a finding alone where it cannot stand."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, column = joint.member, joint.support
    if column is None or not joint.others:
        return fit.refused(
            f"The gusset of the {brace.words} stands on a column and a beam; connect this end to both again."
        )
    beam = joint.others[0]
    first, second = face_towards(column, joint), face_towards(beam, joint)
    for found in (first, second):
        if isinstance(found, str):
            return fit.refused(f"The gusset of the {brace.words} cannot stand: {found}.")
    assert isinstance(first, Surface) and isinstance(second, Surface)
    t = thickness_for(fit, brace, p)
    plane = plane_of(brace, joint.record.end, second.normal, t)
    if isinstance(plane, str):
        return fit.refused(plane)
    if not square_to(plane, first) or not square_to(plane, second):
        return fit.refused(f"The {brace.words} lies out of the plane of the {column.words} and the {beam.words}.")
    bolted = (p.to_column or ("welded" if column.section.form in TUBES else "angles")) == "angles"
    sides = [side_of(plane, first, fit.rules.gap if bolted else 0.0), side_of(plane, second)]
    a = arm(fit, plane, brace, joint.record.end, sides, p)
    if isinstance(a, str):
        return fit.refused(a)
    shape = outline(sides, [a], p.edges)
    held = clips(fit, plane, shape, sides[0], p) if bolted else ""
    if isinstance(held, Clips) and in_way(a, sides[0], held):
        sides[0] = past_clips(sides[0], held)
        a = arm(fit, plane, brace, joint.record.end, sides, p)
        assert isinstance(a, Arm), "farther out than one that could be set out"
        shape = outline(sides, [a], p.edges)
        held = clips(fit, plane, shape, sides[0], p)
    owner = column.id if p.goes_with == "column" and not bolted else beam.id
    id = fit.plate("gusset", plane.frame, shape, t, owner, "gusset plate")
    leg = p.weld or fit.leg(t)
    weld_side(fit, plane, "to beam", id, shape, sides[1], leg, owner != beam.id)
    if bolted:
        angle_side(fit, plane, "column", id, held, sides[0], p, owner)
    else:
        weld_side(fit, plane, "to column", id, shape, sides[0], leg, owner != column.id)
    fasten(fit, plane, a, id, p)
    return fit.done()


KIND = Kind(
    "corner gusset",
    "Gusset at beam and column",
    Params,
    build,
    "A brace's gusset in the corner of a beam and a column; angles, tees and channels bolted or welded, tubes slotted.",
    others=1,
    checks=axial.gusset,
)
