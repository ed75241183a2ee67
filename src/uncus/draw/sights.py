"""What a view frame sees: the steel in it, turned to its own axes (u to the right, v up, then towards the viewer), and
where grid lines and levels cross its face."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from functools import lru_cache
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.frame.grids import Family, runs
from uncus.frame.moves import Motion, transformed
from uncus.frame.placement import Placement, Vec
from uncus.job.records import Grid, Level, Member, Point, ViewFrame

replace = msgspec.structs.replace
Spot = tuple[float, float]
_CROSSING = 0.02  # of a plane's normal that lies in the view, less than which it runs along it
_SQUARE = 0.001  # of a view's direction to plumb or level, from which it is neither
_SEEN = 1.0  # mm of a member's line in the frame that make it seen
_PAST = 1500.0  # mm that a grid line is shown past its ends
_COMPASS = ("NORTH", "NORTH-WEST", "WEST", "SOUTH-WEST", "SOUTH", "SOUTH-EAST", "EAST", "NORTH-EAST")


class Line(msgspec.Struct, frozen=True):
    """A grid line or a level where it crosses a view: its name, from where to where (u, v); of a level, its height."""

    name: str
    a: Spot
    b: Spot
    height: float | None = None
    family: str = ""
    askew: bool = False  # the view is neither level nor upright: nothing is measured to it

    @property
    def upright(self) -> bool:
        return not self.askew and abs(self.a[0] - self.b[0]) < 1e-3

    @property
    def flat(self) -> bool:
        return not self.askew and abs(self.a[1] - self.b[1]) < 1e-3


class Shown(NamedTuple):
    """A member turned to a view's axes, and the way of its line in the view where that is bent, else nothing."""

    member: Member
    path: tuple[Spot, ...]


def placed(frame: ViewFrame) -> Placement:
    """A view frame's own axes: right, up, towards the viewer."""
    return _placed(frame.origin, frame.x, frame.y)


@lru_cache(maxsize=1024)
def _placed(origin: Point, x: Point, y: Point) -> Placement:
    axes = np.column_stack([x, y, np.cross(x, y)]).astype(np.float64)
    axes.setflags(write=False)
    return Placement(np.array(origin, dtype=np.float64), axes)


def is_level(frame: ViewFrame) -> bool:
    """Whether it is looked down, or up, along the plumb line."""
    return abs(float(placed(frame).z[2])) > 0.999


def is_upright(frame: ViewFrame) -> bool:
    """Whether it is looked level."""
    return abs(float(placed(frame).z[2])) <= _SQUARE


def looking(frame: ViewFrame) -> str:
    """Which way it is looked, in words."""
    x, y, z = (-placed(frame).z).tolist()
    if abs(z) > math.sqrt(0.5):
        return "SEEN FROM ABOVE" if z < 0 else "SEEN FROM BELOW"
    turn = math.degrees(math.atan2(y, x)) - 90.0
    return f"LOOKING {_COMPASS[round(turn / 45.0) % 8]}"


def shown(frame: ViewFrame, members: Iterable[Member], bent: Mapping[str, Vec]) -> Iterator[Shown]:
    """The members of which something lies in the frame; `bent` are points (n, 3) along those that are no straight
    lines, by id."""
    place, every = placed(frame), list(members)
    low = np.array([-frame.width / 2, -frame.height / 2, -frame.behind])
    high = np.array([frame.width / 2, frame.height / 2, frame.before])
    ends = np.array([(m.start, m.end) for m in every]).reshape(-1, 3)
    within = _inside(place.to_local(ends).reshape(-1, 2, 3), low, high) if every else ()
    for m, straight in zip(every, within, strict=True):
        points = bent.get(m.id)
        if points is None:
            if straight:
                yield Shown(_turned(m, frame.origin, frame.x, frame.y), ())
            continue
        own = place.to_local(points)
        if bool(_inside(np.stack([own[:-1], own[1:]], axis=1), low, high).any()):
            path = tuple((float(u), float(v)) for u, v, _ in own)
            yield Shown(_turned(m, frame.origin, frame.x, frame.y), path)


@lru_cache(maxsize=32_768)
def _turned(m: Member, origin: Point, x: Point, y: Point) -> Member:
    """A member as a straight line in a view's own axes."""
    axes = np.column_stack([x, y, np.cross(x, y)])
    home = Motion(axes.T, -axes.T @ np.asarray(origin))
    return transformed(replace(m, climb=None, bow=(0.0, 0.0, 0.0), blank=None), home)


def _inside(lines: Vec, low: Vec, high: Vec) -> NDArray[np.bool_]:
    """Which lines (n, 2 ends, axes) lie in a box by more than a touch."""
    first, last = shares(lines, low, high)
    long = np.maximum(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1), _SEEN)
    return np.asarray((last - first) * long >= _SEEN * 0.999)


def shares(lines: Vec, low: Vec, high: Vec) -> tuple[Vec, Vec]:
    """From which to which share of them lines (n, 2 ends, axes) lie in a box, n of each: where one does not, the second
    is less than the first (Liang and Barsky, all at once)."""
    start, run = lines[:, 0], lines[:, 1] - lines[:, 0]
    still = np.abs(run) < 1e-9
    with np.errstate(divide="ignore", invalid="ignore"):
        s, t = (low - start) / run, (high - start) / run
    out = (still & ((start < low) | (start > high))).any(axis=1)
    first = np.where(still, -np.inf, np.minimum(s, t)).max(axis=1).clip(min=0.0)
    last = np.where(still, np.inf, np.maximum(s, t)).min(axis=1).clip(max=1.0)
    return first, np.where(out, -1.0, last)


def clipped(a: Vec, b: Vec, low: Vec, high: Vec) -> tuple[float, float] | None:
    """From which to which share of it a line lies in a box of any number of axes; None where it does not (Liang and
    Barsky)."""
    first, last = 0.0, 1.0
    for start, run, near, far in zip(a.tolist(), (b - a).tolist(), low.tolist(), high.tolist(), strict=True):
        if abs(run) < 1e-9:
            if not near <= start <= far:
                return None
            continue
        s, t = sorted(((near - start) / run, (far - start) / run))
        first, last = max(first, s), min(last, t)
    return (first, last) if first <= last else None


def lines(frame: ViewFrame, grid: Grid | None, levels: Iterable[Level]) -> tuple[Line, ...]:
    """The grid lines that cross a view's face within it, then the levels from the lowest up; in a view that is neither
    level nor upright the grid as it lies at the lowest level."""
    place, found = placed(frame), []
    if not is_upright(frame) and abs(float(place.z[2])) < 1.0 - _SQUARE:
        return tuple(_lying(frame, place, grid, min((one.elevation for one in levels), default=0.0)))
    for run in runs(grid) if grid is not None and grid.numbers and grid.letters else ():
        along = np.array([*run.along, 0.0])
        at = np.array([*run.at(run.first), 0.0])
        normal = np.array([-along[1], along[0], 0.0])
        ends = _crossing(frame, place, at, normal)
        if ends is None:
            continue
        t = (place.to_model([(*e, 0.0) for e in ends]) - at) @ along
        share = clipped(t[:1], t[1:], np.array([-_PAST]), np.array([run.last - run.first + _PAST]))
        if share is not None:
            a, b = (ends[0] + s * (ends[1] - ends[0]) for s in share)
            found.append(_line(run.label, a, b, None, "numbers" if run.family is Family.NUMBERS else "letters"))
    for level in sorted(levels, key=lambda one: one.elevation):
        ends = _crossing(frame, place, np.array([0.0, 0.0, level.elevation]), np.array([0.0, 0.0, 1.0]))
        if ends is not None:
            found.append(_line(level.name, ends[0], ends[1], level.elevation))
    return tuple(found)


def _lying(frame: ViewFrame, place: Placement, grid: Grid | None, z: float) -> Iterator[Line]:
    half = np.array([frame.width, frame.height]) / 2
    for run in runs(grid) if grid is not None and grid.numbers and grid.letters else ():
        ends = place.to_local(np.array([(*run.at(t), z) for t in (run.first - _PAST, run.last + _PAST)]))[:, :2]
        share = clipped(ends[0], ends[1], -half, half)
        if share is not None:
            a, b = (ends[0] + s * (ends[1] - ends[0]) for s in share)
            family = "numbers" if run.family is Family.NUMBERS else "letters"
            yield replace(_line(run.label, a, b, None, family), askew=True)


def _line(name: str, a: Vec, b: Vec, height: float | None, family: str = "") -> Line:
    (u1, v1), (u2, v2) = a.round(4).tolist(), b.round(4).tolist()
    ends = sorted(((u1 + 0.0, v1 + 0.0), (u2 + 0.0, v2 + 0.0)), key=lambda p: (round(p[1], 2), p[0]))
    return Line(name, ends[0], ends[1], height, family)


def _crossing(frame: ViewFrame, place: Placement, at: Point | Vec, normal: Vec) -> Vec | None:
    """Where a plane crosses a view's face: both ends (2, 2) within it."""
    n = (place.axes.T @ normal)[:2]
    size = float(np.hypot(*n))
    if size < _CROSSING:
        return None
    off = float((np.asarray(at) - place.origin) @ normal)
    middle, run = n / size**2 * off, np.array([-n[1], n[0]]) / size * (frame.width + frame.height)
    half = np.array([frame.width, frame.height]) / 2
    share = clipped(middle - run, middle + run, -half, half)
    if share is None or share[1] - share[0] < 1e-9:
        return None
    return np.array([middle - run + 2 * s * run for s in share])
