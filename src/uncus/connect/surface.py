"""The flat outer sides of a member that another can be joined to."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from uncus.catalog.sections import Form
from uncus.connect.kind import Body
from uncus.frame.placement import Vec
from uncus.steel import profile
from uncus.steel.features import Face

_LEAST = math.cos(math.radians(72.0))  # a member that meets a side flatter than this runs along it


class Surface(NamedTuple):
    """A side of a member: `at` on it (model), its normal outwards, `across` it square to the member's length, its width
    from `low` to `high` along `across` about `at`, and the wall behind it."""

    body: Body
    face: Face
    at: Vec
    normal: Vec
    across: Vec
    low: float
    high: float
    thickness: float

    @property
    def along(self) -> Vec:
        return self.body.frame.x

    @property
    def flange(self) -> bool:
        """A side that stands free at its edges, or a wall of a tube."""
        return self.face in (Face.TOP, Face.BOTTOM) or self.body.section.form in (Form.BOX, Form.TUBE, Form.FLAT)

    @property
    def clear(self) -> tuple[float, float]:
        """From where to where along `across` it is flat: between flanges, clear of their fillets."""
        section = self.body.section
        wall = next((w for w in profile.walls(section) if w.face is self.face), None)
        if self.flange or wall is None:
            return self.low, self.high
        return wall.lo + section.r, wall.hi - section.r

    @property
    def sunk(self) -> float:
        """How far flanges stand out beside it; nothing where it stands free."""
        if self.flange or self.face is not Face.WEB:
            return 0.0
        return max(0.0, self.body.section.b / 2 - float((self.at - self.body.frame.origin) @ self.normal))

    def over(self, spots: Vec, towards: Vec) -> float:
        """How far steel that ends at spots (n, 3) and runs off along a direction stands over the edges of the side,
        or into flanges and fillets beside it; less than nothing where it is clear of them."""
        off, across = (spots - self.at) @ self.normal, (spots - self.at) @ self.across
        low, high = self.clear
        if not self.sunk:
            return float(max(across.max() - high, low - across.min()))
        near = off < self.sunk
        if not near.any():
            return -math.inf
        off, across, r = off[near], across[near], self.body.section.r
        flat = np.where(off < r, 0.0, r)
        out = across + (self.sunk - off) * float(towards @ self.across) / float(towards @ self.normal)
        return float(
            max((across - flat).max() - high, low - (across + flat).min(), out.max() - high - r, low - r - out.min())
        )

    def off(self, point: Vec) -> float:
        """How far a point is out from the surface."""
        return float((point - self.at) @ self.normal)


def sides(body: Body) -> list[Surface]:
    """Every flat side of a member's section, at its left work point: flanges, both sides of webs and legs, tube
    walls."""
    section, frame = body.section, body.frame
    found = []
    for wall in profile.faces(section).values():
        mid = wall.mid
        outward = math.copysign(1.0, mid) if abs(mid) > 1e-6 else 0.0
        hollow = section.form is Form.BOX
        for sign in (-1.0, 1.0):
            if hollow and sign != outward:
                continue
            inner = outward != 0 and sign != outward  # the inside of a flange, channel or leg
            if inner and not wall.upright:
                continue
            if inner and section.form is Form.I:
                continue
            place = mid + sign * wall.thickness / 2
            at, normal, across = (
                ((0.0, place, 0.0), sign * frame.y, frame.z)
                if wall.upright
                else ((0.0, 0.0, place), sign * frame.z, frame.y)
            )
            low, high = wall.lo, wall.hi
            if hollow:
                low, high = low + section.r, high - section.r
            found.append(Surface(body, wall.face, frame.to_model(at), normal, across, low, high, wall.thickness))
    return found


def facing(body: Body, point: Vec, towards: Vec, prefer: Face | None = None) -> Surface | str:
    """The side of a member that a line through `point` along the unit direction `towards` leaves it by, moved to where
    it does; or why there is none.

    A line that passes a flange within its width leaves by the flange, else by the web.
    """
    if body.section.form is Form.TUBE:
        return _round(body, point, towards)
    looking = [s for s in sides(body) if float(s.normal @ towards) > _LEAST]
    if prefer is not None:
        wanted = (Face.TOP, Face.BOTTOM) if prefer in (Face.TOP, Face.BOTTOM) else (Face.WEB, Face.BACK)
        looking = [s for s in looking if s.face in wanted] or looking
    if not looking:
        return f"nothing of the {body.words} stands across it to join it to"
    placed = [_struck(s, point, towards) for s in looking]

    def order(found: tuple[Surface, float]) -> tuple[bool, float]:
        surface, aside = found
        within = surface.low - 1.0 <= aside <= surface.high + 1.0
        return not (within and surface.flange), -float(surface.normal @ towards)

    return min(placed, key=order)[0]


def _struck(surface: Surface, point: Vec, towards: Vec) -> tuple[Surface, float]:
    """The surface moved along the member to where a line strikes it, and how far across it that is."""
    step = surface.off(point) / float(surface.normal @ towards)
    hit = point - step * towards
    x = float((hit - surface.at) @ surface.along)
    return surface._replace(at=surface.at + x * surface.along), float((hit - surface.at) @ surface.across)


def _round(body: Body, point: Vec, towards: Vec) -> Surface | str:
    """A round tube's tangent plane where a member's line aims at it."""
    frame, r = body.frame, body.section.d / 2
    flat = towards - (towards @ frame.x) * frame.x
    length = float(np.linalg.norm(flat))
    if length < _LEAST:
        return f"it runs along the {body.words}; nothing stands across to join it to"
    normal = flat / length
    local = point - frame.origin
    aside = float(local @ np.cross(frame.x, normal))
    if abs(aside) > 1.0:
        return f"it does not aim at the middle of the round {body.words}"
    centre = frame.origin + float((local - (local @ normal) * normal / 1.0) @ frame.x) * frame.x
    reach = float((point - centre) @ normal)
    slope = float(towards @ frame.x) / length
    at = centre + r * normal + (r - reach) * slope * frame.x
    return Surface(body, Face.WEB, at, normal, np.cross(frame.x, normal), -r * 0.5, r * 0.5, body.section.tw)
