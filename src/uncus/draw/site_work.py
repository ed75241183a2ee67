"""What is bolted and welded on site to pieces of one mark, where one of them has it and another has not: a joint's
bolts are counted with one of the two pieces that it ties."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple, TypeVar

import msgspec

from uncus.shop.pieces import Assembly
from uncus.steel.joint import Fasteners, Weld, WeldForm


class WeldLine(NamedTuple):
    """Welds that are said in one line: `length` of each along one side."""

    form: WeldForm
    size: float
    sides: int
    around: bool
    length: float


class BoltLine(NamedTuple):
    """Fasteners that are said in one line."""

    kind: str
    size: str
    grade: str
    length: float


class SomeBolts(msgspec.Struct, frozen=True):
    """A line of site bolts, so many on each of some of the mark's pieces."""

    line: BoltLine
    number: int
    pieces: int


class SomeWelds(msgspec.Struct, frozen=True):
    """A line of site welds, so many on each of some of the mark's pieces."""

    line: WeldLine
    number: int
    pieces: int


Line = TypeVar("Line", BoltLine, WeldLine)
Some = TypeVar("Some", SomeBolts, SomeWelds)


def counted_bolts(groups: Iterable[Fasteners]) -> Counter[BoltLine]:
    """Fasteners by what they are, and how many."""
    found: Counter[BoltLine] = Counter()
    for g in groups:
        found[BoltLine(str(g.kind), g.size, g.grade, round(g.length, 1))] += len(g.points)
    return found


def counted_welds(welds: Iterable[Weld]) -> Counter[WeldLine]:
    """Welds by what they are, and how many, wherever they are."""
    return Counter(WeldLine(w.form, round(w.size, 2), w.sides, w.around, round(w.length / w.sides, 1)) for w in welds)


def some_bolts(assemblies: Sequence[Assembly]) -> tuple[SomeBolts, ...]:
    """The site bolts of pieces of one mark, where they differ; nothing where all have the same."""
    return _of_some([counted_bolts(g for g in a.holds if g.field) for a in assemblies], SomeBolts)


def some_welds(assemblies: Sequence[Assembly]) -> tuple[SomeWelds, ...]:
    """The site welds of pieces of one mark, where they differ; nothing where all have the same."""
    return _of_some([counted_welds(a.site_welds) for a in assemblies], SomeWelds)


def _of_some(each: Sequence[Counter[Line]], kind: Callable[[Line, int, int], Some]) -> tuple[Some, ...]:
    """Each line with its number on a piece, and on how many pieces it stands so often; nothing where all are alike."""
    if all(one == each[0] for one in each):
        return ()
    many = Counter((line, n) for one in each for line, n in one.items())
    return tuple(kind(line, n, pieces) for (line, n), pieces in sorted(many.items()))
