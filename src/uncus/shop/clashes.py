"""Steel of a job that fills other steel: kept by pairs of members, followed change by change, said at the joint it
is of."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import islice
from typing import NamedTuple

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from uncus.connect.clash import Boxes, Overlap, near, overlaps
from uncus.connect.kind import Body
from uncus.frame.axes import is_vertical
from uncus.job.records import Attachment, Connection, End
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.joint import Contribution, Finding
from uncus.units import INCH, Units, length_in_words

_FEW = 40  # members whose boxes are held against all others' one by one; of more a tree is asked
_GROWTH = 256
_NOWHERE = np.array([[np.inf] * 3, [-np.inf] * 3])
_CROSSING = 0.7  # cosine between members under which they cross in one place, no more than a section off
_AT_END = 1.5  # sections' depths from an end within which a clash is that end's
_PAIRS = 2000  # of members, whose pieces are held against each other at once


class Clash(msgspec.Struct, frozen=True):
    """Two pieces that fill the same space, and how much of it."""

    a: Piece
    b: Piece
    shared: Overlap


class Steel(NamedTuple):
    """What of a job's steel tells whose a finding is: members, connections, attachments and what they make, the ids
    of both at each member, the units to say it in."""

    bodies: Mapping[str, Body]
    connections: Mapping[str, Connection]
    attachments: Mapping[str, Attachment]
    made: Mapping[str, Contribution]
    at: Mapping[str, set[str]]
    fixed: Mapping[str, set[str]]
    units: Units

    def record(self, id: str) -> Connection | Attachment | None:
        return self.connections.get(id) or self.attachments.get(id)

    def finding(self, clash: Clash) -> Finding | None:
        """What is to be said of a clash, at the joint it is of; None where an end simply has no joint yet."""
        return Finding(self._about(clash), self._sentence(clash)) if self.counts(clash) else None

    def counts(self, clash: Clash) -> bool:
        """Whether something is to be said of a clash: not where an end simply has no joint yet."""
        return not any(self._is_stock(p) and self._is_loose(p.owner, clash) for p in (clash.a, clash.b))

    def said(self, clash: Clash) -> str:
        """A clash in words, without saying where."""
        first, second = sorted((clash.a, clash.b), key=self._is_stock)
        return (
            f"The {self._words(first)} and the {self._words(second)} fill the same space, {self._size(clash)}; move, "
            f"cut or shorten one of them."
        )

    def _is_stock(self, piece: Piece) -> bool:
        return piece.maker in self.bodies

    def ends_loose(self, a: Piece, b: Piece) -> bool:
        """Whether two members' stock crosses, well off parallel, where an end of one is near that no joint has cut or
        fitted yet: whatever they share is then of no interest, and need not be worked out."""
        if a.owner == b.owner or not (self._is_stock(a) and self._is_stock(b)):
            return False
        one, two = self.bodies[a.owner], self.bodies[b.owner]
        if one.arc or two.arc:
            return False
        cosine = float(one.frame.x @ two.frame.x)
        if abs(cosine) > _CROSSING:
            return False
        off = two.frame.origin - one.frame.origin
        along, back = float(off @ one.frame.x), float(off @ two.frame.x)
        square = 1 - cosine * cosine
        near = _AT_END / 2 * (one.section.d + two.section.d)
        for body, x in ((one, (along - cosine * back) / square), (two, (cosine * along - back) / square)):
            if body.record.blank is not None or body.record.maker or body.record.item is not None:
                continue  # a plate, and what a stair or rail is made of, ends where it is: no joint is to come
            for end, away in ((End.LEFT, x), (End.RIGHT, body.length - x)):
                if away < near and not self._is_fitted(body.id, end):
                    return True
        return False

    def _about(self, clash: Clash) -> str:
        pair = clash.a, clash.b
        makers = sorted((p.maker not in self.connections, p.maker) for p in pair if not self._is_stock(p))
        if makers:
            return makers[0][1]
        owners = {p.owner for p in pair}
        both = sorted(set.intersection(*(self.at.get(id, set()) for id in owners)))
        joining = [id for id in both if self.connections[id].member in owners]
        return joining[0] if joining and len(owners) > 1 else min(owners)

    def _is_loose(self, member: str, clash: Clash) -> bool:
        """Whether a clash is at an end of a member that no joint has cut or fitted yet."""
        body = self.bodies[member]
        near = _AT_END * sum(self.bodies[p.owner].section.d for p in (clash.a, clash.b))
        x = self._along(body, clash)
        ends = [end for end, away in ((End.LEFT, x), (End.RIGHT, body.length - x)) if away < near]
        return any(not self._is_fitted(member, end) for end in ends)

    def _is_fitted(self, member: str, end: End) -> bool:
        for id in self.at.get(member, ()):
            record, made = self.connections[id], self.made.get(id)
            if made is None:
                continue
            if any((owner, at) == (member, end) for owner, at, _ in made.cuts):
                return True
            if (record.member, record.end) == (member, end) and made.parts:
                return True
        return False

    def _along(self, body: Body, clash: Clash) -> float:
        at = np.asarray(clash.shared.at)
        return body.arc.nearest(at) if body.arc else float(body.frame.to_local(at)[0])

    def _sentence(self, clash: Clash) -> str:
        first, second = sorted((clash.a, clash.b), key=self._is_stock)
        body = self.bodies[second.owner]
        x = self._along(body, clash)
        end, away = (End.LEFT, x) if x < body.length / 2 else (End.RIGHT, body.length - x)
        if is_vertical(body.frame.x):
            foot = (body.frame.x[2] > 0) == (end is End.LEFT)
            where = f"{self._said(away)} {'over the foot' if foot else 'under the top'} of the {body.words}"
        else:
            where = f"{self._said(away)} from the {end} end of the {body.words}"
        return (
            f"The {self._words(first)} and the {self._words(second)} fill the same space, {self._size(clash)}, "
            f"{where}; move, cut or shorten one of them."
        )

    def _size(self, clash: Clash) -> str:
        inch, shared = self.units is Units.IMPERIAL, clash.shared
        size, unit = (shared.volume / INCH**3, "in³") if inch else (shared.volume / 1000, "cm³")
        volume = f"{size:.2f} {unit}" if size > 0.01 else f"under 0.01 {unit}"
        return f'{volume} and {shared.depth / INCH:.2f}" deep' if inch else f"{volume} and {shared.depth:.1f} mm deep"

    def _words(self, piece: Piece) -> str:
        return self.bodies[piece.owner].words if self._is_stock(piece) else piece.words

    def _said(self, mm: float) -> str:
        return length_in_words(mm, self.units)


class _Known(NamedTuple):
    """A member's assembly as it was looked at."""

    assembly: Assembly
    boxes: Boxes
    row: int


class Clashes:
    """Follows a job's assemblies; `all` gives every clash of two members' pieces and of one's own."""

    def __init__(self) -> None:
        self._known: dict[str, _Known] = {}
        self._ids: list[str | None] = []
        self._free: list[int] = []
        self._reach = np.empty((0, 2, 3))  # each row's lowest and highest corner, upside down where nothing is
        self._found: dict[tuple[str, str], tuple[Clash, ...]] = {}
        self._pairs: dict[str, set[tuple[str, str]]] = {}

    def all(self) -> Iterator[Clash]:
        for found in self._found.values():
            yield from found

    def follow(
        self, steel: Steel, assemblies: Mapping[str, Assembly], rebuilt: Iterable[str], lost: Iterable[str]
    ) -> None:
        """Look at members that were made anew; forget those that are gone."""
        changed = sorted(set(rebuilt))
        for id in (*changed, *lost):
            self._forget(id)
        self._take([assemblies[id] for id in changed])
        for pair, clashes in self._looked_at(steel, changed):
            self._found[pair] = clashes
            for id in pair:
                self._pairs.setdefault(id, set()).add(pair)

    # -- what is known ------------------------------------------------------------------------------------------
    def _take(self, assemblies: Sequence[Assembly]) -> None:
        if not assemblies:
            return
        if (missing := len(assemblies) - len(self._free)) > 0:
            more = max(_GROWTH, missing)
            self._free = [*range(len(self._ids) + more - 1, len(self._ids) - 1, -1), *self._free]
            self._ids += [None] * more
            self._reach = np.concatenate([self._reach, np.tile(_NOWHERE, (more, 1, 1))])
        boxes = Boxes.of((p.part, p.placement) for a in assemblies for p in a.pieces)
        ends = np.cumsum([len(a.pieces) for a in assemblies])
        first = [0, *ends[:-1].tolist()]
        rows = [self._free.pop() for _ in assemblies]
        self._reach[rows, 0] = np.minimum.reduceat(boxes.low, first)
        self._reach[rows, 1] = np.maximum.reduceat(boxes.high, first)
        for a, row, start, end in zip(assemblies, rows, first, ends.tolist(), strict=True):
            self._known[a.id] = _Known(a, boxes.some(start, end), row)
            self._ids[row] = a.id

    def _forget(self, id: str) -> None:
        known = self._known.pop(id, None)
        if known is not None:
            self._ids[known.row] = None
            self._reach[known.row] = _NOWHERE
            self._free.append(known.row)
        for pair in self._pairs.pop(id, ()):
            self._found.pop(pair, None)
            other = pair[0] if pair[1] == id else pair[1]
            if other != id:
                self._pairs[other].discard(pair)

    # -- looking ------------------------------------------------------------------------------------------------
    def _looked_at(self, steel: Steel, changed: list[str]) -> Iterator[tuple[tuple[str, str], tuple[Clash, ...]]]:
        members = self._members(changed)
        while pairs := list(islice(members, _PAIRS)):
            ids = sorted({id for pair in pairs for id in pair})
            known = [self._known[id] for id in ids]
            first = dict(zip(ids, np.cumsum([0, *(len(k.assembly.pieces) for k in known)]).tolist(), strict=False))
            pieces = [piece for k in known for piece in k.assembly.pieces]
            boxes = Boxes.joined([k.boxes for k in known])
            i, j = self._rows(pairs, first)
            found: dict[tuple[str, str], list[Clash]] = defaultdict(list)
            met = ((pieces[i[k]], pieces[j[k]]) for k in np.flatnonzero(near(boxes, i, boxes, j)))
            close = [(a, b) for a, b in met if not steel.ends_loose(a, b)]
            held = overlaps([((a.part, a.placement), (b.part, b.placement)) for a, b in close])
            for (a, b), shared in zip(close, held, strict=True):
                if shared is not None:
                    found[min(a.owner, b.owner), max(a.owner, b.owner)].append(Clash(a, b, shared))
            yield from ((pair, tuple(clashes)) for pair, clashes in found.items())

    def _members(self, changed: list[str]) -> Iterator[tuple[str, str]]:
        """Each pair of members whose boxes meet, of which one is among those that changed, and those with
        themselves."""
        rows = np.array([self._known[id].row for id in changed], dtype=np.intp)
        for i, j in self._meeting(rows):
            a, b = changed[i], self._ids[j]
            if b is not None:
                yield (a, b) if a <= b else (b, a)

    def _meeting(self, rows: NDArray[np.intp]) -> Iterator[tuple[int, int]]:
        """The numbers of some rows and the rows whose boxes meet theirs, each pair once; of many by a tree of what they
        cover in plan."""
        low, high = self._reach[:, 0], self._reach[:, 1]
        if len(rows) > _FEW:
            there = np.flatnonzero(np.isfinite(low[:, 0]))
            flat = shapely.box(low[there, 0], low[there, 1], high[there, 0], high[there, 1])
            own = shapely.box(low[rows, 0], low[rows, 1], high[rows, 0], high[rows, 1])
            i, j = shapely.STRtree(flat).query(own)
            j = there[j]
            order = np.lexsort((j, i))
            i, j = i[order], j[order]
        else:
            i, j = (grid.ravel() for grid in np.indices((len(rows), len(low))))
        number = np.full(len(low), len(rows))
        number[rows] = np.arange(len(rows))
        once = i <= number[j]  # what is among them is come upon from either side
        i, j = i[once], j[once]
        for k in range(3):
            meet = (low[rows[i], k] < high[j, k]) & (low[j, k] < high[rows[i], k])
            i, j = i[meet], j[meet]
        yield from zip(i.tolist(), j.tolist(), strict=True)

    def _rows(
        self, pairs: Sequence[tuple[str, str]], first: Mapping[str, int]
    ) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Every piece of one member with every piece of another, or those of one with one another, by their rows."""
        sizes = [(len(self._known[a].assembly.pieces), len(self._known[b].assembly.pieces)) for a, b in pairs]
        held = [_with_itself(m) if a == b else _with_each(m, n) for (a, b), (m, n) in zip(pairs, sizes, strict=True)]
        times = [len(i) for i, _ in held]
        i, j = (np.concatenate([pair[side] for pair in held]) for side in (0, 1))
        return i + np.repeat([first[a] for a, _ in pairs], times), j + np.repeat([first[b] for _, b in pairs], times)


@lru_cache(maxsize=512)
def _with_itself(m: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    i, j = np.triu_indices(m, 1)
    return i, j


@lru_cache(maxsize=4096)
def _with_each(m: int, n: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    i, j = np.indices((m, n)).reshape(2, -1)
    return i, j
