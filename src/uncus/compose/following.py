"""Composites that follow what they hang on, and keep what was changed on their parts by hand: what a change of a job
brings with it, put into the same step."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import msgspec
import numpy as np

from uncus.compose.kind import Piece
from uncus.compose.making import by_hand, hung_on, parts, place_of, pure
from uncus.frame.placement import tidied
from uncus.job.composites import Anchor, Composite
from uncus.job.errors import JobError
from uncus.job.job import Change, Edit
from uncus.job.records import AnyRecord, Attachment, Connection, Level, Member
from uncus.units import counted

replace = msgspec.structs.replace
_PIECES = (Member, Connection, Attachment)
_RIGID = 0.01  # mm that points may be off a motion that takes all of them alike


def amended(change: Change) -> str:
    """What follows from a change for composites and their parts; in words, or nothing. Raises JobError where a
    composite that is itself changed cannot be made."""
    there = {c.id: c for c in change.all(Composite)}
    edits = change.edits()
    gone = [e.before for e in edits if isinstance(e.before, Composite) and e.after is None]
    if not there and not gone:
        return ""
    for composite in gone:
        for piece in _of(change, composite.id):
            change.drop(piece.id)
    moved = _moved(change, there, edits)
    there |= moved
    alone = tuple(e for e in edits if getattr(e.after or e.before, "maker", "") not in moved)
    touched = moved.keys() | _kept_by_hand(change, there, alone)
    lost = 0
    changed = {e.id for e in edits}
    for id in _in_order(change, there):
        now = change.get(id)
        if not isinstance(now, Composite) or not (id in touched or _hangs_on(now) & changed):
            continue
        try:
            changed |= _remake(change, now)
        except JobError:
            if any(e.id == id for e in edits):
                raise
            lost += 1
    return f"{counted(lost, 'thing')} of many parts kept as they are, as they cannot follow" if lost else ""


def _moved(change: Change, there: dict[str, Composite], edits: Iterable[Edit]) -> dict[str, Composite]:
    """Composites that were moved with all their parts, put where they are now."""
    edited = {e.id for e in edits}
    found = {}
    for id, composite in there.items():
        now = None if id in edited else _moved_as_one(change, composite, edits)
        if now is not None:
            change.put(now)
            found[id] = now
    return found


def _moved_as_one(change: Change, composite: Composite, edits: Iterable[Edit]) -> Composite | None:
    """A composite all of whose members were moved or turned alike, moved or turned itself; None for one that was
    not."""
    own = [e for e in edits if isinstance(e.after, Member) and isinstance(e.before, Member) and
        e.after.maker == composite.id]  # fmt: skip
    if len(own) < 2 or len(own) < len([p for p in _of(change, composite.id) if isinstance(p, Member)]):
        return None
    was = np.array([p for e in own if isinstance(e.before, Member) for p in (e.before.start, e.before.end)])
    now = np.array([p for e in own if isinstance(e.after, Member) for p in (e.after.start, e.after.end)])
    middles = was.mean(axis=0), now.mean(axis=0)
    u, _, v = np.linalg.svd((was - middles[0])[:, :2].T @ (now - middles[1])[:, :2])
    turn = np.eye(3)
    turn[:2, :2] = (u @ v).T  # about a plumb line
    if np.linalg.det(turn) < 0 or np.abs((was - middles[0]) @ turn.T + middles[1] - now).max() > _RIGID:
        return None
    anchors, before = [], _Before(change, edits)
    for anchor in composite.anchors:
        there = (place_of(anchor, composite, before) - middles[0]) @ turn.T + middles[1]
        host = change.get(anchor.on) if anchor.on else None
        if isinstance(host, (Member, Level)):
            anchors.append(hung_on(there, host, anchor.face))
        else:
            anchors.append(Anchor(tidied(there)))
    return replace(composite, anchors=tuple(anchors))


class _Before:
    """Records as they were before the edits of a change: what a composite hangs on may have been moved with it."""

    def __init__(self, change: Change, edits: Iterable[Edit]) -> None:
        self._change, self._was = change, {e.id: e.before for e in edits}

    def get(self, id: str) -> AnyRecord | None:
        return self._was[id] if id in self._was else self._change.get(id)


def _hangs_on(composite: Composite) -> set[str]:
    """The ids of records that a composite is made anew with: its own, and of what it hangs on."""
    return {composite.id, "project", "shop rules", *(a.on for a in composite.anchors if a.on)}


def _in_order(change: Change, there: dict[str, Composite]) -> list[str]:
    """Composites so that each comes after those whose parts it hangs on, as a rail does on the stair it runs up."""
    order: dict[str, None] = {}
    under: set[str] = set()

    def add(id: str) -> None:
        if id in order or id in under:
            return
        under.add(id)
        now = change.get(id)
        for on in (a.on for a in now.anchors if a.on) if isinstance(now, Composite) else ():
            host = change.get(on)
            if isinstance(host, Member) and host.maker in there:
                add(host.maker)
        order[id] = None

    for id in there:
        add(id)
    return list(order)


def _of(change: Change, composite: str) -> list[Piece]:
    there: list[Piece] = [*change.all(Member), *change.all(Connection), *change.all(Attachment)]
    return [p for p in there if p.maker == composite]


def _remake(change: Change, composite: Composite) -> set[str]:
    """Its parts as they are now; those that it has no more are gone, with what was joined to them by hand. The ids of
    those that are other than before."""
    made = {p.id: p for p in parts(composite, change).values()}
    other = set()
    for piece in _of(change, composite.id):
        if piece.id not in made:
            change.drop(piece.id)
            other.add(piece.id)
            if isinstance(piece, Member):
                _let_go(change, piece.id)
    for piece in made.values():
        if change.get(piece.id) != piece:
            change.put(piece)
            other.add(piece.id)
    return other


def _let_go(change: Change, member: str) -> None:
    """Joints at a member that is gone go with it."""
    joined: list[Connection | Attachment] = [*change.all(Connection), *change.all(Attachment)]
    for record in joined:
        if member in record.members:
            change.drop(record.id)


def _kept_by_hand(change: Change, there: dict[str, Composite], edits: Iterable[Edit]) -> set[str]:
    """Take edits of parts by hand into their composites; which composites those were. A part that a composite does
    not know, such as a copy of one, is a piece of its own."""
    own: dict[str, list[Edit]] = defaultdict(list)
    for edit in edits:
        for side in (edit.before, edit.after):
            if isinstance(side, _PIECES) and side.maker:
                own[side.maker].append(edit)
                break
    touched = set()
    for id, of in own.items():
        composite = there.get(id)
        if composite is None:
            for edit in of:
                if isinstance(edit.after, _PIECES) and edit.after.maker == id:
                    change.put(replace(edit.after, maker=""))
            continue
        if _is_gone(change, composite, of):
            change.drop(id)
            for piece in _of(change, id):
                change.drop(piece.id)
            continue
        if _take_in(change, composite, of):
            touched.add(id)
    return touched


def _is_gone(change: Change, composite: Composite, edits: Iterable[Edit]) -> bool:
    """Whether the last of its members was taken out by hand: then it goes with them."""
    dropped = any(isinstance(e.before, Member) and e.after is None for e in edits)
    return dropped and not any(isinstance(p, Member) for p in _of(change, composite.id))


def _take_in(change: Change, composite: Composite, edits: Iterable[Edit]) -> bool:
    try:
        made = {p.id: (key, p) for key, p in pure(composite, change).items()}
    except JobError:
        return False
    hand = dict(composite.hand)
    for edit in edits:
        known = made.get(edit.id)
        if known is None:
            if isinstance(edit.after, _PIECES) and edit.before is None:
                change.put(replace(edit.after, maker=""))
            continue
        key, piece = known
        after = edit.after
        if after is None:
            hand[key] = None
        elif isinstance(after, _PIECES) and type(after) is type(piece):
            by = by_hand(piece, after)
            hand.pop(key, None)
            if by:
                hand[key] = by
    if hand == composite.hand:
        return False
    change.put(replace(composite, hand=hand))
    return True
