"""Beams that meet with their tops a little apart."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Rule
from uncus.job.forms import About
from uncus.job.records import End, Member, Role
from uncus.steel.joint import Severity

_LYING = (Role.BEAM, Role.STRUT, Role.PURLIN, Role.EAVES, Role.GIRT)


class Values(msgspec.Struct, frozen=True):
    most: Annotated[float, About("Tops apart by less than", low=0.1, high=50.0)] = 6.35
    least: Annotated[float, About("And by more than", low=0.01, high=5.0)] = 0.3


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    for c in looked.joints_at(id):
        if id not in (c.member, c.support):
            continue
        member = looked.get(c.member, Member)
        support = looked.get(c.support, Member) if c.support else None
        if member is None or support is None or member.role not in _LYING or support.role not in _LYING:
            continue
        one, other = looked.bodies.get(member.id), looked.bodies.get(support.id)
        if one is None or other is None:
            continue
        at = np.asarray(member.start if c.end is End.LEFT else member.end)
        apart = abs(_top(one, at) - _top(other, at))
        if values.least < apart < values.most:
            text = (
                f"The tops of the {member.role} {member.section} and of the {support.role} {support.section} that "
                f"holds it are {looked.said(apart)} apart; bring them level."
            )
            yield Found("heights", tuple(sorted((member.id, support.id))), text, Severity.LOOK,
                (float(at[0]), float(at[1]), float(at[2])), form_of(round(apart, 2)))  # fmt: skip


def _top(body, at: np.ndarray) -> float:  # type: ignore[no-untyped-def]
    """The height of a member's top beside a point."""
    frame = body.frame
    x = float(frame.to_local(at)[0])
    return float(frame.to_model((x, 0.0, body.section.d / 2))[2])


KIND = Rule("heights", "Tops a little apart", "Beams that meet with their tops a sixteenth apart.", each, values=Values)
