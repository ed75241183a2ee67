"""The intake: a stand-in for the fabricator's office. It takes packages, counts what is in them, asks for what is
missing and answers with a receipt and with progress, as open files.

It knows a package by its manifest, and pieces by the material file or the IFC model: one of them, never both, since who
counts both counts every piece twice. What it keeps is a folder: of each job the pieces it has, by id.
"""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable
from pathlib import Path

import msgspec

from uncus.bill.material import MaterialRow, read_material
from uncus.job.errors import JobError
from uncus.job.files import file_name, json_of, read_outside, write_beside
from uncus.job.packages import Stage
from uncus.reference.model import Model
from uncus.reference.reading import read
from uncus.standin.parcels import Listed, Manifest, opened

RECEIPT, PROGRESS = "uncus receipt 1", "uncus progress 1"


class Piece(msgspec.Struct, frozen=True):
    """A piece as the intake knows it: id, mark, what it is, kg, and what tells that it changed."""

    id: str
    mark: str
    what: str
    kg: float
    form: str


class Receipt(msgspec.Struct, frozen=True):
    """The answer to a package: counts, what is missing, and what is other than what was there before."""

    package: str
    job: str
    number: str
    pieces: int = 0
    parts: int = 0
    bolts: int = 0
    kg: float = 0.0
    nc: int = 0
    sheets: int = 0
    missing: tuple[str, ...] = ()
    added: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    format: str = RECEIPT

    @property
    def accepted(self) -> bool:
        return not self.missing


class Reported(msgspec.Struct, frozen=True):
    """How far a piece is."""

    id: str
    mark: str
    stage: Stage
    on: str


class ProgressFile(msgspec.Struct, frozen=True):
    """How far the pieces of a job are, as the fabricator says."""

    job: str
    number: str
    by: str
    pieces: tuple[Reported, ...]
    format: str = PROGRESS


class _Kept(msgspec.Struct, frozen=True):
    """What the intake has of a job."""

    job: str
    number: str
    pieces: tuple[Piece, ...]


class Intake:
    """The office, with its folder."""

    def __init__(self, folder: Path, name: str = "Intake") -> None:
        self.folder, self.name = folder, name

    # -- packages --------------------------------------------------------------------------------------------------
    def take(self, package: Path) -> Receipt:
        """Take a package: a folder, or one packed as ZIP. Raises JobError where it is none, or holds both kinds of
        models: such a package is refused whole."""
        parcel = opened(package)
        files, found, missing = parcel.files, parcel.manifest, parcel.missing
        models = [one for one in found.files if one.file.endswith(".ifc")]
        lists = [one for one in found.files if one.file.rpartition("/")[2] == "material.csv"]
        if models and lists:
            raise JobError(
                f"{package.name} holds IFC and a material file; send one of them, or every piece counts twice."
            )
        pieces, parts, bolts, marks = _counted(files, models, lists)
        if not models and not lists:
            missing.append("neither IFC nor a material file: pieces cannot be counted")
        there = {one.mark for one in found.files if one.kind == "nc"}
        if there:
            missing += [f"no NC file of {mark}" for mark in sorted(marks - there)]
        before = self._kept(found)
        receipt = Receipt(package.name, found.job, found.number, len(pieces), parts, bolts,
            round(sum(p.kg for p in pieces), 3), len(there), sum(f.kind.endswith("sheet") for f in found.files),
            tuple(missing), *_against(before, pieces))  # fmt: skip
        if pieces and receipt.accepted:
            kept = {p.id: p for p in before} | {p.id: p for p in pieces}
            content = _Kept(found.job, found.number, tuple(kept[id] for id in sorted(kept)))
            write_beside(self._place(found), msgspec.json.format(msgspec.json.encode(content), indent=1))
        return receipt

    def pieces(self, job: str, number: str) -> tuple[Piece, ...]:
        """What is there of a job."""
        return self._kept(Manifest(job, number, ()))

    def report(self, job: str, number: str, stage: Stage, marks: Iterable[str], on: str) -> ProgressFile:
        """How far some pieces are, by their marks (none: all), as the file that goes back."""
        wanted = set(marks)
        own = [p for p in self.pieces(job, number) if not wanted or p.mark in wanted]
        return ProgressFile(job, number, self.name, tuple(Reported(p.id, p.mark, stage, on) for p in own))

    def _place(self, of: Manifest) -> Path:
        return self.folder / f"{file_name(f'{of.number} {of.job}')}.json"

    def _kept(self, of: Manifest) -> tuple[Piece, ...]:
        place = self._place(of)
        return json_of(read_outside(place), _Kept, place, "pieces").pieces if place.is_file() else ()


def to_json(content: Receipt | ProgressFile) -> bytes:
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"


def read_progress(data: bytes, source: str) -> ProgressFile:
    """Raises JobError."""
    found = json_of(data, ProgressFile, source, "progress")
    if found.format != PROGRESS:
        raise JobError(f"{source} says “{found.format[:40]}”, which is no progress that this version reads.")
    return found


def _counted(
    files: dict[str, bytes], models: list[Listed], lists: list[Listed]
) -> tuple[list[Piece], int, int, set[str]]:
    """Pieces, and how many parts and bolts, by the one kind of model there is; and the marks of parts that are made."""
    if lists and (data := files.get(lists[0].file)) is not None:
        return _by_material(read_material(data, lists[0].file))
    if models and (data := files.get(models[0].file)) is not None:
        return _by_ifc(data, models[0].file)
    return [], 0, 0, set()


def _by_material(rows: list[MaterialRow]) -> tuple[list[Piece], int, int, set[str]]:
    forms: dict[str, list[str]] = {}
    for r in rows:
        forms.setdefault(r.of or r.id, []).append(repr((r.row, r.id, r.mark, r.number, r.description, r.grade, r.length,
            r.width, r.thickness, r.finish, r.lot, r.weight)))  # fmt: skip
    pieces = [Piece(r.id, r.mark, r.description, r.weight, _sum(forms[r.id])) for r in rows if r.row == "assembly"]
    parts = [r for r in rows if r.row == "part"]
    made = {r.mark for r in parts if not r.bought and r.mark}
    return pieces, len(parts), sum(r.number for r in rows if r.row == "bolt"), made


def _by_ifc(data: bytes, name: str) -> tuple[list[Piece], int, int, set[str]]:
    """By the model, read as others' models are: in a process of its own."""
    import tempfile

    with tempfile.TemporaryDirectory(prefix="uncus-") as place:
        path = Path(place) / Path(name).name
        path.write_bytes(data)
        model = read(path, Path(place) / "kept").model
    return _of_model(model)


def _of_model(model: Model) -> tuple[list[Piece], int, int, set[str]]:
    count = Counter(p.cls for p in model.products)
    inside: dict[str, list[str]] = {}
    for p in model.products:
        inside.setdefault(p.owner or p.guid, []).append(repr((p.cls, p.name, p.tag, p.material, p.section,
            p.swept.depth if p.swept else 0.0)))  # fmt: skip
    pieces = [Piece(p.guid, p.tag or p.name, p.name, p.kg, _sum(inside[p.guid])) for p in model.products
        if p.cls == "IfcElementAssembly"]  # fmt: skip
    fasteners = count["IfcMechanicalFastener"]
    parts = len(model.products) - fasteners - count["IfcElementAssembly"] - count["IfcFastener"]
    return pieces, parts, fasteners, set()


def _sum(words: list[str]) -> str:
    return hashlib.blake2b("\n".join(sorted(words)).encode(), digest_size=10).hexdigest()


def _against(before: Iterable[Piece], now: Iterable[Piece]) -> tuple[tuple[str, ...], tuple[str, ...], tuple[str, ...]]:
    """What is new, gone and changed against what was there, by id, told by marks."""
    old, new = {p.id: p for p in before}, {p.id: p for p in now}
    if not old:
        return (), (), ()
    added = [p.mark for id, p in new.items() if id not in old]
    gone = [p.mark for id, p in old.items() if id not in new]
    changed = [p.mark for id, p in new.items() if id in old and old[id].form != p.form]
    return tuple(sorted(added)), tuple(sorted(gone)), tuple(sorted(changed))
