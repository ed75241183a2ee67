"""What an inspection is given: the members, the shop's rules and what a joint brings."""

from __future__ import annotations

from functools import cached_property

import msgspec

from uncus.connect.buildable.blocks import Block, blocks_of
from uncus.connect.kind import Body, Placed
from uncus.job.records import ShopRules
from uncus.steel.joint import Contribution
from uncus.units import Units, length_in_words


class Site(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A joint as it stands in the steel."""

    placed: Placed
    made: Contribution

    @property
    def about(self) -> str:
        return self.placed.record.id

    @property
    def rules(self) -> ShopRules:
        return self.placed.rules

    @property
    def bodies(self) -> tuple[Body, ...]:
        return self.placed.bodies

    @property
    def units(self) -> Units:
        return self.placed.units

    def said(self, mm: float) -> str:
        return length_in_words(mm, self.units)

    @cached_property
    def blocks(self) -> list[Block]:
        return blocks_of(self.bodies, self.made)
