"""Pieces too heavy for the crane."""

from collections.abc import Iterable, Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Severity
from uncus.units import format_weight


class Values(msgspec.Struct, frozen=True):
    crane: Annotated[int, About("The crane lifts, kg", unit="count", low=100, high=500_000)] = 10_000


def find(looked: Looked, values: Values) -> Iterator[Found]:
    def of(a: Assembly) -> Iterable[Found]:
        if a.gross > values.crane:
            weight, most = (format_weight(v, looked.project.units) for v in (a.gross, values.crane))
            text = f"The {a.words} weighs {weight}, and the crane lifts {most}; splice it, or hire a larger one."
            at = point_of(a.main.placement.to_model((a.main.part.length / 2, 0.0, 0.0)))
            yield Found("lifting", (a.id,), text, Severity.LOOK, at, form_of(weight))

    yield from looked.of_pieces("lifting", values, of, looked.shipped)


KIND = Rule(
    "lifting", "Too heavy to lift", "Pieces heavier than the crane of the shop or the site lifts.", find, Values
)
