"""Sheets of register entries: drawn once for as long as their input stays the same."""

from __future__ import annotations

from msgspec.structs import replace

from uncus.caches import Cache
from uncus.draw import anchor_plan, erection, gathered, piece_sheet, schedules, site_plan, view_sheet
from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.entry import PAST, Entry
from uncus.draw.erection import PlanJob
from uncus.draw.gathered import GatheredJob
from uncus.draw.inputs import SheetJob, of_values
from uncus.draw.issue import clouded, opened
from uncus.draw.piece_job import PieceJob
from uncus.draw.schedules import ScheduleJob
from uncus.draw.sheet import Sheet
from uncus.draw.site_plan import SiteJob
from uncus.draw.template import SMALL, template
from uncus.draw.view_job import ViewJob

_SOLIDS, _LINES = 60, 400  # parts drawn as solids, members as lines, that take half a second
_DRAWN: Cache[str, tuple[Sheet, ...]] = Cache(512)


def draw(job: SheetJob) -> Sheet:
    """The first sheet of a register entry; can run in any process."""
    return draw_all(job)[0]


def draw_all(job: SheetJob) -> tuple[Sheet, ...]:
    """All sheets of a register entry: a plan has one, a piece as many as it needs; revised ones with clouds round
    what changed since they last went out."""
    match job:
        case PieceJob():
            found = piece_sheet.draw_all(job)
        case GatheredJob():
            found = gathered.draw(job)
        case PlanJob():
            found = (erection.draw(job),)
        case AnchorJob():
            found = anchor_plan.draw(job)
        case ViewJob():
            found = view_sheet.draw(job)
        case SiteJob():
            found = site_plan.draw(job)
        case ScheduleJob():
            found = schedules.draw(job)
    return clouded(opened(job.since)[1], found) if job.since else found


def going_out(entry: Entry, on: str) -> SheetJob:
    """What an entry's sheets are drawn from when they go out on a day; those that went out already keep their day."""
    return entry.job if entry.job.on else replace(entry.job, on=on)


def _printed(entry: Entry) -> str:
    """The fingerprint of what a sheet prints: its input, and what its title says of revisions and of going out."""
    return of_values(entry.job.content, entry.hand, entry.job.since, entry.job.on)


def sheets(entry: Entry) -> tuple[Sheet, ...]:
    """An entry's sheets; of a past one, those that went out."""
    if entry.issue is not None and entry.state in PAST:
        return opened(entry.issue.packed)[1]
    return _DRAWN.of(_printed(entry), lambda: draw_all(entry.job))


def takes_long(entry: Entry) -> bool:
    """Whether an entry's sheets are still to be drawn and that is no matter of a moment: views with much steel."""
    if (entry.issue is not None and entry.state in PAST) or _DRAWN.get(_printed(entry)) is not None:
        return False
    match entry.job:
        case ViewJob(sights=sights):
            return sum(len(p.bodies) for s in sights for p in s.pieces) > _SOLIDS or len(entry.pieces) > _LINES
        case PlanJob(members=members):
            return len(members) > _LINES
    return False


def keep_drawn(entry: Entry, found: tuple[Sheet, ...]) -> None:
    """Keep sheets that were drawn elsewhere."""
    _DRAWN.keep(_printed(entry), found)


def paper_and_pages(entry: Entry) -> tuple[str, str]:
    """A sheet's paper and how many pages it has, in words; those not drawn yet say only what paper they will have."""
    found = _DRAWN.get(_printed(entry))
    if found is None:
        return _asked_paper(entry.job), ""
    return next((w for s in found[0].spots if s.key == "title|paper" for w, _ in s.texts), ""), str(len(found))


def _asked_paper(job: SheetJob) -> str:
    """The paper a job asks for; a plan or a view takes what it needs."""
    if not isinstance(job, (PieceJob, GatheredJob)):
        return ""
    first = job.jobs[0] if isinstance(job, GatheredJob) else job
    return template(first.preset.paper or SMALL[first.units], first.preset.template).name
