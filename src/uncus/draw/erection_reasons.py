"""Why an erector's sheet would print otherwise than it went out, in words that name the pieces."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from uncus.draw.anchor_plan import AnchorJob
from uncus.draw.erection import PlanJob
from uncus.draw.view_job import Piece, Sight, ViewJob
from uncus.job.records import Member, ViewFrame
from uncus.job.views import Showing
from uncus.mark.marking import natural

_NAMED = 4  # marks that are named of those that something happened to


def reasons(old: PlanJob | ViewJob | AnchorJob, new: PlanJob | ViewJob | AnchorJob) -> list[str]:
    """What changed between two of a kind, but for what was done by hand."""
    if isinstance(old, PlanJob) and isinstance(new, PlanJob):
        found = _of_plans(old, new)
    elif isinstance(old, ViewJob) and isinstance(new, ViewJob):
        found = _of_views(old, new)
    elif isinstance(old, AnchorJob) and isinstance(new, AnchorJob):
        found = _of_anchors(old, new)
    else:
        return ["another kind of sheet"]
    return [*found, *(["project changed"] if (old.project, old.number) != (new.project, new.number) else [])]


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
    return [*found, *([f"{_marks(bent)} bent otherwise"] if bent else [])]


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
