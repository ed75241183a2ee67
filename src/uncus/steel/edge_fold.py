"""Two plates that meet at an edge made one plate that is bent there."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import msgspec
import numpy as np
import shapely

from uncus.catalog.bending import usual_radius
from uncus.catalog.sections import section
from uncus.frame.cuts import Done, as_one
from uncus.frame.outlines import points_of
from uncus.frame.placement import Placement, Vec, unit
from uncus.frame.plates import each, plate_frame, with_blank
from uncus.job.blanks import Blank, Corner, Fold, HoleRow, Ring
from uncus.job.errors import JobError
from uncus.job.records import Attachment, Connection, Member
from uncus.steel.blanks import ordered
from uncus.steel.forming import neutral_radius
from uncus.units import Units, format_angle, format_length

replace = msgspec.structs.replace
_LEAST, _MOST = 1.0, 170.0  # degrees that the two stand at to one plane
_PARALLEL = math.radians(0.5)
_FAR = 1e5
_WIDTHS = 0.1  # mm by which the two edges may differ and still be as wide
_SHORT = 5.0  # mm: less of the edges side by side is no edge to join at


class _Line(NamedTuple):
    """Where the middle planes of two plates cross: a point of it, the way along it (what lies to its left is bent up),
    and the way from it into the second plate, in the model; the angle in degrees, towards the first one's near side
    where positive."""

    at: Vec
    along: Vec
    into: Vec
    angle: float


class _Edge(NamedTuple):
    """An edge of a ring: the number of its first corner, and from where to where it runs along the line."""

    n: int
    low: float
    high: float


def bent_as_one(
    one: Member, other: Member, units: Units, grade: str, records: tuple[Sequence[Connection], Sequence[Attachment]]
) -> Done:
    """The same with the radius that plates of a `grade` are usually bent to, and what becomes of their joints."""
    radius = usual_radius(one.grade or grade, section(one.section).tw)
    whole = folded_of(one, other, radius, units)
    first, second = (one, other) if whole.id == one.id else (other, one)
    assert whole.blank is not None
    angle = format_angle(abs(whole.blank.folds[-1].angle))
    words = f"One plate, bent by {angle} to {format_length(radius, units)} inside; its radius is among its facts."
    return as_one(whole, (first, second), (first, second), *records, words)


def folded_of(one: Member, other: Member, radius: float, units: Units) -> Member:
    """The first plate with the second unfolded beside it, a bend of an inside `radius` between them. The edges are
    brought to the bend, longer or shorter. Raises JobError, with the reason, where they are not one bent plate."""
    if one.blank is None or other.blank is None:
        raise JobError("Only plates are made one bent plate; pick two plates.")
    if other.blank.folds and not one.blank.folds:
        one, other = other, one
    a, b = one.blank, other.blank
    assert a is not None
    assert b is not None
    if b.folds:
        raise JobError("Both plates are bent already; take the bends of one away, or bend it anew from the other.")
    thickness = section(one.section).tw
    if abs(thickness - section(other.section).tw) > 0.01 or one.grade != other.grade or a.lugs != b.lugs:
        raise JobError("The two plates are not of one thickness, grade and surface; make them alike first.")
    line = _meeting(one, other)
    turn = math.radians(abs(line.angle))
    back = (radius + thickness / 2) * math.tan(turn / 2)
    take = turn * neutral_radius(radius, thickness)
    reach = back + 2 * thickness + radius
    _refuse_turned(one, a, line)
    here, there = _laid(plate_frame(one), line, 0.0), _laid(plate_frame(other), line, line.angle)
    ring_a, edge_a = _trimmed(_moved_ring(a.outline, here), -back, reach, "first")
    ring_b, edge_b = _trimmed(_moved_ring(b.outline, there), back, reach, "second")
    low, high = max(edge_a.low, edge_b.low), min(edge_a.high, edge_b.high)
    if high - low < _SHORT:
        raise JobError("The edges of the two plates do not lie beside each other; bring them side by side first.")
    shift = take - 2 * back  # of the second, laid flat beyond the bend
    ring_b = tuple(replace(c, z=c.z + shift) for c in ring_b)
    ring = _joined((ring_a, edge_a), (ring_b, edge_b), (low, high), (-back, take - back))
    middle = take / 2 - back
    to_plate = _back(plate_frame(one), line)
    x1, z1, x2, z2 = (v for at in (low, high) for v in to_plate @ (at, middle, 1.0))
    fold = Fold(float(x1), float(z1), float(x2), float(z2), line.angle, radius)
    openings = [_moved_ring(o, there, shift) for o in b.openings]
    blank = Blank(
        _moved_ring(ring, to_plate),
        (*a.openings, *(_moved_ring(o, to_plate) for o in openings)),
        (*a.holes, *(_moved_hole(_moved_hole(h, there, shift), to_plate) for row in b.holes for h in each(row))),
        (*a.folds, fold),
        a.lugs,
    )
    shape = shapely.Polygon(points_of(blank.outline))
    if not shape.is_valid:
        raise JobError("Laid flat, the two plates run into one another; they are not cut from one piece.")
    try:
        ordered(blank.folds, shape, thickness)
    except ValueError as error:
        raise JobError(f"The two plates are not bent from one: {error}.") from error
    return with_blank(one, blank, units)


def _refuse_turned(plate: Member, blank: Blank, line: _Line) -> None:
    """Raises JobError where the line lies on a flat that a plate's own bends turn."""
    (x, _, z), t = plate_frame(plate).to_local(line.at), section(plate.section).tw
    bends = ordered(blank.folds, shapely.Polygon(points_of(blank.outline)), t)
    if any(float(bend.off(x, z)) > 0 for bend in bends):
        raise JobError("The two plates meet at a flat that is bent up already; join them at the flat that stays, or "
            "turn its bends about.")  # fmt: skip


def _meeting(one: Member, other: Member) -> _Line:
    """Where two plates' middle planes cross, and how."""
    a, b = plate_frame(one), plate_frame(other)
    crossed = np.cross(a.y, b.y)
    if float(np.linalg.norm(crossed)) < math.sin(math.radians(_LEAST)):
        raise JobError("The two plates lie in one plane or in two that are parallel; there is nothing to bend between.")
    along = unit(crossed)
    at = np.linalg.solve(
        np.stack([a.y, b.y, along]), [float(a.y @ a.origin), float(b.y @ b.origin), float(along @ a.origin)]
    )
    middles = [_middle(m) - at for m in (one, other)]
    to_one, to_other = (m - along * float(m @ along) for m in middles)
    left = np.cross(along, a.y)  # seen from the near side, against y
    if float(left @ to_one) > 0:  # the first lies to the right of the line, the second is bent up to its left
        along, left = -along, -left
    into = unit(np.cross(b.y, along))
    into = into if float(into @ to_other) > 0 else -into
    angle = math.degrees(math.atan2(float(-a.y @ into), float(left @ into)))
    if abs(angle) > _MOST:
        raise JobError(f"The two plates lie on one another by more than {_MOST:g} degrees; no press bends that.")
    return _Line(np.asarray(at, dtype=np.float64), along, into, angle)


def _middle(plate: Member) -> Vec:
    """The middle of what of a plate stays where its outline lies when it is bent."""
    assert plate.blank is not None
    shape = shapely.Polygon(points_of(plate.blank.outline))
    for fold in plate.blank.folds:
        run = np.array([fold.x2 - fold.x1, fold.z2 - fold.z1])
        run = run / np.hypot(*run) * _FAR
        at, right = np.array([fold.x1, fold.z1]), np.array([run[1], -run[0]])
        shape = shape.intersection(shapely.Polygon([at - run, at + run, at + run + right, at - run + right]))
    spot = shape.centroid
    return plate_frame(plate).to_model((spot.x, 0.0, spot.y))


def _laid(frame: Placement, line: _Line, angle: float) -> Vec:
    """(2, 3): from a plate's own x and z to how far along the line and how far into the second plate's side, flat."""
    into = line.into if angle else np.cross(line.along, frame.y)
    rows = np.stack([line.along, into])
    return np.column_stack([rows @ frame.x, rows @ frame.z, rows @ (frame.origin - line.at)])


def _back(frame: Placement, line: _Line) -> Vec:
    """(2, 3): from along and beyond the line to the first plate's own x and z."""
    there = _laid(frame, line, 0.0)
    turn = np.linalg.inv(there[:, :2])
    return np.column_stack([turn, -turn @ there[:, 2]])


def _moved_ring(ring: Ring, to: Vec, up: float = 0.0) -> Ring:
    """A ring carried over, and gone round the other way where that mirrors it, so that it keeps its sense."""
    spots = [to @ (c.x, c.z, 1.0) for c in ring]
    made = [replace(c, x=float(s[0]), z=float(s[1]) + up) for c, s in zip(ring, spots, strict=True)]
    if np.linalg.det(to[:, :2]) > 0:
        return tuple(made)
    return tuple(replace(made[i], bulge=made[i - 1].bulge) for i in range(len(made) - 1, -1, -1))


def _moved_hole(hole: HoleRow, to: Vec, up: float = 0.0) -> HoleRow:
    x, z = to @ (hole.x, hole.z, 1.0)
    turn = math.radians(hole.angle)
    way = to[:, :2] @ (math.cos(turn), math.sin(turn))
    angle = math.degrees(math.atan2(way[1], way[0])) % 180.0 if hole.slot else 0.0
    return replace(hole, x=float(x), z=float(z) + up, angle=round(angle, 9))


def _trimmed(ring: Ring, to: float, reach: float, which: str) -> tuple[Ring, _Edge]:
    """A plate's outline, along and beyond the line, with its edge there brought to where the bend begins."""
    best: _Edge | None = None
    for n, (c, d) in enumerate(zip(ring, (*ring[1:], ring[0]), strict=True)):
        straight = not c.bulge and abs(math.atan2(abs(d.z - c.z), abs(d.x - c.x))) < _PARALLEL
        if straight and max(abs(c.z), abs(d.z)) < reach:
            edge = _Edge(n, min(c.x, d.x), max(c.x, d.x))
            best = edge if best is None or edge.high - edge.low > best.high - best.low else best
    if best is None:
        raise JobError(f"No straight edge of the {which} plate lies where the two planes cross; bring its edge there.")
    first, second = best.n, (best.n + 1) % len(ring)
    made = list(ring)
    made[first] = replace(_slid(ring[first - 1], ring[first], to), bulge=0.0)
    made[second] = _slid(ring[(second + 1) % len(ring)], ring[second], to, back=ring[second].bulge)
    ends = sorted((made[first].x, made[second].x))
    over = [c for n, c in enumerate(made) if n not in (first, second) and (c.z - to) * (1 if to < 0 else -1) > 0.05]
    if over:
        raise JobError(f"The {which} plate goes on past the line where the two planes cross; cut it there first.")
    return tuple(made), _Edge(first, *ends)


def _slid(before: Corner, corner: Corner, to: float, back: float = 0.0) -> Corner:
    """A corner moved to the line at `to`, along the straight edge that runs to it from another; square to the line
    where that edge is an arc or runs along it."""
    rise = corner.z - before.z
    x = corner.x
    if not before.bulge and not back and abs(rise) > 0.2 * abs(corner.x - before.x):
        x = before.x + (corner.x - before.x) * (to - before.z) / rise
    return replace(corner, x=x, z=to, round=0.0, clip=0.0)


def _joined(
    one: tuple[Ring, _Edge], other: tuple[Ring, _Edge], span: tuple[float, float], zone: tuple[float, float]
) -> Ring:
    """Both outlines as one, with the bend's zone between them as wide as both are."""
    (ring_a, edge_a), (ring_b, edge_b) = one, other
    low, high = span
    a = _opened(ring_a, edge_a)  # ends at the edge's higher end: the first lies below the line
    b = _opened(ring_b, edge_b)
    up = [Corner(high, zone[0])] if edge_a.high - high > _WIDTHS else []
    up += [Corner(high, zone[1])] if edge_b.high - high > _WIDTHS else []
    down = [Corner(low, zone[1])] if low - edge_b.low > _WIDTHS else []
    down += [Corner(low, zone[0])] if low - edge_a.low > _WIDTHS else []
    return (*a, *up, *b, *down)


def _opened(ring: Ring, edge: _Edge) -> Sequence[Corner]:
    """A ring from the second corner of an edge round to its first."""
    n = edge.n + 1
    return [*ring[n:], *ring[:n]]
