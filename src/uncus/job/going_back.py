"""Going back to a copy of a job: as one change that can be taken back, or in place of a file that cannot be opened."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path

from uncus.job.errors import Damaged, JobError
from uncus.job.files import writable
from uncus.job.job import Job
from uncus.job.records import AnyRecord
from uncus.units import counted


def records_of(copy: Path) -> dict[str, AnyRecord]:
    """The records of another job file, which is neither locked nor touched. Raises JobError."""
    if not copy.is_file():
        raise JobError(f"{copy} cannot be read: there is no plain file of that name.")
    with tempfile.TemporaryDirectory(prefix="uncus-") as scratch:
        work = Path(scratch) / copy.name
        try:
            shutil.copyfile(copy, work)
            with Job.open(work) as job:
                if job.aside or not job.is_whole:
                    why = job.aside[0].text if job.aside else "something in it is missing, by its own sum."
                    raise JobError(f"{copy} is damaged itself: {why}")
                return dict(job.records)
        except OSError as error:
            raise JobError(f"{copy} cannot be read: {error.strerror or error}.") from None
        except JobError as error:
            raise type(error)(str(error).replace(str(work), str(copy))) from None


def go_back(job: Job, copy: Path) -> str:
    """Make a job's records those of a copy, as one change; what that came to, in words. Raises JobError."""
    then = records_of(copy)
    gone = [id for id in job.records if id not in then]
    put = [record for id, record in then.items() if job.records.get(id) != record]
    if not gone and not put:
        raise JobError(f"{copy.name} holds what the job holds already; there is nothing to go back to.")
    with job.change(f"Go back to {copy.name}") as change:
        for id in gone:
            change.drop(id)
        for record in put:
            change.put(record)
    return f"{counted(len(put), 'record')} as in {copy.name}, {counted(len(gone), 'record')} that it lacks gone"


def put_back(path: Path, copy: Path) -> str:
    """Go back where the job itself cannot be opened: the copy takes its place, and the damaged file another name."""
    try:
        with Job.open(path) as job:
            return go_back(job, copy)
    except Damaged:
        pass
    records = records_of(copy)
    writable(path.with_name(f"{path.name}.new"))
    for number in range(1, 10_000):
        place = path.with_name(f"{path.name[:60]}.damaged-{number}")
        if not place.exists():
            break
    os.replace(path, place)
    try:
        Job.create(path, records.values()).close()
    except JobError:
        os.replace(place, path)
        raise
    return f"{counted(len(records), 'record')} of {copy.name}; the damaged file is kept as {place.name}"
