"""A job as its rules look at it: records, steel, marks, and what several of them ask, worked out once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from uncus.check.found import Found
from uncus.check.place import in_words
from uncus.check.ties import Ties
from uncus.connect.clash import Boxes
from uncus.frame.placement import point_of
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Connection, End, Grid, Level, Member, Point, Record
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.units import length_in_words

Array = NDArray[np.float64]
Kept = dict[tuple[str, str], tuple[Assembly, Any, tuple[Found, ...]]]
R = TypeVar("R", bound=Record)


class Looked:
    """One look at a job: taken at once, and read by rules afterwards, in another thread too, whatever is edited in the
    meantime. `kept` holds what rules found of single pieces by the look before, so that only pieces that changed are
    looked at again."""

    def __init__(self, job: Job, shop: Shop, marks: Marks | None = None, kept: Kept | None = None) -> None:
        self.project = job.project
        self.records: dict[str, AnyRecord] = dict(job.records)
        self.marks = marks or Marks(job, shop.carried)
        self.assemblies: dict[str, Assembly] = dict(shop.assemblies)
        self.shipped: dict[str, Assembly] = dict(shop.shipped)
        self.connections = dict(shop.connections)
        self.bodies = {id: body for id in self.assemblies if (body := shop.body(id)) is not None}
        self.clashes, self.made = shop.clashes, shop.made_findings
        designed = [id for id in self.connections if shop.is_designed(id)]
        joints = {c.id for c in job.all(Connection)} & self.connections.keys()
        self.designed = joints <= set(designed)  # whether the strength of all joints is worked out
        known = (shop.strength(id) for id in designed)
        self.strengths = [found for found in known if found is not None]
        self._kept: Kept = {} if kept is None else kept

    @cached_property
    def _by_kind(self) -> dict[type, list[Any]]:
        found: dict[type, list[Any]] = defaultdict(list)
        for record in self.records.values():
            found[type(record)].append(record)
        return found

    def all(self, kind: type[R]) -> list[R]:
        """Every record of a kind."""
        return self._by_kind.get(kind, [])

    def get(self, id: str | None, kind: type[R]) -> R | None:
        record = self.records.get(id or "")
        return record if isinstance(record, kind) else None

    def said(self, mm: float) -> str:
        return length_in_words(mm, self.project.units)

    def place(self, at: Point | None) -> str:
        """Where a finding is, in words."""
        return in_words(self.grid, self.levels, at, self.project.units) if at is not None else ""

    def members_of(self, found: Found) -> tuple[str, ...]:
        """The members a finding is about: themselves, or those that the joint or attachment is at."""
        own: dict[str, None] = {}
        for id in found.records:
            record = self.records.get(id)
            if isinstance(record, Member):
                own[id] = None
            else:
                member = getattr(record, "member", None) or getattr(record, "piece", None)
                own |= dict.fromkeys((member,) if member else ())
        return tuple(own)

    @cached_property
    def grid(self) -> Grid | None:
        return next(iter(self.all(Grid)), None)

    @cached_property
    def levels(self) -> list[Level]:
        return sorted(self.all(Level), key=lambda level: level.elevation)

    @cached_property
    def members(self) -> list[Member]:
        """Members that can be made."""
        return [m for m in self.all(Member) if m.id in self.assemblies]

    @cached_property
    def ends(self) -> Array:
        """Work points of `members` (n, 2, 3)."""
        return np.array([(m.start, m.end) for m in self.members], dtype=np.float64).reshape(-1, 2, 3)

    @cached_property
    def pieces(self) -> dict[str, Piece]:
        """Every piece by its id."""
        return {p.id: p for a in self.assemblies.values() for p in a.pieces}

    @cached_property
    def boxes(self) -> tuple[list[Piece], Boxes]:
        """Every piece, and the boxes about them."""
        pieces = list(self.pieces.values())
        return pieces, Boxes.of((p.part, p.placement) for p in pieces)

    @cached_property
    def ties(self) -> Ties:
        """What holds what."""
        return Ties(self.assemblies, self.connections, self.project.units)

    @cached_property
    def joined_members(self) -> set[str]:
        """Members that some joint is at."""
        return {id for c in self.all(Connection) for id in c.members}

    @cached_property
    def joined(self) -> set[tuple[str, End]]:
        """Ends that have a joint of their own."""
        return {(c.member, c.end) for c in self.all(Connection)}

    @cached_property
    def loaded(self) -> dict[str, list[Connection]]:
        """The joints of others at each member."""
        found: dict[str, list[Connection]] = defaultdict(list)
        for c in self.all(Connection):
            for id in c.members:
                if id != c.member:
                    found[id].append(c)
        return found

    def middle(self, id: str) -> Point | None:
        """Where a joint is: its member's end; else the middle of a member, or of the one that an attachment is on."""
        record = self.records.get(id)
        member = record if isinstance(record, Member) else self.get(getattr(record, "member", ""), Member)
        if member is None:
            return None
        if isinstance(record, Connection):
            return member.start if record.end is End.LEFT else member.end
        return point_of(np.add(member.start, member.end) / 2)

    def of_pieces(
        self,
        rule: str,
        values: Any,
        find: Callable[[Assembly], Iterable[Found]],
        some: Mapping[str, Assembly] | None = None,
    ) -> Iterator[Found]:
        """What a rule finds of each piece by itself; of pieces that are as they were, what it found before."""
        for id, assembly in (self.assemblies if some is None else some).items():
            kept = self._kept.get((rule, id))
            if kept is None or kept[0] is not assembly or kept[1] != values:
                kept = self._kept[rule, id] = assembly, values, tuple(find(assembly))
            yield from kept[2]
