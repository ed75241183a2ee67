"""The register: every sheet a job needs, what each is made from, and how it stands to what was sent."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Callable
from enum import StrEnum
from functools import lru_cache

import msgspec

from uncus.draw import erection, piece_sheet
from uncus.draw.erection import PlanJob
from uncus.draw.piece_sheet import PieceJob
from uncus.draw.sheet import Sheet
from uncus.draw.subject import Subject, of_assembly
from uncus.job.job import Job
from uncus.job.records import Grid, Level, Role, Sent
from uncus.mark.lines import assembly_lines, part_lines
from uncus.mark.marking import Marks, assembly_content, part_content
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts
from uncus.steel.forming import laid_flat
from uncus.steel.joint import FastenerKind

SheetJob = PieceJob | PlanJob


class State(StrEnum):
    NEW = "not sent"
    CURRENT = "current"
    STALE = "stale"


class Entry(msgspec.Struct, frozen=True):
    """A line of the register; `pieces` are the assemblies (or the owners of the parts) it shows."""

    job: SheetJob
    title: str
    kind: str
    pieces: tuple[str, ...]
    state: State

    @property
    def name(self) -> str:
        return self.job.name


def draw(job: SheetJob) -> Sheet:
    """The sheet of a register entry; can run in any process."""
    return piece_sheet.draw(job) if isinstance(job, PieceJob) else erection.draw(job)


@lru_cache(maxsize=256)
def drawn(content: str, job_key: _Keyed) -> Sheet:
    return draw(job_key.job)


class _Keyed:
    """Carries a sheet's job past a cache that looks at its fingerprint only."""

    def __init__(self, job: SheetJob) -> None:
        self.job = job

    def __hash__(self) -> int:
        return 0

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Keyed)


def sheet(entry: Entry) -> Sheet:
    """An entry's sheet, drawn once for as long as its input stays the same."""
    return drawn(entry.job.content, _Keyed(entry.job))


def _fingerprint(*parts: object) -> str:
    return hashlib.sha256(msgspec.json.encode(parts)).hexdigest()[:16]


def register(job: Job, shop: Shop, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[Entry]:
    """Every sheet of a marked job: plans, then assemblies, then parts, in the order people read them."""
    marks, sent = Marks(job), {s.sheet: s for s in job.all(Sent)}
    lines = assembly_lines(shop, marks, wanted)
    entries: list[Entry] = []

    def enter(one: SheetJob, title: str, kind: str, pieces: tuple[str, ...]) -> None:
        before = sent.get(one.name)
        state = State.NEW if before is None else State.CURRENT if before.content == one.content else State.STALE
        entries.append(Entry(one, title, kind, pieces, state))

    for plan in _plans(job, shop, marks, [a for line in lines for a in line.assemblies]):
        enter(plan, f"plan: {plan.level.name}", "erection", tuple(m.id for _, m in plan.members))
    for line in lines:
        one = _assembly_job(job, line.mark, line.assemblies, marks)
        enter(one, f"{one.role} {line.first.member.section}", "assembly", tuple(a.id for a in line.assemblies))
    for part_line in part_lines([a for line in lines for a in line.assemblies], marks):
        piece = part_line.first
        if piece.part.item is not None:
            continue  # bought as it is: nobody makes it from a sheet
        project = job.project
        content = _fingerprint(part_content(piece.part), part_line.mark, len(part_line.pieces), project)
        one = PieceJob(
            part_line.mark,
            "part",
            Subject(laid_flat(piece.part)),
            ((part_line.mark, piece.part, 1),),
            len(part_line.pieces),
            piece.words,
            _on(part_line.pieces, marks),
            (),
            (),
            project.name,
            project.number,
            piece.part.finish,
            job.rules.electrode,
            project.units,
            content,
        )
        enter(one, piece.words, "part", tuple(dict.fromkeys(p.owner for p in part_line.pieces)))
    return entries


def _on(pieces: tuple, marks: Marks) -> tuple[str, ...]:  # type: ignore[type-arg]
    """The assemblies a part goes into."""
    counts = Counter(marks.of_assembly(p.owner) for p in pieces)
    return tuple(f"{n} on {mark}" for mark, n in counts.items())


def _assembly_job(job: Job, mark: str, assemblies: tuple[Assembly, ...], marks: Marks) -> PieceJob:
    first, project = assemblies[0], job.project
    grid = next(iter(job.all(Grid)), None)
    counted: dict[str, list] = {}  # type: ignore[type-arg]
    for piece in first.pieces:
        row = counted.setdefault(marks.of_part(piece.id), [piece.part, 0])
        row[1] += 1
    rows = tuple((m, part, n) for m, (part, n) in counted.items())
    places = tuple(dict.fromkeys(whereabouts(grid, a) for a in assemblies))
    content = _fingerprint(
        assembly_content(first),
        mark,
        [m for m, _, _ in rows],
        len(assemblies),
        places,
        project,
        [(h.size, h.length, len(h.points), h.field) for h in first.holds],
        [(w.size, w.sides) for w in first.site_welds],
    )
    return PieceJob(
        mark,
        "assembly",
        of_assembly(first, marks),
        rows,
        len(assemblies),
        str(first.member.role),
        places,
        first.holds,
        first.site_welds,
        project.name,
        project.number,
        first.main.part.finish,
        job.rules.electrode,
        project.units,
        content,
    )


def _plans(job: Job, shop: Shop, marks: Marks, assemblies: list[Assembly]) -> list[PlanJob]:
    levels = sorted(job.all(Level), key=lambda level: level.elevation)
    grid = next(iter(job.all(Grid)), None)
    by_level: dict[str, list[Assembly]] = {}
    for assembly in assemblies:
        level = erection.level_of(levels, assembly.member)
        if level is not None:
            by_level.setdefault(level.id, []).append(assembly)
    upright = sorted((a for a in assemblies if a.member.role in (Role.COLUMN, Role.POST)), key=lambda a: a.id)
    plans = []
    shown = [level for level in levels if level.id in by_level]
    for number, level in enumerate(shown, 1):
        here = sorted(by_level[level.id], key=lambda a: a.id)
        own = {a.id for a in here}
        members = tuple((marks.of_assembly(a.id), a.member) for a in here)
        rods = tuple(h for a in here for h in a.holds if h.kind is FastenerKind.ROD)
        through = tuple(a.member for a in upright if a.id not in own and erection.passes(a.member, level))
        plan = PlanJob(
            f"E{number}",
            level,
            grid,
            members,
            through,
            rods,
            job.project.name,
            job.project.number,
            job.project.units,
            "",
        )
        plans.append(msgspec.structs.replace(plan, content=erection.content_of(plan)))
    return plans
