"""Members that stand as others do: what may hold a copied end in the place of what held the first."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable

import numpy as np

from uncus.frame.axes import work_axes
from uncus.frame.placement import Vec, unit
from uncus.job.records import Member

_OFF = 1.0  # mm between two work lines that are one
_TURN = math.cos(math.radians(0.1))


class Likes:
    """All members of a job, asked which of them stands at a point as another does: of its section, in its line, its
    sides looking the same ways (a section's own symmetry apart)."""

    def __init__(self, members: Iterable[Member]) -> None:
        self._by_section: dict[str, list[Member]] = defaultdict(list)
        self._lines: dict[str, tuple[Vec, Vec, Vec]] = {}
        for m in members:
            self._by_section[m.section].append(m)

    def at(self, one: Member, point: Vec) -> str | None:
        """The member that stands at a point as `one` would; the nearest where several do."""
        among = self._by_section.get(one.section)
        if not among:
            return None
        start, way, length = self._line(one.section)
        run = unit(np.subtract(one.end, one.start))
        off = np.asarray(one.start) - start
        aside = np.linalg.norm(off - np.einsum("ij,ij->i", off, way)[:, None] * way, axis=1)
        along = np.einsum("ij,ij->i", point - start, way)
        past = np.maximum(np.maximum(-along, along - length), 0.0)
        near = (np.abs(way @ run) > _TURN) & (aside < _OFF) & (past < _OFF + _room(one))
        hits = [int(i) for i in np.flatnonzero(near)[np.argsort(past[near], kind="stable")]]
        return next((among[i].id for i in hits if _alike(one, among[i])), None)

    def _line(self, section: str) -> tuple[Vec, Vec, Vec]:
        """Starts (n, 3), directions (n, 3) and lengths (n,) of the members of a section."""
        if section not in self._lines:
            among = self._by_section[section]
            start = np.array([m.start for m in among], dtype=np.float64)
            run = np.array([m.end for m in among], dtype=np.float64) - start
            length = np.linalg.norm(run, axis=1)
            self._lines[section] = start, run / np.maximum(length, 1e-9)[:, None], length
        return self._lines[section]


def _room(one: Member) -> float:
    """How far past a support's end its joint's point may lie: columns' tops and feet are not always at work points."""
    return 50.0 if one.work_length > 100.0 else 0.0


_MAKE_UP = ("line", "rise", "aside", "double", "turnbuckle")


def _alike(one: Member, other: Member) -> bool:
    """Whether two members in one line have the same web plane, work line and make-up."""
    if any(getattr(one, name) != getattr(other, name) for name in _MAKE_UP):
        return False
    z, w = (work_axes(np.asarray(m.start), np.asarray(m.end), m.roll).z for m in (one, other))
    return abs(float(z @ w)) > _TURN and one.is_rolled == other.is_rolled
