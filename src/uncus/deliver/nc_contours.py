"""A part unfolded as its NC file sees it: where its steel begins, how its ends are sawn, and the outlines of its
faces."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import shapely
from shapely.geometry import LinearRing, Polygon, box

from uncus.catalog.sections import Form
from uncus.frame.outlines import radius_of, with_arcs
from uncus.steel.features import EndCut, Face
from uncus.steel.flat import face_outline, face_reach, part_faces
from uncus.steel.part import Part

_SAME = 0.01  # mm
_FAR = 1e6  # mm beyond all steel
_PLAIN = 0.5  # mm2 that an outline may lack and still be all of its face
_TUBE_FACES = (Face.WEB, Face.BACK, Face.TOP, Face.BOTTOM)

Points = tuple[tuple[float, float, float], ...]


class Contour(NamedTuple):
    """An outline on a face: points (x, y, radius to the next) in the file's coordinates, closed; `inner` of a
    cut-out."""

    face: Face
    points: Points
    inner: bool


class Picture(NamedTuple):
    """A part as its file sees it: x of the model where the steel starts, the steel's length, and how both ends are sawn
    (square where the saw's plane is not what the steel ends at, and outlines alone make the end)."""

    part: Part
    start: float
    length: float
    saws: tuple[EndCut, EndCut]

    def point(self, face: Face, x: float, w: float) -> tuple[float, float]:
        """A face coordinate as the file's x and y."""
        low, high = self.part.depth_range
        y_low, y_high = self.part.y_range
        y = {Face.WEB: w - low, Face.BACK: high - w, Face.TOP: w - y_low, Face.BOTTOM: y_high - w}[face]
        return x - self.start, y

    def flips(self, face: Face) -> bool:
        """Whether a face is seen mirrored."""
        return face in (Face.BACK, Face.BOTTOM)


def picture_of(part: Part) -> Picture:
    """Where the steel is, after everything that was taken off it."""
    if part.form is Form.TUBE and not part.notches:
        return Picture(part, 0.0, part.length, (part.left, part.right))
    amid = face_reach if part.form is Form.TUBE else face_outline
    (low, high), middle = (_extent(outline(part, face) for face in _seen(part)) for outline in (face_reach, amid))
    sawn = part.section is not None and low < _SAME, part.section is not None and high > part.length - _SAME
    left, start = (part.left, 0.0) if sawn[0] else (EndCut(0.0), middle[0])
    right, stop = (part.right, part.length) if sawn[1] else (EndCut(part.length), middle[1])
    return Picture(part, start, stop - start, (left, right))


def _extent(shapes: Iterable[Polygon]) -> tuple[float, float]:
    """From where to where outlines reach along a part."""
    spans = [shape.bounds for shape in shapes]
    return min(b[0] for b in spans), max(b[2] for b in spans)


def _seen(part: Part) -> tuple[Face, ...]:
    return _TUBE_FACES if part.form is Form.TUBE else part_faces(part)


def contours(part: Part, picture: Picture) -> Iterator[Contour]:
    """Outlines of the faces that are more than the rectangle of the heading, each followed by its cut-outs; of a plate
    always."""
    for face in _seen(part):
        shape = _worked(part, picture, face)
        if part.section is not None and _is_plain(part, picture, face, shape):
            continue
        shape = shapely.simplify(shape, 1e-4)
        yield Contour(face, _closed(part, picture, face, shape.exterior, True), False)
        for ring in shape.interiors:
            yield Contour(face, _closed(part, picture, face, ring, False), True)


def _worked(part: Part, picture: Picture, face: Face) -> Polygon:
    """A face's outline: where a saw makes the end, as far as any of its thickness reaches; where the outline alone
    does, its middle's."""
    reach, middle = face_reach(part, face), part.length / 2
    by_saw = [saw is cut for saw, cut in zip(picture.saws, (part.left, part.right), strict=True)]
    if all(by_saw) or part.form is Form.TUBE:
        return reach
    halves = [box(-_FAR, -_FAR, middle, _FAR), box(middle, -_FAR, _FAR, _FAR)]
    outline = face_outline(part, face)
    left, right = ((reach if sawn else outline).intersection(half) for sawn, half in zip(by_saw, halves, strict=True))
    return left.union(right)


def _is_plain(part: Part, picture: Picture, face: Face, shape: Polygon) -> bool:
    """Whether a face is what the heading says already: all of its width between the saw's cuts."""
    if part.form is Form.TUBE:
        return not any(n.face is face for n in part.notches)
    low, high = part.depth_range if face.upright else part.y_range
    if any(n.face is face for n in part.notches) or part.copes:
        return bool(abs(shape.area - picture.length * (high - low)) < _PLAIN)
    return picture.saws == (part.left, part.right)


def _closed(part: Part, picture: Picture, face: Face, ring: LinearRing, left: bool) -> Points:
    """A ring's points in the file, its arcs made one, counter-clockwise (`left`) or clockwise on the face as the
    file sees it."""
    spots = [picture.point(face, x, w) for x, w in ring.coords[:-1]]
    if (bool(ring.is_ccw) != picture.flips(face)) != left:
        spots.reverse()
    points = _plate_points(spots) if part.is_plate else _with_arcs(spots, _arc_centres(part, picture, face))
    return (*points, points[0])


def _plate_points(spots: Sequence[tuple[float, float]]) -> list[tuple[float, float, float]]:
    """A plate's ring with its arcs made one each, their radius at their first point."""
    along = with_arcs(spots)
    pairs = zip(along, along[1:] + along[:1], strict=True)
    return [(a.x, a.z, math.copysign(radius_of(a, b), a.bulge) if a.bulge else 0.0) for a, b in pairs]


def _arc_centres(part: Part, picture: Picture, face: Face) -> list[tuple[float, float, float]]:
    """Centres and radii of the rounded corners of copes on an upright face, in the file's x and y."""
    if not face.upright:
        return []
    low, high = part.depth_range
    found = []
    for cope in part.copes:
        r = min(cope.radius, cope.length, cope.depth)
        x = part.length - cope.length + r if cope.right else cope.length - r
        z = low + cope.depth - r if cope.bottom else high - cope.depth + r
        if r > 0:
            found.append((*picture.point(face, x, z), r))
    return found


def _with_arcs(
    ring: Sequence[tuple[float, float]], arcs: Sequence[tuple[float, float, float]]
) -> list[tuple[float, float, float]]:
    """The ring with runs of points that lie on an arc made one arc, its radius at the run's first point."""
    on = []
    for x, y in ring:
        on.append(next((i for i, (cx, cy, r) in enumerate(arcs) if abs(math.hypot(x - cx, y - cy) - r) < _SAME), -1))
    n = len(ring)
    start = next((i for i in range(n) if on[i] == -1 or on[i] != on[i - 1]), 0)
    points: list[tuple[float, float, float]] = []
    i = 0
    while i < n:
        at = (start + i) % n
        run = 0
        if on[at] >= 0:
            while run + 1 < n - i and on[(at + run + 1) % n] == on[at]:
                run += 1
        if run >= 2:
            (x0, y0), (xm, ym), (x1, y1) = ring[at], ring[(at + 1) % n], ring[(at + run) % n]
            turn = (xm - x0) * (y1 - ym) - (ym - y0) * (x1 - xm)
            points.append((x0, y0, math.copysign(arcs[on[at]][2], turn)))
            points.append((x1, y1, 0.0))
        else:
            points += [(*ring[(at + k) % n], 0.0) for k in range(run + 1)]
        i += run + 1
    return points
