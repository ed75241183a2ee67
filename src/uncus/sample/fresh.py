"""A fresh copy of the sample job, marked, in a folder of its own."""

from __future__ import annotations

from pathlib import Path

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import AnyRecord
from uncus.mark.marking import apply, propose
from uncus.sample.architect import reference_of, write_file
from uncus.sample.outside import whole
from uncus.shop.shop import build
from uncus.units import Units


def marked(records: list[AnyRecord]) -> list[AnyRecord]:
    """A job's records with the marks that a run would give."""
    memory = Job(records)
    apply(memory, propose(memory, build(memory)))
    return list(memory.records.values())


def fresh_sample(folder: Path) -> Path:
    """Make the sample where there is room for it; its file. Raises JobError."""
    path = place(folder)
    Job.create(path, [*marked(whole(Units.IMPERIAL)), reference_of(path)], replace=True).close()
    write_file(path)
    return path


def place(folder: Path) -> Path:
    """Where a fresh copy goes: over an earlier one that nobody changed, else under the next number. Raises JobError."""
    for number in range(1, 1000):
        path = folder / ("Tern Point Boathouse" + (f" {number}" if number > 1 else "") + ".uncus")
        if not path.exists():
            return path
        try:
            with Job.open(path) as earlier:
                if earlier.can_undo is None and earlier.can_redo is None:
                    return path
        except JobError:
            continue
    raise JobError(f"There are too many copies of the sample in {folder}; delete some.")
