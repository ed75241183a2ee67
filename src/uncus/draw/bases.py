"""Bases that stand on anchor rods: each where it is, and the kinds of them, by plate, rods and what stands on it."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator

import msgspec
import numpy as np

from uncus.frame.placement import Vec
from uncus.shop.pieces import Assembly, Piece
from uncus.steel import profile
from uncus.steel.joint import FastenerKind, Fasteners

Spot = tuple[float, float]
_PLUMB = 0.999  # cosine of a rod's way to the plumb line
_PLACES = 1  # of a mm, within which two kinds are one


class Kind(msgspec.Struct, frozen=True):
    """A kind of base, seen from above in its plate's own axes about the plate's middle: the plate's outline, thickness
    and holes, the rods' places, and the outline of what stands on it. `stands` is how far the rods stand over what
    they come out of, `grout` how far under the plate that lies."""

    outline: tuple[Spot, ...]
    thickness: float
    rods: tuple[Spot, ...]
    hole: float
    size: str
    grade: str
    length: float
    stands: float
    grout: float
    column: tuple[Spot, ...]

    @property
    def wide(self) -> tuple[float, float]:
        """Over all along and across."""
        (x0, y0), (x1, y1) = np.min(self.outline, axis=0), np.max(self.outline, axis=0)
        return float(x1 - x0), float(y1 - y0)


class Base(msgspec.Struct, frozen=True):
    """A base where it is: the mark and id of what stands on it, the middle of its plate, how its plate is turned in
    degrees, the height of its underside; the name of its kind."""

    mark: str
    id: str
    at: Spot
    turn: float
    under: float
    kind: str = ""

    def spots(self, kind: Kind) -> Iterator[Spot]:
        """Where the rods stand, in the model."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        for u, w in kind.rods:
            yield round(self.at[0] + c * u - s * w, 1), round(self.at[1] + s * u + c * w, 1)

    def top(self, kind: Kind) -> float:
        """How high the rods end."""
        return round(self.under - kind.grout + kind.stands, 1)


def bases(of: Iterable[tuple[str, Assembly]]) -> tuple[tuple[Base, ...], tuple[tuple[str, Kind], ...]]:
    """The bases of marked assemblies, and their kinds by name: those there are most of first."""
    found = [(base, kind) for mark, a in of for base, kind in _of(mark, a)]
    number = Counter(kind for _, kind in found)
    first: dict[Kind, str] = {}
    for base, kind in found:
        first[kind] = min(first.get(kind, base.mark), base.mark)
    ranked = sorted(number, key=lambda kind: (-number[kind], first[kind], msgspec.structs.astuple(kind)))
    names = {kind: f"BP{n}" for n, kind in enumerate(ranked, 1)}  # no letters, which are the grid's
    placed = tuple(msgspec.structs.replace(base, kind=names[kind]) for base, kind in found)
    return placed, tuple((names[kind], kind) for kind in ranked)


def _of(mark: str, a: Assembly) -> Iterator[tuple[Base, Kind]]:
    groups: dict[str, list[Fasteners]] = defaultdict(list)
    pieces = {p.id: p for p in a.pieces}
    for held in a.holds:
        plate = next((id for id in held.joins if id in pieces and pieces[id].part.is_plate), None)
        if held.kind is FastenerKind.ROD and plate is not None and -held.axis[2] > _PLUMB:
            groups[plate].append(held)
    for id, rods in sorted(groups.items()):
        yield _one(mark, a, pieces[id], rods)


def _one(mark: str, a: Assembly, plate: Piece, rods: list[Fasteners]) -> tuple[Base, Kind]:
    part, place = plate.part, plate.placement
    ring = np.array([(x, z) for x, z in part.outline])
    middle = (ring.min(axis=0) + ring.max(axis=0)) / 2
    centre = place.to_model((middle[0], 0.0, middle[1]))
    x = place.axes[:, 0] if abs(place.axes[2, 0]) < 0.5 else place.axes[:, 2]
    turn = math.degrees(math.atan2(float(x[1]), float(x[0]))) % 180.0
    way = np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn))])
    axes = np.column_stack([way, (-way[1], way[0])])
    corners = place.to_model([(u, 0.0, w) for u, w in part.outline])
    under = float(centre[2]) - part.thickness / 2
    tops = np.array([p for group in rods for p in group.points])
    foot = min(a.member.start[2], a.member.end[2])
    grout = max(0.0, under - foot) if a.main.id != plate.id else 0.0
    one = rods[0]
    kind = Kind(
        outline=_flat(corners, centre, axes),
        thickness=round(part.thickness, _PLACES),
        rods=tuple(sorted(_flat(tops, centre, axes))),
        hole=round(max((h.d for h in part.holes), default=0.0), _PLACES),
        size=one.size,
        grade=one.grade,
        length=round(one.length, _PLACES),
        stands=round(float(tops[:, 2].max()) - under + grout, _PLACES),
        grout=round(grout, _PLACES),
        column=_column(a, centre, axes),
    )
    spot = centre[:2].round(3).tolist()
    return Base(mark, a.id, (spot[0] + 0.0, spot[1] + 0.0), round(turn, 3) + 0.0, round(under, 3) + 0.0), kind


def _flat(points: Vec, centre: Vec, axes: Vec) -> tuple[Spot, ...]:
    """Points in a plate's own axes about its middle."""
    local = ((np.asarray(points)[:, :2] - centre[:2]) @ axes).round(_PLACES) + 0.0
    return tuple((u, w) for u, w in local.tolist())


def _column(a: Assembly, centre: Vec, axes: Vec) -> tuple[Spot, ...]:
    """The outline of a plumb member that stands on the plate."""
    main = a.main
    if main.part.section is None or main.part.is_formed or abs(float(main.placement.axes[2, 0])) < _PLUMB:
        return ()
    ring = np.asarray(profile.outline(main.part.section).exterior.simplify(0.2).coords)[:-1]
    return _flat(main.placement.to_model(np.column_stack([np.zeros(len(ring)), ring])), centre, axes)
