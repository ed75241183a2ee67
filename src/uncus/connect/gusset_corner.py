"""Gusset in the corner of a beam and a column: welded to the beam, welded or bolted by angles to the column."""

import math
from typing import Annotated, Protocol

import numpy as np

from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import (
    CORNER,
    TUBES,
    Arm,
    Plane,
    Ring,
    Side,
    arm,
    corner_cut,
    fasten,
    outline,
    plane_of,
    set_out,
    thickness_for,
    weld_side,
)
from uncus.connect.gusset_clips import Clips, angle_side, clips, in_way, past_clips
from uncus.connect.kind import Body, Joint, Kind
from uncus.connect.strength import axial, missing
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
            help="Angles are bolted on site. Where left empty they are, but on tubes, whose walls no hand reaches "
            "behind.",
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
    bolted = (p.to_column or ("welded" if column.section.form in TUBES else "angles")) == "angles"
    goes_with = column if p.goes_with == "column" and not bolted else joint.others[0]
    return between(fit, joint, p, column, joint.others[0], bolted, goes_with)


class Corner(Protocol):
    """What stands in the corner of two members: how far along both the gusset must be cut back for it."""

    def back(self, plane: Plane, sides: list[Side]) -> float: ...


def between(
    fit: Fitup, joint: Joint, p: gusset.Params, one: Body, other: Body, bolted: bool, owner: Body,
        corner: Corner | None = None
) -> Contribution:  # fmt: skip
    """A gusset on one member, to which angles bolt it or a weld, and on another, to which it is welded; part of
    `owner`."""
    brace = joint.member
    first, second = face_towards(one, joint), face_towards(other, joint)
    for found in (first, second):
        if isinstance(found, str):
            return fit.refused(f"The gusset of the {brace.words} cannot stand: {found}.")
    assert isinstance(first, Surface) and isinstance(second, Surface)
    t = thickness_for(fit, brace, p)
    plane = plane_of(brace, joint.record.end, second.normal, t)
    if isinstance(plane, str):
        return fit.refused(plane)
    if not square_to(plane, first) or not square_to(plane, second):
        return fit.refused(f"The {brace.words} lies out of the plane of the {one.words} and the {other.words}.")
    sides = [side_of(plane, first, fit.rules.gap if bolted else 0.0), side_of(plane, second)]
    back = CORNER if corner is None else corner.back(plane, sides)
    two_rows = 1.5 * (p.pitch or fit.rules.pitch) + 2.5 * fit.rules.edge  # room for two bolts in clips
    least = 0.0 if corner is None else two_rows
    clear = sides if corner is None else [*sides, cut_side(sides, back)]
    a = arm(fit, plane, brace, joint.record.end, clear, p)
    if isinstance(a, str):
        return fit.refused(a)

    def drawn(a: Arm, least: float) -> tuple[Ring, Arm]:
        shape, (moved,) = set_out([a], lambda arms: outline(sides, arms, p.edges, back, least))
        return shape, moved

    shape, a = drawn(a, least)
    held = clips(fit, plane, shape, sides[0], p) if bolted else ""
    if bolted and isinstance(held, str) and corner is None:  # a small brace's gusset is drawn out along the column
        longer, out = drawn(a, two_rows)
        if isinstance(there := clips(fit, plane, longer, sides[0], p), Clips):
            shape, a, held, least = longer, out, there, two_rows
    if isinstance(held, Clips) and in_way(a, sides[0], held):
        sides[0] = past_clips(sides[0], held)
        a = arm(fit, plane, brace, joint.record.end, [*sides, *clear[2:]], p)
        assert isinstance(a, Arm), "farther out than one that could be set out"
        shape, a = drawn(a, least)
        held = clips(fit, plane, shape, sides[0], p)
    id = fit.plate("gusset", plane.frame, shape, t, owner.id, "gusset plate")
    leg = p.weld or fit.leg(t)
    weld_side(fit, plane, "to beam", id, shape, sides[1], leg, owner is not other)
    if bolted:
        angle_side(fit, plane, "column", id, held, sides[0], p, owner.id)
    else:
        weld_side(fit, plane, "to column", id, shape, sides[0], leg, owner is not one)
    fasten(fit, plane, a, id, p)
    return fit.done()


def cut_side(sides: list[Side], back: float) -> Side:
    """The cut corner of a gusset as a face that a brace stays clear of."""
    a, b = corner_cut(sides[0], sides[1], back)
    normal = _unit2(np.array([-(b - a)[1], (b - a)[0]]))
    normal = normal if float(normal @ (sides[0].normal + sides[1].normal)) > 0 else -normal
    return Side(a, normal, sides[0].body, sides[0].piece)


KIND = Kind(
    "corner gusset",
    "Gusset at beam and column",
    Params,
    build,
    "A brace's gusset in the corner of a beam and a column; angles, tees and channels bolted or welded, tubes slotted.",
    others=1,
    checks=axial.gusset,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.TAB_UNDER_BRACE,
        missing.FREE_EDGE,
    ),
)
