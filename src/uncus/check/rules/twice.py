"""The same thing twice: members on one line, joints at one end."""

from collections import defaultdict
from collections.abc import Iterator

import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.frame.placement import point_of
from uncus.job.records import Connection, Member

_SAME = 1.0  # mm within which two work points are one


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    yield from _members(looked)
    yield from _joints(looked)


def _members(looked: Looked) -> Iterator[Found]:
    """Members of which one lies on the other's line, end for end or not."""
    members = looked.members
    if len(members) < 2:
        return
    from scipy.spatial import KDTree  # a quarter of a second to import

    middles = looked.ends.mean(axis=1)
    for n, m in sorted(KDTree(middles).query_pairs(2 * _SAME)):
        a, b = members[n], members[m]
        if _is_same(a, b):
            first, second = sorted((a.id, b.id))
            words = f"{a.role} {a.section}" if a.section == b.section else " and ".join(sorted((a.section, b.section)))
            yield Found("twice", (first, second), f"Two members lie on one line ({words}); delete one of them.",
                at=point_of(middles[n]), form=form_of(words))  # fmt: skip


def _is_same(a: Member, b: Member) -> bool:
    if (a.line, a.rise, a.aside) != (b.line, b.rise, b.aside) and a.section == b.section:
        return False  # beside one another by their lines
    straight = np.subtract(a.start, b.start), np.subtract(a.end, b.end)
    across = np.subtract(a.start, b.end), np.subtract(a.end, b.start)
    same = min(max(float(np.abs(d).max()) for d in pair) for pair in (straight, across)) < _SAME
    return same and bool(np.abs(np.subtract(a.bow, b.bow)).max() < _SAME)


def _joints(looked: Looked) -> Iterator[Found]:
    at: dict[tuple[object, ...], list[Connection]] = defaultdict(list)
    for c in looked.all(Connection):
        at[c.member, c.end, c.kind, c.support, c.others].append(c)
    for some in at.values():
        for one in some[1:]:
            words = f"Two joints of one kind ({one.kind}) are at one end and hold the same; delete one of them."
            yield Found("twice", tuple(sorted((some[0].id, one.id))), words, at=looked.middle(one.id),
                form=form_of(one.kind))  # fmt: skip


KIND = Rule("twice", "Is there twice", "Members on one line and joints that do the same at one end.", find)
