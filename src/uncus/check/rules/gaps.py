"""Pieces of one lens that come nearer to those of another than is wanted."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.connect.clash import gap
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    lens: Annotated[str, About("Pieces of the lens", unit="text",
        help="A kept lens by name, or its rows; nothing: the rule does not look.")] = ""  # fmt: skip
    other_lens: Annotated[str, About("From those of the lens", unit="text",
        help="Another, or the same: then of each other.")] = ""  # fmt: skip
    clear: Annotated[float, About("Stay clear by", low=0.5, high=2000.0,
        help="Members that a joint holds together are not asked.")] = 50.8  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    some, others = looked.let(values.lens), looked.let(values.other_lens)
    here = [those for mine, those in ((some, others), (others, some)) if id in mine]
    if not here:
        return
    for other in looked.members_near(id, values.clear):
        if other == id or not any(other in those for those in here) or looked.joined_to(id, other):
            continue
        first, second = sorted((id, other))
        pairs = looked.pieces_near(first, second, values.clear)
        apart = [gap(p.part, p.placement, q.part, q.placement, values.clear) for p, q in pairs]
        if not apart or not 0.0 < min(apart) < values.clear:
            continue  # what stands in one another is told as that
        one, two = sorted(looked.assemblies[m].words for m in (first, second))
        text = f"The {one} and the {two} are {looked.said(min(apart))} apart; {looked.said(values.clear)} is wanted."
        yield Found("gaps", (first, second), text, Severity.WRONG, looked.between(first, second),
            form_of(round(min(apart), 1)))  # fmt: skip


KIND = Rule("gaps", "Is too near", "Pieces of one lens that come nearer to another's than is wanted.", each,
    values=Values, state=lambda looked: looked.lenses)  # fmt: skip
