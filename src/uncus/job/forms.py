"""Structs of values that make their own forms: what each field is called, measured in, limited to and good for."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cache
from typing import Annotated, Any, get_args, get_origin, get_type_hints

import msgspec

from uncus.catalog.sections import section
from uncus.job.errors import JobError
from uncus.units import (
    Units,
    format_angle,
    format_force,
    format_moment,
    format_stress,
    format_typed,
    format_weight,
    parse_angle,
    parse_force,
    parse_length,
    parse_lengths,
    parse_moment,
    parse_stress,
    parse_weight,
)

FLAGS = ("yes", "no")
_MEASURES: dict[str, tuple[Callable[[str, Units], float], Callable[[float, Units], str]]] = {
    "length": (parse_length, format_typed),
    "force": (parse_force, format_force),
    "moment": (parse_moment, format_moment),
    "stress": (parse_stress, format_stress),
    "weight": (parse_weight, format_weight),
}

_SAID_IN = {"length": " mm", "lengths": " mm", "weight": " kg"}


class About(msgspec.Struct, frozen=True):
    """What a form says of a field. `unit`: length, lengths, count, share, force, moment, stress, weight, flag, angle,
    choice, section, item, spacings, text; a field that may be None is worked out by rule where it is left empty.
    `only`: the name of another field, and those of its values with which this one counts for anything."""

    words: str
    unit: str = "length"
    low: float = 0.0
    high: float = 10_000.0
    choices: tuple[str, ...] = ()
    help: str = ""
    only: tuple[str, ...] = ()

    def counts(self, values: object) -> bool:
        """Whether the field means something beside the others that a struct has now."""
        return not self.only or str(getattr(values, self.only[0])) in self.only[1:]


def fields(params: type) -> dict[str, About]:
    """Each parameter of a kind with what its form says of it."""
    return _fields(params)


@cache
def _fields(params: type) -> dict[str, About]:
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
        if problem := problem_of_value(about[name], value):
            raise JobError(problem)
    try:
        return msgspec.convert(given, params)
    except msgspec.ValidationError as error:
        raise JobError(f"A value of this connection cannot be used: {error}.") from error


def problem_of_value(a: About, value: Any) -> str | None:
    """Why a field cannot have a value, as a sentence."""
    if value is None or (a.unit in ("spacings", "text", "item") and isinstance(value, str)):
        return None
    if a.unit == "section" and isinstance(value, str):
        try:
            section(value)
        except LookupError as error:
            return f"{a.words}: {error}"
        return None
    if a.choices:
        said = f"{a.words} must be one of {', '.join(a.choices)}; “{value}” is not."
        return None if value in a.choices else said
    values = value if a.unit == "lengths" and isinstance(value, (tuple, list)) else (value,)
    if not all(isinstance(v, (int, float)) and math.isfinite(v) and a.low <= v <= a.high for v in values):
        span = f"{a.low:g} and {a.high:g}" + _SAID_IN.get(a.unit, "")
        return f"{a.words} must lie between {span}; “{value}” does not."
    return None


def problem_of(record: Any) -> str | None:
    """The first of a struct's fields whose value it cannot have, as a sentence."""
    return next(
        (p for name, a in fields(type(record)).items() if (p := problem_of_value(a, getattr(record, name)))), None
    )


def shown_value(about: About, value: Any, units: Units) -> str:
    """A field's value as it is shown and typed; empty where it is left to the rule."""
    if value is None:
        return ""
    if about.unit in _MEASURES:
        return _MEASURES[about.unit][1](value, units)
    if about.unit == "flag":
        return FLAGS[not value]
    if about.unit == "lengths":
        return ", ".join(format_typed(v, units) for v in value)
    if about.unit == "share":
        return f"{value * 100:g} %"
    return format_angle(value) if about.unit == "angle" else str(value)


def typed_value(about: About, text: str, units: Units) -> Any:
    """The value of what was typed into a field. Raises UnitError, UnknownSection or JobError with a sentence."""
    text = text.strip()
    if about.choices:
        return text
    if about.unit == "flag":
        return text == FLAGS[0]
    if about.unit in _MEASURES:
        return _MEASURES[about.unit][0](text, units)
    match about.unit:
        case "lengths":
            return tuple(parse_lengths(text, units))
        case "share":
            return _share(about, text)
        case "angle":
            return parse_angle(text)
        case "section":
            return section(text).name
        case "spacings":
            parse_lengths(text, units)
            return text
        case "text" | "item":
            return text
    try:
        return int(text)
    except ValueError:
        raise JobError(f"{about.words} is a whole number; “{text}” is not.") from None


def _share(about: About, text: str) -> float:
    try:
        return float(text.rstrip("% ")) / 100
    except ValueError:
        raise JobError(f"{about.words} is a share in percent; “{text}” is not.") from None
