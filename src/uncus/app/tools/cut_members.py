"""Splitting the selected members by lines or the work plane; taking them to another member or the plane."""

from __future__ import annotations

import math
from typing import Annotated

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site, Tool
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.surface import facing
from uncus.frame.carrying import along, between
from uncus.frame.cuts import Done, shares_at_line, shares_at_plane, split, to_faces, to_member, to_plane
from uncus.frame.placement import Vec, unit
from uncus.frame.plates import parted
from uncus.frame.snaps import Snap, closest
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Attachment, Connection, Member, Point, new_id
from uncus.units import counted

_BY = ("lines", "work plane")
_PARTS = ("both sides", "the left end's side", "the right end's side")


class SplitOptions(msgspec.Struct, frozen=True):
    by: Annotated[
        str, About("Cut by", unit="choice", choices=_BY, help="Lines are picked; the work plane cuts with Enter.")
    ] = "lines"
    keep: Annotated[str, About("Keep", unit="choice", choices=_PARTS)] = "both sides"


class SplitTool(PointTool):
    """Lines of two points each, then Enter; or the work plane with Enter alone."""

    words = "Split"

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(SplitOptions)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if not self.chosen:
            return "nothing is selected: Esc, pick what to cut, then take it up again"
        if self.options.by == "work plane":
            return f"Enter cuts {counted(len(self.chosen), 'member')} at the plane {self.site.plane.name}"
        if len(self.picks) % 2:
            return "pick the line's other end"
        lines = len(self.picks) // 2
        return (f"{counted(lines, 'line')}: Enter cuts, or " if lines else "") + "pick the first end of a cutting line"

    def taken(self) -> Result:
        if not self.chosen:
            raise JobError("Split works on members: press Esc, pick some, then take it up again.")
        if len(self.picks) % 2 == 0 and math.dist(*self.points[-2:]) < 1.0:
            raise JobError("The cutting line has no length; pick another second point.")
        return None

    def typed(self, text: str) -> Result:
        if text.strip():
            return super().typed(text)
        plane = self.site.plane
        if all(m.blank is not None for m in self.chosen):
            return self._plates()
        if self.options.by == "work plane":
            shares = [shares_at_plane(m, plane.place) for m in self.chosen]
        else:
            pairs = list(zip(self.points[::2], self.points[1::2], strict=False))
            if not pairs:
                raise JobError("Pick both ends of a cutting line first; or choose the work plane at the right.")
            lines = [(np.asarray(a), np.asarray(b)) for a, b in pairs]
            shares = [[t for line in lines for t in shares_at_line(m, line, plane.base.z)] for m in self.chosen]
        there = {m.id: m for m in self.site.job.all(Member)}
        whole = split(self.chosen, shares, self.site.job.all(Connection), there)
        repeated = [a for a in self.site.job.all(Attachment) if (k := ATTACHMENTS.get(a.kind)) and k.repeats]
        pieces = {m.id: [r for r in whole.put if isinstance(r, Member) and r.id == m.id] for m in self.chosen}
        for id, piece in whole.pieces:
            pieces[id].append(piece)
        cut = {id: parts for id, parts in pieces.items() if parts}
        shared = between(cut, there, self.site.job.all(Attachment))
        done = self._kept(msgspec.structs.replace(whole, put=(*whole.put, *along(whole.pieces, repeated), *shared)))
        self.picks.clear()
        self.chosen_ids = [r.id for r in done.put if isinstance(r, Member)]
        return Commit("Split", done.put, done.drop, done.words)

    def _planes(self) -> list[tuple[Vec, Vec]]:
        """A point and the normal of each cutting plane."""
        plane = self.site.plane
        if self.options.by == "work plane":
            return [(plane.place.origin, plane.place.z)]
        pairs = list(zip(self.points[::2], self.points[1::2], strict=False))
        if not pairs:
            raise JobError("Pick both ends of a cutting line first; or choose the work plane at the right.")
        return [(np.asarray(a), unit(np.cross(np.subtract(b, a), plane.base.z))) for a, b in pairs]

    def _plates(self) -> Result:
        """Plates cut through by the lines or the plane, whose welds and bolts stay with each of their pieces."""
        put: list[Member | Attachment] = []
        joined = [a for a in self.site.job.all(Attachment) if a.mate]
        count = 0
        for m in self.chosen:
            pieces = [m]
            for point, normal in self._planes():
                pieces = [p for one in pieces for p in parted(one, point, normal, self.site.job.project.units)]
            if len(pieces) < 2:
                continue
            count += len(pieces)
            for n, piece in enumerate(pieces):
                id = m.id if n == 0 else new_id()
                put.append(msgspec.structs.replace(piece, id=id, maker="" if n else m.maker))
                put += [msgspec.structs.replace(a, id=new_id(), member=id) for a in joined if n and a.member == m.id]
        if not put:
            raise JobError("Nothing was cut: the lines miss the selected plates.")
        self.picks.clear()
        return Commit("Split", tuple(put), words=f"{counted(len(self.chosen), 'plate')} cut into {count}")

    def _kept(self, done: Done) -> Done:
        if self.options.keep == "both sides":
            return done
        pieces = [r for r in done.put if isinstance(r, Member)]
        keep_left = self.options.keep == _PARTS[1]
        first = {m.id: m for m in self.chosen}
        lost = []
        for piece in pieces:
            whole = first.get(piece.id)
            at_left = whole is not None
            at_right = any(piece.end == m.end for m in self.chosen)
            if (keep_left and not at_left) or (not keep_left and not at_right):
                lost.append(piece.id)
        put = tuple(
            r
            for r in done.put
            if not (isinstance(r, Member) and r.id in lost)
            and not (isinstance(r, (Attachment, Connection)) and set(lost).intersection(r.members))
        )
        gone = [c.id for c in self.site.job.all(Connection) if set(lost).intersection(c.members)]
        gone += [a.id for a in self.site.job.all(Attachment) if set(lost).intersection(a.members)]
        return Done(put, (*done.drop, *lost, *gone), f"{done.words[:-1]}; kept {self.options.keep}.")

    def preview(self) -> Preview:
        pairs: list[tuple[Point, ...]] = list(zip(self.points[::2], self.points[1::2], strict=False))
        if len(self.picks) % 2 and self.pointer:
            pairs.append((self.points[-1], self.pointer.point))
        return Preview(lines=tuple(pairs))


_TO = ("a member", "a member's face", "work plane")


class TrimOptions(msgspec.Struct, frozen=True):
    to: Annotated[
        str,
        About(
            "Take ends to",
            unit="choice",
            choices=_TO,
            help="A member: its work line. Its face: the side that the end looks at. The plane: with Enter.",
        ),
    ] = "a member"


class TrimTool(Tool):
    """The selected members' nearer ends go to a picked member, or with Enter to the work plane."""

    words = "Trim or extend"
    picks_pieces = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.options = self._remembered(TrimOptions)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if not self.chosen:
            return "nothing is selected: Esc, pick what to trim or extend, then take it up again"
        if self.options.to == "work plane":
            return f"Enter takes the ends of {counted(len(self.chosen), 'member')} to the plane {self.site.plane.name}"
        return f"pick the member that the ends of {counted(len(self.chosen), 'member')} go to"

    def picked(self, snap: Snap) -> Result:
        target = self.site.job.get(snap.piece, Member)
        if target is None:
            raise JobError("There is no member here; pick the one to trim or extend to.")
        if not self.chosen:
            raise JobError("Trim or extend works on members: press Esc, pick some, then take it up again.")
        if self.options.to == _TO[1]:
            faces = {m.id: self._face(m, target) for m in self.chosen if m.id != target.id}
            return self._commit(to_faces(self.chosen, faces, target, self.units))
        return self._commit(to_member(self.chosen, target, self.units))

    def _face(self, m: Member, target: Member) -> tuple[Vec, Vec] | str:
        """The side of a member that another's nearer end looks at; or why there is none."""
        body, met = self.site.shop.body(target.id), closest(m.start, m.end, target.start, target.end)
        if body is None or met is None:
            return f"the {m.role} {m.section} has no way to the {target.role} {target.section}"
        d = unit(np.subtract(m.end, m.start))
        spot = np.asarray(m.start) + met[0] * np.subtract(m.end, m.start)
        surface = facing(body.touching(spot), spot, d if met[0] < 0.5 else -d)
        return surface if isinstance(surface, str) else (surface.at, surface.normal)

    def typed(self, text: str) -> Result:
        if self.options.to != "work plane":
            raise JobError("Pick the member to go to; or choose the work plane at the right, then Enter.")
        return self._commit(to_plane(self.chosen, self.site.plane.place, self.units))

    def _commit(self, done: Done) -> Commit:
        return Commit("Trim or extend", done.put, done.drop, done.words)
