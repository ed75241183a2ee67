"""A plate bent along a profile: flats from corner to corner of a path, as long as is asked across it."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.bending import least_leg, least_radius, usual_radius
from uncus.compose.kind import Compound, Given, Parts, Piece
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement, Vec, unit
from uncus.frame.plates import SIDES
from uncus.job.blanks import Blank, Fold
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.steel.forming import neutral_radius
from uncus.units import format_length

BOTH, LEFT, RIGHT = WAYS = ("both ways", "to the left of the path", "to the right of the path")
_IN_LINE = math.radians(0.1)
_BACK = math.cos(math.radians(170.0))
_FLAT = 1.0  # mm that corners may lie out of one plane


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    long: Annotated[float, About("Length", low=10, high=15_000, help="Across the profile.")] = 1219.2
    runs: Annotated[str, About("It runs", unit="choice", choices=WAYS)] = BOTH
    thickness: Annotated[float, About("Plate", low=1.5, high=60)] = 6.35
    side: Annotated[str, About("The path lies", unit="choice", choices=SIDES,
        help="In the middle of the plate, or on a face of it.")] = SIDES[0]  # fmt: skip
    radius: Annotated[float | None, About("Inside radius", low=1, high=500,
        help="Left open: a thickness and a half, or what the grade takes.")] = None  # fmt: skip
    grade: Annotated[str, About("Grade", unit="text", help="Left open: what plates are of in this job.")] = ""


class Laid(NamedTuple):
    """A profile in the middle of the plate: its corners (n, 3), the way across it, the angles at the inner corners
    (towards the plate's near side where positive), and the radius."""

    corners: Vec
    across: Vec
    angles: list[float]
    radius: float


def laid_out(given: Given) -> Laid:
    """Raises ValueError for corners that lie in no plane, and for what no press bends."""
    p: Params = given.params
    points = [q for n, q in enumerate(given.points) if n == 0 or np.linalg.norm(q - given.points[n - 1]) > 1.0]
    if len(points) < 2:
        raise ValueError("its profile has no length; pick two corners at least")
    corners = np.array(points)
    steps = np.diff(corners, axis=0)
    turns = [np.cross(a, b) for a, b in zip(steps, steps[1:], strict=False)]
    normal = max(turns, key=np.linalg.norm, default=np.zeros(3))
    if float(np.linalg.norm(normal)) < 1e-6 * float(np.linalg.norm(steps[0])) ** 2 or not turns:
        normal = np.cross(steps[0], (0.0, 0.0, 1.0)) if abs(unit(steps[0])[2]) < 0.999 else np.array([0.0, -1.0, 0.0])
    across = unit(normal)
    if float(np.abs((corners - corners[0]) @ across).max()) > _FLAT:
        raise ValueError("the corners of its profile do not lie in one plane; pick them on one work plane")
    on = steps / np.linalg.norm(steps, axis=1)[:, None]
    if len(on) > 1 and float(np.einsum("ij,ij->i", on[:-1], on[1:]).min()) < _BACK:
        raise ValueError("its profile turns back on itself; a press bends by 170 degrees at most")
    corners = _in_the_middle(corners, across, p)
    steps = np.diff(corners, axis=0)
    angles = []
    for a, b in zip(steps, steps[1:], strict=False):
        near = -np.cross(unit(a), across)
        angles.append(math.degrees(math.atan2(float(unit(b) @ near), float(unit(a) @ unit(b)))))
    grade = p.grade or given.rules.plate_grade
    radius = p.radius if p.radius is not None else usual_radius(grade, p.thickness)
    least = least_radius(grade, p.thickness)
    if least is not None and radius < least[0] - 0.1:
        raise ValueError(f"plate of {grade} so thick is bent to {format_length(least[0], given.units)} inside at least "
            f"({least[1]}); give it that radius")  # fmt: skip
    return Laid(corners, across, angles, radius)


def _in_the_middle(corners: Vec, across: Vec, p: Params) -> Vec:
    """The profile's line in the middle of the plate, where the path is on a face of it."""
    if p.side == SIDES[0]:
        return corners
    right = np.cross(unit(corners[1] - corners[0]), across)
    axes = np.column_stack([unit(corners[1] - corners[0]), right])
    flat = (corners - corners[0]) @ axes
    steps = np.diff(flat, axis=0)
    on = steps / np.linalg.norm(steps, axis=1)[:, None]
    left = np.column_stack([-on[:, 1], on[:, 0]])
    inner = (left[:-1] + left[1:]) / (1.0 + np.einsum("ij,ij->i", left[:-1], left[1:]))[:, None]  # mitres
    off = np.vstack([left[:1], inner, left[-1:]]) * (-1.0 if p.side == SIDES[1] else 1.0) * p.thickness / 2
    return np.asarray(corners[0] + (flat + off) @ axes.T)


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts, laid = Parts(given), laid_out(given)
    t, steps = p.thickness, np.diff(laid.corners, axis=0)
    legs = np.linalg.norm(steps, axis=1)
    back = [0.0, *((laid.radius + t / 2) * math.tan(math.radians(abs(a)) / 2) for a in laid.angles), 0.0]
    at, folds = 0.0, []
    least, source = least_leg(laid.radius)
    for n, leg in enumerate(legs):
        flat = float(leg) - back[n] - back[n + 1]
        outside = flat + (laid.radius + t) * math.tan(math.radians(min(90.0, abs(max(laid.angles, key=abs,
            default=0.0)))) / 2)  # fmt: skip
        if flat < 0.1 or (laid.angles and outside < least - 0.1):
            shown = format_length(least, given.units)
            raise ValueError(f"a leg of its profile is shorter than a bend to that radius takes, {shown} ({source})")
        at += flat
        if n < len(laid.angles) and abs(laid.angles[n]) > math.degrees(_IN_LINE):
            take = math.radians(abs(laid.angles[n])) * neutral_radius(laid.radius, t)
            folds.append(Fold(0.0, at + take / 2, p.long, at + take / 2, laid.angles[n], laid.radius))
            at += take
    start = {BOTH: -p.long / 2, LEFT: -p.long, RIGHT: 0.0}[p.runs]
    along = unit(steps[0])
    axes = np.column_stack([laid.across, np.cross(along, laid.across), along])
    place = Placement(laid.corners[0] + laid.across * start, axes)
    blank = Blank(rectangle((0.0, 0.0), (p.long, at)), (), (), tuple(folds[::-1]))
    parts.plate("plate", Role.PLATE, place, blank, t, grade=p.grade)
    return parts.made


def reading(given: Given) -> str:
    laid = laid_out(given)
    wide = format_length(float(np.linalg.norm(np.diff(laid.corners, axis=0), axis=1).sum()), given.units)
    bends = ", ".join(f"{abs(a):.1f}" for a in laid.angles) or "none"
    return f"{wide} along the profile, bends of {bends} degrees, {format_length(laid.radius, given.units)} inside"


KIND = Compound(
    "bent plate",
    "Bent plate",
    Params,
    ("pick the first corner of its profile", "pick the next corner, or Enter to make it"),
    build,
    "A plate bent along the corners of a profile, so long across it; its blank is unfolded.",
    open=True,
    reading=reading,
    metric={"long": 1200.0, "thickness": 6.0},
)
