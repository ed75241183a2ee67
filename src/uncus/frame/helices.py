"""Members that climb about an axis: where their own axis runs, and the straight length that touches it anywhere.

Such a member is a straight length laid flat on a cylinder about a plumb axis and wrapped round it. What stands upright
on the flat stands plumb on the cylinder, so its web is plumb and, seen from above, everything of it is a circle.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import ArrayLike

from uncus.frame.placement import Placement, Vec, tidied
from uncus.job.records import END_CUTS, Member


def climbing(radius: float, climb: float, hand: int, off: float, along: float) -> Placement:
    """The frame of the straight length that touches a helix `along` it from its middle, in the frame of the one that
    touches it in its middle (roll 0: x on, y to the left, z up the web): x of both is the way along the helix.

    `climb` in radians, `hand` 1 where it turns to the left (counter-clockwise seen from above); `radius` is that of the
    fibre that keeps its length, which lies `off` to the left of the middle of the section."""
    c, s = math.cos(climb), math.sin(climb)
    turn, high = along * c / radius, along * s
    # of the cylinder: out, on (the way that it turns), up; in the middle frame's own axes
    on, out, up = np.array([c, 0.0, -s]), np.array([0.0, -hand, 0.0]), np.array([s, 0.0, c])
    out2 = math.cos(turn) * out + math.sin(turn) * on
    on2 = math.cos(turn) * on - math.sin(turn) * out
    x, z = c * on2 + s * up, c * up - s * on2
    axes = np.column_stack([x, -hand * out2, z])
    spot = (radius + hand * off) * (out2 - out) + high * up
    return Placement(spot - along * x, axes)


class Helix(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A section's run about a plumb line: `frame` stands on that line at the height of its left end, its x to that end
    and its z up; `radius` is that of the fibre that keeps its length, the section's centroid, which lies `off` to the
    left of its middle; `turn` in radians, to the left where positive; `roll` in degrees turns the section about its own
    axis, as a straight member's does."""

    frame: Placement
    radius: float
    turn: float
    rise: float
    roll: float = 0.0
    off: float = 0.0

    @property
    def hand(self) -> int:
        return 1 if self.turn > 0 else -1

    @property
    def run(self) -> float:
        """Along the circle, seen from above."""
        return self.radius * abs(self.turn)

    @property
    def climb(self) -> float:
        """Its slope, in radians."""
        return math.atan2(self.rise, self.run)

    @property
    def length(self) -> float:
        return math.hypot(self.run, self.rise)

    @property
    def bent_to(self) -> float:
        """The radius that a straight length of it is bent to: that of its curvature."""
        return float(self.radius / math.cos(self.climb) ** 2)

    @property
    def out(self) -> tuple[float, float]:
        """The direction (y, z) of the section that points away from the axis it climbs about."""
        c, s = math.cos(math.radians(self.roll)), math.sin(math.radians(self.roll))
        return -self.hand * c, self.hand * s

    @cached_property
    def _middle(self) -> Placement:
        """The frame, unrolled and with its origin on the axis, that touches in the middle."""
        half, climb = self.turn / 2, self.climb
        c, s = math.cos(half), math.sin(half)
        out, up = np.array([c, s, 0.0]), np.array([0.0, 0.0, 1.0])
        on = self.hand * np.array([-s, c, 0.0])
        x = math.cos(climb) * on + math.sin(climb) * up
        z = math.cos(climb) * up - math.sin(climb) * on
        spot = (self.radius + self.hand * self.off) * out + self.rise / 2 * up
        return self.frame @ Placement(spot, np.column_stack([x, -self.hand * out, z]))

    @cached_property
    def _rolled(self) -> Placement:
        c, s = math.cos(math.radians(self.roll)), math.sin(math.radians(self.roll))
        return Placement(np.zeros(3), np.array([[1.0, 0, 0], [0, c, -s], [0, s, c]]))

    def at(self, along: float) -> Placement:
        """The frame of the straight length that touches `along` it from its left end: x of that length is the way along
        the helix, right where they touch."""
        touch = climbing(self.radius, self.climb, self.hand, self.off, along - self.length / 2)
        return (self._middle @ touch @ self._rolled).moved((-self.length / 2, 0.0, 0.0))

    def nearest(self, point: Vec) -> float:
        """How far along it lies nearest to a point of the model, between its ends."""
        return min(self.length, max(0.0, float(self.unrolled(point)[0])))

    def unrolled(self, points: ArrayLike) -> Vec:
        """Where points (..., 3) of the model lie in the straight length: x along its axis, y and z of its section. Of
        the turns that it makes, the one whose height is nearest."""
        local = np.moveaxis(self.frame.to_local(points), -1, 0)
        x, y, z = local
        angle = np.arctan2(y, x) * self.hand  # the way it turns
        turns, sloped = abs(self.turn), self.rise / self.run if self.run else 0.0
        first = np.round((turns / 2 - angle) / (2 * math.pi))
        more = 1 + int(turns)
        around = angle + 2 * math.pi * (first + np.arange(-more, more + 1).reshape(-1, *[1] * angle.ndim))
        off = np.abs(z - around * self.radius * sloped)
        off = off + self.radius * np.maximum(0.0, np.maximum(-around, around - turns))
        t = np.take_along_axis(around, off.argmin(axis=0)[None], axis=0)[0]
        u, c, s = t * self.radius, math.cos(self.climb), math.sin(self.climb)
        left, up = self.hand * (self.radius - np.hypot(x, y)) + self.off, z * c - u * s
        cr, sr = math.cos(math.radians(self.roll)), math.sin(math.radians(self.roll))
        return np.stack([u * c + z * s, cr * left + sr * up, cr * up - sr * left], axis=-1)

    def points(self, steps: int = 24) -> Vec:
        """Points (n, 3) along it in the model, so many steps to a quarter turn."""
        n = max(2, math.ceil(abs(self.turn) / (math.pi / 2) * steps))
        return np.array([self.at(s).to_model((s, 0.0, 0.0)) for s in np.linspace(0.0, self.length, n + 1)])


def shares_at(member: Member, point: Vec, normal: Vec) -> list[float]:
    """Shares of a climbing member's length at which its work line passes through a plane."""
    climb = member.climb
    assert climb is not None
    rise = member.end[2] - member.start[2]

    def side(t: float) -> float:
        return float((np.asarray(climb.at(member.start, t, rise)) - point) @ normal)

    steps = np.linspace(0.0, 1.0, 361 * max(1, math.ceil(abs(climb.turn) / 360)))
    sides = np.array([side(t) for t in steps])
    found = []
    for k in np.flatnonzero(sides[:-1] * sides[1:] < 0):
        low, high = float(steps[k]), float(steps[k + 1])
        for _ in range(50):  # halving
            middle = (low + high) / 2
            low, high = (middle, high) if side(middle) * sides[k] > 0 else (low, middle)
        found.append(low)
    return found


def pieces(member: Member, shares: Sequence[float]) -> list[Member]:
    """A climbing member cut at shares of its length, in order."""
    climb = member.climb
    assert climb is not None
    rise, found = member.end[2] - member.start[2], []
    for a, b in pairwise((0.0, *shares, 1.0)):
        start, end = (tidied(climb.at(member.start, t, rise)) for t in (a, b))
        own = msgspec.structs.replace(climb, turn=climb.turn * (b - a))
        found.append(msgspec.structs.replace(member, start=start, end=end, climb=own,
            left_cut=member.left_cut if a == 0.0 else END_CUTS[0],
            right_cut=member.right_cut if b == 1.0 else END_CUTS[0]))  # fmt: skip
    return found


def helix_of(member: Member, off: tuple[float, float], centroid: tuple[float, float] = (0.0, 0.0)) -> Helix | None:
    """The helix of a member's section whose middle lies `off` (y, z of the section) the work line and whose centroid
    lies so far from that middle; None for one that does not climb."""
    climb = member.climb
    if climb is None:
        return None
    start = np.asarray(member.start)
    out = start[:2] - (climb.x, climb.y)
    radius, turn, rise = float(np.hypot(*out)), math.radians(climb.turn), member.end[2] - member.start[2]
    hand, roll = math.copysign(1.0, turn), math.radians(member.roll)
    left = math.cos(roll) * off[0] - math.sin(roll) * off[1]
    up = math.sin(roll) * off[0] + math.cos(roll) * off[1]
    fibre = math.cos(roll) * centroid[0] - math.sin(roll) * centroid[1]
    radius -= hand * (left + fibre)
    slope = math.atan2(rise, radius * abs(turn))
    first = math.atan2(out[1], out[0]) - hand * up * math.sin(slope) / radius
    c, s = math.cos(first), math.sin(first)
    frame = Placement(
        (climb.x, climb.y, start[2] + up * math.cos(slope)), np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    )
    return Helix(frame, radius, turn, rise, member.roll, fibre)
