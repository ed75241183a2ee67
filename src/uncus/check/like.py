"""Joints that are right, for one that is not to have their values."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

import msgspec

from uncus.check.checking import Told, open_first
from uncus.check.looked import Looked
from uncus.job.records import Connection
from uncus.steel.joint import Severity


def faulty(told: Iterable[Told]) -> set[str]:
    """Records that something open says is wrong or to be looked at."""
    return {id for one in open_first(told) if one.found.severity is not Severity.SAVING for id in one.found.records}


def like(looked: Looked, joint: Connection, wrong: set[str]) -> Connection | None:
    """A joint of a kind, and of other values, of which nothing is said: one between the same sections, else one of the
    same member's; None where there is none."""
    found = [(near, c.id, c) for c in _others(looked, joint) if c.id not in wrong and (near := _near(looked, joint, c))]
    return max(found, key=lambda one: (one[0], one[1]))[2] if found else None


def given(looked: Looked, joints: Iterable[str], wrong: set[str]) -> list[Connection]:
    """The joints of some ids with the values of one that is right each, where there is one."""
    changed = []
    for id in dict.fromkeys(joints):
        joint = looked.get(id, Connection)
        right = like(looked, joint, wrong) if joint is not None else None
        if joint is not None and right is not None:
            changed.append(msgspec.structs.replace(joint, params=right.params))
    return changed


def _others(looked: Looked, joint: Connection) -> Iterator[Connection]:
    for record in looked.records.values():
        if isinstance(record, Connection) and record.kind == joint.kind and record.params != joint.params:
            yield record


def _near(looked: Looked, one: Connection, other: Connection) -> int:
    """How like two joints are: the sections of both members 2, of the one that is held 1, else 0."""
    held, holding = (_section(looked, a) == _section(looked, b)
        for a, b in ((one.member, other.member), (one.support, other.support)))  # fmt: skip
    return 2 if held and holding else int(held)


def _section(looked: Looked, member: str | None) -> str:
    body = looked.bodies.get(member or "")
    return body.section.name if body is not None else ""
