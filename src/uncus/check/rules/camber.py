"""Camber on beams too short for it."""

from collections.abc import Iterator
from typing import Annotated

import msgspec

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.steel.joint import Severity


class Values(msgspec.Struct, frozen=True):
    span: Annotated[float, About("Shortest cambered", low=1000.0, high=60_000.0,
        help="A shop's press bends no shorter beam reliably (AISC Manual, part 2).")] = 7315.2  # fmt: skip
    least: Annotated[float, About("Least camber", low=1.0, high=500.0,
        help="Less is within the mill's and the shop's tolerance.")] = 19.05  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    m = looked.member(id)
    if m is None or m.camber <= 0:
        return
    said, long = looked.said(m.camber), m.work_length
    if long < values.span:
        text = f"The {m.role} {m.section} of {looked.said(long)} is too short for a camber of {said}; leave it out."
    elif m.camber < values.least:
        text = f"A camber of {said} on the {m.role} {m.section} is within tolerances; leave it out."
    else:
        return
    yield Found("camber", (m.id,), text, Severity.LOOK, looked.middle(m.id), form_of(text))


KIND = Rule(
    "camber", "Camber that cannot be", "Camber on short beams, or less of it than tolerances.", each, values=Values
)
