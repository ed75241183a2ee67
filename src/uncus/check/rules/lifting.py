"""Pieces too heavy for the crane."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.steel.joint import Severity
from uncus.units import format_weight


class Values(msgspec.Struct, frozen=True):
    crane: Annotated[float, About("The crane lifts", unit="weight", low=50, high=500_000)] = 9_072.0


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    a = looked.shipped[id]
    if a.lifted > values.crane:
        weight, most = (format_weight(v, looked.project.units) for v in (a.lifted, values.crane))
        text = f"The {a.words} weighs {weight}, and the crane lifts {most}; splice it, or hire a larger one."
        at = point_of(a.main.placement.to_model((a.main.part.length / 2, 0.0, 0.0)))
        yield Found("lifting", (a.id,), text, Severity.LOOK, at, form_of(weight))


KIND = Rule("lifting", "Too heavy to lift", "Pieces heavier than the crane of the shop or the site lifts.", each,
    Over.SHIPPED, values=Values)  # fmt: skip
