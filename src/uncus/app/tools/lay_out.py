"""Work planes by picking, their depth by typing, and view frames."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site, Tool
from uncus.frame.placement import tidied
from uncus.frame.planes import face_plane, member_plane, three_points
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Member, Point, ViewFrame, new_id
from uncus.units import format_length, parse_length


class ThreePointsTool(PointTool):
    """Origin, the way of x, and a point on the side of y."""

    words = "Plane by three points"

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return ("pick the plane's origin", "pick a point along its x", "pick a third point, on the side of its y")[
            min(2, len(self.picks))
        ]

    def taken(self) -> Result:
        if len(self.picks) < 3:
            return None
        plane = three_points(*self.points)
        self.picks.clear()
        return plane

    def preview(self) -> Preview:
        path = self._path()
        return Preview(lines=(path,) if len(path) > 1 else ())


class FacePlaneTool(Tool):
    """The plane of the face under the pointer; the canvas says which way it looks."""

    words = "Plane of a face"
    prompt = "pick a face of a piece"
    picks_pieces = True

    def __init__(self, site: Site, normal_at: Callable[[Snap], np.ndarray | None]) -> None:
        super().__init__(site)
        self.normal_at = normal_at

    def picked(self, snap: Snap) -> Result:
        normal = self.normal_at(snap)
        member = self.site.job.get(snap.piece, Member)
        if normal is None or member is None:
            raise JobError("There is no face here; pick one of a piece's faces.")
        return face_plane(snap.point, normal, f"face of {member.role} {member.section}")


class MemberPlaneTool(Tool):
    """The plane of a member's web or flange, through its work line."""

    prompt = "pick a member"
    picks_pieces = True

    def __init__(self, site: Site, flat: bool) -> None:
        self.words = "Plane of a flange" if flat else "Plane of a web"  # type: ignore[misc]
        super().__init__(site)
        self.flat = flat

    def picked(self, snap: Snap) -> Result:
        body = self.site.shop.body(snap.piece)
        if body is None:
            raise JobError("There is no member here; pick one of its faces.")
        return member_plane(body.frame, body.words, self.flat)


class DepthTool(Tool):
    """Moves the work plane out of where it comes from, or back in, by what is typed or picked."""

    words = "Plane depth"
    picks_points = True

    @property
    def prompt(self) -> str:  # type: ignore[override]
        here = format_length(self.site.plane.depth, self.units)
        return (
            f"{self.site.plane.name} is {here} out; type how far it shall be (minus goes in), or pick a point it goes "
            f"through"
        )

    def picked(self, snap: Snap) -> Result:
        return self.site.plane.deeper(self.site.plane.depth + self.site.plane.away(snap.point))

    def typed(self, text: str) -> Result:
        depth = parse_length(text, self.units)
        if abs(depth) > 1e7:
            raise JobError("That is out of reach (10 km); type a smaller depth.")
        return self.site.plane.deeper(depth)


class FrameOptions(msgspec.Struct, frozen=True):
    before: Annotated[float, About("Depth before it", high=1e6, help="What is nearer than this is left out.")] = 300.0
    behind: Annotated[float, About("Depth behind it", high=1e6)] = 300.0


class ViewFrameTool(PointTool):
    """Two opposite corners on the work plane make a view frame that looks square at it."""

    words = "View frame"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(FrameOptions)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return "pick the opposite corner" if self.picks else "pick a corner of the view, on the work plane"

    def _frame(self, a: Point, b: Point) -> ViewFrame:
        place = self.site.plane.place
        (x0, y0, _), (x1, y1, _) = place.to_local(np.array([a, b])).tolist()
        centre = place.to_model(((x0 + x1) / 2, (y0 + y1) / 2, 0.0))
        taken = {f.name for f in self.site.job.all(ViewFrame)}
        name = next(
            f"{self.site.plane.name} {n}" for n in range(1, 10_000) if f"{self.site.plane.name} {n}" not in taken
        )
        return ViewFrame(
            id=new_id(),
            name=name,
            origin=tidied(centre),
            x=tidied(place.x),
            y=tidied(place.y),
            width=abs(x1 - x0),
            height=abs(y1 - y0),
            before=self.options.before,
            behind=self.options.behind,
        )

    def taken(self) -> Result:
        if len(self.picks) < 2:
            return None
        frame = self._frame(*self.points)
        if problem := frame.problem():
            raise JobError(problem)
        self.picks.clear()
        return Commit("View frame", (frame,), words=f"View frame “{frame.name}” placed; drag its grips to stretch it")

    def preview(self) -> Preview:
        path = self._path()
        if len(path) < 2:
            return Preview()
        frame = self._frame(path[0], path[1])
        ring = corners(frame)
        words = f"{format_length(frame.width, self.units)} x {format_length(frame.height, self.units)}"
        return Preview(lines=((*ring, ring[0]),), words=words, at=path[1])


def corners(frame: ViewFrame) -> tuple[Point, ...]:
    """The four corners of a view frame's face: lower left, lower right, upper right, upper left."""
    o, x, y = np.asarray(frame.origin), np.asarray(frame.x), np.asarray(frame.y)
    w, h = frame.width / 2, frame.height / 2
    return tuple(tidied(o + x * sx * w + y * sy * h) for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1)))


def stretched(frame: ViewFrame, grip: int, to: Point) -> ViewFrame:
    """A view frame with one corner (0 to 3) or side (4 to 7: bottom, right, top, left) dragged to a point."""
    o, x, y = np.asarray(frame.origin), np.asarray(frame.x), np.asarray(frame.y)
    u, v = float((np.asarray(to) - o) @ x), float((np.asarray(to) - o) @ y)
    left, right, low, high = -frame.width / 2, frame.width / 2, -frame.height / 2, frame.height / 2
    if grip in (0, 3, 7):
        left = min(u, right - 1.0)
    if grip in (1, 2, 5):
        right = max(u, left + 1.0)
    if grip in (0, 1, 4):
        low = min(v, high - 1.0)
    if grip in (2, 3, 6):
        high = max(v, low + 1.0)
    centre = o + x * (left + right) / 2 + y * (low + high) / 2
    return msgspec.structs.replace(frame, origin=tidied(centre), width=right - left, height=high - low)


def grips(frame: ViewFrame) -> tuple[Point, ...]:
    """Where a view frame is taken hold of: its corners, then the middles of its sides."""
    ring = corners(frame)
    sides = zip(ring, ring[1:] + ring[:1], strict=True)
    middles = [tidied((np.asarray(a) + np.asarray(b)) / 2) for a, b in sides]
    return (*ring, *middles)
