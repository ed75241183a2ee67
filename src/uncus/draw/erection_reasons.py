"""Why an erector's sheet would print otherwise than it went out, in words that name the pieces."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.erection import PlanJob
from uncus.draw.inputs import encoded
from uncus.draw.schedules import ScheduleJob
from uncus.draw.site_plan import SiteJob
from uncus.draw.view_job import Piece, Sight, ViewJob
from uncus.job.records import Member, ViewFrame
from uncus.job.views import Showing
from uncus.mark.marking import natural
from uncus.units import counted

_NAMED = 4  # marks that are named of those that something happened to


OfErectors = PlanJob | ViewJob | AnchorJob | SiteJob | ScheduleJob


def reasons(old: OfErectors, new: OfErectors) -> list[str]:
    """What changed between two of a kind, but for what was done by hand."""
    match old, new:
        case PlanJob(), PlanJob():
            found = _of_plans(old, new)
        case ViewJob(), ViewJob():
            found = _of_views(old, new)
        case AnchorJob(), AnchorJob():
            found = _of_anchors(old, new)
        case SiteJob(), SiteJob():
            found = list(_of_sites(old, new))
        case ScheduleJob(), ScheduleJob():
            found = list(_of_schedules(old, new))
        case _:
            return ["another kind of sheet"]
    return [*found, *(["project changed"] if (old.project, old.number) != (new.project, new.number) else [])]


def _of_sites(old: SiteJob, new: SiteJob) -> Iterator[str]:
    for words, a, b in (("the grid", old.grid, new.grid), ("steel", old.lines, new.lines),
        ("cranes", old.cranes, new.cranes), ("laying-down areas", old.areas, new.areas)):  # fmt: skip
        if a != b:
            yield f"{words} changed"
    was, now = ({one.mark for one in job.unlifted} for job in (old, new))
    if now - was:
        yield f"{_marks(now - was)} no longer lifted"
    if was - now:
        yield f"{_marks(was - now)} lifted now"
    if was == now and old.unlifted != new.unlifted:
        yield "pieces that are not lifted changed"


def _of_schedules(old: ScheduleJob, new: ScheduleJob) -> Iterator[str]:
    was, now = ({(t.title, row) for t in job.tables for row in t.rows} for job in (old, new))
    for words, rows in (("added", now - was), ("gone", was - now)):
        if rows:
            yield f"{counted(len(rows), 'row')} {words}"
    stood, stand = ({place for s in job.shafts for place in s.places} for job in (old, new))
    if old.shafts != new.shafts:
        told = sorted(stood ^ stand, key=natural)[:_NAMED]
        yield f"columns changed: {', '.join(told)}" if told else "columns changed"
    for words, a, b in (("levels", old.levels, new.levels), ("notes", old.says, new.says)):
        if a != b:
            yield f"{words} changed"


def _of_plans(old: PlanJob, new: PlanJob) -> list[str]:
    was, now = ({m.id: (mark, m) for mark, m in job.members} for job in (old, new))
    found = _of_members(was, now)
    for words, a, b in (("the level", old.level, new.level), ("the grid", old.grid, new.grid),
        ("the anchor rods", [r.points for r in old.rods], [r.points for r in new.rods]),
        ("the columns that pass", old.through, new.through)):  # fmt: skip
        if a != b:
            found.append(f"{words} changed")
    return found


def _of_views(old: ViewJob, new: ViewJob) -> list[str]:
    before, after = ({s.frame.id: s for s in job.sights} for job in (old, new))
    found = [f"the view {after[id].frame.name} added" for id in after.keys() - before.keys()]
    found += [f"the view {before[id].frame.name} gone" for id in before.keys() - after.keys()]
    for id in sorted(before.keys() & after.keys()):
        found += [f"{words} in {after[id].frame.name}" if len(after) > 1 else words
            for words in _of_sight(before[id], after[id])]  # fmt: skip
    return [*found, *(["its title changed"] if old.title != new.title else [])]


def _of_sight(old: Sight, new: Sight) -> list[str]:
    still = _box(old.frame) == _box(new.frame)
    was, now = ({p.member.id: p for p in s.own} for s in (old, new))
    found = _of_members(_members(was.values()), _members(now.values()), still)
    for words, a, b in (("the view frame", _box(old.frame), _box(new.frame)),
        ("how steel is shown", old.frame.shows, new.frame.shows), ("the scale", old.frame.scale, new.frame.scale),
        ("grid lines or levels", old.lines, new.lines), ("signs of other views", old.signs, new.signs),
        *((("site bolts", old.bolts, new.bolts), ("site welds", old.welds, new.welds)) if still else ())):  # fmt: skip
        if a != b:
            found.append(f"{words} changed")
    both = was.keys() & now.keys()
    said = [now[id].mark for id in both if _said(was[id]) != _said(now[id])]
    found += [f"{_marks(said)} told otherwise"] if said else []
    bent = [now[id].mark for id in both if still and was[id].path != now[id].path]
    found += [f"{_marks(bent)} bent otherwise"] if bent else []
    if found or not still:
        return found
    made = [now[id].mark for id in both if encoded(was[id].bodies) != encoded(now[id].bodies)]
    return [f"{_marks(made)} made otherwise"] if made else []


def _box(frame: ViewFrame) -> ViewFrame:
    return replace(frame, shows=Showing(), sheet="", scale=0.0)


def _said(piece: Piece) -> object:
    return piece.words, piece.studs, piece.moments, piece.heavy, piece.standing, piece.dashed


def _members(pieces: Iterable[Piece]) -> dict[str, tuple[str, Member]]:
    return {p.member.id: (p.mark, p.member) for p in pieces}


def _of_anchors(old: AnchorJob, new: AnchorJob) -> list[str]:
    before, after = ({base.id: base for base in job.bases} for job in (old, new))
    both, kinds = before.keys() & after.keys(), (dict(old.kinds), dict(new.kinds))
    moved = sum((before[id].at, before[id].under) != (after[id].at, after[id].under) for id in both)
    turned = sum(before[id].turn != after[id].turn for id in both)
    marked = sum(before[id].mark != after[id].mark for id in both)
    others = sum(kinds[0][before[id].kind] != kinds[1][after[id].kind] for id in both)
    counts = (("added", len(after.keys() - both)), ("gone", len(before.keys() - both)), ("moved", moved),
        ("turned", turned), ("marked otherwise", marked), ("of another kind", others))  # fmt: skip
    found = [f"{n} bases {words}" for words, n in counts if n]
    if (old.under, old.larger, old.template) != (new.under, new.larger, new.template):
        found.append("how bases are shown changed")
    return [*found, *(["the grid changed"] if old.grid != new.grid else [])]


def _of_members(
    before: dict[str, tuple[str, Member]], after: dict[str, tuple[str, Member]], still: bool = True
) -> list[str]:
    """What happened to members, by their marks; where they are only where what they are seen from is `still`."""
    both = [(*before[id], *after[id]) for id in sorted(before.keys() & after.keys())]
    told = (
        ([after[id][0] for id in after.keys() - before.keys()], "added"),
        ([before[id][0] for id in before.keys() - after.keys()], "gone"),
        ([f"{was} (now {mark})" for was, _, mark, _ in both if was != mark], "marked otherwise"),
        ([mark for _, m, mark, n in both if still and (m.start, m.end) != (n.start, n.end)], "moved"),
        ([mark for _, m, mark, n in both if still and (m.start, m.end) == (n.start, n.end) and m.roll != n.roll],
            "turned"),
        ([mark for _, m, mark, n in both if m.section != n.section], "of another section"),
    )  # fmt: skip
    return [f"{_marks(marks)} {words}" for marks, words in told if marks]


def _marks(marks: Iterable[str]) -> str:
    """Marks in their order, the first few by name."""
    own = sorted(marks, key=natural)
    if len(own) <= _NAMED:
        return " and ".join(filter(None, (", ".join(own[:-1]), own[-1])))
    return f"{', '.join(own[:_NAMED])} and {len(own) - _NAMED} more"
