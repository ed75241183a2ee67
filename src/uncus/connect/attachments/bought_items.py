"""Bought items: brackets, hooks and bearings from a maker's catalogue, set on a member's web or flange."""

import math
from typing import Annotated, NamedTuple

import numpy as np

from uncus.catalog.bolts import HoleKind, bolt_length, bolt_size
from uncus.catalog.bought import Bought
from uncus.catalog.sections import Form, Section
from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup, axes_of
from uncus.connect.kind import Body
from uncus.frame.axes import UP
from uncus.frame.placement import Placement
from uncus.job.bought import shipped_item
from uncus.job.forms import About, checked
from uncus.steel.bodies import item_part
from uncus.steel.features import Face
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point
from uncus.steel.profile import ROUNDS, Wall, faces
from uncus.units import format_length

ORDERS = ("finished", "black")
HELD = ("as it comes", "welds", "bolts")


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    code: Annotated[str, About("Item", unit="item", help="Code among the job's bought items.")] = "RACK-600"
    on: Annotated[str, About("Set on", unit="choice", choices=("near side", "far side", "top", "bottom"))] = "near side"
    at: Annotated[
        float, About("Above the middle", low=-2000, high=2000, help="Of the side; off the middle of a flange.")
    ] = 0.0
    turn: Annotated[float, About("Turned", unit="angle", low=-180, high=180, help="About the way it stands out.")] = 0.0
    mirror: Annotated[bool, About("Mirror image", unit="flag")] = False
    order: Annotated[str, About("Ordered", unit="choice", choices=ORDERS, help="Black: without its finish.")] = ORDERS[
        0
    ]
    held: Annotated[
        str, About("Held by", unit="choice", choices=HELD, help="As it comes: bolts where it is bored.")
    ] = HELD[0]
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The items, and the welds or bolts that hold them."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, item = fitting.member, fitting.item or shipped_item(p.code)
    if item is None:
        fit.find(f"There is no bought item “{p.code}” in this job; choose one, or take it out of the catalogue again.")
        return fit.done()
    one = item.facts
    side = _side(body.section, p.on)
    if side is None:
        fit.find(f"The {body.words} has no flat {p.on} to set a {one.code} on; choose another side.")
        return fit.done()
    if wrong := _refused(p, one):
        fit.find(wrong)
        return fit.done()
    part, _, foot = item_part(one, item.body, p.mirror, p.order == ORDERS[1])
    turn = math.radians(p.turn)
    c, s = abs(math.cos(turn)), abs(math.sin(turn))
    wide, tall = c * foot.wide + s * foot.tall, s * foot.wide + c * foot.tall
    plumb = abs(float(body.frame.x @ UP)) > 0.7  # on a column an item stands upright, along it
    long, high = (tall, wide) if plumb else (wide, tall)
    if p.at - high / 2 < side.low or p.at + high / 2 > side.high:
        flat = format_length(side.high - side.low, fit.units)
        fit.find(
            f"A {one.code} does not stand on the flat of the {body.words}, {flat} wide on its {p.on}; choose a smaller "
            f"one or move it.")  # fmt: skip
        return fit.done()
    across = body.frame.z if side.wall.upright else body.frame.y
    out = side.way * (body.frame.y if side.wall.upright else body.frame.z)
    up = math.copysign(1.0, float(body.frame.x @ UP)) * body.frame.x if plumb else across
    if p.turn:
        up = math.cos(turn) * up + math.sin(turn) * np.cross(out, up)
    for n, x in enumerate(stations(fit, fitting, p, f"{one.words}s"), 1):
        if not fitting.left + long / 2 < x < fitting.right - long / 2:
            fit.find(f"A {one.words} runs past the end of the {body.words} and is left out.")
            continue
        spot = (x, side.face, p.at) if side.wall.upright else (x, p.at, side.face)
        at = Placement(body.frame.to_model(spot), axes_of(out, up))
        id = fit.plate(str(n), at, part.outline, part.thickness, body.id, one.words, "bought", item=part.item,
            finish=part.finish)  # fmt: skip
        if one.holes and p.held != HELD[1]:
            _bolted(fit, str(n), one, p.mirror, at, body, id)
            continue
        ends = [(y, z) for y, z in ((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1))]
        path = [at.to_model((0.0, y * foot.wide / 2, z * foot.tall / 2)) for y, z in ends]
        fit.weld(str(n), p.weld or fit.rules.tab_weld, path, (body.id, id), 1, around=True)
    return fit.done()


def _refused(p: Params, one: Bought) -> str | None:
    """Why an item is not to be had or set so."""
    if p.turn and not one.turns:
        return f"A {one.code} is set upright, as its maker says; give no turn."
    if p.mirror and not one.mirrors:
        return f"A {one.code} is not made as a mirror image; set it without."
    if p.order == ORDERS[1] and not one.black:
        return f"A {one.code} is not sold without its finish; order it finished."
    if p.held == HELD[2] and not one.holes:
        return f"A {one.code} has no holes for bolts; weld it."
    return None


def _bolted(fit: Fitup, key: str, one: Bought, mirror: bool, at: Placement, body: Body, id: str) -> None:
    """Bolts through the item's own holes and the member's wall, their heads on the item."""
    size = bolt_size(one.bolt) if one.bolt else fit.size(None)
    heads, grip = [], 0.0
    for hole in one.holes:
        spot = at.to_model((0.0, -hole.y if mirror else hole.y, hole.z))
        wall = fit.wall(body.id, spot, at.x)
        fit.hole(wall, spot, size.hole_size(HoleKind.STANDARD))
        grip = one.foot + wall.thickness
        heads.append(point(spot + at.x * one.foot))
    fit.fasteners(Fasteners(key, FastenerKind.BOLT, size.name, fit.rules.bolt_grade, bolt_length(size, grip), grip,
        tuple(heads), direction(-at.x), (body.id, id), field=False))  # fmt: skip


class _Side(NamedTuple):
    """A side of a member: its wall, which way is out of it, where its face is, and its flat across."""

    wall: Wall
    way: float
    face: float
    low: float
    high: float


def _side(s: Section, on: str) -> _Side | None:
    walls = faces(s)
    way = 1.0 if on in ("far side", "top") else -1.0
    if on in ("near side", "far side"):
        wall = walls[Face.BACK] if on == "far side" and Face.BACK in walls else walls[Face.WEB]
    else:
        found = walls.get(Face.TOP if on == "top" else Face.BOTTOM)
        if found is None:
            return None
        wall = found
    # the fillets of flanges and legs, and the corners of tubes, are not flat
    clear = max(s.k, s.tf + s.r)
    low, high = wall.lo, wall.hi
    if s.form is Form.BOX:
        low, high = low + s.r, high - s.r
    elif wall.upright and not (way < 0 and s.form in (Form.CHANNEL, Form.ANGLE)):
        low += clear if s.form is not Form.TEE else 0.0
        high -= clear if s.form is not Form.ANGLE else 0.0
    return _Side(wall, way, wall.mid + way * wall.thickness / 2, low, high)


KIND = AttachmentKind(
    "bought items",
    "Bought items",
    Params,
    build,
    lambda body: body.section.form not in ROUNDS,
    "Brackets, hooks and bearings bought as one piece: one line for the buyer, no part sheet and no CNC file.",
)
