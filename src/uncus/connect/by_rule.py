"""Connecting by rule: each free end of a selection gets the kind the office's rule says, or a reason why not."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec
import numpy as np

from uncus.catalog.sections import Form, Section, section
from uncus.frame.axes import is_vertical
from uncus.frame.placement import unit
from uncus.job.job import Job
from uncus.job.records import Connection, End, Member, Role, derived_id

_UPRIGHT = (Role.COLUMN, Role.POST)
_NEAR = 60.0  # mm that a drawn end may miss its support's outline


class Skipped(msgspec.Struct, frozen=True):
    member: str
    end: End
    why: str


class Proposal(msgspec.Struct, frozen=True):
    made: tuple[Connection, ...]
    skipped: tuple[Skipped, ...]


class _Segments:
    """All members as segments, for finding what stands at a point."""

    def __init__(self, members: list[Member]) -> None:
        self.members = members
        self.sections: list[Section] = [section(m.section) for m in members]
        self.a = np.array([m.start for m in members]).reshape(-1, 3)
        self.b = np.array([m.end for m in members]).reshape(-1, 3)
        self.d = self.b - self.a
        self.length = np.linalg.norm(self.d, axis=1)
        self.size = np.array([max(s.d, s.b) for s in self.sections])

    def at(self, point: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Distance (n,) of every axis from a point, and where along it (n,) in mm."""
        along = np.clip(np.einsum("ij,ij->i", point - self.a, self.d) / self.length**2, 0, 1)
        foot = self.a + along[:, None] * self.d
        return np.linalg.norm(foot - point, axis=1), along * self.length


def by_rule(job: Job, ids: Iterable[str]) -> Proposal:
    """What the rule would connect: plumb columns to the ground, beams to what holds their ends.

    Ends that have a connection already are left alone and not listed.
    """
    members = job.all(Member)
    wanted = set(ids)
    taken = {(c.member, c.end) for c in job.all(Connection)}
    segments = _Segments(members)
    made: list[Connection] = []
    skipped: list[Skipped] = []
    for index, member in enumerate(members):
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


def _end(segments: _Segments, index: int, end: End) -> Connection | str | None:
    member = segments.members[index]
    here = np.asarray(member.start if end is End.LEFT else member.end)
    there = np.asarray(member.end if end is End.LEFT else member.start)
    if is_vertical(unit(there - here)):
        if there[2] < here[2]:
            return None  # tops of columns carry, they are not held
        return _foot(segments, index, end, here)
    found = support_at(segments, index, here)
    if found is None:
        return "nothing stands at this end that could hold it"
    support = segments.members[found]
    if segments.sections[index].form not in (Form.I, Form.CHANNEL):
        return f"a {member.role} of {member.section} takes another kind than a shear tab"
    id = derived_id("connection", member.id, end)
    return Connection(id=id, kind="shear tab", member=member.id, end=end, support=support.id)


def _foot(segments: _Segments, index: int, end: End, here: np.ndarray) -> Connection | str:
    distance, along = segments.at(here)
    distance[index] = np.inf
    lowest = segments.a[:, 2].clip(max=segments.b[:, 2])
    runs_past = np.minimum(along, segments.length - along) > segments.size  # a beam it stands on, its top at the foot
    below = (lowest < here[2] - 1.0) | (runs_past & (lowest < here[2] + 1.0))
    if np.any((distance < segments.size / 2 + _NEAR) & below):
        return "it stands on other steel, which takes another kind than a base plate"
    member = segments.members[index]
    return Connection(id=derived_id("connection", member.id, end), kind="base plate", member=member.id, end=end)


def support_at(segments: _Segments, index: int, here: np.ndarray) -> int | None:
    """The member that holds an end at a point: a column first, else a beam that runs on past it."""
    distance, along = segments.at(here)
    x = unit(segments.d[index])
    across = np.abs(segments.d @ x) / segments.length < 0.95
    own = segments.sections[index]
    near = (distance < segments.size / 2 + own.d / 2 + _NEAR) & across
    near[index] = False
    best: tuple[float, int] | None = None
    for i in np.flatnonzero(near):
        upright = is_vertical(segments.d[i] / segments.length[i]) or segments.members[i].role in _UPRIGHT
        runs_on = min(along[i], segments.length[i] - along[i]) > segments.size[i]
        if not upright and not runs_on:
            continue
        score = float(distance[i]) + (0.0 if upright else 200.0)
        if best is None or score < best[0]:
            best = (score, int(i))
    return best[1] if best else None
