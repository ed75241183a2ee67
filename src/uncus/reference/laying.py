"""References in a job: a file laid beside the steel, found again, read again, taken in as a newer copy."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.references import DXF, FORMATS, IFC, Reference
from uncus.reference.model import Model
from uncus.reference.placing import shift_for
from uncus.reference.reading import Read, Tell, model_of, read, shapes_folder
from uncus.units import Units, format_length

replace = msgspec.structs.replace
_QUIET: Tell = lambda done, of, words: None  # noqa: E731


def path_for(file: Path, job: Path | None) -> str:
    """A file's place as a record keeps it: from the job's folder where it lies beneath that."""
    file = file.absolute()
    if job is not None and file.is_relative_to(job.absolute().parent):
        return file.relative_to(job.absolute().parent).as_posix()
    return str(file)


def file_of(of: Reference, job: Path | None) -> Path | None:
    """Where a reference's file is: at its place, or beside the job under its own name; None where it is nowhere."""
    name = of.path.replace("\\", "/")
    places = [Path(name)]
    if job is not None:
        places = [job.parent / name, Path(name), job.parent / name.rpartition("/")[2]]
    return next((p for p in places if p.is_file()), None)


def model_for(of: Reference, job: Path | None) -> Model | None:
    """What was read of a reference before; None where it is not kept."""
    return model_of(of.sum, shapes_folder(job)) if of.sum else None


def model_before(of: Reference, job: Path | None) -> Model | None:
    """The copy before the newest, to hold it against."""
    return model_of(of.before, shapes_folder(job)) if of.before else None


def read_again(
    of: Reference, job: Path | None, tell: Tell = _QUIET, stopped: Callable[[], bool] = lambda: False
) -> Read:
    """A reference's file as it is now. Raises JobError."""
    file = file_of(of, job)
    if file is None:
        raise JobError(f"The file of “{of.name}” is not at {of.path} any more; show where it is, or take it out.")
    return read(file, shapes_folder(job), tell, stopped)


def newer(of: Reference, job: Path | None) -> bool:
    """Whether the file of a reference is another than was read."""
    from uncus.reference.reading import sum_of_file

    file = file_of(of, job)
    return file is not None and sum_of_file(file) != of.sum


def laid(
    file: Path,
    job: Job,
    tell: Tell = _QUIET,
    stopped: Callable[[], bool] = lambda: False,
) -> tuple[Reference, Model, tuple[str, ...]]:
    """A file laid into a job: its record, new or that of the same file as it is newly, what was read, and what is to be
    said. Nothing of the job is changed. Raises JobError."""
    found = read(file, shapes_folder(job.path), tell, stopped)
    path = path_for(file, job.path)
    there = next((r for r in job.all(Reference) if r.path == path), None)
    notes = list(found.model.facts.notes)
    if there is not None:
        return as_copy(there, found.sum), found.model, tuple(notes)
    kind = DXF if file.suffix.casefold() == ".dxf" else IFC
    assert kind in FORMATS
    made = Reference(name=_free(file.stem, job), path=path, format=kind, sum=found.sum,
        shift=shift_for(found.model.extent))  # fmt: skip
    if any(made.shift):
        notes.append(f"It lies far from the origin (survey coordinates) and is shifted by {shift_words(made, job)}.")
    return made, found.model, tuple(notes)


def as_copy(of: Reference, sum: str) -> Reference:
    """A reference whose file is another than before."""
    return of if sum == of.sum else replace(of, sum=sum, before=of.sum)


def shift_words(of: Reference, job: Job) -> str:
    """By how much a reference is shifted, in words."""
    if job.project.units is Units.METRIC:
        return ", ".join(f"{v / 1000:,.0f} m" for v in of.shift)
    return ", ".join(format_length(v, job.project.units) for v in of.shift)


def _free(stem: str, job: Job) -> str:
    taken = {r.name.casefold() for r in job.all(Reference)}
    name, n = stem, 2
    while name.casefold() in taken:
        name, n = f"{stem} {n}", n + 1
    return name


def shown_products(of: Reference, model: Model) -> list[bool]:
    """Which products of a reference are shown, by number."""
    hidden = frozenset(of.hidden)
    if not of.shown:
        return [False] * len(model.products)
    return [hidden.isdisjoint((f"storey/{p.storey}", f"class/{p.cls}", f"layer/{p.layer}", p.guid))
        for p in model.products]  # fmt: skip


def forget_unused(job: Job) -> int:
    """Take models that no reference of a job reads out of the folder beside it; how many."""
    if job.path is None:
        return 0
    folder = shapes_folder(job.path)
    wanted = {sum[:40] for r in job.all(Reference) for sum in (r.sum, r.before) if sum}
    gone = 0
    for kept in folder.glob("*.npz") if folder.name.endswith(".models") else ():
        if kept.stem.partition("-")[0] not in wanted:
            os.unlink(kept)
            gone += 1
    return gone
