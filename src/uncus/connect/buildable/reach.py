"""What hands and tools must reach: bolts entered and turned, welds laid.

Clearances of bolts: AISC Manual table 7-15 (C2 to enter, C1 for a socket on the nut); metric by sockets of ISO 2725-2.
Fillet welds want a stick or gun held at about 45 degrees to both faces.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np
import shapely

from uncus.catalog.bolts import BoltSize, bolt_length, bolt_size
from uncus.catalog.sections import Form
from uncus.connect.buildable.blocks import TOUCH, Block, Blocks, bolt_blocks
from uncus.connect.buildable.site import Site
from uncus.frame.placement import Vec
from uncus.steel.joint import FastenerKind, Fasteners, NewPart, Weld, WeldForm

SOCKET = 3.0  # bolt diameters that a socket takes along the bolt, past the nut
_STICK, _STICK_RADIUS, _STICK_OFF = 50.0, 5.0, 9.0  # the free air a weld wants: length, radius, start off the root, mm
_FLAT = 0.35  # share of a plate's thickness within which a weld's path is in the plate's middle


def inspect(site: Site) -> Iterator[str]:
    shop = [g for g in site.made.fasteners if not g.field]
    for group in site.made.fasteners:
        if group.kind is FastenerKind.BOLT:
            yield from _bolts(site, group, shop if group.field else [])
    yield from _welds(site)


def in_tubes(site: Site) -> Iterator[str]:
    """Bolts into the wall of a closed tube, whose other side no hand reaches."""
    closed = tubes(site)
    for group in site.made.fasteners:
        for piece in group.joins:
            if piece in closed and group.kind is FastenerKind.BOLT:
                yield (
                    f"The bolts go into the closed {closed[piece]}, where no nut can be held; use blind bolts, or weld."
                )
                return


def tubes(site: Site) -> dict[str, str]:
    """Closed sections at the joint, in words, by their pieces' ids."""
    return {s.id: b.words for b in site.bodies for s in b.stock if s.section.form in (Form.BOX, Form.TUBE)}


def room_beside(size: BoltSize, grip: float, steep: float) -> float:
    """How far from a flange a bolt stands to be entered and turned beside it, where the flange comes nearer by `steep`
    (the tangent of its angle to the bolt) on both sides of the plies."""
    length = bolt_length(size, grip)
    nut = max(length - grip, size.nut_height)
    return max(size.enter + steep * (length + size.head_height), size.turn + steep * (nut + SOCKET * size.d))


def room_for_nut(size: BoltSize, grip: float, steep: float) -> float:
    """How far from a flange a nut clears it, where the flange comes nearer by `steep` on its side of the plies."""
    return size.head_flats / 2 + TOUCH + steep * max(bolt_length(size, grip) - grip, size.nut_height)


# -- bolts ----------------------------------------------------------------------------------------------------


def _about(site: Site, group: Fasteners, before: list[Fasteners]) -> Blocks:
    """What stands about bolts when they are put in: on site everything, in the shop the assembly they are put in on."""
    if group.field:
        return Blocks([*site.blocks, *bolt_blocks(before)])
    pieces = {j.removeprefix(f"{site.about}/") for j in group.joins} | set(group.joins)
    owners = {b.owner for b in site.blocks if b.piece in pieces}
    return Blocks(b for b in site.blocks if b.owner in owners)


def _bolts(site: Site, group: Fasteners, before: list[Fasteners]) -> Iterator[str]:
    size, n = bolt_size(group.size), len(group.points)
    blocks = _about(site, group, before)
    heads, axis = np.asarray(group.points), np.asarray(group.axis)
    nuts = heads + axis * group.grip
    plies = blocks.walls(blocks.passed(heads, axis, group.grip)[0])
    shut = tubes(site).keys() & set(group.joins)
    plies = plies | np.array(
        [b.piece in shut for b in blocks.all], dtype=bool
    )  # found by `in_tubes`, whatever else stands there
    whole, nut = group.length + size.head_height, max(group.length - group.grip, size.nut_height)
    # the room asked for, on the head's side and on the nut's: to enter, to turn, to be there at all
    asked = [(whole, size.enter), (nut + SOCKET * size.d, size.turn), (nut, size.head_flats / 2)]
    start = np.concatenate([p for _ in asked for p in (heads, nuts)])
    along = np.concatenate([np.tile(a, (n, 1)) for _ in asked for a in (-axis, axis)])
    sizes = np.repeat(np.array([v for v in asked for _ in range(2)]), n, axis=0)
    hit = blocks.hit(start, along, sizes[:, 0], sizes[:, 1]).reshape(len(asked), 2, n, -1) & ~plies
    blocked = hit.any(axis=3)
    for bad, doing, advice, which in (
        (blocked[2].any(axis=0), "have no room for head and nut", "give another gage or first distance", hit[2]),
        (blocked[0].all(axis=0), "cannot be entered", "give another gage or pitch, or bolt in the shop", hit[0]),
        (blocked[1].all(axis=0), "cannot be turned tight", "give a larger gage, or stagger the rows", hit[1]),
    ):
        if bad.any():
            way = blocks.all[int(np.argmax(which[:, bad].any(axis=(0, 1))))]
            yield f"{int(bad.sum())} of the {size.name} bolts {doing}: the {way.words} stands in the way; {advice}."
            return


# -- welds ----------------------------------------------------------------------------------------------------


def _welds(site: Site) -> Iterator[str]:
    plates = {f"{site.about}/{p.key}": p for p in site.made.parts if p.part.is_plate}
    for weld in site.made.welds:
        new = next((plates[j] for j in reversed(weld.joins) if j in plates), None)
        if weld.form is WeldForm.FILLET and new is not None:
            way = _in_way(site, weld, new)
            if way is not None:
                yield (
                    f"The weld of the {new.words} cannot be reached: the {way.words} leaves no room to hold the "
                    f"electrode; "
                    "give more distance, or weld one side by agreement."
                )
                return


def _in_way(site: Site, weld: Weld, new: NewPart) -> Block | None:
    """What of a joint's own steel stands where the electrode must be held; None: free."""
    return in_way(weld, *sticks(weld, new), [b for b in site.blocks if weld.field or b.owner == new.owner])


def sticks(weld: Weld, new: NewPart) -> tuple[Vec, Vec]:
    """Where the electrode is held at the middle of each run along a plate's edge, and how: starts and ways (n, 3), of
    both sides of a run one after the other."""
    shape = shapely.Polygon(new.part.outline)
    starts, ways = [], []
    for a, b in pairwise(new.placement.to_local(np.asarray(weld.path))):
        middle, run = (a + b) / 2, b - a
        size = float(np.hypot(run[0], run[2]))
        if size < 1.0 or abs(middle[1]) > _FLAT * new.part.thickness:
            continue
        out = np.array([-run[2], 0.0, run[0]]) / size
        beside = middle + np.outer((2.0, -2.0), out)
        inside = shapely.contains_xy(shape, beside[:, 0], beside[:, 2])
        if inside[0] == inside[1]:
            continue  # not at the plate's edge
        out = out if inside[0] else -out
        for side in (1.0, -1.0):
            way = (out + [0.0, side, 0.0]) / np.sqrt(2.0)
            face = middle + [0.0, side * new.part.thickness / 2, 0.0]
            starts.append(new.placement.to_model(face + way * _STICK_OFF))
            ways.append(new.placement.axes @ way)
    return np.array(starts).reshape(-1, 3), np.array(ways).reshape(-1, 3)


def in_way(weld: Weld, starts: Vec, ways: Vec, near: list[Block]) -> Block | None:
    """What of some steel stands where the electrode must be held; None where it can be held everywhere."""
    n = len(starts)
    if not n or not near:
        return None
    hit = Blocks(near).hit(starts, ways, np.full(n, _STICK), np.full(n, _STICK_RADIUS))
    free = ~hit.any(axis=1).reshape(-1, 2)
    bad = ~free.all(axis=1) if weld.sides == 2 else ~free.any(axis=1)
    if not bad.any():
        return None
    return near[int(np.argmax(hit.reshape(-1, 2, len(near))[bad].any(axis=(0, 1))))]
