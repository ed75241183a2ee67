"""Bought items: what comes as one piece from its maker, by code. The names are made up."""

from __future__ import annotations

import csv
from functools import cache
from importlib.resources import files

import msgspec

from uncus.words import Unknown


class Bought(msgspec.Struct, frozen=True):
    """A line of the catalogue: `profile` is its side view, (out, up) in mm from the corner that is fixed; `wide`
    across."""

    code: str
    maker: str
    words: str
    profile: tuple[tuple[float, float], ...]
    wide: float
    kg: float
    finish: str


@cache
def bought_items() -> dict[str, Bought]:
    """Every item by its code."""
    with (files(__package__) / "data" / "bought.csv").open(encoding="utf-8") as source:
        rows = list(csv.DictReader(source))
    found = {}
    for row in rows:
        points = tuple((float(x), float(y)) for x, y in (p.split() for p in row["profile"].split(";")))
        sizes = {"profile": points, "wide": float(row["wide"]), "kg": float(row["kg"])}
        found[row["code"]] = msgspec.convert({**row, **sizes}, Bought)
    return found


def bought(code: str) -> Bought:
    """Raises LookupError with the codes there are."""
    try:
        return bought_items()[code.strip().upper()]
    except KeyError:
        raise Unknown(f"There is no bought item “{code}”; there are {', '.join(bought_items())}.") from None
