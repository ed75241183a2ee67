"""Members whose steel touches and that nothing holds together there."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.connect.clash import contact, overlap
from uncus.job.forms import About
from uncus.steel.joint import Severity
from uncus.steel.solid import TOLERANCE


class Values(msgspec.Struct, frozen=True):
    side: Annotated[float, About("Contact of at least", low=1.0, high=1000.0,
        help="The side of a square; faces that meet in less are passed over.")] = 25.4  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    if not looked.is_joined:
        return  # a frame without joints yet: all of it only touches
    if looked.is_laid(id):
        return
    for other in looked.members_near(id, TOLERANCE):
        if other == id or looked.joined_to(id, other) or looked.is_laid(other):
            continue
        first, second = sorted((id, other))
        pairs = looked.pieces_near(first, second, TOLERANCE)
        if any(overlap(p.part, p.placement, q.part, q.placement) for p, q in pairs):
            continue  # which is told as that
        held = [(p, q, found) for p, q in pairs
            if (found := contact(p.part, p.placement, q.part, q.placement)) is not None]  # fmt: skip
        p, q, found = max(held, key=lambda one: one[2].area, default=(None, None, None))
        if found is None or p is None or q is None or found.area < values.side**2:
            continue
        one, two = sorted((looked.ties.words[p.id], looked.ties.words[q.id]))
        text = f"The {one} and the {two} touch, and nothing holds them together there; join them, or put this aside."
        form = form_of(round(found.area, -1), one, two)
        yield Found("touching", (first, second), text, Severity.LOOK, found.at, form)


KIND = Rule("touching", "Touches, and nothing holds", "Members that lie against one another without a joint.", each,
    values=Values, state=lambda looked: looked.is_joined)  # fmt: skip
