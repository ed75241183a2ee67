"""What a kind of connection is: parameters that make their own form, what it fits, and what it builds."""

from __future__ import annotations

import math
from collections.abc import Callable

import msgspec

from uncus.catalog.sections import Section
from uncus.frame.placement import Placement
from uncus.job.records import Connection, Member, ShopRules
from uncus.steel.joint import Contribution
from uncus.units import INCH


class Body(msgspec.Struct, frozen=True, eq=False):
    """A member as a connection sees it: its record, section and frame (origin at the left work point)."""

    record: Member
    section: Section
    frame: Placement

    @property
    def id(self) -> str:
        return self.record.id

    @property
    def words(self) -> str:
        return f"{self.record.role} {self.record.section}"


class Joint(msgspec.Struct, frozen=True, eq=False):
    """What `build` is given: the record, the members it joins and the shop's rules."""

    record: Connection
    member: Body
    support: Body | None
    rules: ShopRules


class Kind(msgspec.Struct, frozen=True):
    """A kind of connection: `needs_support` says whether it joins two members or one to the ground."""

    name: str
    words: str
    params: type
    needs_support: bool
    build: Callable[[Joint], Contribution]
    help: str = ""


def up_to(value: float, imperial: bool, inch: float = 0.25, mm: float = 5.0) -> float:
    """Up to the next step a shop likes: a quarter inch or 5 mm unless said otherwise."""
    step = inch * INCH if imperial else mm
    return math.ceil(round(value / step, 6)) * step


def imperial(rules: ShopRules) -> bool:
    return not rules.bolt.startswith("M")
