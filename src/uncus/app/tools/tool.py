"""What every picking tool is: a state machine fed with picks and typed text, giving previews and changes."""

from __future__ import annotations

from typing import Any, Protocol

import msgspec
import numpy as np

from uncus.connect.meaning import Measure
from uncus.frame.placement import tidied
from uncus.frame.planes import Plane
from uncus.frame.snaps import Snap, SnapKind
from uncus.frame.typed import typed_point
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.job import Job
from uncus.job.records import AnyRecord, Grid, Measured, Member, Point
from uncus.shop.choices import Picture
from uncus.shop.shop import Shop
from uncus.units import Units


class Site(Protocol):
    """What a tool may know of where it works."""

    job: Job
    shop: Shop
    plane: Plane

    @property
    def units(self) -> Units: ...

    @property
    def grid(self) -> Grid | None: ...

    @property
    def members(self) -> list[Member]:
        """The selected members."""

    def remembered(self, tool: str) -> dict[str, Any]:
        """The user's own values of a tool's options."""


class Commit(msgspec.Struct, frozen=True):
    """One change to make, under one undo step. `words` say more than the label what was done; `landing` are points of
    new members that may have missed the steel over them."""

    label: str
    put: tuple[AnyRecord, ...] = ()
    drop: tuple[str, ...] = ()
    words: str = ""
    landing: tuple[Point, ...] = ()


class Preview(msgspec.Struct, frozen=True):
    """What a tool is about to make, and lines to show on the way (model points)."""

    members: tuple[Member, ...] = ()
    lines: tuple[tuple[Point, ...], ...] = ()
    words: str = ""
    at: Point | None = None  # where the words stand


Result = Commit | Measured | Plane | None


class Tool:
    """Base: takes nothing, shows nothing."""

    words = "Select"
    prompt = "pick a piece, or drag a box; then edit its facts at the right"
    picks_points = False  # points by snap
    picks_pieces = False  # pieces or their faces
    picks_edges = False  # edges of pieces too, not only their work lines
    options: Any = None  # a struct of values that makes its own form

    def __init__(self, site: Site) -> None:
        self.site = site
        self.pointer: Snap | None = None
        self.chosen_ids = [m.id for m in site.members]  # what was selected when the tool was taken up

    @property
    def units(self) -> Units:
        return self.site.units

    @property
    def last(self) -> Point | None:
        """The point picked before, from which typed values count."""
        return None

    @property
    def chosen(self) -> list[Member]:
        """The members the tool works on, as they are now: an undo meanwhile is followed."""
        return [m for id in self.chosen_ids if (m := self.site.job.get(id, Member))]

    def moved(self, snap: Snap) -> None:
        self.pointer = snap

    def picked(self, snap: Snap) -> Result:
        """A click."""
        return None

    def typed(self, text: str) -> Result:
        """Text entered in the prompt. Raises UnitError or JobError with a sentence."""
        return None

    def back(self) -> bool:
        """Step back one pick; False where there is none to take back."""
        return False

    def preview(self) -> Preview:
        return Preview()

    def measure(self, name: str) -> Measure | None:
        """What one of its lengths measures in what it is about to make. Raises JobError or UnitError."""
        return None

    def pictures(self, name: str) -> dict[str, Picture]:
        """What it would make with each choice of one of its options, where that shows."""
        return {}

    def state(self) -> Any:
        """What a refused pick must leave as it was."""
        return None

    def restore(self, state: Any) -> None:
        """Go back to an earlier state."""

    def set_option(self, name: str, value: Any) -> None:
        """Change one option. Raises JobError where it cannot be."""
        self.options = checked(type(self.options), {**msgspec.structs.asdict(self.options), name: value})

    def _remembered(self, options: type[msgspec.Struct], usual: dict[str, Any] | None = None) -> Any:
        """The options as the user left them; what no longer fits falls back to the `usual` ones."""
        known = set(options.__struct_fields__)
        own = {k: v for k, v in self.site.remembered(self.words).items() if k in known}
        try:
            return checked(options, {**(usual or {}), **own})
        except (JobError, ValueError, LookupError, TypeError):
            return checked(options, usual or {})


class PointTool(Tool):
    """Takes points one after the other, by pick or typed; `taken` says what comes of them."""

    picks_points = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.picks: list[Snap] = []

    @property
    def points(self) -> list[Point]:
        return [p.point for p in self.picks]

    @property
    def last(self) -> Point | None:
        return self.picks[-1].point if self.picks else None

    def picked(self, snap: Snap) -> Result:
        before = self.state()
        self.picks.append(snap)
        try:
            return self.taken()
        except Exception:
            self.restore(before)
            raise

    def taken(self) -> Result:
        """Called after each pick: None to go on."""
        raise NotImplementedError

    def typed(self, text: str) -> Result:
        pointer = np.asarray(self.pointer.point) if self.pointer else None
        last = np.asarray(self.last) if self.last else None
        point = typed_point(text, self.site.plane, self.site.grid, self.units, last, pointer)
        return self.picked(Snap(tidied(point), "typed", kind=SnapKind.PLANE))

    def back(self) -> bool:
        return bool(self.picks and self.picks.pop())

    def state(self) -> list[Snap]:
        return list(self.picks)

    def restore(self, state: list[Snap]) -> None:
        self.picks = list(state)

    def _path(self) -> tuple[Point, ...]:
        return (*self.points, *([self.pointer.point] if self.pointer and self.picks else []))
