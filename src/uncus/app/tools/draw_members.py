"""Placing columns and beams by picks and typed values, one by one or along a path."""

from __future__ import annotations

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.connect.meaning import Measure
from uncus.frame.numbers.kind import ByNumbers, made
from uncus.frame.placement import tidied
from uncus.job.errors import JobError
from uncus.job.records import Member, Point, new_id
from uncus.shop.choices import Picture, frame_pictures
from uncus.shop.meaning import measure_frame
from uncus.units import UnitError, counted, format_length, parse_length


def fresh(template: Member, start: Point, end: Point) -> Member:
    """A new member like the template between two points."""
    return msgspec.structs.replace(template, id=new_id(), start=start, end=end)


def checked_member(member: Member) -> Member:
    if problem := member.problem():
        raise JobError(problem)
    return member


class TemplateTool(PointTool):
    """Makes members like a template, which the facts show and change."""

    def __init__(self, site: Site, template: Member) -> None:
        super().__init__(site)
        self.template = template

    @property
    def role(self) -> str:
        return str(self.template.role).capitalize()


class ColumnTool(TemplateTool):
    """One pick a column: its foot; its height is typed or that to the next level."""

    words = "Column"

    def __init__(self, site: Site, template: Member, height: float) -> None:
        super().__init__(site, template)
        self.height = height

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return f"pick the foot; height {format_length(self.height, self.units)}, or type another"

    def _column(self, foot: Point) -> Member:
        return fresh(self.template, foot, tidied((foot[0], foot[1], foot[2] + self.height)))

    def taken(self) -> Result:
        foot = self.picks.pop().point
        return Commit(self.role, (checked_member(self._column(foot)),))

    def typed(self, text: str) -> Result:
        try:
            height = parse_length(text, self.units)
        except UnitError:
            if any(mark in text for mark in ",/") or " at " in text:
                return super().typed(text)  # a place
            raise
        if not 100 <= height < 1e6:
            shown = format_length(height, self.units)
            raise JobError(f"A column {shown} high is too short or too tall; type a height such as 12'-0.")
        self.height = height
        return None

    def preview(self) -> Preview:
        return Preview((self._column(self.pointer.point),)) if self.pointer else Preview()


class BeamTool(TemplateTool):
    """Two picks: the left end, then the far end or a typed length along the pointer."""

    words = "Beam"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the far end, or type a length" if self.picks else "pick the left end, or type a point such as 2/B"

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        a, b = self.points
        beam = checked_member(fresh(self.template, a, b))
        self.picks.clear()
        return Commit(self.role, (beam,), landing=(a, b))

    def preview(self) -> Preview:
        if not self.picks or self.pointer is None:
            return Preview()
        beam = fresh(self.template, self.points[0], self.pointer.point)
        if beam.problem():
            return Preview()
        words = f"{format_length(beam.work_length, self.units)}   left end first"
        return Preview((beam,), ((beam.start, beam.end),), words, _middle(beam))


class PolylineTool(TemplateTool):
    """Points one after the other; Enter makes a member of each side."""

    words = "Along a path"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if not self.picks:
            return "pick the first point of the path"
        return "pick the next point, or Enter to make the members"

    def taken(self) -> Result:
        if len(self.picks) > 1:
            checked_member(fresh(self.template, *self.points[-2:]))
        return None

    def _sides(self, points: tuple[Point, ...]) -> tuple[Member, ...]:
        return tuple(fresh(self.template, a, b) for a, b in zip(points, points[1:], strict=False))

    def typed(self, text: str) -> Result:
        if text.strip():
            return super().typed(text)
        if len(self.picks) < 2:
            raise JobError("A path needs two points at least; pick another one first.")
        members = self._sides(tuple(self.points))
        points = tuple(self.points)
        self.picks.clear()
        return Commit(f"{len(members)} along a path", members, landing=points)

    def preview(self) -> Preview:
        path = self._path()
        members = tuple(m for m in self._sides(path) if not m.problem())
        if not members:
            return Preview()
        total = format_length(sum(m.work_length for m in members), self.units)
        return Preview(members, (path,), f"{counted(len(members), 'member')}, {total} in all", path[-1])


class NumbersTool(PointTool):
    """A frame from typed values, shown as it will be, and placed by picks."""

    def __init__(self, site: Site, kind: ByNumbers) -> None:
        self.words = kind.words  # type: ignore[misc]
        super().__init__(site)
        self.kind = kind
        self.options = self._remembered(kind.params, {} if self.units == "imperial" else kind.metric)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return self.kind.picks[len(self.picks)] + ("; its values are at the right" if not self.picks else "")

    def taken(self) -> Result:
        if len(self.picks) < len(self.kind.picks):
            return None
        members = made(self.kind, self.options, [np.asarray(p) for p in self.points], self.units)
        self.picks.clear()
        count = counted(len(members), "member")
        return Commit(self.kind.words, tuple(members), words=f"{self.kind.words}: {count} made, kept as plain members")

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < len(self.kind.picks):
            return Preview(lines=(path,) if len(path) > 1 else ())
        try:
            members = made(self.kind, self.options, [np.asarray(p) for p in path], self.units)
        except (JobError, UnitError) as error:
            return Preview(lines=(path,), words=str(error), at=path[-1])
        words = (
            f"{len(members)} members, {format_length(float(np.linalg.norm(np.subtract(path[1], path[0]))), self.units)}"
        )
        return Preview(tuple(members[:400]), (path,), words, path[-1])

    def measure(self, name: str) -> Measure | None:
        path = self._path()
        if len(path) < len(self.kind.picks):
            return None
        return measure_frame(self.kind, self.options, path, self.units, name)

    def pictures(self, name: str) -> dict[str, Picture]:
        return frame_pictures(self.kind, self.options, self._path(), self.units, name)


def _middle(m: Member) -> Point:
    return tidied((np.asarray(m.start) + np.asarray(m.end)) / 2)
