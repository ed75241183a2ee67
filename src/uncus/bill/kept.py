"""Lists as they were sent: kept in the job, and seen again as they were."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.bill.table import Column, Subtotal, Table, Unit
from uncus.job.billing import KeptList, Stood


def kept(table: Table, parts: Sequence[Stood], name: str, on: str) -> KeptList:
    """A record of a list as it is sent, and of the parts it is of."""
    return KeptList(
        name=name,
        on=on,
        title=table.title,
        heads=tuple(c.words for c in table.columns),
        measures=tuple(str(c.unit) for c in table.columns),
        totals=tuple(c.total for c in table.columns),
        rows=table.rows,
        groups=tuple((g.words, g.first, g.last) for g in table.groups),
        parts=tuple(parts),
    )


def table_of(one: KeptList) -> Table:
    """The list as it was sent."""
    units = {str(u): u for u in Unit}
    columns = tuple(
        Column(words, units.get(measure, Unit.TEXT), total)
        for words, measure, total in zip(one.heads, one.measures, one.totals, strict=True)
    )
    there = len(one.rows)
    groups = tuple(Subtotal(w, a, b) for w, a, b in one.groups if 0 <= a < b <= there)
    return Table(one.name, one.title or one.name, columns, one.rows, groups, (f"AS SENT ON {one.on}",))
