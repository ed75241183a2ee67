"""A line of the register, and how it stands to what was sent."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from uncus.draw.inputs import SheetJob
from uncus.job.records import Drawing, Issue


class State(StrEnum):
    NEW = "not sent"
    CURRENT = "current"
    STALE = "stale"
    SUPERSEDED = "superseded"
    GONE = "gone"


PAST = (State.SUPERSEDED, State.GONE)


class Entry(msgspec.Struct, frozen=True):
    """A line of the register; `pieces` are the assemblies (or the owners of the parts) it shows, `piece` the one
    that it is drawn from, `keeper` that by which what is kept of it is kept, `own` all that it shows; `issue` the
    copy that went out last; `plates` what a sheet of several shows, each kept by itself; `heirs` the sheets that
    took the place of one that is superseded."""

    job: SheetJob
    title: str
    kind: str
    pieces: tuple[str, ...]
    state: State
    piece: str = ""
    hand: Drawing | None = None
    issue: Issue | None = None
    plates: tuple[Entry, ...] = ()
    own: tuple[str, ...] = ()
    heirs: tuple[str, ...] = ()
    keeper: str = ""

    @property
    def name(self) -> str:
        return self.job.name

    @property
    def revision(self) -> str:
        return self.hand.revisions[-1].mark if self.hand and self.hand.revisions else ""
