"""Plates that go where the steel goes that they are welded or bolted on: what a change of a job brings with it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import numpy as np

from uncus.catalog.sections import UnknownSection, section
from uncus.frame.axes import member_frame
from uncus.frame.moves import Motion, transformed
from uncus.frame.plates import plate_frame
from uncus.job.job import Change, Edit
from uncus.job.records import Attachment, Member
from uncus.units import counted

_HOLDS = ("welded on", "bolted on")
_SAME = 1e-3  # mm, and in a thousandth of it of direction


def carried(change: Change) -> str:
    """Plates of one's own put where what they are on was moved to; in words, or nothing. One that is on several members
    goes with them only where all of them go alike, and one that is moved itself stays where it was put."""
    motions = _motions(change.edits())
    if not motions:
        return ""
    on: dict[str, set[str]] = defaultdict(set)
    for one in change.all(Attachment):
        if one.kind in _HOLDS and one.mate is not None:
            on[one.member].add(one.mate)
    edited = {e.id for e in change.edits()}
    moved = 0
    waiting = [id for id in on if id not in edited]
    while follow := [id for id in waiting if on[id] <= motions.keys()]:
        waiting = [id for id in waiting if id not in follow]
        for id in follow:
            plate, (motion, *others) = change.get(id), [motions[host] for host in sorted(on[id])]
            own = isinstance(plate, Member) and plate.blank is not None and not plate.maker
            if isinstance(plate, Member) and own and all(_alike(motion, other) for other in others):
                change.put(transformed(plate, motion))
                motions[id] = motion
                moved += 1
    return f"{counted(moved, 'plate')} moved with what they are on" if moved else ""


def _motions(edits: Iterable[Edit]) -> dict[str, Motion]:
    """How members were moved or turned that are still as long as they were."""
    found = {}
    for e in edits:
        was, now = e.before, e.after
        if not (isinstance(was, Member) and isinstance(now, Member)) or now.maker:
            continue
        if (was.start, was.end, was.roll) == (now.start, now.end, now.roll) or was.section != now.section:
            continue
        if abs(was.work_length - now.work_length) > _SAME or was.climb != now.climb:
            continue
        try:
            one, other = (
                plate_frame(m) if m.blank is not None else member_frame(m, section(m.section)) for m in (was, now)
            )
        except UnknownSection:
            continue
        turn = other.axes @ one.axes.T
        found[e.id] = Motion(turn, other.origin - turn @ one.origin)
    return found


def _alike(one: Motion, other: Motion) -> bool:
    return bool(np.abs(one.turn - other.turn).max() < _SAME / 1000 and np.abs(one.shift - other.shift).max() < _SAME)
