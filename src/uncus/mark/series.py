"""Which series gives a piece its mark, and how a series writes its numbers."""

from __future__ import annotations

import re
import string
from collections.abc import Callable, Sequence

from uncus.job.records import Series
from uncus.shop.pieces import Assembly, Piece

Lets = Callable[[Series, Assembly], bool]  # whether a series' lens lets an assembly through


def kind_of(piece: Piece) -> str:
    if piece.part.item is not None:
        return "bought"
    return "plate" if piece.part.is_plate else "rolled"


def series_for(series: Sequence[Series], assembly: Assembly, piece: Piece | None, lets: Lets) -> Series:
    """The first series in order that fits an assembly (no piece) or a part of it; one of its own where none does."""
    named = (str(assembly.member.role),) if piece is None else (piece.words, kind_of(piece))
    for one in series:
        fits = one.parts == (piece is not None) and (not one.roles or any(n in one.roles for n in named))
        if fits and lets(one, assembly):
            return one
    prefix = "M" if piece is None else "x"
    return Series(id=f"series {prefix}", prefix=prefix, roles=named[-1:], parts=piece is not None)


def name_of(series: Series, number: int, suffix: str = "") -> str:
    return f"{series.prefix}{number:0{series.pad}d}{suffix}"


def read_mark(series: Series, mark: str) -> tuple[int, str] | None:
    """Number and letters of a mark that a series could have made."""
    found = re.fullmatch(re.escape(series.prefix) + r"(\d+)([a-z]*)", mark)
    return (int(found[1]), found[2]) if found else None


def letters(n: int) -> str:
    """a, b, ... z, aa, ab ..."""
    text = ""
    n += 1
    while n:
        n, rest = divmod(n - 1, 26)
        text = string.ascii_lowercase[rest] + text
    return text


def limits(series: Sequence[Series]) -> dict[str, tuple[int | None, Series | None]]:
    """The last number of each series that runs into no other, and the series it would run into."""
    found: dict[str, tuple[int | None, Series | None]] = {}
    for one in series:
        later = [
            s
            for s in series
            if s.parts == one.parts and s.prefix == one.prefix and s.id != one.id and s.start > one.start
        ]
        after = min(later, key=lambda s: s.start, default=None)
        ends = [n for n in (one.last, after.start - 1 if after else None) if n is not None]
        last = min(ends, default=None)
        found[one.id] = (last, after if after and last == after.start - 1 else None)
    return found
