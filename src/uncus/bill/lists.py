"""What lists count and say: bolts, where pieces go, what parts are used in; lists of what is held, and of anchor
rods."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable

import msgspec

from uncus.bill.table import Cell, Column, Table, Unit
from uncus.draw.bases import bases
from uncus.frame.grids import where
from uncus.job.records import Grid, Hold
from uncus.mark.lines import AssemblyLine, PartLine, assembly_lines
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts

_PLACES = 4  # places of a mark that its list names


def where_of(line: AssemblyLine, grid: Grid | None) -> str:
    """Where the pieces of a mark go, by the grid; the first few."""
    places = sorted({whereabouts(grid, a) for a in line.assemblies}, key=natural)
    return ", ".join(places[:_PLACES]) + (f" and {len(places) - _PLACES} more" if len(places) > _PLACES else "")


def used_in(line: PartLine, marks: Marks) -> str:
    """The assemblies a part is in, and how many of it each has: `B2 (2), B10`."""
    per = Counter(p.owner for p in line.pieces)
    found = {marks.of_assembly(owner): n for owner, n in per.items() if marks.of_assembly(owner)}
    return ", ".join(f"{mark} ({found[mark]})" if found[mark] > 1 else mark for mark in sorted(found, key=natural))


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
