"""Views of the erector's: one of each view frame that has steel in it."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.draw.entries import plans
from uncus.draw.entries.needs import Needs
from uncus.draw.entry import Entry
from uncus.draw.kept import entry
from uncus.draw.sights import lines, shown
from uncus.draw.view_sheet import ViewJob
from uncus.frame.placement import Vec
from uncus.job.records import Grid, Level, ViewFrame
from uncus.mark.marking import natural


def entries(of: Needs) -> Iterator[Entry]:
    """Views by name, after the plans and numbered on from them, each kept by its frame."""
    job = of.job
    frames = sorted(job.all(ViewFrame), key=lambda one: (natural(one.name), one.id))
    if not frames:
        return
    first = plans.count(of) + 1
    grid, levels = next(iter(job.all(Grid)), None), job.all(Level)
    everything = sorted((a for line in of.lines for a in line.assemblies), key=lambda a: a.id)
    bent: dict[str, Vec] = {}
    for a in everything:
        body = of.shop.body(a.id)
        if body is not None and body.arc is not None:
            bent[a.id] = body.arc.points()
    for number, frame in enumerate(frames, first):
        found = list(shown(frame, (a.member for a in everything), bent))
        if of.wanted.isdisjoint(one.member.id for one in found):
            continue
        name = f"E{number}"
        standing = of.kept.standing(plans.KIND, (frame.id,), name)
        view = ViewJob(
            frame=frame,
            members=tuple((of.marks.of_assembly(one.member.id), one.member) for one in found),
            paths=tuple((one.member.id, one.path) for one in found if one.path),
            lines=lines(frame, grid, levels),
            **of.said(name, standing),
        )
        pieces = tuple(m.id for _, m in view.members)
        yield entry(view, f"view: {frame.name}", plans.KIND, pieces, (frame.id,), standing)
