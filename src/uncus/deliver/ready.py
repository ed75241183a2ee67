"""Whether a package can go: each thing that must be so, in a line with what stands in the way and where it is."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cache
from typing import NamedTuple

import msgspec

from uncus.bill.sources import Billing
from uncus.check.checking import Stands, look, stand
from uncus.check.looked import Looked
from uncus.deliver.ids_proof import ids_faults
from uncus.deliver.ifc import IFC2X3 as IFC2X3_SCHEMA
from uncus.deliver.ifc import IFC4, global_id, ifc_text
from uncus.deliver.ifc_proof import ifc_faults
from uncus.deliver.ifc_sheets import paper_of
from uncus.deliver.making import Making
from uncus.deliver.outputs import BY_NAME, Work
from uncus.draw.above import above
from uncus.draw.entry import Entry, State
from uncus.draw.register import register
from uncus.job.errors import JobError
from uncus.job.holds import held
from uncus.job.job import Job
from uncus.job.packages import IFC2X3, IFCS, PackageKind
from uncus.job.records import Verdict
from uncus.lens.criteria import named
from uncus.mark.lines import assembly_lines, part_lines
from uncus.mark.marking import Marks
from uncus.reference.step import guid
from uncus.shop.batch import Make, each, worker_pool
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.steel.joint import Severity

Step = Callable[[str], None]


class Line(msgspec.Struct, frozen=True):
    """One thing that must be so: by what name, in words, whether it is, what stands in its way and the pieces, sheets
    or records that it is about."""

    name: str
    words: str
    ok: bool
    against: tuple[str, ...] = ()
    about: tuple[str, ...] = ()
    must: bool = True

    @property
    def stops(self) -> bool:
        return self.must and not self.ok


class _Asked(NamedTuple):
    """What is looked at: a job, its steel, what of it goes, and the kind of package."""

    job: Job
    shop: Shop
    marks: Marks
    kind: PackageKind
    chosen: list[Assembly]
    looked: Looked
    step: Step
    stopped: Callable[[], bool]
    asks: str  # of the model, by its receiver: the text of an IDS file
    model: Callable[[], str]  # as it goes, in IFC
    entries: Callable[[], list[Entry]]  # of the register
    make: Make  # what makes the workers that do much of the same


class Check(NamedTuple):
    words: str
    look: Callable[[_Asked], tuple[list[str], list[str]] | None]  # None where the kind has nothing of it


def _marked(asked: _Asked) -> tuple[list[str], list[str]]:
    found, about = [], []
    for assembly in asked.chosen:
        if own := asked.marks.unmarked([assembly]):
            found += own
            about.append(assembly.id)
    return found, about


def _sheets(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Sheets that went out and are not as they were then, and say no revision."""
    if not BY_NAME.keys() & {"sheets", "dxf", "page"} & set(asked.kind.outputs):
        return None
    ids = {a.id for a in asked.chosen}
    entries = [e for e in asked.entries() if (e.kind == "erection" or not ids.isdisjoint(e.pieces))
        and (not asked.kind.sheets or e.kind in asked.kind.sheets)]  # fmt: skip
    stale = [e for e in entries if e.state is State.STALE]
    return [f"{e.kind} sheet {e.name} has changed since it went out" for e in stale], [e.name for e in stale]


def _revised(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Sheets that go again changed and have no revision noted."""
    if not asked.kind.outputs or "sheets" not in asked.kind.outputs:
        return None
    ids = {a.id for a in asked.chosen}
    bare = [e for e in asked.entries() if e.state is State.STALE and not e.revision
        and (e.kind == "erection" or not ids.isdisjoint(e.pieces))]  # fmt: skip
    return [f"sheet {e.name} goes out changed without a revision" for e in bare], [e.name for e in bare]


def _findings(asked: _Asked) -> tuple[list[str], list[str]]:
    """What Check has found and nobody has settled, of the severity that counts."""
    order = list(Severity)
    least = order.index(Severity(asked.kind.severity))
    told = stand(look(asked.looked, lambda done, of, words: asked.step(words), asked.stopped), asked.job.all(Verdict))
    ids = {p.id for a in asked.chosen for p in a.pieces} | {a.id for a in asked.chosen}
    whole = {m for a in asked.chosen for m in asked.shop.in_piece(a.id)}
    open_ = [t for t in told if t.stands in (Stands.OPEN, Stands.BACK) and order.index(t.found.severity) <= least
        and (not t.found.about or not whole.isdisjoint(asked.looked.members_of(t.found)) or not ids.isdisjoint(
        t.found.about))]  # fmt: skip
    return [t.found.text for t in open_], [t.found.key for t in open_]


def _nc(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Parts whose NC the bench does not prove; what the format has no way to say is not NC's."""
    if "nc" not in asked.kind.outputs:
        return None
    lines = assembly_lines(asked.shop, asked.marks, lambda a: a in asked.chosen)
    parts = part_lines([a for line in lines for a in line.assemblies], asked.marks)
    within = {p.id: a for line in lines for a in line.assemblies for p in a.pieces}
    making = Making(asked.job, asked.shop, asked.marks, lambda a: True, lines, parts, within, asked.step)
    of_part = BY_NAME["nc"].of_part
    assert of_part is not None
    works = [_Proof(line.mark, work) for line in parts if (work := of_part(making, line)) is not None]
    wrong = {}
    for done in each(_proved, works, asked.stopped, _FEW, asked.make):
        asked.step(f"NC of {done.item.mark}")
        if done.failure and _NO_WAY not in done.failure:
            wrong[done.item.mark] = done.failure
    if asked.stopped():
        raise JobError("Stopped; not everything was looked at.")
    return [wrong[one.mark] for one in works if one.mark in wrong], [one.mark for one in works if one.mark in wrong]


class _Proof(NamedTuple):
    """A part's NC to be written and proved, by a worker."""

    mark: str
    work: Work


def _proved(one: _Proof) -> None:
    one.work()


_FEW = 400  # parts that are proved sooner than a worker process starts
_NO_WAY = "which the format has no face for"  # as the NC writer says of a saddle


def _lists(asked: _Asked) -> tuple[list[str], list[str]]:
    """Whether the lists of assemblies, parts and bought items add up to the steel that goes."""
    from uncus.bill.listing import listed, template_named
    from uncus.bill.table import total

    chosen = [a for a in asked.chosen if not asked.marks.unmarked([a])]  # the others are told by “marked”
    ids = {a.id for a in chosen}
    of = Billing(asked.job, asked.shop, asked.marks, lambda a: a.id in ids)
    steel = sum(a.gross for a in chosen)
    bought = sum(a.bought for a in chosen)
    found = []
    for name, wanted in (("assemblies", steel), ("parts", steel), ("bought", bought)):
        template = template_named((), name)
        at = [c.what for c in template.columns].index("weight")
        came = total(listed(template, of), at)
        if abs(came - wanted) > 1e-6 * max(1.0, wanted):
            found.append(f"the list of {name} comes to {came:.1f} kg and the steel that goes to {wanted:.1f}")
    return found, []


def _held(asked: _Asked) -> tuple[list[str], list[str]]:
    waiting = held(asked.job)
    found = [a for a in asked.chosen if not waiting.keys().isdisjoint(asked.shop.in_piece(a.id))]
    return [f"{asked.marks.of_assembly(a.id) or a.words} is held by a question" for a in found], [a.id for a in found]


def _ifc(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Whether the IFC model can be opened again, is valid and holds every piece."""
    if set(IFCS).isdisjoint(asked.kind.outputs):
        return None
    words = {guid(a.id): asked.marks.of_assembly(a.id) or a.words for a in asked.chosen}
    return ifc_faults(asked.model(), words, asked.step), []


def _ids(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Whether the IFC model is as its receiver's IDS file asks; nothing where he gave none."""
    if not asked.asks or set(IFCS).isdisjoint(asked.kind.outputs):
        return None
    try:
        found = ids_faults(asked.model(), asked.asks, asked.step, asked.stopped)
    except JobError as error:
        if asked.stopped():
            raise
        return [str(error)], [""]
    owner = {guid(a.id): a.id for a in asked.chosen}
    owner |= {global_id(p): a.id for a in asked.chosen for p in a.pieces}
    return [one.sentence for one in found], [owner.get(one.guid, "") for one in found]


def _written(asked: _Asked) -> str:
    """The model as it would go."""
    ids = {a.id for a in asked.chosen}
    schema = IFC2X3_SCHEMA if IFC2X3 in asked.kind.outputs else IFC4
    return ifc_text(asked.job, asked.shop, asked.marks, lambda a: a.id in ids, lambda: asked.step("IFC"), schema,
        paper_of(asked.entries()))  # fmt: skip


def _left_out(asked: _Asked) -> tuple[list[str], list[str]] | None:
    """Pieces that the kind's lens does not let through, so that nobody misses them unawares."""
    if not asked.kind.lens:
        return None
    ids = {a.id for a in asked.chosen}
    out = [a for id, a in sorted(asked.shop.shipped.items()) if id not in ids]
    lens = asked.kind.lens
    return [f"{asked.marks.of_assembly(a.id) or a.words} is left out by the lens {lens}" for a in out], [
        a.id for a in out
    ]


CHECKS: dict[str, Check] = {
    "marked": Check("Every piece is marked as it is", _marked),
    "held": Check("No piece is held by a question", _held),
    "findings": Check("No finding is open", _findings),
    "sheets": Check("No sheet is stale", _sheets),
    "revised": Check("What goes again changed says its revision", _revised),
    "nc": Check("Every NC file is proved on the bench", _nc),
    "ifc": Check("The IFC model is valid and whole", _ifc),
    "ids": Check("The IFC model is as its receiver asks", _ids),
    "left out": Check("No piece is left out by a lens", _left_out),
    "lists": Check("Lists add up to the steel", _lists),
}


def ready(
    job: Job,
    shop: Shop,
    kind: PackageKind,
    step: Step = lambda words: None,
    stopped: Callable[[], bool] = lambda: False,
    asks: str = "",
    make: Make = worker_pool,
) -> list[Line]:
    """Every check that a kind of package has something of, of what would go; what is not a must is told as well.
    `asks`: what its receiver asks of the IFC model, as the text of an IDS file. Raises JobError where nothing would
    go."""
    asked = _asked(job, shop, kind, step, stopped, asks, make)
    found = []
    for name, check in CHECKS.items():
        step(check.words)
        if (seen := check.look(asked)) is None:
            continue
        against, about = seen
        found.append(Line(name, check.words, not against, tuple(against), tuple(about), name in kind.must))
    return found


def _asked(
    job: Job, shop: Shop, kind: PackageKind, step: Step, stopped: Callable[[], bool], asks: str, make: Make
) -> _Asked:
    lets = named(kind.lens or None, job, shop, above(job, shop))
    chosen = [a for _, a in sorted(shop.shipped.items()) if lets(a)]
    if not chosen:
        why = "its lens lets no piece through" if kind.lens else "the job has no steel yet"
        raise JobError(f"Nothing would go into a package “{kind.name}”: {why}.")
    marks = Marks(job, shop.carried)
    asked = _Asked(job, shop, marks, kind, chosen, Looked(job, shop, marks), step, stopped, asks,
        cache(lambda: _written(asked)), cache(lambda: register(job, shop)), make)  # fmt: skip
    return asked


def in_the_way(lines: Sequence[Line]) -> Iterator[str]:
    """What stands in the way, in sentences."""
    for line in lines:
        if line.stops:
            some = "; ".join(line.against[:3]) + (f" and {len(line.against) - 3} more" if len(line.against) > 3 else "")
            yield f"{line.words}: not so: {some}."
