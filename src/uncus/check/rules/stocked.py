"""Sections and plates that are not in stock."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.steel.joint import Severity

_SAME = 0.05  # mm


class Values(msgspec.Struct, frozen=True):
    sections: Annotated[str, About("Sections in stock", unit="text",
        help="Names with commas between; nothing: every section can be had.")] = ""  # fmt: skip
    plates: Annotated[tuple[float, ...], About("Plates in stock", unit="lengths", low=0.5, high=500.0,
        help="Thicknesses; nothing: every plate can be had.")] = ()  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    a = looked.assemblies[id]
    names = {name.strip().upper() for name in values.sections.split(",") if name.strip()}
    for p in a.pieces:
        section = p.part.section
        if p.part.item is not None:
            continue
        if section is not None and names and section.name.upper() not in names:
            text = f"{section.name} is not in stock; take another, or order it."
        elif section is None and values.plates and min(abs(p.part.thickness - t) for t in values.plates) > _SAME:
            text = f"Plate of {looked.said(p.part.thickness)} is not in stock; take another, or order it."
        else:
            continue
        yield Found("stock", (p.id,), text, Severity.LOOK, point_of(p.placement.origin), form_of(text))


KIND = Rule(
    "stock",
    "Not in stock",
    "Sections and plates that the office's list does not have.",
    each,
    Over.PIECES,
    values=Values,
)
