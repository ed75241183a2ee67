"""The engineer's loads at the ends of members as a CSV: written for him to fill in, and read back with what did not
match."""

from __future__ import annotations

import csv
import re
from collections import defaultdict
from collections.abc import Callable, Mapping
from pathlib import Path

import msgspec

from uncus.bill.table import Cell, Column, Table, Unit
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
from uncus.units import FOOT, UnitError, Units, counted, format_elevation, parse_force, parse_moment
from uncus.words import quoted

_MOST = 100_000  # rows
_SAME = 1.0  # N, N mm
_LOADS = ("shear", "axial", "moment")
_ENDS = {"left": (End.LEFT,), "right": (End.RIGHT,), "l": (End.LEFT,), "r": (End.RIGHT,), "": tuple(End),
    "both": tuple(End)}  # fmt: skip
_PARSE: dict[str, Callable[[str, Units], float]] = {"shear": parse_force, "axial": parse_force, "moment": parse_moment}


class Joined(msgspec.Struct, frozen=True):
    """A joint that can carry loads, as a row names it: its piece's mark, where and how high it is, where the piece's
    other end is."""

    record: Connection
    mark: str
    place: str
    height: str
    to: str
    section: str


class Taken(msgspec.Struct, frozen=True):
    """What a file comes to: the joints with their new loads, what of it did not match, and how many joints it says
    nothing of."""

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
        here, there = (body.end(end) for end in (record.end, record.end.other))
        place, to = (where(grid, float(p[0]), float(p[1])) for p in (here, there))
        height = format_elevation(float(here[2]), job.project.units)
        found.append(Joined(record, marks.of_assembly(member.id), place, height, to, member.section))
    return sorted(found, key=lambda j: (natural(j.mark), natural(j.place), j.height, j.record.end, j.record.id))


def to_csv(job: Job, shop: Shop) -> bytes:
    """One row a joint: mark, place, height, where to, section, end, kind, its loads in the job's units, and
    its id, by which a row is known again however many are alike."""
    units = job.project.units
    inch = units is Units.IMPERIAL
    force, moment = ("kips", "kip-ft") if inch else ("kN", "kNm")
    sizes = (KIP, KIP, KIP * FOOT) if inch else (1e3, 1e3, 1e6)
    loads_in = (f"Shear ({force})", f"Axial ({force})", f"Moment ({moment})")
    heads = ("Mark", "Place", "Height", "To", "Section", "End", "Joint", *loads_in, "Id")
    rows: list[tuple[Cell, ...]] = []
    for j in joined(job, shop):
        loads = j.record.loads or Loads()
        values = (loads.shear, loads.axial, loads.moment)
        cells = ["" if v is None else round(v / size, 3) for v, size in zip(values, sizes, strict=True)]
        rows.append((j.mark, j.place, j.height, j.to, j.section, str(j.record.end), j.record.kind, *cells, j.record.id))
    columns = tuple(Column(words, Unit.TEXT) for words in heads)
    return csv_bytes(Table("loads", "Loads at ends", columns, tuple(rows)), units)


def taken(data: bytes, job: Job, shop: Shop, source: Path | str = "The file") -> Taken:
    """The loads of a file by its joints' ids, by mark and end, or by place where that is one joint's alone. Raises
    JobError for no such file."""
    rows, heads = _rows(text_of(data, source), source)
    known = joined(job, shop)
    by_mark, by_place, by_id = defaultdict(list), defaultdict(list), {j.record.id: j for j in known}
    for j in known:
        by_mark[j.mark.casefold()].append(j)
        by_place[j.place.casefold()].append(j)
    given: dict[str, dict[str, tuple[float, int]]] = defaultdict(dict)
    records, told = {}, []
    for number, row in rows:
        try:
            loads = _loads(row, heads, job.project.units)
            if loads is None:
                continue
            own = by_id.get(row.get("id", ""))
            meant = [own] if own is not None else _meant(row, by_mark, by_place)
            for j in meant:
                _differ(given[j.record.id], loads)
            for j in meant:
                records[j.record.id] = j.record
                given[j.record.id] |= {name: (v, number) for name in _LOADS if (v := getattr(loads, name)) is not None}
        except (JobError, UnitError) as error:
            told.append(f"Row {number}: {error}")
    put = {id: msgspec.structs.replace(one, loads=_over(one.loads, given[id])) for id, one in records.items()}
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
            f"{source} holds no loads: its first row must name its columns, Mark or Place, End, and Shear, Axial or "
            f"Moment."
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


def _differ(given: dict[str, tuple[float, int]], loads: Loads) -> None:
    """Raises JobError where an earlier row gave the same joint another load."""
    for name, (before, number) in given.items():
        value = getattr(loads, name)
        if value is not None and abs(value - before) > _SAME:
            raise JobError(
                f"row {number} gives the same joint another {name}; tell them apart by place, height and end."
            )


def _over(before: Loads | None, given: Mapping[str, tuple[float, int]]) -> Loads:
    """What a file gives, and of what it leaves open what was known."""
    return msgspec.structs.replace(before or Loads(), **{name: value for name, (value, _) in given.items()})


def _meant(row: dict[str, str], by_mark: dict[str, list[Joined]], by_place: dict[str, list[Joined]]) -> list[Joined]:
    """The joints that a row is about: by mark, of several alike those at its place and height where it gives them.
    Raises JobError where it is about none, or by place about several."""
    mark, place, end = (row.get(k, "") for k in ("mark", "place", "end"))
    ends = _ENDS.get(end.casefold())
    if ends is None:
        raise JobError(f"{quoted(end)} is no end; give left, right or nothing for both.")
    if not mark and not place:
        raise JobError("it names no mark and no place.")
    found = (by_mark if mark else by_place).get((mark or place).casefold(), [])
    if not found:
        raise JobError(f"no piece is marked {quoted(mark)}." if mark else f"no joint stands at {quoted(place)}.")
    for name in ("place", "height", "to", *(() if mark else ("section",))):
        wanted = row.get(name, "").lstrip("'")
        if wanted:
            found = [j for j in found if getattr(j, name).casefold() == wanted.casefold()]
            if not found:
                raise JobError(f"{quoted(mark or place)} has no joint of {name} {quoted(wanted)}.")
    here = [j for j in found if j.record.end in ends]
    if not here:
        raise JobError(f"{quoted(mark or place)} has no joint at its {end} end.")
    if not mark and len({j.record.id for j in here}) > 1:
        raise JobError(f"{len(here)} joints stand at {quoted(place)}; give the mark, or the section and the end.")
    return here
