"""A package: everything chosen, in one folder, with a manifest. Written beside and moved into place, or not at all."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable
from datetime import date
from functools import partial
from pathlib import Path

import msgspec

from uncus.bill.lists import all_lists
from uncus.deliver.dxf import dxf_bytes
from uncus.deliver.flat_dxf import flat_dxf
from uncus.deliver.folder import MANIFEST, Folder, check_place, written
from uncus.deliver.ifc import ifc_text
from uncus.deliver.nc import Heading, Marking, nc_text
from uncus.deliver.nc_proof import differs
from uncus.deliver.nc_scribes import scribes_of
from uncus.deliver.pdf import pdf_bytes
from uncus.deliver.tables import csv_bytes, xlsx_bytes
from uncus.draw.above import above
from uncus.draw.batch import failure_words
from uncus.draw.drawn import draw_all
from uncus.draw.entry import Entry
from uncus.draw.inputs import SheetJob
from uncus.draw.issue import packed
from uncus.draw.keeping import sent
from uncus.draw.register import register
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Grid, IssuedMark
from uncus.lens.criteria import named
from uncus.mark.kept import issued, joined
from uncus.mark.lines import PartLine, assembly_lines, part_lines
from uncus.mark.marking import Marks
from uncus.shop.batch import Make, each, worker_pool
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop, build
from uncus.standin.bench import BenchError, read
from uncus.steel.describe import forming_words
from uncus.steel.flat import as_plate, gross_weight, net_weight
from uncus.steel.wrapping import is_wrapped

KINDS = ("sheets", "nc", "flat", "dxf", "ifc", "bills")


class Listed(msgspec.Struct, frozen=True):
    """One file of a package; weights are of one piece, in kg."""

    file: str
    kind: str
    mark: str
    number: int
    net_kg: float
    gross_kg: float
    sha256: str


class Progress:
    """Told how far long work is; asked whether to go on. The default says nothing and never stops."""

    def tell(self, done: int, of: int, words: str) -> None:
        """Called often, from the working thread."""

    def stopped(self) -> bool:
        return False


class Stopped(Exception):
    """The work was stopped by who asked for it; nothing was left behind."""


class Made(msgspec.Struct, frozen=True):
    folder: Path
    files: tuple[Listed, ...]
    failures: tuple[str, ...]
    sheets: tuple[Entry, ...]
    packed: dict[str, str] = {}
    issued: tuple[IssuedMark, ...] = ()  # the marks that went, with what they stood for then
    on: str = ""


class _Drawn(msgspec.Struct, frozen=True):
    """A sheet as it goes out: its pages as a PDF, each as a DXF, and the copy that is kept."""

    pdf: bytes
    dxf: tuple[tuple[str, bytes], ...]
    packed: str


def _drawn(job: SheetJob, pdf: bool, dxf: bool) -> _Drawn:
    """Run in a worker, which gets plain records."""
    sheets = draw_all(job)
    drawings = tuple((s.name, dxf_bytes(s)) for s in sheets) if dxf else ()
    return _Drawn(pdf_bytes(*sheets) if pdf else b"", drawings, packed(job, sheets))


def check_only(only: Iterable[str]) -> tuple[str, ...]:
    """Raises JobError for a kind of output there is not."""
    chosen = tuple(only) or KINDS
    for kind in chosen:
        if kind not in KINDS:
            raise JobError(f"There is no output “{kind}”; choose from {', '.join(KINDS)}.")
    return chosen


def produce(
    job: Job,
    out: Path,
    lens: str | None = None,
    only: Iterable[str] = (),
    progress: Progress | None = None,
    make: Make = worker_pool,
    shop: Shop | None = None,
    on: str = "",
) -> Made:
    """Write a package to the folder `out`, which must not hold anything else than an earlier package.

    Raises JobError (unmarked pieces are named) or Stopped; then nothing of it is left and an earlier one stays.
    """
    chosen = check_only(only)
    check_place(out)
    progress = progress or Progress()
    shop = shop or build(job)
    wanted = named(lens, job, shop, above(job, shop))
    assemblies = [a for a in shop.shipped.values() if wanted(a)]
    if not assemblies:
        raise JobError(
            "There is nothing to produce: "
            + ("the lens lets no piece through." if lens else "the job has no steel yet.")
        )
    marks = Marks(job, shop.carried)
    marks.require(assemblies)
    with written(out) as folder:
        made = _Package(job, shop, marks, wanted, folder, progress).write(chosen, make)
    on = on or date.today().isoformat()
    gone = tuple(issued(job, shop, wanted, on)) if made.sheets else ()
    return msgspec.structs.replace(made, folder=out.absolute(), issued=gone, on=on)


class _Package:
    def __init__(
        self, job: Job, shop: Shop, marks: Marks, wanted: Callable[[Assembly], bool], folder: Folder, progress: Progress
    ) -> None:
        self.job, self.shop, self.marks, self.wanted = job, shop, marks, wanted
        self.folder, self.progress = folder, progress
        self.files: list[Listed] = []
        self.packed: dict[str, str] = {}  # the copy of each sheet that went, by its name
        self.failures = [f"Left out of the package: {f.text}" for found in shop.findings.values() for f in found]
        self.done = 0
        self.lines = assembly_lines(shop, marks, wanted)
        self.parts = part_lines([a for line in self.lines for a in line.assemblies], marks)
        self.weights = {line.mark: (len(line.assemblies), line.first.net, line.first.gross) for line in self.lines}
        for part_line in self.parts:
            part = part_line.first.part
            self.weights[part_line.mark] = (len(part_line.pieces), net_weight(part), gross_weight(part))

    def write(self, chosen: tuple[str, ...], make: Make) -> Made:
        entries = register(self.job, self.shop, self.wanted) if {"sheets", "dxf"} & set(chosen) else []
        pieces = sum(len(line.assemblies) for line in self.lines)
        self.of = (
            len(entries)
            + (len(self.parts) if {"nc", "flat"} & set(chosen) else 0)
            + (pieces if "ifc" in chosen else 0)
            + 1
        )
        self.progress.tell(0, self.of, "drawing sheets" if entries else "writing")
        if entries:
            self._sheets(entries, "sheets" in chosen, "dxf" in chosen, make)
        if {"nc", "flat"} & set(chosen):
            self._worked("nc" in chosen, "flat" in chosen)
        if "bills" in chosen:
            self._bills()
        if "ifc" in chosen:
            self._ifc()
        self._manifest()
        return Made(self.folder.path, tuple(self.files), tuple(self.failures), tuple(entries), self.packed)

    def _step(self, words: str, count: int = 1) -> None:
        if self.progress.stopped():
            raise Stopped
        self.done += count
        self.progress.tell(self.done, self.of, words)

    def _put(self, place: tuple[str, str, str], kind: str, mark: str, data: bytes) -> None:
        """Write one file to its place: folder, a name made of any text, ending."""
        file = self.folder.put(*place, data)
        number, net, gross = self.weights.get(mark, (1, 0.0, 0.0))
        self.files.append(
            Listed(file, kind, mark, number, round(net, 3), round(gross, 3), hashlib.sha256(data).hexdigest())
        )

    def _sheets(self, entries: list[Entry], pdf: bool, dxf: bool, make: Make) -> None:
        kinds = {e.name: e.kind for e in entries}
        work = partial(_drawn, pdf=pdf, dxf=dxf)
        for done in each(work, [e.job for e in entries], self.progress.stopped, 30, make):
            name, drawn = done.item.name, done.result
            self._step(f"sheet {name}")
            if drawn is None:
                self.failures.append(failure_words(name, done.failure))
            else:
                self._keep(name, kinds[name], drawn)
        if self.progress.stopped():
            raise Stopped

    def _keep(self, name: str, kind: str, drawn: _Drawn) -> None:
        mark = name if kind != "erection" else ""
        if drawn.pdf:
            self._put((f"sheets/{kind}", name, ".pdf"), f"{kind} sheet", mark, drawn.pdf)
        for page, data in drawn.dxf:
            self._put((f"dxf/{kind}", page, ".dxf"), f"{kind} dxf", mark, data)
        self.packed[name] = drawn.packed

    def _worked(self, nc: bool, flat: bool) -> None:
        """Each part's NC, proved on the bench before it is kept, and each plate laid flat; of a tube with saddles the pattern."""
        rules = self.job.rules
        within = {p.id: a for line in self.lines for a in line.assemblies for p in a.pieces}
        for line in self.parts:
            self._step(f"part {line.mark}")
            if line.first.part.item is not None:
                continue  # bought as it is
            scribes = scribes_of(line.pieces, within, self.marks.of_part) if rules.layout != "none" else []
            if nc:
                self._nc(line, Marking(rules.stamps, "KO" if rules.layout == "punch" else "PU", scribes))
            if flat and (as_plate(line.first.part).is_plate or is_wrapped(line.first.part)):
                self._put(("flat", line.mark, ".dxf"), "flat", line.mark, flat_dxf(line.first.part, scribes))

    def _nc(self, line: PartLine, marking: Marking) -> None:
        project, part = self.job.project, line.first.part
        texts = (project.name, *forming_words(part, project.units))
        head = Heading(project.number or "-", line.mark, line.mark, len(line.pieces), texts=texts)
        try:
            text = nc_text(part, head, marking)
            wrong = differs(part, read(text))
        except JobError as error:
            wrong = str(error)
        except BenchError as error:
            wrong = f"the bench cannot work it, {error}"
        if wrong:
            self.failures.append(f"NC of {line.mark} was not written: {wrong}.")
            return
        self._put(("nc", line.mark, ".nc1"), "nc", line.mark, text.encode("ascii"))

    def _bills(self) -> None:
        units, project = self.job.project.units, self.job.project
        tables = all_lists(self.shop, self.marks, units, self.wanted, next(iter(self.job.all(Grid)), None))
        for table in tables:
            self._put(("bills", table.name, ".csv"), "bill", "", csv_bytes(table, units))
        heading = f"{project.name} {project.number}".strip()
        self._put(("bills", "bills", ".xlsx"), "bill", "", xlsx_bytes(tables, units, heading))

    def _ifc(self) -> None:
        model = ifc_text(self.job, self.shop, self.marks, self.wanted, lambda: self._step("IFC"))
        name = self.job.project.number or self.job.project.name
        self._put(("", name, ".ifc"), "ifc", "", model.encode("ascii"))

    def _manifest(self) -> None:
        self._step("manifest")
        self.files.sort(key=lambda f: f.file)
        project = self.job.project
        content = {"job": project.name, "number": project.number, "files": self.files, "failures": self.failures}
        self.folder.put("", Path(MANIFEST).stem, ".json", msgspec.json.format(msgspec.json.encode(content), indent=1))


def went_out(job: Job, made: Made) -> list[AnyRecord]:
    """What the job keeps of a package with sheets: the copies that went out and the marks that must not change hands any
    more, as they were when it was made, whatever was done to the job since; nothing where it had no sheets."""
    if not made.sheets:
        return []
    return [
        *sent(made.sheets, made.packed, made.on),
        *(joined(one, job.get(one.id, IssuedMark)) for one in made.issued),
    ]
