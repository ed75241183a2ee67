"""The register: every sheet a job needs, what each is made from, and how it stands to what was sent."""

from __future__ import annotations

import hashlib
from collections import Counter, OrderedDict
from collections.abc import Callable
from enum import StrEnum
from typing import Any

import msgspec

from uncus.draw import erection, gathered, piece_sheet
from uncus.draw.erection import PlanJob
from uncus.draw.gathered import GatheredJob
from uncus.draw.gathering import of_assembly
from uncus.draw.histories import History, Place, heirs, kept, matched
from uncus.draw.inputs import SheetJob, printed
from uncus.draw.issue import clouded, opened, reasons
from uncus.draw.piece_sheet import PieceJob
from uncus.draw.preset import preset_for
from uncus.draw.sheet import Sheet
from uncus.draw.subject import of_part
from uncus.draw.template import SMALL, template
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Drawing, Grid, Issue, Level, Role, Sent, SheetPreset
from uncus.mark.lines import assembly_lines, part_lines
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.shop.whereabouts import whereabouts
from uncus.steel.joint import FastenerKind


class State(StrEnum):
    NEW = "not sent"
    CURRENT = "current"
    STALE = "stale"
    SUPERSEDED = "superseded"
    GONE = "gone"


PAST = (State.SUPERSEDED, State.GONE)


class Entry(msgspec.Struct, frozen=True):
    """A line of the register; `pieces` are the assemblies (or the owners of the parts) it shows, `piece` the one that it is
    drawn from, `keeper` that by which what is kept of it is kept, `own` all that it shows; `issue` the copy that went out
    last; `plates` what a sheet of several shows, each kept by itself; `heirs` the sheets that took the place of one that is superseded."""

    job: SheetJob
    title: str
    kind: str
    pieces: tuple[str, ...]
    state: State
    piece: str = ""
    hand: Drawing | None = None
    issue: Issue | None = None
    plates: tuple[Entry, ...] = ()
    own: tuple[str, ...] = ()
    heirs: tuple[str, ...] = ()
    keeper: str = ""

    @property
    def name(self) -> str:
        return self.job.name

    @property
    def revision(self) -> str:
        return self.hand.revisions[-1].mark if self.hand and self.hand.revisions else ""


_WHY: OrderedDict[tuple[str, str], list[str]] = OrderedDict()
_REASONS = 5000  # sheets whose reasons are kept at hand


def why(entry: Entry) -> list[str]:
    """Why a sheet is stale, superseded or gone, in words; a copy that cannot be compared says so."""
    if entry.state is State.SUPERSEDED:
        return [f"its pieces are on {' and '.join(entry.heirs)} now"]
    if entry.state is State.GONE:
        return ["all of its pieces are gone"]
    if entry.state is not State.STALE:
        return []
    if entry.issue is None:
        return ["sent before copies were kept; what changed is not known"]
    key = entry.issue.id, entry.job.content  # comparing opens the copy: once for as long as both stay the same
    found = _WHY.get(key)
    if found is None:
        try:
            found = reasons(opened(entry.issue.packed)[0], entry.job) or ["it would print otherwise"]
        except JobError as error:
            found = [str(error)]
        _WHY[key] = found
        while len(_WHY) > _REASONS:
            _WHY.popitem(last=False)
    return found


def draw(job: SheetJob) -> Sheet:
    """The first sheet of a register entry; can run in any process."""
    return draw_all(job)[0]


def draw_all(job: SheetJob) -> tuple[Sheet, ...]:
    """All sheets of a register entry: a plan has one, a piece as many as it needs; revised ones with clouds round what changed
    since they last went out."""
    match job:
        case PieceJob():
            found = piece_sheet.draw_all(job)
        case GatheredJob():
            found = gathered.draw(job)
        case PlanJob():
            found = (erection.draw(job),)
    return clouded(opened(job.since)[1], found) if job.since else found


_DRAWN: OrderedDict[str, tuple[Sheet, ...]] = OrderedDict()
_SMALL = 400.0  # mm: larger plates have a sheet of their own, where they read
_MOST = 512  # entries whose sheets are kept at hand


def _printed(entry: Entry) -> str:
    """The fingerprint of what a sheet prints: its input, and what its title says of revisions."""
    return _fingerprint(entry.job.content, entry.hand, entry.job.since)


def sheets(entry: Entry) -> tuple[Sheet, ...]:
    """An entry's sheets, drawn once for as long as their input stays the same."""
    if entry.issue is not None and entry.state in PAST:
        return opened(entry.issue.packed)[1]
    key = _printed(entry)
    found = _DRAWN.get(key)
    if found is None:
        return keep_drawn(entry, draw_all(entry.job))
    _DRAWN.move_to_end(key)
    return found


def paper_and_pages(entry: Entry) -> tuple[str, str]:
    """A sheet's paper and how many pages it has, in words; those not drawn yet say only what paper they will have."""
    found = _DRAWN.get(_printed(entry))
    if found is None:
        return _asked_paper(entry.job), ""
    return next((w for s in found[0].spots if s.key == "title|paper" for w, _ in s.texts), ""), str(len(found))


def _asked_paper(job: SheetJob) -> str:
    """The paper a job asks for; a plan takes what it needs."""
    if isinstance(job, PlanJob):
        return ""
    first = job.jobs[0] if isinstance(job, GatheredJob) else job
    return template(first.preset.paper or SMALL[first.units], first.preset.template).name


def keep_drawn(entry: Entry, found: tuple[Sheet, ...]) -> tuple[Sheet, ...]:
    """Keep sheets that were drawn elsewhere."""
    _DRAWN[_printed(entry)] = found
    while len(_DRAWN) > _MOST:
        _DRAWN.popitem(last=False)
    return found


def _fingerprint(*parts: object) -> str:
    return hashlib.sha256(msgspec.json.encode(parts)).hexdigest()[:16]


def register(job: Job, shop: Shop, wanted: Callable[[Assembly], bool] = lambda _: True) -> list[Entry]:
    """Every sheet of a marked job: plans, then assemblies, then parts, in the order people read them."""
    marks = Marks(job, shop.carried)
    lines = assembly_lines(shop, marks, wanted)
    alive = {p.id for a in shop.assemblies.values() for p in a.pieces} | {level.id for level in job.all(Level)}
    known = _Kept(job, _places(job, shop, marks), alive)
    entries: list[Entry] = []
    waiting: list[Entry] = []  # plates that go several to a sheet

    def gather(least: int) -> None:
        """Those that wait, on a sheet of their own once they are enough."""
        if not waiting or len(waiting) < least:
            return
        plates = tuple(waiting)
        waiting.clear()
        jobs = tuple(one.job for one in plates if isinstance(one.job, PieceJob))
        name = f"{jobs[0].name}-{jobs[-1].name}" if len(jobs) > 1 else jobs[0].name
        own = tuple(one.piece for one in plates)
        issue = known.issue("plates", own, name)
        _, hand = known.drawing("plates", own, name)
        together = printed(GatheredJob(name, jobs, "", hand, known.since(issue, hand)))
        pieces = tuple(dict.fromkeys(p for one in plates for p in one.pieces))
        enter(together, f"{len(jobs)} plates", "plates", pieces, own, plates)

    def entry(
        one: SheetJob,
        title: str,
        kind: str,
        pieces: tuple[str, ...],
        own: tuple[str, ...],
        plates: tuple[Entry, ...] = (),
    ) -> Entry:
        piece, hand = known.drawing(kind, own, one.name)
        issue = known.issue(kind, own, one.name)
        return Entry(
            one,
            title,
            kind,
            pieces,
            known.state(one, issue),
            piece,
            hand,
            issue,
            plates,
            own,
            (),
            known.keeper(kind, own, one.name),
        )

    def enter(*what: Any) -> None:
        entries.append(entry(*what))

    for plan in _plans(job, shop, marks, [a for line in lines for a in line.assemblies]):
        level = (plan.level.id,)
        _, hand = known.drawing("erection", level, plan.name)
        since = known.since(known.issue("erection", level, plan.name), hand)
        made = printed(msgspec.structs.replace(plan, hand=hand, since=since))
        enter(made, f"plan: {plan.level.name}", "erection", tuple(m.id for _, m in plan.members), level)
    presets = job.all(SheetPreset)
    for line in lines:
        own = tuple(a.id for a in line.assemblies)
        drawn_from, hand = known.drawing("assembly", own, line.mark)
        one = _assembly_job(job, shop, line.mark, line.assemblies, marks, drawn_from, hand, presets)
        one = msgspec.structs.replace(one, since=known.since(known.issue("assembly", own, line.mark), hand))
        members = tuple(m for id in own for m in shop.in_piece(id))
        enter(printed(one), f"{one.role} {line.first.member.section}", "assembly", members, own)
    for part_line in part_lines([a for line in lines for a in line.assemblies], marks):
        piece = part_line.first
        if piece.part.item is not None:
            continue  # bought as it is: nobody makes it from a sheet
        project = job.project
        own = tuple(p.id for p in part_line.pieces)
        _, hand = known.drawing("part", own, part_line.mark)
        preset = preset_for(presets, "part", piece.words, hand.preset if hand else "")
        one = PieceJob(
            part_line.mark,
            "part",
            of_part(piece.part),
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
            "",
            hand=hand,
            preset=preset,
            since=known.since(known.issue("part", own, part_line.mark), hand),
        )
        pieces = tuple(dict.fromkeys(p.owner for p in part_line.pieces))
        if preset.several > 1 and piece.part.is_plate and max(piece.part.length, piece.part.width) <= _SMALL:
            waiting.append(entry(printed(one), piece.words, "part", pieces, own))
            gather(preset.several)
            continue
        enter(printed(one), piece.words, "part", pieces, own)
    gather(1)
    return entries


def _places(job: Job, shop: Shop, marks: Marks) -> list[Place]:
    """Every sheet of assemblies and of parts that the whole job has now; none where nothing is kept that could be matched."""
    if next(iter(job.all(Issue)), None) is None and next(iter(job.all(Drawing)), None) is None:
        return []
    lines = assembly_lines(shop, marks)
    found = [Place("assembly", line.mark, tuple(a.id for a in line.assemblies)) for line in lines]
    parts = part_lines([a for line in lines for a in line.assemblies], marks)
    return found + [Place("part", line.mark, tuple(p.id for p in line.pieces)) for line in parts]


def past(job: Job, shop: Shop) -> list[Entry]:
    """Sheets that went out and are no more: superseded, with those that have their pieces now, or gone."""
    marks = Marks(job, shop.carried)
    places = _places(job, shop, marks)
    histories = kept(job)
    followed = {(h.kind, h.piece) for h in matched(histories, places).values()}
    found = []
    for h in histories:
        if h.issue is None or h.kind not in ("assembly", "part") or (h.kind, h.piece) in followed:
            continue
        try:
            old, _ = opened(h.issue.packed)
        except JobError:
            continue  # its record says so where it is looked at
        names = heirs(h, places)
        state = State.SUPERSEDED if names else State.GONE
        title = f"sent {h.issue.on}"
        found.append(
            Entry(
                old, title, h.kind, (), state, h.piece, h.drawing, h.issue, (), tuple(sorted(h.pieces)), names, h.piece
            )
        )
    return found


class _Kept:
    """What is kept of sheets, by their histories."""

    def __init__(self, job: Job, places: list[Place], alive: set[str]) -> None:
        self.sent = {s.sheet: s for s in job.all(Sent)}
        self.histories = kept(job)
        self.of = matched(self.histories, places)
        self.alive = alive
        self.taken = {(h.kind, h.piece) for h in self.histories}

    def _history(self, kind: str, own: tuple[str, ...], name: str) -> History | None:
        """Assemblies' and parts' by all places at once; a plan's by its level, a sheet of several plates' by any of them, by its
        name only where they are gone."""
        if kind in ("assembly", "part"):
            return self.of.get((kind, name))
        one = [
            h
            for h in self.histories
            if h.kind == kind and (h.pieces.intersection(own) or h.pieces.isdisjoint(self.alive))
        ]
        return matched(one, [Place(kind, name, own)]).get((kind, name)) if one else None

    def keeper(self, kind: str, own: tuple[str, ...], name: str) -> str:
        """By what a sheet's history is kept; of a new one by a piece that no other history is kept by, or by its name too."""
        found = self._history(kind, own, name)
        if found is not None or not own:
            return found.piece if found else ""
        return next((id for id in own if (kind, id) not in self.taken), f"{own[0]} as {name}")

    def drawing(self, kind: str, own: tuple[str, ...], name: str) -> tuple[str, Drawing | None]:
        """The piece a sheet is drawn from, and what was done to it by hand."""
        found = self._history(kind, own, name)
        hand = found.drawing if found else None
        return (hand.piece if hand and hand.piece in own else own[0] if own else ""), hand

    def issue(self, kind: str, own: tuple[str, ...], name: str) -> Issue | None:
        found = self._history(kind, own, name)
        return found.issue if found else None

    def since(self, issue: Issue | None, hand: Drawing | None) -> str:
        """The copy that a sheet under revision is clouded against; none where its last revision went out already."""
        under_way = (
            hand is not None and hand.revisions and issue is not None and issue.revision != hand.revisions[-1].mark
        )
        return issue.packed if under_way and issue else ""

    def state(self, one: SheetJob, issue: Issue | None) -> State:
        before = self.sent.get(one.name)
        if issue is None and before is None:
            return State.NEW
        if one.content == (issue.content if issue else before.content if before else ""):
            return State.CURRENT
        return State.CURRENT if issue is not None and _sent_as(issue) == one.content else State.STALE


_SENT: OrderedDict[str, str] = OrderedDict()


def _sent_as(issue: Issue) -> str:
    """The fingerprint of a copy as it would be taken today, which one of an older version may have taken otherwise; none for a
    copy that cannot be read."""
    found = _SENT.get(issue.id)
    if found is None:
        try:
            found = printed(opened(issue.packed)[0]).content
        except JobError:
            found = ""
        _SENT[issue.id] = found
        while len(_SENT) > _REASONS:
            _SENT.popitem(last=False)
    return found


def _on(pieces: tuple, marks: Marks) -> tuple[str, ...]:  # type: ignore[type-arg]
    """The assemblies a part goes into."""
    counts = Counter(marks.of_assembly(p.owner) for p in pieces)
    return tuple(f"{n} on {mark}" for mark, n in counts.items())


def _assembly_job(
    job: Job,
    shop: Shop,
    mark: str,
    assemblies: tuple[Assembly, ...],
    marks: Marks,
    drawn_from: str,
    hand: Drawing | None,
    presets: list[SheetPreset],
) -> PieceJob:
    first, project = next((a for a in assemblies if a.id == drawn_from), assemblies[0]), job.project
    preset = preset_for(presets, "assembly", str(first.member.role), hand.preset if hand else "")
    grid = next(iter(job.all(Grid)), None)
    counted: dict[str, list] = {}  # type: ignore[type-arg]
    for piece in first.pieces:
        row = counted.setdefault(marks.of_part(piece.id), [piece.part, 0])
        row[1] += 1
    rows = tuple((m, part, n) for m, (part, n) in counted.items())
    places = tuple(dict.fromkeys(whereabouts(grid, a) for a in assemblies))
    return PieceJob(
        mark,
        "assembly",
        of_assembly(first, marks, shop, job),
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
        "",
        first.member.camber,
        hand,
        preset,
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
        plans.append(plan)
    return plans
