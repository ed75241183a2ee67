"""Members rolled to an arc: where their axis runs, and the straight length that touches it anywhere."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np
from numpy.typing import ArrayLike

from uncus.frame.axes import work_axes
from uncus.frame.placement import Placement, Vec, tidied
from uncus.job.records import Member


def touching(radius: float, out: Sequence[float], along: float) -> Placement:
    """The frame of the straight length that touches an arc `along` it from its middle, in the frame of the one that
    touches it in its middle: x of both is the way along the arc from there. `out` (y, z) is where the arc's middle
    stands out."""
    c, s = math.cos(along / radius), math.sin(along / radius)
    up, side = np.array([0.0, *out]), np.array([0.0, out[1], -out[0]])
    x, z = np.array([c, 0, 0]) - s * up, np.array([s, 0, 0]) + c * up
    axes = np.column_stack([x, *(float(e @ up) * z + float(e @ side) * side for e in np.eye(3)[1:])])
    spot = np.array([radius * s, 0, 0]) + radius * (c - 1) * up
    return Placement(spot - along * x, axes)


class Arc(msgspec.Struct, frozen=True, eq=False):
    """An arc over the chord of a member's axis: `frame` is the section's frame along the chord, `out` the unit
    direction (in it) in which the middle stands out by `rise`."""

    frame: Placement
    chord: float
    out: tuple[float, float]
    rise: float

    @property
    def radius(self) -> float:
        return (self.chord**2 / 4 + self.rise**2) / (2 * self.rise)

    @property
    def bent_to(self) -> float:
        """The radius that a straight length of it is bent to."""
        return self.radius

    @property
    def length(self) -> float:
        """Along the arc between its ends."""
        return 2 * self.radius * math.asin(min(1.0, self.chord / 2 / self.radius))

    @property
    def turn(self) -> float:
        """Degrees from the section's z towards its y in which the middle stands out."""
        return math.degrees(math.atan2(*self.out))

    def at(self, along: float) -> Placement:
        """The frame of the straight length that touches the arc `along` it from its left end: x of that length is the
        way along the arc, right where they touch."""
        middle = Placement((self.chord / 2, *(self.rise * v for v in self.out)), np.eye(3))
        touch = touching(self.radius, self.out, along - self.length / 2)
        return self.frame @ middle @ touch.moved((-self.length / 2, 0.0, 0.0))

    def nearest(self, point: Vec) -> float:
        """How far along the arc lies nearest to a point of the model, between its ends."""
        return min(self.length, max(0.0, float(self.unrolled(point)[0])))

    def unrolled(self, points: ArrayLike) -> Vec:
        """Where points (..., 3) of the model lie in the length before it was rolled: x along its axis, y and z of its
        section."""
        local = self.frame.to_local(points)
        out, side = np.array(self.out), np.array([self.out[1], -self.out[0]])
        across, high = local[..., 0] - self.chord / 2, local[..., 1:] @ out + self.radius - self.rise
        x = self.length / 2 + self.radius * np.arctan2(across, high)
        away = (np.hypot(across, high) - self.radius)[..., None] * out + (local[..., 1:] @ side)[..., None] * side
        return np.concatenate([x[..., None], away], axis=-1)

    def points(self, steps: int = 24) -> Vec:
        """Points (steps + 1, 3) along the arc in the model."""
        return np.array([self.at(s).to_model((s, 0.0, 0.0)) for s in np.linspace(0.0, self.length, steps + 1)])


def arc_of(member: Member, frame: Placement) -> Arc | None:
    """The arc of a member whose section's frame along its chord is given; None for a straight one."""
    y, z = (frame.axes.T @ np.asarray(member.bow))[1:].tolist()
    rise = math.hypot(y, z)
    return Arc(frame, member.work_length, (y / rise, z / rise), rise) if rise > 0.05 else None


def bow_of(member: Member) -> tuple[float, float]:
    """How far the middle of a member stands out upwards and to the left of its line, seen from its left end."""
    axes = work_axes(np.asarray(member.start), np.asarray(member.end))
    bow = np.asarray(member.bow)
    return float(bow @ axes.z), float(bow @ axes.y)


def replace_bow(member: Member, value: float, side: int) -> Member:
    """The member standing out by so much upwards (side 0) or to the left (1)."""
    axes = work_axes(np.asarray(member.start), np.asarray(member.end))
    both = list(bow_of(member))
    both[side] = value
    return msgspec.structs.replace(member, bow=tidied(both[0] * axes.z + both[1] * axes.y))
