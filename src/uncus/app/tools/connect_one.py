"""Connecting one end by hand: pick the member near its end, then what holds it."""

from __future__ import annotations

import math

from uncus.app.tools.tool import Commit, Site, Tool
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.records import Connection, End, Member, derived_id


class ConnectTool(Tool):
    """Two picks; Enter with nothing typed after the first joins the end to the ground."""

    words = "Connect one"

    picks_pieces = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.job = site.job
        self.member: Member | None = None
        self.end = End.LEFT

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if self.member is None:
            return "pick the member near the end to connect"
        return f"{self.end} end of the {self.member.role}: pick what holds it, or Enter for a base plate"

    def picked(self, snap: Snap) -> Commit | None:
        found = self.job.get(snap.piece, Member)
        if found is None:
            raise JobError("There is no member here; pick one of its edges or faces.")
        if self.member is None:
            self.member = found
            self.end = End.LEFT if math.dist(snap.point, found.start) <= math.dist(snap.point, found.end) else End.RIGHT
            return None
        if found.id == self.member.id:
            raise JobError(f"The {found.role} cannot hold itself; pick another member.")
        return self._made("shear tab", found.id)

    def typed(self, text: str) -> Commit | None:
        if self.member is None:
            raise JobError("Pick the member first.")
        return self._made("base plate", None)

    def _made(self, kind: str, support: str | None) -> Commit:
        assert self.member is not None
        id = derived_id("connection", self.member.id, self.end)
        made = Connection(id=id, kind=kind, member=self.member.id, end=self.end, support=support)
        self.member = None
        return Commit(f"Connect: {kind}", (made,))

    def back(self) -> bool:
        had = self.member is not None
        self.member = None
        return had
