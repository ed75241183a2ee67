"""Columns that are worked out from others: plus, minus, times, divided, brackets, `sum(...)` and `count(...)` over the
rows of a group. Parsed, never run; what it is measured in follows from what goes into it."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence

import msgspec

from uncus.bill.table import Cell, Column, Unit
from uncus.job.errors import JobError

_TOKEN = re.compile(r"\s*(?:(\d+(?:\.\d+)?)|([A-Za-z][A-Za-z0-9 ,]*)|([-+*/()]))")
_DEEPEST, _LONGEST = 40, 300
_SIGNS = frozenset("+-*/(")
Row = Mapping[str, Cell]
Dims = tuple[int, int]  # powers of length and of weight
_DIMS = {Unit.COUNT: (0, 0), Unit.LENGTH: (1, 0), Unit.WEIGHT: (0, 1)}


class Value(msgspec.Struct, frozen=True):
    """Something that has a number in each row (None: nothing there), among the rows of its group."""

    read: Callable[[Row, Sequence[Row]], float | None]
    dims: Dims


def is_formula(text: str) -> bool:
    """Whether a column says how it is worked out, not merely what it shows."""
    return any(c in text for c in _SIGNS)


def formula(text: str, facts: Mapping[str, Column]) -> tuple[Value, Unit]:
    """What a formula comes to and what it is measured in. Raises JobError with where it cannot be read."""
    if len(text) > _LONGEST:
        raise JobError(f"A formula has {_LONGEST} letters at most.")
    reader = _Reader(text, facts)
    value = reader.sum(0)
    reader.end()
    unit = next((u for u, dims in _DIMS.items() if dims == value.dims), Unit.NUMBER)
    return value, Unit.NUMBER if unit is Unit.COUNT else unit


class _Reader:
    def __init__(self, text: str, facts: Mapping[str, Column]) -> None:
        self.text, self.facts, self.at = text, facts, 0
        self.tokens: list[tuple[str, str]] = []
        at = 0
        while text[at:].strip():
            match = _TOKEN.match(text, at)
            if match is None:
                raise JobError(f"“{text}” cannot be read from “{text[at:].strip()[:20]}” on.")
            kind = "number" if match[1] else "name" if match[2] else "sign"
            self.tokens.append((kind, (match[1] or match[2] or match[3]).strip()))
            at = match.end()

    def _peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "")

    def _take(self) -> tuple[str, str]:
        found = self._peek()
        self.at += 1
        return found

    def end(self) -> None:
        if self._peek()[0] != "end":
            raise JobError(f"“{self.text}” goes on with “{self._peek()[1]}” where it should end.")

    def sum(self, deep: int) -> Value:
        if deep > _DEEPEST:
            raise JobError("A formula is nested too deeply; use fewer brackets.")
        value = self._product(deep)
        while self._peek() in (("sign", "+"), ("sign", "-")):
            minus = self._take()[1] == "-"
            value = self._added(value, self._product(deep), minus)
        return value

    def _added(self, a: Value, b: Value, minus: bool) -> Value:
        if a.dims != b.dims:
            raise JobError(f"“{self.text}” adds what is not measured alike, such as a length and a weight.")
        return Value(_both(a, b, (lambda x, y: x - y) if minus else (lambda x, y: x + y)), a.dims)

    def _product(self, deep: int) -> Value:
        value = self._factor(deep)
        while self._peek() in (("sign", "*"), ("sign", "/")):
            over = self._take()[1] == "/"
            other = self._factor(deep)
            way = -1 if over else 1
            dims = (value.dims[0] + way * other.dims[0], value.dims[1] + way * other.dims[1])
            value = Value(_both(value, other, _divided if over else (lambda x, y: x * y)), dims)
        return value

    def _factor(self, deep: int) -> Value:
        kind, word = self._take()
        if kind == "number":
            number = float(word)
            return Value(lambda row, group: number, (0, 0))
        if (kind, word) == ("sign", "-"):
            of = self._factor(deep + 1) if deep < _DEEPEST else self.sum(deep + 1)
            return Value(lambda row, group: None if (x := of.read(row, group)) is None else -x, of.dims)
        if (kind, word) == ("sign", "("):
            return self._closed(self.sum(deep + 1))
        if kind == "name" and self._peek() == ("sign", "("):
            return self._over_group(word, deep)
        if kind == "name":
            return self._fact(word)
        raise JobError(f"“{self.text}” ends or goes on with “{word}” where a number or a fact should stand.")

    def _closed(self, value: Value) -> Value:
        if self._take() != ("sign", ")"):
            raise JobError(f"“{self.text}” opens a bracket that it does not close.")
        return value

    def _over_group(self, name: str, deep: int) -> Value:
        self._take()
        if name == "count":
            return self._counted()
        if name != "sum":
            raise JobError(f"“{name}” is not known; a formula may ask for sum(...) and count(...).")
        of = self._closed(self.sum(deep + 1))
        return Value(lambda row, group: sum(of.read(one, group) or 0.0 for one in group), of.dims)

    def _counted(self) -> Value:
        """How many different values a fact has in the group; of nothing, how many rows there are."""
        if self._peek() == ("sign", ")"):
            self._take()
            return Value(lambda row, group: float(len(group)), (0, 0))
        kind, name = self._take()
        if kind != "name" or name not in self.facts:
            raise JobError(f"“{self.text}” counts “{name}”, which these rows do not have.")
        self._closed(Value(lambda row, group: None, (0, 0)))
        return Value(lambda row, group: float(len({one.get(name) for one in group})), (0, 0))

    def _fact(self, name: str) -> Value:
        column = self.facts.get(name)
        if column is None:
            near = ", ".join(sorted(n for n, c in self.facts.items() if c.unit is not Unit.TEXT))
            raise JobError(f"“{name}” is no fact of these rows; numbers are {near}.")
        if column.unit not in _DIMS:
            raise JobError(f"“{name}” is words, which cannot be reckoned with.")
        return Value(lambda row, group: _number(row.get(name)), _DIMS[column.unit])


def _number(cell: Cell | None) -> float | None:
    return float(cell) if isinstance(cell, int | float) else None


def _divided(x: float, y: float) -> float | None:
    return x / y if y else None


def _both(
    a: Value, b: Value, work: Callable[[float, float], float | None]
) -> Callable[[Row, Sequence[Row]], float | None]:
    def read(row: Row, group: Sequence[Row]) -> float | None:
        x, y = a.read(row, group), b.read(row, group)
        return None if x is None or y is None else work(x, y)

    return read
