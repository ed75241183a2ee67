"""A package: everything chosen, in one folder, with a manifest. Written beside and moved into place, or not at all."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import AbstractContextManager, nullcontext
from datetime import date
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

import msgspec

from uncus.bill.pieces_changed import Changes
from uncus.deliver.folder import MANIFEST, Folder, check_place, written
from uncus.deliver.making import File, Making
from uncus.deliver.outputs import BY_NAME, Output, Work, chosen
from uncus.deliver.stamps import stamped
from uncus.deliver.viewer import ASIDE
from uncus.draw.above import above
from uncus.draw.batch import failure_words
from uncus.draw.drawn import draw_all, going_out
from uncus.draw.entry import Entry
from uncus.draw.inputs import SheetJob
from uncus.draw.issue import packed
from uncus.draw.keeping import sent
from uncus.draw.register import register
from uncus.job.errors import JobError
from uncus.job.holds import held, held_words
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Hold, IssuedMark
from uncus.lens.criteria import named
from uncus.mark.kept import issued, joined
from uncus.mark.lines import assembly_lines, part_lines
from uncus.mark.marking import Marks
from uncus.shop.batch import Done, Make, each, meanwhile, worker_pool
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop, build
from uncus.steel.flat import gross_weight, net_weight

_FEW = 30  # sheets that are drawn sooner than a worker process starts


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


class Written(msgspec.Struct, frozen=True):
    """What came of a piece of work: files, what failed of it, and of a register entry the copy that is kept."""

    files: tuple[File, ...]
    failures: tuple[str, ...] = ()
    packed: str = ""


class DrawWork(NamedTuple):
    """A register entry to be drawn and written, by a worker: it is given plain records."""

    job: SheetJob
    kind: str
    outputs: tuple[str, ...]

    @property
    def words(self) -> str:
        return f"sheet {self.job.name}"

    def done(self) -> Written:
        sheets = draw_all(self.job)
        writers = [write for name in self.outputs if (write := BY_NAME[name].of_sheets)]
        files = tuple(file for write in writers for file in write(self.job.name, self.kind, sheets))
        wrong = tuple(f"Sheet {self.job.name}: {words}" for sheet in sheets for words in sheet.wrong)
        return Written(files, wrong, packed(self.job, sheets))

    def failed(self, why: str) -> str:
        return failure_words(self.job.name, why)


class _PartWork(NamedTuple):
    """A part to be written, by a worker."""

    mark: str
    works: tuple[Work, ...]

    @property
    def words(self) -> str:
        return f"part {self.mark}"

    def done(self) -> Written:
        files: list[File] = []
        failures: list[str] = []
        for work in self.works:
            try:
                files += work()
            except JobError as error:
                failures.append(str(error))
        return Written(tuple(files), tuple(failures))

    def failed(self, why: str) -> str:
        return f"Part {self.mark} could not be written: {why.rstrip('.')}."


_Work = DrawWork | _PartWork


def done(work: _Work) -> Written:
    """A piece of work done, in whatever process."""
    return work.done()


def produce(
    job: Job,
    out: Path,
    lens: str | None = None,
    only: Iterable[str] = (),
    progress: Progress | None = None,
    make: Make = worker_pool,
    shop: Shop | None = None,
    on: str = "",
    kinds: tuple[str, ...] = (),
    more: Mapping[str, Callable[[Made], bytes]] = MappingProxyType({}),
    look: Callable[[Path], None] = lambda folder: None,
    lists: tuple[str, ...] = (),
    about: Mapping[str, str | int] = MappingProxyType({}),
    changes: Changes | None = None,
) -> Made:
    """Write a package to the folder `out`, which must not hold anything else than an earlier package. `kinds` are the
    kinds of sheets that go and `lists` the lists (empty: all), `more` files by name that are made of what has been
    written; `look` is given the whole folder before it is moved into place, and may refuse it by raising; `about` is
    what its manifest says of it besides, `changes` what is different since its receiver's last.

    Raises JobError (unmarked pieces are named) or Stopped; then nothing of it is left and an earlier one stays.
    """
    outputs = chosen(only)
    check_place(out)
    progress = progress or Progress()
    shop = shop or build(job)
    assemblies, kept_out = going(job, shop, lens)
    ids = {a.id for a in assemblies}

    def wanted(a: Assembly) -> bool:
        return a.id in ids

    if not assemblies:
        raise JobError(
            "There is nothing to produce: "
            + (
                "all of its pieces are held by questions."
                if kept_out
                else "the lens lets no piece through."
                if lens
                else "the job has no steel yet."
            )
        )
    marks = Marks(job, shop.carried)
    marks.require(assemblies)
    waiting = held(job)
    left_out = [_held_words(a, marks, [h for id in shop.in_piece(a.id) for h in waiting.get(id, ())]) for a in kept_out]
    on = on or date.today().isoformat()
    with written(out) as folder:
        made = _Package(job, shop, marks, wanted, folder, progress, on, left_out, lists, about, changes).write(
            outputs, make, kinds, more
        )
        look(folder.path)
    gone = tuple(issued(job, shop, wanted, on)) if made.sheets else ()
    return msgspec.structs.replace(made, folder=out.absolute(), issued=gone, on=on)


def going(job: Job, shop: Shop, lens: str | None) -> tuple[list[Assembly], list[Assembly]]:
    """The pieces that a package limited to a lens holds, and those it would hold were they not held by a question."""
    asked, waiting = named(lens, job, shop, above(job, shop)), held(job)
    both = [a for _, a in sorted(shop.shipped.items()) if asked(a)]
    free = [a for a in both if waiting.keys().isdisjoint(shop.in_piece(a.id))]
    ids = {a.id for a in free}
    return free, [a for a in both if a.id not in ids]


def _held_words(assembly: Assembly, marks: Marks, holds: list[Hold]) -> str:
    """Why a piece is not in a package that it would be in."""
    said = "; ".join(map(held_words, holds))
    return f"Left out of the package: {marks.of_assembly(assembly.id) or assembly.words} is held ({said})."


class _Package:
    def __init__(
        self,
        job: Job,
        shop: Shop,
        marks: Marks,
        wanted: Callable[[Assembly], bool],
        folder: Folder,
        progress: Progress,
        on: str,
        left_out: list[str],
        lists: tuple[str, ...],
        about: Mapping[str, str | int],
        changes: Changes | None,
    ) -> None:
        self.job, self.shop, self.wanted, self.about = job, shop, wanted, about
        self.folder, self.progress, self.on = folder, progress, on
        self.files: list[Listed] = []
        self.aside: list[File] = []  # what writers of the whole ask for, and is no file of its own
        self.packed: dict[str, str] = {}  # the copy of each sheet that went, by its name
        made = [f"Left out of the package: {f.text}" for found in shop.findings.values() for f in found]
        self.failures = [*made, *left_out]
        self.done = 0
        lines = assembly_lines(shop, marks, wanted)
        parts = part_lines([a for line in lines for a in line.assemblies], marks)
        within = {p.id: a for line in lines for a in line.assemblies for p in a.pieces}
        self.making = Making(job, shop, marks, wanted, lines, parts, within, self._step, lists, changes)
        self.weights = {line.mark: (len(line.assemblies), line.first.net, line.first.gross) for line in lines}
        for part_line in parts:
            part = part_line.first.part
            self.weights[part_line.mark] = (len(part_line.pieces), net_weight(part), gross_weight(part))

    def write(
        self,
        outputs: tuple[Output, ...],
        make: Make,
        kinds: tuple[str, ...],
        more: Mapping[str, Callable[[Made], bytes]],
    ) -> Made:
        on_sheets = tuple(o.name for o in outputs if o.of_sheets)
        of_parts = [o.of_part for o in outputs if o.of_part]
        entries = register(self.job, self.shop, self.wanted) if on_sheets else []
        entries = [e for e in entries if not kinds or e.kind in kinds]
        parts = self.making.parts if of_parts else []
        self.of = len(entries) + len(parts) + sum(o.steps(self.making) for o in outputs) + 1
        self.progress.tell(0, self.of, "drawing sheets" if entries else "writing")
        works: list[_Work] = [DrawWork(going_out(e, self.on), e.kind, on_sheets) for e in entries]
        for line in parts:
            of_it = (of_part(self.making, line) for of_part in of_parts)
            works.append(_PartWork(line.mark, tuple(work for work in of_it if work is not None)))
        with self._under_way(works, make) as written:
            for output in outputs:
                if output.of_all:
                    self._keep(partial(output.of_all, self.making))
            self._take(works, written)
        for output in outputs:
            if output.of_done:
                self._keep(partial(output.of_done, self.making, entries, self.aside))
        self.files.sort(key=lambda f: f.file)
        so_far = Made(self.folder.path, tuple(self.files), tuple(self.failures), tuple(entries))
        for name, written_of in more.items():
            stem, ending = Path(name).stem, Path(name).suffix
            self._put(File("", stem, ending, stem if ending != ".uncus" else "job", "", written_of(so_far)))
        self._manifest()
        return Made(self.folder.path, tuple(self.files), tuple(self.failures), tuple(entries), self.packed)

    def _step(self, words: str) -> None:
        if self.progress.stopped():
            raise Stopped
        self.done += 1
        self.progress.tell(self.done, self.of, words)

    def _keep(self, write: Callable[[], Iterable[File]]) -> None:
        try:
            for file in write():
                self._put(file)
        except JobError as error:
            self.failures.append(str(error))

    def _put(self, file: File) -> None:
        data = stamped(file.ending, file.data, self.on)
        place = self.folder.put(file.folder, file.name, file.ending, data)
        number, net, gross = self.weights.get(file.mark, (1, 0.0, 0.0))
        digest = hashlib.sha256(data).hexdigest()
        self.files.append(Listed(place, file.kind, file.mark, number, round(net, 3), round(gross, 3), digest))

    def _under_way(self, works: list[_Work], make: Make) -> AbstractContextManager[Iterator[Done[_Work, Written]]]:
        """Sheets and parts as they come, many of them by workers while the rest is written here."""
        if len(works) <= _FEW:
            return nullcontext(each(done, works, self.progress.stopped, _FEW, make))
        return meanwhile(lambda left: each(done, works, lambda: left() or self.progress.stopped(), _FEW, make))

    def _take(self, works: list[_Work], written: Iterator[Done[_Work, Written]]) -> None:
        """Keep what was written; what failed is told in the order in which it was asked for, not as it came."""
        failures: dict[str, tuple[str, ...]] = {}
        for one in written:
            self._step(one.item.words)
            failures[one.item.words] = (one.item.failed(one.failure),) if one.result is None else one.result.failures
            if one.result is not None:
                for file in one.result.files:
                    if file.folder == ASIDE:
                        self.aside.append(file)
                    else:
                        self._put(file)
                if isinstance(one.item, DrawWork):
                    self.packed[one.item.job.name] = one.result.packed
        if self.progress.stopped():
            raise Stopped
        self.failures += [text for work in works for text in failures.get(work.words, ())]

    def _manifest(self) -> None:
        self._step("manifest")
        self.files.sort(key=lambda f: f.file)
        project = self.job.project
        content = {"job": project.name, "number": project.number, **self.about, "files": self.files,
            "failures": self.failures}  # fmt: skip
        self.folder.put("", Path(MANIFEST).stem, ".json", msgspec.json.format(msgspec.json.encode(content), indent=1))


def went_out(job: Job, made: Made) -> list[AnyRecord]:
    """What the job keeps of a package with sheets: the copies that went out and the marks that must not change hands
    any more, as they were when it was made, whatever was done to the job since; nothing where it had no sheets."""
    if not made.sheets:
        return []
    return [
        *sent(made.sheets, made.packed, made.on),
        *(joined(one, job.get(one.id, IssuedMark)) for one in made.issued),
    ]
