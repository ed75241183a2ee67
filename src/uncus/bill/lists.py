"""The lists a fabricator's office reads, as plain tables that any writer prints."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable
from enum import StrEnum

import msgspec

from uncus.draw.bases import bases
from uncus.frame.grids import where
from uncus.job.records import Grid, Hold
from uncus.mark.lines import AssemblyLine, PartLine, assembly_lines, part_lines
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts
from uncus.steel.describe import billed_length, describe
from uncus.steel.flat import gross_weight, net_weight
from uncus.steel.joint import FastenerKind
from uncus.units import Units


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
_PLACES = 4  # places of a mark that its list names


class Table(msgspec.Struct, frozen=True):
    """A list: lengths in mm and weights in kg, turned to the job's units only when written."""

    name: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]


def _where(line: AssemblyLine, grid: Grid | None) -> str:
    """Where the pieces of a mark go, by the grid; the first few."""
    places = sorted({whereabouts(grid, a) for a in line.assemblies}, key=natural)
    return ", ".join(places[:_PLACES]) + (f" and {len(places) - _PLACES} more" if len(places) > _PLACES else "")


def assembly_list(lines: list[AssemblyLine], grid: Grid | None = None) -> Table:
    columns = (
        Column("Mark", Unit.TEXT),
        Column("Number", Unit.COUNT, True),
        Column("Main section", Unit.TEXT),
        Column("Role", Unit.TEXT),
        Column("Length", Unit.LENGTH),
        Column("Weight each, gross", Unit.WEIGHT),
        Column("Weight each, net", Unit.WEIGHT),
        Column("Weight, gross", Unit.WEIGHT, True),
        Column("Lot", Unit.TEXT),
        Column("Where", Unit.TEXT),
    )
    rows = tuple(
        (
            line.mark,
            len(line.assemblies),
            line.first.member.section,
            str(line.first.member.role),
            line.first.main.part.length,
            line.first.gross,
            line.first.net,
            line.first.gross * len(line.assemblies),
            line.first.member.lot,
            _where(line, grid),
        )
        for line in lines
    )
    return Table("assemblies", "Assemblies", columns, rows)


def used_in(line: PartLine, marks: Marks) -> str:
    """The assemblies a part is in, and how many of it each has: `B2 (2), B10`."""
    per = Counter(p.owner for p in line.pieces)
    found = {marks.of_assembly(owner): n for owner, n in per.items() if marks.of_assembly(owner)}
    return ", ".join(f"{mark} ({found[mark]})" if found[mark] > 1 else mark for mark in sorted(found, key=natural))


def part_list(lines: list[PartLine], units: Units, marks: Marks) -> Table:
    columns = (
        Column("Mark", Unit.TEXT),
        Column("Number", Unit.COUNT, True),
        Column("Section or plate", Unit.TEXT),
        Column("Length", Unit.LENGTH),
        Column("Grade", Unit.TEXT),
        Column("Holes", Unit.COUNT),
        Column("Weight each, gross", Unit.WEIGHT),
        Column("Weight each, net", Unit.WEIGHT),
        Column("Weight, gross", Unit.WEIGHT, True),
        Column("Used in", Unit.TEXT),
    )
    rows = tuple(
        (
            line.mark,
            len(line.pieces),
            describe(part, units),
            billed_length(part),
            part.grade,
            len(part.holes),
            gross_weight(part),
            net_weight(part),
            gross_weight(part) * len(line.pieces),
            used_in(line, marks),
        )
        for line in lines
        for part in (line.first.part,)
        if part.item is None
    )
    return Table("parts", "Parts", columns, rows)


def bought_list(lines: list[PartLine], marks: Marks) -> Table:
    """What is bought as one piece, a line for each thing the buyer orders."""
    columns = (
        Column("Mark", Unit.TEXT),
        Column("Number", Unit.COUNT, True),
        Column("Code", Unit.TEXT),
        Column("Maker", Unit.TEXT),
        Column("Item", Unit.TEXT),
        Column("Finish", Unit.TEXT),
        Column("Weight each", Unit.WEIGHT),
        Column("Weight", Unit.WEIGHT, True),
        Column("Used in", Unit.TEXT),
    )
    rows = tuple(
        (line.mark, len(line.pieces), item.code, item.maker, item.words, line.first.part.finish, item.kg,
            item.kg * len(line.pieces), used_in(line, marks))
        for line in lines
        if (item := line.first.part.item) is not None
    )  # fmt: skip
    return Table("bought", "Bought items", columns, rows)


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
            line = BoltLine(
                str(group.kind), group.size, round(group.length, 2), group.grade, "site" if group.field else "shop"
            )
            counts[line] += len(group.points)
    return dict(sorted(counts.items()))


def bolt_list(assemblies: Iterable[Assembly]) -> Table:
    columns = (
        Column("Kind", Unit.TEXT),
        Column("Size", Unit.TEXT),
        Column("Length", Unit.LENGTH),
        Column("Grade", Unit.TEXT),
        Column("Where", Unit.TEXT),
        Column("Number", Unit.COUNT, True),
        Column("With each", Unit.TEXT),
    )
    extra = {FastenerKind.BOLT: "nut, washer", FastenerKind.ROD: "2 nuts, plate washer", FastenerKind.STUD: "ferrule"}
    rows = tuple(
        (b.kind, b.size, b.length, b.grade, b.place, n, extra[FastenerKind(b.kind)])
        for b, n in bolt_counts(assemblies).items()
    )
    return Table("bolts", "Bolts, rods and studs", columns, rows)


def held_list(holds: Iterable[Hold], shop: Shop, marks: Marks) -> Table:
    """Pieces that questions hold, and what is asked of whom."""
    heads = "Mark", "Piece", "Question", "Asked of", "Since", "What is asked"
    columns = tuple(Column(name, Unit.TEXT) for name in heads)
    there = ((hold, a) for hold in holds if not hold.let_go and (a := shop.shipped.get(shop.ships_as(hold.member))))
    rows = {(marks.of_assembly(a.id), a.words, str(h.number), h.whom, h.on, h.question): None for h, a in there}
    return Table("held", "Held", columns, tuple(sorted(rows, key=lambda row: (int(row[2]), natural(row[0])))))


def survey_list(shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool], grid: Grid | None = None) -> Table:
    """Every plumb anchor rod by its base, for those who set them and measure them: where it stands by the grid, and its
    top in the model."""
    columns = (
        Column("Base", Unit.TEXT),
        Column("Kind", Unit.TEXT),
        Column("Grid", Unit.TEXT),
        Column("Rod", Unit.COUNT),
        Column("Size", Unit.TEXT),
        *(Column(name, Unit.LENGTH) for name in ("X", "Y", "Top")),
    )
    there = (
        a for line in assembly_lines(shop, marks) for a in line.assemblies
    )  # all, so that kinds have the plan's names
    found, kinds = bases((marks.of_assembly(a.id), a) for a in sorted(there, key=lambda a: a.id))
    of, rows = dict(kinds), list[tuple[Cell, ...]]()
    for base in sorted(found, key=lambda one: (natural(one.mark), one.at, one.id)):
        if not wanted(shop.shipped[base.id]):
            continue
        kind = of[base.kind]
        for n, (x, y) in enumerate(base.spots(kind), 1):
            at = where(grid, *base.at)
            rows.append((base.mark, base.kind, at, n, kind.size, x, y, base.top(kind)))
    return Table("anchors", "Anchor rods, for survey", columns, tuple(rows))


def all_lists(
    shop: Shop,
    marks: Marks,
    units: Units,
    wanted: Callable[[Assembly], bool] = lambda _: True,
    grid: Grid | None = None,
) -> list[Table]:
    """The lists of a job or of what `wanted` lets through."""
    lines = assembly_lines(shop, marks, wanted)
    chosen = [a for line in lines for a in line.assemblies]
    parts = part_lines(chosen, marks)
    made = [assembly_list(lines, grid), part_list(parts, units, marks), bolt_list(chosen)]
    more = bought_list(parts, marks), survey_list(shop, marks, wanted, grid)
    return [*made, *(table for table in more if table.rows)]
