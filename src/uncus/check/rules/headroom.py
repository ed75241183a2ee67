"""Steel that hangs too low over a stair's treads and landings, held against the rule chosen for the stair."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import shapely

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.compose.stair_rules import RULES, StairRule
from uncus.connect.clash import overlap
from uncus.frame.placement import Placement, point_of
from uncus.job.composites import Composite
from uncus.job.records import Member, Point, Role
from uncus.shop.pieces import Piece
from uncus.steel.joint import Severity
from uncus.steel.part import plate
from uncus.steel.solid import plain_mesh

_STAIRS = ("stair", "stair with a landing", "winding stair")
_BESIDE = ("rail", "ladder")
_WALKED = (Role.TREAD, Role.PANEL)
_OVER = 300.0  # mm over a tread from which steel hangs over it: what is lower is its own, or in the way
_LEVEL = np.column_stack([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]])  # x on, y up, z across


class Low(NamedTuple):
    """What hangs over a tread: which piece, how high over it, and where."""

    piece: Piece
    room: float
    at: Point


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    for stair in looked.all(Composite):
        rule = RULES.get(str(stair.params.get("rule", next(iter(RULES)))))
        if stair.kind not in _STAIRS or rule is None:
            continue
        limit = (rule.winding_headroom if stair.kind == "winding stair" else None) or rule.headroom
        worst: dict[str, Low] = {}
        for low in _over(looked, stair, limit):
            owner = looked.ties.owner[low.piece.id]
            if owner not in worst or low.room < worst[owner].room:
                worst[owner] = low
        for owner, low in sorted(worst.items()):
            yield _said(looked, stair, rule, limit, owner, low)


def _said(looked: Looked, stair: Composite, rule: StairRule, limit: float, owner: str, low: Low) -> Found:
    room, least = looked.said(low.room), looked.said(limit)
    under = looked.ties.words[low.piece.id]
    text = f"Over the {stair.words} there is {room} of headroom under the {under}; {rule.name} asks for {least}."
    return Found("headroom", (stair.id, owner), text, Severity.LOOK, low.at, form_of(round(low.room), rule.name, limit))


def _over(looked: Looked, stair: Composite, limit: float) -> Iterator[Low]:
    """All that hangs over a tread of a stair and is neither part of it nor a rail."""
    rails = {c.id for c in looked.all(Composite) if c.kind in _BESIDE}
    for id, assembly in looked.assemblies.items():
        member = looked.get(id, Member)
        if member is None or member.maker != stair.id or member.role not in _WALKED:
            continue
        main = assembly.main
        points = main.placement.to_model(plain_mesh(main.part).points)
        top = float(points[:, 2].max())
        ring = shapely.MultiPoint(points[:, :2]).convex_hull
        if ring.geom_type != "Polygon":
            continue
        (x0, y0, x1, y1), high = ring.bounds, limit - _OVER
        prism = plate([(x, -y) for x, y in ring.exterior.coords[:-1]], high, "", "")
        place = Placement((x0, 0.0, top + _OVER + high / 2), _LEVEL)
        for other in looked.room.meeting(np.array([x0, y0, top + _OVER]), np.array([x1, y1, top + limit])):
            held = looked.get(other, Member)
            if held is None or held.maker == stair.id or held.maker in rails:
                continue
            for piece in looked.assemblies[other].pieces:
                found = overlap(prism, place, piece.part, piece.placement)
                if found is not None:
                    low = float(piece.placement.to_model(plain_mesh(piece.part).points)[:, 2].min())
                    yield Low(piece, max(_OVER, low - top), point_of(found.at))


KIND = Rule("headroom", "Headroom over stairs", "Steel that hangs lower over a stair than the rule chosen for it lets.",
    whole=whole)  # fmt: skip
