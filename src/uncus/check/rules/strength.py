"""Joints that fail, or whose strength is not checked, as far as it is worked out by now."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.job.records import Connection


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    shop = looked.shop
    for c in looked.job.all(Connection):
        found = shop.strength(c.id) if shop.is_designed(c.id) else None
        if found is not None:
            yield Found("strength", (c.id,), found.text, found.severity, looked.middle(c.id), form_of(found.text))


KIND = Rule("strength", "Is not strong enough",
    "A joint that its loads use to more than all of it, or of which something is not checked.", find)  # fmt: skip
