"""Bolts whose entering and tightening other steel prevents: all that is near, beyond what their own joint looks at.

Clearances: AISC Manual table 7-15 (C2 to enter, C1 for a socket on the nut); metric by sockets of ISO 2725-2.
"""

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from uncus.caches import Cache
from uncus.catalog.bolts import bolt_size
from uncus.check.bolting import reach
from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.connect.buildable.blocks import Blocks, blocks_of_piece
from uncus.connect.buildable.reach import SOCKET
from uncus.frame.placement import settled
from uncus.job.records import Connection
from uncus.shop.pieces import Piece
from uncus.steel.joint import Fasteners


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    record = looked.get(id, Connection)
    members = record.members if record else ()
    for group in looked.site_bolts.get(id, ()):
        near = looked.pieces_in(*reach(group))
        others = [p for p in near if p.maker != id and p.maker not in members and p.id not in group.joins]
        if others:  # which the joint itself has not looked at, and does not bolt
            yield from _found(looked, id, group, sorted(others, key=lambda p: p.id))


def also(looked: Looked) -> set[str]:
    """Joints whose bolts are near steel that changed, or was there."""
    return {id for low, high in looked.changed_boxes() for id in looked.bolting.meeting(low, high)}


class _Way(NamedTuple):
    """What other steel does to bolts: how many of them, what they cannot, the first of them, and which piece it is."""

    many: int
    doing: str
    first: int
    piece: int


_WAYS: Cache[tuple[object, ...], tuple[_Way | None]] = Cache(4096)


def _found(looked: Looked, joint: str, group: Fasteners, others: Sequence[Piece]) -> Iterator[Found]:
    (way,) = _WAYS.of(_likeness(group, others), lambda: (_way(group, others),))
    if way is None:
        return
    piece = others[way.piece]
    text = (
        f"{way.many} of the {bolt_size(group.size).name} bolts {way.doing}: the {looked.ties.words[piece.id]} stands "
        f"in the way; move it, or bolt before it comes."
    )
    form = form_of(way.doing, way.many, group.size)
    yield Found("room", (f"{joint}/{group.key}", piece.id), text, at=group.points[way.first], form=form)


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
    "it comes from.", each, Over.JOINTS,
    also=also)  # fmt: skip
