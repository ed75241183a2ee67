"""What holds what: every piece of a job and the welds, bolts and rods between them, down to the ground."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

import networkx as nx
import numpy as np

from uncus.frame.placement import point_of
from uncus.job.records import Member, Point, Role
from uncus.shop.pieces import Assembly
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, Weld
from uncus.units import Units, counted, format_length

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


class Step(NamedTuple):
    """A piece on the way from another, and the tie that leads to it (none to the first); how many ties away."""

    piece: str
    tie: Tie | None
    deep: int


class Ties:
    """Pieces of a job and what is between them. Pieces are known by their ids; the ground is one of them."""

    def __init__(
        self, assemblies: Mapping[str, Assembly], connections: Mapping[str, Contribution], units: Units
    ) -> None:
        self.graph = nx.MultiGraph()
        self.owner: dict[str, str] = {}
        self.words: dict[str, str] = {GROUND: GROUND}
        for id, assembly in assemblies.items():
            for piece in assembly.pieces:
                self.owner[piece.id] = id
                self.words[piece.id] = assembly.words if piece.id == id else piece.words
                self.graph.add_node(piece.id)
            if assembly.member.role is Role.EMBED:
                self._add(Tie(id, GROUND, "cast in", True, id, assembly.member.start))
        told: set[Weld] = set()
        for maker, made in connections.items():
            for weld in made.welds:
                told.add(weld)
                self._add(_of_weld(weld, maker, units))
            for group in made.fasteners:
                for tie in _of_fasteners(group, maker):
                    self._add(tie)
        for id, assembly in assemblies.items():  # what a member has of its own, such as the stitches of a pair
            for weld in assembly.welds:
                if weld not in told:
                    self._add(_of_weld(weld, id, units))

    def _add(self, tie: Tie) -> None:
        there = self.graph.has_node(tie.a) and (tie.b == GROUND or self.graph.has_node(tie.b))
        if there and tie.a != tie.b:
            self.graph.add_edge(tie.a, tie.b, tie=tie)

    def at(self, piece: str) -> Iterator[Tie]:
        """Every tie of a piece."""
        if self.graph.has_node(piece):
            for _, _, tie in sorted(self.graph.edges(piece, data="tie")):
                yield tie

    def fixed_in_the_shop(self, piece: str) -> list[Step]:
        """A piece and all that is shop-fixed to it, each after what holds it, nearest first."""
        if not self.graph.has_node(piece):
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
        graph = self.graph if GROUND in (a, b) else self.graph.subgraph(n for n in self.graph if n != GROUND)
        try:
            way = nx.shortest_path(graph, a, b)
        except (nx.NetworkXNoPath, nx.NodeNotFound):
            return []
        steps = [Step(a, None, 0)]
        for n, (one, other) in enumerate(zip(way, way[1:], strict=False), 1):
            ties = sorted(data["tie"] for data in self.graph[one][other].values())
            steps.append(Step(other, ties[0], n))
        return steps

    def loose(self) -> list[list[str]]:
        """Pieces that hold together but not to the ground, the largest lot first; where nothing stands on the ground,
        all but the largest."""
        lots = sorted((sorted(lot) for lot in nx.connected_components(self.graph)), key=lambda lot: (-len(lot), lot))
        if any(GROUND in lot for lot in lots):
            return [lot for lot in lots if GROUND not in lot]
        return lots[1:]

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
