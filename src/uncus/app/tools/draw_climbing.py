"""Placing members that climb about an axis, by two picks."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.frame.placement import tidied
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import END_CUTS, Climb, Line, Member, Role
from uncus.units import format_length

_ROLES = (str(Role.STRINGER), str(Role.RAIL), str(Role.BEAM))
_TOES = ("away from the axis", "to the axis")


class ClimbOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    role: Annotated[str, About("Role", unit="choice", choices=_ROLES)] = _ROLES[0]
    section: Annotated[str, About("Section", unit="section")] = "C10X15.3"
    turn: Annotated[float, About("Turns by", unit="angle", low=-3600, high=3600,
        help="To the left, going up, where positive.")] = 180.0  # fmt: skip
    rise: Annotated[float, About("Rises by", low=-50_000, high=50_000)] = 3048.0
    toes: Annotated[str, About("Toes look", unit="choice", choices=_TOES)] = _TOES[0]
    left: Annotated[str, About("Lower end cut", unit="choice", choices=END_CUTS)] = END_CUTS[2]
    right: Annotated[str, About("Upper end cut", unit="choice", choices=END_CUTS)] = END_CUTS[1]


class ClimbTool(PointTool):
    """A member along a helix about a plumb axis."""

    words = "Climbing member"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        metric = {"section": "UPN200", "rise": 3000.0}
        self.options = self._remembered(ClimbOptions, {} if self.units == "imperial" else metric)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick where it begins" if self.picks else "pick the axis that it climbs about; its turn is at the right"

    def _member(self, points) -> Member:  # type: ignore[no-untyped-def]
        o: ClimbOptions = self.options
        (x, y, _), start = points
        climb = Climb(x, y, o.turn)
        away = o.toes == _TOES[0]  # the section's far side, where toes are, lies to the left
        made = Member(role=Role(o.role), section=o.section, start=start, end=tidied(climb.at(start, 1.0, o.rise)),
            line=Line.CENTRE, roll=180.0 if away == (o.turn > 0) else 0.0, climb=climb, left_cut=o.left,
            right_cut=o.right)  # fmt: skip
        if problem := made.problem():
            raise JobError(problem)
        return made

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        made = self._member(self.points)
        self.picks.clear()
        return Commit("Climbing member", (made,))

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        try:
            made = self._member(path)
        except JobError as error:
            return Preview((), (path,), str(error), path[-1])
        radius = made.climb.radius(made.start) if made.climb else 0.0
        return Preview((made,), (path,), f"radius {format_length(radius, self.units)}", path[-1])
