"""What the shop makes: parts in place, gathered into assemblies."""

from __future__ import annotations

from collections import defaultdict

import msgspec
import numpy as np

from uncus.connect.protected import Zone
from uncus.frame.placement import Placement, point_of
from uncus.job.records import Member, Point
from uncus.steel.flat import gross_weight, net_weight
from uncus.steel.joint import FastenerKind, Fasteners, Finding, Weld
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh


class Piece(msgspec.Struct, frozen=True, gc=False):
    """One part in place. `id` is the member's or is made of its connection's id; `owner` is its assembly."""

    id: str
    part: Part
    placement: Placement
    owner: str
    words: str
    maker: str

    @property
    def main(self) -> bool:
        """A member's own length, and nothing that is fixed to it."""
        return self.id == self.maker


class Assembly(msgspec.Struct, frozen=True, gc=False):
    """A member with what is shop-fixed to it, or several that are welded together in the shop, under the one that
    carries the others. Its id is that member's.

    `welds` are the shop's; `holds` are the fasteners of this member's own ends and `site_welds` what is welded there
    on site.
    """

    member: Member
    pieces: tuple[Piece, ...]
    welds: tuple[Weld, ...]
    holds: tuple[Fasteners, ...]
    site_welds: tuple[Weld, ...]
    findings: tuple[Finding, ...]
    zones: tuple[Zone, ...] = ()  # protected, along the member's own x

    @property
    def id(self) -> str:
        return self.member.id

    @property
    def main(self) -> Piece:
        return self.pieces[0]

    @property
    def gross(self) -> float:
        """kg of steel that the shop works on, as billed; without what is bought."""
        return sum(gross_weight(p.part) for p in self.pieces if p.part.item is None)

    @property
    def net(self) -> float:
        """kg of it as made."""
        return sum(net_weight(p.part) for p in self.pieces if p.part.item is None)

    @property
    def bought(self) -> float:
        """kg of what is bought and goes out with it."""
        return sum(p.part.item.kg for p in self.pieces if p.part.item is not None)

    @property
    def lifted(self) -> float:
        """kg that a crane or a lorry takes: all of it."""
        return self.gross + self.bought

    @property
    def is_bought(self) -> bool:
        """Whether it is a bought item, and nothing the shop makes."""
        return self.member.item is not None

    @property
    def centre(self) -> Point:
        """Where it is taken hold of (model): the middles of its pieces' boxes, each as heavy as it is."""
        boxes = (plain_mesh(p.part).points for p in self.pieces)
        middles = np.array([p.placement.to_model((box.min(axis=0) + box.max(axis=0)) / 2)
            for p, box in zip(self.pieces, boxes, strict=True)])  # fmt: skip
        return point_of(np.average(middles, axis=0, weights=[gross_weight(p.part) + 1e-9 for p in self.pieces]))

    @property
    def shop_welds(self) -> dict[str, list[Weld]]:
        """The welds of each piece."""
        found: dict[str, list[Weld]] = defaultdict(list)
        for weld in self.welds:
            for piece in dict.fromkeys(weld.joins):
                found[piece].append(weld)
        return found

    @property
    def shop_bolts(self) -> dict[str, list[tuple[str, str, float, int]]]:
        """Size, grade, length and number of the bolts that hold each piece to this assembly in the shop."""
        found: dict[str, list[tuple[str, str, float, int]]] = defaultdict(list)
        for group in self.holds:
            for piece in () if group.field else dict.fromkeys(group.joins):
                found[piece].append((group.size, group.grade, round(group.length, 1), len(group.points)))
        return defaultdict(list, {piece: sorted(own) for piece, own in found.items()})

    @property
    def studs(self) -> list[tuple[str, Placement]]:
        """Studs that are welded on in the shop: what each is, and its head, with x to its foot, in the main part's
        frame."""
        found = []
        for group in self.holds:
            if group.kind is FastenerKind.STUD and not group.field:
                inverse, axis = self.main.placement.inverse, np.asarray(group.axis)
                axes = np.column_stack([axis, *np.linalg.svd(axis[None])[2][1:]])
                axes[:, 2] = np.cross(axes[:, 0], axes[:, 1])
                words = f"{group.size} {group.grade} {group.length:.1f}"
                found += [(words, inverse @ Placement(np.asarray(head), axes)) for head in group.points]
        return found

    @property
    def words(self) -> str:
        return self.member.words


class Touched(msgspec.Struct, frozen=True):
    """Which members' assemblies a change rebuilt, and which are gone; of what leaves the shop as one piece, what
    changed and what there is no more."""

    rebuilt: frozenset[str] = frozenset()
    gone: frozenset[str] = frozenset()
    shipped: frozenset[str] = frozenset()
    withdrawn: frozenset[str] = frozenset()

    @property
    def any(self) -> frozenset[str]:
        return self.rebuilt | self.gone
