"""Work planes: what picks and typed points lie on. A plane's z is out of it, towards who looks at it."""

from __future__ import annotations

import math

import msgspec
import numpy as np
from numpy.typing import ArrayLike

from uncus.frame.axes import NORTH, UP, is_vertical
from uncus.frame.grids import Run
from uncus.frame.placement import Placement, Vec, point_of, unit
from uncus.job.errors import JobError
from uncus.job.records import Level, WorkPlane


class Plane(msgspec.Struct, frozen=True, eq=False):
    """A plane in use: its name, where it comes from (`base`), how far it is moved out of there, and its record's id
    where it is kept."""

    name: str
    base: Placement
    depth: float = 0.0
    id: str = ""

    @property
    def place(self) -> Placement:
        return self.base.moved((0.0, 0.0, self.depth))

    @property
    def level(self) -> bool:
        """Whether it lies level, its z up."""
        return float(self.base.z[2]) > 1 - 1e-9

    def deeper(self, depth: float) -> Plane:
        """The same plane at another depth from where it comes from (out is +)."""
        return msgspec.structs.replace(self, depth=depth)

    def away(self, point: ArrayLike) -> float:
        """How far a model point is out of the plane (+) or behind it."""
        return float(self.place.to_local(point)[..., 2])

    def onto(self, point: ArrayLike) -> Vec:
        """A model point dropped square onto the plane."""
        p = np.asarray(point, dtype=np.float64)
        return p - self.away(p) * self.base.z

    def under(self, origin: ArrayLike, direction: ArrayLike) -> Vec | None:
        """Where a sight line meets the plane; None where it runs along it."""
        o, d = np.asarray(origin, dtype=np.float64), np.asarray(direction, dtype=np.float64)
        slope = float(d @ self.base.z)
        if abs(slope) < 1e-6:
            return None
        return o - d * (self.away(o) / slope)

    def record(self, id: str, name: str) -> WorkPlane:
        """The plane as it is kept."""
        b = self.base
        return WorkPlane(
            id=id, name=name, origin=point_of(b.origin), x=point_of(b.x), y=point_of(b.y), depth=self.depth
        )


def _axes(x: Vec, y: Vec) -> Vec:
    return np.column_stack([x, y, np.cross(x, y)])


def level_plane(level: Level) -> Plane:
    """The plane of a level: x and y as the grid's."""
    return Plane(level.name, Placement((0.0, 0.0, level.elevation), np.eye(3)), id=level.id)


def kept_plane(record: WorkPlane) -> Plane:
    x, y = np.asarray(record.x), np.asarray(record.y)
    return Plane(record.name, Placement(record.origin, _axes(x, y)), record.depth, record.id)


def wall_plane(run: Run) -> Plane:
    """The upright plane through a grid line: x along the line, y up. Lettered walls are seen from the south, numbered
    ones from the east."""
    along = np.array([run.along[0], run.along[1], 0.0])
    return Plane(f"grid {run.label}", Placement((run.origin[0], run.origin[1], 0.0), _axes(along, UP)))


def face_plane(at: ArrayLike, normal: ArrayLike, words: str = "face") -> Plane:
    """The plane of a flat face through a point of it: y as far up as it can be (north on level faces)."""
    z = unit(normal)
    reference = NORTH if is_vertical(z) else UP
    y = unit(reference - (reference @ z) * z)
    return Plane(words, Placement(at, np.column_stack([np.cross(y, z), y, z])))


def member_plane(frame: Placement, words: str, flat: bool = False) -> Plane:
    """The plane of a member's web through its work line (x along it, y up the web), or of its flange (`flat`)."""
    if flat:
        return Plane(f"flange of {words}", Placement(frame.origin, _axes(frame.x, frame.y)))
    return Plane(f"web of {words}", Placement(frame.origin, _axes(frame.x, frame.z)))


def three_points(a: ArrayLike, b: ArrayLike, c: ArrayLike) -> Plane:
    """The plane through three points: origin at the first, x to the second, the third on the side of y.

    Raises JobError where they are in line or the same.
    """
    a, b, c = (np.asarray(p, dtype=np.float64) for p in (a, b, c))
    if min(math.dist(a, b), math.dist(a, c), math.dist(b, c)) < 1.0:
        raise JobError("Two of the three points are the same; pick three different ones.")
    x = unit(b - a)
    off = (c - a) - ((c - a) @ x) * x
    if np.linalg.norm(off) < 1.0 or np.linalg.norm(off) < 1e-5 * np.linalg.norm(c - a):
        raise JobError("The three points are in line, so no one plane goes through them; pick the third off the line.")
    return Plane("three points", Placement(a, _axes(x, unit(off))))


def view_plane(at: ArrayLike, right: ArrayLike, up: ArrayLike) -> Plane:
    """The plane through a point, square to the line of sight."""
    x = unit(right)
    y = np.asarray(up, dtype=np.float64)
    return Plane("view", Placement(at, _axes(x, unit(y - (y @ x) * x))))
