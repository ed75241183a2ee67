"""The engineer's loads at the ends of members as a CSV: written for him to fill in, and read back with what did not match."""

from __future__ import annotations

import csv
import re
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

import msgspec

from uncus.bill.lists import Cell, Column, Table, Unit
from uncus.connect.kinds import KINDS
from uncus.connect.strength.limit import KIP
from uncus.deliver.tables import csv_bytes
from uncus.frame.grids import where
from uncus.job.errors import JobError
from uncus.job.files import text_of
from uncus.job.job import Job
from uncus.job.records import Connection, End, Grid, Loads, Member
from uncus.mark.marking import Marks, natural
from uncus.shop.shop import Shop
from uncus.units import FOOT, UnitError, Units, counted, parse_force, parse_moment
from uncus.words import quoted

_MOST = 100_000  # rows
_LOADS = ("shear", "axial", "moment")
_ENDS = {"left": (End.LEFT,), "right": (End.RIGHT,), "l": (End.LEFT,), "r": (End.RIGHT,), "": tuple(End), "both": tuple(End)}  # fmt: skip
_PARSE: dict[str, Callable[[str, Units], float]] = {"shear": parse_force, "axial": parse_force, "moment": parse_moment}


class Joined(msgspec.Struct, frozen=True):
    """A joint that can carry loads, as a row names it."""

    record: Connection
    mark: str
    place: str
    section: str


class Taken(msgspec.Struct, frozen=True):
    """What a file comes to: the joints with their new loads, what of it did not match, and how many joints it says nothing of."""

    put: tuple[Connection, ...]
    told: tuple[str, ...]
    without: int

    @property
    def words(self) -> str:
        rest = f"; {counted(len(self.told), 'row')} did not match" if self.told else ""
        return f"Loads for {counted(len(self.put), 'joint')}{rest}; {counted(self.without, 'joint')} not in the file"


def joined(job: Job, shop: Shop) -> list[Joined]:
    """Every joint at an end that can carry loads, by mark and end."""
    marks, grid = Marks(job, shop.carried), next(iter(job.all(Grid)), None)
    found = []
    for record in job.all(Connection):
        member, body = job.get(record.member, Member), shop.body(record.member)
        kind = KINDS.get(record.kind)
        if member is None or body is None or (kind is not None and not kind.carries):
            continue
        x, y, _ = body.end(record.end)
        found.append(Joined(record, marks.of_assembly(member.id), where(grid, float(x), float(y)), member.section))
    return sorted(found, key=lambda j: (natural(j.mark), natural(j.place), j.record.end, j.record.id))


def to_csv(job: Job, shop: Shop) -> bytes:
    """One row a joint: mark, place, section, end, kind, and its loads in the job's units."""
    units = job.project.units
    inch = units is Units.IMPERIAL
    force, moment = ("kips", "kip-ft") if inch else ("kN", "kNm")
    sizes = (KIP, KIP, KIP * FOOT) if inch else (1e3, 1e3, 1e6)
    heads = ("Mark", "Place", "Section", "End", "Joint", f"Shear ({force})", f"Axial ({force})", f"Moment ({moment})")
    rows: list[tuple[Cell, ...]] = []
    for j in joined(job, shop):
        loads = j.record.loads or Loads()
        values = (loads.shear, loads.axial, loads.moment)
        cells = ["" if v is None else round(v / size, 3) for v, size in zip(values, sizes, strict=True)]
        rows.append((j.mark, j.place, j.section, str(j.record.end), j.record.kind, *cells))
    columns = tuple(Column(words, Unit.TEXT) for words in heads)
    return csv_bytes(Table("loads", "Loads at ends", columns, tuple(rows)), units)


def taken(data: bytes, job: Job, shop: Shop, source: Path | str = "The file") -> Taken:
    """The loads of a file by mark and end, or by place where that is one joint's alone. Raises JobError for no such file."""
    rows, heads = _rows(text_of(data, source), source)
    known = joined(job, shop)
    by_mark, by_place = defaultdict(list), defaultdict(list)
    for j in known:
        by_mark[j.mark.casefold()].append(j)
        by_place[j.place.casefold()].append(j)
    put: dict[str, Connection] = {}
    told = []
    for number, row in rows:
        try:
            loads = _loads(row, heads, job.project.units)
            if loads is None:
                continue
            for j in _meant(row, by_mark, by_place):
                before = put.get(j.record.id, j.record)
                put[j.record.id] = msgspec.structs.replace(before, loads=_over(before.loads, loads))
        except (JobError, UnitError) as error:
            told.append(f"Row {number}: {error}")
    return Taken(tuple(put.values()), tuple(told), len(known) - len(put))


def _rows(text: str, source: Path | str) -> tuple[list[tuple[int, dict[str, str]]], dict[str, str]]:
    """A file's rows by what their columns are called, with their numbers; and the unit in each heading."""
    first = text.partition("\n")[0]
    mark = max(",;\t", key=first.count)
    reader = csv.reader(text.splitlines(), delimiter=mark)
    try:
        lines = [(n, line) for n, line in enumerate(reader, 1) if any(cell.strip() for cell in line)]
    except csv.Error as error:
        raise JobError(f"{source} cannot be read as a table: {error}.") from None
    if len(lines) > _MOST:
        raise JobError(f"{source} has more than {_MOST} rows; split it.")
    names, heads = [], {}
    for cell in lines[0][1] if lines else []:
        match = re.fullmatch(r"\s*([^(]*?)\s*(?:\(([^)]*)\))?\s*", cell[:80])
        name = (match[1] if match else "").casefold()
        name = "place" if name == "grid" else name
        names.append(name)
        heads[name] = (match[2] or "") if match else ""
    if not {"mark", "place"} & set(names) or not set(_LOADS) & set(names):
        raise JobError(
            f"{source} holds no loads: its first row must name its columns, Mark or Place, End, and Shear, Axial or Moment."
        )
    return [(n, dict(zip(names, (c.strip() for c in line), strict=False))) for n, line in lines[1:]], heads


def _loads(row: dict[str, str], heads: dict[str, str], units: Units) -> Loads | None:
    """A row's loads; None where it gives none."""
    values = {}
    for name in _LOADS:
        cell = row.get(name, "").lstrip("'")
        if cell:
            plain = re.fullmatch(r"[-+]?[\d.,]+(?:[eE][-+]?\d+)?", cell) is not None
            values[name] = _PARSE[name](f"{cell} {heads.get(name, '')}".strip() if plain else cell, units)
    loads = Loads(**values) if values else None
    if loads is not None and (problem := loads.problem()):
        raise JobError(problem)
    return loads


def _over(before: Loads | None, new: Loads) -> Loads:
    """What a row gives, and of what it leaves open what was known."""
    old = before or Loads()
    return Loads(*(n if n is not None else o for n, o in zip((new.shear, new.axial, new.moment), (old.shear, old.axial, old.moment), strict=True)))  # fmt: skip


def _meant(row: dict[str, str], by_mark: dict[str, list[Joined]], by_place: dict[str, list[Joined]]) -> list[Joined]:
    """The joints that a row is about. Raises JobError where it is about none, or by place about several."""
    mark, place, end = (row.get(k, "") for k in ("mark", "place", "end"))
    ends = _ENDS.get(end.casefold())
    if ends is None:
        raise JobError(f"{quoted(end)} is no end; give left, right or nothing for both.")
    if mark:
        found = by_mark.get(mark.casefold(), [])
        if not found:
            raise JobError(f"no piece is marked {quoted(mark)}.")
    else:
        found = by_place.get(place.casefold(), []) if place else []
        section = row.get("section", "").casefold()
        found = [j for j in found if not section or j.section.casefold() == section]
        if not found:
            raise JobError(f"no joint stands at {quoted(place)}." if place else "it names no mark and no place.")
    here = [j for j in found if j.record.end in ends]
    if not here:
        raise JobError(f"{quoted(mark or place)} has no joint at its {end} end.")
    if not mark and len({j.record.id for j in here}) > 1:
        raise JobError(f"{len(here)} joints stand at {quoted(place)}; give the mark, or the section and the end.")
    return here
