"""Grid lines and levels of a reference as the job's own: what is new, what is there already, what stands otherwise."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import ArrayLike

from uncus.frame.placement import settled_one
from uncus.job.errors import JobError
from uncus.job.records import Grid, GridLine, Level
from uncus.job.references import Reference
from uncus.reference.model import Axis, Model
from uncus.reference.placing import placed

_SAME = 1.0  # mm within which lines and levels are one
_TURN = 0.01  # degrees likewise
_MOST = 500  # lines


class Laid(NamedTuple):
    """The grid with what is new in it, levels that are new, and sentences on what was left out."""

    grid: Grid | None
    levels: tuple[Level, ...]
    lines: int
    notes: tuple[str, ...]


def laid_out(model: Model, of: Reference, grid: Grid | None, levels: Sequence[Level]) -> Laid:
    """What a model has beyond a job's own grid and levels."""
    notes: list[str] = []
    made, count = _grid(model.facts.axes, of, grid, notes)
    new: list[Level] = []
    for storey in model.facts.storeys:
        name, height = storey.name.strip(), settled_one(float(placed(of, (0.0, 0.0, storey.elevation))[2]), 4)
        there = [*levels, *new]
        same = next((one for one in there if abs(one.elevation - height) < _SAME), None)
        if same is not None:
            continue
        if any(one.name.casefold() == name.casefold() for one in there):
            notes.append(f"Level “{name}” is elsewhere in this job, and stays there.")
            continue
        level = Level(name=name or f"Level at {height:.0f}", elevation=height)
        if level.problem() is None:
            new.append(level)
    return Laid(made, tuple(new), count, tuple(notes))


def _grid(axes: Sequence[Axis], of: Reference, grid: Grid | None, notes: list[str]) -> tuple[Grid | None, int]:
    whole = grid or Grid()
    numbers, letters = list(whole.numbers), list(whole.letters)
    count = 0
    for axis in axes[:_MOST]:
        line = _line(axis, of)
        if line is None:
            notes.append(f"Axis “{axis.label}” is no level line within reach, and is left out.")
            continue
        made, by_number = line
        own = numbers if by_number else letters
        if any(_is_same(made, one) for one in own):
            continue
        if any(one.label.casefold() == made.label.casefold() for one in (*numbers, *letters)):
            notes.append(f"Grid line “{made.label}” is elsewhere in this job, and stays there.")
            continue
        own.append(made)
        count += 1
    if not count:
        return None, 0
    numbers.sort(key=lambda one: one.at)
    letters.sort(key=lambda one: one.at)
    found = msgspec.structs.replace(whole, numbers=tuple(numbers), letters=tuple(letters))
    if problem := found.problem():
        notes.append(problem)
        return None, 0
    return found, count


def _line(axis: Axis, of: Reference) -> tuple[GridLine, bool] | None:
    """An axis as a grid line, and whether it is of the family that crosses x."""
    a, b = placed(of, np.array([axis.a, axis.b]))
    try:
        return line_of(axis.label.strip() or "?", a, b)
    except JobError:
        return None


def line_of(label: str, a: ArrayLike, b: ArrayLike) -> tuple[GridLine, bool]:
    """The grid line through two points of the job, and whether it is of the family that crosses x. Raises JobError
    where they are no level line."""
    start, way = np.asarray(a, dtype=np.float64), np.subtract(b, a)
    size = float(np.hypot(*way[:2]))
    if size < 1.0 or abs(float(way[2])) > 1e-3 * size:
        raise JobError("A grid line is level, and no point.")
    x, y = (way[:2] / size).tolist()
    by_number = abs(y) >= abs(x) - 1e-9
    if by_number:  # crosses x; its turn is from y
        x, y = (x, y) if y > 0 else (-x, -y)
        at, turn = float(start[0] - start[1] * x / y), math.degrees(math.atan2(-x, y))
    else:
        x, y = (x, y) if x > 0 else (-x, -y)
        at, turn = float(start[1] - start[0] * y / x), math.degrees(math.atan2(y, x))
    line = GridLine(label, settled_one(at, 4), 0.0 if abs(turn) < 1e-6 else settled_one(turn, 6))
    if label and (problem := line.problem()):
        raise JobError(problem)
    return line, by_number


def _is_same(a: GridLine, b: GridLine) -> bool:
    return abs(a.at - b.at) < _SAME and abs(a.turn - b.turn) < _TURN
