"""Bought items: brackets, hooks and bearings from a maker's catalogue, set on a member's web or flange."""

import math
from typing import Annotated, NamedTuple

from uncus.catalog.bought import bought, bought_items
from uncus.catalog.sections import Form, Section
from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup, axes_of
from uncus.frame.axes import UP
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import Face
from uncus.steel.forming import Item
from uncus.steel.joint import Contribution
from uncus.steel.profile import ROUNDS, Wall, faces
from uncus.units import format_length


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    code: Annotated[str, About("Item", unit="choice", choices=tuple(bought_items()), help="Code in the catalogue.")] = (
        "RACK-600"
    )
    on: Annotated[str, About("Set on", unit="choice", choices=("near side", "far side", "top", "bottom"))] = "near side"
    at: Annotated[
        float, About("Above the middle", low=-2000, high=2000, help="Of the side; off the middle of a flange.")
    ] = 0.0
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The items and the welds that hold them."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, one = fitting.member, bought(p.code)
    side = _side(body.section, p.on)
    if side is None:
        fit.find(f"The {body.words} has no flat {p.on} to set a {one.code} on; choose another side.")
        return fit.done()
    item = Item(one.code, one.maker, one.words, one.kg)
    foot = [z for x, z in one.profile if x < 0.5]
    low, tall = min(foot), max(foot) - min(foot)
    outline = [(x, z - low - tall / 2) for x, z in one.profile]
    plumb = abs(float(body.frame.x @ UP)) > 0.7  # on a column an item stands upright, along it
    long, high = (tall, one.wide) if plumb else (one.wide, tall)
    if p.at - high / 2 < side.low or p.at + high / 2 > side.high:
        flat = format_length(side.high - side.low, fit.units)
        fit.find(
            f"A {one.code} does not stand on the flat of the {body.words}, {flat} wide on its {p.on}; choose a smaller "
            f"one or move it.")  # fmt: skip
        return fit.done()
    across = body.frame.z if side.wall.upright else body.frame.y
    out = side.way * (body.frame.y if side.wall.upright else body.frame.z)
    up = math.copysign(1.0, float(body.frame.x @ UP)) * body.frame.x if plumb else across
    for n, x in enumerate(stations(fit, fitting, p, f"{one.words}s"), 1):
        if not fitting.left + long / 2 < x < fitting.right - long / 2:
            fit.find(f"A {one.words} runs past the end of the {body.words} and is left out.")
            continue
        spot = (x, side.face, p.at) if side.wall.upright else (x, p.at, side.face)
        at = Placement(body.frame.to_model(spot), axes_of(out, up))
        id = fit.plate(str(n), at, outline, one.wide, body.id, one.words, "bought", item=item, finish=one.finish)
        ends = [(y, z) for y, z in ((-1, -1), (1, -1), (1, 1), (-1, 1), (-1, -1))]
        path = [at.to_model((0.0, y * one.wide / 2, z * tall / 2)) for y, z in ends]
        fit.weld(str(n), p.weld or fit.rules.tab_weld, path, (body.id, id), 1, around=True)
    return fit.done()


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
