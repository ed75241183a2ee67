"""Pieces laid out as arrays, an assembly at a time, and kept for as long as the assembly stays the same.

An edit makes new assemblies of what it touches and leaves the rest; so of a large job only a few are laid out anew.
"""

from __future__ import annotations

from collections.abc import Iterable

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.shop.pieces import Assembly, Piece
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh

Array = NDArray[np.float64]


class Laid(msgspec.Struct, frozen=True, eq=False):
    """One assembly's pieces: which part each is (an index), placement (k, 12) as rows of a 3 x 4 matrix, and the box of
    each in its own frame (k, 3) low and high."""

    assembly: Assembly
    parts: NDArray[np.int64]
    places: Array
    low: Array
    high: Array
    fine: int  # triangles of its holes and bolts, about

    @property
    def pieces(self) -> tuple[Piece, ...]:
        return self.assembly.pieces


class Layouts:
    """Every assembly laid out once; equal parts share an index into `parts`."""

    def __init__(self) -> None:
        self.parts: list[Part] = []
        self._index: dict[Part, int] = {}
        self._known: dict[str, Laid] = {}

    def of(self, assemblies: Iterable[Assembly]) -> list[Laid]:
        return [self._laid(a) for a in assemblies]

    def forget(self, there: Iterable[str]) -> None:
        """Keep only what is there still."""
        kept = set(there)
        self._known = {id: laid for id, laid in self._known.items() if id in kept}

    def _laid(self, assembly: Assembly) -> Laid:
        known = self._known.get(assembly.id)
        if known is None or known.assembly is not assembly:
            known = self._known[assembly.id] = self._lay(assembly)
        return known

    def _lay(self, assembly: Assembly) -> Laid:
        pieces = assembly.pieces
        n = len(pieces)
        parts = np.zeros(n, dtype=np.int64)
        places, low, high = np.zeros((n, 12)), np.zeros((n, 3)), np.zeros((n, 3))
        for i, piece in enumerate(pieces):
            part = piece.part
            index = self._index.get(part)
            if index is None:
                index = self._index[part] = len(self.parts)
                self.parts.append(part)
            parts[i] = index
            places[i] = np.hstack([piece.placement.axes, piece.placement.origin[:, None]]).ravel()
            (y0, y1), (z0, z1) = part.y_range, part.depth_range
            low[i], high[i] = (0, y0, z0), (part.length, y1, z1)
            if part.is_formed:
                low[i], high[i] = plain_mesh(part).points.min(axis=0), plain_mesh(part).points.max(axis=0)
        holes = sum(len(piece.part.holes) for piece in pieces)
        bolts = sum(len(group.points) for group in assembly.holds)
        return Laid(assembly, parts, places, low, high, 50 * holes + 80 * bolts)
