"""A member's end before a side of its support, worked out in the plane of the member's web.

In the member's own frame the side is the plane x = a + ky y + kz z. In the web's plane, e runs away from the side,
square to the line in which the two planes meet, and q runs up along that line; y stays the member's own. Square
joints have e = x; skewed ones (ky) and sloping ones (kz) are reckoned the same way.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from uncus.connect.kind import Body, Joint
from uncus.connect.surface import Surface, facing
from uncus.frame.placement import Placement, Vec
from uncus.job.records import End
from uncus.steel.features import EndCut, Face

SQUARE = 0.5  # degrees within which a joint counts as square


class Meeting(NamedTuple):
    body: Body
    surface: Surface
    right: bool
    a: float
    ky: float
    kz: float

    # -- the lie of the land ------------------------------------------------------------------------
    @property
    def sign(self) -> float:
        """+1 at a left end, -1 at a right one: where the member goes along its own x."""
        return -1.0 if self.right else 1.0

    @property
    def end(self) -> End:
        return End.RIGHT if self.right else End.LEFT

    @property
    def c(self) -> float:
        return math.hypot(1.0, self.kz)

    @property
    def slant(self) -> float:
        """Length along e of one unit out from the side."""
        return math.sqrt(1 + self.ky**2 + self.kz**2) / self.c

    @property
    def skew(self) -> float:
        """Degrees from square in the plane across the web, signed: + where the side is nearer at the far side."""
        return math.degrees(math.asin(max(-1.0, min(1.0, -float(self.surface.normal @ self.body.frame.y)))))

    @property
    def slope(self) -> float:
        """Degrees from square in the web's own plane."""
        return math.degrees(math.atan(self.kz))

    @property
    def skewed(self) -> bool:
        return abs(self.skew) > SQUARE

    @property
    def sloping(self) -> bool:
        return abs(self.slope) > SQUARE

    def trace(self, y: float, off: float = 0.0) -> float:
        """e of the side itself at a distance y across the web; `off` mm out from it."""
        return self.sign * (self.a + self.ky * y) / self.c + off * self.slant

    def nearest(self, y0: float, y1: float, off: float = 0.0) -> float:
        """e that clears the side over a range of y."""
        return max(self.trace(y0, off), self.trace(y1, off))

    def side_x(self, y: float, z: float, off: float = 0.0) -> float:
        """x of the member's frame where the side, or what lies `off` mm out from it, is at y and z."""
        return self.a + self.ky * y + self.kz * z + self.sign * off * math.sqrt(1 + self.ky**2 + self.kz**2)

    # -- in and out of the web's plane --------------------------------------------------------------
    def local(self, e: float, q: float) -> tuple[float, float]:
        """(x, z) of the member's frame."""
        return (self.sign * e + self.kz * q) / self.c, (q - self.kz * self.sign * e) / self.c

    def flat(self, x: float, z: float) -> tuple[float, float]:
        """(e, q) of a point of the member's frame."""
        return self.sign * (x - self.kz * z) / self.c, (self.kz * x + z) / self.c

    def model(self, e: float, q: float, y: float) -> Vec:
        x, z = self.local(e, q)
        return self.body.frame.to_model((x, y, z))

    def top(self, e: float) -> float:
        """q of the member's top at e."""
        return self.c * self.body.section.d / 2 + self.kz * self.sign * e

    def bottom(self, e: float) -> float:
        return -self.c * self.body.section.d / 2 + self.kz * self.sign * e

    @property
    def away(self) -> Vec:
        """Direction of e in the model."""
        return np.asarray(self.body.frame.axes @ np.array([self.sign, 0.0, -self.kz * self.sign]) / self.c)

    @property
    def up(self) -> Vec:
        """Direction of q in the model."""
        return np.asarray(self.body.frame.axes @ np.array([self.kz, 0.0, 1.0]) / self.c)

    def frame(self, e: float, q: float, y: float) -> Placement:
        """A frame in the web's plane with x along e and z along q: where plates of this joint lie."""
        return Placement(self.model(e, q, y), np.column_stack([self.away, np.cross(self.up, self.away), self.up]))

    def on_side(self, e: float, q: float, y: float) -> Placement:
        """A frame square to the side: x across it to the member's far side (+y), z up it, y along its normal."""
        across = np.cross(self.surface.normal, self.up)
        return Placement(self.model(e, q, y), np.column_stack([across, self.surface.normal, self.up]))

    def square_cut(self, e: float) -> EndCut:
        """A saw cut through the web's plane at e, parallel to the side's slope and square across the web."""
        x, z = self.local(e, 0.0)
        return EndCut(x - self.kz * z, 0.0, self.kz)

    def bevel_cut(self, e: float) -> EndCut:
        """A cut parallel to the side, at e on the web's middle."""
        x, z = self.local(e, 0.0)
        return EndCut(x - self.kz * z, self.ky, self.kz)


def meeting(joint: Joint, prefer: Face | None = None) -> Meeting | str:
    """How a joint's member meets its support; or, in a sentence, why it does not."""
    body, support = joint.member, joint.support
    if support is None:
        return f"The {body.words} has lost what held it; connect this end again."
    towards = body.away(joint.record.end)
    surface = facing(support, body.end(joint.record.end), towards, prefer)
    if isinstance(surface, str):
        return f"The {body.words} cannot be joined: {surface}."
    if trouble := _apart(joint, support, surface):
        return trouble
    return on_surface(body, joint.record.end, surface)


def on_surface(body: Body, end: End, surface: Surface) -> Meeting:
    """A member's end before a given side."""
    n = body.frame.axes.T @ surface.normal
    at = body.frame.to_local(surface.at)
    ky, kz = float(-n[1] / n[0]), float(-n[2] / n[0])
    ky, kz = (0.0 if abs(k) < 1e-9 else k for k in (ky, kz))
    return Meeting(body, surface, end is End.RIGHT, float(at[0] - ky * at[1] - kz * at[2]), ky, kz)


def _apart(joint: Joint, support: Body, surface: Surface) -> str | None:
    body = joint.member
    reach = max(support.section.d, support.section.b) + body.section.d
    end = body.end(joint.record.end)
    x = float(support.frame.to_local(surface.at)[0])
    far = abs(float((end - surface.at) @ surface.normal)) > reach
    if far or not -reach <= x <= support.length + reach:
        return f"The {body.words} does not reach the {support.words}; extend it or choose another support."
    towards = body.away(joint.record.end)
    hit = end - surface.off(end) / float(surface.normal @ towards) * towards
    struck = float((hit - surface.at) @ surface.across)
    lean = abs(float(body.frame.z @ surface.across)) * body.section.d / 2
    lean += abs(float(body.frame.y @ surface.across)) * body.section.b / 2
    if not surface.low - lean < struck < surface.high + lean:
        return f"The {body.words} passes over or under the {support.words}; the two do not meet."
    return None
