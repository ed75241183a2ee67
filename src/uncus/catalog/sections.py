"""Rolled sections and their look-up by any usual spelling."""

import csv
import difflib
import re
from enum import StrEnum
from fractions import Fraction
from functools import cache
from importlib.resources import files

import msgspec


class Form(StrEnum):
    """The shape of a section's outline, which decides its faces and symmetries."""

    I = "I"
    CHANNEL = "U"
    ANGLE = "L"
    TEE = "T"
    BOX = "BOX"
    TUBE = "TUBE"


class Section(msgspec.Struct, frozen=True):
    """A rolled section; mm, mm2, mm3, kg/m. `k`, `k1`, `T` are detailing values, `r` the fillet."""

    name: str
    family: str
    form: Form
    kg_m: float
    area: float
    d: float
    b: float
    tw: float
    tf: float
    r: float
    k: float
    k1: float
    T: float
    gage: float
    sx: float

    @property
    def flanged(self) -> bool:
        return self.form in (Form.I, Form.CHANNEL)


class UnknownSection(LookupError):
    """A name that is in no family; the message names the nearest ones."""


_SIZE = r"(?:\d+[-\s]\d+/\d+|\d+/\d+|\d+\.\d*|\.\d+|\d+)"
Key = tuple[str, tuple[float, ...], str]


def _value(size: str) -> float:
    whole, _, rest = re.sub(r"\s", "-", size).rpartition("-")
    return float(Fraction(rest)) + (float(whole) if whole else 0.0)


def _key(text: str) -> Key | None:
    """Letters, sizes and suffix of a spelling: `hss 6 x 6 x .25` and `HSS6X6X1/4` give the same."""
    text = re.sub(r"\s*[X×*]\s*(?=[\d.])", "X", text.strip().upper().replace("–", "-"))
    match = re.fullmatch(rf"([A-Z]+)\s*({_SIZE}(?:X{_SIZE})*)\s*([A-Z]*)", text)
    if not match:
        return None
    family, sizes, suffix = match.groups()
    if family == "HE" and suffix in {"A", "B", "M"}:
        family, suffix = "HE" + suffix, ""
    if family == "P" or (family == "PIPE" and not suffix):
        family, suffix = "PIPE", suffix or "STD"
    if any(part.endswith("/0") for part in re.split(r"[X\s-]", sizes)):
        return None
    return family, tuple(round(_value(size), 3) for size in sizes.split("X")), suffix


@cache
def sections() -> dict[str, Section]:
    """Every section by its own name, in the order of the data file."""
    with (files(__package__) / "data" / "sections.csv").open(encoding="utf-8") as source:
        rows = list(csv.DictReader(source))
    return {row["name"]: msgspec.convert(row, Section, strict=False) for row in rows}


@cache
def _index() -> dict[Key, Section]:
    index: dict[Key, Section] = {}
    for section in sections().values():
        key = _key(section.name)
        if key is None:
            raise ValueError(f"sections.csv: {section.name} cannot be read as a section's name")
        index[key] = section
    return index


@cache
def section(name: str) -> Section:
    """The section of a name in any usual spelling.

    Raises UnknownSection with the nearest names.
    """
    exact = sections().get(name)
    if exact is not None:
        return exact
    key = _key(name)
    found = _index().get(key) if key else None
    if found is None:
        near = nearest(name)
        hint = f" Nearest: {', '.join(near)}." if near else " Type one like W12X26, HSS6X6X1/4 or IPE200."
        raise UnknownSection(f"There is no section “{name}” in the catalogue.{hint}")
    return found


def nearest(name: str, count: int = 4) -> list[str]:
    """The names most like a spelling: of the same family and near in size first."""
    key = _key(name)
    if key and any(key[0] == other[0] for other in _index()):
        kin = [(k, s) for k, s in _index().items() if k[0] == key[0]]

        def away(item: tuple[Key, Section]) -> tuple[float, ...]:
            sizes = item[0][1]
            weighed = zip(sizes, key[1], strict=False)
            return abs(len(sizes) - len(key[1])), *(abs(a - b) for a, b in weighed), item[1].kg_m

        return [s.name for _, s in sorted(kin, key=away)[:count]]
    wanted = re.sub(r"\s+", "", name.upper())
    return difflib.get_close_matches(wanted, sections().keys(), n=count, cutoff=0.5)
