"""Rolled sections and their look-up by any usual spelling."""

import csv
import difflib
import math
import re
from enum import StrEnum
from fractions import Fraction
from functools import cache
from importlib.resources import files

import msgspec
import numpy as np

from uncus.units import STEEL_DENSITY
from uncus.words import Unknown


class Form(StrEnum):
    """The shape of a section's outline, which decides its faces and symmetries."""

    I = "I"
    CHANNEL = "U"
    ANGLE = "L"
    TEE = "T"
    BOX = "BOX"
    TUBE = "TUBE"
    ROUND = "ROUND"
    FLAT = "FLAT"


class Section(msgspec.Struct, frozen=True, gc=False, cache_hash=True):
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

    @property
    def clear(self) -> float:
        """From the web's middle to where a flange lies flat: k1, or the fillet's own end where that is farther."""
        return max(self.k1, self.tw / 2 + self.r)

    @property
    def centroid(self) -> tuple[float, float]:
        """The centroid (y, z) from the middle of the bounding box, the fillet of an angle, tee or channel reckoned
        in."""
        if self.form not in (Form.ANGLE, Form.TEE, Form.CHANNEL):
            return 0.0, 0.0
        b, d, tw, tf, r = self.b, self.d, self.tw, self.tf, self.r
        fillet, at = (1 - math.pi / 4) * r * r, (10 - 3 * math.pi) / (12 - 3 * math.pi) * r
        match self.form:
            case Form.ANGLE:
                areas = ((tw * (d - tf), -b / 2 + tw / 2, tf / 2), (b * tf, 0.0, -d / 2 + tf / 2),
                         (fillet, -b / 2 + tw + at, -d / 2 + tf + at))  # fmt: skip
            case Form.TEE:
                areas = (
                    (tw * (d - tf), 0.0, -tf / 2),
                    (b * tf, 0.0, d / 2 - tf / 2),
                    (2 * fillet, 0.0, d / 2 - tf - at),
                )
            case _:
                areas = (
                    (tw * (d - 2 * tf), -b / 2 + tw / 2, 0.0),
                    (2 * b * tf, 0.0, 0.0),
                    (2 * fillet, -b / 2 + tw + at, 0.0),
                )
        total = sum(a for a, _, _ in areas)
        return sum(a * y for a, y, _ in areas) / total, sum(a * z for a, _, z in areas) / total

    @property
    def leg_gage(self) -> float:
        """The gage of an angle's upright leg or a tee's stem, from the heel or the flange's face."""
        return usual_gage(self.d)


# Usual gages in angle legs, in inches: leg, gage (AISC Manual table 1-7A)
_LEG_GAGES = ((1.0, 0.625), (1.5, 0.875), (2.0, 1.125), (2.5, 1.375), (3.0, 1.75), (3.5, 2.0), (4.0, 2.5), (5.0, 3.0),
              (6.0, 3.5), (7.0, 4.0), (8.0, 4.5))  # fmt: skip
# In mm: leg, gage (DIN 997, and as is usual past its legs)
ANGLE_GAGES = {20: 12, 25: 15, 30: 17, 35: 18, 40: 22, 45: 25, 50: 30, 60: 35, 65: 35, 70: 40, 75: 40, 80: 45, 90: 50,
    100: 55, 120: 65, 125: 70, 130: 75, 135: 75, 150: 80, 160: 90, 180: 100, 200: 110}  # fmt: skip


def in_millimetres(size: float) -> bool:
    """Whether a size was given in whole mm, and not in eighths of an inch."""
    whole, eighths = abs(size - round(size)), abs(size / 3.175 - round(size / 3.175))
    return whole < 1e-3 < eighths


def usual_gage(leg: float) -> float:
    """The gage of a single line of bolts in an angle leg of so many mm; between the table's legs in proportion, and in
    whole mm where the leg is."""
    if in_millimetres(leg):
        return float(round(np.interp(leg, list(ANGLE_GAGES), list(ANGLE_GAGES.values()))))
    inches = leg / 25.4
    legs, gages = zip(*_LEG_GAGES, strict=True)
    if inches >= legs[-1]:
        return float(gages[-1]) * 25.4
    at = max(1, min(len(legs) - 1, sum(1 for size in legs if size < inches)))
    share = (inches - legs[at - 1]) / (legs[at] - legs[at - 1])
    return 25.4 * float(max(0.4 * inches, gages[at - 1] + share * (gages[at] - gages[at - 1])))


class UnknownSection(Unknown):
    """A name that is in no family; the message names the nearest ones."""


_LONGEST = 60  # characters of a name
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


_FLATS = {
    "PL": 25.4,
    "FL": 1.0,
}  # how long a unit of their names is: inches, thickness first; mm, width first (EN 10058)
_WIDEST, _THICKEST, _THINNEST = 6000.0, 160.0, 2.0


def _flat(key: Key) -> Section | None:
    """A flat bar or a strip of plate of any size, `PL3/4X14` or `FL200X20`: its width upright, its thickness across."""
    family, sizes, suffix = key
    if family not in _FLATS or len(sizes) != 2 or suffix:
        return None
    width, thickness = (size * _FLATS[family] for size in (reversed(sizes) if family == "PL" else sizes))
    if not _THINNEST <= thickness <= _THICKEST or not thickness <= width <= _WIDEST:
        return None
    name = f"{family}{'X'.join(map(_spelled if family == 'PL' else _plain, sizes))}"
    area, zero = width * thickness, 0.0
    return Section(name, family, Form.FLAT, area * STEEL_DENSITY * 1000, area, width, thickness, thickness, zero, zero,
        zero, thickness / 2, width, zero, thickness * width**2 / 6)  # fmt: skip


def plate_section(thickness: float, width: float, imperial: bool) -> Section:
    """The strip that a plate so thick and wide is cut out of. Raises UnknownSection for one that no mill rolls."""
    sizes = (thickness / 25.4, width / 25.4) if imperial else (width, thickness)
    family = "PL" if imperial else "FL"
    written = f"{family}{'X'.join(_finely(size, imperial) for size in sizes)}"
    found = _flat((family, tuple(sizes), ""))
    if found is None:
        raise UnknownSection(
            f"There is no plate {written}: plates are {_THINNEST:g} to {_THICKEST:g} mm thick and up to "
            f"{_WIDEST / 1000:g} m wide, no narrower than they are thick."
        )
    return msgspec.structs.replace(found, name=written)


def _finely(size: float, imperial: bool) -> str:
    """A size as it is spelled, so that it is read again to a thousandth."""
    sixteenths = size * 16
    if imperial and abs(sixteenths - round(sixteenths)) < 0.008:
        return _spelled(size)
    return _plain(size)


_RODS = {"ROD": 25.4, "RD": 1.0}  # inches; mm (EN 10060)
_THICKEST_ROD, _THINNEST_ROD = 160.0, 8.0


def _rod(key: Key) -> Section | None:
    """A round bar of any size, `ROD3/4` or `RD20`."""
    family, sizes, suffix = key
    if family not in _RODS or len(sizes) != 1 or suffix:
        return None
    d = sizes[0] * _RODS[family]
    if not _THINNEST_ROD <= d <= _THICKEST_ROD:
        return None
    name = f"{family}{(_spelled if family == 'ROD' else _plain)(sizes[0])}"
    area, zero = math.pi / 4 * d**2, 0.0
    return Section(name, family, Form.ROUND, area * STEEL_DENSITY * 1000, area, d, d, d / 2, d / 2, zero, zero, d / 2,
        zero, zero, math.pi / 32 * d**3)  # fmt: skip


def _spelled(inches: float) -> str:
    whole, rest = divmod(round(inches * 16), 16)
    if abs(inches * 16 - round(inches * 16)) > 0.02:  # sizes are read to a thousandth
        return _plain(inches)
    part = str(Fraction(rest, 16)) if rest else ""
    return f"{whole}-{part}" if whole and part else part or str(whole)


def _plain(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".")


@cache
def section(name: str) -> Section:
    """The section of a name in any usual spelling; a flat of any size.

    Raises UnknownSection with the nearest names.
    """
    exact = sections().get(name)
    if exact is not None:
        return exact
    key = _key(name) if len(name) <= _LONGEST else None
    found = (_index().get(key) or _flat(key) or _rod(key)) if key else None
    if found is None:
        near = nearest(name) if len(name) <= _LONGEST else []
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
