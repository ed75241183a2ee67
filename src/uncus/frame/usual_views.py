"""The views that an erector usually gets: an elevation at each grid line that steel stands on."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from uncus.frame.axes import UP, is_vertical
from uncus.frame.grids import Run, runs
from uncus.frame.placement import Vec, tidied, unit
from uncus.job.records import Grid, Level, Member, ViewFrame, new_id

DEEP = 400.0  # mm before and behind a grid line, within which steel is on it
_MARGIN = 600.0  # mm round it
_LEAST = 2  # pieces on a line, of which one stands, that make an elevation of it


def elevations(
    grid: Grid | None, levels: Iterable[Level], members: Sequence[Member], there: Iterable[ViewFrame]
) -> list[ViewFrame]:
    """View frames at the grid lines that have steel and none of that name yet: lines across the page looked at towards
    north, those up the page towards west, as near as they run."""
    if grid is None or not grid.numbers or not grid.letters:
        return []
    taken = {frame.name for frame in there}
    heights = [level.elevation for level in levels]
    found = []
    for run in runs(grid):
        name = f"Elevation {run.label}"
        own = [m for m in members if _is_on(run, m)]
        stands = any(is_vertical(unit(np.subtract(m.end, m.start))) for m in own)
        if name not in taken and stands and len(own) >= _LEAST:
            found.append(_frame(name, run, own, heights))
    return found


def _is_on(run: Run, m: Member) -> bool:
    return m.start != m.end and all(abs(run.away(p[0], p[1])) < DEEP for p in (m.start, m.end))


def _frame(name: str, run: Run, own: Sequence[Member], heights: Sequence[float]) -> ViewFrame:
    x: Vec = np.array([*run.along, 0.0])
    # seen from the south or the east: what runs west is read the other way
    x = -x if x[0] < -1e-6 or (abs(x[0]) <= 1e-6 and x[1] < 0) else x
    at = np.array([*run.at(0.0), 0.0])
    ends = np.array([p for m in own for p in (m.start, m.end)])
    t, z = (ends - at) @ x, [*ends[:, 2].tolist(), *heights]
    t0, t1, z0, z1 = float(t.min()), float(t.max()), min(z), max(z)
    middle = at + x * (t0 + t1) / 2 + UP * (z0 + z1) / 2
    return ViewFrame(id=new_id(), name=name, origin=tidied(middle), x=tidied(x), y=tidied(UP),
        width=t1 - t0 + 2 * _MARGIN, height=z1 - z0 + 2 * _MARGIN, before=DEEP, behind=DEEP)  # fmt: skip
