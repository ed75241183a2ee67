"""Lines of a drawing that lies under the steel made into grid lines, members or plates by picking them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.app.tools.draw_plates import plane_frame
from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.catalog.sections import section
from uncus.frame.grids import Family, labels
from uncus.frame.outlines import polygon, with_arcs
from uncus.frame.placement import Placement, tidied
from uncus.frame.plates import plate_in
from uncus.frame.snaps import Snap
from uncus.job.blanks import Blank, Corner, Ring
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Grid, Line, Member, Role
from uncus.reference.levels import line_of
from uncus.reference.plate_outline import Stroke, chained
from uncus.units import Units

GRID, MEMBER, PLATE = WAYS = ("grid line", "member", "plate")
_ROLES = tuple(str(r) for r in (Role.BEAM, Role.COLUMN, Role.BRACE, Role.PURLIN, Role.GIRT, Role.RAFTER, Role.STRUT))
_ON = 1.0  # mm off the work plane that a line of an outline may be
Array = NDArray[np.float64]


class FollowOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    make: Annotated[str, About("A line becomes", unit="choice", choices=WAYS,
        help="A plate is made of the closed line that the picked one is part of.")] = GRID  # fmt: skip
    section: Annotated[str, About("Section", unit="section", only=("make", MEMBER))] = "W12X26"
    role: Annotated[str, About("Role", unit="choice", choices=_ROLES, only=("make", MEMBER))] = str(Role.BEAM)
    thickness: Annotated[float, About("Thickness", low=2, high=160, only=("make", PLATE))] = 9.525


class FollowLinesTool(PointTool):
    """`lines` gives every line of the drawings that are shown, (n, 2, 3)."""

    words = "Follow lines of a drawing"
    picks_edges = True
    prompt = "pick a line of a drawing"

    def __init__(self, site: Site, lines: Callable[[], Array]) -> None:
        super().__init__(site)
        self.lines = lines
        usual = {"section": "IPE300", "thickness": 10.0} if site.units is Units.METRIC else {}
        self.options: FollowOptions = self._remembered(FollowOptions, usual)

    def taken(self) -> Result:
        (snap,) = self.picks
        self.picks.clear()
        if snap.line is None:
            raise JobError("Pick a line of a drawing, not only a point.")
        match self.options.make:
            case "grid line":
                return self._grid(snap)
            case "member":
                return self._member(snap)
        return self._plate(snap)

    def _grid(self, snap: Snap) -> Result:
        assert snap.line is not None
        grid = self.site.grid or Grid()
        made, by_number = line_of("", *snap.line)
        family = Family.NUMBERS if by_number else Family.LETTERS
        taken = {one.label for one in (*grid.numbers, *grid.letters)}
        made = msgspec.structs.replace(made, label=next(name for name in labels(family) if name not in taken))
        own = grid.numbers if by_number else grid.letters
        if any(abs(one.at - made.at) < 1.0 and abs(one.turn - made.turn) < 0.01 for one in own):
            raise JobError("There is a grid line on this line already.")
        lines = tuple(sorted((*own, made), key=lambda one: one.at))
        put = msgspec.structs.replace(grid, **{"numbers" if by_number else "letters": lines})
        return Commit(f"Grid line {made.label}", (put,), words=f"grid line {made.label}")

    def _member(self, snap: Snap) -> Result:
        assert snap.line is not None
        o = self.options
        start, end = (tidied(p) for p in sorted(snap.line))
        made = Member(role=Role(o.role), section=section(o.section).name, start=start, end=end, line=Line.CENTRE)
        if problem := made.problem():
            raise JobError(problem)
        return Commit(f"{o.role.capitalize()} along a line", (made,))

    def _plate(self, snap: Snap) -> Result:
        assert snap.line is not None
        frame = plane_frame(self.site)  # type: ignore[arg-type]
        ring = self._ring(frame, snap)
        made = plate_in(frame, Blank(ring), self.options.thickness, self.units)
        return Commit("Plate along lines", (made,))

    def _ring(self, frame: Placement, snap: Snap) -> Ring:
        """The closed line in the work plane that a picked one is part of, the smallest there is."""
        assert snap.line is not None
        ends = frame.to_local(self.lines().reshape(-1, 3)).reshape(-1, 2, 3)
        ends = ends[(np.abs(ends[:, :, 1]) < _ON).all(axis=1)]
        rings = chained([Stroke((a[0], a[2]), (b[0], b[2]), 0.0) for a, b in ends.tolist()])
        at = frame.to_local(np.array(snap.line)).mean(axis=0)[[0, 2]]
        found = []
        for ring in rings:
            points = np.array([(c.x, c.z) for c in ring])
            away = _off(at, points, np.roll(points, -1, axis=0))
            if away < _ON:
                found.append((polygon(ring).area, ring))
        if not found:
            raise JobError("The picked line closes no outline with others in the work plane.")
        _, ring = min(found, key=lambda one: one[0])
        return tuple(Corner(*e) for e in with_arcs([(c.x, c.z) for c in ring]))

    def preview(self) -> Preview:
        line = self.pointer.line if self.pointer else None
        return Preview(lines=(line,) if line else ())


def _off(p: Array, a: Array, b: Array) -> float:
    """The distance of a point from the nearest of some lines in plan."""
    d = b - a
    t = np.clip(np.einsum("ij,ij->i", p - a, d) / np.maximum(np.einsum("ij,ij->i", d, d), 1e-12), 0.0, 1.0)
    return float(np.linalg.norm(p - a - t[:, None] * d, axis=1).min())
