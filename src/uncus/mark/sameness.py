"""When two parts or two assemblies are the same: equal within 0.5 mm and 0.1 degrees after a proper rotation that
maps the section onto itself (end for end, upside down), never after a reflection.

A map from one piece onto another is a Placement: its `to_model` takes points of the first to points of the second.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import msgspec
import numpy as np
from msgspec import UNSET
from numpy.typing import NDArray

from uncus.catalog.sections import Form
from uncus.frame.placement import Placement
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face, Feature, Hole, Notch, Saddle, Thread, saddle_at
from uncus.steel.flats import flats
from uncus.steel.forming import Coil, Curve, formed
from uncus.steel.part import Part

MM = 0.5
DEGREES = 0.1
_SLOPE = math.tan(math.radians(DEGREES))


class Alike(msgspec.Struct, frozen=True):
    """What makes two pieces the same, beside section and shape: what is not asked may differ. `mm` is the tolerance;
    `as_erected`: a piece turned end for end or upside down in the building is another."""

    holes: bool = True
    grade: bool = True
    finish: bool = True
    camber: bool = True
    lot: bool = False
    names: bool = False
    as_erected: bool = False
    mm: float = MM


USUAL = Alike()

Matrix = NDArray[np.float64]
_FLIPS = {
    "same": np.diag([1.0, 1.0, 1.0]),
    "upside down": np.diag([1.0, -1.0, -1.0]),
    "end for end, web kept": np.diag([-1.0, 1.0, -1.0]),
    "end for end, top kept": np.diag([-1.0, -1.0, 1.0]),
}
_QUARTER = np.array([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])
_DIAGONAL = np.array([[-1.0, 0, 0], [0, 0, 1.0], [0, 1.0, 0]])


def rotations(part: Part) -> list[Matrix]:
    """The proper rotations (3, 3) that map a rolled part's section and length onto themselves."""
    assert part.section is not None
    square = abs(part.section.d - part.section.b) < 0.01
    match part.section.form:
        case Form.I | Form.FLAT:
            return list(_FLIPS.values())
        case Form.CHANNEL | Form.TUBE | Form.ROUND:
            return [_FLIPS["same"], _FLIPS["end for end, web kept"]]
        case Form.TEE:
            return [_FLIPS["same"], _FLIPS["end for end, top kept"]]
        case Form.ANGLE:
            return [_FLIPS["same"], _DIAGONAL] if square else [_FLIPS["same"]]
        case Form.BOX:
            turned = [m @ _QUARTER for m in _FLIPS.values()] if square else []
            return [*_FLIPS.values(), *turned]
    raise AssertionError(part.section.form)


# -- rolled parts -------------------------------------------------------------------------------------
def turned_cut(cut: EndCut, r: Matrix, length: float) -> EndCut:
    k = r[1:, 1:] @ np.array([cut.ky, cut.kz]) * r[0, 0]
    saddle = cut.saddle
    if isinstance(saddle, Saddle):
        run = r[1:, 1:] @ np.array(saddle.along)
        saddle = saddle_at(saddle.radius, (float(run[0]), float(run[1])), saddle.right == (r[0, 0] > 0))
    return EndCut(cut.at if r[0, 0] > 0 else length - cut.at, float(k[0]), float(k[1]), saddle)


def _turned_face(part: Part, face: Face, w: float, r: Matrix) -> tuple[Face, float, float]:
    """Where a face and a coordinate across it go: the face, the new coordinate and its sign."""
    assert part.section is not None
    all_faces = profile.faces(part.section)
    wall = all_faces.get(face)
    if wall is None:  # a round tube's single face
        return face, float(r[2, 2]) * w, float(r[2, 2])
    here = np.array([wall.mid, w] if wall.upright else [w, wall.mid])
    along = np.array([0.0, 1.0] if wall.upright else [1.0, 0.0])
    there, direction = r[1:, 1:] @ here, r[1:, 1:] @ along
    upright = abs(direction[1]) > 0.5
    mid, new_w = (there[0], there[1]) if upright else (there[1], there[0])
    sign = float(direction[1] if upright else direction[0])
    for name, other in all_faces.items():
        if other.upright == upright and abs(other.mid - mid) < 0.01:
            return name, float(new_w), sign
    raise AssertionError("a rotation of the section moved a wall to where there is none")


def turned_feature(part: Part, feature: Feature, r: Matrix) -> Feature:
    flip = bool(r[0, 0] < 0)

    def x(value: float) -> float:
        return part.length - value if flip else value

    if isinstance(feature, Cope):
        upside = bool(r[2, 2] < 0)
        return Cope(feature.right != flip, feature.bottom != upside, feature.length, feature.depth, feature.radius)
    if isinstance(feature, Thread):
        return msgspec.structs.replace(feature, right=feature.right != flip)
    if isinstance(feature, Hole):
        face, w, sign = _turned_face(part, feature.face, feature.w, r)
        angle = feature.angle * sign * (-1.0 if flip else 1.0) if feature.slot else 0.0
        return Hole(face, x(feature.x), w, feature.d, feature.slot, angle)
    placed = [(_turned_face(part, feature.face, w, r), x(px)) for px, w in feature.outline]
    return Notch(placed[0][0][0], tuple((px, to[1]) for to, px in placed))


def near_cut(a: EndCut, b: EndCut, mm: float = MM) -> bool:
    plane = abs(a.at - b.at) <= mm and abs(a.ky - b.ky) <= _SLOPE and abs(a.kz - b.kz) <= _SLOPE
    if isinstance(a.saddle, Saddle) and isinstance(b.saddle, Saddle):
        apart = (a.saddle.turn - b.saddle.turn + 90) % 180 - 90
        return plane and abs(a.saddle.radius - b.saddle.radius) <= mm and abs(apart) <= DEGREES
    return plane and a.saddle is b.saddle


def near(a: Feature, b: Feature, mm: float = MM) -> bool:
    if isinstance(a, Hole) and isinstance(b, Hole):
        sizes = (a.x - b.x, a.w - b.w, a.d - b.d, a.slot - b.slot)
        turn = (a.angle - b.angle + 90) % 180 - 90 if a.slot else 0.0
        return a.face == b.face and max(map(abs, sizes)) <= mm and abs(turn) <= DEGREES
    if isinstance(a, Cope) and isinstance(b, Cope):
        sizes3 = (a.length - b.length, a.depth - b.depth, a.radius - b.radius)
        return a.right == b.right and a.bottom == b.bottom and max(map(abs, sizes3)) <= mm
    if isinstance(a, Thread) and isinstance(b, Thread):
        return (a.right, a.left_handed) == (b.right, b.left_handed) and abs(a.length - b.length) <= mm
    if isinstance(a, Notch) and isinstance(b, Notch):
        return a.face == b.face and _same_ring(np.array(a.outline), np.array(b.outline), mm)
    return False


def _same_ring(a: Matrix, b: Matrix, mm: float) -> bool:
    """Two closed outlines with the same points in either sense, from any start."""
    if len(a) != len(b):
        return False
    turned = (np.roll(ring, k, axis=0) for ring in (b, b[::-1]) for k in range(len(b)))
    return any(all_near(a, ring, mm) for ring in turned)


def _paired(a: Sequence[Feature], b: Sequence[Feature], mm: float) -> bool:
    """Every feature of one has its own near feature in the other."""
    left = list(b)
    for feature in a:
        hit = next((i for i, other in enumerate(left) if near(feature, other, mm)), None)
        if hit is None:
            return False
        del left[hit]
    return not left


def turned_curve(curve: Curve, r: Matrix) -> Curve:
    out = r[1:, 1:] @ curve.out
    return Curve(curve.radius, math.degrees(math.atan2(out[0], out[1])))


def turned_coil(coil: Coil, r: Matrix) -> Coil:
    """A helix as its part has it after one of its section's rotations: what climbs still climbs, end for end."""
    roll = math.radians(coil.roll)
    y, z = r[1:, 1:] @ np.array([math.cos(roll), -math.sin(roll)])  # to the left, which it keeps
    return Coil(coil.radius, coil.climb, coil.hand, math.degrees(math.atan2(-z, y)))


def _near_coil(a: Coil | None, b: Coil | None, length: float, mm: float) -> bool:
    if a is None or b is None:
        return a is b
    apart = abs((a.roll - b.roll + 180) % 360 - 180)
    rises = abs(a.rise(length) - b.rise(length))
    bows = abs(a.turn(length) - b.turn(length)) * a.radius, abs(a.radius - b.radius)
    return a.hand == b.hand and apart <= DEGREES and max(rises, *bows) <= mm


def _near_curve(a: Curve | None, b: Curve | None, length: float, mm: float) -> bool:
    """Arcs whose middles stand out alike: within `mm`, and within the tolerance of angles to the same side."""
    if a is None or b is None:
        return a is b
    apart = abs((a.turn - b.turn + 180) % 360 - 180)
    return abs(a.rise(length) - b.rise(length)) <= mm and apart <= DEGREES


def lean(part: Part, r: Matrix) -> float | None:
    """Where, after a rotation, a part's arc stands out, or else the first of its ends slopes to, or else the tube of
    its first saddle runs to: radians from z towards y."""
    if part.curve is not None:
        return math.radians(turned_curve(part.curve, r).turn)
    cuts = [turned_cut(c, r, part.length) for c in (part.left, part.right)]
    cuts = cuts if r[0, 0] > 0 else cuts[::-1]
    for cut in cuts:
        if not msgspec.structs.replace(cut, saddle=UNSET).square:
            return math.atan2(cut.ky, cut.kz)
    # a tube runs both ways, and where no end slopes half a turn leaves every saddle as it is
    return next((math.radians(c.saddle.turn) for c in cuts if isinstance(c.saddle, Saddle)), None)


def spun(angle: float) -> Matrix:
    """A rotation about x that takes what leans by `angle` (from z towards y) to z."""
    c, s = math.cos(angle), math.sin(angle)
    return np.array([[1.0, 0, 0], [0, c, -s], [0, s, c]])


def ways_onto(a: Part, b: Part) -> list[Matrix]:
    """The rotations to try: a plain round tube may be turned about itself as far as it takes."""
    if a.form is not Form.TUBE or a.features or b.features or a.coil or b.coil:
        return rotations(a)
    there = lean(b, np.eye(3))
    found = []
    for r in rotations(a):
        here = lean(a, r)
        found.append(r if here is None or there is None else spun(here - there) @ r)
    return found


def _rolled_maps(a: Part, b: Part, mm: float) -> list[Placement]:
    if a.section is None or a.section != b.section or abs(a.length - b.length) > mm:
        return []
    if (a.curve is None) != (b.curve is None) or (a.coil is None) != (b.coil is None):
        return []
    found = []
    for r in ways_onto(a, b):
        if a.curve is not None and not _near_curve(turned_curve(a.curve, r), b.curve, a.length, mm):
            continue
        if a.coil is not None and not _near_coil(turned_coil(a.coil, r), b.coil, a.length, mm):
            continue
        cuts = [turned_cut(c, r, a.length) for c in (a.left, a.right)]
        if r[0, 0] < 0:
            cuts.reverse()
        if not (near_cut(cuts[0], b.left, mm) and near_cut(cuts[1], b.right, mm)):
            continue
        if _paired([turned_feature(a, f, r) for f in a.features], b.features, mm):
            found.append(Placement((a.length if r[0, 0] < 0 else 0.0, 0.0, 0.0), r))
    return found


# -- plates -------------------------------------------------------------------------------------------
def _plate_maps(a: Part, b: Part, mm: float) -> list[Placement]:
    if a.section is not None or b.section is not None or abs(a.thickness - b.thickness) > mm:
        return []
    pa, pb = np.array(a.outline), np.array(b.outline)
    if len(pa) != len(pb) or len(a.bends) != len(b.bends):
        return []
    found = []
    for flip in (False, True) if a.surface is None or a.is_grating else (False,):  # lugs are on one side alone
        ring = pa[::-1] * [1.0, -1.0] if flip else pa
        for k in range(len(pb)):
            target = np.roll(pb, -k, axis=0)
            turn = _turn_onto(ring, target, mm)
            if turn is None or not _lies_alike(a, b, flip, turn[0]):
                continue
            r2, shift = turn
            if all_near(ring @ r2.T + shift, target, mm) and _plate_features(a, b, flip, r2, shift, mm):
                laid = _plate_placement(flip, r2, shift)
                if not a.bends:
                    found.append(laid)
                elif _same_bends(a, b, laid, flip, mm):
                    found.append(_folded_placement(a, b, laid))
    return found


def kind_of_surface(part: Part) -> tuple[object, ...] | None:
    """What a plate is that is not plain, whichever way it runs."""
    return None if part.surface is None else msgspec.structs.astuple(msgspec.structs.replace(part.surface, angle=0.0))


def _lies_alike(a: Part, b: Part, flip: bool, turn: Matrix) -> bool:
    """Whether the lugs or bearing bars of one come to run as the other's do."""
    if a.surface is None or b.surface is None:
        return True
    angle = -a.surface.angle if flip else a.surface.angle
    there = angle + math.degrees(math.atan2(turn[1, 0], turn[0, 0]))
    every = 180.0 if a.is_grating else 90.0  # lugs run crosswise, bars one way
    return abs((there - b.surface.angle + every / 2) % every - every / 2) < 1.0


def _same_bends(a: Part, b: Part, laid: Placement, flip: bool, mm: float) -> bool:
    """Each bend of one lies on one of the other, as far and to the same side; which leg is held still does not
    matter."""
    left = list(b.bends)
    for bend in a.bends:
        ends = laid.to_model([(bend.x1, 0.0, bend.z1), (bend.x2, 0.0, bend.z2)])[:, [0, 2]]
        angle = -bend.angle if flip else bend.angle  # turned over, what rose falls
        hit = next(
            (
                i
                for i, o in enumerate(left)
                if abs(o.angle - angle) <= DEGREES
                and abs(o.radius - bend.radius) <= mm
                and any(all_near(ends[::way], np.array([(o.x1, o.z1), (o.x2, o.z2)]), mm) for way in (1, -1))
            ),
            None,
        )
        if hit is None:
            return False
        del left[hit]
    return True


def _folded_placement(a: Part, b: Part, laid: Placement) -> Placement:
    """How folded `a` comes to lie on folded `b`: by a corner of the flat that `a` holds still, wherever that is in
    `b`."""
    still = next(f for f in flats(a.outline, a.bends, a.thickness) if f.stays)
    x, z = still.outline[0]
    inward = np.mean(np.array(still.outline), axis=0)
    at = np.array([x, 0.0, z])
    steps = np.array([np.zeros(3), [1.0, 0, 0], [0, 1.0, 0], [0, 0, 1.0]])
    here = at + 1e-3 * (np.array([inward[0], 0.0, inward[1]]) - at) + steps * 1e-3
    there = formed(b, laid.to_model(here))
    axes = np.column_stack([(p - there[0]) * 1e3 for p in there[1:]])
    return Placement(there[0] - axes @ here[0], axes)


def _turn_onto(ring: Matrix, target: Matrix, mm: float) -> tuple[Matrix, Matrix] | None:
    """The turn and shift in the plane that bring a ring's points nearest to another's (least squares)."""
    ca, cb = ring.mean(axis=0), target.mean(axis=0)
    u, v = ring - ca, target - cb
    if np.abs(np.linalg.norm(u, axis=1) - np.linalg.norm(v, axis=1)).max() > 2 * mm:
        return None
    angle = math.atan2(float((u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0]).sum()), float((u * v).sum()))
    c, s = math.cos(angle), math.sin(angle)
    r2 = np.array([[c, -s], [s, c]])
    return r2, cb - r2 @ ca


def all_near(a: Matrix, b: Matrix, mm: float = MM) -> bool:
    return bool(np.abs(a - b).max() <= mm)


def _plate_features(a: Part, b: Part, flip: bool, r2: Matrix, shift: Matrix, mm: float) -> bool:
    sign = -1.0 if flip else 1.0
    turn = math.degrees(math.atan2(r2[1, 0], r2[0, 0]))

    def to(x: float, w: float) -> tuple[float, float]:
        p = r2 @ np.array([x, sign * w]) + shift
        return float(p[0]), float(p[1])

    moved: list[Feature] = []
    for f in a.features:
        if isinstance(f, Hole):
            x, w = to(f.x, f.w)
            moved.append(Hole(f.face, x, w, f.d, f.slot, (sign * f.angle + turn) if f.slot else 0.0))
        elif isinstance(f, Notch):
            moved.append(Notch(f.face, tuple(to(x, w) for x, w in f.outline)))
    return _paired(moved, b.features, mm)


def _plate_placement(flip: bool, r2: Matrix, shift: Matrix) -> Placement:
    sign = -1.0 if flip else 1.0
    axes = np.zeros((3, 3))
    axes[np.ix_([0, 2], [0, 2])] = r2 @ np.diag([1.0, sign])
    axes[1, 1] = sign
    return Placement((shift[0], 0.0, shift[1]), axes)


@lru_cache(maxsize=65536)
def maps(a: Part, b: Part, alike: Alike = USUAL) -> tuple[Placement, ...]:
    """Every proper rotation that maps part `a` onto part `b`; none where they are different parts."""
    a, b = as_asked(a, alike), as_asked(b, alike)
    if (a.grade, a.finish, a.item) != (b.grade, b.finish, b.item) or kind_of_surface(a) != kind_of_surface(b):
        return ()
    found = _plate_maps(a, b, alike.mm) if a.section is None else _rolled_maps(a, b, alike.mm)
    if alike.as_erected and a.section is not None:
        found = [m for m in found if m.axes[0, 0] > 0.5 and m.axes[2, 2] > 0.5]
    return tuple(found)


@lru_cache(maxsize=65536)
def as_asked(part: Part, alike: Alike) -> Part:
    """A part without what is not asked of it; the part itself where all is."""
    features = part.features if alike.holes else tuple(f for f in part.features if not isinstance(f, Hole))
    grade, finish = part.grade if alike.grade else "", part.finish if alike.finish else ""
    if (features, grade, finish) == (part.features, part.grade, part.finish):
        return part
    return msgspec.structs.replace(part, features=features, grade=grade, finish=finish)
