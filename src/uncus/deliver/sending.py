"""A package sent: its kind and receiver, looked at before it goes, made all or nothing, read back, kept beside the job.

`package` writes a folder by a kind's template, with a manifest and a transmittal; `read_back` opens what was written
and holds it against the job; what was sent is a record, and its bytes lie beside the job under their own sums.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from collections.abc import Callable, Collection
from datetime import date
from functools import partial
from pathlib import Path
from typing import NamedTuple

import msgspec

from uncus.bill.material import read_material
from uncus.bill.pieces_changed import CAME, CHANGED, HOWS, WENT, Changes, PieceChange, pieces_changed
from uncus.bill.stood import PIECES, Pieces, parts_of, pieces_bytes, pieces_of, read_pieces
from uncus.bill.table import Cell, Column, Table, Unit
from uncus.deliver.folder import MANIFEST, manifest_of
from uncus.deliver.package import Made, Progress, going, produce
from uncus.deliver.ready import Line, in_the_way, ready
from uncus.deliver.stamps import entry
from uncus.deliver.viewer import pieces_in
from uncus.job.errors import JobError
from uncus.job.files import SPOILT_ZIP, file_name, read_outside, write_beside
from uncus.job.job import Job
from uncus.job.packages import BOTH, IFC, IFC2X3, IFCS, MATERIAL, PLACES, PackageKind, Receiver, Sending, SentFile
from uncus.mark.content import assembly_content
from uncus.mark.marking import Marks, natural
from uncus.reference.step import guid
from uncus.shop.batch import Make, worker_pool
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.standin.noticeboard import PAGE
from uncus.units import format_weight

replace = msgspec.structs.replace
TRANSMITTAL = "transmittal"
NOBODY = "nobody named"  # the receiver of a package that is for no one in particular
_MODELS = {IFC: "IFC", IFC2X3: "IFC 2x3", MATERIAL: "the material file"}
_ALL = ("sheets", "nc", "flat", "dxf", "ifc", "bills")
USUAL: tuple[PackageKind, ...] = (
    PackageKind(id="kind advance", name="advance bill", outputs=("bills",), must=("lists",)),
    PackageKind(id="kind approval", name="for approval", outputs=("sheets", "ifc", "page"),
        must=("marked", "findings", "revised", "ifc", "ids")),
    PackageKind(id="kind fabrication", name="for fabrication", outputs=_ALL,
        must=("marked", "held", "findings", "revised", "nc", "ifc", "ids", "lists")),
    PackageKind(id="kind erection", name="for erection", outputs=("sheets", "ifc", "bills", "page"),
        sheets=("erection",),
        must=("marked", "findings", "revised", "ifc", "ids")),
    PackageKind(id="kind revision", name="revision", outputs=_ALL, must=("marked", "held", "findings", "revised", "nc",
        "ifc", "ids", "lists")),
    PackageKind(id="kind as built", name="as built", outputs=_ALL, job=True, must=("marked", "sheets", "ifc", "ids",
        "lists")),
)  # fmt: skip


def kinds_of(job: Job) -> list[PackageKind]:
    """The office's own kinds, then the usual ones that it has none of that name for."""
    own = job.all(PackageKind)
    names = {k.name.casefold() for k in own}
    return [*own, *(k for k in USUAL if k.name.casefold() not in names)]


def kind_named(job: Job, name: str) -> PackageKind:
    """Raises JobError with the kinds there are."""
    for kind in kinds_of(job):
        if kind.name.casefold() == name.strip().casefold():
            return kind
    raise JobError(f"There is no kind of package “{name}”; there are {', '.join(k.name for k in kinds_of(job))}.")


def receiver_named(job: Job, name: str) -> Receiver:
    """One that is kept, or a new one of that name."""
    known = next((r for r in job.all(Receiver) if r.name.casefold() == name.strip().casefold()), None)
    return known or Receiver(id=f"receiver {name.strip().casefold()}", name=name.strip() or NOBODY)


def outputs_for(kind: PackageKind, receiver: Receiver, both: bool = False) -> tuple[str, ...]:
    """What a receiver gets of a kind: the model that he reads in place of the other. Raises JobError where he would get
    IFC and the material file: who counts both counts every piece twice."""
    wanted = list(kind.outputs)
    models = [name for name in (*IFCS, MATERIAL) if name in wanted]
    if models and receiver.model in (*IFCS, MATERIAL):
        wanted = [name for name in wanted if name not in models] + [receiver.model]
    elif len(models) > 1 and not both and receiver.model != BOTH:
        words = " and ".join(_MODELS[name] for name in models)
        raise JobError(f"{receiver.name} would get {words}, and count every piece twice; say which he reads, or ask "
            "for both.")  # fmt: skip
    return tuple(wanted)


class Sent(NamedTuple):
    """A package that was made: where, what the job keeps of it, what was looked at, what could not be written."""

    folder: Path
    zipped: Path | None
    record: Sending
    made: Made
    lines: tuple[Line, ...]


def package(
    job: Job,
    shop: Shop,
    kind: PackageKind,
    receiver: Receiver,
    out: Path,
    reason: str = "",
    on: str = "",
    zipped: bool = False,
    both: bool = False,
    progress: Progress | None = None,
    make: Make = worker_pool,
) -> Sent:
    """Make a package in a folder of its own under `out`. Where something stands in its way it goes only for a `reason`,
    which is told in the transmittal; its bytes are kept beside the job's file. Raises JobError, or Stopped, and leaves
    nothing."""
    on = on or date.today().isoformat()
    progress = progress or Progress()
    kind = replace(kind, outputs=outputs_for(kind, receiver, both))  # as it goes to him
    number = 1 + max((s.number for s in job.all(Sending)), default=0)
    name = folder_name(job, kind, on, number)
    for there in (out / name, out / f"{name}.zip"):
        if there.exists() or there.is_symlink():
            raise JobError(
                f"{there} is there already and is not written over; take it away, or put {{no}} in its name."
            )
    tell = partial(progress.tell, 0, 0)
    lines = tuple(ready(job, shop, kind, tell, progress.stopped, receiver.ids, make))
    against = tuple(in_the_way(lines))
    if against and not reason.strip():
        raise JobError(f"{against[0]} Settle it, or give the reason why it goes all the same.")
    pieces = {a.id: assembly_content(a) for a in going(job, shop, kind.lens or None)[0]}
    record = Sending(number=number, kind=kind.name, receiver=receiver.name, on=on, folder=name, pieces=pieces,
        against=against, reason=reason.strip())  # fmt: skip
    told = pieces_of(job, shop, Marks(job, shop.carried), lambda a: a.id in pieces)
    changes = _since_his_last(job, job.home, receiver, told, number)
    extra = {f"{TRANSMITTAL}.pdf": lambda made: _transmittal(job, shop, record, made, changes)}
    if "bills" not in kind.outputs:  # which has it among its lists
        extra[PIECES] = lambda made: pieces_bytes(told)
    if kind.job:
        extra[f"{file_name(job.project.number or job.project.name)}.uncus"] = lambda made: _job_copy(job)
    made = produce(job, out / name, kind.lens or None, kind.outputs, progress, make, shop, on, kind.sheets, extra,
        lambda folder: read_back(folder, pieces), kind.lists,
        {"package": number, "kind": kind.name, "receiver": receiver.name, "on": on}, changes)  # fmt: skip
    folder = out / name
    listed = SentFile(MANIFEST, hashlib.sha256((folder / MANIFEST).read_bytes()).hexdigest())
    files = (*(SentFile(f.file, f.sha256) for f in made.files), listed)
    record = replace(record, files=files)
    archive = None
    if zipped or receiver.zipped:
        archive = out / f"{name}.zip"
        write_beside(archive, zip_bytes(folder, on))
    _keep_bytes(job.home, folder, files)
    return Sent(folder, archive, record, made, lines)


def folder_name(job: Job, kind: PackageKind, on: str, number: int) -> str:
    """A package's name by its kind's pattern, safe in any folder; nothing of ours in it."""
    project = job.project
    filled = {"job": project.name, "number": project.number or project.name, "kind": kind.name, "date": on,
        "no": f"{number:03d}"}  # fmt: skip
    words = PLACES.sub(lambda m: filled[m[1]], kind.name_by)
    return file_name(" ".join(words.split()), "package")


def _job_copy(job: Job) -> bytes:
    """The job itself: compact, without its history, opening with everything shown."""
    import tempfile

    with tempfile.TemporaryDirectory(prefix="uncus-") as place:
        path = Path(place) / "copy.uncus"
        Job.create(path, job.records.values()).close()
        return path.read_bytes()


def since_sent(job: Job, shop: Shop, sending: Sending, content: Callable[[str], str] | None = None) -> Changes:
    """What became of the pieces of a package since it went; what came is of what its kind lets through. `content` gives
    a piece's fingerprint where it is known already. How a piece changed is told where the package's list of pieces is
    kept beside the job."""
    kind = next((k for k in kinds_of(job) if k.name == sending.kind), None)
    ids = {a.id for a in going(job, shop, (kind.lens if kind else "") or None)[0]} | sending.pieces.keys()
    marks = Marks(job, shop.carried)
    known: Callable[[Assembly], str] = (lambda a: content(a.id)) if content else assembly_content
    now = pieces_of(job, shop, marks, lambda a: a.id in ids, known)
    names = f"package {sending.number}", "now"
    then = _kept_pieces(job.home, sending)
    if then is not None:
        return pieces_changed(then, now, names, job.project.units)
    found = [PieceChange(id, one.mark, CHANGED if id in sending.pieces else CAME, "") for id, one
        in now.assemblies.items() if sending.pieces.get(id) != one.content]  # fmt: skip
    gone = [PieceChange(id, "", WENT, "") for id in sorted(sending.pieces.keys() - now.assemblies.keys())]
    return Changes(*names, tuple(sorted((*found, *gone), key=lambda one: (HOWS.index(one.how), natural(one.mark)))))


def _since_his_last(job: Job, beside: Path | None, receiver: Receiver, now: Pieces, number: int) -> Changes | None:
    """What is different in a package against the last that its receiver got; None where there is none to be told of."""
    his = [s for s in job.all(Sending) if s.receiver.casefold() == receiver.name.casefold()]
    last = max(his, key=lambda s: s.number, default=None)
    then = _kept_pieces(beside, last) if last is not None else None
    if last is None or then is None:
        return None
    return pieces_changed(then, now, (f"package {last.number}", f"package {number}"), job.project.units)


def _kept_pieces(job: Path | None, sending: Sending) -> Pieces | None:
    """The list of pieces of a package, out of what is kept of it beside a job's file; None where it is not."""
    listed = next((f for f in sending.files if f.file.rpartition("/")[2] == PIECES), None)
    if listed is None or job is None:
        return None
    try:
        return read_pieces(read_outside(_kept_place(job, listed)), PIECES)
    except JobError:
        return None


# -- the transmittal --------------------------------------------------------------------------------------------------
def transmittal(job: Job, shop: Shop, record: Sending, made: Made, changes: Changes | None = None) -> Table:
    """What goes, as a list: every file with its kind, mark and revision; above it to whom, what and why, and what is
    different since his last."""
    project = job.project
    marks = Marks(job, shop.carried)
    assemblies = [a for id, a in shop.shipped.items() if id in record.pieces]
    revisions = {e.name: e.revision for e in made.sheets if e.revision}
    kinds: dict[str, int] = {}
    for file in made.files:
        kinds[file.kind] = kinds.get(file.kind, 0) + 1
    rows: list[tuple[Cell, ...]] = [(f.file, f.kind, f.mark, revisions.get(f.mark or Path(f.file).stem, ""))
        for f in made.files]  # fmt: skip
    notes = [f"Package {record.number}, {record.kind}, to {record.receiver}, {record.on}.",
        f"{len(assemblies)} pieces of {len({marks.of_assembly(a.id) for a in assemblies})} marks, "
        f"{format_weight(sum(a.gross for a in assemblies), project.units)} of steel.",
        ", ".join(f"{n} {kind}" for kind, n in sorted(kinds.items())) + "."]  # fmt: skip
    if record.reason:
        notes += [f"It goes although: {words}" for words in record.against] + [f"Reason: {record.reason}"]
    if changes is not None:
        notes.append(f"Since {changes.was}: {changes.in_short}.")
    notes += [f"Not in it: {words}" for words in made.failures]
    columns = (Column("File", Unit.TEXT), Column("What", Unit.TEXT), Column("Mark", Unit.TEXT),
        Column("Revision", Unit.TEXT))  # fmt: skip
    title = f"Transmittal {record.number}: {record.kind}"
    return Table(TRANSMITTAL, title, columns, tuple(rows), notes=tuple(notes), heading=record.receiver)


def _transmittal(job: Job, shop: Shop, record: Sending, made: Made, changes: Changes | None) -> bytes:
    from uncus.bill.printed import printed
    from uncus.deliver.pdf import pdf_bytes

    project = job.project
    table = transmittal(job, shop, record, made, changes)
    return pdf_bytes(*printed(table, project.units, f"{project.name} {project.number}".strip(), record.on))


# -- read back ------------------------------------------------------------------------------------------------------
def read_back(folder: Path, pieces: Collection[str]) -> None:
    """Open everything that was written and hold it against the ids of the pieces that go. Raises JobError naming the
    file that is not as it should be."""
    found = manifest_of(folder)
    there = {p.relative_to(folder).as_posix() for p in folder.rglob("*") if p.is_file()} - {MANIFEST}
    listed = {f.file for f in found.files}
    if there != listed:
        odd = sorted(there ^ listed)[0]
        raise JobError(f"{folder.name} and its manifest differ: {odd}.")
    for one in found.files:
        data = read_outside(folder / one.file, 2_000_000_000)
        if hashlib.sha256(data).hexdigest() != one.sha256:
            raise JobError(f"{one.file} of {folder.name} is not what was written; make the package again.")
        _opens(one.file, data)
        told = _told_of(one.file, data, pieces)
        if told is not None and told != set(pieces):
            raise JobError(f"{one.file} tells of {len(told)} of the {len(pieces)} pieces that go, or of others.")


def _opens(name: str, data: bytes) -> None:
    """Whether a file is what its ending says."""
    ending = Path(name).suffix
    if ending == ".pdf" and not (data.startswith(b"%PDF-") and b"%%EOF" in data[-1024:]):
        raise JobError(f"{name} is no whole PDF.")
    if ending == ".ifc" and not data.rstrip().endswith(b"END-ISO-10303-21;"):
        raise JobError(f"{name} is no whole IFC file.")
    if ending == ".dxf" and not data.rstrip().endswith(b"EOF"):
        raise JobError(f"{name} is no whole DXF file.")
    if ending == ".xlsx":
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as book:
                spoilt = book.testzip()
        except SPOILT_ZIP:
            spoilt = name
        if spoilt is not None:
            raise JobError(f"{name} is no whole workbook.")
    if ending == ".nc1":
        from uncus.standin.bench import BenchError, read

        try:
            read(data.decode("ascii", "replace"))
        except BenchError as error:
            raise JobError(f"{name} is no NC that the bench can read: {error}.") from None


def _told_of(name: str, data: bytes, pieces: Collection[str]) -> set[str] | None:
    """The pieces that a file of the whole tells of; None of others."""
    path = Path(name)
    if path.name == "material.csv":
        return {row.id for row in read_material(data, name) if row.row == "assembly"}
    if path.name == PIECES:
        return {one.owner for one in parts_of(data, name)}
    if path.name == PAGE:
        return pieces_in(data)
    if path.suffix == ".ifc":
        return {id for id in pieces if f"'{guid(id)}'".encode() in data}
    return None


def zip_bytes(folder: Path, on: str) -> bytes:
    """A package as one ZIP: the same files in the same order with the package's own day, whoever packs it."""
    out = io.BytesIO()
    day = date.fromisoformat(on)
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as target:
        for path in sorted(p for p in folder.rglob("*") if p.is_file()):
            name = f"{folder.name}/{path.relative_to(folder).as_posix()}"
            target.writestr(entry(name, day), path.read_bytes(), zipfile.ZIP_DEFLATED)
    return out.getvalue()


# -- kept -----------------------------------------------------------------------------------------------------------
def kept_folder(job: Path) -> Path:
    """Where the bytes of what was sent lie: beside the job, each file once by its sum."""
    return job.with_name(job.name + ".sent")


def _kept_place(job: Path, one: SentFile) -> Path:
    return kept_folder(job) / one.sha256[:2] / one.sha256


def _keep_bytes(job: Path | None, folder: Path, files: tuple[SentFile, ...]) -> None:
    if job is None:
        return
    for one in files:
        kept = _kept_place(job, one)
        if not kept.exists():
            kept.parent.mkdir(parents=True, exist_ok=True)
            write_beside(kept, (folder / one.file).read_bytes())


def written_again(job: Job, sending: Sending, out: Path) -> Path:
    """A package that was sent, out of what was kept of it. Raises JobError where something of it is not there."""
    if job.home is None:
        raise JobError("This job is in memory alone and keeps no packages.")
    folder = out / sending.folder
    for one in sending.files:
        kept = _kept_place(job.home, one)
        if not kept.is_file():
            raise JobError(f"{one.file} of package {sending.number} is not kept any more.")
        target = (folder / one.file).resolve()
        if not target.is_relative_to(folder.resolve()):
            raise JobError(f"{one.file} lies outside of its package and was not written.")
        target.parent.mkdir(parents=True, exist_ok=True)
        write_beside(target, kept.read_bytes())
    return folder
