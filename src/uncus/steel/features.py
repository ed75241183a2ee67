"""What is done to a part: a small closed vocabulary, in the part's own frame.

x runs along the part from its left end, y and z lie in the section, origin at the middle of its bounding box;
a plate lies in x and z with its thickness along y. Faces: web (seen from -y), top (from +z), bottom, back.
"""

from __future__ import annotations

import math
from enum import StrEnum
from typing import TypeVar

import msgspec
import numpy as np
from msgspec import UNSET, UnsetType
from numpy.typing import NDArray

from uncus.frame.placement import settled_one

Lengths = TypeVar("Lengths", float, NDArray[np.float64])


class Face(StrEnum):
    WEB = "web"
    TOP = "top"
    BOTTOM = "bottom"
    BACK = "back"

    @property
    def upright(self) -> bool:
        """Web and back, whose coordinates are (x, z); top and bottom have (x, y)."""
        return self in (Face.WEB, Face.BACK)


class Saddle(msgspec.Struct, frozen=True, gc=False):
    """How an end goes on past the plane of its cut, up to the side of a round tube that touches that plane.

    The tube's axis crosses the part's own; `turn` (0 up to 180) is the direction in the section, in degrees from z
    towards y, to which it runs, and the only one in which the plane may slope. `right`: the tube is at the right
    end.
    """

    radius: float
    turn: float
    right: bool

    @property
    def along(self) -> tuple[float, float]:
        """(y, z) of the direction in the section to which the tube runs."""
        return math.sin(math.radians(self.turn)), math.cos(math.radians(self.turn))

    def depth(self, y: Lengths, z: Lengths) -> Lengths:
        """How far the tube's side is behind its tangent plane at (y, z), square to the plane."""
        run_y, run_z = self.along
        inside = self.radius**2 - (y * run_z - z * run_y) ** 2
        reach: Lengths = ((inside + abs(inside)) / 2) ** 0.5  # beside the tube its axis
        return self.radius - reach


def saddle_at(radius: float, along: tuple[float, float], right: bool) -> Saddle:
    """The saddle to a tube that runs to (y, z) in the section, either way."""
    turn = round(math.degrees(math.atan2(*along)), 5) % 180.0
    return Saddle(settled_one(radius, 5), turn + 0.0, right)


class EndCut(msgspec.Struct, frozen=True, gc=False):
    """A plane through an end: x = at + ky * y + kz * z, square where both slopes are nothing; or, with a saddle, the
    side of the round tube that touches this plane. (A plain cut is written without the saddle, as it was before
    there were any.)"""

    at: float
    ky: float = 0.0
    kz: float = 0.0
    saddle: Saddle | UnsetType = UNSET

    def x(self, y: Lengths, z: Lengths) -> Lengths:
        plane = self.at + self.ky * y + self.kz * z
        if not isinstance(self.saddle, Saddle):
            return plane
        past = self.saddle.depth(y, z) * math.sqrt(1 + self.ky**2 + self.kz**2)
        return plane + past if self.saddle.right else plane - past

    @property
    def square(self) -> bool:
        """Sawn square: neither sloping nor a saddle."""
        return abs(self.ky) < 1e-6 and abs(self.kz) < 1e-6 and not isinstance(self.saddle, Saddle)

    def moved(self, dx: float) -> EndCut:
        return msgspec.structs.replace(self, at=self.at + dx)


class Cope(msgspec.Struct, frozen=True, gc=False, tag_field="kind", tag="cope"):
    """A flange and the web beside it taken away at an end: lengths in mm, `radius` in the corner."""

    right: bool
    bottom: bool
    length: float
    depth: float
    radius: float


class Notch(msgspec.Struct, frozen=True, gc=False, tag_field="kind", tag="notch"):
    """An outline cut through one face; points (x, w), w being z on web and back, y on top and bottom."""

    face: Face
    outline: tuple[tuple[float, float], ...]


class Hole(msgspec.Struct, frozen=True, gc=False, tag_field="kind", tag="hole"):
    """A hole through one wall at (x, w) of its face; `slot` is the overall length of a slot (0: round)
    whose long side stands at `angle` degrees to x."""

    face: Face
    x: float
    w: float
    d: float
    slot: float = 0.0
    angle: float = 0.0

    @property
    def area(self) -> float:
        return math.pi / 4 * self.d**2 + max(0.0, self.slot - self.d) * self.d if self.slot else math.pi / 4 * self.d**2


class Thread(msgspec.Struct, frozen=True, gc=False, tag_field="kind", tag="thread"):
    """A thread cut on a round bar's end, `length` mm from it."""

    right: bool
    length: float
    left_handed: bool


Feature = Cope | Notch | Hole | Thread
F = TypeVar("F", bound=Cope | Notch | Hole | Thread)


def rounded(feature: F) -> F:
    """The feature to a thousandth of a mm, so that equal parts compare equal."""
    changes: dict[str, object] = {}
    for name in feature.__struct_fields__:
        value = getattr(feature, name)
        if isinstance(value, float):
            changes[name] = settled_one(value, 3)
        elif isinstance(value, tuple):
            changes[name] = tuple((settled_one(a, 3), settled_one(b, 3)) for a, b in value)
    if isinstance(feature, Hole) and not feature.slot:
        changes["angle"] = 0.0  # a round hole has no direction
    return msgspec.structs.replace(feature, **changes)


def shifted(feature: F, dx: float) -> F:
    """The feature moved along x; copes and threads go with their end."""
    if isinstance(feature, Hole):
        return msgspec.structs.replace(feature, x=feature.x + dx)
    if isinstance(feature, Notch):
        return msgspec.structs.replace(feature, outline=tuple((x + dx, w) for x, w in feature.outline))
    return feature
