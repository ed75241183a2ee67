"""Bolts, washers, nuts, holes and anchor rods.

Holes and edges: AISC 360-22 tables J3.3 and J3.4 (inch), EN 1090-2 table 11 and EN 1993-1-8 table 3.3 (metric).
Heads, nuts and threads: ASME B18.2.6 heavy hex (inch), ISO 4014/4032 (metric); washers F436, ISO 7089.
Clearances to enter and turn: AISC Manual table 7-15, C2 and C1 (inch); sockets of ISO 2725-2 (metric).
"""

import bisect
import csv
import math
from enum import StrEnum
from functools import cache
from importlib.resources import files
from typing import TypeVar

import msgspec

from uncus.units import INCH, STEP_PLACES
from uncus.words import Unknown


class HoleKind(StrEnum):
    STANDARD = "standard"
    OVERSIZE = "oversize"
    SHORT_SLOT = "short slot"
    LONG_SLOT = "long slot"


class BoltSize(msgspec.Struct, frozen=True):
    """One bolt size; mm. `head_flats` is across flats, `allowance` is added to the grip (washers apart), `thread` is
    the thread's length, `enter` and `turn` what must be free about its axis to put it in and to turn its nut."""

    name: str
    system: str
    d: float
    hole: float
    oversize: float
    short_slot: float
    long_slot: float
    edge: float
    head_flats: float
    head_height: float
    nut_height: float
    washer_od: float
    washer_t: float
    allowance: float
    thread: float
    enter: float
    turn: float

    def hole_size(self, kind: HoleKind) -> tuple[float, float]:
        """Diameter (or slot width) and overall slot length (0 for a round hole)."""
        return {
            HoleKind.STANDARD: (self.hole, 0.0),
            HoleKind.OVERSIZE: (self.oversize, 0.0),
            HoleKind.SHORT_SLOT: (self.hole, self.short_slot),
            HoleKind.LONG_SLOT: (self.hole, self.long_slot),
        }[kind]


T = TypeVar("T")


def table(file: str, kind: type[T], plain: tuple[str, ...] = ()) -> dict[str, T]:
    """A data file's rows by name, inches turned to mm; `plain` columns are no lengths."""
    with (files(__package__) / "data" / file).open(encoding="utf-8") as source:
        rows = list(csv.DictReader(source))
    sizes = {}
    for row in rows:
        scale = INCH if row["system"] == "inch" else 1.0
        sizes[row["name"]] = msgspec.convert(
            {k: v if k in ("name", "system") else float(v) * (1.0 if k in plain else scale) for k, v in row.items()},
            kind,
        )
    return sizes


@cache
def bolt_sizes() -> dict[str, BoltSize]:
    """Every size by name (`3/4`, `M20`), smallest first within each system."""
    return table("bolts.csv", BoltSize)


def bolt_size(name: str) -> BoltSize:
    """Raises LookupError with the sizes there are."""
    try:
        return bolt_sizes()[name.strip().upper().rstrip('"')]
    except KeyError:
        raise Unknown(f"There is no bolt size “{name}”; there are {', '.join(bolt_sizes())}.") from None


_METRIC_LENGTHS = [*range(30, 80, 5), *range(80, 200, 10), *range(200, 401, 20)]


def bolt_length(size: BoltSize, grip: float, washers: int = 1) -> float:
    """Ordered length for a grip: grip + washers + allowance, up to the next 1/4 in or stock length."""
    wanted = grip + washers * size.washer_t + size.allowance
    if size.system == "inch":
        return math.ceil(round(wanted / (INCH / 4), STEP_PLACES)) * INCH / 4
    at = bisect.bisect_left(_METRIC_LENGTHS, wanted - 1e-6)
    return float(_METRIC_LENGTHS[min(at, len(_METRIC_LENGTHS) - 1)])


LONGEST = {"inch": 10 * INCH, "metric": 200.0}  # what is kept in stock


def thread_length(size: BoltSize, length: float) -> float:
    """How much of a bolt is threaded (ISO 4014: longer bolts have 6 or 19 mm more)."""
    more = 0.0 if size.system == "inch" or length <= 125 else 6.0 if length <= 200 else 19.0
    return min(size.thread + more, length)


# tensile stress areas, mm2 (ISO 898-1)
_STRESS_AREAS = {"M12": 84.3, "M16": 157.0, "M20": 245.0, "M24": 353.0, "M27": 459.0, "M30": 561.0, "M36": 817.0}


def stress_area(size: BoltSize) -> float:
    """Tensile stress area; of an inch bolt three quarters of its body's."""
    return _STRESS_AREAS.get(size.name, 0.75 * math.pi / 4 * size.d**2)


def stud_diameter(name: str) -> float:
    """A shear stud's shank in mm: `3/4` or `19 mm`."""
    if name.endswith("mm"):
        return float(name.split()[0])
    over, under = name.split("/")
    return INCH * int(over) / int(under)


class RodSize(msgspec.Struct, frozen=True):
    """An anchor rod: its hole in a base plate (AISC Manual table 14-2; metric d + 8 to 10), plate washer and usual
    length; mm."""

    name: str
    system: str
    d: float
    hole: float
    washer: float
    washer_t: float
    length: float


@cache
def rod_sizes() -> dict[str, RodSize]:
    """Every rod by name, smallest first within each system."""
    return table("rods.csv", RodSize)
