"""Same pieces gathered: each is within the tolerance of another of its cluster (single linkage), however long the
chain. What there is decides, not the order in which it came nor what was there before: "within half a mm" alone is
no equivalence, and a first piece to compare with would leave its trace after it is gone.

The commonest of a cluster leads, the least of equals: so one odd piece that comes or goes seldom sets another lead
over all the rest, which would have to be placed on it anew."""

from __future__ import annotations

import bisect
import hashlib
import math
from collections import Counter, defaultdict
from collections.abc import Callable, Hashable, Iterable
from functools import lru_cache
from typing import Generic, NamedTuple, TypeVar

import msgspec
import numpy as np

from uncus.frame.placement import Placement
from uncus.mark.content import assembly_content, digits, part_content, placed, rounded
from uncus.mark.sameness import DEGREES, USUAL, Alike, Matrix, as_asked, kind_of_surface, maps
from uncus.shop.pieces import Assembly
from uncus.steel.part import Part

T = TypeVar("T")
Link = Callable[[T, T, float], Placement | None]


class Clusters(Generic[T]):
    """Things that `link` ties to one another at a tolerance, giving how the first comes to lie on the second. Only
    things of one head, whose `reading`s are no further apart than their slack, are held against one another.
    `number` tells how many there are of a thing; call `counted` when that is another. Without it whoever leads goes on
    leading while it is there: for those of whom only this is asked, which of them are together."""

    def __init__(
        self, link: Link[T], reading: Callable[[T], tuple[float, float]], mm: float,
        number: Callable[[str], int] | None = None,
    ) -> None:  # fmt: skip
        self._link, self._reading, self._mm, self._number = link, reading, mm, number
        self._things: dict[str, T] = {}
        self._spot: dict[str, tuple[Hashable, float]] = {}  # head and reading
        self._rows: dict[Hashable, list[tuple[float, str]]] = {}  # of each head, by reading
        self._ways: dict[str, dict[str, Placement]] = {}
        self._lead: dict[str, tuple[str, Placement]] = {}
        self._members: dict[str, tuple[str, ...]] = {}
        self._wide: dict[str, bool] = {}
        self._stale: set[Hashable] = set()
        self._gone: set[str] = set()

    def add(self, head: Hashable, key: str, thing: T) -> None:
        row = self._rows.setdefault(head, [])
        at, slack = self._reading(thing)
        ways: dict[str, Placement] = {}
        for _, other in row[
            bisect.bisect_left(row, (at - slack, "")) : bisect.bisect_right(row, (at + slack, "\uffff"))
        ]:
            there = self._things[other]
            # always from the lesser key: near the tolerance a comparison may come out otherwise the other way round
            way = self._link(thing, there, self._mm) if key < other else self._link(there, thing, self._mm)
            if way is not None:
                ways[other], self._ways[other][key] = (way, way.inverse) if key < other else (way.inverse, way)
        bisect.insort(row, (at, key))
        self._things[key], self._spot[key], self._ways[key] = thing, (head, at), ways
        self._stale.add(head)

    def drop(self, key: str) -> None:
        head, at = self._spot.pop(key)
        row = self._rows[head]
        row.remove((at, key))
        del self._things[key]
        for other in self._ways.pop(key):
            del self._ways[other][key]
        if not row:
            del self._rows[head]
        self._gone.add(key)  # what it was is known until then: it may come back
        self._stale.add(head)

    def counted(self, key: str) -> None:
        """There are more or fewer of a thing: another may lead its cluster."""
        head = self._spot[key][0]
        if head not in self._stale:
            lead = self._lead[key][0]
            if self._first(self._members[lead]) != lead:
                self._stale.add(head)

    def _first(self, keys: Iterable[str]) -> str:
        if (number := self._number) is not None:
            return min(keys, key=lambda key: (-number(key), key))
        return min(keys, key=lambda key: (key not in self._members, key))

    def settle(self) -> set[str]:
        """Gather anew where something came or went; the keys of those whose lead is another, or how they lie on it."""
        changed: set[str] = set()
        for key in self._gone - self._things.keys():
            for known in (self._lead, self._members, self._wide):
                known.pop(key, None)
        self._gone.clear()
        for head in self._stale:
            left = {key for _, key in self._rows.get(head, ())}
            for first in sorted(left):
                if first in left:
                    changed |= self._gather(first, left)
        self._stale.clear()
        return changed

    def _gather(self, any_: str, left: set[str]) -> set[str]:
        """All that hang together with one of them, and how each lies on the one that leads."""
        together, queue = {any_}, [any_]
        for key in queue:
            queue += self._ways[key].keys() - together
            together |= self._ways[key].keys()
        lead = self._first(together)
        found, queue = {lead: Placement.identity()}, [lead]
        for key in queue:
            for other in sorted(self._ways[key].keys() - found.keys()):
                found[other] = found[key] @ self._ways[other][key]
                queue.append(other)
        left -= together
        members = tuple(sorted(together))
        for other in together & self._members.keys() - {lead}:
            del self._members[other]
        if self._members.get(lead) != members:
            self._members[lead] = members
            self._wide.pop(lead, None)
        changed = set()
        for key, way in found.items():
            before = self._lead.get(key)
            if before is None or before[0] != lead or not _alike(before[1], way):
                self._lead[key] = lead, way
                changed.add(key)
        return changed

    def of(self, key: str) -> tuple[str, Placement]:
        """The key of the thing that leads, and how this one comes to lie on it."""
        return self._lead[key]

    def head(self, key: str) -> Hashable:
        return self._spot[key][0]

    def __getitem__(self, key: str) -> T:
        return self._things[key]

    def __contains__(self, key: str) -> bool:
        return key in self._things

    def wide(self, lead: str) -> bool:
        """Whether two of a cluster are further apart than twice the tolerance."""
        found = self._wide.get(lead)
        if found is None:
            keys = self._members[lead]
            pairs = ((a, b) for i, a in enumerate(keys) for b in keys[i + 1 :] if b not in self._ways[a])
            far = (self._link(self._things[a], self._things[b], 2 * self._mm) is None for a, b in pairs)
            found = self._wide[lead] = any(far)
        return found


def _alike(a: Placement, b: Placement) -> bool:
    return a is b or (np.array_equal(a.origin, b.origin) and np.array_equal(a.axes, b.axes))


# -- parts --------------------------------------------------------------------------------------------
class PartClusters:
    """Parts in clusters of same ones, each as long as it is used."""

    def __init__(self, alike: Alike = USUAL) -> None:
        self.alike = alike
        self._used: Counter[Part] = Counter()
        self._touched: set[Part] = set()  # to be added or dropped, unless it comes back before that
        self._clusters: Clusters[Part] = Clusters(self._link, self._reading, alike.mm, self._number)

    def _number(self, key: str) -> int:
        return self._used[self._clusters[key]]

    def add(self, part: Part) -> None:
        self._used[part] += 1
        self._touched.add(part)

    def drop(self, part: Part) -> None:
        self._used[part] -= 1
        self._touched.add(part)
        if not self._used[part]:
            del self._used[part]

    def settle(self) -> set[str]:
        """Gather anew; the fingerprints of parts that lie in another cluster now, or otherwise in it."""
        for part in self._touched:
            key = part_content(part)
            if part in self._used and key not in self._clusters:
                self._clusters.add(self._head(part), key, part)
            elif part not in self._used and key in self._clusters:
                self._clusters.drop(key)
            elif part in self._used:
                self._clusters.counted(key)
        self._touched.clear()
        return self._clusters.settle()

    def of(self, part: Part) -> tuple[str, Placement]:
        """The fingerprint of the part that leads a part's cluster, and the map onto it."""
        return self._clusters.of(part_content(part))

    def lead(self, key: str) -> Part:
        return self._clusters[key]

    def wide(self, key: str) -> bool:
        return self._clusters.wide(key)

    def _head(self, part: Part) -> Hashable:
        asked = as_asked(part, self.alike)
        kinds = Counter(type(f).__name__ for f in asked.features)
        name = part.section.name if part.section else len(part.outline)
        return (
            name,
            part.curve is None,
            part.coil is None,
            len(part.bends),
            part.item,
            kind_of_surface(part),
            asked.grade,
            asked.finish,
            tuple(sorted(kinds.items())),
        )

    def _reading(self, part: Part) -> tuple[float, float]:
        return (part.length if part.section else part.thickness), self.alike.mm

    def _link(self, a: Part, b: Part, mm: float) -> Placement | None:
        asked = self.alike if mm == self.alike.mm else msgspec.structs.replace(self.alike, mm=mm)
        one, other = as_asked(a, asked), as_asked(b, asked)
        if abs(_off_middle(one) - _off_middle(other)) > 3 * mm * (len(one.holes) + 1):
            return None
        found = maps(a, b, asked)
        return found[0] if found else None


def _off_middle(part: Part) -> float:
    """How far a part's holes are from its middle, all together: the same whichever way it lies, and soon compared."""
    if part.section is not None:
        return sum(abs(h.x - part.length / 2) for h in part.holes)
    if not part.holes:
        return 0.0
    x, z = np.mean(part.outline, axis=0)
    return sum(math.hypot(h.x - x, h.w - z) for h in part.holes)


# -- assemblies ---------------------------------------------------------------------------------------
_STUD = ""  # the lead of what is no part
_HERE = Placement.identity()
_NO_CORNERS: Matrix = np.zeros((0, 8, 3))


class _Item(NamedTuple):
    """An attached part, or a stud, as the part that leads its cluster, placed in the frame of the main part's lead;
    `label` has its shop welds and bolts; `corners` (m, 8, 3) of its box, in each of the m ways in which it lies onto
    itself, the way that it lies first."""

    lead: str
    label: str
    place: Placement
    corners: Matrix


class _Made(NamedTuple):
    """An assembly to be held against others: its items by label, the `middles` (n, 3) of each; `offs` (n,) tell how
    far each item of a rolled part is from its middle, from the least up: whichever way two like ones lie, they are the
    same within the tolerance, one by one."""

    main: str
    camber: float
    items: tuple[_Item, ...]
    middles: Matrix
    offs: Matrix


class AssemblyClusters:
    """Assemblies and their parts in clusters of same ones, kept up to date: `put` those that were built, `drop`
    those gone."""

    def __init__(self, alike: Alike = USUAL) -> None:
        self.parts = PartClusters(alike)
        self.alike = alike
        # a fixed part's turning is no turning of the piece
        self._own = msgspec.structs.replace(alike, as_erected=False)
        self._all: dict[str, tuple[Assembly, str]] = {}
        self._content: dict[str, str] = {}
        self._known: dict[Hashable, tuple[Hashable, str, _Made]] = {}  # within one settling: head, key and what it is
        self._users: dict[str, set[str]] = defaultdict(set)  # the assemblies that use a part
        self._key: dict[str, str] = {}
        self._ids: dict[str, set[str]] = {}  # the assemblies that are the same to the last digit
        self._clusters: Clusters[_Made] = Clusters(self._link, self._reading, alike.mm)
        self._new: set[str] = set()
        self._gone: set[str] = set()  # unless they are put again before that

    def put(self, assembly: Assembly, series: str) -> None:
        """Take an assembly in; those of different series never share a cluster."""
        self.drop(assembly.id)
        self._all[assembly.id] = assembly, series
        self._content[assembly.id] = assembly_content(assembly)
        self._new.add(assembly.id)
        for piece in assembly.pieces:
            self.parts.add(piece.part)
            self._users[part_content(piece.part)].add(assembly.id)

    def drop(self, id: str) -> None:
        if id not in self._all:
            return
        assembly, _ = self._all.pop(id)
        del self._content[id]
        self._new.discard(id)
        self._gone.add(id)
        for piece in assembly.pieces:
            self.parts.drop(piece.part)
            self._users[part_content(piece.part)].discard(id)

    def _forget(self, id: str) -> None:
        key = self._key.pop(id, None)
        if key is None:
            return
        self._ids[key].discard(id)
        if not self._ids[key]:
            del self._ids[key]
            self._clusters.drop(key)

    def settle(self) -> set[str]:
        """Gather anew; the assemblies that were put, and those which, or parts of which, are in another cluster now."""
        moved = set(self._new)
        for id in self._gone - self._all.keys():
            self._forget(id)
        self._gone.clear()
        for key in self.parts.settle():
            moved |= self._users[key]
        for id in sorted(moved):
            self._enter(id)
        self._known.clear()
        for key in self._clusters.settle():
            moved |= self._ids[key]
        self._new.clear()
        return moved

    def _enter(self, id: str) -> None:
        assembly, series = self._all[id]
        studs = tuple(sorted((words, *map(tuple, digits(at))) for words, at in assembly.studs))
        asked: Hashable = (series, self._content[id], studs, self._named(assembly))
        if any(w.around for w in assembly.welds):  # of which the content says nothing
            asked = id
        if asked not in self._known:
            self._known[asked] = self._made(assembly, series)
        head, key, made = self._known[asked]
        if self._key.get(id) == key:
            return
        self._forget(id)
        self._key[id] = key
        if key not in self._ids:
            self._ids[key] = set()
            self._clusters.add(head, key, made)
        self._ids[key].add(id)

    def of(self, id: str) -> tuple[str, Hashable]:
        """The cluster of an assembly: whichever leads it, and what all that might be the same as it have in common."""
        key = self._key[id]
        return self._clusters.of(key)[0], self._clusters.head(key)

    def content(self, id: str) -> str:
        return self._content[id]

    def wide(self, key: str) -> bool:
        """Whether two of a cluster are further apart than twice the tolerance, in a part or in where it is fixed."""
        made = self._clusters[key]
        leads = {made.main, *(i.lead for i in made.items)} - {_STUD}
        return self._clusters.wide(key) or any(self.parts.wide(lead) for lead in leads)

    def main(self, id: str) -> Part:
        """The part that leads the cluster of an assembly's main one."""
        return self.parts.lead(self._clusters[self._key[id]].main)

    # -- one against another --------------------------------------------------------------------------
    def _made(self, assembly: Assembly, series: str) -> tuple[Hashable, str, _Made]:
        main, to_lead = self.parts.of(assembly.main.part)
        places = placed(assembly)
        welds, bolts = assembly.shop_welds, assembly.shop_bolts
        items = []
        for piece, place in zip(assembly.pieces[1:], places[1:], strict=True):
            fixed = f"{sorted((w.size, w.sides, w.around) for w in welds[piece.id])} {bolts[piece.id]}"
            items.append(self._item(piece.part, fixed, to_lead @ place))
        for words, at in assembly.studs:
            items.append(_Item(_STUD, f"stud {words}", rounded(to_lead @ rounded(at)), _NO_CORNERS))
        camber = round(assembly.member.camber, 3) if self.alike.camber else 0.0
        items.sort(key=lambda i: i.label)
        head = (series, main, *self._named(assembly), tuple(i.label for i in items))
        said = sorted((i.label, i.place.origin.tolist(), i.place.axes.tolist()) for i in items)
        key = hashlib.sha256(repr((camber, head, said)).encode()).hexdigest()[:16]
        middles = self._middles(items)
        return head, key, _Made(main, camber, tuple(items), middles, self._offs(main, middles))

    def _named(self, assembly: Assembly) -> tuple[Hashable, ...]:
        """What is no shape and must be the same in a cluster, where the rules ask for it."""
        alike, member = self.alike, assembly.member
        words = tuple(sorted(p.words for p in assembly.pieces)) if alike.names else ()
        return member.lot if alike.lot else "", str(member.role) if alike.names else "", words

    def _item(self, part: Part, fixed: str, at: Placement) -> _Item:
        lead, to_lead = self.parts.of(part)
        place = rounded(at @ to_lead.inverse)
        return _Item(lead, f"{lead} {fixed}", place, place.to_model(_boxes(self.parts.lead(lead), self._own)))

    def _reading(self, made: _Made) -> tuple[float, float]:
        """How far all items are from the middle, together."""
        return float(made.offs.sum()), 2 * self.alike.mm * (len(made.items) + 1)

    def _middles(self, items: list[_Item]) -> Matrix:
        own = [np.zeros(3) if i.lead == _STUD else _middle(self.parts.lead(i.lead)) for i in items]
        return np.array([i.place.to_model(middle) for i, middle in zip(items, own, strict=True)]).reshape(-1, 3)

    def _offs(self, key: str, middles: Matrix) -> Matrix:
        main = self.parts.lead(key)
        return np.sort(np.abs(middles[:, 0] - main.length / 2)) if main.section is not None else np.zeros(0)

    def _link(self, a: _Made, b: _Made, mm: float) -> Placement | None:
        asked = self.alike if mm == self.alike.mm else msgspec.structs.replace(self.alike, mm=mm)
        if abs(a.camber - b.camber) > mm or np.any(np.abs(a.offs - b.offs) > 2 * mm):
            return None
        main = self.parts.lead(a.main)
        same = any(_lie_alike(turn, a, b, mm) for turn in maps(main, main, asked))
        return _HERE if same else None  # which way is asked of parts only


def _lie_alike(turn: Placement, a: _Made, b: _Made, mm: float) -> bool:
    """Each item of `a`, turned, lies where one of `b` does, up to the item's own symmetries (which leave its middle
    where it is)."""
    off = turn.to_model(a.middles)[:, None] - b.middles[None]
    close: Matrix = np.all(np.abs(off) <= 2 * mm, axis=2)
    if not close.any(axis=1).all():
        return False
    left = set(range(len(b.items)))
    for item, row in zip(a.items, close, strict=True):
        near = (i for i in np.flatnonzero(row).tolist() if i in left and _lies_on(turn, item, b.items[i], mm))
        hit = next(near, None)
        if hit is None:
            return False
        left.remove(hit)
    return True


def _lies_on(turn: Placement, one: _Item, other: _Item, mm: float) -> bool:
    if one.label != other.label:
        return False
    if one.lead == _STUD:
        return _same_stud(turn @ one.place, other.place, mm)
    return _near(turn.to_model(one.corners), other.corners[0], mm)


@lru_cache(maxsize=8192)
def _middle(part: Part) -> Matrix:
    """The middle of a part's box, which every turn of the part onto itself leaves where it is."""
    if part.section is not None:
        return np.array([part.length / 2, 0.0, 0.0])
    x, z = np.mean(part.outline, axis=0)
    return np.array([x, 0.0, z])


@lru_cache(maxsize=8192)
def _boxes(part: Part, alike: Alike) -> Matrix:
    """The corners (m, 8, 3) of a part's box in each of the m ways in which it lies onto itself; as it lies first."""
    low, high = part.depth_range
    y0, y1 = part.y_range
    box = np.array([(x, y, z) for x in (0, part.length) for y in (y0, y1) for z in (low, high)])
    return np.array([box, *(way.to_model(box) for way in maps(part, part, alike))])


def _near(ways: Matrix, there: Matrix, mm: float) -> bool:
    """Whether all corners (n, 3) are within the tolerance of where one of several ways (m, n, 3) puts them."""
    return bool(np.abs(ways - there).max(axis=(1, 2)).min() <= mm)


def _same_stud(a: Placement, b: Placement, mm: float) -> bool:
    """Two studs whose heads are within the tolerance of one another and which stand the same way."""
    return bool(np.abs(a.origin - b.origin).max() <= mm and float(a.x @ b.x) > math.cos(math.radians(DEGREES)))
