"""Members moved, turned, mirrored, arrayed and flipped (what is joined to them goes along by `carrying`)."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import ArrayLike

from uncus.catalog.sections import Form, UnknownSection, section
from uncus.frame.axes import work_axes
from uncus.frame.placement import Vec, tidied, unit
from uncus.frame.roll import towards
from uncus.job.errors import JobError
from uncus.job.records import Climb, End, Line, Member, Point

MOST = 20_000  # new members in one go: ten times the largest job this is made for
replace = msgspec.structs.replace


class Motion(msgspec.Struct, frozen=True, eq=False):
    """A rigid motion of points p -> turn @ p + shift; a mirror's determinant is -1."""

    turn: Vec
    shift: Vec

    def __call__(self, point: ArrayLike) -> Vec:
        return np.asarray(self.turn @ np.asarray(point, dtype=np.float64) + self.shift)

    @property
    def mirrors(self) -> bool:
        return float(np.linalg.det(self.turn)) < 0


def move_by(vector: ArrayLike) -> Motion:
    return Motion(np.eye(3), np.asarray(vector, dtype=np.float64))


def turn_about(point: ArrayLike, axis: ArrayLike, degrees: float) -> Motion:
    """Counter-clockwise about an axis through a point (Rodrigues)."""
    k, p = unit(axis), np.asarray(point, dtype=np.float64)
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    cross = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
    turn = np.eye(3) * c + cross * s + np.outer(k, k) * (1 - c)
    turn = np.where(np.abs(turn - np.round(turn)) < 1e-12, np.round(turn), turn)
    return Motion(turn, p - turn @ p)


def mirror_in(point: ArrayLike, normal: ArrayLike) -> Motion:
    n, p = unit(normal), np.asarray(point, dtype=np.float64)
    turn = np.eye(3) - 2 * np.outer(n, n)
    turn = np.where(np.abs(turn - np.round(turn)) < 1e-12, np.round(turn), turn)
    return Motion(turn, p - turn @ p)


# -- one member -----------------------------------------------------------------------------------------


def _form(member: Member) -> Form:
    try:
        return section(member.section).form
    except UnknownSection:
        return Form.I


def _roll_of(start: Point, end: Point, z: Vec) -> float:
    probe = Member(role="beam", section="", start=start, end=end)  # type: ignore[arg-type]
    return round(towards(probe, z), 6) % 360.0


def transformed(member: Member, motion: Motion) -> Member:
    """A member as a motion takes it: its steel comes to lie exactly there.

    Mirrored, a section that is its own mirror image keeps its ends; a channel or angle is turned end for end, which
    makes the mirror image of the same stock.
    """
    a, b = tidied(motion(member.start)), tidied(motion(member.end))
    if member.climb is not None:
        return _climbing(member, member.climb, motion, (a, b))
    if member.blank is not None and motion.mirrors:
        member = replace(member, blank=member.blank.mirrored())
    if member.item is not None and motion.mirrors:  # whether its maker makes it so is said where it is made
        member = replace(member, item=replace(member.item, mirrored=not member.item.mirrored))
    z = motion.turn @ work_axes(np.asarray(member.start), np.asarray(member.end), member.roll).z
    bow = tidied(motion.turn @ np.asarray(member.bow))
    if swaps_ends(member, motion):
        return replace(replace(member, start=a, end=b, bow=bow).end_for_end(), roll=_roll_of(b, a, z))
    aside = -member.aside + 0.0 if motion.mirrors else member.aside  # near is far in a mirror
    return replace(member, start=a, end=b, roll=_roll_of(a, b, z), aside=aside, bow=bow)


def _climbing(member: Member, climb: Climb, motion: Motion, ends: tuple[Point, Point]) -> Member:
    """A member that climbs, which stays about a plumb axis. Raises JobError where the motion lays that over."""
    about = f"The {member.role} {member.section} climbs about a plumb axis"
    if float(motion.turn[2, 2]) < 1 - 1e-9:
        raise JobError(f"{about} and is moved and turned about plumb lines only.")
    x, y, _ = tidied(motion((climb.x, climb.y, 0.0)))
    if not motion.mirrors:
        return replace(member, start=ends[0], end=ends[1], climb=replace(climb, x=x, y=y))
    form = _form(member)
    if form is Form.ANGLE:
        raise JobError(f"{about}: an angle has no mirror image of the same stock that does; draw it anew.")
    roll = -member.roll % 360.0 if form is Form.TEE else (180.0 - member.roll) % 360.0
    aside, rise = (member.aside, -member.rise) if form is not Form.TEE else (-member.aside, member.rise)
    return replace(member, start=ends[0], end=ends[1], climb=replace(climb, x=x, y=y, turn=-climb.turn), roll=roll,
        aside=aside + 0.0, rise=rise + 0.0)  # fmt: skip


class Turned(NamedTuple):
    """Which of a member's own directions point the other way after it was mirrored or flipped: its ends changed places,
    its near side is far, its top is its bottom."""

    ends: bool = False
    sides: bool = False
    tops: bool = False


def turned_by(member: Member, motion: Motion) -> Turned:
    """How `transformed` turns the member's own directions."""
    swaps = swaps_ends(member, motion)
    return Turned(ends=swaps, sides=motion.mirrors and not swaps)


def swaps_ends(member: Member, motion: Motion) -> bool:
    """Whether `transformed` turns the member end for end."""
    return motion.mirrors and _form(member) in (Form.CHANNEL, Form.ANGLE) and member.double is None


def turned_by_flip(member: Member) -> Turned:
    """How `flipped` turns the member's own directions."""
    channel = _form(member) is Form.CHANNEL
    return Turned(ends=True, sides=not channel, tops=channel)


def flipped(member: Member) -> Member:
    """The other end called left, the steel staying where it is.

    Raises JobError for an angle with unequal legs: the same steel seen from its other end is another piece.
    """
    form = _form(member)
    if member.climb is not None:
        raise JobError(f"The {member.role} {member.section} climbs from its left end; give it the other turn instead.")
    if member.item is not None:
        raise JobError(f"The {member.words} stands out from its foot; turn it instead.")
    axes = work_axes(np.asarray(member.start), np.asarray(member.end), member.roll)
    turned = member.end_for_end()
    if form is Form.CHANNEL:
        # toes stay where they are: y keeps its way, so z and with it top and bottom change places
        other = {Line.TOP: Line.BOTTOM, Line.BOTTOM: Line.TOP}.get(member.line, member.line)
        return replace(turned, roll=_roll_of(member.end, member.start, -axes.z), line=other, rise=-member.rise + 0.0)
    if form is Form.ANGLE and member.double is None:
        found = section(member.section)
        if abs(found.d - found.b) > 0.01 or abs(found.tw - found.tf) > 0.01:
            raise JobError(
                f"The {member.role} {member.section} has unequal legs and cannot keep its place with its ends "
                f"exchanged; "
                "mirror it or turn its toes instead."
            )
        if member.line is not Line.CENTRE or member.rise or member.aside:
            raise JobError(
                f"The {member.role} {member.section} would leave its place: set its work line at centre first, then "
                f"flip."
            )
        # the legs change names: the heel stays if z takes the old y's way
        return replace(turned, roll=_roll_of(member.end, member.start, axes.y))
    return replace(turned, roll=_roll_of(member.end, member.start, axes.z), aside=-member.aside + 0.0)


# -- arrays -----------------------------------------------------------------------------------------------


def array(count: int, step: ArrayLike) -> list[Motion]:
    """`count` further copies, each a step on. Raises JobError for none or far too many."""
    if count < 1:
        raise JobError("An array needs at least one copy.")
    if count > MOST:
        raise JobError(
            f"An array of {count:,} is more than the {MOST:,} that can be made at once; give a smaller count."
        )
    vector = np.asarray(step, dtype=np.float64)
    if np.linalg.norm(vector) < 1.0:
        raise JobError("The copies would lie on one another; give a spacing.")
    return [move_by(vector * (n + 1)) for n in range(count)]


# -- work points --------------------------------------------------------------------------------------------


def move_work_point(members: Sequence[Member], old: ArrayLike, new: ArrayLike, reach: float = 1.0) -> list[Member]:
    """All members with a work point at a place, with it moved; what lands along a member that swings follows too.

    A point on the line of a member that swings keeps its share of the length; where a member only grows or shrinks
    along its own line, what lands on it stays. Members that would shrink to nothing raise JobError.
    """
    start_at, to = np.asarray(old, dtype=np.float64), tidied(new)
    now = {m.id: m for m in members}
    queue: list[Callable[[Vec], Vec | None]] = [
        lambda p: np.asarray(to) if np.linalg.norm(p - start_at) <= reach else None
    ]
    settled: set[tuple[str, End]] = set()
    changed: dict[str, Member] = {}
    while queue:
        rule = queue.pop(0)
        for m in members:
            ends = []
            for end, p in ((End.LEFT, m.start), (End.RIGHT, m.end)):
                there = None if (m.id, end) in settled else rule(np.asarray(p))
                if there is not None:
                    settled.add((m.id, end))
                    if math.dist(there, p) > 1e-3:
                        ends.append((end, tidied(there)))
            if not ends:
                continue
            current = now[m.id]
            for end, p in ends:
                current = replace(current, start=p) if end is End.LEFT else replace(current, end=p)
            current = replace(current, bow=_squared(current))
            now[m.id] = changed[m.id] = current
            if not _in_line(m, current):  # what stands on a column that only grows stays where it is
                queue.append(_swing(m, current, reach))
    for m in changed.values():
        if problem := m.problem():
            raise JobError(f"{problem[:-1]}: the work point cannot go there.")
    return list(changed.values())


def _squared(m: Member) -> Point:
    """Its bow, as long as it was, square to its line as that runs now."""
    if not m.is_rolled or m.work_length < 1.0:
        return m.bow
    x, bow = unit(np.subtract(m.end, m.start)), np.asarray(m.bow)
    across = bow - (bow @ x) * x
    if np.linalg.norm(across) < 0.05:
        return 0.0, 0.0, 0.0
    return tidied(unit(across) * np.linalg.norm(bow))


def _in_line(before: Member, after: Member) -> bool:
    x = unit(np.subtract(before.end, before.start))
    points = np.subtract([after.start, after.end], before.start)
    return bool(np.abs(points - np.outer(points @ x, x)).max() < 1e-6)


def _swing(before: Member, after: Member, reach: float) -> Callable[[Vec], Vec | None]:
    """Takes points along a member's line before to the same share of it after."""
    a, b = np.asarray(before.start), np.asarray(before.end)
    c, d = np.asarray(after.start), np.asarray(after.end)
    size = float((b - a) @ (b - a))

    def rule(p: Vec) -> Vec | None:
        t = float((p - a) @ (b - a)) / size
        if t * math.sqrt(size) < -reach or (t - 1) * math.sqrt(size) > reach:
            return None
        if np.linalg.norm(a + t * (b - a) - p) > reach:
            return None
        return np.asarray(c + t * (d - c))

    return rule
