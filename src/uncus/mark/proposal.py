"""What a marking run would do, row by row; what it asks, and the answers."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from uncus.job.job import Job
from uncus.job.records import Mark, Series
from uncus.mark.content import mark_id


class State(StrEnum):
    NEW = "new"
    KEPT = "kept"
    MOVED = "moved"
    CONFLICT = "in conflict"
    LEFT_OUT = "left out"


class Choices(msgspec.Struct, frozen=True):
    """Answers to what a proposal asked: a mark or "" (a new one) for pieces, by their mark's id; a start for a
    series."""

    given: dict[str, str] = {}
    starts: dict[str, int] = {}

    def with_(self, other: Choices) -> Choices:
        return Choices({**self.given, **other.given}, {**self.starts, **other.starts})


class Option(msgspec.Struct, frozen=True):
    """One way to settle a conflict, in words."""

    words: str
    choices: Choices


class Row(msgspec.Struct, frozen=True):
    """One mark of a proposal: the pieces under it with their fingerprints, what they had before, why, and where they
    are in conflict the ways to settle it."""

    mark: str
    state: State
    part: bool
    pieces: tuple[str, ...]
    before: tuple[str, ...]
    why: str
    contents: tuple[str, ...] = ()
    form: str = ""
    options: tuple[Option, ...] = ()


class Proposal(msgspec.Struct, frozen=True):
    """Rows, and the series whose start was shifted to settle a conflict. `keep`: marks of pieces that are gone stay,
    to be given back to what is drawn anew in their place."""

    rows: tuple[Row, ...]
    series: tuple[Series, ...] = ()
    keep: bool = False
    only: frozenset[str] | None = None

    def count(self, state: State) -> int:
        return sum(row.state is state for row in self.rows)


def apply(job: Job, proposal: Proposal) -> int:
    """Write a proposal's marks as one undo step; the count of marks changed. What is in conflict stays as it was;
    marks of pieces that are gone go too, unless marks are firm."""
    before = {m.id: m for m in job.all(Mark)}
    wanted: dict[str, Mark] = {}
    untouched: set[str] = set()
    for row in proposal.rows:
        for piece, content in zip(row.pieces, row.contents, strict=True):
            id = mark_id(piece, row.part)
            if row.state is State.CONFLICT:
                untouched.add(id)
            elif row.state is not State.LEFT_OUT:
                how = before[id].how if id in before else ""
                how = "" if how == "typed" and before[id].mark != row.mark else how  # settled otherwise
                wanted[id] = Mark(
                    id=id, piece=piece, mark=row.mark, content=content, part=row.part, how=how, form=row.form
                )
            else:
                untouched.add(id)
    changed = 0
    with job.change("Apply marks") as change:
        for one in proposal.series:
            change.put(one)
        for mark in before.values():
            gone = mark.id not in wanted and mark.id not in untouched
            if gone and not proposal.keep and proposal.only is None and mark.how != "left out":
                change.drop(mark.id)
                changed += 1
        for id, mark in wanted.items():
            old = before.get(id)
            if old != mark:
                change.put(mark)
                changed += old is None or msgspec.structs.replace(old, form=mark.form) != mark
    return changed
