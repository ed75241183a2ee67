"""Erection plans: one of each level that steel belongs to."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from msgspec.structs import replace

from uncus.draw import erection
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.erection import PlanJob
from uncus.draw.kept import entry
from uncus.draw.plan import VIEW
from uncus.draw.sighting import Building, sight
from uncus.draw.view_job import Sight, ViewJob
from uncus.frame.grids import bounds
from uncus.frame.usual_views import plan_id
from uncus.job.records import Grid, Level, Role, Showing, ViewFrame
from uncus.shop.pieces import Assembly
from uncus.steel.joint import FastenerKind

KIND = "erection"
_PAST = 1000.0  # mm round what a plan shows


def count(of: Needs) -> int:
    """How many plans there are."""
    return len(_by_level(of)[1])


def _by_level(of: Needs) -> tuple[list[Level], dict[str, list[Assembly]]]:
    """The levels from the lowest up, and the pieces that are drawn at each whose plan is no view."""
    levels = sorted(of.job.all(Level), key=lambda level: level.elevation)
    found: dict[str, list[Assembly]] = {}
    for assembly in of.everything:
        level = erection.level_of(levels, assembly.member)
        if level is not None and of.job.get(plan_id(level), ViewFrame) is None:
            found.setdefault(level.id, []).append(assembly)
    return levels, found


def entries(of: Needs) -> Iterator[Entry]:
    """Plans from the lowest level up, each kept by its level; whole, and with the same number, whatever is wanted."""
    job = of.job
    grid = next(iter(job.all(Grid)), None)
    everything, (levels, by_level) = of.everything, _by_level(of)
    upright = [a for a in everything if a.member.role in (Role.COLUMN, Role.POST)]
    for number, level in enumerate((level for level in levels if level.id in by_level), 1):
        here = by_level[level.id]
        own = {a.id for a in here}
        if own.isdisjoint(of.wanted):
            continue
        name = f"E{number}"
        standing = of.kept.standing(KIND, (level.id,), name)
        through = [a for a in upright if a.id not in own and erection.passes(a.member, level)]
        job_of_plan = PlanJob(
            level=level,
            grid=grid,
            members=tuple((of.marks.of_assembly(a.id), a.member) for a in here),
            through=tuple(a.member for a in through),
            rods=tuple(h for a in here for h in a.holds if h.kind is FastenerKind.ROD),
            **of.said(name, standing),
        )
        plan: PlanJob | ViewJob = job_of_plan
        if erection.is_large(job_of_plan):
            sights = (_sight(of, level, here, through),)
            plan = ViewJob(title=level.name, sights=sights, **of.said(name, standing))
        pieces = tuple(m.id for _, m in plan.members)
        yield entry(plan, f"plan: {level.name}", KIND, pieces, (level.id,), standing)


def _sight(of: Needs, level: Level, here: list[Assembly], through: list[Assembly]) -> Sight:
    """A plan too large for one sheet as a view, whose sheets are parted at match lines. What is done to it by hand has
    the same keys as on one sheet."""
    ends = np.array([p for a in here for p in (a.member.start, a.member.end)])
    grid = next(iter(of.job.all(Grid)), None)
    around = bounds(grid) if grid is not None else None
    plan = ends[:, :2] if around is None else np.vstack([ends[:, :2], np.reshape(around, (2, 2))])
    (x0, y0), (x1, y1) = (plan.min(axis=0) - _PAST).tolist(), (plan.max(axis=0) + _PAST).tolist()
    z = level.elevation
    over, under = float(ends[:, 2].max()) - z + _PAST, z - float(ends[:, 2].min()) + _PAST
    shows = Showing(welds=False, odd=False, moments=False, studs=False, says="", signs=False, offs=False)
    frame = ViewFrame(id=VIEW, name=level.name, origin=((x0 + x1) / 2, (y0 + y1) / 2, z), x=(1.0, 0.0, 0.0),
        y=(0.0, 1.0, 0.0), width=x1 - x0, height=y1 - y0, before=max(over, _PAST), behind=max(under, _PAST),
        shows=shows)  # fmt: skip
    seen = sight(frame, Building.of(of.job, of.shop, of.marks, here))
    passing = sight(frame, Building.of(of.job, of.shop, of.marks, through)).own
    return replace(seen, pieces=(*seen.pieces, *(replace(p, mark="", faint=True) for p in passing)))
