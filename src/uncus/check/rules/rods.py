"""Columns on fewer than four anchor rods (OSHA 29 CFR 1926.755(a)(1))."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.job.forms import About
from uncus.job.records import Connection, Member, Role
from uncus.steel.joint import FastenerKind


class Values(msgspec.Struct, frozen=True):
    least: Annotated[int, About("Rods a column", unit="count", low=1, high=12)] = 4


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    c = looked.get(id, Connection)
    member = looked.get(c.member, Member) if c else None
    if member is None or member.role is not Role.COLUMN:
        return
    rods = [p for g in looked.connections[id].fasteners if g.kind is FastenerKind.ROD for p in g.points]
    if rods and len(rods) < values.least:
        text = (
            f"The column {member.section} stands on {len(rods)} anchor rods; safe erection wants {values.least} "
            f"(29 CFR 1926.755)."
        )
        yield Found("rods", (id,), text, at=rods[0], form=form_of(len(rods)))


KIND = Rule("rods", "Too few anchor rods", "Columns that may fall over before they are braced.", each, Over.JOINTS,
    values=Values)  # fmt: skip
