"""Where a reference lies in the job: by a typed offset and turn, or so that two points of it come on two of the job."""

from __future__ import annotations

import math

import msgspec
import numpy as np
from numpy.typing import ArrayLike, NDArray

from uncus.frame.placement import Placement, point_of
from uncus.job.errors import JobError
from uncus.job.record import Point
from uncus.job.references import Reference

Array = NDArray[np.float64]
FAR_OFF = 2_000_000.0  # mm from the origin beyond which coordinates are a survey's
_WHOLE = 1000.0  # mm that a shift is whole of
_NEAR = 1.0  # mm that two picked points are apart at least


def matrix_of(of: Reference) -> Array:
    """(3, 4): from the file's millimetres to the job's."""
    x, y = np.array(of.x), np.array(of.y)
    axes = np.column_stack([x, y, np.cross(x, y)])
    c, s = math.cos(math.radians(of.turn)), math.sin(math.radians(of.turn))
    turned = axes @ np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    return np.column_stack([of.scale * turned, turned @ np.array(of.shift) + np.array(of.origin)])


def placed(of: Reference, points: ArrayLike) -> Array:
    """Points (..., 3) of the file in the job."""
    matrix = matrix_of(of)
    return np.asarray(points, dtype=np.float64) @ matrix[:, :3].T + matrix[:, 3]


def in_file(of: Reference, points: ArrayLike) -> Array:
    """Points (..., 3) of the job in the file."""
    matrix = matrix_of(of)
    return (np.asarray(points, dtype=np.float64) - matrix[:, 3]) @ matrix[:, :3] / of.scale**2


def frame_of(of: Reference) -> Placement:
    """The place of the file's axes in the job; it says nothing of scale."""
    matrix = matrix_of(of)
    return Placement(matrix[:, 3], matrix[:, :3] / of.scale)


def shift_for(extent: tuple[Array, Array] | None) -> Point:
    """By how much a model is to be moved to lie near the job's origin: nothing, or whole metres of survey coordinates;
    its height stays unless that is far off too."""
    if extent is None:
        return 0.0, 0.0, 0.0
    low, high = extent
    off = [0.0 if max(abs(a), abs(b)) < FAR_OFF else -round((a + b) / 2 / _WHOLE) * _WHOLE
        for a, b in zip(low.tolist(), high.tolist(), strict=True)]  # fmt: skip
    return off[0] + 0.0, off[1] + 0.0, off[2] + 0.0


def by_two_points(of: Reference, a: Point, b: Point, to_a: Point, to_b: Point, scales: bool = False) -> Reference:
    """The reference turned in its own plane and moved so that what lies at `a` comes to `to_a`, and what lies at `b` in
    the direction of `to_b`; `scales`: to `to_b` itself. All four are points of the job. Raises JobError where two of
    them are one as its plane sees them."""
    plane = np.column_stack([of.x, of.y])
    was, want = np.subtract(b, a) @ plane, np.subtract(to_b, to_a) @ plane
    if min(np.hypot(*was), np.hypot(*want)) < _NEAR:
        raise JobError("The two points lie over each other; pick two that are apart in its plane.")
    turn = math.degrees(math.atan2(want[1], want[0]) - math.atan2(was[1], was[0]))
    point = in_file(of, a)
    scale = of.scale * (float(np.hypot(*want) / np.hypot(*was)) if scales else 1.0)
    # the shift is added after scaling: the file's own far origin stays taken out
    shift = point_of(np.array(of.shift) * scale / of.scale)
    made = msgspec.structs.replace(of, turn=(of.turn + turn) % 360.0, scale=scale, shift=shift)
    off = np.array(to_a) - placed(made, point)
    return msgspec.structs.replace(made, origin=point_of(np.array(made.origin) + off))
