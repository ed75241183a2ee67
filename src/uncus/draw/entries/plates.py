"""Sheets of several small plates, where a preset asks for them."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.draw.entries import parts
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.gathered import GatheredJob
from uncus.draw.kept import entry
from uncus.draw.piece_job import PieceJob

KIND = "plates"
_SMALL = 400.0  # mm: larger plates have a sheet of their own, where they read


def entries(of: Needs) -> Iterator[Entry]:
    """Parts' entries, small plates gathered as many to a sheet as their preset says; those that are left over come
    last."""
    waiting: list[Entry] = []
    for one in parts.entries(of):
        several = _several(one)
        if several < 2:
            yield one
            continue
        waiting.append(one)
        if len(waiting) >= several:
            yield _together(of, tuple(waiting))
            waiting.clear()
    if waiting:
        yield _together(of, tuple(waiting))


def _several(one: Entry) -> int:
    """How many plates go to the sheet of one; 1 for what has a sheet of its own."""
    if not isinstance(one.job, PieceJob):
        return 1
    return one.job.preset.several if is_small(one.job) else 1


def is_small(job: PieceJob) -> bool:
    """Whether a part's sheet is of a plate that reads beside others."""
    part = job.bill[0][1]
    return job.kind == parts.KIND and part.is_plate and max(part.length, part.width) <= _SMALL


def _together(of: Needs, plates: tuple[Entry, ...]) -> Entry:
    jobs = tuple(one.job for one in plates if isinstance(one.job, PieceJob))
    name = f"{jobs[0].name}-{jobs[-1].name}" if len(jobs) > 1 else jobs[0].name
    own = tuple(one.piece for one in plates)
    standing = of.kept.standing(KIND, own, name)
    job = GatheredJob(name, jobs, "", standing.hand, standing.since)
    pieces = tuple(dict.fromkeys(p for one in plates for p in one.pieces))
    return entry(job, f"{len(jobs)} plates", KIND, pieces, own, standing, plates)
