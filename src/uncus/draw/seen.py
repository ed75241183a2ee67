"""A view as a rule of dimensioning sees it: its lines, its holes by what made them, and what the rule said already."""

from __future__ import annotations

from collections import defaultdict
from copy import copy
from typing import NamedTuple

from uncus.catalog.sections import Form
from uncus.draw.projection import View, far_holes, project
from uncus.draw.studs import with_studs
from uncus.draw.subject import Subject
from uncus.job.drawings import SheetPreset
from uncus.units import Units, format_length

LONG = ("front", "top", "bottom")


class SeenHole(NamedTuple):
    """A hole seen face on: where, its size, the keys of its column and its row, whether it is the main part's, and
    how many degrees a slot leans from the view's u."""

    u: float
    v: float
    d: float
    slot: float
    column: str
    row: str
    own: bool
    lean: float = 0.0


class Seen:
    """A view of a subject. Each rule that looks at it remembers for itself what it has said in the views before, so
    that nothing is said twice and no rule hangs on another."""

    def __init__(self, subject: Subject, name: str, units: Units, preset: SheetPreset) -> None:
        self.subject, self.name, self.units, self.preset = subject, name, units, preset
        self._said: set[object] = set()
        self.main = subject.main
        self.view: View = with_studs(project(subject.bodies, name), subject.studs)
        self.left, self.low, self.right, self.high = self.view.box
        self.holes = self._holes()

    def said(self, mm: float) -> str:
        return format_length(mm, self.units)

    def remembering(self, said: set[object]) -> Seen:
        """The same view to a rule that has said something before."""
        again = copy(self)
        again._said = said
        return again

    def first(self, *what: object) -> bool:
        """Whether the rule that looks says something for the first time on this sheet."""
        if what in self._said:
            return False
        self._said.add(what)
        return True

    def said_before(self, *what: object) -> bool:
        """Whether the rule that looks has said something on this sheet."""
        return what in self._said

    @property
    def length(self) -> float:
        return self.main.length

    @property
    def datum(self) -> tuple[str, float]:
        """Where distances across the view are counted from: the middle, or the heel of what has one."""
        form = self.main.form
        if self.name == "front":
            return ("heel", self.main.depth_range[0]) if form is Form.ANGLE else ("middle", 0.0)
        if form in (Form.ANGLE, Form.CHANNEL):
            return "heel", self.main.y_range[0] * (1.0 if self.name == "top" else -1.0)
        return "middle", 0.0

    def _twin(self, n: int) -> bool:
        """Whether a fixed part is the other length of a pair, gaged as the main part is."""
        f = self.subject.fixed[n]
        return f.part.section is not None and f.part.section == self.main.section and abs(float(f.place.x[0])) > 0.999

    def _holes(self) -> list[SeenHole]:
        groups: dict[str, list] = defaultdict(list)  # type: ignore[type-arg]
        behind = far_holes(self.main, self.name)
        for ring in self.view.rings:
            if not ring.body and ring.hole in behind:
                continue
            if ring.body:
                group = self.subject.fixed[ring.body - 1].id
            else:
                hole = self.main.holes[ring.hole]
                group = f"{self.subject.source(ring.hole)}/{hole.face}"
            groups[group].append(ring)
        found = []
        for group, rings in groups.items():
            us = steps([r.u for r in rings])
            vs = steps([-r.v for r in rings])
            right = sum(r.u for r in rings) / len(rings) > self.length / 2
            for r in rings:
                column, row = _index(us, r.u), _index(vs, -r.v)
                column = len(us) - 1 - column if right else column  # counted from the end that they are near
                own = not r.body or self._twin(r.body - 1)
                lean = (round(r.angle, 1) + 90.0) % 180.0 - 90.0 if r.slot else 0.0
                found.append(SeenHole(r.u, r.v, r.d, r.slot, f"{group}|x{column}", f"{group}|w{row}", own, lean))
        return found


def steps(values: list[float], apart: float = 0.5) -> list[float]:
    """Values in order, one for all that are within a distance."""
    out: list[float] = []
    for value in sorted(values):
        if not out or value - out[-1] > apart:
            out.append(value)
    return out


def _index(steps: list[float], value: float) -> int:
    return min(range(len(steps)), key=lambda i: abs(steps[i] - value))
