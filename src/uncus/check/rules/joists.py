"""Long secondary beams that nothing holds sideways while they are put up (OSHA 29 CFR 1926.757 for joists)."""

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

_LYING = (Role.BEAM, Role.PURLIN)
_AMID = (0.1, 0.9)  # shares of its length between which what frames in holds it


class Values(msgspec.Struct, frozen=True):
    span: Annotated[float, About("Longest without", low=1000.0, high=60_000.0,
        help="Joists of 40 ft and more want bridging before the hoisting line is let go.")] = 12_192.0  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m = looked.member(id)
    if m is None or m.role not in _LYING or m.work_length < values.span:
        return
    joints = looked.joints_at(id)
    supports = {c.end: looked.get(c.support, Member) for c in joints if c.member == id}
    if len(supports) < 2 or any(s is None or s.role is Role.COLUMN for s in supports.values()):
        return  # a girder from column to column is tied at its ends
    if not any(_holds_amid(looked, m, c) for c in joints if c.member != id):
        text = (
            f"The {m.role} {m.section} of {looked.said(m.work_length)} is held sideways by nothing between its ends; "
            f"safe erection wants bridging before it is let go (29 CFR 1926.757)."
        )
        yield Found("joists", (id,), text, Severity.LOOK, looked.middle(id), form_of(m.section, round(m.work_length)))


def _holds_amid(looked: Looked, member: Member, joint: Connection) -> bool:
    other = looked.get(joint.member, Member)
    if other is None:
        return False
    way = np.subtract(member.end, member.start)
    at = np.subtract(other.start if joint.end is End.LEFT else other.end, member.start)
    return _AMID[0] < float(at @ way) / float(way @ way) < _AMID[1]


KIND = Rule("joists", "Long, and not braced", "Secondary beams that may tip over before what braces them is there.",
    each, values=Values)  # fmt: skip
