"""Ends that nothing holds: no joint of their own, and nobody else's joint at them."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.job.records import Connection, End, Member, Role
from uncus.steel.joint import Severity

_NEAR = 600.0  # mm from an end within which another's joint at it holds it
_FREE = {Role.COLUMN: (End.RIGHT,), Role.POST: (End.RIGHT,)}  # ends that may stand free: the tops of what stands


class Values(msgspec.Struct, frozen=True):
    free: Annotated[
        bool, About("Free ends of cantilevers", unit="flag", help="Told too, where the other end is held.")
    ] = True


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m, joints = looked.member(id), looked.joints_at(id)
    if m is None or m.role is Role.EMBED or m.maker or m.blank is not None or m.item is not None or not joints:
        return  # what no joint is at is told as loose, once
    bare = [end for end in (End.LEFT, End.RIGHT) if not _is_held(looked, m, end, joints)]
    if len(bare) == 1 and not values.free:
        return
    for end in bare:
        if end in _FREE.get(m.role, ()):
            continue
        at = m.start if end is End.LEFT else m.end
        text = f"The {end} end of the {m.role} {m.section} has no joint; give it one, or put this aside."
        yield Found("open end", (f"{m.id}/{end}",), text, Severity.LOOK, at, form_of(m.section, at))


def _is_held(looked: Looked, member: Member, end: End, joints: list[Connection]) -> bool:
    at = np.asarray(member.start if end is End.LEFT else member.end)
    for c in joints:
        if c.member == member.id:
            if c.end is end:
                return True
            continue
        other = looked.get(c.member, Member)
        if other is not None and float(np.linalg.norm(_spot(other, c) - at)) < _NEAR:
            return True
    return False


def _spot(member: Member, joint: Connection) -> np.ndarray:
    return np.asarray(member.start if joint.end is End.LEFT else member.end)


KIND = Rule("open end", "Has no joint", "Ends of members that no joint holds.", each, values=Values)
