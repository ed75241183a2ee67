"""What changed, and what is to be bought, as lists like any other."""

from __future__ import annotations

from collections.abc import Iterable

from uncus.bill.compare import Compared, in_words, shown, summed
from uncus.bill.table import Column, Subtotal, Table, Unit
from uncus.units import Units


def change_tables(c: Compared, units: Units) -> list[Table]:
    """Differences put together, piece by piece, and lengths that were ordered; those that have something in them."""
    notes = tuple(in_words(c, units).splitlines())
    sums = Table(
        "changes",
        f"What changed since {c.was}",
        (
            Column("Change", Unit.TEXT),
            Column("Section or plate", Unit.TEXT),
            Column("Grade", Unit.TEXT),
            Column("Pieces", Unit.COUNT, True),
            Column("More or fewer", Unit.COUNT, True),
            Column("Length", Unit.LENGTH),
            Column("Weight", Unit.WEIGHT, True),
            Column("Marks", Unit.TEXT),
        ),
        tuple(
            (s.kind, shown(s.section, units), s.grade, s.pieces, s.number, s.metres * 1000.0, s.kg, ", ".join(s.marks))
            for s in summed(c.differences)
        ),
        notes=notes,
    )
    rows = sorted(c.differences, key=lambda d: d.kinds[0])
    groups, first = [], 0
    for n, d in enumerate(rows):
        if n + 1 == len(rows) or rows[n + 1].kinds[0] != d.kinds[0]:
            groups.append(Subtotal(d.kinds[0], first, n + 1))
            first = n + 1
    each = Table(
        "pieces changed",
        f"Pieces changed since {c.was}",
        (
            Column("Mark", Unit.TEXT),
            Column("Change", Unit.TEXT),
            Column("Section or plate", Unit.TEXT),
            Column("Length", Unit.LENGTH),
            Column("Weight", Unit.WEIGHT, True),
            Column("What", Unit.TEXT),
            Column("Piece", Unit.TEXT),
        ),
        tuple(
            (d.one.mark, ", ".join(d.kinds), shown(d.one.section, units), d.one.length, d.kg, d.words, d.id)
            for d in rows
        ),
        tuple(groups),
        landscape=True,
    )
    ordered = Table(
        "ordered lengths",
        "Lengths that were ordered",
        (
            Column("Advance mark", Unit.TEXT),
            Column("Section", Unit.TEXT),
            Column("Ordered", Unit.LENGTH),
            Column("Now", Unit.LENGTH),
            Column("How", Unit.TEXT),
            Column("What", Unit.TEXT),
        ),
        tuple(
            (o.was.advance, o.was.section, o.was.ordered, o.now.length if o.now else "", o.how, o.words)
            for o in c.ordered
        ),
    )
    return [sums, *(table for table in (each, ordered) if table.rows)]


def mill_table(rows: Iterable[tuple[str, str, float, int, float]]) -> Table:
    """Bars to be bought: section, grade, length, how many, kg."""
    columns = (
        Column("Section", Unit.TEXT),
        Column("Grade", Unit.TEXT),
        Column("Length", Unit.LENGTH),
        Column("Number", Unit.COUNT, True),
        Column("Weight", Unit.WEIGHT, True),
    )
    return Table("mill order", "Mill order", columns, tuple(rows))
