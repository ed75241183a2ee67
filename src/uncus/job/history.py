"""A job's history: what it was at a moment, what changed since, a single change taken back."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from uncus.job.errors import JobError
from uncus.job.job import Delta, Job
from uncus.job.records import AnyRecord, Attachment, Connection, Member
from uncus.units import counted


class Since(msgspec.Struct, frozen=True):
    """What is different now from a moment of the history, by records: `gone` as they were then."""

    new: tuple[AnyRecord, ...]
    changed: tuple[AnyRecord, ...]
    gone: tuple[AnyRecord, ...]

    @property
    def words(self) -> str:
        counts = ((self.new, "new"), (self.changed, "changed"), (self.gone, "gone"))
        return ", ".join(f"{counted(len(some), 'record')} {what}" for some, what in counts if some) or "nothing differs"


def records_at(job: Job, number: int) -> dict[str, AnyRecord]:
    """The records as they were after a change; 0: before the first. Raises JobError where one between is damaged."""
    then = {**job.records, **job.until(number)}
    return {id: record for id, record in then.items() if record is not None}


def since(job: Job, number: int) -> Since:
    """What differs now from the state after a change. Raises JobError."""
    then, now = records_at(job, number), job.records
    new = tuple(r for id, r in now.items() if id not in then)
    changed = tuple(r for id, r in now.items() if id in then and then[id] != r)
    return Since(new, changed, tuple(r for id, r in then.items() if id not in now))


def take_back(job: Job, number: int) -> str:
    """Take a single change back, as a new one, where nothing that came after it stands on it; its words. Raises
    JobError with what does."""
    if not 0 < number <= job.head:
        raise JobError("That change is taken back already.")
    step = _step(job, number)
    past = {p.number: p for p in job.past()}
    for edit in step.edits:
        if job.records.get(edit.id) != edit.after:
            later = next((n for n in range(job.head, number, -1) if _touches(job, n, edit.id)), None)
            words = past[later].label if later in past else "another change"
            raise JobError(f"“{step.label}” cannot be taken back alone: “{words}” came after it on the same thing.")
    dropped = {edit.id for edit in step.edits if edit.before is None}
    mine = {edit.id for edit in step.edits}
    standing = [r for r in job.records.values() if r.id not in mine and not dropped.isdisjoint(_names(r))]
    if standing:
        raise JobError(
            f"“{step.label}” cannot be taken back alone: {counted(len(standing), 'record')} made later, such as "
            f"{_kind(standing[0])}, {'stand' if len(standing) > 1 else 'stands'} on what it made."
        )
    label = f"Take back: {step.label}"
    with job.change(label) as change:
        for edit in step.edits:
            if edit.before is None:
                change.drop(edit.id)
            else:
                change.put(edit.before)
    return label


def concerned(record: AnyRecord) -> tuple[str, ...]:
    """The members that a record is, joins or is fixed to."""
    if isinstance(record, Member):
        return (record.id,)
    return tuple(record.members) if isinstance(record, Connection | Attachment) else ()


def _step(job: Job, number: int) -> Delta:
    step = job.step(number)
    if step is None:
        raise JobError(f"Change {number} of the history is missing.")
    return step


def _touches(job: Job, number: int, id: str) -> bool:
    step = job.step(number)
    return step is not None and any(edit.id == id for edit in step.edits)


def _kind(record: AnyRecord) -> str:
    words = "".join(f" {c.lower()}" if c.isupper() else c for c in type(record).__name__).strip()
    return f"{'an' if words[0] in 'aeiou' else 'a'} {words}"


def _names(record: AnyRecord) -> set[str]:
    """Every text that a record holds, among them the ids of those it refers to."""
    found: set[str] = set()
    stack: list[object] = [v for k, v in _fields(record).items() if k != "id"]
    while stack:
        value = stack.pop()
        if isinstance(value, str):
            found.add(value)
        elif isinstance(value, Mapping):
            stack += [*value.keys(), *value.values()]
        elif isinstance(value, list | tuple):
            stack += value
    return found


def _fields(record: AnyRecord) -> dict[str, object]:
    made: dict[str, object] = msgspec.to_builtins(record)
    return made
