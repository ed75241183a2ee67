"""What every picking tool is: a state machine fed with picks and typed text, giving previews and changes."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from uncus.frame.snaps import Snap
from uncus.job.records import AnyRecord, Member, Point
from uncus.units import Units


class Commit(msgspec.Struct, frozen=True):
    """One change to make, under one undo step."""

    label: str
    put: tuple[AnyRecord, ...] = ()
    drop: tuple[str, ...] = ()


class Measure(msgspec.Struct, frozen=True):
    """A measure that stays in the view until cleared."""

    a: Point
    b: Point


class Preview(msgspec.Struct, frozen=True):
    """What a tool is about to make, and lines to show on the way (model points)."""

    members: tuple[Member, ...] = ()
    line: tuple[Point, ...] = ()
    words: str = ""


class Tool:
    """Base: takes nothing, shows nothing. `units` is the job's."""

    words = "Select"
    prompt = "pick a piece, or drag a box; then edit its facts at the right"
    picks_points = False

    def __init__(self, units: Units) -> None:
        self.units = units
        self.pointer: Snap | None = None

    def moved(self, snap: Snap) -> None:
        self.pointer = snap

    def picked(self, snap: Snap) -> Commit | Measure | None:
        """A click on a point."""
        return None

    def typed(self, text: str) -> Commit | Measure | None:
        """Text entered in the prompt. Raises UnitError or JobError with a sentence."""
        return None

    def back(self) -> bool:
        """Step back one pick; False where there is none to take back."""
        return False

    def preview(self) -> Preview:
        return Preview()


def between(a: Point, b: Point) -> tuple[float, float, float]:
    return b[0] - a[0], b[1] - a[1], b[2] - a[2]


def along(a: Point, b: Point, length: float) -> Point:
    """The point `length` from a towards b; along x where b is a."""
    d = between(a, b)
    size = sum(c * c for c in d) ** 0.5
    u: Sequence[float] = [c / size for c in d] if size > 1e-6 else (1.0, 0.0, 0.0)
    return a[0] + u[0] * length, a[1] + u[1] * length, a[2] + u[2] * length
