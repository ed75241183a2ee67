"""What a sheet is drawn from: taken down to what is printed, and its fingerprint. There is no list of inputs by
hand: all that is left of a job is in the fingerprint, and the sheet is drawn from what is left."""

from __future__ import annotations

import hashlib
from collections import Counter
from functools import cache, lru_cache
from typing import TypeVar

import msgspec
import numpy as np

from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.erection import PlanJob
from uncus.draw.gathered import GatheredJob
from uncus.draw.piece_job import PieceJob
from uncus.draw.schedules import ScheduleJob
from uncus.draw.site_plan import SiteJob
from uncus.draw.subject import SQUARE, Meets, Subject
from uncus.draw.view_job import Sight, ViewJob
from uncus.frame.placement import Placement
from uncus.job.drawings import Drawing
from uncus.job.records import Member, Showing
from uncus.mark.content import part_content
from uncus.steel.joint import Fasteners, Weld
from uncus.steel.part import Part

SheetJob = PieceJob | PlanJob | GatheredJob | ViewJob | AnchorJob | SiteJob | ScheduleJob
AnySheetJob = TypeVar("AnySheetJob", bound=SheetJob)
replace = msgspec.structs.replace
_NOWHERE = (0.0, 0.0, 0.0)
_LATER = frozenset({"held", "up", "drawn", "under", "larger", "template", "way", "tabs", "shop"})
# what came after sheets had gone out: told only where it is not as usual


def printed(job: SheetJob) -> SheetJob:
    """A job without what no sheet prints, its content the fingerprint of the rest. Printed again, it is itself."""
    match job:
        case PieceJob():
            job = _piece(job)
        case PlanJob():
            job = replace(job, members=tuple((mark, _line(m)) for mark, m in job.members),
                through=tuple(map(_line, job.through)),
                          rods=tuple(replace(r, key="", joins=()) for r in job.rods))  # fmt: skip
        case ViewJob():
            job = replace(job, sights=tuple(map(_sight, job.sights)))
        case AnchorJob() | SiteJob() | ScheduleJob():
            pass
        case GatheredJob():
            job = replace(job, jobs=tuple(_piece(one) for one in job.jobs))
    return replace(job, content=fingerprint(job))


def fingerprint(job: SheetJob) -> str:
    """Of all that is given to the drawing of a job as it is printed, but for the words of its title that revisions
    and going out make."""
    bare = _bare(job)
    if isinstance(bare, GatheredJob):
        bare = replace(bare, jobs=tuple(map(_bare, bare.jobs)))
    return hashlib.sha256(encoded(bare)).hexdigest()[:16]


def _bare(job: AnySheetJob) -> AnySheetJob:
    return replace(job, content="", since="", on="", hand=look(job.hand))


def of_values(*parts: object) -> str:
    """The fingerprint of plain values and records."""
    return hashlib.sha256(msgspec.json.encode(parts)).hexdigest()[:16]


def encoded(value: object) -> bytes:
    """What is printed of any part of a job, to be compared: the same for equal values, whatever they were made from
    or read of (the encoder leaves out values that *are* the usual ones, not those that equal them)."""
    return msgspec.json.encode(_plain(value))


def _plain(value: object) -> object:
    """A value by what it holds. Figures to a ten-thousandth of a mm, so that the last bits of a motion there and
    back are no change."""
    match value:
        case float():
            return round(float(value), 4) + 0.0
        case Part():
            return part_content(value)
        case Placement():
            return [(np.round(value.origin, 3) + 0.0).tolist(), (np.round(value.axes, 6) + 0.0).tolist()]
        case Member():
            return _of_member(value)
        case Showing():  # what is as usual is not told: more comes to what can be asked of a view
            values = ((f, getattr(value, f.name)) for f in msgspec.structs.fields(value))
            return ["Showing", *(_plain((f.name, one)) for f, one in values if one != f.default)]
        case msgspec.Struct():
            usual = _usual(type(value))
            said = ((name, getattr(value, name)) for name in value.__struct_fields__)
            return [
                type(value).__name__,
                *(_plain(own) for name, own in said if name not in usual or own != usual[name]),
            ]
        case tuple() | list():
            return [_plain(one) for one in value]
        case dict():
            return sorted((str(key), _plain(one)) for key, one in value.items())
        case None | bool() | int() | str():
            return value
    raise NotImplementedError(type(value).__name__)


def _of_struct(value: msgspec.Struct) -> list[object]:
    usual = _usual(type(value))
    said = ((name, getattr(value, name)) for name in value.__struct_fields__)
    told = (own for name, own in said if name not in usual or own != usual[name])
    return [type(value).__name__, *map(_plain, told)]


@lru_cache(maxsize=32_768)
def _of_member(member: Member) -> list[object]:
    """Of a member as a view shows it there are many looks, and few of them are other than they were."""
    return _of_struct(member)


@cache
def _usual(kind: type[msgspec.Struct]) -> dict[str, object]:
    """The values that fields of a struct that came later have where nothing is said."""
    return {f.name: f.default for f in msgspec.structs.fields(kind)
        if f.name in _LATER and f.default is not msgspec.NODEFAULT}  # fmt: skip


def look(hand: Drawing | None) -> Drawing | None:
    """What was done to a sheet by hand, as far as it changes the drawing and not only its title."""
    if hand is None or not (hand.edits or hand.scale or hand.sections):
        return None
    return Drawing(id="", piece="", kind="", edits=hand.edits, scale=hand.scale, sections=hand.sections)


# -- pieces -----------------------------------------------------------------------------------------------
def _piece(job: PieceJob) -> PieceJob:
    welded = bool(job.site_welds or job.some_welds) or any(f.weld for f in job.subject.fixed)
    return replace(
        job,
        subject=_subject(job.subject, job.preset.neighbours),
        holds=_counted(job.holds),
        site_welds=tuple(sorted(map(_laid_out, job.site_welds), key=msgspec.structs.astuple)),
        electrode=job.electrode if welded else "",
        weld_tests=job.weld_tests if welded else "",
    )


def _subject(subject: Subject, neighbours: bool) -> Subject:
    fixed = tuple(replace(f, weld=_anywhere(f.weld)) if f.weld else f for f in subject.fixed)
    bored = {h.x > subject.main.length / 2 for h in subject.main.holes}  # the ends from whose holes distances are given
    meets = tuple(m for one in subject.meets if (m := _meets(one, neighbours, one.right in bored)) is not None)
    return replace(subject, fixed=fixed, meets=meets)


def _meets(one: Meets, neighbours: bool, bored: bool) -> Meets | None:
    """What an end meets, as far as it shows: square ones only where neighbours are shown, its name beside holes
    alone."""
    if max(abs(one.skew), abs(one.slope)) < SQUARE:
        return replace(one, words="", skew=0.0, slope=0.0) if neighbours and one.stub is not None else None
    return one if bored else replace(one, words="")


def _anywhere(weld: Weld) -> Weld:
    """A weld without where in the building it is."""
    return replace(weld, key="", path=(), joins=("", ""))


def _laid_out(weld: Weld) -> Weld:
    """A weld without where it is, but as long as it is."""
    long = round(weld.length / weld.sides, 1)
    return replace(_anywhere(weld), path=(_NOWHERE, (long, 0.0, 0.0)))


def _counted(groups: tuple[Fasteners, ...]) -> tuple[Fasteners, ...]:
    """Fasteners by what they are and how many, wherever they are."""
    plain = Counter[Fasteners]()
    for g in groups:
        plain[replace(g, key="", grip=0.0, points=(), axis=_NOWHERE, joins=())] += len(g.points)
    return tuple(replace(g, points=(_NOWHERE,) * n) for g, n
        in sorted(plain.items(), key=lambda one: msgspec.structs.astuple(one[0])))  # fmt: skip


# -- plans ------------------------------------------------------------------------------------------------
def _sight(sight: Sight) -> Sight:
    """A view without what of its frame says what is in it and not how that is drawn."""
    shows = replace(sight.frame.shows, only="", standing="", heavy="")
    frame = replace(sight.frame, sheet="", shows=shows)
    return replace(sight, frame=frame, pieces=tuple(replace(p, member=_line(p.member)) for p in sight.pieces))


def _line(m: Member) -> Member:
    """A member as a plan draws it: its line, its section and how that is turned."""
    return Member(id=m.id, role=m.role, section=m.section, start=m.start, end=m.end, roll=m.roll)
