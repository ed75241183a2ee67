"""What bills go by: templates of lists, lists as they were sent, what is ordered ahead, stock and what is left of it,
loads that are shipped."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.job.forms import About
from uncus.job.record import Record
from uncus.units import Units

LARGEST = 60_000.0  # mm that any stock is long
_MOST_COLUMNS, _MOST_WORDS = 40, 500


class ListColumn(msgspec.Struct, frozen=True, omit_defaults=True):
    """A column: `what` it shows is a fact of the list's rows, or a formula of them; its own head, or the fact's;
    whether it is added up."""

    what: str
    words: str = ""
    total: bool = False


class SortBy(msgspec.Struct, frozen=True, omit_defaults=True):
    """What rows are sorted by, from the least on or from the greatest."""

    what: str
    falling: bool = False


class ListTemplate(Record, frozen=True, tag=True, omit_defaults=True):
    """A list as an office wants it: what its rows are `of`, its columns, what they are grouped and sorted by, the
    lens that lets pieces through, the `heading` of the office's own that it is filed under, and what stands over and
    under it."""

    name: str
    of: str
    columns: tuple[ListColumn, ...]
    group: tuple[str, ...] = ()
    sort: tuple[SortBy, ...] = ()
    lens: str = ""
    heading: str = ""
    title: str = ""
    notes: tuple[str, ...] = ()
    office: str = ""
    logo: str = ""  # an SVG of outlines
    landscape: bool = False

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A list needs a name."
        if not self.columns:
            return f"List “{self.name}” needs a column at least."
        if len(self.columns) > _MOST_COLUMNS:
            return f"List “{self.name}” has {_MOST_COLUMNS} columns at most."
        if any(not c.what.strip() for c in self.columns):
            return f"List “{self.name}” has a column that shows nothing."
        if len(self.notes) > _MOST_WORDS:
            return f"List “{self.name}” has {_MOST_WORDS} lines of notes at most."
        return None


class Stood(msgspec.Struct, frozen=True, omit_defaults=True):
    """A part as it stood when it was told: who it is, whatever it is called; lengths in mm, weight in kg, gross.
    `place` is, of a member's own length, where its work line begins, its x and its z, and where the line ends (model),
    `form` the fingerprint of what it is in itself, `ordered` the length under its `advance` mark."""

    id: str
    owner: str
    mark: str
    section: str
    grade: str
    length: float
    kg: float
    finish: str = ""
    lot: str = ""
    role: str = ""
    advance: str = ""
    ordered: float = 0.0
    place: tuple[float, ...] = ()
    form: str = ""


class KeptList(Record, frozen=True, tag=True, omit_defaults=True):
    """A list as it was sent: its table as it was printed, and the parts it told of."""

    name: str
    on: str
    title: str = ""
    heads: tuple[str, ...] = ()
    measures: tuple[str, ...] = ()  # what each column is measured in, and whether it is added up
    totals: tuple[bool, ...] = ()
    rows: tuple[tuple[str | int | float, ...], ...] = ()
    groups: tuple[tuple[str, int, int], ...] = ()
    parts: tuple[Stood, ...] = ()

    def problem(self) -> str | None:
        if not self.name.strip() or not self.on:
            return "A kept list needs a name and a date."
        wide = {len(self.heads), len(self.measures), len(self.totals), *map(len, self.rows)}
        return None if len(wide) == 1 else f"Kept list “{self.name}” has rows that are not as wide as its heads."


class Allowance(msgspec.Struct, frozen=True, omit_defaults=True):
    """What is ordered beyond the length of what is of some sections: `section` is how their names begin ("": all)."""

    section: str = ""
    more: float = 0.0  # mm, always
    mitre: float = 0.0  # mm, for each end that is not square
    camber: float = 0.0  # mm, where it is cambered
    share: float = 0.0  # of the length, that the mill may be short by


class AdvanceRules(Record, frozen=True, tag=True, omit_defaults=True):
    """How lengths are ordered ahead: longer by what is allowed, then up to a round figure. Of several allowances that
    fit a section that with the longest name counts."""

    id: str = "advance rules"
    step: Annotated[
        float, About("Round up to", low=0.0, high=1000.0, help="Lengths ordered are whole steps; 0: none")
    ] = 25.4
    allowances: tuple[Allowance, ...] = (Allowance(more=25.4, mitre=12.7, camber=12.7),)
    without: Annotated[str, About("Not yet to be bought", "text", help="What this lens lets through is left out")] = ""

    def problem(self) -> str | None:
        if not 0.0 <= self.step <= 1000.0:
            return "Lengths are rounded up to steps of a metre (40 inches) at most."
        for a in self.allowances:
            if not all(0.0 <= n <= 2000.0 for n in (a.more, a.mitre, a.camber)) or not 0.0 <= a.share <= 0.1:
                return f"What is allowed on “{a.section or 'all sections'}” is no length, or more than a tenth of it."
        return None


class StockLength(msgspec.Struct, frozen=True, omit_defaults=True):
    """A length that bars can be had in: of which sections (how their names begin; "": all), of what grade ("": any),
    how many there are (0: as many as are wanted), and what it costs (0: by its weight)."""

    length: float
    section: str = ""
    grade: str = ""
    number: int = 0
    price: float = 0.0


class PlateSize(msgspec.Struct, frozen=True, omit_defaults=True):
    """A size that plates can be had in, of what thickness (0: any) and grade ("": any), and how many (0: any)."""

    long: float
    wide: float
    thickness: float = 0.0
    grade: str = ""
    number: int = 0


_FEET_20, _FEET_40, _FEET_60 = 6096.0, 12192.0, 18288.0


class StockRules(Record, frozen=True, tag=True, omit_defaults=True):
    """What bars and plates are cut from, and how."""

    id: str = "stock rules"
    lengths: tuple[StockLength, ...] = (StockLength(_FEET_20), StockLength(_FEET_40), StockLength(_FEET_60))
    plates: tuple[PlateSize, ...] = (PlateSize(6096.0, 2438.4), PlateSize(3048.0, 1524.0))
    kerf: Annotated[float, About("Kerf of the saw", low=0.0, high=50.0)] = 3.175
    trim: Annotated[float, About("Trimmed off the first end", low=0.0, high=500.0)] = 12.7
    grip: Annotated[float, About("Held by the saw at the other end", low=0.0, high=2000.0)] = 0.0
    most: Annotated[
        int, About("Pieces a bar at most", "count", low=0, high=500, help="0: as many as there is room for")
    ] = 0
    mitres: Annotated[bool, About("Mitres laid head to tail", "flag")] = True
    by_lot: Annotated[bool, About("Each lot by itself", "flag")] = False
    kept: Annotated[float, About("Offcuts kept from", low=0.0, high=20_000.0, help="Shorter ones are scrap")] = 914.4
    gap: Annotated[float, About("Between plates", low=0.0, high=100.0)] = 9.525
    margin: Annotated[float, About("From a sheet's edge", low=0.0, high=200.0)] = 12.7
    turns: Annotated[int, About("Ways a plate may be turned", "count", low=1, high=16)] = 4
    inside: Annotated[bool, About("Small plates inside openings", "flag")] = True

    def problem(self) -> str | None:
        if not all(100.0 <= s.length <= LARGEST and s.number >= 0 and s.price >= 0.0 for s in self.lengths):
            return (
                f"Stock is between 100 mm and {LARGEST / 1000:.0f} m long; its number and price are none below nothing."
            )
        if not all(
            min(p.long, p.wide) >= 50.0 and max(p.long, p.wide) <= LARGEST and p.number >= 0 for p in self.plates
        ):
            return "A plate's size is two lengths from 50 mm on, and how many there are."
        cuts = (self.kerf, self.trim, self.grip, self.kept, self.gap, self.margin)
        if not all(0.0 <= n <= 20_000.0 for n in cuts) or self.most < 0 or not 1 <= self.turns <= 16:
            return "Kerf, trim, grip, gaps and margins are lengths; a plate may be turned in 1 to 16 ways."
        return None


class Offcut(Record, frozen=True, tag=True, omit_defaults=True):
    """What was left of a bar or plate and lies in the shop, under a mark of its own; `wide` and `thickness` are of
    plates. `used` names the nest that took it."""

    mark: str
    section: str
    grade: str
    length: float
    wide: float = 0.0
    thickness: float = 0.0
    of: str = ""
    used: str = ""

    def problem(self) -> str | None:
        if not self.mark.strip():
            return "An offcut needs a mark, or nobody finds it."
        return None if 0.0 < self.length <= LARGEST else f"Offcut {self.mark} has no length."


class Load(Record, frozen=True, tag=True, omit_defaults=True):
    """What rides together on a truck: the pieces that are shipped, and what it takes at most (kg, mm; 0: not said)."""

    name: str
    pieces: tuple[str, ...] = ()
    most_kg: float = 20_000.0
    most_length: float = 12_192.0
    on: str = ""

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A load needs a name."
        if len(set(self.pieces)) != len(self.pieces):
            return f"Load “{self.name}” has a piece twice."
        return None if self.most_kg >= 0.0 <= self.most_length else f"Load “{self.name}” takes no less than nothing."


def usual_stock(units: Units) -> StockRules:
    """What stock there usually is, in round figures of the job's units."""
    if units is Units.IMPERIAL:
        return StockRules()
    return StockRules(
        lengths=(StockLength(6000.0), StockLength(12000.0), StockLength(15000.0)),
        plates=(PlateSize(6000.0, 2000.0), PlateSize(3000.0, 1500.0)),
        kerf=3.0,
        trim=10.0,
        kept=1000.0,
        gap=10.0,
        margin=10.0,
    )


def usual_advance(units: Units) -> AdvanceRules:
    """What is usually allowed on lengths that are ordered ahead, in round figures of the job's units."""
    if units is Units.IMPERIAL:
        return AdvanceRules()
    return AdvanceRules(step=10.0, allowances=(Allowance(more=20.0, mitre=15.0, camber=15.0),))
