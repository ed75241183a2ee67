"""The job: a set of records, changed in one way only, with undo that survives closing."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from types import MappingProxyType
from typing import TypeVar

import msgspec

from uncus.job.aside import Aside
from uncus.job.billing import usual_advance, usual_stock
from uncus.job.errors import JobError
from uncus.job.records import (
    AdvanceRules,
    AnyRecord,
    ErectionRules,
    MarkRules,
    NcOptions,
    Project,
    Record,
    ShopRules,
    StockRules,
)
from uncus.job.store import Past, Step, Store

R = TypeVar("R", bound=Record)


def _now() -> str:
    return datetime.now().isoformat(timespec="seconds")


class Edit(msgspec.Struct, frozen=True):
    """One record before and after a change; None where it was not there."""

    before: AnyRecord | None
    after: AnyRecord | None

    @property
    def id(self) -> str:
        record = self.after or self.before
        assert record is not None
        return record.id


class Delta(msgspec.Struct, frozen=True):
    """A change as it was made: undo step, signal to the views, write to disk, input to recomputing."""

    label: str
    edits: tuple[Edit, ...]
    notes: tuple[str, ...] = ()  # what went along with it, in words

    def reversed(self) -> Delta:
        return Delta(self.label, tuple(Edit(e.after, e.before) for e in reversed(self.edits)))


class Change:
    """What is being changed, before it is: the only way to write to a job."""

    def __init__(self, records: Mapping[str, AnyRecord], kinds: Mapping[type, Mapping[str, AnyRecord]]) -> None:
        self._records, self._kinds = records, kinds
        self._after: dict[str, AnyRecord | None] = {}
        self.notes: list[str] = []  # what went along with it, in words

    def put(self, record: AnyRecord) -> None:
        """Add or replace a record. Raises JobError with its problem."""
        if problem := record.problem():
            raise JobError(problem)
        self._after[record.id] = record

    def drop(self, id: str) -> None:
        """Take a record out; one that is not there is no error."""
        self._after[id] = None

    def get(self, id: str) -> AnyRecord | None:
        """A record as it will be."""
        return self._after[id] if id in self._after else self._records.get(id)

    def all(self, kind: type[R]) -> list[R]:
        """Every record of a kind as it will be."""
        found = dict(self._kinds.get(kind, {}))
        for id, record in self._after.items():
            if isinstance(record, kind):
                found[id] = record
            else:
                found.pop(id, None)
        return list(found.values())  # type: ignore[arg-type]

    def edits(self) -> tuple[Edit, ...]:
        pairs = ((self._records.get(id), after) for id, after in self._after.items())
        return tuple(Edit(before, after) for before, after in pairs if before != after)


class Job:
    """Records by id, in order of making. `path` None: kept in memory only."""

    def __init__(
        self, records: Iterable[AnyRecord] = (), store: Store | None = None, aside: Iterable[Aside] = ()
    ) -> None:
        self._records: dict[str, AnyRecord] = {record.id: record for record in records}
        self._kinds: dict[type, dict[str, AnyRecord]] = {}
        for record in self._records.values():
            self._kinds.setdefault(type(record), {})[record.id] = record
        self._store = store
        self._aside = {one.id: one for one in aside}
        self._followers: list[Callable[[Delta], None]] = []
        self._amenders: list[Callable[[Change], str]] = []
        self._steps: list[tuple[Delta, Past]] = []  # of a job in memory
        self._home: Path | None = None  # of a copy: the file of the job that it is one of
        self.read_from: Path | None = None  # the file that this is read from and cannot be written to
        self._head = 0
        if store is not None:
            self._head = store.head

    # -- opening and making -------------------------------------------------------------------
    @classmethod
    def open(cls, path: Path) -> Job:
        """Open a job file and lock it. Raises JobError with a sentence."""
        store = Store.open(path)
        try:
            records, aside = store.read()
        except BaseException:
            store.close()
            raise
        return cls(records, store, aside)

    @classmethod
    def read(cls, path: Path) -> Job:
        """A job file as it stands, in memory, to look at: neither locked nor touched, and refusing every change.
        Raises JobError."""
        from uncus.job.going_back import records_of

        made = cls(records_of(path).values())
        made.read_from = path
        return made

    @classmethod
    def create(cls, path: Path, records: Iterable[AnyRecord] = (), replace: bool = False) -> Job:
        """Make a job file, whole or not at all, and open it. Raises JobError."""
        records = list(records)
        if not any(isinstance(record, Project) for record in records):
            records.insert(0, Project())
        Store.create(path, records, replace)
        return cls.open(path)

    def save_copy(self, path: Path, replace: bool = False) -> None:
        """Write a copy of the job as it stands, history included, whole or not at all. Raises JobError."""
        if self._store is not None:
            self._store.copy(path, replace)
        else:
            Store.create(path, self._records.values(), replace)

    def compact(self) -> tuple[int, int]:
        """Give back the room in the file that nothing needs; its size before and after. Raises JobError."""
        if self._store is None:
            raise JobError("This job is in memory alone and takes no room on disk.")
        return self._store.compact()

    def close(self) -> None:
        if self._store is not None:
            self._store.close()

    def __enter__(self) -> Job:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    # -- reading --------------------------------------------------------------------------------
    @property
    def path(self) -> Path | None:
        return self._store.path if self._store else None

    @property
    def home(self) -> Path | None:
        """The job's file, of a copy in memory that of the job it was made of: what is kept lies beside it."""
        return self._store.path if self._store else self._home

    def copied(self) -> Job:
        """A copy in memory of the records as they are now, for work aside from who goes on with the job."""
        found = Job(list(self._records.values()), aside=self._aside.values())
        found._home = self.home
        return found

    @property
    def records(self) -> Mapping[str, AnyRecord]:
        return MappingProxyType(self._records)

    @property
    def notes(self) -> tuple[str, ...]:
        """What opening the file found, in sentences."""
        return tuple(self._store.notes) if self._store else ()

    @property
    def is_whole(self) -> bool:
        """Whether the file held what was written into it, by its own sum."""
        return self._store is None or self._store.is_whole

    @property
    def aside(self) -> tuple[Aside, ...]:
        """Records of the file that cannot be used; each until one of its id is put again or it is cleared."""
        return tuple(self._aside.values())

    def clear_aside(self) -> None:
        """Take out of the file what was set aside. Raises JobError."""
        if self._store is not None:
            self._store.forget(self._aside)
        self._aside.clear()

    def get(self, id: str, kind: type[R]) -> R | None:
        record = self._records.get(id)
        return record if isinstance(record, kind) else None

    def all(self, kind: type[R]) -> list[R]:
        """Every record of a kind, in order of making."""
        return list(self._kinds.get(kind, {}).values())  # type: ignore[arg-type]

    @property
    def project(self) -> Project:
        return self.get("project", Project) or Project()

    @property
    def rules(self) -> ShopRules:
        return self.get("shop rules", ShopRules) or ShopRules()

    @property
    def nc(self) -> NcOptions:
        return self.get("nc options", NcOptions) or NcOptions()

    @property
    def erection(self) -> ErectionRules:
        return self.get("erection rules", ErectionRules) or ErectionRules()

    @property
    def mark_rules(self) -> MarkRules:
        return self.get("mark rules", MarkRules) or MarkRules()

    @property
    def advance(self) -> AdvanceRules:
        return self.get("advance rules", AdvanceRules) or usual_advance(self.project.units)

    @property
    def stock(self) -> StockRules:
        return self.get("stock rules", StockRules) or usual_stock(self.project.units)

    # -- changing -------------------------------------------------------------------------------
    @contextmanager
    def change(self, label: str) -> Iterator[Change]:
        """The one way to change a job; an exception inside leaves no trace."""
        if self.read_from is not None:
            raise JobError(
                f"{self.read_from.name} is open elsewhere and is only read here; close it there and open it again."
            )
        change = Change(self._records, self._kinds)
        yield change
        if not change.edits():
            return
        change.notes = [words for amend in self._amenders if (words := amend(change))]
        edits = change.edits()
        label = "; ".join((label, *change.notes))
        delta = Delta(label, edits, tuple(change.notes))
        if self._store is not None:
            self._store.append(Step(label, [(e.before, e.after) for e in edits], _now()))
            self._head = self._store.head
        else:
            del self._steps[self._head :]
            self._steps.append((delta, Past(self._head + 1, label, _now())))
            self._head = len(self._steps)
        self._apply(delta)

    def amend(self, amender: Callable[[Change], str]) -> None:
        """Let `amender` add to every change from now on, in the same step, what follows from it; it says in words
        what that was, or nothing."""
        self._amenders.append(amender)

    def follow(self, follower: Callable[[Delta], None]) -> Callable[[], None]:
        """Call `follower` with every delta from now on; returns what stops it."""
        self._followers.append(follower)
        return lambda: self._followers.remove(follower)

    def _apply(self, delta: Delta) -> None:
        for edit in delta.edits:
            self._aside.pop(edit.id, None)
            if edit.before is not None and type(edit.after) is not type(edit.before):
                self._kinds[type(edit.before)].pop(edit.id, None)
            if edit.after is None:
                self._records.pop(edit.id, None)
            else:
                self._records[edit.id] = edit.after
                self._kinds.setdefault(type(edit.after), {})[edit.id] = edit.after
        for follower in list(self._followers):
            follower(delta)

    # -- the history -----------------------------------------------------------------------------
    @property
    def head(self) -> int:
        """The number of the change that the job stands after; 0 before the first."""
        return self._head

    def past(self) -> list[Past]:
        """Every change of the history, the first first; those past `head` were taken back."""
        return self._store.past() if self._store is not None else [past for _, past in self._steps]

    def step(self, number: int) -> Delta | None:
        """A change of the history; None where there is none. Raises JobError for one that is damaged."""
        return self._step(number)

    def travel(self, number: int) -> Delta:
        """Go back or forth to the state after a change, as one step. Raises JobError where one between is damaged."""
        if number == self._head:
            return Delta("", ())
        label = "Go back" if number < self._head else "Go forth"
        pairs = ((self._records.get(id), record) for id, record in self.until(number).items())
        return self._travel(Delta(label, tuple(Edit(b, a) for b, a in pairs if a is not None or b is not None)), number)

    def until(self, number: int) -> dict[str, AnyRecord | None]:
        """The records that are other after a change than now, as they are then; None for those that are not there.
        Raises JobError where a change between is damaged or missing."""
        back, then = number < self._head, dict[str, AnyRecord | None]()
        for n in range(self._head, number, -1) if back else range(self._head + 1, number + 1):
            step = self._step(n)
            if step is None:
                raise JobError(f"Change {n} of the history is missing; the job stays as it is.")
            then |= {e.id: e.before if back else e.after for e in step.edits}
        return then

    def name_moment(self, number: int, name: str) -> None:
        """Name the state after a change of the history, or take its name away. Raises JobError."""
        if self._store is not None:
            self._store.name_moment(number, name)
        elif 0 < number <= len(self._steps):
            delta, past = self._steps[number - 1]
            self._steps[number - 1] = delta, msgspec.structs.replace(past, moment=name)

    # -- undo -----------------------------------------------------------------------------------
    @property
    def can_undo(self) -> str | None:
        """The label of what undo would take back."""
        step = self._step(self._head)
        return step.label if step else None

    @property
    def can_redo(self) -> str | None:
        step = self._step(self._head + 1)
        return step.label if step else None

    def _step(self, number: int) -> Delta | None:
        if self._store is None:
            return self._steps[number - 1][0] if 0 < number <= len(self._steps) else None
        step = self._store.step(number)
        return Delta(step.label, tuple(Edit(b, a) for b, a in step.edits)) if step else None

    def undo(self) -> Delta | None:
        """Take the last change back; None where there is none."""
        step = self._step(self._head)
        return self._travel(step.reversed(), self._head - 1) if step else None

    def redo(self) -> Delta | None:
        step = self._step(self._head + 1)
        return self._travel(step, self._head + 1) if step else None

    def _travel(self, delta: Delta, head: int) -> Delta:
        after = {e.id: e.after for e in delta.edits}
        if self._store is not None:
            self._store.move(after, head)
        # what a damaged file lost is not there to be taken out: the records themselves say what was before
        pairs = ((self._records.get(id), record) for id, record in after.items())
        delta = Delta(delta.label, tuple(Edit(b, a) for b, a in pairs if b != a))
        self._head = head
        self._apply(delta)
        return delta
