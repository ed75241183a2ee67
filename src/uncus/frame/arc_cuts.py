"""Members rolled to an arc, cut and joined along it: the circle of their work line."""

from __future__ import annotations

import math
from collections.abc import Sequence

import msgspec
import numpy as np

from uncus.frame.axes import work_axes
from uncus.frame.moves import turn_about
from uncus.frame.placement import Vec, tidied, unit
from uncus.frame.roll import towards
from uncus.job.errors import JobError
from uncus.job.records import Line, Member
from uncus.units import Units, format_length

_ON = 1.0  # mm by which two arcs may miss one circle
_GAP = 25.0  # mm that may be missing between two lengths that are joined
_STEPS = 720


class Circle(msgspec.Struct, frozen=True, eq=False):
    """The circle of a member's work line: `across` points from the middle of the chord to that of the arc, `along`
    from its left end to its right; angles run from the middle of the arc, growing to the right."""

    centre: Vec
    radius: float
    along: Vec
    across: Vec

    @classmethod
    def of(cls, m: Member) -> Circle:
        a, b, bow = np.asarray(m.start), np.asarray(m.end), np.asarray(m.bow)
        along = unit(b - a)
        out = bow - (bow @ along) * along
        rise, half = float(np.linalg.norm(out)), float(np.linalg.norm(b - a)) / 2
        radius = (half**2 + rise**2) / (2 * rise)
        across = out / rise
        return cls((a + b) / 2 + across * (rise - radius), radius, along, across)

    def at(self, angle: float) -> Vec:
        return np.asarray(self.centre + self.radius * (math.sin(angle) * self.along + math.cos(angle) * self.across))

    def angle(self, point: Sequence[float]) -> float:
        off = np.asarray(point) - self.centre
        return math.atan2(float(off @ self.along), float(off @ self.across))

    def off(self, point: Sequence[float]) -> float:
        """How far a point is from the circle."""
        off = np.asarray(point) - self.centre
        flat = np.array([off @ self.along, off @ self.across])
        out = off - flat[0] * self.along - flat[1] * self.across
        return math.hypot(float(np.linalg.norm(flat)) - self.radius, float(np.linalg.norm(out)))

    def piece(self, m: Member, first: float, last: float) -> Member:
        """The member from one angle to another, its section turned along with the arc."""
        middle = (first + last) / 2
        start, end = self.at(first), self.at(last)
        axis = np.cross(self.across, self.along)
        turn = turn_about(np.zeros(3), axis, math.degrees(middle)).turn
        z = turn @ work_axes(np.asarray(m.start), np.asarray(m.end), m.roll).z
        made = msgspec.structs.replace(
            m, start=tidied(start), end=tidied(end), bow=tidied(self.at(middle) - (start + end) / 2)
        )
        roll = round(towards(msgspec.structs.replace(made, roll=0.0), z), 6) % 360.0
        return msgspec.structs.replace(made, roll=roll)


def refused(m: Member) -> str | None:
    """Why an arc cannot be cut or joined; None where it can."""
    if m.line is Line.CENTRE and not (m.rise or m.aside):
        return None
    return f"the work line of the {m.role} {m.section}, rolled to an arc, is not at its centre"


def crossings(m: Member, point: Vec, normal: Vec, line: tuple[Vec, Vec] | None = None) -> list[float]:
    """Shares of an arc's length (0 to 1) at which it passes through a plane; with a `line` in it only where that
    reaches."""
    circle = Circle.of(m)
    first, last = circle.angle(m.start), circle.angle(m.end)
    angles = np.linspace(first, last, _STEPS + 1)
    sides = np.array([float((circle.at(a) - point) @ normal) for a in angles])
    found = []
    for k in np.flatnonzero(sides[:-1] * sides[1:] < 0):
        low, high, at_low = angles[k], angles[k + 1], sides[k]
        for _ in range(60):  # halving
            middle = (low + high) / 2
            side = float((circle.at(middle) - point) @ normal)
            low, high = (middle, high) if side * at_low > 0 else (low, middle)
        if line is None or -1e-6 <= _share(line, circle.at(low)) <= 1 + 1e-6:
            found.append(float((low - first) / (last - first)))
    return found


def _share(line: tuple[Vec, Vec], point: Vec) -> float:
    d = line[1] - line[0]
    return float((point - line[0]) @ d / (d @ d))


def pieces(m: Member, shares: Sequence[float]) -> list[Member]:
    """An arc cut at shares of its length, in order."""
    circle = Circle.of(m)
    first, last = circle.angle(m.start), circle.angle(m.end)
    at = [first + (last - first) * share for share in (0.0, *shares, 1.0)]
    return [circle.piece(m, a, b) for a, b in zip(at, at[1:], strict=False)]


def joined(members: Sequence[Member], units: Units) -> tuple[Member, Member, Member]:
    """Arcs of one circle made one, and those that were at its left and right ends. Raises JobError."""
    first = members[0]
    for m in members:
        if why := refused(m):
            raise JobError(f"{why[0].upper()}{why[1:]}: set it there first.")
    circle = Circle.of(first)
    spans = []
    for m in members:
        own = Circle.of(m)
        off = max(circle.off(p) for p in (m.start, m.end, tuple(own.at(0.0))))
        if off > _ON:
            raise JobError(
                f"The {m.role} {m.section} lies {format_length(off, units)} off the circle of the {first.role} "
                f"{first.section}; only lengths of one arc are joined."
            )
        a, b = circle.angle(m.start), circle.angle(m.end)
        if a > b:
            raise JobError(f"The {m.role} {m.section} runs the other way; flip its ends first.")
        spans.append((a, b, m))
    spans.sort(key=lambda span: span[0])
    for (_, end, _m), (start, _e, m) in zip(spans, spans[1:], strict=False):
        if abs(start - end) * circle.radius > _GAP:
            word = "a gap" if start > end else "an overlap"
            apart = format_length(abs(start - end) * circle.radius, units)
            raise JobError(f"There is {word} of {apart} before the {m.role} {m.section}.")
    left, right = spans[0][2], spans[-1][2]
    whole = circle.piece(first, spans[0][0], spans[-1][1])
    if problem := whole.problem():
        raise JobError(problem)
    return whole, left, right
