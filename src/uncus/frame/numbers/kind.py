"""What a frame by numbers is: a struct of values, the points it is placed by, and the members it makes."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any

import msgspec
import numpy as np

from uncus.frame.axes import UP
from uncus.frame.moves import MOST
from uncus.frame.placement import Vec, tidied, unit
from uncus.job.errors import JobError
from uncus.job.records import Line, Member, Role, new_id
from uncus.units import Units


class Placed(msgspec.Struct, frozen=True, eq=False):
    """The points picked for a frame and the job's units, for typed spacings."""

    points: tuple[Vec, ...]
    units: Units

    @property
    def level_way(self) -> Vec:
        """The level direction from the first point to the second. Raises JobError where there is none."""
        d = self.points[1] - self.points[0]
        d = d - (d @ UP) * UP
        if np.linalg.norm(d) < 1.0:
            raise JobError("The two points lie above one another; pick the second one to the side of the first.")
        return unit(d)

    @property
    def span(self) -> float:
        """Level distance between the first two points."""
        return float((self.points[1] - self.points[0]) @ self.level_way)


class ByNumbers(msgspec.Struct, frozen=True):
    """A kind: `picks` says what to pick, in order; `build` gives the members."""

    name: str
    words: str
    params: type
    picks: tuple[str, ...]
    build: Callable[[Any, Placed], list[Member]]
    help: str
    metric: dict[str, Any] = {}  # values a metric job starts from, where they differ


def made(kind: ByNumbers, params: Any, points: Sequence[Vec], units: Units) -> list[Member]:
    """The members of a frame. Raises JobError or UnitError with what does not work; nothing is made then."""
    found = kind.build(params, Placed(tuple(np.asarray(p, dtype=np.float64) for p in points), units))
    if not found:
        raise JobError(f"The {kind.name} has no members with these values.")
    refuse_too_many(kind.name, len(found))
    for member in found:
        if problem := member.problem():
            raise JobError(problem)
    return found


def refuse_too_many(name: str, count: int) -> None:
    """Raises JobError before a slip of the keys makes millions."""
    if count > MOST:
        raise JobError(f"The {name} would have {count:,} members; {MOST:,} at once is the most.")


def between(role: Role, section: str, a: Vec, b: Vec, line: Line = Line.CENTRE, **values: Any) -> Member:
    return Member(id=new_id(), role=role, section=section, start=tidied(a), end=tidied(b), line=line, **values)


def left_to_right(a: Vec, b: Vec) -> tuple[Vec, Vec]:
    """Two points in the order in which drawings read: from the lower x, then y, then z."""
    key = [tuple(round(float(c), 1) for c in p) for p in (a, b)]
    return (a, b) if key[0] <= key[1] else (b, a)


def even(length: float, count: int) -> list[float]:
    """Positions that part a length evenly, both ends included."""
    return [length * n / count for n in range(count + 1)]


def spaced(length: float, largest: float) -> list[float]:
    """Positions no farther apart than `largest`, both ends included."""
    return even(length, max(1, math.ceil(length / largest - 1e-9)))
