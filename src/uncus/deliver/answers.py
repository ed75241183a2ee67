"""The fabricator's answers come back in: how far each piece is, and what of it was changed here since."""

from __future__ import annotations

from typing import NamedTuple

from uncus.job.job import Job
from uncus.job.packages import PieceProgress, Stage
from uncus.mark.content import assembly_content
from uncus.mark.marking import Marks
from uncus.reference.step import guid
from uncus.shop.shop import Shop
from uncus.standin.intake import ProgressFile


class Answer(NamedTuple):
    """What of a progress file the job keeps, and what is to be said: pieces that are not here, and those that stood
    further already."""

    records: tuple[PieceProgress, ...]
    notes: tuple[str, ...]


def taken_in(job: Job, shop: Shop, told: ProgressFile) -> Answer:
    """A progress file held against the job; pieces are known by their ids, whatever they are called by now."""
    ids = {id: id for id in shop.shipped} | {guid(id): id for id in shop.shipped}
    known = {p.piece: p for p in job.all(PieceProgress)}
    marks = Marks(job, shop.carried)
    records: dict[str, PieceProgress] = {}
    notes = []
    unknown = sorted({p.mark or p.id for p in told.pieces if p.id not in ids})
    if unknown:
        some = ", ".join(unknown[:5]) + (f" and {len(unknown) - 5} more" if len(unknown) > 5 else "")
        notes.append(f"Not in this job: {some}.")
    back = []
    for one in told.pieces:
        if (id := ids.get(one.id)) is None:
            continue
        before = records.get(id) or known.get(id)
        if before is not None and before.stage.order > one.stage.order:
            back.append(marks.of_assembly(id))
            continue
        assembly = shop.shipped[id]
        # what was cut stays what it was when it was first said to be: a later stage is of the same steel
        content = before.content if before is not None else assembly_content(assembly)
        kg = before.kg if before is not None else round(assembly.gross, 3)
        records[id] = PieceProgress(id=PieceProgress.named(id), piece=id, stage=Stage(one.stage), on=one.on, by=told.by,
            content=content, kg=kg)  # fmt: skip
    if back:
        notes.append(f"Further already, and left so: {', '.join(sorted(back)[:6])}.")
    return Answer(tuple(records.values()), tuple(notes))
