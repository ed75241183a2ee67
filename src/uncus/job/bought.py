"""Bought items as a job has them: a copy of the version it uses, with its body."""

from __future__ import annotations

from functools import cache

import msgspec

from uncus.catalog.bought import SHIPPED, Bought, bought_items, key_of
from uncus.job.record import Record, derived_id

_MOST = 4_000_000  # bytes of a body
_PICTURE = 400_000  # bytes of a picture


class BoughtItem(Record, frozen=True, tag=True):
    """An item that this job uses: its facts, its body (`steel.bodies`; empty where it is made from numbers), the
    catalogue's id and the digest of the version it is a copy of."""

    facts: Bought
    version: int = 1
    catalogue: str = ""
    digest: str = ""
    body: bytes = b""
    picture: bytes = b""

    @classmethod
    def named(cls, code: str) -> str:
        """The id of the item with a code: one a job."""
        return derived_id("bought", key_of(code))

    @property
    def code(self) -> str:
        return self.facts.code

    def problem(self) -> str | None:
        if len(self.body) > _MOST or len(self.picture) > _PICTURE:
            return f"The bought item {self.facts.code} has a body or picture that is too large; take a plainer one."
        if not self.body and not self.facts.profile:
            return f"The bought item {self.facts.code} has no shape: give its side view, or a body."
        if self.id != self.named(self.facts.code):
            return f"The bought item {self.facts.code} is kept under another code."
        return self.facts.problem()


@cache
def shipped_item(code: str) -> BoughtItem | None:
    """An item that ships with the program, for jobs that name one and keep no copy."""
    facts = bought_items().get(key_of(code))
    return BoughtItem(id=BoughtItem.named(facts.code), facts=facts, catalogue=SHIPPED) if facts else None


class Placed(msgspec.Struct, frozen=True, omit_defaults=True):
    """What makes a member a bought item: its code, whether it is the mirror image, and ordered black."""

    code: str
    mirrored: bool = False
    black: bool = False
