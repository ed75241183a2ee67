"""How the cranes of the site stand to a piece: from where it lies to where it stands."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from uncus.job.records import Crane, LayDown
from uncus.shop.pieces import Assembly


class Lift(NamedTuple):
    """A crane at a piece: how far away it has to reach, and what it lifts all the way (None: it does not reach it)."""

    crane: Crane
    radius: float
    lifts: float | None

    def takes(self, weight: float) -> bool:
        return self.lifts is not None and weight <= self.lifts


def lot_of(piece: Assembly) -> str:
    return piece.member.lot.strip()


def weights_by_lot(pieces: Iterable[Assembly]) -> dict[str, float]:
    """What the steel of each lot weighs, kg."""
    found: dict[str, float] = {}
    for a in pieces:
        found[lot_of(a)] = found.get(lot_of(a), 0.0) + a.lifted
    return found


def lift(piece: Assembly, cranes: Iterable[Crane], areas: Iterable[LayDown]) -> Lift | None:
    """The crane that is best for a piece, from anywhere in the areas where its lot is laid down, if that is said, to
    where it stands: one that takes it, else the one that lifts most there. None where no crane has a load table."""
    weight, lot = piece.lifted, lot_of(piece)
    places = [piece.centre, *(corner for area in areas if lot in area.lots for corner in area.corners)]
    found: list[Lift] = []
    for crane in cranes:
        if not crane.table:
            continue
        lifted = [crane.lifts(crane.away(p)) for p in places]
        least = None if None in lifted else min(v for v in lifted if v is not None)
        found.append(Lift(crane, max(crane.away(p) for p in places), least))
    return max(found, key=lambda one: (one.takes(weight), one.lifts or 0.0, -one.radius), default=None)


LIFTED, HEAVY, FAR, NO_CRANE = LIFTING = ("lifted", "too heavy", "out of reach", "no crane")


def lifting(piece: Assembly, found: Lift | None) -> str:
    """How a piece stands to the crane that is best for it, in a word."""
    if found is None:
        return NO_CRANE
    if found.lifts is None:
        return FAR
    return LIFTED if found.takes(piece.lifted) else HEAVY
