"""What is done to a part: a small closed vocabulary, in the part's own frame.

x runs along the part from its left end, y and z lie in the section, origin at the middle of its bounding box;
a plate lies in x and z with its thickness along y. Faces: web (seen from -y), top (from +z), bottom, back.
"""

from __future__ import annotations

import math
from enum import StrEnum
from typing import TypeVar

import msgspec


class Face(StrEnum):
    WEB = "web"
    TOP = "top"
    BOTTOM = "bottom"
    BACK = "back"

    @property
    def upright(self) -> bool:
        """Web and back, whose coordinates are (x, z); top and bottom have (x, y)."""
        return self in (Face.WEB, Face.BACK)


class EndCut(msgspec.Struct, frozen=True):
    """A plane through an end: x = at + ky * y + kz * z. Square where both slopes are nothing."""

    at: float
    ky: float = 0.0
    kz: float = 0.0

    def x(self, y: float, z: float) -> float:
        return self.at + self.ky * y + self.kz * z

    @property
    def square(self) -> bool:
        return abs(self.ky) < 1e-6 and abs(self.kz) < 1e-6


class Cope(msgspec.Struct, frozen=True, tag_field="kind", tag="cope"):
    """A flange and the web beside it taken away at an end: lengths in mm, `radius` in the corner."""

    right: bool
    bottom: bool
    length: float
    depth: float
    radius: float


class Notch(msgspec.Struct, frozen=True, tag_field="kind", tag="notch"):
    """An outline cut through one face; points (x, w), w being z on web and back, y on top and bottom."""

    face: Face
    outline: tuple[tuple[float, float], ...]


class Hole(msgspec.Struct, frozen=True, tag_field="kind", tag="hole"):
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


Feature = Cope | Notch | Hole
F = TypeVar("F", bound=Cope | Notch | Hole)


def rounded(feature: F) -> F:
    """The feature to a thousandth of a mm, so that equal parts compare equal."""
    changes: dict[str, object] = {}
    for name in feature.__struct_fields__:
        value = getattr(feature, name)
        if isinstance(value, float):
            changes[name] = round(value, 3) + 0.0
        elif isinstance(value, tuple):
            changes[name] = tuple((round(a, 3) + 0.0, round(b, 3) + 0.0) for a, b in value)
    if isinstance(feature, Hole) and not feature.slot:
        changes["angle"] = 0.0  # a round hole has no direction
    return msgspec.structs.replace(feature, **changes)


def shifted(feature: F, dx: float) -> F:
    """The feature moved along x; copes go with their end."""
    if isinstance(feature, Hole):
        return msgspec.structs.replace(feature, x=feature.x + dx)
    if isinstance(feature, Notch):
        return msgspec.structs.replace(feature, outline=tuple((x + dx, w) for x, w in feature.outline))
    return feature
