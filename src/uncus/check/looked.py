"""A job as its rules look at it: records, steel, marks, and what several of them ask, worked out once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from uncus.check.found import Found
from uncus.check.place import in_words
from uncus.check.ties import Ties
from uncus.connect.clash import Boxes
from uncus.frame.placement import point_of
from uncus.job.job import Job
from uncus.job.records import Connection, End, Grid, Level, Member, Point, Project
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.units import length_in_words

Array = NDArray[np.float64]
Kept = dict[tuple[str, str], tuple[Assembly, Any, tuple[Found, ...]]]


class Looked:
    """One look at a job. `kept` holds what rules found of single pieces by the look before, so that only pieces that
    changed are looked at again."""

    def __init__(self, job: Job, shop: Shop, marks: Marks | None = None, kept: Kept | None = None) -> None:
        self.job, self.shop = job, shop
        self.marks = marks or Marks(job, shop.carried)
        self._kept: Kept = {} if kept is None else kept

    @property
    def project(self) -> Project:
        return self.job.project

    def said(self, mm: float) -> str:
        return length_in_words(mm, self.project.units)

    def place(self, at: Point | None) -> str:
        """Where a finding is, in words."""
        return in_words(self.grid, self.levels, at, self.project.units) if at is not None else ""

    @cached_property
    def grid(self) -> Grid | None:
        return next(iter(self.job.all(Grid)), None)

    @cached_property
    def levels(self) -> list[Level]:
        return sorted(self.job.all(Level), key=lambda level: level.elevation)

    @cached_property
    def members(self) -> list[Member]:
        """Members that can be made."""
        return [m for m in self.job.all(Member) if m.id in self.shop.assemblies]

    @cached_property
    def ends(self) -> Array:
        """Work points of `members` (n, 2, 3)."""
        return np.array([(m.start, m.end) for m in self.members], dtype=np.float64).reshape(-1, 2, 3)

    @cached_property
    def pieces(self) -> dict[str, Piece]:
        """Every piece by its id."""
        return {p.id: p for a in self.shop.assemblies.values() for p in a.pieces}

    @cached_property
    def boxes(self) -> tuple[list[Piece], Boxes]:
        """Every piece, and the boxes about them."""
        pieces = list(self.pieces.values())
        return pieces, Boxes.of((p.part, p.placement) for p in pieces)

    @cached_property
    def ties(self) -> Ties:
        """What holds what."""
        return Ties(self.shop, self.project.units)

    @cached_property
    def joined_members(self) -> set[str]:
        """Members that some joint is at."""
        return {id for c in self.job.all(Connection) for id in c.members}

    @cached_property
    def joined(self) -> set[tuple[str, End]]:
        """Ends that have a joint of their own."""
        return {(c.member, c.end) for c in self.job.all(Connection)}

    @cached_property
    def loaded(self) -> dict[str, list[Connection]]:
        """The joints of others at each member."""
        found: dict[str, list[Connection]] = {}
        for c in self.job.all(Connection):
            for id in c.members:
                if id != c.member:
                    found.setdefault(id, []).append(c)
        return found

    def middle(self, id: str) -> Point | None:
        """Where a member, or the member a joint or attachment is at, has its middle."""
        record = self.job.records.get(id)
        member = record if isinstance(record, Member) else self.job.get(getattr(record, "member", ""), Member)
        return point_of((np.add(member.start, member.end)) / 2) if member else None

    def of_pieces(
        self,
        rule: str,
        values: Any,
        find: Callable[[Assembly], Iterable[Found]],
        some: Mapping[str, Assembly] | None = None,
    ) -> Iterator[Found]:
        """What a rule finds of each piece by itself; of pieces that are as they were, what it found before."""
        for id, assembly in (self.shop.assemblies if some is None else some).items():
            kept = self._kept.get((rule, id))
            if kept is None or kept[0] is not assembly or kept[1] != values:
                kept = self._kept[rule, id] = assembly, values, tuple(find(assembly))
            yield from kept[2]
