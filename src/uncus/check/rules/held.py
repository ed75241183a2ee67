"""Pieces that a question holds."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.job.holds import ended
from uncus.job.records import Hold, Member
from uncus.steel.joint import Severity


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    for hold in looked.all(Hold):
        member = looked.get(hold.member, Member)
        if hold.let_go or member is None:
            continue
        whom = f" to {hold.whom}" if hold.whom else ""
        text = (
            f"The {member.role} {member.section} is held by question {hold.number}{whom} ({hold.on}): "
            f"{ended(hold.question)} Answer it and let the piece go; until then it is in no package."
        )
        yield Found("held", (member.id, hold.id), text, Severity.LOOK, looked.middle(member.id), form_of(hold.question))


KIND = Rule("held", "Held by a question", "Pieces that wait for an answer and are kept out of packages.",
    whole=whole)  # fmt: skip
