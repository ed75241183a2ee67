"""Parts formed out of the straight and the flat: rolled to an arc, or bent along lines.

A part's features, cuts and outline are those of the straight length or the flat plate; forming is a map of its points.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec
import numpy as np
from numpy.typing import ArrayLike, NDArray

from uncus.frame.arcs import touching
from uncus.frame.placement import Placement, settled_one

if TYPE_CHECKING:
    from uncus.steel.part import Part

Array = NDArray[np.float64]
_LEVEL = 1e-4  # degrees
_ASTRAY = 1.0  # mm before a bend that still counts as beyond it, for what bends farther on


class Curve(msgspec.Struct, frozen=True, gc=False):
    """A rolled length bent to an arc: `radius` of its axis in mm; it stands out, in its middle, `turn` degrees from z
    towards y. The frame touches the arc at the middle of the length, so that turning the part end for end keeps it."""

    radius: float
    turn: float = 0.0

    @classmethod
    def of(cls, radius: float, turn: float) -> Curve:
        """The arc without the last bits of its reckoning."""
        return cls(settled_one(radius, 4), settled_one(turn, 5))

    @property
    def out(self) -> Array:
        """The direction (y, z) in which the middle stands out."""
        return np.array([math.sin(math.radians(self.turn)), math.cos(math.radians(self.turn))])

    def rise(self, length: float) -> float:
        """How far the middle stands out of the chord of a length of arc."""
        return self.radius * (1 - math.cos(length / 2 / self.radius))

    def chord(self, length: float) -> float:
        return 2 * self.radius * math.sin(length / 2 / self.radius)


class Coil(msgspec.Struct, frozen=True, gc=False):
    """A rolled length wrapped round a plumb axis as it climbs: `radius` in mm of the fibre that keeps its length, its
    centroid, `climb` that one's slope in degrees, `hand` 1 where it turns to the left and -1 to the right, `roll` how
    its section is turned about its axis. The frame touches the helix at the middle of the length."""

    radius: float
    climb: float
    hand: int
    roll: float = 0.0

    @classmethod
    def of(cls, radius: float, climb: float, hand: int, roll: float) -> Coil:
        """The helix without the last bits of its reckoning, told so that it climbs: one that falls is the same with its
        axis the other way up."""
        if climb < 0 or (abs(climb) < 1e-6 and hand < 0):
            climb, hand, roll = -climb, -hand, roll + 180.0
        return cls(settled_one(radius, 4), settled_one(climb, 6), hand, settled_one(roll % 360.0, 5) % 360.0)

    @property
    def is_level(self) -> bool:
        """Whether it runs round without climbing, as a hoop does."""
        return abs(self.climb) < _LEVEL

    @property
    def slope(self) -> float:
        """Its climb in radians."""
        return math.radians(self.climb)

    def turn(self, length: float) -> float:
        """Radians that a length of it turns by."""
        return length * math.cos(self.slope) / self.radius

    def rise(self, length: float) -> float:
        return length * math.sin(self.slope)

    @property
    def rolled_to(self) -> float:
        """The radius that a straight length is rolled to: that of the helix's curvature."""
        return self.radius / math.cos(self.slope) ** 2

    @property
    def twist(self) -> float:
        """Degrees of twist to a metre: that of the helix's torsion."""
        return math.degrees(math.sin(self.slope) * math.cos(self.slope) / self.radius) * 1000.0

    @property
    def pitch(self) -> float:
        """What it climbs in a whole turn."""
        return 2 * math.pi * self.radius * math.tan(self.slope)

    def flat(self, y: Array, z: Array) -> tuple[Array, Array]:
        """Section coordinates as (to the left, up the cylinder)."""
        c, s = math.cos(math.radians(self.roll)), math.sin(math.radians(self.roll))
        return c * y - s * z, s * y + c * z


class Bend(msgspec.Struct, frozen=True, gc=False):
    """A bend of a flat plate along the line from (x1, z1) to (x2, z2), the middle of the bend's own zone: what lies
    left of the line (seen from -y) turns by `angle` degrees towards -y, with the inside `radius`. Bends stand in
    order from the outermost in: what a bend turns holds only bends before it. A `sharp` one, whose `radius` is half the
    thickness less than nothing, turns about the middle of the thickness."""

    x1: float
    z1: float
    x2: float
    z2: float
    angle: float
    radius: float

    @property
    def sharp(self) -> bool:
        return self.radius < 0

    @property
    def left(self) -> Array:
        """Unit direction (x, z) to the side that turns."""
        run = np.array([self.z1 - self.z2, self.x2 - self.x1])
        return run / np.hypot(*run)  # type: ignore[no-any-return]

    def moved(self, x: float) -> Bend:
        """The bend so far along the plate, without the last bits of its reckoning."""
        places = {"x1": self.x1 + x, "z1": self.z1, "x2": self.x2 + x, "z2": self.z2}
        kept = {name: settled_one(v, 4) for name, v in places.items()}
        return msgspec.structs.replace(self, angle=settled_one(self.angle, 5), **kept)

    def off(self, x: ArrayLike, z: ArrayLike) -> Array:
        """How far points of the flat lie to the side that turns."""
        n = self.left
        return np.asarray((np.asarray(x) - self.x1) * n[0] + (np.asarray(z) - self.z1) * n[1])


class Item(msgspec.Struct, frozen=True, gc=False):
    """What a bought part is to the buyer: one line, whatever it is made of. `kg` each; `body` is its own shape
    (`steel.bodies`), empty where it is its outline and thickness."""

    code: str
    maker: str
    words: str
    kg: float
    body: bytes = b""


def neutral_radius(radius: float, thickness: float) -> float:
    """Radius of the fibre that keeps its length (DIN 6935: k = 0.65 + 0.5 lg(r/s), at most 1, times half the
    thickness). Of a sharp fold, which turns about the middle, nothing."""
    if radius < 0:
        return 0.0
    k = min(1.0, max(0.0, 0.65 + 0.5 * math.log10(max(radius, 0.1) / thickness)))
    return radius + k * thickness / 2


def zone(bend: Bend, thickness: float) -> float:
    """Length of the flat that a bend takes up."""
    return abs(math.radians(bend.angle)) * neutral_radius(bend.radius, thickness)


ROLLED = 4.0  # degrees: sharp folds so slight are the rulings of a plate that is rolled


def is_developed(part: Part) -> bool:
    """Whether a plate is bent along the rulings of a developed surface."""
    return bool(part.bends) and all(bend.sharp for bend in part.bends)


def is_rolled_plate(part: Part) -> bool:
    """Whether that one is rolled, and not folded, somewhere."""
    return is_developed(part) and sum(abs(b.angle) <= ROLLED for b in part.bends) > len(part.bends) / 2


def formed(part: Part, points: ArrayLike) -> Array:
    """Points (n, 3) of the straight or flat part where they are once it is formed."""
    flat = np.asarray(points, dtype=np.float64).reshape(-1, 3)
    if part.curve is not None:
        return _rolled_up(flat, part.curve, part.length)
    if part.coil is not None:
        y, z = part.section.centroid if part.section is not None else (0.0, 0.0)
        fibre, _ = part.coil.flat(np.asarray(y), np.asarray(z))
        return _wrapped_up(flat, part.coil, part.length, float(fibre))
    if part.bends:
        return folded(flat, part.bends, part.thickness)
    return flat


def _rolled_up(points: Array, curve: Curve, length: float) -> Array:
    out = curve.out
    side = np.array([out[1], -out[0]])
    radius = curve.radius + points[:, 1:] @ out
    angle = (points[:, 0] - length / 2) / curve.radius
    along = length / 2 + radius * np.sin(angle)
    high = radius * np.cos(angle) - curve.radius
    return np.column_stack([along, np.outer(high, out) + np.outer(points[:, 1:] @ side, side)])


def _wrapped_up(points: Array, coil: Coil, length: float, fibre: float) -> Array:
    """Points of a straight length laid on the cylinder that it is wrapped round (`frame.helices`); `fibre` lies so far
    to the left of its middle."""
    c, s = math.cos(coil.slope), math.sin(coil.slope)
    left, up = coil.flat(points[:, 1], points[:, 2])
    x = points[:, 0] - length / 2
    turn, high = (x * c - up * s) / coil.radius, x * s + up * c
    radius = coil.radius - coil.hand * (left - fibre)
    middle = coil.radius + coil.hand * fibre
    on, inward = radius * np.sin(turn), coil.hand * (middle - radius * np.cos(turn))
    along, rise = on * c + high * s, high * c - on * s
    cr, sr = math.cos(math.radians(coil.roll)), math.sin(math.radians(coil.roll))
    return np.column_stack([length / 2 + along, cr * inward + sr * rise, cr * rise - sr * inward])


def unrolled(part: Part, place: Placement, at: Array) -> Placement:
    """Where something fixed to a rolled part lies once that is straight: as it lies to the length that touches the
    arc beside `at`, a point of it; all in the rolled part's own frame."""
    if part.curve is None:
        return place
    out = part.curve.out
    high = float(at[1:] @ out) + part.curve.radius
    along = part.curve.radius * math.atan2(float(at[0]) - part.length / 2, high)
    middle = Placement((part.length / 2, 0.0, 0.0), np.eye(3))
    return middle @ touching(part.curve.radius, out.tolist(), along).inverse @ middle.inverse @ place


def laid_flat(part: Part) -> Part:
    """The straight or flat piece that a part is formed of."""
    return msgspec.structs.replace(part, curve=None, coil=None, bends=()) if part.is_formed else part


def _turned(flat: Array, bends: Sequence[Bend], thickness: float) -> NDArray[np.bool_]:
    """Which points (n, 3) each bend turns: what lies beyond its line, and beyond those of the bends that turn it."""
    middles = np.array([((b.x1 + b.x2) / 2, (b.z1 + b.z2) / 2) for b in bends])
    halves = np.array([zone(b, thickness) / 2 for b in bends])
    offs = np.array([b.off(flat[:, 0], flat[:, 2]) for b in bends])
    beyond = offs > -halves[:, None]
    if len(bends) < 2:
        return beyond
    held = np.array([b.off(middles[:, 0], middles[:, 1]) > 0 for b in bends]).T  # of each bend, those that turn it
    np.fill_diagonal(held, False)
    before = offs < -(halves[:, None] + _ASTRAY)
    return np.asarray(beyond & ~((held.astype(np.float32) @ before.astype(np.float32)) > 0.5))


def folded(flat: Array, bends: Sequence[Bend], thickness: float) -> Array:
    """Points (n, 3) of a flat plate where they are once it is bent."""
    now = flat.copy()
    turns = _turned(flat, bends, thickness)
    for bend, moves in zip(bends, turns, strict=True):
        n, half = bend.left, zone(bend, thickness) / 2
        turned = math.radians(abs(bend.angle))
        way = math.copysign(1.0, bend.angle)  # a bend the other way is the mirror image in y
        off = bend.off(flat[:, 0], flat[:, 2])
        x, y, z = now[moves].T
        d = np.where(off[moves] < half, off[moves], bend.off(x, z))
        fibre = neutral_radius(bend.radius, thickness)
        centre = -(bend.radius + thickness / 2) if not bend.sharp else 0.0
        share = np.clip((d + half) / fibre, 0.0, turned) if fibre else np.full(len(d), turned)
        share = np.where(off[moves] < half, share, turned)
        past = np.where(off[moves] < half, 0.0, d - half)
        reach = way * y - centre
        along = -half + reach * np.sin(share) + past * np.cos(share)
        new_y = way * (centre + reach * np.cos(share) - past * np.sin(share))
        shift = along - bend.off(x, z)
        now[moves] = np.column_stack([x + n[0] * shift, new_y, z + n[1] * shift])
    return now
