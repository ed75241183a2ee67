"""All pieces of a job in arrays, a row each: what the view draws and the pointer meets is read off them.

An edit makes new assemblies of what it touches; their rows are let go and filled again, the rest stays as it is."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from uncus.shop.pieces import Assembly, Piece
from uncus.steel.features import EndCut
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]
LONG = 1000.0  # mm of the length of stock that stands for all lengths of its section
_WIDTHS = {"places": 12, "low": 3, "high": 3, "centre": 3}  # columns of the rows that have several
_TYPES = {"part": np.int32, "owner": np.int32, "there": np.bool_, "main": np.bool_}


class Layouts:
    """A row of each array belongs to one piece: `part` an index into `parts`, `owner` one into `owners`, `places` (n,
    12) the rows of a 3 x 4 matrix, `low` and `high` (n, 3) its box in its own frame, `centre` (n, 3) and `radius` of a
    ball about it in the model. Rows that are not `there` hold nothing. Equal parts share an index."""

    part: NDArray[np.int32]
    owner: NDArray[np.int32]
    there: Flags
    main: Flags
    places: Array
    low: Array
    high: Array
    centre: Array
    radius: Array

    def __init__(self) -> None:
        self.parts: list[Part] = []
        self.owners: list[str] = []
        self.pieces: list[Piece | None] = []
        self.assemblies: dict[str, Assembly] = {}
        self.rows: dict[str, Sequence[int]] = {}  # of each assembly
        self.rows_of: dict[int, set[int]] = defaultdict(set)  # of each part
        self.ends: Array = np.zeros((0, 2, 3))  # of the work line of each owner
        self.standing: Flags = np.zeros(0, dtype=np.bool_)  # owners that are there
        self.changed_parts: set[int] = set()  # since somebody last drew them
        self.fine = 0  # triangles of all holes and bolts, about
        self._index: dict[Part, int] = {}
        self._boxes = np.zeros((0, 2, 3))  # of each part
        self.stocks: list[Part] = []
        self._stock = np.zeros(0, dtype=np.int32)  # of each part
        self._stocks: dict[Part, int] = {}
        self._owner: dict[str, int] = {}
        self._free: list[int] = []
        for name in ("part", "owner", "there", "main", "places", "low", "high", "centre", "radius"):
            wide = _WIDTHS.get(name)
            setattr(self, name, np.zeros((0, wide) if wide else 0, dtype=_TYPES.get(name, np.float64)))

    @classmethod
    def of(cls, assemblies: Iterable[Assembly]) -> Layouts:
        made = cls()
        made.follow({a.id: a for a in assemblies})
        return made

    @property
    def count(self) -> int:
        """Pieces that are there."""
        return len(self.pieces) - len(self._free)

    def owner_of(self, id: str) -> int | None:
        """The index of an assembly that is or was there."""
        return self._owner.get(id)

    def flags(self, ids: Iterable[str], value: bool) -> Flags:
        """By owner: `value` for those that are named, its contrary for all others."""
        flags = np.full(len(self.standing), not value)
        flags[[n for id in ids if (n := self._owner.get(id)) is not None]] = value
        return flags

    def follow(self, assemblies: Mapping[str, Assembly], touched: Iterable[str] | None = None) -> None:
        """Take in assemblies as they are now; `touched` are those that may be others than before, None all."""
        ids = set(assemblies) | set(self.rows) if touched is None else touched
        new: list[Assembly] = []
        for id in ids:
            now, before = assemblies.get(id), self.assemblies.get(id)
            if now is before:
                continue
            if before is not None:
                self._let_go(before)
            if now is not None:
                new.append(now)
        if new:
            self._lay(new)

    def _let_go(self, assembly: Assembly) -> None:
        rows = self.rows.pop(assembly.id)
        self.standing[self._owner[assembly.id]] = False
        del self.assemblies[assembly.id]
        self.fine -= _fine(assembly)
        for row in rows:
            part = int(self.part[row])
            self.rows_of[part].discard(row)
            self.changed_parts.add(part)
            self.pieces[row] = None
        self.there[list(rows)] = False
        self._free.extend(rows)

    def _lay(self, assemblies: Sequence[Assembly]) -> None:
        pieces = [piece for a in assemblies for piece in a.pieces]
        rows = self._room(len(pieces))
        parts = [self._part(piece.part) for piece in pieces]
        at = 0
        for a in assemblies:
            n = len(a.pieces)
            self.rows[a.id], self.assemblies[a.id] = rows[at : at + n], a
            owner = self._owned(a)
            self.owner[rows[at : at + n]] = owner
            self.main[rows[at]] = True
            self.main[rows[at + 1 : at + n]] = False
            self.fine += _fine(a)
            at += n
        for row, part, piece in zip(rows, parts, pieces, strict=True):
            self.pieces[row] = piece
            self.rows_of[part].add(row)
        self.changed_parts.update(parts)
        axes = np.array([p.placement.axes for p in pieces])
        origins = np.array([p.placement.origin for p in pieces])
        boxes = self._boxes[parts]
        self.part[rows], self.there[rows] = parts, True
        self.places[rows] = np.concatenate([axes, origins[:, :, None]], axis=2).reshape(-1, 12)
        self.low[rows], self.high[rows] = boxes[:, 0], boxes[:, 1]
        self.centre[rows] = origins + np.einsum("nij,nj->ni", axes, boxes.mean(axis=1))
        self.radius[rows] = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1) / 2

    def _owned(self, assembly: Assembly) -> int:
        """The index of an assembly that is there from now on."""
        owner = self._owner.setdefault(assembly.id, len(self.owners))
        if owner == len(self.owners):
            self.owners.append(assembly.id)
            if owner >= len(self.standing):
                more = max(64, owner // 2)
                self.ends = np.concatenate([self.ends, np.zeros((more, 2, 3))])
                self.standing = np.concatenate([self.standing, np.zeros(more, dtype=np.bool_)])
        self.ends[owner] = assembly.member.start, assembly.member.end
        self.standing[owner] = True
        return owner

    def _room(self, wanted: int) -> list[int]:
        """Rows that nothing is in."""
        missing = wanted - len(self._free)
        if missing > 0:
            have = len(self.pieces)
            more = max(missing, have // 2, 64)
            for name in ("part", "owner", "there", "main", "places", "low", "high", "centre", "radius"):
                old = getattr(self, name)
                setattr(self, name, np.concatenate([old, np.zeros((more, *old.shape[1:]), dtype=old.dtype)]))
            self.pieces += [None] * more
            self._free = list(range(have + more - 1, have - 1, -1)) + self._free
        rows, self._free = self._free[len(self._free) - wanted :], self._free[: len(self._free) - wanted]
        return rows[::-1]

    def _part(self, part: Part) -> int:
        index = self._index.get(part)
        if index is None:
            index = self._index[part] = len(self.parts)
            self.parts.append(part)
            if index >= len(self._boxes):
                self._boxes = np.concatenate([self._boxes, np.zeros((max(64, index), 2, 3))])
                self._stock = np.concatenate([self._stock, np.zeros(max(64, index), dtype=np.int32)])
            self._boxes[index], self._stock[index] = _box(part), self._stock_of(part)
        return index

    def _stock_of(self, part: Part) -> int:
        stock = part
        if part.section is not None and part.rolling is None:
            stock = Part("", "", LONG, EndCut(0.0), EndCut(LONG), section=part.section)
        index = self._stocks.setdefault(stock, len(self.stocks))
        if index == len(self.stocks):
            self.stocks.append(stock)
        return index

    def stock(self, rows: NDArray[np.intp]) -> NDArray[np.int32]:
        """What stands for some pieces from afar, an index into `stocks`: of straight ones a length of their section."""
        return np.asarray(self._stock[self.part[rows]])


def _box(part: Part) -> tuple[Sequence[float], Sequence[float]]:
    if part.is_formed:
        points = plain_mesh(part).points
        return points.min(axis=0).tolist(), points.max(axis=0).tolist()
    (y0, y1), (z0, z1) = part.y_range, part.depth_range
    return (0.0, y0, z0), (part.length, y1, z1)


def _fine(assembly: Assembly) -> int:
    """Triangles of its holes and bolts, about."""
    holes = sum(len(piece.part.holes) for piece in assembly.pieces)
    return 50 * holes + 80 * sum(len(group.points) for group in assembly.holds)
