"""The material file, for those who read no IFC: one plain CSV, described by a schema beside it (docs/material.md).

Each row is a thing, `row` says of what kind: `assembly`, `part` (one row a piece of it, `of` its assembly's id), `bolt`
(a row a size, grade, length and place, `of` the assembly that carries it). Lengths in mm, weights in kg, with a point,
as UTF-8 with a head and CR LF (RFC 4180). The schema is W3C's Metadata Vocabulary for Tabular Data (2015).
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from typing import Any

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import text_of
from uncus.words import runs

FORMAT = "uncus material 1"
NAME = "material"
_STRING, _NUMBER, _COUNT = "string", "decimal", "integer"
COLUMNS: dict[str, tuple[str, str]] = {
    "row": (_STRING, "assembly, part or bolt"),
    "id": (_STRING, "who it is, for good: a UUID, and of what a joint brings a UUID with its name; empty of bolts"),
    "of": (_STRING, "the id of the assembly that it is part of; empty of assemblies"),
    "mark": (_STRING, "its mark"),
    "number": (_COUNT, "how many: 1 of assemblies and parts"),
    "description": (_STRING, "section, plate or bought item; size of a bolt"),
    "role": (_STRING, "what it is in the frame; of a bolt: bolt, anchor rod or stud"),
    "grade": (_STRING, "steel or bolt grade"),
    "length": (_NUMBER, "mm, over all"),
    "width": (_NUMBER, "mm, of a plate"),
    "thickness": (_NUMBER, "mm, of a plate"),
    "weight": (_NUMBER, "kg, gross, of one; without what is bought"),
    "bought": (_NUMBER, "kg of what is bought and goes with it"),
    "finish": (_STRING, "its finish"),
    "lot": (_STRING, "its lot"),
    "advance": (_STRING, "the mark it was ordered under"),
    "place": (_STRING, "of a bolt: shop or site"),
}


def material_bytes(rows: Iterable[dict[str, Any]]) -> bytes:
    """The CSV file."""
    out = io.StringIO()
    writer = csv.DictWriter(out, list(COLUMNS), restval="", lineterminator="\r\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({name: _plain(value) for name, value in row.items()})
    return out.getvalue().encode("utf-8")


def _plain(value: object) -> object:
    """What a cell holds: words that a spreadsheet would run are led by an apostrophe, and so are those with one of
    their own, that reading takes off again."""
    if isinstance(value, float):
        return f"{value:.4f}".rstrip("0").rstrip(".")
    text = str(value)
    return f"'{text}" if runs(text) or text.startswith("'") else text


def schema_bytes(file: str) -> bytes:
    """What describes a material file."""
    columns = [{"name": name, "titles": name, "datatype": kind, "dc:description": about}
        for name, (kind, about) in COLUMNS.items()]  # fmt: skip
    content = {"@context": ["http://www.w3.org/ns/csvw", {"@language": "en"}], "url": file, "dc:title": FORMAT,
        "dialect": {"header": True, "delimiter": ",", "encoding": "utf-8", "lineTerminators": "\r\n"},
        "tableSchema": {"columns": columns}}  # fmt: skip
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"


# -- reading -----------------------------------------------------------------------------------------------------------
class MaterialRow(msgspec.Struct, frozen=True):
    """A row as it is read: numbers are numbers, what is empty is nothing."""

    row: str
    id: str = ""
    of: str = ""
    mark: str = ""
    number: int = 0
    description: str = ""
    role: str = ""
    grade: str = ""
    length: float = 0.0
    width: float = 0.0
    thickness: float = 0.0
    weight: float = 0.0
    bought: float = 0.0
    finish: str = ""
    lot: str = ""
    advance: str = ""
    place: str = ""


def read_material(data: bytes, source: str, most: int = 2_000_000) -> list[MaterialRow]:
    """The rows of a material file. Raises JobError with what is wrong in which row."""
    reader = csv.DictReader(io.StringIO(text_of(data, source), newline=""))
    if reader.fieldnames is None or list(reader.fieldnames) != list(COLUMNS):
        raise JobError(f"{source} is no material file: its head is not that of “{FORMAT}”.")
    found = []
    ids: set[str] = set()
    try:
        for n, cells in enumerate(reader, 2):
            if n > most:
                raise JobError(f"{source} has more than {most:,} rows.")
            try:
                row = _read_row(cells)
            except (ValueError, TypeError, msgspec.ValidationError) as error:
                raise JobError(f"{source}, row {n}: {str(error)[:120]}.") from None
            if row.row not in ("assembly", "part", "bolt"):
                raise JobError(f"{source}, row {n}: “{row.row[:40]}” is neither assembly, part nor bolt.")
            if row.id and row.id in ids:
                raise JobError(f"{source}, row {n}: the id {row.id[:60]} is there twice.")
            ids.add(row.id)
            found.append(row)
    except csv.Error as error:
        raise JobError(f"{source} cannot be read as CSV: {error}.") from None
    missing = next((r.of for r in found if r.of and r.of not in ids), None)
    if missing is not None:
        raise JobError(f"{source} tells of what is part of {missing[:60]}, and not of that.")
    return found


def _read_row(cells: dict[str, str]) -> MaterialRow:
    values: dict[str, Any] = {}
    for name, (kind, _) in COLUMNS.items():
        text = cells.get(name)
        if text is None:
            raise ValueError("it has too few cells")
        text = text.removeprefix("'")
        if kind == _STRING:
            values[name] = text
        elif text:
            number = int(text) if kind == _COUNT else float(text)
            if not (0 <= number < 1e9):
                raise ValueError(f"{name} is “{text[:20]}”, which is none")
            values[name] = number
    if None in cells:
        raise ValueError("it has too many cells")
    return MaterialRow(**values)
