"""Beams whose top stands above the deck's level."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.job.records import End, Role
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Above by less than", low=1.0, high=1000.0,
        help="What stands higher is meant to: an upstand, the next level's.")] = 304.8  # fmt: skip
    least: Annotated[float, About("And by more than", low=0.1, high=50.0)] = 1.0


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m, body = looked.member(id), looked.bodies.get(id)
    if m is None or m.role is not Role.BEAM or body is None or abs(m.start[2] - m.end[2]) > 1.0:
        return
    top = float(body.frame.origin[2]) + body.section.d / 2
    for level in looked.levels[1:]:
        over = top - level.elevation
        if values.least < over < values.most:
            text = (
                f"The top of the beam {m.section} stands {looked.said(over)} above {level.name}, in the deck; "
                f"lower it, or put this aside."
            )
            middle = point_of((body.frame.origin + body.end(End.RIGHT)) / 2)
            yield Found("deck", (m.id,), text, Severity.LOOK, middle, form_of(round(over, 1), level.name))
            break


KIND = Rule("deck", "Stands in the deck", "Beams whose top is above the level that the deck lies on.", each,
    values=Values, state=lambda looked: looked.levels)  # fmt: skip
