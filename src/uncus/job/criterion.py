"""A criterion on pieces as a tree: facts, and how they are put together."""

from __future__ import annotations

import msgspec


class Fact(msgspec.Struct, frozen=True, tag=True):
    """One row of a lens: a fact of a piece, a relation and the value it is held against."""

    fact: str
    relation: str
    value: str = ""


class Not(msgspec.Struct, frozen=True, tag=True):
    of: Rule


class Both(msgspec.Struct, frozen=True, tag=True):
    """Every one of these holds; of none, all do."""

    of: tuple[Rule, ...] = ()


class Either(msgspec.Struct, frozen=True, tag=True):
    """At least one of these holds."""

    of: tuple[Rule, ...] = ()


Rule = Fact | Not | Both | Either
