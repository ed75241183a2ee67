"""Placing what stands on site: cranes by a pick, laying-down areas by two corners on the work plane."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result
from uncus.frame.placement import tidied
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Crane, LayDown, Point, new_id
from uncus.units import format_length

_FACETS = 120


def ring(middle: Point, radius: float) -> tuple[Point, ...]:
    """A level circle as points of the model, the first again at the end."""
    turns = (2 * math.pi * n / _FACETS for n in range(_FACETS + 1))
    return tuple((middle[0] + radius * math.cos(t), middle[1] + radius * math.sin(t), middle[2]) for t in turns)


class CraneTool(PointTool):
    """One point is a crane's middle; a further one has the load table of the one placed last."""

    words = "Crane"
    prompt = "pick where the crane stands, or type its place"  # type: ignore[assignment]

    def taken(self) -> Result:
        there = self.site.job.all(Crane)
        taken = {crane.name for crane in there}
        name = next(f"Crane {n}" for n in range(1, 10_000) if f"Crane {n}" not in taken)
        crane = Crane(id=new_id(), name=name, at=tidied(self.points[0]), table=there[-1].table if there else ())
        self.picks.clear()
        return Commit("Crane", (crane,), words=f"{name} placed; pick it to type its load table")

    def preview(self) -> Preview:
        there = self.site.job.all(Crane)
        if self.pointer is None or not there:
            return Preview()
        return Preview(lines=tuple(ring(self.pointer.point, row.radius) for row in there[-1].table))


class LayDownTool(PointTool):
    """Two opposite corners on the work plane are a laying-down area."""

    words = "Laying-down area"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the opposite corner" if self.picks else "pick a corner of the area, on the work plane"

    def _corners(self, a: Point, b: Point) -> tuple[Point, ...]:
        place = self.site.plane.place
        (x0, y0, _), (x1, y1, _) = place.to_local(np.array([a, b])).tolist()
        return tuple(tidied(place.to_model((x, y, 0.0))) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)))

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        taken = {area.name for area in self.site.job.all(LayDown)}
        name = next(f"Area {n}" for n in range(1, 10_000) if f"Area {n}" not in taken)
        area = LayDown(id=new_id(), name=name, corners=self._corners(*self.points[:2]))
        if problem := area.problem():
            raise JobError(problem)
        self.picks.clear()
        return Commit("Laying-down area", (area,), words=f"{name} placed; pick it to say which lots lie there")

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        corners = self._corners(path[0], path[1])
        words = " x ".join(format_length(math.dist(corners[0], corners[n]), self.units) for n in (1, 3))
        return Preview(lines=((*corners, corners[0]),), words=words, at=path[1])


_MIDDLE = 900.0  # mm, the radius of what stands for a crane


def site_lines(job: Job) -> Iterator[tuple[str, tuple[Point, ...]]]:
    """What cranes and areas are seen and picked by: their ids, and points of a line each."""
    for crane in job.all(Crane):
        yield crane.id, ring(crane.at, _MIDDLE)
    for area in job.all(LayDown):
        yield area.id, (*area.corners, area.corners[0])
