"""Placing guides: between points, beside or across a line, round a plate, along a piece's bolt and gage lines."""

from __future__ import annotations

from typing import Annotated

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.frame.guides import all_round, at_angle, between, distance_to, parallel, stretch
from uncus.frame.placement import point_of
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Guide
from uncus.shop.lines import bolt_lines, gage_lines, outline
from uncus.shop.pieces import Piece
from uncus.units import UnitError, format_length, parse_length

POINTS, PARALLEL, ACROSS = "through two points", "parallel", "square or at an angle"
ROUND, BOLTS, GAGES = "all round a piece", "along bolt lines", "along gage lines"
_KINDS = (POINTS, PARALLEL, ACROSS, ROUND, BOLTS, GAGES)


class GuideOptions(msgspec.Struct, frozen=True):
    kind: Annotated[str, About("Guide", unit="choice", choices=_KINDS)] = POINTS
    reach: Annotated[
        str,
        About(
            "Length", unit="choice", choices=("endless", "limited"), help="Limited: from the first point to the second."
        ),
    ] = "endless"
    angle: Annotated[float, About("Angle to the line", unit="angle", low=-360, high=360)] = 90.0


class GuideTool(PointTool):
    words = "Guide"
    picks_edges = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(GuideOptions)

    @property
    def picks_pieces(self) -> bool:  # type: ignore[override]
        return self.options.kind in (ROUND, BOLTS, GAGES)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        kind, n = self.options.kind, len(self.picks)
        if kind == POINTS:
            return "pick the second point, or type how far" if n else "pick the first point"
        if kind == PARALLEL:
            return (
                "pick a point it goes through, or type how far to the pointer's side"
                if n
                else "pick a line: grid, guide, member or edge"
            )
        if kind == ACROSS:
            return "pick a point it goes through" if n else "pick a line: grid, guide, member or edge"
        return {ROUND: "pick a plate or a piece", BOLTS: "pick a piece with holes", GAGES: "pick a rolled piece"}[kind]

    def set_option(self, name: str, value: object) -> None:
        super().set_option(name, value)
        self.picks.clear()

    # -- taking -------------------------------------------------------------------------------------
    def _line(self) -> tuple[np.ndarray, np.ndarray]:
        line = self.picks[0].line
        if line is None:
            raise JobError("Pick the line between its ends and crossings; hold “nearest” with Alt+N.")
        return np.asarray(line[0]), np.asarray(line[1])

    def taken(self) -> Result:
        kind = self.options.kind
        if self.picks_pieces:
            return self._along_piece(self.picks[-1])
        if kind != POINTS and len(self.picks) == 1:
            self._line()
            return None
        if len(self.picks) < 2:
            return None
        return self._commit((self._guide(np.asarray(self.points[1])),))

    def _guide(self, point: np.ndarray, distance: float | None = None) -> Guide:
        plane = self.site.plane
        endless = self.options.reach == "endless"
        if self.options.kind == POINTS:
            return between(np.asarray(self.points[0]), point, endless)
        a, b = (plane.onto(p) for p in self._line())
        if self.options.kind == PARALLEL:
            far = distance_to(a, b, plane, point)
            if distance is not None:
                far = distance if far >= 0 else -distance
            return parallel(a, b, plane, far, endless)
        return at_angle(a, b, plane, plane.onto(point), self.options.angle)

    def _along_piece(self, snap: Snap) -> Commit:
        self.picks.clear()
        piece = self._piece(snap)
        if self.options.kind == ROUND:
            return self._commit(tuple(all_round(outline(piece))))
        lines = bolt_lines(piece) if self.options.kind == BOLTS else gage_lines(piece)
        if not lines:
            raise JobError(
                f"The {piece.words} has no {'row of holes' if self.options.kind == BOLTS else 'usual gage'}; pick "
                f"another piece."
            )
        return self._commit(tuple(between(a, b, self.options.reach == "endless") for a, b in lines))

    def _piece(self, snap: Snap) -> Piece:
        """The part picked: the one of the assembly that the point lies on."""
        assembly = self.site.shop.assemblies.get(snap.piece)
        if assembly is None:
            raise JobError("There is no piece here; pick one of its faces.")

        def away(p: Piece) -> float:
            x, y, z = p.placement.to_local(np.asarray(snap.point))
            (y0, y1), (z0, z1) = p.part.y_range, p.part.depth_range
            return float(max(-x, x - p.part.length, y0 - y, y - y1, z0 - z, z - z1))

        return min(assembly.pieces, key=lambda p: (round(max(0.0, away(p))), p.main))

    def _commit(self, guides: tuple[Guide, ...]) -> Commit:
        for guide in guides:
            if problem := guide.problem():
                raise JobError(problem)
        self.picks.clear()
        return Commit(f"{len(guides)} guides" if len(guides) > 1 else "Guide", guides)

    def typed(self, text: str) -> Result:
        if self.options.kind == PARALLEL and self.picks and "," not in text:
            try:
                distance = parse_length(text, self.units)
            except UnitError:
                return super().typed(text)
            if self.pointer is None:
                raise JobError("Point to the side of the line first; then type how far.")
            return self._commit((self._guide(np.asarray(self.pointer.point), distance),))
        return super().typed(text)

    def preview(self) -> Preview:
        if not self.picks or self.pointer is None or self.picks_pieces:
            return Preview()
        try:
            guide = self._guide(np.asarray(self.pointer.point))
        except (JobError, ValueError):
            return Preview()
        a, b = stretch(guide)
        words = ""
        if self.options.kind == PARALLEL:
            line = [self.site.plane.onto(p) for p in self._line()]
            words = format_length(
                abs(distance_to(line[0], line[1], self.site.plane, np.asarray(self.pointer.point))), self.units
            )
        return Preview(lines=((point_of(a), point_of(b)),), words=words, at=self.pointer.point)
