"""Pieces too large for the road as they leave the shop."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.connect.clash import bounds
from uncus.frame.placement import Vec, point_of
from uncus.job.forms import About
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Severity
from uncus.units import format_weight


class Values(msgspec.Struct, frozen=True):
    length: Annotated[float, About("Longest", low=1000.0, high=60_000.0, help="Of the trailer or the yard.")] = 18_288.0
    width: Annotated[float, About("Widest", low=500.0, help="Across the bed; wider wants a permit.")] = 2590.8
    height: Annotated[float, About("Highest", low=500.0, help="Above the bed, under bridges.")] = 2743.2
    weight: Annotated[float, About("Heaviest", unit="weight", low=50, high=500_000)] = 19_958.0


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    a = looked.shipped[id]
    long, high, wide = box(a)
    units = looked.project.units
    sizes = (long, values.length, "long"), (wide, values.width, "wide"), (high, values.height, "high")
    found = [f"{looked.said(v)} {word} (at most {looked.said(most)})" for v, most, word in sizes if v > most]
    if a.lifted > values.weight:
        found.append(f"{format_weight(a.lifted, units)} (at most {format_weight(values.weight, units)})")
    if found:
        text = f"The {a.words} is {', '.join(found)}: too large to ship; splice it, or ship parts of it loose."
        at = point_of(a.main.placement.to_model((a.main.part.length / 2, 0.0, 0.0)))
        yield Found("shipping", (a.id,), text, Severity.LOOK, at, form_of(text))


def box(a: Assembly) -> tuple[float, float, float]:
    """The length of a piece, and its two other sizes as it lies best: the larger one upright."""
    inverse = a.main.placement.inverse
    spots: list[Vec] = []
    for p in a.pieces:
        low, high = np.array(bounds(p.part))
        corners = np.where(np.indices((2, 2, 2)).reshape(3, -1).T, high, low)
        spots.append((inverse @ p.placement).to_model(corners))
    long, one, other = np.ptp(np.concatenate(spots), axis=0).tolist()
    return long, max(one, other), min(one, other)


KIND = Rule(
    "shipping",
    "Too large to ship",
    "Pieces longer, wider, higher or heavier than what is sent.",
    each,
    Over.SHIPPED,
    values=Values,
)
