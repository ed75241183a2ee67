"""Marked pieces gathered by mark: what lists, sheets and files are made for."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable

import msgspec

from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop


class AssemblyLine(msgspec.Struct, frozen=True):
    """All assemblies of one mark."""

    mark: str
    assemblies: tuple[Assembly, ...]

    @property
    def first(self) -> Assembly:
        return self.assemblies[0]


class PartLine(msgspec.Struct, frozen=True):
    """All parts of one mark."""

    mark: str
    pieces: tuple[Piece, ...]

    @property
    def first(self) -> Piece:
        return self.pieces[0]


def assembly_lines(shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[AssemblyLine]:
    """Marked assemblies by mark, in the order people read marks."""
    grouped: dict[str, list[Assembly]] = defaultdict(list)
    for assembly in shop.shipped.values():
        if wanted(assembly) and marks.of_assembly(assembly.id):
            grouped[marks.of_assembly(assembly.id)].append(assembly)
    return [AssemblyLine(m, tuple(sorted(grouped[m], key=lambda a: a.id))) for m in sorted(grouped, key=natural)]


def part_lines(assemblies: Iterable[Assembly], marks: Marks) -> list[PartLine]:
    grouped: dict[str, list[Piece]] = defaultdict(list)
    for assembly in assemblies:
        for piece in assembly.pieces:
            if marks.of_part(piece.id):
                grouped[marks.of_part(piece.id)].append(piece)
    return [PartLine(m, tuple(sorted(grouped[m], key=lambda p: p.id))) for m in sorted(grouped, key=natural)]
