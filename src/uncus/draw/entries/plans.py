"""Erection plans: one of each level that steel belongs to."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.draw import erection
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.erection import PlanJob
from uncus.draw.kept import entry
from uncus.frame.usual_views import plan_id
from uncus.job.records import Grid, Level, Role, ViewFrame
from uncus.shop.pieces import Assembly
from uncus.steel.joint import FastenerKind

KIND = "erection"


def count(of: Needs) -> int:
    """How many plans there are."""
    return len(_by_level(of)[1])


def _everything(of: Needs) -> list[Assembly]:
    return sorted((a for line in of.lines for a in line.assemblies), key=lambda a: a.id)


def _by_level(of: Needs) -> tuple[list[Level], dict[str, list[Assembly]]]:
    """The levels from the lowest up, and the pieces that are drawn at each whose plan is no view."""
    levels = sorted(of.job.all(Level), key=lambda level: level.elevation)
    found: dict[str, list[Assembly]] = {}
    for assembly in _everything(of):
        level = erection.level_of(levels, assembly.member)
        if level is not None and of.job.get(plan_id(level), ViewFrame) is None:
            found.setdefault(level.id, []).append(assembly)
    return levels, found


def entries(of: Needs) -> Iterator[Entry]:
    """Plans from the lowest level up, each kept by its level; whole, and with the same number, whatever is wanted."""
    job = of.job
    grid = next(iter(job.all(Grid)), None)
    everything, (levels, by_level) = _everything(of), _by_level(of)
    upright = [a for a in everything if a.member.role in (Role.COLUMN, Role.POST)]
    for number, level in enumerate((level for level in levels if level.id in by_level), 1):
        here = by_level[level.id]
        own = {a.id for a in here}
        if own.isdisjoint(of.wanted):
            continue
        name = f"E{number}"
        standing = of.kept.standing(KIND, (level.id,), name)
        plan = PlanJob(
            level=level,
            grid=grid,
            members=tuple((of.marks.of_assembly(a.id), a.member) for a in here),
            through=tuple(a.member for a in upright if a.id not in own and erection.passes(a.member, level)),
            rods=tuple(h for a in here for h in a.holds if h.kind is FastenerKind.ROD),
            **of.said(name, standing),
        )
        pieces = tuple(m.id for _, m in plan.members)
        yield entry(plan, f"plan: {level.name}", KIND, pieces, (level.id,), standing)
