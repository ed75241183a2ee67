"""Joints that fail, or whose strength is not checked, as far as it is worked out by now."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    for one in looked.strengths:
        yield Found("strength", (one.about,), one.text, one.severity, looked.middle(one.about), form_of(one.text))


KIND = Rule("strength", "Is not strong enough",
    "A joint that its loads use to more than all of it, or of which something is not checked.", find,
    whole=lambda looked: looked.designed)  # fmt: skip
