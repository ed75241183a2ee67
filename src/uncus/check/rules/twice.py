"""The same thing twice: members on one line, joints at one end."""

from collections.abc import Iterator

import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.frame.placement import point_of
from uncus.job.records import Member

_SAME = 1.0  # mm within which two work points are one


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    m = looked.member(id)
    if m is not None:
        yield from _members(looked, m)
        yield from _joints(looked, m)


def _members(looked: Looked, a: Member) -> Iterator[Found]:
    """Members of which one lies on the other's line, end for end or not."""
    middle = (np.asarray(a.start) + a.end) / 2
    for near in looked.lines.meeting(middle - _SAME, middle + _SAME):
        b = looked.member(near)
        if b is not None and b.id != a.id and _is_same(a, b):
            first, second = sorted((a.id, b.id))
            words = f"{a.role} {a.section}" if a.section == b.section else " and ".join(sorted((a.section, b.section)))
            yield Found("twice", (first, second), f"Two members lie on one line ({words}); delete one of them.",
                at=point_of(middle), form=form_of(words))  # fmt: skip


def _is_same(a: Member, b: Member) -> bool:
    if (a.line, a.rise, a.aside) != (b.line, b.rise, b.aside) and a.section == b.section:
        return False  # beside one another by their lines
    straight = np.subtract(a.start, b.start), np.subtract(a.end, b.end)
    across = np.subtract(a.start, b.end), np.subtract(a.end, b.start)
    same = min(max(float(np.abs(d).max()) for d in pair) for pair in (straight, across)) < _SAME
    return same and bool(np.abs(np.subtract(a.bow, b.bow)).max() < _SAME)


def _joints(looked: Looked, member: Member) -> Iterator[Found]:
    first: dict[tuple[object, ...], str] = {}
    for c in looked.joints_at(member.id):
        if c.member != member.id:
            continue
        there = first.setdefault((c.end, c.kind, c.support, c.others), c.id)
        if there != c.id:
            words = f"Two joints of one kind ({c.kind}) are at one end and hold the same; delete one of them."
            yield Found("twice", (there, c.id), words, at=looked.middle(c.id), form=form_of(c.kind))


KIND = Rule("twice", "Is there twice", "Members on one line and joints that do the same at one end.", each)
