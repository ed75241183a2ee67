"""What an IFC file says of a piece's paper: the sheet it is drawn on, its revision, and what it was ordered as."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from uncus.deliver.ifc_facts import Values, labels
from uncus.draw.entries import assemblies, parts
from uncus.draw.entry import Entry
from uncus.job.job import Job
from uncus.job.records import AdvanceMark


class Paper(NamedTuple):
    """The sheet and revision of assemblies by id, and of parts by mark."""

    of_assembly: Mapping[str, Values] = {}
    of_part: Mapping[str, Values] = {}


def paper_of(entries: Iterable[Entry]) -> Paper:
    """What the lines of the register say of the sheets of pieces; a plate that shares a sheet says that sheet's."""
    of_assembly: dict[str, Values] = {}
    of_part: dict[str, Values] = {}
    for entry in entries:
        for one in entry.plates or (entry,):
            said = labels(Sheet=entry.name, Revision=one.revision or entry.revision)
            if one.kind == assemblies.KIND:
                of_assembly |= dict.fromkeys(one.pieces, said)
            elif one.kind == parts.KIND:
                of_part[one.name] = said
    return Paper(of_assembly, of_part)


def ordered_as(job: Job) -> dict[tuple[str, bool], str]:
    """The advance marks of assemblies and parts, by piece and whether it is a part."""
    return {(one.piece, one.part): one.mark for one in job.all(AdvanceMark)}
