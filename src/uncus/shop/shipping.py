"""What leaves the shop as one piece: members welded to one another there, gathered under the one that carries the
others."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Container, Iterable, Mapping, Sequence

import msgspec

from uncus.shop.pieces import Assembly
from uncus.steel.joint import Contribution, Weld

Bond = tuple[str, str]  # a member and the one it is welded to


def bond(made: Contribution, members: Container[str]) -> Bond | None:
    """The two members that a joint welds to each other in the shop."""
    for weld in made.welds:
        a, b = (id.removesuffix("/mate") for id in weld.joins)
        if not weld.field and a != b and a in members and b in members:
            return a, b
    return None


def groups(bonds: Iterable[Bond], assemblies: Mapping[str, Assembly]) -> dict[str, tuple[str, ...]]:
    """Members that are one piece, by the one that carries them: of those that are welded to none the longest, then the
    highest; all of its piece, that one first."""
    whole = [(a, b) for a, b in bonds if a in assemblies and b in assemblies]
    if not whole:
        return {}
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    held = {a for a, _ in whole}
    ids = sorted({id for pair in whole for id in pair})
    number = {id: n for n, id in enumerate(ids)}
    rows, columns = zip(*((number[a], number[b]) for a, b in whole), strict=True)
    links = coo_array(([1] * len(whole), (rows, columns)), shape=(len(ids), len(ids)))
    _, labels = connected_components(links, directed=False)
    together: dict[int, list[str]] = defaultdict(list)
    for id, label in zip(ids, labels.tolist(), strict=True):
        together[label].append(id)
    found = {}
    for there in together.values():
        free = [id for id in there if id not in held] or there
        root = max(free, key=lambda id: (*_rank(assemblies[id]), id))
        found[root] = (root, *(id for id in there if id != root))
    return found


def _rank(assembly: Assembly) -> tuple[float, float]:
    m = assembly.member
    return round(m.work_length, 1), round(m.start[2] + m.end[2], 1)


def joined(members: Sequence[Assembly], between: Iterable[Weld]) -> Assembly:
    """Members with all that is fixed to them as one assembly under the first; `between` are the welds that join
    them."""
    first = members[0]
    pieces = [msgspec.structs.replace(p, owner=first.id) for a in members for p in a.pieces]
    here = {p.id for p in pieces}
    welds = [w for a in members for w in a.welds] + [w for w in between if here.issuperset(w.joins)]
    return Assembly(
        first.member,
        tuple(pieces),
        tuple(dict.fromkeys(welds)),
        tuple(h for a in members for h in a.holds),
        tuple(w for a in members for w in a.site_welds),
        tuple(f for a in members for f in a.findings),
    )


class Shipping:
    """Follows the assemblies of single members; `pieces` are what is marked, drawn, billed and sent."""

    def __init__(self) -> None:
        self.pieces: dict[str, Assembly] = {}
        self.carrier: dict[str, str] = {}  # of members that leave as a part of another's piece
        self.groups: dict[str, tuple[str, ...]] = {}  # the members of each such piece, its carrier first

    def follow(
        self,
        assemblies: Mapping[str, Assembly],
        rebuilt: set[str],
        bonds: Mapping[str, Bond],
        made: Mapping[str, Contribution],
        in_order: Callable[[Iterable[str]], list[str]],
    ) -> tuple[frozenset[str], frozenset[str]]:
        """Take in what was rebuilt; which pieces are new or changed, and which there are no more. `in_order` puts
        joints in the order in which welds are listed."""
        before, grouped = self.groups, groups(bonds.values(), assemblies) if bonds else {}
        carrier = {id: root for root, ids in grouped.items() for id in ids[1:]}
        again = set(rebuilt)
        for root in before.keys() | grouped.keys():  # a piece that gained or lost a member, and who was let go
            if before.get(root) != grouped.get(root):
                again |= {root, *before.get(root, ()), *grouped.get(root, ())}
        again = {carrier.get(id, id) for id in again}
        within = {id: root for id, (a, _) in bonds.items() if (root := carrier.get(a, a)) in again}
        welds: dict[str, list[Weld]] = defaultdict(list)
        for id in in_order(within):
            welds[within[id]] += [w for w in made[id].welds if not w.field]
        shipped = set()
        for id in again & assemblies.keys():
            ids = grouped.get(id)
            self.pieces[id] = joined([assemblies[i] for i in ids], welds[id]) if ids else assemblies[id]
            shipped.add(id)
        gone = {id for id in self.pieces if id not in assemblies or id
            in carrier} if carrier or before or len(self.pieces) > len(assemblies) else set()  # fmt: skip
        for id in gone:
            del self.pieces[id]
        self.groups, self.carrier = grouped, carrier
        return frozenset(shipped - gone), frozenset(gone)
