"""What holds what: every piece of a job and the welds, bolts and rods between them, down to the ground."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from functools import cache, cached_property
from typing import TYPE_CHECKING, NamedTuple

import numpy as np

from uncus.check.since import changed, followed
from uncus.frame.placement import point_of
from uncus.job.records import Member, Point, Role
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, Weld
from uncus.units import Units, counted, format_length

if TYPE_CHECKING:
    import networkx as nx  # a tenth of a second to import

GROUND = "the ground"


class Tie(NamedTuple):
    """What holds two pieces together: in words, on site or in the shop, who made it, and where (model)."""

    a: str
    b: str
    words: str
    field: bool
    maker: str
    at: Point

    @property
    def said(self) -> str:
        return f"{self.words}, {'on site' if self.field else 'in the shop'}"


_Of = dict[str, tuple[Tie, ...]]  # by who made them
_Pairs = dict[str, list[tuple[str, str]]]


class Step(NamedTuple):
    """A piece on the way from another, and the tie that leads to it (none to the first); how many ties away."""

    piece: str
    tie: Tie | None
    deep: int


class Ties:
    """Pieces of a job and what is between them. Pieces are known by their ids; the ground is one of them. Of what
    stands as it did `before` nothing is worked out again.

    `owner` and `words` are those of each piece.
    """

    def __init__(
        self,
        assemblies: Mapping[str, Assembly],
        connections: Mapping[str, Contribution],
        units: Units,
        before: Ties | None = None,
    ) -> None:
        old = before if before is not None and before._units is units else _nothing(units)
        self._assemblies, self._connections = assemblies, connections
        self._units: Units = units
        self.owner: dict[str, str] = dict(old.owner)
        self.words: dict[str, str] = dict(old.words)
        pieces, makers = changed(old._assemblies, assemblies), changed(old._connections, connections)
        for id in pieces & old._assemblies.keys():
            for piece in old._assemblies[id].pieces:
                del self.owner[piece.id], self.words[piece.id]
        for id in pieces & assemblies.keys():
            for piece in assemblies[id].pieces:
                self.owner[piece.id] = id
                self.words[piece.id] = assemblies[id].words if piece.id == id else piece.words
        self._own: _Of = followed(pieces, old._own, assemblies, lambda _, a: tuple(_own_ties(a, units)) or None)
        self._made: _Of = followed(makers, old._made, connections, lambda m, c: tuple(_ties_of(m, c, units)) or None)
        self._at: dict[str, tuple[Tie, ...]] = dict(old._at)
        self._retie(pieces, old._own, self._own)
        self._retie(makers, old._made, self._made)
        self._nodes: dict[str, list[str]] = followed(pieces, old._nodes, assemblies, _nodes)
        self._pairs_own: _Pairs = followed(pieces, old._pairs_own, self._own, _pairs)
        self._pairs_made: _Pairs = followed(makers, old._pairs_made, self._made, _pairs)
        self._lots: list[list[str]] | None = old._lots if old.links == self.links else None

    @property
    def links(self) -> tuple[object, ...]:
        """Which pieces there are and which of them hold together: equal as long as that stays as it is."""
        return self._nodes, self._pairs_own, self._pairs_made

    def _retie(
        self, makers: Iterable[str], was: Mapping[str, tuple[Tie, ...]], now: Mapping[str, tuple[Tie, ...]]
    ) -> None:
        """Ties that are other than before, at the pieces they are between."""
        gone: dict[str, set[Tie]] = {}
        new: dict[str, list[Tie]] = {}
        for maker in makers:
            if was.get(maker) is now.get(maker):
                continue
            for tie in was.get(maker, ()):
                for piece in (tie.a, tie.b):
                    gone.setdefault(piece, set()).add(tie)
            for tie in now.get(maker, ()):
                for piece in (tie.a, tie.b):
                    new.setdefault(piece, []).append(tie)
        for piece in gone.keys() | new.keys():
            left = gone.get(piece, ())
            ties = [t for t in self._at.get(piece, ()) if t not in left] + new.get(piece, [])
            if ties:
                self._at[piece] = tuple(sorted(ties))
            else:
                self._at.pop(piece, None)

    def _holds(self, tie: Tie) -> bool:
        """Whether both ends of a tie are there: a joint may say of what it joins what a cut has taken since."""
        return tie.a in self.words and tie.b in self.words and tie.a != tie.b

    @cached_property
    def graph(self) -> nx.Graph:
        """The pieces of the job, and an edge between those that anything holds together."""
        import networkx as nx

        graph = nx.Graph()
        graph.add_nodes_from(self.owner)
        graph.add_edges_from((t.a, t.b) for ties in self._at.values() for t in ties if self._holds(t))
        return graph

    def at(self, piece: str) -> Iterator[Tie]:
        """Every tie of a piece."""
        if piece in self.owner:
            yield from (tie for tie in self._at.get(piece, ()) if self._holds(tie))

    def fixed_in_the_shop(self, piece: str) -> list[Step]:
        """A piece and all that is shop-fixed to it, each after what holds it, nearest first."""
        if piece not in self.owner:
            return []
        found, next_, seen = [Step(piece, None, 0)], [(piece, 0)], {piece}
        while next_:
            here, deep = next_.pop(0)
            for tie in self.at(here):
                other = tie.b if tie.a == here else tie.a
                if not tie.field and other not in seen and other != GROUND:
                    seen.add(other)
                    found.append(Step(other, tie, deep + 1))
                    next_.append((other, deep + 1))
        return found

    def between(self, a: str, b: str) -> list[Step]:
        """The fewest ties that lead from a piece to another; nothing where none do. Not by way of the ground, which
        holds everything."""
        import networkx as nx

        graph = self.graph if GROUND in (a, b) else self.graph.subgraph(n for n in self.graph if n != GROUND)
        try:
            way = nx.shortest_path(graph, a, b)
        except (nx.NetworkXNoPath, nx.NodeNotFound):
            return []
        steps = [Step(a, None, 0)]
        for n, (one, other) in enumerate(zip(way, way[1:], strict=False), 1):
            tie = next(t for t in self._at[one] if other in (t.a, t.b) and self._holds(t))
            steps.append(Step(other, tie, n))
        return steps

    def loose(self) -> list[list[str]]:
        """Pieces that hold together but not to the ground, the largest lot first; where nothing stands on the ground,
        all but the largest."""
        if self._lots is None:
            import networkx as nx

            lots = sorted(
                (sorted(lot) for lot in nx.connected_components(self.graph)), key=lambda lot: (-len(lot), lot)
            )
            stands = any(GROUND in lot for lot in lots)
            self._lots = [lot for lot in lots if GROUND not in lot] if stands else lots[1:]
        return self._lots

    def hanging(self, member: Member) -> Tie | None:
        """A tie of a member that all others of it lie at, where it is held to other steel at one end alone."""
        start, way = np.asarray(member.start), np.subtract(member.end, member.start)
        ties = [t for step in self.fixed_in_the_shop(member.id) for t in self.at(step.piece)]
        out = [t for t in ties if t.field or self.owner.get(t.a) != self.owner.get(t.b)]
        if not out or any(GROUND in (t.a, t.b) for t in out):
            return None
        along = np.array([np.subtract(t.at, start) @ way for t in out]) / float(way @ way)
        near = along.max() < 0.4 or along.min() > 0.6
        return out[0] if near else None


@cache
def _nothing(units: Units) -> Ties:
    """What holds what in a job without steel."""
    found = object.__new__(Ties)
    empty = "owner", "_assemblies", "_connections", "_own", "_made", "_at", "_nodes", "_pairs_own", "_pairs_made"
    found.__dict__.update({name: {} for name in empty}, words={GROUND: GROUND}, _units=units, _lots=[])
    return found


def _nodes(_: str, assembly: Assembly) -> list[str]:
    return [piece.id for piece in assembly.pieces]


def _pairs(_: str, ties: tuple[Tie, ...]) -> list[tuple[str, str]]:
    return [(tie.a, tie.b) for tie in ties]


def _own_ties(assembly: Assembly, units: Units) -> Iterator[Tie]:
    """What holds a member that no joint made: what is cast in to the ground, the two of a pair to one another."""
    id = assembly.id
    if assembly.member.role is Role.EMBED:
        yield Tie(id, GROUND, "cast in", True, id, assembly.member.start)
    if assembly.main.part.is_grating and assembly.member.role is Role.PANEL:
        yield Tie(id, GROUND, "laid on what is under it", True, id, assembly.member.start)
    own = {p.id for p in assembly.pieces if p.maker == id}
    for weld in assembly.welds:
        if own.issuperset(weld.joins):
            yield _of_weld(weld, id, units)


def _ties_of(maker: str, made: Contribution, units: Units) -> Iterator[Tie]:
    for weld in made.welds:
        yield _of_weld(weld, maker, units)
    for group in made.fasteners:
        yield from _of_fasteners(group, maker)


def _of_weld(weld: Weld, maker: str, units: Units) -> Tie:
    middle = point_of(np.mean([weld.path[0], weld.path[-1]], axis=0))
    size, long = format_length(weld.size, units), format_length(weld.length, units)
    return Tie(*weld.joins, f"{weld.form} weld {size}, {long} of it", weld.field, maker, middle)


def _of_fasteners(group: Fasteners, maker: str) -> Iterator[Tie]:
    middle = point_of(np.mean(group.points, axis=0))
    many, joins = len(group.points), dict.fromkeys(group.joins)
    words = counted(many, f"{group.size} {group.grade} {group.kind}".replace("  ", " "))
    plies = list(joins)
    if group.kind is FastenerKind.ROD:
        for piece in plies:
            yield Tie(piece, GROUND, words, True, maker, middle)
        return
    for one, other in zip(plies, plies[1:], strict=False):
        yield Tie(one, other, words, group.field, maker, middle)
