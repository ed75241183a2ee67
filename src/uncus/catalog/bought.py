"""Bought items: what comes as one piece from its maker, by code. Those that ship with the program are made up; they lie
in a folder of the same form that colleagues share (`reference.catalogue`)."""

from __future__ import annotations

import math
from functools import cache
from importlib.resources import files

import msgspec

from uncus.words import Unknown

BLACK = "black"
_LONGEST = {"code": 40, "maker": 80, "words": 80, "finish": 40, "note": 400}
_REACH = 30_000.0  # mm of an item's side view


class BoltHole(msgspec.Struct, frozen=True, omit_defaults=True):
    """A hole of an item's own through its foot: mm across and up from where it is fixed, and its diameter."""

    y: float
    z: float
    d: float


class Bought(msgspec.Struct, frozen=True, omit_defaults=True):
    """The facts of an item. Its axes: x out of what it is fixed to, y across, z up; x = 0 is its foot. One made from
    numbers has a `profile`, its side view as (out, up) in mm, and is `wide` across; others have a body of their own.
    `holes` go through its foot, `foot` mm thick there, for bolts of the size `bolt` (empty: it is welded on).
    `turns`: it may be set at other angles about x; `mirrors`: its mirror image is made too; `black`: it can be had
    without its finish."""

    code: str
    maker: str = ""
    words: str = ""
    kg: float = 0.0
    finish: str = ""
    profile: tuple[tuple[float, float], ...] = ()
    wide: float = 0.0
    holes: tuple[BoltHole, ...] = ()
    foot: float = 0.0
    bolt: str = ""
    turns: bool = True
    mirrors: bool = False
    black: bool = True
    note: str = ""

    def problem(self) -> str | None:
        """Why no such item can be kept."""
        for name, most in _LONGEST.items():
            if len(getattr(self, name)) > most:
                return f"The {name} of a bought item has at most {most} characters."
        if not self.code.strip() or not self.code.isprintable():
            return "A bought item needs a product code."
        if not 0 < self.kg <= 100_000:
            return f"The bought item {self.code} needs its weight."
        if self.profile and not 1.0 <= self.wide <= _REACH:
            return f"The bought item {self.code} needs to be between 1 mm and 30 m wide."
        if not all(abs(v) <= _REACH for p in self.profile for v in p) or not 0 <= self.foot <= 500:
            return f"The bought item {self.code} has a size that is out of reach."
        if self.profile and (len(self.profile) < 3 or area(self.profile) < 1.0):
            return f"The side view of the bought item {self.code} needs three corners that enclose something."
        if self.profile and not _is_simple(self.profile):
            return f"The side view of the bought item {self.code} crosses itself."
        if any(not (math.isfinite(h.y + h.z) and 1.0 <= h.d <= 500.0) for h in self.holes):
            return f"A hole of the bought item {self.code} is between 1 and 500 mm wide."
        return None


def area(ring: tuple[tuple[float, float], ...]) -> float:
    """mm2 within a ring."""
    pairs = zip(ring, ring[1:] + ring[:1], strict=True)
    return abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in pairs)) / 2


def _is_simple(ring: tuple[tuple[float, float], ...]) -> bool:
    import shapely

    return bool(shapely.Polygon(ring).is_valid)


def key_of(code: str) -> str:
    """A code as it is looked up."""
    return " ".join(code.split()).upper()


SHIPPED = "shipped"  # the catalogue that comes with the program, by its id


@cache
def bought_items() -> dict[str, Bought]:
    """Every item that ships, by its code."""
    folder = files(__package__) / "data" / "bought" / "items"
    found = {}
    for item in sorted(folder.iterdir(), key=lambda one: one.name):
        newest = max((f for f in item.iterdir() if f.name.endswith(".json")), key=lambda f: f.name)
        facts = msgspec.json.decode(newest.read_bytes(), type=Version).facts
        found[key_of(facts.code)] = facts
    return found


def bought(code: str) -> Bought:
    """An item that ships. Raises LookupError with the codes there are."""
    try:
        return bought_items()[key_of(code)]
    except KeyError:
        raise Unknown(f"There is no bought item “{code}”; there are {', '.join(bought_items())}.") from None


class Version(msgspec.Struct, frozen=True, omit_defaults=True):
    """One version of an item as a file holds it: its number, by whom and when it was made, of which version (`after`,
    its digest), what was changed in words, its facts, and the SHA-256 of its shape (IFC) and picture beside it
    and of its body, which the shape's file tells with its facts."""

    version: int
    facts: Bought
    after: str = ""
    by: str = ""
    on: str = ""
    what: str = ""
    shape: str = ""
    picture: str = ""
    body: str = ""
    format: str = "uncus bought item 1"
