"""What a kind of connection is: parameters that make their own form, what it fits, and what it builds."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import msgspec

from uncus.catalog.sections import Section
from uncus.frame.placement import Placement
from uncus.job.errors import JobError
from uncus.job.records import Connection, Member, ShopRules
from uncus.steel.joint import Contribution
from uncus.units import INCH


class About(msgspec.Struct, frozen=True):
    """What a form says of a parameter. `unit`: length, count, choice; None as value means by rule."""

    words: str
    unit: str = "length"
    low: float = 0.0
    high: float = 10_000.0
    choices: tuple[str, ...] = ()
    help: str = ""


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


def fields(params: type) -> dict[str, About]:
    """Each parameter of a kind with what its form says of it."""
    found = {}
    for name, hint in get_type_hints(params, include_extras=True).items():
        if get_origin(hint) is Annotated:
            found[name] = next(a for a in get_args(hint) if isinstance(a, About))
    return found


def checked(params: type, given: dict[str, Any]) -> Any:
    """The parameters of a kind from a record's values. Raises JobError naming the parameter and its limits."""
    about = fields(params)
    for name, value in given.items():
        if name not in about:
            raise JobError(f"There is no “{name}” to set here; there are {', '.join(a.words for a in about.values())}.")
        if value is None:
            continue
        a = about[name]
        if a.choices:
            if value not in a.choices:
                raise JobError(f"{a.words} must be one of {', '.join(a.choices)}; “{value}” is not.")
        elif isinstance(value, str) or not math.isfinite(value) or not a.low <= value <= a.high:
            span = f"{a.low:g} and {a.high:g}" + (" mm" if a.unit == "length" else "")
            raise JobError(f"{a.words} must lie between {span}; “{value}” does not.")
    try:
        return msgspec.convert(given, params)
    except msgspec.ValidationError as error:
        raise JobError(f"A value of this connection cannot be used: {error}.") from error


def up_to(value: float, imperial: bool, inch: float = 0.25, mm: float = 5.0) -> float:
    """Up to the next step a shop likes: a quarter inch or 5 mm unless said otherwise."""
    step = inch * INCH if imperial else mm
    return math.ceil(round(value / step, 6)) * step


def imperial(rules: ShopRules) -> bool:
    return not rules.bolt.startswith("M")
