"""Joints that fail, or whose strength is not checked, as far as it is worked out by now."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.job.records import Connection
from uncus.shop.strengths import strength_of


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    joint, made, design = looked.get(id, Connection), looked.connections[id], looked.designs.get(id)
    body = looked.bodies.get(joint.member) if joint else None
    if joint is None or body is None or design is None:
        return
    one = strength_of(joint, body.words, made, design)
    if one is not None:
        yield Found("strength", (id,), one.text, one.severity, looked.middle(id), form_of(one.text))


KIND = Rule("strength", "Is not strong enough",
    "A joint that its loads use to more than all of it, or of which something is not checked.", each,
    Over.JOINTS, settled=lambda looked: looked.designed)  # fmt: skip
