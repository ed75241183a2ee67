"""The order in which lots are set, and which pieces wait for others: a piece stands on what its ends are joined to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import NamedTuple

from uncus.job.records import Connection, End, Member, Role
from uncus.mark.marking import natural


class Wait(NamedTuple):
    """A piece that cannot be set before another that holds it, by their ids, and the joint between them."""

    piece: str
    holder: str
    joint: str


def order_of(lots: Iterable[str], said: Sequence[str]) -> dict[str, int]:
    """The place of each lot in the order of erection, from 0: those said first, then the others as they are named.
    Pieces of no lot have no place; where no order is said, no lot has."""
    there = {lot.strip() for lot in lots} - {""}
    first = [lot for lot in said if lot in there]
    return {lot: n for n, lot in enumerate([*first, *sorted(there - set(first), key=natural)])} if first else {}


def waits(
    joints: Iterable[Connection], member_of: Callable[[str], Member | None], ships_as: Callable[[str], str]
) -> Iterator[Wait]:
    """What waits for what: a piece for those that its ends are joined to. The head of a post or column waits for
    nothing: what lies on it comes later."""
    for joint in joints:
        member = member_of(joint.member)
        if joint.support is None or member is None or _is_head(member, joint.end):
            continue
        piece, holder = ships_as(joint.member), ships_as(joint.support)
        if piece != holder:
            yield Wait(piece, holder, joint.id)


def _is_head(m: Member, end: End) -> bool:
    own, other = (m.start, m.end) if end is End.LEFT else (m.end, m.start)
    return m.role in (Role.COLUMN, Role.POST) and own[2] > other[2]


def too_early(
    found: Iterable[Wait], lot_of: Callable[[str], str], order: Mapping[str, int]
) -> Iterator[tuple[Wait, str, str]]:
    """Waits for pieces of a lot that is set later than that of the piece itself, with both lots."""
    for wait in found:
        own, other = lot_of(wait.piece), lot_of(wait.holder)
        if own in order and other in order and order[own] < order[other]:
            yield wait, own, other
