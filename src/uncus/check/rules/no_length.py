"""Pieces of which joints leave nothing, or next to nothing."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About


class Values(msgspec.Struct, frozen=True):
    least: Annotated[float, About("Least length", low=1.0, help="Members shorter than this are told.")] = 50.8


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    a = looked.assemblies[id]
    long = a.main.part.length
    if long < values.least and a.main.part.section is not None:
        text = f"The {a.words} is {looked.said(long)} long; lengthen it, or delete it."
        yield Found("no length", (a.id,), text, at=point_of(a.main.placement.origin), form=form_of(round(long, 1)))


KIND = Rule("no length", "Is next to nothing", "Members of which joints and cuts leave hardly any length.", each,
    Over.PIECES, values=Values)  # fmt: skip
