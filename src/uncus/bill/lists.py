"""The lists a fabricator's office reads, as plain tables that any writer prints."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from enum import StrEnum

import msgspec

from uncus.frame.grids import where
from uncus.job.job import Job
from uncus.job.records import Grid
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.flat import gross_weight, net_weight
from uncus.steel.joint import FastenerKind
from uncus.steel.part import Part
from uncus.units import Units, format_length


class Unit(StrEnum):
    TEXT = "text"
    COUNT = "count"
    LENGTH = "length"
    WEIGHT = "weight"


class Column(msgspec.Struct, frozen=True):
    words: str
    unit: Unit
    total: bool = False


Cell = str | int | float


class Table(msgspec.Struct, frozen=True):
    """A list: lengths in mm and weights in kg, turned to the job's units only when written."""

    name: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]


def describe(part: Part, units: Units) -> str:
    """A part as a bill names it: its section, or `PL 3/8 x 3 1/2`."""
    if part.section is not None:
        return part.section.name
    short = min(part.width, part.length)
    return f"PL {format_length(part.thickness, units)} x {format_length(short, units)}"


def billed_length(part: Part) -> float:
    """Length as billed: over all; of a plate, the longer side."""
    return part.length if part.section is not None else max(part.length, part.width)


class AssemblyLine(msgspec.Struct, frozen=True):
    """All assemblies of one mark."""

    mark: str
    assemblies: tuple[Assembly, ...]

    @property
    def first(self) -> Assembly:
        return self.assemblies[0]


class PartLine(msgspec.Struct, frozen=True):
    """All parts of one mark."""

    mark: str
    pieces: tuple[Piece, ...]

    @property
    def first(self) -> Piece:
        return self.pieces[0]


def assembly_lines(shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[AssemblyLine]:
    """Marked assemblies by mark, in the order people read marks."""
    grouped: dict[str, list[Assembly]] = defaultdict(list)
    for assembly in shop.assemblies.values():
        if wanted(assembly) and marks.of_assembly(assembly.id):
            grouped[marks.of_assembly(assembly.id)].append(assembly)
    return [AssemblyLine(m, tuple(sorted(grouped[m], key=lambda a: a.id))) for m in sorted(grouped, key=natural)]


def part_lines(assemblies: Iterable[Assembly], marks: Marks) -> list[PartLine]:
    grouped: dict[str, list[Piece]] = defaultdict(list)
    for assembly in assemblies:
        for piece in assembly.pieces:
            if marks.of_part(piece.id):
                grouped[marks.of_part(piece.id)].append(piece)
    return [PartLine(m, tuple(sorted(grouped[m], key=lambda p: p.id))) for m in sorted(grouped, key=natural)]


def assembly_list(lines: list[AssemblyLine]) -> Table:
    columns = (Column("Mark", Unit.TEXT), Column("Number", Unit.COUNT, True), Column("Main section", Unit.TEXT),
               Column("Role", Unit.TEXT), Column("Length", Unit.LENGTH), Column("Weight each, gross", Unit.WEIGHT),
               Column("Weight each, net", Unit.WEIGHT), Column("Weight, gross", Unit.WEIGHT, True), Column("Lot", Unit.TEXT))
    rows = tuple(
        (line.mark, len(line.assemblies), line.first.member.section, str(line.first.member.role), line.first.main.part.length,
         line.first.gross, line.first.net, line.first.gross * len(line.assemblies), line.first.member.lot)
        for line in lines
    )
    return Table("assemblies", "Assemblies", columns, rows)


def part_list(lines: list[PartLine], units: Units) -> Table:
    columns = (Column("Mark", Unit.TEXT), Column("Number", Unit.COUNT, True), Column("Section or plate", Unit.TEXT),
               Column("Length", Unit.LENGTH), Column("Grade", Unit.TEXT), Column("Holes", Unit.COUNT),
               Column("Weight each, gross", Unit.WEIGHT), Column("Weight each, net", Unit.WEIGHT),
               Column("Weight, gross", Unit.WEIGHT, True))
    rows = tuple(
        (line.mark, len(line.pieces), describe(part, units), billed_length(part), part.grade, len(part.holes),
         gross_weight(part), net_weight(part), gross_weight(part) * len(line.pieces))
        for line in lines for part in (line.first.part,)
    )
    return Table("parts", "Parts", columns, rows)


class BoltLine(msgspec.Struct, frozen=True, order=True):
    kind: str
    size: str
    length: float
    grade: str
    place: str


def bolt_counts(assemblies: Iterable[Assembly]) -> dict[BoltLine, int]:
    """Bolts and rods by size, length and grade, with their number."""
    counts: dict[BoltLine, int] = defaultdict(int)
    for assembly in assemblies:
        for group in assembly.holds:
            line = BoltLine(str(group.kind), group.size, round(group.length, 2), group.grade, "site" if group.field else "shop")
            counts[line] += len(group.points)
    return dict(sorted(counts.items()))


def bolt_list(assemblies: Iterable[Assembly]) -> Table:
    columns = (Column("Kind", Unit.TEXT), Column("Size", Unit.TEXT), Column("Length", Unit.LENGTH), Column("Grade", Unit.TEXT),
               Column("Where", Unit.TEXT), Column("Number", Unit.COUNT, True), Column("With each", Unit.TEXT))
    extra = {FastenerKind.BOLT: "nut, washer", FastenerKind.ROD: "2 nuts, plate washer"}
    rows = tuple((b.kind, b.size, b.length, b.grade, b.place, n, extra[FastenerKind(b.kind)])
                 for b, n in bolt_counts(assemblies).items())
    return Table("bolts", "Bolts and rods", columns, rows)


def whereabouts(job: Job, assembly: Assembly) -> str:
    """Where a piece goes, by the grid at its middle (columns: at the foot)."""
    grid = next(iter(job.all(Grid)), None)
    a, b = assembly.member.start, assembly.member.end
    if abs(a[0] - b[0]) + abs(a[1] - b[1]) < 1:
        return where(grid, a[0], a[1])
    return where(grid, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2)


def all_lists(shop: Shop, marks: Marks, units: Units, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[Table]:
    """The three lists of a job or of what `wanted` lets through."""
    lines = assembly_lines(shop, marks, wanted)
    chosen = [a for line in lines for a in line.assemblies]
    return [assembly_list(lines), part_list(part_lines(chosen, marks), units), bolt_list(chosen)]
