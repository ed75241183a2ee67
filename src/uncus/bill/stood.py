"""Parts as they stand, each under its own identity, to be held against how they stood or stand elsewhere; as an open
file, so that a package can be held against later."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from uncus.job.billing import Stood
from uncus.job.errors import JobError
from uncus.job.files import json_of, read_outside
from uncus.job.job import Job
from uncus.job.records import AdvanceMark
from uncus.mark.content import assembly_content, part_content
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.describe import billed_length
from uncus.steel.flat import gross_weight
from uncus.steel.part import Part

PIECES = "pieces.json"  # in the folder of a package's bills
FORMAT = "uncus pieces 1"


class Whole(msgspec.Struct, frozen=True):
    """A piece that is shipped: its mark, and the fingerprint of all that it is."""

    mark: str
    content: str


class Pieces(msgspec.Struct, frozen=True):
    """The file: the job's name and number, every part that went, the pieces that they are of, by id, and the ids of the
    `others` that the job had then and that did not go: who looks at the next package must not take them for gone."""

    job: str
    number: str
    parts: tuple[Stood, ...]
    format: str = FORMAT
    assemblies: dict[str, Whole] = {}
    others: tuple[str, ...] = ()


def stood(job: Job, shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool] = lambda _: True) -> tuple[Stood, ...]:
    """Every part that is made or bought, by its id."""
    advance = {a.piece: a for a in job.all(AdvanceMark) if a.part}
    found = []
    for assembly in shop.shipped.values():
        if wanted(assembly):
            found += [_stood(p, assembly, marks, advance.get(p.id)) for p in assembly.pieces]
    return tuple(sorted(found, key=lambda one: one.id))


def _stood(piece: Piece, assembly: Assembly, marks: Marks, advance: AdvanceMark | None) -> Stood:
    part, axes = piece.part, piece.placement.axes
    # what is fixed on goes where its member goes; a member is where its work line is, whatever its section and setbacks
    line = (*assembly.member.start, *axes[:, 0].tolist(), *axes[:, 2].tolist()) if piece.main else ()
    end = assembly.member.end if piece.main else ()
    return Stood(
        id=piece.id,
        owner=piece.owner,
        mark=marks.of_part(piece.id),
        section=stuff_of(part),
        grade=part.grade,
        length=round(billed_length(part), 3),
        kg=round(gross_weight(part), 4),
        finish=part.finish,
        lot=assembly.member.lot.strip(),
        role=str(assembly.member.role),
        advance=advance.mark if advance else "",
        ordered=advance.length if advance else 0.0,
        place=tuple(round(n, 3) for n in (*line, *end)),
        form=part_content(part),
    )


def stuff_of(part: Part) -> str:
    """What a part is made of, whatever the job's units: a section's name, a plate's thickness and shorter side in mm,
    or a bought item's code."""
    if part.item is not None:
        return part.item.code
    if part.section is not None:
        return part.section.name
    return f"PL {part.thickness:.2f} x {min(part.width, part.length):.1f}"


def is_bar(one: Stood) -> bool:
    """Whether metres say anything of it."""
    return not one.section.startswith("PL ")


def pieces_of(
    job: Job,
    shop: Shop,
    marks: Marks,
    wanted: Callable[[Assembly], bool] = lambda _: True,
    content: Callable[[Assembly], str] = assembly_content,
) -> Pieces:
    """The pieces of a job that are wanted, as they stand; `content` gives a piece's fingerprint where it is known."""
    wholes = {id: Whole(marks.of_assembly(id), content(a)) for id, a in sorted(shop.shipped.items()) if wanted(a)}
    others = tuple(sorted(shop.shipped.keys() - wholes.keys()))
    return Pieces(job.project.name, job.project.number, stood(job, shop, marks, wanted), FORMAT, wholes, others)


def pieces_bytes(pieces: Pieces) -> bytes:
    return msgspec.json.format(msgspec.json.encode(pieces), indent=1)


def of_package(folder: Path) -> tuple[Stood, ...]:
    """The parts that a package told of. Raises JobError where it is none, or an older one that does not tell."""
    places = [folder / "bills" / PIECES, folder / PIECES]
    place = next((p for p in places if p.is_file()), None)
    if place is None:
        raise JobError(
            f"{folder} does not say which pieces it held (bills/{PIECES}): it is no package, went without its bills, "
            "or was made by an earlier version."
        )
    return parts_of(read_outside(place), place.name)


def parts_of(data: bytes, name: str) -> tuple[Stood, ...]:
    """The parts that a file `pieces.json` tells of; `name` is what sentences call it. Raises JobError."""
    return read_pieces(data, name).parts


def read_pieces(data: bytes, name: str) -> Pieces:
    """A file `pieces.json`; `name` is what sentences call it. Raises JobError."""
    found = json_of(data, Pieces, name, "list of pieces")
    if found.format != FORMAT:
        raise JobError(f"{name} is written as “{found.format[:40]}”, which this version does not read.")
    return found
