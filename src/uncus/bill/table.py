"""A list as a plain table that any writer prints."""

from __future__ import annotations

from enum import StrEnum

import msgspec


class Unit(StrEnum):
    TEXT = "text"
    COUNT = "count"
    NUMBER = "number"
    LENGTH = "length"
    WEIGHT = "weight"
    AREA = "area"


class Column(msgspec.Struct, frozen=True):
    words: str
    unit: Unit
    total: bool = False


Cell = str | int | float


class Subtotal(msgspec.Struct, frozen=True):
    """A stretch of rows that belong together, and what they have in common, in words."""

    words: str
    first: int
    last: int  # the row after


class Table(msgspec.Struct, frozen=True):
    """A list: lengths in mm, weights in kg and areas in m2, turned to the job's units only when written. `groups` are
    stretches of its rows that are added up by themselves."""

    name: str
    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]
    groups: tuple[Subtotal, ...] = ()
    notes: tuple[str, ...] = ()
    office: str = ""
    heading: str = ""
    landscape: bool = False
    logo: str = ""


def total(table: Table, column: int, first: int = 0, last: int | None = None) -> float:
    """What a column's rows come to."""
    cells = (row[column] for row in table.rows[first:last])
    return sum(cell for cell in cells if isinstance(cell, int | float))
