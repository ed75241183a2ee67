"""Measuring in the model; what is measured stays until it is cleared."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.app.tools.tool import PointTool, Preview, Result, Site
from uncus.frame.measures import angle, chain, edge_foot, straight
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Measured, new_id

_KINDS = ("straight", "angle", "edge distance", "chain")


class MeasureOptions(msgspec.Struct, frozen=True):
    kind: Annotated[
        str,
        About(
            "Measure",
            unit="choice",
            choices=_KINDS,
            help="Straight: and along the plane's axes. Angle: corner, then both sides. Edge distance: a point, then "
            "an "
            "edge or line. Chain: point after point, then Enter.",
        ),
    ] = "straight"


class MeasureTool(PointTool):
    words = "Measure"
    picks_edges = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(MeasureOptions)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        n = len(self.picks)
        if self.options.kind == "angle":
            return ("pick the corner", "pick a point on one side", "pick a point on the other side")[n]
        if self.options.kind == "edge distance":
            return "pick an edge or a line" if n else "pick the point, such as a hole's centre"
        if self.options.kind == "chain" and n:
            return "pick the next point, or Enter to end the chain"
        return "pick the second point" if n else "pick the first point"

    def set_option(self, name: str, value: object) -> None:
        super().set_option(name, value)
        self.picks.clear()

    def taken(self) -> Result:
        kind, points = self.options.kind, self.points
        if kind == "straight" and len(points) == 2:
            return self._done(straight(points[0], points[1], self.site.plane, self.units))
        if kind == "angle" and len(points) == 3:
            return self._done(angle(points[0], points[1], points[2], self.site.plane))
        if kind == "edge distance" and len(points) == 2:
            line = self.picks[1].line
            if line is None:
                raise JobError("Pick the edge on its line, not at its end; hold “nearest” with Alt+N.")
            foot = edge_foot(points[0], line)
            self.picks[1] = msgspec.structs.replace(self.picks[1], point=foot)
            return self._done(straight(points[0], foot, self.site.plane, self.units))
        return None

    def _done(self, words: str) -> Measured:
        found = Measured(id=new_id(), kind=self.options.kind, points=tuple(self.points), words=words)
        self.picks.clear()
        return found

    def typed(self, text: str) -> Result:
        if text.strip() or self.options.kind != "chain":
            return super().typed(text)
        if len(self.picks) < 2:
            raise JobError("A chain needs two points at least.")
        return self._done(chain(self.points, self.units))

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        if self.options.kind == "chain":
            words = chain(path, self.units)
        elif self.options.kind == "angle" and len(path) == 3:
            try:
                words = angle(path[0], path[1], path[2], self.site.plane)
            except JobError:
                words = ""
            path = (path[1], path[0], path[2])
        else:
            words = straight(path[0], path[-1], self.site.plane, self.units)
        return Preview(lines=(path,), words=words, at=path[-1])
