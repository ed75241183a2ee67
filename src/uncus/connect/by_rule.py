"""Connecting by rule: each free end of a selection gets the kind the office's rule says, or a reason why not."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.frame.axes import is_vertical
from uncus.frame.neighbours import NEAR, Segments
from uncus.frame.placement import unit
from uncus.job.job import Job
from uncus.job.records import Connection, End, Member, derived_id


class Skipped(msgspec.Struct, frozen=True):
    member: str
    end: End
    why: str


class Proposal(msgspec.Struct, frozen=True):
    made: tuple[Connection, ...]
    skipped: tuple[Skipped, ...]


def by_rule(job: Job, ids: Iterable[str]) -> Proposal:
    """What the rule would connect: plumb columns to the ground, beams to what holds their ends.

    Ends that have a connection already are left alone and not listed.
    """
    members = job.all(Member)
    wanted = set(ids)
    taken = {(c.member, c.end) for c in job.all(Connection)}
    segments = Segments(members)
    made: list[Connection] = []
    skipped: list[Skipped] = []
    for member in members:
        if member.id in wanted and member.id not in segments.index:
            skipped += [Skipped(member.id, end, f"its section {member.section} is not in the catalogue") for end in End]
    for index, member in enumerate(segments.members):
        if member.id not in wanted:
            continue
        for end in End:
            if (member.id, end) in taken:
                continue
            answer = _end(segments, index, end)
            if isinstance(answer, Connection):
                made.append(answer)
            elif answer:
                skipped.append(Skipped(member.id, end, answer))
    return Proposal(tuple(made), tuple(skipped))


def _end(segments: Segments, index: int, end: End) -> Connection | str | None:
    member = segments.members[index]
    here = np.asarray(member.start if end is End.LEFT else member.end)
    there = np.asarray(member.end if end is End.LEFT else member.start)
    if is_vertical(unit(there - here)):
        if there[2] < here[2]:
            return None  # tops of columns carry, they are not held
        return _foot(segments, index, end, here)
    found = segments.holding(index, here)
    if found is None:
        return "nothing stands at this end that could hold it"
    support = segments.members[found]
    if segments.sections[index].form not in (Form.I, Form.CHANNEL):
        return f"a {member.role} of {member.section} takes another kind than a shear tab"
    id = derived_id("connection", member.id, end)
    return Connection(id=id, kind="shear tab", member=member.id, end=end, support=support.id)


def _foot(segments: Segments, index: int, end: End, here: np.ndarray) -> Connection | str:
    distance, along = segments.at(here)
    distance[index] = np.inf
    lowest = segments.a[:, 2].clip(max=segments.b[:, 2])
    runs_past = np.minimum(along, segments.length - along) > segments.size  # a beam it stands on, its top at the foot
    below = (lowest < here[2] - 1.0) | (runs_past & (lowest < here[2] + 1.0))
    if np.any((distance < segments.size / 2 + NEAR) & below):
        return "it stands on other steel, which takes another kind than a base plate"
    member = segments.members[index]
    return Connection(id=derived_id("connection", member.id, end), kind="base plate", member=member.id, end=end)
