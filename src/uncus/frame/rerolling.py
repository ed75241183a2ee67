"""Rolls that were worked out from supports, worked out again when these move."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from uncus.frame.neighbours import NEAR, Segments
from uncus.frame.roll import RollBy, by_supports
from uncus.job.errors import JobError
from uncus.job.job import Change, Edit
from uncus.job.records import Member
from uncus.units import counted

_SAME = 1e-4  # degrees


def rerolled(members: Sequence[Member], edits: Iterable[Edit]) -> tuple[list[Member], str]:
    """Of all members as an edit leaves them, those whose roll follows their supports and is another now, and what
    became of it in words. One that was turned by hand, or has lost what it rests on, follows no more."""
    changed = [e for e in edits if isinstance(e.before, Member) or isinstance(e.after, Member)]
    followers = [m for m in members if m.roll_by]
    if not changed or not followers:
        return [], ""
    before = {e.id: e.before for e in changed if isinstance(e.before, Member)}
    made = {e.id for e in changed if e.before is None}
    among = Segments(members)
    put: list[Member] = []
    anew = loose = 0
    for m in _near(followers, changed):
        if m.id in made:
            continue
        old = before.get(m.id)
        by_hand = old is not None and old.roll_by == m.roll_by and _turn(old.roll, m.roll) > _SAME
        try:
            roll = by_supports(m, among, RollBy(m.roll_by)).member.roll
        except (JobError, ValueError):
            roll = None
        if roll is not None and _turn(roll, m.roll) <= _SAME:
            continue
        if roll is None or by_hand:
            put.append(msgspec.structs.replace(m, roll_by=""))
            loose += roll is None and not by_hand
        else:
            put.append(msgspec.structs.replace(m, roll=roll))
            anew += 1
    said = [f"roll of {counted(anew, 'member')} worked out again"] if anew else []
    said += [f"roll of {counted(loose, 'member')} kept as it is, as nothing is under it any more"] if loose else []
    return put, "; ".join(said)


def amended(change: Change) -> str:
    """What follows from a change of members, put into the same step: in words, or nothing."""
    edits = change.edits()
    if not any(isinstance(r, Member) for e in edits for r in (e.before, e.after)):
        return ""
    put, words = rerolled(change.all(Member), edits)
    for member in put:
        change.put(member)
    return words


def _turn(a: float, b: float) -> float:
    return abs((a - b + 180.0) % 360.0 - 180.0)


def _near(followers: Sequence[Member], changed: Iterable[Edit]) -> list[Member]:
    """Those that were changed themselves or touch a line that was or is there."""
    lines = [m for e in changed for m in (e.before, e.after) if isinstance(m, Member)]
    spots = Segments(lines)
    own = {m.id for m in lines}
    room = spots.size / 2 + 300.0 + NEAR

    def touches(m: Member) -> bool:
        if m.id in own or not spots.members:
            return m.id in own
        a, b = np.asarray(m.start), np.asarray(m.end)
        ends = any(bool((spots.at(p)[0] < room).any()) for p in (a, b))
        return ends or any(_beside(p, a, b) < room.max() for line in lines for p in (line.start, line.end))

    return [m for m in followers if touches(m)]


def _beside(point: Sequence[float], a: np.ndarray, b: np.ndarray) -> float:
    """How far a point is from a work line."""
    d = b - a
    t = float(np.clip((np.asarray(point) - a) @ d / (d @ d), 0.0, 1.0))
    return float(np.linalg.norm(a + t * d - point))
