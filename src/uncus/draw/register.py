"""The register: every sheet a job needs, what each is made from, and how it stands to what was sent."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from uncus.draw.entries import anchor_plans, assemblies, parts, plans, plates, schedules, site_plans, view_frames
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry, State
from uncus.draw.histories import History, current, kept
from uncus.draw.issue import opened
from uncus.draw.kept import Kept
from uncus.job.errors import JobError
from uncus.job.holds import held
from uncus.job.job import Job
from uncus.job.records import Level, SheetPreset, ViewFrame
from uncus.mark.lines import assembly_lines
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop

# as people read them; plates gives parts as well
_KINDS = (
    site_plans,
    anchor_plans,
    plans,
    view_frames,
    schedules,
    assemblies,
    plates,
)
KINDS = (plans.KIND, assemblies.KIND, parts.KIND, plates.KIND)  # of sheets, as a package takes or leaves them


def register(job: Job, shop: Shop, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[Entry]:
    """Every sheet of a marked job that shows something wanted: those of the site, plans, views, schedules,
    assemblies, parts."""
    marks = Marks(job, shop.carried)
    lines = assembly_lines(shop, marks)
    alive = {p.id for a in shop.assemblies.values() for p in a.pieces}
    alive |= {level.id for level in job.all(Level)} | {frame.id for frame in job.all(ViewFrame)}
    alive |= {*anchor_plans.OWN, *site_plans.OWN, *schedules.OWN}
    needs = Needs(
        job,
        shop,
        marks,
        lines,
        frozenset(a.id for line in lines for a in line.assemblies if wanted(a)),
        Kept(job, current(job, marks, lines), alive),
        job.all(SheetPreset),
        held(job),
    )
    return [entry for kind in _KINDS for entry in kind.entries(needs)]


def past(job: Job, shop: Shop, entries: Sequence[Entry] | None = None) -> list[Entry]:
    """Sheets of any kind that went out and are no more: superseded, with those that have their pieces now, or gone.
    `entries`: the whole register, where it is at hand."""
    there = register(job, shop) if entries is None else entries
    shown = [one for entry in there for one in (entry, *entry.plates)]
    followed = {one.issue.id for one in shown if one.issue is not None}
    found = []
    for h in kept(job):
        if h.issue is None or not h.kind or h.issue.id in followed:
            continue
        try:
            old, _ = opened(h.issue.packed)
        except JobError:
            continue  # its record says so where it is looked at
        names = heirs(h, there)
        found.append(
            Entry(
                job=old,
                title=f"sent {h.issue.on}",
                kind=h.kind,
                pieces=(),
                state=State.SUPERSEDED if names else State.GONE,
                piece=h.piece,
                hand=h.drawing,
                issue=h.issue,
                own=tuple(sorted(h.pieces)),
                heirs=names,
                keeper=h.piece,
            )
        )
    return found


def heirs(h: History, entries: Iterable[Entry]) -> tuple[str, ...]:
    """The sheets on which pieces of a history are now that goes on with none of them."""
    kinds = ("part", "plates") if h.kind in ("part", "plates") else (h.kind,)
    return tuple(e.name for e in entries if e.kind in kinds and h.pieces.intersection(e.own))
