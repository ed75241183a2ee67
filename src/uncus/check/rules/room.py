"""Bolts whose entering and tightening other steel prevents: all that is near, beyond what their own joint looks at.

Clearances: AISC Manual table 7-15 (C2 to enter, C1 for a socket on the nut); metric by sockets of ISO 2725-2.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from uncus.caches import Cache
from uncus.catalog.bolts import bolt_size
from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.connect.buildable.blocks import Blocks, blocks_of_piece
from uncus.connect.buildable.reach import SOCKET
from uncus.frame.placement import settled
from uncus.job.records import Connection
from uncus.shop.pieces import Piece
from uncus.steel.joint import FastenerKind, Fasteners

_AT_ONCE = 500  # groups held against all boxes together


class _Asked(NamedTuple):
    """A group of bolts of a joint, and the members whose own steel the joint looked at."""

    joint: str
    group: Fasteners
    members: frozenset[str]


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    asked = list(_groups(looked))
    pieces, boxes = looked.boxes
    for start in range(0, len(asked), _AT_ONCE):
        some = asked[start : start + _AT_ONCE]
        reach = np.array([_reach(one.group) for one in some]).reshape(-1, 2, 3)
        meet = np.ones((len(some), len(pieces)), dtype=bool)
        for k in range(3):
            meet &= (boxes.low[:, k] < reach[:, 1, k, None]) & (boxes.high[:, k] > reach[:, 0, k, None])
        near: list[list[Piece]] = [[] for _ in some]
        for n, m in zip(*(row.tolist() for row in np.nonzero(meet)), strict=True):
            if _is_other(pieces[m], some[n]):
                near[n].append(pieces[m])
        for one, others in zip(some, near, strict=True):
            if others:
                yield from _found(looked, one, sorted(others, key=lambda p: p.id))


def _groups(looked: Looked) -> Iterator[_Asked]:
    for id, made in looked.connections.items():
        record = looked.get(id, Connection)
        members = frozenset(record.members) if record else frozenset()
        for group in made.fasteners:
            if group.kind is FastenerKind.BOLT and group.field:
                yield _Asked(id, group, members)


def _is_other(piece: Piece, one: _Asked) -> bool:
    """Whether the joint itself has not looked at a piece, and does not bolt it."""
    return piece.maker != one.joint and piece.maker not in one.members and piece.id not in one.group.joins


def _reach(group: Fasteners) -> NDArray[np.float64]:
    """The box of all that bolts and tools may need."""
    size = bolt_size(group.size)
    out = group.length + size.head_height + SOCKET * size.d
    ends = np.concatenate([np.add(group.points, np.multiply(group.axis, x)) for x in (-out, group.grip + out)])
    wide = max(size.enter, size.turn, size.head_flats / 2)
    return np.array([ends.min(axis=0) - wide, ends.max(axis=0) + wide])


class _Way(NamedTuple):
    """What other steel does to bolts: how many of them, what they cannot, the first of them, and which piece it is."""

    many: int
    doing: str
    first: int
    piece: int


_WAYS: Cache[tuple[object, ...], tuple[_Way | None]] = Cache(4096)


def _found(looked: Looked, one: _Asked, others: Sequence[Piece]) -> Iterator[Found]:
    (way,) = _WAYS.of(_likeness(one.group, others), lambda: (_way(one.group, others),))
    if way is None:
        return
    group, piece = one.group, others[way.piece]
    text = (
        f"{way.many} of the {bolt_size(group.size).name} bolts {way.doing}: the {looked.ties.words[piece.id]} stands "
        f"in the way; move it, or bolt before it comes."
    )
    form = form_of(way.doing, way.many, group.size)
    yield Found("room", (f"{one.joint}/{group.key}", piece.id), text, at=group.points[way.first], form=form)


def _likeness(group: Fasteners, others: Sequence[Piece]) -> tuple[object, ...]:
    """What bolts and the steel about them have in common with others elsewhere in the building."""
    origin = np.asarray(group.points[0])
    points = settled(np.subtract(group.points, origin), 2).tobytes()
    places = [(p.part, settled(p.placement.origin - origin, 2).tobytes(), settled(p.placement.axes, 5).tobytes())
        for p in others]  # fmt: skip
    return group.size, round(group.length, 2), round(group.grip, 2), points, group.axis, *places


def _way(group: Fasteners, others: Sequence[Piece]) -> _Way | None:
    size = bolt_size(group.size)
    blocks = Blocks(b for p in others for b in blocks_of_piece(p.id, p.owner, "", p.part, p.placement))
    heads, axis = np.asarray(group.points), np.asarray(group.axis)
    nuts = heads + axis * group.grip
    plies = blocks.walls(blocks.passed(heads, axis, group.grip)[0])
    whole, nut = group.length + size.head_height, max(group.length - group.grip, size.nut_height)
    for (long, wide), both, doing in (
        ((nut, size.head_flats / 2), False, "have no room for head and nut"),
        ((whole, size.enter), True, "cannot be entered"),
        ((nut + SOCKET * size.d, size.turn), True, "cannot be turned tight"),
    ):
        hit = np.stack([
            blocks.hit(at, np.tile(way, (len(heads), 1)), np.full(len(heads), long), np.full(len(heads), wide)) & ~plies
            for at, way in ((heads, -axis), (nuts, axis))])  # fmt: skip
        blocked = hit.any(axis=2)
        bad = blocked.all(axis=0) if both else blocked.any(axis=0)
        if bad.any():
            block = blocks.all[int(np.argmax(hit[:, bad].any(axis=(0, 1))))]
            piece = next(n for n, p in enumerate(others) if p.id == block.piece)
            return _Way(int(bad.sum()), doing, int(np.argmax(bad)), piece)
    return None


KIND = Rule("room", "No room for a bolt", "Site bolts that other steel keeps from being entered or tightened, wherever "
    "it comes from.", find)  # fmt: skip
