"""Drawing columns and beams."""

from __future__ import annotations

import math

from uncus.app.tools.copying import fresh
from uncus.app.tools.tool import Commit, Measure, Preview, Tool, along, between
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.records import Member, Point
from uncus.units import Units, format_length, parse_length


class ColumnTool(Tool):
    """One pick a column: its foot; its height is typed or that to the next level."""

    words = "Column"
    picks_points = True

    def __init__(self, units: Units, template: Member, height: float) -> None:
        super().__init__(units)
        self.template = template
        self.height = height

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return f"pick the foot; height {format_length(self.height, self.units)}, or type another"

    def _column(self, foot: Point) -> Member:
        return fresh(self.template, foot, (foot[0], foot[1], foot[2] + self.height))

    def picked(self, snap: Snap) -> Commit:
        return Commit("Column", (self._column(snap.point),))

    def typed(self, text: str) -> None:
        height = parse_length(text, self.units)
        if height < 100:
            raise JobError(
                f"A column {format_length(height, self.units)} high is too short; type a height such as 12'-0."
            )
        self.height = height

    def preview(self) -> Preview:
        return Preview((self._column(self.pointer.point),)) if self.pointer else Preview()


class TwoPicks(Tool):
    """A tool that takes a first point and then a second."""

    picks_points = True

    def __init__(self, units: Units) -> None:
        super().__init__(units)
        self.start: Snap | None = None

    def back(self) -> bool:
        had = self.start is not None
        self.start = None
        return had


class BeamTool(TwoPicks):
    """Two picks: the left end, then the far end or a typed length along the pointer."""

    words = "Beam"

    def __init__(self, units: Units, template: Member) -> None:
        super().__init__(units)
        self.template = template

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the far end, or type a length" if self.start else "pick the left end"

    def _beam(self, end: Point) -> Member:
        assert self.start is not None
        return fresh(self.template, self.start.point, end)

    def picked(self, snap: Snap) -> Commit | None:
        if self.start is None:
            self.start = snap
            return None
        beam = self._beam(snap.point)
        if problem := beam.problem():
            raise JobError(problem)
        self.start = None
        return Commit("Beam", (beam,))

    def typed(self, text: str) -> Commit | None:
        length = parse_length(text, self.units)
        if self.start is None:
            raise JobError("Pick the left end first; then type the length.")
        if self.pointer is None or self.pointer.point == self.start.point:
            raise JobError("Point in the beam's direction first; then type the length.")
        if abs(length) < 1:
            raise JobError("A beam needs a length; type one such as 18'-0.")
        return self.picked(Snap(along(self.start.point, self.pointer.point, length), "typed"))

    def preview(self) -> Preview:
        if self.start is None or self.pointer is None:
            return Preview()
        beam = self._beam(self.pointer.point)
        if beam.problem():
            return Preview()
        return Preview((beam,), words=format_length(beam.work_length, self.units))


class MeasureTool(TwoPicks):
    """Two picks: straight, and along each axis, since points at different depths mislead."""

    words = "Measure"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the second point" if self.start else "pick the first point"

    def picked(self, snap: Snap) -> Measure | None:
        if self.start is None:
            self.start = snap
            return None
        found = Measure(self.start.point, snap.point)
        self.start = None
        return found

    def preview(self) -> Preview:
        if self.start is None or self.pointer is None:
            return Preview()
        return Preview(
            line=(self.start.point, self.pointer.point),
            words=measured(self.start.point, self.pointer.point, self.units),
        )


def measured(a: Point, b: Point, units: Units) -> str:
    """A measure in words: straight, then what of it lies along x, y and z."""
    d = between(a, b)
    parts = [f"{axis} {format_length(abs(c), units)}" for axis, c in zip("xyz", d, strict=True) if abs(c) > 0.5]
    straight = format_length(math.sqrt(sum(c * c for c in d)), units)
    return straight if len(parts) < 2 else f"{straight}   {'  '.join(parts)}"
