"""Changing a plate that is there: holes, openings and bends in it, its corners and holes moved, plates cut by lines."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

import msgspec
import numpy as np
import shapely

from uncus.app.tools.draw_plates import EDGES, SHAPES, RingTool
from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.catalog.bending import least_radius, usual_radius
from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import section
from uncus.frame.outlines import points_of
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_frame, with_blank
from uncus.job.blanks import Blank, Fold, HoleRow, Ring
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Member, Point
from uncus.steel.blanks import ordered
from uncus.units import Units, format_length

replace = msgspec.structs.replace
_NEAR = 60.0  # mm of a corner or hole that a pick takes hold of


class _OnPlate(PointTool):
    """Works on the first selected plate."""

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        if self.plate() is None:
            raise JobError(f"{self.words} works on a plate: press Esc, pick one, then take it up again.")

    def plate(self) -> Member | None:
        return next((m for m in self.chosen if m.blank is not None), None)

    def there(self) -> tuple[Member, Blank]:
        found = self.plate()
        if found is None or found.blank is None:
            raise JobError("The plate is gone; pick another one.")
        return found, found.blank

    def flat(self, points: Sequence[Point]) -> list[tuple[float, float]]:
        """Points of the model in the plate's own frame."""
        member, _ = self.there()
        return [(x, z) for x, _, z in plate_frame(member).to_local(np.array(points)).tolist()]

    def put(self, blank: Blank, label: str) -> Commit:
        member, _ = self.there()
        return Commit(label, (with_blank(member, blank, _units(self.site)),))

    def seen(self, blank: Blank, words: str = "") -> Preview:
        member, _ = self.there()
        at = self.pointer.point if self.pointer else None
        try:
            return Preview((with_blank(member, blank, _units(self.site)),), (), words, at)
        except JobError as error:
            return Preview((), (), str(error), at)


class _OnPlateByTwo(_OnPlate):
    """Changes the plate by two picks, shown from the first one on."""

    label: ClassVar[str]

    def _with(self, points: Sequence[Point]) -> Blank:
        """The plate's blank as two points make it. Raises JobError."""
        raise NotImplementedError

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        made = self.put(self._with(self.points), self.label)
        self.picks.clear()
        return made

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        try:
            return self.seen(self._with(path))
        except JobError as error:
            return Preview((), (path,), str(error), path[-1])


def _units(site: Site) -> Units:
    return site.job.project.units


class HoleOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    d: Annotated[float, About("Hole", low=3, high=2000)] = 20.6375
    slot: Annotated[float, About("Slot", low=0, high=4000, help="Length over all; round: 0.")] = 0.0
    angle: Annotated[float, About("Slot stands at", unit="angle", low=-180, high=180)] = 0.0
    columns: Annotated[int, About("Along the plate", unit="count", low=1, high=500)] = 1
    dx: Annotated[float, About("Apart along", low=-5000, high=5000)] = 76.2
    rows: Annotated[int, About("Across the plate", unit="count", low=1, high=500)] = 1
    dz: Annotated[float, About("Apart across", low=-5000, high=5000)] = 76.2
    turn: Annotated[float, About("Pattern turned", unit="angle", low=-180, high=180)] = 0.0


class HoleTool(_OnPlate):
    """Holes in a plate, one or a pattern: a pick for the first."""

    words = "Holes in a plate"
    prompt = "pick the first hole's middle; its pattern is at the right"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(HoleOptions, {} if self.units == "imperial" else {"d": 22.0})

    def _with(self, at: Point) -> Blank:
        _, blank = self.there()
        ((x, z),) = self.flat([at])
        row = HoleRow(x, z, **msgspec.structs.asdict(self.options))
        if problem := row.problem():
            raise JobError(problem)
        return replace(blank, holes=(*blank.holes, row))

    def taken(self) -> Result:
        return self.put(self._with(self.picks.pop().point), "Holes")

    def preview(self) -> Preview:
        if self.pointer is None:
            return Preview()
        try:
            return self.seen(self._with(self.pointer.point))
        except JobError as error:
            return Preview((), (), str(error), self.pointer.point)


class OpeningOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[str, About("Drawn by", unit="choice", choices=SHAPES)] = SHAPES[1]
    edge: Annotated[str, About("Next edge", unit="choice", choices=EDGES, only=("shape", SHAPES[0]))] = EDGES[0]


class OpeningTool(RingTool, _OnPlate):
    """An opening in a plate, drawn like an outline."""

    words = "Opening in a plate"
    ends = "the opening"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(OpeningOptions)
        self._bend(False)

    @property
    def shape(self) -> str:  # type: ignore[override]
        return str(self.options.shape)

    def frame(self) -> Placement:
        return plate_frame(self.there()[0])

    def finished(self, ring: Ring) -> Result:
        _, blank = self.there()
        return self.put(replace(blank, openings=(*blank.openings, ring)), "Opening")

    def preview(self) -> Preview:
        ring, path = self.shown()
        if ring is None:
            return Preview(lines=(path,) if len(path) > 1 else ())
        _, blank = self.there()
        return self.seen(replace(blank, openings=(*blank.openings, ring)))


class BendOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    angle: Annotated[float, About("Angle", unit="angle", low=-170, high=170,
        help="Towards you where positive, away where negative.")] = 90.0  # fmt: skip
    radius: Annotated[float | None, About("Inside radius", low=0, high=5000,
        help="Left open: one and a half thicknesses, or what the grade takes.")] = None  # fmt: skip


class BendTool(_OnPlateByTwo):
    """A bend along a line; what lies to the left of it, seen from its first point, turns."""

    words = "Bend a plate"
    label = "Bend"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(BendOptions)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        side = "; what lies to its left turns"
        return f"pick the bend line's other point{side}" if self.picks else f"pick a point of the bend line{side}"

    def _with(self, points: Sequence[Point]) -> Blank:
        member, blank = self.there()
        (x1, z1), (x2, z2) = self.flat(points)
        if math.hypot(x2 - x1, z2 - z1) < 1.0:
            raise JobError("The bend line has no length; pick another second point.")
        t, o = section(member.section).tw, self.options
        grade = member.grade or usual_grade(section(member.section))
        least = least_radius(grade, t)
        fold = Fold(x1, z1, x2, z2, o.angle, o.radius if o.radius is not None else usual_radius(grade, t))
        if least is not None and fold.radius < least[0] - 0.1:
            about, needs = f"The {member.role} {member.section} of {grade}", format_length(least[0], _units(self.site))
            raise JobError(f"{about} is bent cold to {needs} inside at least ({least[1]}); give the bend that radius.")
        made = replace(blank, folds=(*blank.folds, fold))
        if problem := made.problem():
            raise JobError(problem)
        try:
            ordered(made.folds, shapely.Polygon(points_of(made.outline)), t)
        except ValueError as error:
            raise JobError(f"The {member.role} {member.section} is not bent so: {error}.") from error
        return made


class PlatePointTool(_OnPlateByTwo):
    """A corner or a hole of a plate moved: pick it, then where it goes."""

    words = label = "Move a plate's point"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick where it goes" if self.picks else "pick a corner, an edge or a hole of the plate"

    def _with(self, points: Sequence[Point]) -> Blank:
        _, blank = self.there()
        (x0, z0), (x1, z1) = self.flat(points)
        dx, dz = x1 - x0, z1 - z0
        spots: list[tuple[float, str, int, int]] = []
        rings = (blank.outline, *blank.openings)
        for r, ring in enumerate(rings):
            for i, c in enumerate(ring):
                after = ring[(i + 1) % len(ring)]
                spots.append((math.hypot(c.x - x0, c.z - z0), "corner", r, i))
                spots.append((math.hypot((c.x + after.x) / 2 - x0, (c.z + after.z) / 2 - z0) + 1.0, "edge", r, i))
        spots += [(math.hypot(h.x - x0, h.z - z0), "hole", i, 0) for i, h in enumerate(blank.holes)]
        away, what, r, i = min(spots)
        if away > _NEAR:
            raise JobError("No corner, edge or hole of the plate is near that pick; pick nearer to one.")
        if what == "hole":
            holes = list(blank.holes)
            holes[r] = replace(holes[r], x=holes[r].x + dx, z=holes[r].z + dz)
            return replace(blank, holes=tuple(holes))
        moved = list(rings[r])
        for k in (i,) if what == "corner" else (i, (i + 1) % len(moved)):
            moved[k] = replace(moved[k], x=moved[k].x + dx, z=moved[k].z + dz)
        changed = [tuple(moved) if n == r else ring for n, ring in enumerate(rings)]
        return replace(blank, outline=changed[0], openings=tuple(changed[1:]))
