"""Joints that meet at one wall: bolts through it that both use are one, and a stiffener both would make is made
once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
import shapely

from uncus.catalog.bolts import bolt_length, bolt_size
from uncus.connect.kind import Stock
from uncus.frame.axes import is_vertical
from uncus.steel.features import Hole
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, Finding, NewPart, Severity, point
from uncus.steel.profile import hole_spot

_SAME = 0.05  # mm within which two bolts are one
_OVERLAP = 100.0  # mm2 of two plates that stand in one another


class Shared(NamedTuple):
    """Two joints' groups of bolts through one piece: `mine`, `other`, and which points are the same (i of mine, j of
    other)."""

    piece: str
    mine: Fasteners
    other: Fasteners
    pairs: tuple[tuple[int, int], ...]


def settled(id: str, made: Contribution, near: Mapping[str, Contribution], stocks: Mapping[str, Stock]) -> Contribution:
    """A joint beside others at the same members: of what two bring, the first by id keeps it and the second leaves it.

    `near` holds the other joints' own contributions by id, `stocks` the members' pieces. Returns `made` itself where
    nothing is shared.
    """
    for other in sorted(near):
        theirs = near[other]
        made = _bolts(id, made, other, theirs, stocks)
        made = _plates(made, other, theirs, id > other)
    return made


def yielding(made: Contribution, near: Mapping[str, Contribution]) -> Contribution:
    """An attachment's stiffeners without those that stand where a joint has a plate."""
    for other, theirs in near.items():
        made = _plates(made, other, theirs, True)
    return made


# -- bolts ----------------------------------------------------------------------------------------------------


def _bolts(id: str, made: Contribution, other: str, theirs: Contribution, stocks: Mapping[str, Stock]) -> Contribution:
    for own in made.fasteners:
        mine: Fasteners | None = own
        for their in theirs.fasteners:
            if mine is None:
                break  # all of them are shared by now
            common = [p for p in mine.joins if p in their.joins and p in stocks]
            if not common or mine.kind is not FastenerKind.BOLT or their.kind is not FastenerKind.BOLT:
                continue
            found = _meet(common[0], mine, their)
            if isinstance(found, str):
                made = _said(made, id, found)
            elif found is not None:
                kept = _without(mine, {i for i, _ in found.pairs})
                made = _first(made, found, kept, id, stocks) if id < other else _second(made, found, kept, stocks)
                mine = kept
    return made


def _meet(piece: str, mine: Fasteners, other: Fasteners) -> Shared | str | None:
    a, b, axis = np.asarray(mine.points), np.asarray(other.points), np.asarray(mine.axis)
    if abs(float(axis @ other.axis)) < 0.9999:
        return None
    apart = a[:, None] - b
    along = apart @ axis
    beside = np.linalg.norm(apart - along[..., None] * axis, axis=2)
    beside[np.abs(along) > mine.grip + other.grip + 1.0] = np.inf  # through another wall
    nearest = float(beside.min())
    if nearest > 8 / 3 * min(bolt_size(mine.size).d, bolt_size(other.size).d):
        return None
    if nearest > _SAME or mine.size != other.size:
        return (
            "Its bolts stand too near those of the joint opposite and not in line with them; give both the same bolts, "
            "gage and first distance."
        )
    i, j = np.nonzero(beside <= _SAME)
    return Shared(piece, mine, other, tuple(zip(i.tolist(), j.tolist(), strict=True)))


def _first(made: Contribution, m: Shared, kept: Fasteners | None, id: str, stocks: Mapping[str, Stock]) -> Contribution:
    """The shared bolts made longer, through the other joint's plies too; those of its own alone left as they are."""
    axis = np.asarray(m.mine.axis)
    i, j = m.pairs[0]
    theirs = float((np.asarray(m.other.points[j]) - m.mine.points[i]) @ axis)
    back = float(axis @ m.other.axis) < 0
    low, high = (theirs - m.other.grip, theirs) if back else (theirs, theirs + m.other.grip)
    low, high = min(low, 0.0), max(high, m.mine.grip)
    their_plies = [p for p in (reversed(m.other.joins) if back else m.other.joins) if p not in m.mine.joins]
    plies = (*their_plies, *m.mine.joins) if low < -_SAME else (*m.mine.joins, *their_plies)
    size = bolt_size(m.mine.size)
    shared = msgspec.structs.replace(
        m.mine,
        key=f"{m.mine.key} shared",
        length=bolt_length(size, high - low),
        grip=high - low,
        points=tuple(point(np.asarray(m.mine.points[i]) + axis * low) for i, _ in m.pairs),
        joins=plies,
        field=m.mine.field or m.other.field,
    )
    groups = [g for g in made.fasteners if g is not m.mine] + [g for g in (kept, shared) if g is not None]
    made = msgspec.structs.replace(made, fasteners=tuple(groups))
    if is_vertical(stocks[m.piece].frame.x):
        text = (
            "Two beams hang on the same bolts through a column: give one a seat or a bolt of its own, so that it is "
            "held "
            "while the other is put in (29 CFR 1926.756)."
        )
        made = _said(made, id, text, Severity.LOOK)
    return made


def _second(made: Contribution, m: Shared, kept: Fasteners | None, stocks: Mapping[str, Stock]) -> Contribution:
    """The shared bolts, and their holes in the common piece, left to the other joint."""
    groups = [g for g in made.fasteners if g is not m.mine] + ([kept] if kept else [])
    stock, axis = stocks[m.piece], np.asarray(m.mine.axis)
    spots = np.array([m.mine.points[i] for i, _ in m.pairs])

    def theirs(owner: str, feature: object) -> bool:
        if owner != m.piece or not isinstance(feature, Hole):
            return False
        off = stock.frame.to_model(hole_spot(stock.section, feature)) - spots
        return bool((np.linalg.norm(np.cross(off, axis), axis=1) < _SAME).any())

    features = tuple((o, f) for o, f in made.features if not theirs(o, f))
    return msgspec.structs.replace(made, fasteners=tuple(groups), features=features)


def _without(group: Fasteners, gone: set[int]) -> Fasteners | None:
    points = tuple(p for i, p in enumerate(group.points) if i not in gone)
    return msgspec.structs.replace(group, points=points) if points else None


def _said(made: Contribution, id: str, text: str, severity: Severity = Severity.WRONG) -> Contribution:
    finding = Finding(id, text, severity)
    return made if finding in made.findings else msgspec.structs.replace(made, findings=(*made.findings, finding))


# -- plates ---------------------------------------------------------------------------------------------------


def _plates(made: Contribution, other: str, theirs: Contribution, later: bool) -> Contribution:
    """Without the stiffeners that stand where another joint has a plate: one of its own, a larger stiffener, or one
    made before. What stands on such a stiffener is welded to the other joint's plate."""
    gone = {
        mine.key: f"{other}/{plate.key}"
        for mine in made.parts
        if mine.shared
        for plate in theirs.parts
        if plate.owner == mine.owner and _yields(mine, plate, later) and _in_one_place(mine, plate)
    }
    if not gone:
        return made
    own = {p.key for p in made.parts if p.key not in gone}
    welds = []
    for weld in made.welds:
        keys = [j.rpartition("/")[2] for j in weld.joins]
        if not gone.keys().isdisjoint(keys):
            if own.isdisjoint(keys):
                continue  # the stiffener's own
            a, b = (gone.get(key, j) for key, j in zip(keys, weld.joins, strict=True))
            weld = msgspec.structs.replace(weld, joins=(a, b))
        welds.append(weld)
    parts = tuple(p for p in made.parts if p.key not in gone)
    return msgspec.structs.replace(made, parts=parts, welds=tuple(welds))


def _yields(mine: NewPart, other: NewPart, later: bool) -> bool:
    """Whether a stiffener is the one to give way: to what is no stiffener, to a larger one, of two alike the later."""
    if not other.shared:
        return True
    more = shapely.Polygon(other.part.outline).area - shapely.Polygon(mine.part.outline).area
    return more > _OVERLAP or (later and more > -_OVERLAP)


def _in_one_place(a: NewPart, b: NewPart) -> bool:
    """Whether two plates lie in one plane, thickness in thickness, and overlap."""
    if not (a.part.is_plate and b.part.is_plate) or abs(float(a.placement.y @ b.placement.y)) < 0.999:
        return False
    corners = np.array([(x, 0.0, z) for x, z in b.part.outline])
    local = a.placement.to_local(b.placement.to_model(corners))
    if abs(float(local[:, 1].mean())) > (a.part.thickness + b.part.thickness) / 2 - 0.1:
        return False
    common = shapely.Polygon(a.part.outline).intersection(shapely.Polygon(local[:, [0, 2]]))
    return bool(common.area > _OVERLAP)


def on_one_line(some: Sequence[Fasteners], others: Sequence[Fasteners]) -> bool:
    """Whether bolts of two joints lie on one another's axes, within a millimetre: through one wall, they are the
    same."""
    for a in some:
        axis = np.asarray(a.axis)
        flat = [p - (p @ axis) * axis for p in map(np.asarray, a.points)]
        for b in others:
            if abs(float(axis @ np.asarray(b.axis))) > 0.999:
                there = [p - (p @ axis) * axis for p in map(np.asarray, b.points)]
                if any(np.linalg.norm(p - q) < 1.0 for p in flat for q in there):
                    return True
    return False
