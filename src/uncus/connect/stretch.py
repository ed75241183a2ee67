"""The stretch of a long piece that another comes near. What the two do to each other hangs on no more of it, so pairs
that stand alike anywhere along one length - treads on a stringer, posts on a rail - are one pair."""

from __future__ import annotations

import math
from functools import lru_cache

import msgspec
import numpy as np

from uncus.connect.kind import Body
from uncus.connect.own_ends import own_ends
from uncus.frame.helices import Helix
from uncus.frame.placement import Placement, Vec, settled_one
from uncus.job.records import END_CUTS
from uncus.steel import profile
from uncus.steel.features import Cope, Feature, Hole, Notch, Thread, shifted
from uncus.steel.forming import Coil
from uncus.steel.part import Part

replace = msgspec.structs.replace
PAST = 50.0  # mm of a stretch past what it is beside
_LONG = 400.0  # mm: shorter lengths are taken whole
_MOST = 0.75  # of a length, more than which it is taken whole
_POINTS = 25  # along a line between corners
_BESIDE = 10.0  # mm from where an end is cut, beyond which nothing of it is left
_ROUND = 2.0  # radians that a piece may lie round an axis and still be beside one stretch of what is wound about it

Span = tuple[float, float]


def beside(part: Part, place: Placement, corners: Vec) -> tuple[Part, Placement]:
    """The stretch of a rolled length, in place, that holds all of it which lies among points (n, 3) of the model and
    within PAST of them; all of it where it is short, cut to an outline or bent to an arc."""
    if part.section is None or part.curve is not None or part.length < _LONG or part.item is not None:
        return part, place
    local = place.to_local(corners)
    span = _wound_span(part, part.coil, local) if part.coil is not None else _span(local[:, 0])
    if span is None:
        return part, place
    a, b = _kept(span, _square_between(part), part.length)
    if b - a > _MOST * part.length:
        return part, place
    made, there = _cut_out(part, a, b), _moved(part, place, a, b)
    plain = made.left.square and made.right.square and not made.features and part.coil is None
    if plain and part.section.form in profile.ROUNDS:
        there = _turned_to(there, corners.mean(axis=0))
    return made, there


def _span(x: Vec) -> Span:
    return float(x.min()) - PAST, float(x.max()) + PAST


def _kept(span: Span, square: Span, length: float) -> Span:
    """From where to where a stretch is taken: to an end where that is not plain any more, with all that is not."""
    a, b = min(span[0], square[1]), max(span[1], square[0])
    return a if a > square[0] else 0.0, b if b < square[1] else length


@lru_cache(maxsize=16384)
def _square_between(part: Part) -> Span:
    """Between where along a length nothing of its ends is any more."""
    assert part.section is not None
    y, z = np.asarray(profile.outline(part.section).convex_hull.exterior.coords).T
    planes = [replace(cut, saddle=msgspec.UNSET).x(y, z) for cut in (part.left, part.right)]
    ends = [0.0, 0.0]
    worked: tuple[Cope | Thread, ...] = (*part.copes, *part.threads)
    for f in worked:
        ends[f.right] = max(ends[f.right], f.length)
    return float(planes[0].max()) + ends[0] + 1.0, float(planes[1].min()) - ends[1] - 1.0


def _cut_out(part: Part, a: float, b: float) -> Part:
    """What of a length lies between two places of it."""
    long = settled_one(b - a, 4)
    left = part.left if a == 0.0 else replace(part.left, at=0.0, ky=0.0, kz=0.0, saddle=msgspec.UNSET)
    right = part.right if b == part.length else replace(part.right, at=long, ky=0.0, kz=0.0, saddle=msgspec.UNSET)
    if b == part.length:
        right = right.moved(-a)
    kept = tuple(shifted(f, -a) for f in part.features if _is_within(f, part, a, b))
    return replace(part, grade="", finish="", length=long, left=left, right=right, features=kept)


def _is_within(feature: Feature, part: Part, a: float, b: float) -> bool:
    if isinstance(feature, Hole):
        reach = feature.d + feature.slot
        return a - reach < feature.x < b + reach
    if isinstance(feature, Notch):
        xs = [x for x, _ in feature.outline]
        return min(xs) < b and max(xs) > a
    return b == part.length if feature.right else a == 0.0


def _moved(part: Part, place: Placement, a: float, b: float) -> Placement:
    """Where a stretch stands: a wound one where the screw takes it."""
    if part.coil is None:
        return place.moved((a, 0.0, 0.0))
    axis, spot = _axis(part, part.coil)
    t = (a + b - part.length) / 2
    turn = part.coil.hand * t * math.cos(part.coil.slope) / part.coil.radius
    rise = t * math.sin(part.coil.slope)
    c, s = math.cos(turn), math.sin(turn)
    x, y, z = axis[:, 0], axis[:, 1], axis[:, 2]
    turned = np.column_stack([c * x + s * y, c * y - s * x, z]) @ axis.T
    middle = np.array([part.length / 2, 0.0, 0.0])
    origin = spot + turned @ (middle - spot) + rise * z
    return place @ Placement(origin - turned[:, 0] * (b - a) / 2, turned)


def _axis(part: Part, coil: Coil) -> tuple[Vec, Vec]:
    """Of what a length is wound about, in its own frame: on, inward and up where it touches, as columns, and the point
    of the axis there."""
    c, s = math.cos(coil.slope), math.sin(coil.slope)
    cr, sr = math.cos(math.radians(coil.roll)), math.sin(math.radians(coil.roll))
    axis = np.column_stack([(c, -s * sr, -s * cr), (0.0, cr, -sr), (s, c * sr, c * cr)])
    y, z = part.section.centroid if part.section is not None else (0.0, 0.0)
    fibre, _ = coil.flat(np.asarray(y), np.asarray(z))
    middle = coil.radius + coil.hand * float(fibre)
    return axis, np.array([part.length / 2, 0.0, 0.0]) + axis[:, 1] * coil.hand * middle


def _wound_span(part: Part, coil: Coil, corners: Vec) -> Span | None:
    """From where to where along a wound length corners of a box lie beside it, by how they lie round its axis and how
    high; None where they lie all round, or beside several of its turns."""
    assert part.section is not None
    axis, spot = _axis(part, coil)
    local = (corners - spot) @ axis
    half_y, half_z = part.section.b / 2, part.section.d / 2
    sides = np.array([(y, z) for y in (-half_y, half_y) for z in (-half_z, half_z)])
    left, up = coil.flat(sides[:, 0], sides[:, 1])
    local = _outside(local, coil.radius - float(np.abs(left).max()) - 2 * PAST)
    on, inward, high = local.T
    out = -coil.hand * inward
    first = math.atan2(float(on.mean()), float(out.mean()))
    round_ = (np.arctan2(on, out) - first + math.pi) % (2 * math.pi) - math.pi
    if np.ptp(round_) > _ROUND or np.abs(round_).max() > _ROUND:
        return None
    c, s, half = math.cos(coil.slope), math.sin(coil.slope), part.length / 2
    most, turns = float(np.abs(up).max()), math.ceil(coil.turn(part.length) / (2 * math.pi)) + 1
    found = []
    for n in range(-turns, turns + 1):
        angles = first + round_ + 2 * math.pi * n
        a = (float(angles.min()) * coil.radius - most * abs(s)) / c - PAST
        b = (float(angles.max()) * coil.radius + most * abs(s)) / c + PAST
        low, high_ = sorted((a * s, b * s))
        meets = low - most * c < float(high.max()) + PAST and float(high.min()) - PAST < high_ + most * c
        if meets and b > -half and a < half:
            found.append((a + half, b + half))
    return found[0] if len(found) == 1 else None


def _outside(corners: Vec, radius: float) -> Vec:
    """Points along all lines between corners of a box that lie farther from the axis than a radius; the corners, where
    none does."""
    share = np.linspace(0.0, 1.0, _POINTS)[:, None, None]
    i, j = np.triu_indices(len(corners), 1)
    points = (corners[i] + share * (corners[j] - corners[i])).reshape(-1, 3)
    far = np.hypot(points[:, 0], points[:, 1]) > radius
    return points[far] if far.any() else corners


# -- of a member ----------------------------------------------------------------------------------------------


def stretch(body: Body, points: Vec) -> Body:
    """The stretch of a member that holds all of it beside points (n, 3) of the model; all of it where it is short, cut
    to an outline, bent to an arc or of two lengths. Of a round one it does not matter how it is turned about its axis:
    it is turned to the first of the points."""
    record = body.record
    several = record.double is not None or record.turnbuckle is not None
    if record.blank is not None or several or not (body.arc is None or isinstance(body.arc, Helix)):
        return body
    if body.length < _LONG:
        return body
    local = body.arc.unrolled(points) if body.arc else body.frame.to_local(points)
    corners = np.array([(y, z) for y in (-0.5, 0.5) for z in (-0.5, 0.5)]) * (body.section.b, body.section.d)
    left, right = (cut.x(*corners.T) for cut in own_ends(body))
    a, b = _kept(_span(local[:, 0]), (float(left.max()) + _BESIDE, float(right.min()) - _BESIDE), body.length)
    if b - a > _MOST * body.length:
        return body
    ends = {} if a == 0.0 else {"left_back": 0.0, "left_cut": END_CUTS[0]}
    ends |= {} if b == body.length else {"right_back": 0.0, "right_cut": END_CUTS[0]}
    if isinstance(body.arc, Helix):
        return _wound(body, body.arc, (a / body.length, b / body.length), ends)
    run = (np.asarray(record.end) - record.start) / body.length
    start, end = (tuple(float(v) for v in np.asarray(record.start) + run * at) for at in (a, b))
    frame = body.frame.moved((a, 0.0, 0.0))
    if body.section.form in profile.ROUNDS:
        frame = _turned_to(frame, points[0])
    return Body(replace(record, start=start, end=end, **ends), body.section, frame)


def _turned_to(frame: Placement, point: Vec) -> Placement:
    """A frame turned about its own x so that its y looks to where a point lies."""
    _, y, z = frame.to_local(point).tolist()
    long = math.hypot(y, z)
    if long < 1.0:
        return frame
    c, s = y / long, z / long
    return Placement(frame.origin, frame.axes @ np.array([[1.0, 0, 0], [0, c, -s], [0, s, c]]))


def _wound(body: Body, helix: Helix, share: Span, ends: dict[str, object]) -> Body:
    """A stretch of a member that climbs, by shares of its length."""
    record, climb = body.record, body.record.climb
    assert climb is not None
    part, rise = share[1] - share[0], record.end[2] - record.start[2]
    start, end = (climb.at(record.start, t, rise) for t in share)
    turn = helix.turn * share[0]
    c, s = math.cos(turn), math.sin(turn)
    frame = helix.frame.moved((0.0, 0.0, helix.rise * share[0]))
    frame = Placement(frame.origin, frame.axes @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]]))
    arc = replace(helix, frame=frame, turn=helix.turn * part, rise=helix.rise * part)
    own = replace(record, start=start, end=end, climb=replace(climb, turn=round(climb.turn * part, 9)), **ends)
    return Body(own, body.section, arc.at(0.0), arc)
