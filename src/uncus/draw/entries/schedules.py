"""Schedules of the erection set, as far as its rules ask for them: columns, site bolts, site welds, lots."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any

import numpy as np
from msgspec.structs import replace

from uncus.check.raising import order_of, too_early, waits
from uncus.draw import erection
from uncus.draw.bases import Base, bases
from uncus.draw.entries.needs import Needs
from uncus.draw.entries.plans import KIND
from uncus.draw.entry import Entry
from uncus.draw.kept import entry
from uncus.draw.schedules import Length, ScheduleJob, Shaft, Table
from uncus.draw.sighting import weld_words
from uncus.frame.grids import where
from uncus.job.records import Connection, Crane, Grid, LayDown, Level, Member, Point, Role
from uncus.mark.marking import natural
from uncus.shop.lifting import lift, lot_of
from uncus.shop.pieces import Assembly
from uncus.steel.joint import FastenerKind
from uncus.units import Units, counted, format_length, format_weight

_TOGETHER = 100.0  # mm in plan within which columns stand over one another
COLUMNS, TABLES = ("column schedule",), ("schedules",)
OWN = (*COLUMNS, *TABLES)
Told = tuple[str, ...]


def entries(of: Needs) -> Iterator[Entry]:
    """Those asked for that have something in them; whole, whatever is wanted."""
    rules = of.job.erection
    everything = of.everything
    if of.wanted.isdisjoint(a.id for a in everything):
        return
    levels = sorted(of.job.all(Level), key=lambda level: level.elevation)
    if rules.columns:
        shafts, says = _columns(of, everything)
        heights = tuple((level.name, level.elevation) for level in levels)
        if shafts:
            yield _entry(of, "CS1", COLUMNS, shafts=shafts, says=says, levels=heights)
    makers: tuple[tuple[bool, Callable[[], tuple[Table, Told]]], ...] = (
        (rules.bolts, lambda: _bolts(of, everything, levels)),
        (rules.welds, lambda: _welds(of, everything, levels)),
        (rules.lots, lambda: _lots(of, everything)),
    )
    made = [found for asked, make in makers if asked and (found := make())[0].rows]
    if made:
        yield _entry(
            of, "SC1", TABLES, tables=tuple(t for t, _ in made), says=tuple(w for _, says in made for w in says)
        )


def _entry(of: Needs, name: str, own: tuple[str, ...], **values: Any) -> Entry:
    standing = of.kept.standing(KIND, own, name)
    job = ScheduleJob(title=own[0].upper(), **values, **of.said(name, standing))
    return entry(job, own[0], KIND, (), own, standing)


# -- columns --------------------------------------------------------------------------------------------
def _columns(of: Needs, everything: Sequence[Assembly]) -> tuple[tuple[Shaft, ...], Told]:
    grid = next(iter(of.job.all(Grid)), None)
    standing: dict[str, Base] = {}
    for base in bases((of.marks.of_assembly(a.id), a) for a in everything)[0]:
        standing.setdefault(base.id, base)
    stacks = _stacks(everything)
    alike = defaultdict[Shaft, list[str]](list)
    for stack in stacks:
        stack.sort(key=lambda a: min(a.member.start[2], a.member.end[2]))
        foot = standing.get(stack[0].id)
        shaft = Shaft((), tuple(map(_length, stack)), foot.kind if foot else "", foot.under if foot else 0.0)
        x, y, _ = _foot(stack[0])
        place = where(grid, x, y) or f"{format_length(x, _units(of))}, {format_length(y, _units(of))}"
        alike[shaft].append(f"{place}: {' + '.join(of.marks.of_assembly(a.id) for a in stack)}")
    shafts = [replace(shaft, places=tuple(sorted(places, key=natural))) for shaft, places in alike.items()]
    says = (
        f"{counted(len(stacks), 'COLUMN LINE')}, {counted(sum(map(len, stacks)), 'PIECE')}.".upper(),
        "MARKS OF A COLUMN LINE ARE FROM THE LOWEST PIECE UP.",
        "HEIGHTS BESIDE A COLUMN ARE THOSE OF ITS ENDS AND SPLICES THAT ARE AT NO LEVEL.",
        "BP AND A NUMBER IS THE KIND OF BASE, WITH THE UNDERSIDE OF ITS PLATE.",
    )
    return tuple(sorted(shafts, key=lambda one: natural(one.places[0]))), says


def _stacks(everything: Iterable[Assembly]) -> list[list[Assembly]]:
    """Columns and posts whose feet stand over one another."""
    upright = [a for a in everything if a.member.role in (Role.COLUMN, Role.POST)]
    if not upright:
        return []
    from scipy.sparse import eye_array  # a quarter of a second to import
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import KDTree

    tree = KDTree(np.array([_foot(a)[:2] for a in upright]))
    number, group = connected_components(tree.sparse_distance_matrix(tree, _TOGETHER) + eye_array(len(upright)))
    found: list[list[Assembly]] = [[] for _ in range(number)]
    for a, n in zip(upright, group.tolist(), strict=True):
        found[n].append(a)
    return found


def _foot(a: Assembly) -> Point:
    return min(a.member.start, a.member.end, key=lambda p: p[2])


def _length(a: Assembly) -> Length:
    low, high = sorted((a.member.start[2], a.member.end[2]))
    return Length(a.member.section, round(low, 1), round(high, 1))


def _units(of: Needs) -> Units:
    return of.job.project.units


# -- site bolts and welds -------------------------------------------------------------------------------
def _by_level(everything: Iterable[Assembly], levels: Sequence[Level]) -> Iterator[tuple[str, Assembly]]:
    """Pieces with the level that they are drawn at, from the lowest up: what is bolted or welded at their own ends is
    told there, once."""
    rank = {level.id: n for n, level in enumerate(levels)}
    placed = [(erection.level_of(list(levels), a.member), a) for a in everything]
    placed.sort(key=lambda one: rank.get(one[0].id, -1) if one[0] else -1)
    for level, a in placed:
        yield (level.name.upper() if level else "NO LEVEL"), a


def _bolts(of: Needs, everything: Sequence[Assembly], levels: Sequence[Level]) -> tuple[Table, Told]:
    units, rules = _units(of), of.job.erection
    at = defaultdict[str, Counter[tuple[str, str, float]]](Counter)
    for level, a in _by_level(everything, levels):
        for group in a.holds:
            if group.field and group.kind is FastenerKind.BOLT:
                at[level][group.size, group.grade, round(group.length, 1)] += len(group.points)
    rows: list[tuple[str, ...]] = []
    for level, counts in at.items():
        for n, ((size, grade, long), number) in enumerate(sorted(counts.items())):
            rows.append(("" if n else level, size, format_length(long, units), grade, str(number), "", ""))
    for n, ((size, grade, long), number) in enumerate(
        sorted(sum(at.values(), Counter[tuple[str, str, float]]()).items())
    ):
        spare = rules.spares(number)
        rows.append(("" if n else "ALL", size, format_length(long, units), grade, str(number), str(spare),
            str(number + spare)))  # fmt: skip
    says = (f"SPARES: {rules.spare * 100:g} % OF EACH SIZE AND LENGTH, {rules.spare_least} AT LEAST.",
        "BOLTS ARE TOLD AT THE LEVEL OF THE PIECE WHOSE END THEY HOLD.")  # fmt: skip
    heads = ("LEVEL", "SIZE", "LENGTH", "GRADE", "NO", "SPARE", "SEND")
    return Table("SITE BOLTS", heads, "llllrrr", tuple(rows)), says


def _welds(of: Needs, everything: Sequence[Assembly], levels: Sequence[Level]) -> tuple[Table, Told]:
    units = _units(of)
    at = defaultdict[str, Counter[str]](Counter)
    long = defaultdict[tuple[str, str], float](float)
    for level, a in _by_level(everything, levels):
        for weld in a.site_welds:
            words = weld_words(weld, units).removeprefix("SITE WELD").lstrip(", ")
            at[level][words] += 1
            long[level, words] += weld.length
    rows = [("" if n else level, words, str(number), format_length(long[level, words], units))
        for level, counts in at.items() for n, (words, number) in enumerate(sorted(counts.items()))]  # fmt: skip
    if rows:
        rows.append(
            ("ALL", "", str(sum(sum(c.values()) for c in at.values())), format_length(sum(long.values()), units))
        )
    says = ("LENGTHS IN THE LAST COLUMN ARE OF WELD METAL, BOTH SIDES WHERE THERE ARE TWO.",)
    return Table("SITE WELDS", ("LEVEL", "WELD", "NO", "LENGTH"), "llrr", tuple(rows)), says


# -- lots -----------------------------------------------------------------------------------------------
def _lots(of: Needs, everything: Sequence[Assembly]) -> tuple[Table, Told]:
    """Lots in order: what each weighs, its heaviest piece and how far that is from the crane, after which it is set."""
    units, shop = _units(of), of.shop
    by_lot = defaultdict[str, list[Assembly]](list)
    for a in everything:
        by_lot[lot_of(a)].append(a)
    order = order_of(by_lot, of.job.erection.ordered)
    lots = {a.id: lot_of(a) for a in everything}
    waiting = waits(of.job.all(Connection), lambda id: of.job.get(id, Member), shop.ships_as)
    found = [w for w in waiting if w.piece in lots and w.holder in lots]
    after = defaultdict[str, set[str]](set)
    for wait in found:
        if lots[wait.piece] != lots[wait.holder]:
            after[lots[wait.piece]].add(lots[wait.holder])
    areas, cranes = of.job.all(LayDown), of.job.all(Crane)
    rows = []
    for lot in sorted(by_lot, key=lambda one: (order.get(one, len(order)), natural(one))):
        own = by_lot[lot]
        heavy = max(own, key=lambda a: (a.lifted, a.id))
        reach, laid = lift(heavy, cranes, areas), ", ".join(a.name.upper() for a in areas if lot in a.lots)
        rows.append((str(order[lot] + 1) if lot in order else "", lot or "NONE", str(len(own)),
            format_weight(sum(a.lifted for a in own), units), of.marks.of_assembly(heavy.id),
            format_weight(heavy.lifted, units), format_length(reach.radius, units) if reach else "",
            ", ".join(sorted(after[lot], key=natural)), laid))  # fmt: skip
    says = ["AFTER: THE LOTS THAT HOLD PIECES OF THIS ONE."]
    early = defaultdict[tuple[str, str], set[str]](set)
    for wait, own_lot, other in too_early(found, lots.__getitem__, order):
        early[own_lot, other].add(of.marks.of_assembly(wait.piece))
    for (own_lot, other), marks in sorted(early.items()):
        says.append(f"LOT {own_lot} IS SET BEFORE LOT {other}, WHICH HOLDS {', '.join(sorted(marks, key=natural))}.")
    heads = ("ORDER", "LOT", "PIECES", "WEIGHT", "HEAVIEST", "ITS WEIGHT", "FROM CRANE", "AFTER", "LAID DOWN")
    return Table("LOTS", heads, "llrrlrrll", tuple(rows)), tuple(says)
