"""Plates drawn in the work plane: by corners with lines and arcs, a rectangle, a circle, or an outline from a file."""

from __future__ import annotations

from typing import Annotated

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.frame.outlines import OutlineError, arc_through, circle, polygon, rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import SIDES, plate_in, shifted
from uncus.job.blanks import Blank, Corner, HoleRow, Lugs, Ring
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Member, Point
from uncus.units import format_length

CORNERS, RECTANGLE, CIRCLE = SHAPES = ("corners", "rectangle", "circle")
STRAIGHT, ARC = EDGES = ("straight", "arc")
PLAIN, CHECKERED = SURFACES = ("plain", "checkered")


class PlateOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    shape: Annotated[str, About("Drawn by", unit="choice", choices=SHAPES)] = CORNERS
    edge: Annotated[str, About("Next edge", unit="choice", choices=EDGES, only=("shape", CORNERS),
        help="Of an arc, the next pick is a point that it bends through; or type “arc”.")] = EDGES[0]  # fmt: skip
    thickness: Annotated[float, About("Thickness", low=2, high=160)] = 9.525
    side: Annotated[str, About("Thickness lies", unit="choice", choices=SIDES,
        help="About the work plane, or towards you (near) or away (far).")] = SIDES[0]  # fmt: skip
    surface: Annotated[str, About("Surface", unit="choice", choices=SURFACES)] = PLAIN


def plane_frame(site: Site) -> Placement:
    """The frame of a plate that lies in the work plane, its near side towards who looks at it."""
    place = site.plane.place
    return Placement(place.origin, np.column_stack([place.x, -place.z, place.y]))


class RingTool(PointTool):
    """Draws an outline in the work plane; `finished` says what comes of it. While corners are picked, “arc” makes the
    next pick a point that the edge bends through."""

    shape = CORNERS
    ends = "the plate"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.bent: set[int] = set()  # picks that an edge bends through
        self.bending = False

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if self.shape == RECTANGLE:
            return "pick the opposite corner" if self.picks else "pick a corner"
        if self.shape == CIRCLE:
            return "pick a point on the circle" if self.picks else "pick its middle"
        if self.bending:
            return "pick a point that the edge bends through"
        if len(self.picks) < 3:
            return "pick a corner; “arc” bends the next edge"
        return f"pick the next corner, “arc” for an arc, or Enter to close {self.ends}"

    def finished(self, ring: Ring) -> Result:
        raise NotImplementedError

    def taken(self) -> Result:
        if self.bending:
            self.bent.add(len(self.picks) - 1)
            self._bend(False)
        if self.shape != CORNERS and len(self.picks) == 2:
            return self._close(self.points)
        return None

    def typed(self, text: str) -> Result:
        word = text.strip().casefold()
        if self.shape == CORNERS and word == ARC:
            self._bend(True)
            return None
        if word:
            return super().typed(text)
        if self.shape != CORNERS or len(self.picks) - len(self.bent) < 2 or len(self.picks) < 3:
            raise JobError(f"There are too few points to close {self.ends}; pick another one first.")
        return self._close(self.points)

    def _bend(self, on: bool) -> None:
        if on and not self.picks:
            raise JobError("An arc begins at a corner; pick that first.")
        self.bending = on
        self.options = msgspec.structs.replace(self.options, edge=EDGES[on])

    def set_option(self, name: str, value: object) -> None:
        if name == "edge":
            self._bend(value == ARC)
            return
        super().set_option(name, value)
        if name == "shape":
            self.picks.clear()
            self.bent.clear()

    def _close(self, points: list[Point]) -> Result:
        made = self.finished(self.ring(points))
        self.picks.clear()
        self.bent.clear()
        return made

    def back(self) -> bool:
        self._bend(False)
        gone = super().back()
        self.bent.discard(len(self.picks))
        return gone

    def state(self) -> tuple[object, ...]:  # type: ignore[override]
        return list(self.picks), set(self.bent), self.bending

    def restore(self, state) -> None:  # type: ignore[no-untyped-def]
        self.picks, self.bent = list(state[0]), set(state[1])
        self._bend(state[2])

    def frame(self) -> Placement:
        return plane_frame(self.site)

    def ring(self, points: list[Point]) -> Ring:
        """The outline through points of the model. Raises JobError."""
        flat = [(float(x), float(z)) for x, _, z in self.frame().to_local(np.array(points)).tolist()]
        if self.shape == RECTANGLE:
            return rectangle(flat[0], flat[1])
        if self.shape == CIRCLE:
            return circle(*flat[0], float(np.hypot(flat[1][0] - flat[0][0], flat[1][1] - flat[0][1])))
        corners = [i for i in range(len(flat)) if i not in self.bent]
        found = []
        for n, i in enumerate(corners):
            after = corners[(n + 1) % len(corners)]
            by = i + 1 if i + 1 in self.bent else None
            bulge = arc_through(flat[i], flat[by], flat[after]) if by is not None else 0.0
            found.append(Corner(*flat[i], bulge))
        return tuple(found)

    def shown(self) -> tuple[Ring | None, tuple[Point, ...]]:
        """The outline with the pointer as its next point, where there is one yet, and the path of the picks."""
        path = self._path()
        least = 3 if self.shape == CORNERS else 2
        if len(path) < least or self.bending:
            return None, path
        try:
            ring = self.ring(list(path))
            polygon(ring)
        except (OutlineError, JobError, ZeroDivisionError, ValueError):
            return None, path
        return ring, path


class PlateTool(RingTool):
    """A plate by its outline."""

    words = "Plate"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        metric = {"thickness": 10.0}
        self.options = self._remembered(PlateOptions, {} if self.units == "imperial" else metric)
        self._bend(False)

    @property
    def shape(self) -> str:  # type: ignore[override]
        return str(self.options.shape)

    def _plate(self, ring: Ring) -> Member:
        o: PlateOptions = self.options
        blank = Blank(ring, (), (), (), Lugs() if o.surface == CHECKERED else None)
        return plate_in(self.frame(), blank, o.thickness, self.site.job.project.units, o.side)

    def finished(self, ring: Ring) -> Result:
        return Commit("Plate", (self._plate(ring),))

    def preview(self) -> Preview:
        ring, path = self.shown()
        if ring is None:
            return Preview(lines=(path,) if len(path) > 1 else ())
        try:
            made = self._plate(ring)
        except JobError as error:
            return Preview(lines=(path,), words=str(error), at=path[-1])
        x0, z0, x1, z1 = polygon(ring).bounds
        words = f"{format_length(x1 - x0, self.units)} x {format_length(z1 - z0, self.units)}"
        return Preview((made,), (path,), words, path[-1])


class OutlineTool(PointTool):
    """A plate whose outline was read from a file: one pick says where its lower left corner goes."""

    words = "Plate from an outline"
    prompt = "pick where the outline's lower left corner goes"

    def __init__(self, site: Site, outline: Ring, openings: tuple[Ring, ...], holes: tuple[HoleRow, ...]) -> None:
        super().__init__(site)
        self.options = self._remembered(PlateOptions, {} if self.units == "imperial" else {"thickness": 10.0})
        x0, z0, *_ = polygon(outline).bounds
        self.blank = shifted(Blank(outline, openings, holes), -x0, -z0)

    def _plate(self, at: Point) -> Member:
        o: PlateOptions = self.options
        blank = msgspec.structs.replace(self.blank, lugs=Lugs() if o.surface == CHECKERED else None)
        place = Placement(np.asarray(at), plane_frame(self.site).axes)
        return plate_in(place, blank, o.thickness, self.site.job.project.units, o.side)

    def taken(self) -> Result:
        return Commit("Plate", (self._plate(self.picks.pop().point),))

    def preview(self) -> Preview:
        return Preview((self._plate(self.pointer.point),)) if self.pointer else Preview()
