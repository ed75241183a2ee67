"""Connecting one end by hand: pick the member near its end, then what holds it, then what else takes part."""

from __future__ import annotations

import math
from typing import Annotated, Any

import msgspec

from uncus.app.tools.tool import Commit, Site, Tool
from uncus.connect.kinds import KINDS
from uncus.frame.snaps import Snap
from uncus.job.errors import JobError
from uncus.job.forms import About
from uncus.job.records import Connection, End, Member, derived_id

USUAL = "usual"


class ConnectOptions(msgspec.Struct, frozen=True):
    kind: Annotated[
        str,
        About(
            "Kind",
            unit="choice",
            choices=(USUAL, *KINDS),
            help="Usual: a shear tab to a member, a base plate to the ground.",
        ),
    ] = USUAL


class ConnectTool(Tool):
    """Two picks, three for a kind that joins a further member; Enter joins the end to the ground or leaves the rest
    out."""

    words = "Connect one"

    picks_pieces = True

    def __init__(self, site: Site) -> None:
        super().__init__(site)
        self.job = site.job
        self.options: ConnectOptions = self._remembered(ConnectOptions)
        self.member: Member | None = None
        self.support: Member | None = None
        self.end = End.LEFT

    @property
    def kind(self) -> str:
        return self.options.kind

    @property
    def prompt(self) -> str:  # type: ignore[override]
        if self.member is None:
            return "pick the member near the end to connect"
        said = f"{self.end} end of the {self.member.role}"
        if self.support is not None:
            return f"{said}: pick the other member that takes part" + (", or Enter for none" if self._optional else "")
        ground = self.kind == USUAL or KINDS[self.kind].needs != "support"
        return f"{said}: pick what holds it" + (f", or Enter for a {self._ground}" if ground else "")

    @property
    def _ground(self) -> str:
        return "base plate" if self.kind == USUAL else self.kind

    @property
    def _optional(self) -> bool:
        return KINDS[self.kind].asks == 0

    def picked(self, snap: Snap) -> Commit | None:
        found = self.job.get(snap.piece, Member)
        if found is None:
            raise JobError("There is no member here; pick one of its edges or faces.")
        if self.member is None:
            self.member = found
            self.end = End.LEFT if math.dist(snap.point, found.start) <= math.dist(snap.point, found.end) else End.RIGHT
            return None
        if found.id in (self.member.id, self.support.id if self.support else ""):
            raise JobError(f"The {found.role} takes part already; pick another member.")
        if self.support is not None:
            return self._made(self.kind, self.support.id, (found.id,))
        kind = "shear tab" if self.kind == USUAL else self.kind
        if KINDS[kind].needs == "ground":
            raise JobError(f"A {KINDS[kind].words.lower()} needs no other member; press Enter.")
        if KINDS[kind].others:
            self.support = found
            return None
        return self._made(kind, found.id)

    def typed(self, text: str) -> Commit | None:
        if self.member is None:
            raise JobError("Pick the member first.")
        if self.support is not None:
            if not self._optional:
                raise JobError(f"A {KINDS[self.kind].words.lower()} needs a further member; pick it.")
            return self._made(self.kind, self.support.id)
        kind = self._ground
        if KINDS[kind].needs == "support":
            raise JobError(f"A {KINDS[kind].words.lower()} joins the end to another member; pick it.")
        return self._made(kind, None)

    def _made(self, kind: str, support: str | None, others: tuple[str, ...] = ()) -> Commit:
        assert self.member is not None
        id = derived_id("connection", self.member.id, self.end)
        made = Connection(id=id, kind=kind, member=self.member.id, end=self.end, support=support, others=others)
        self.member = self.support = None
        return Commit(f"Connect: {kind}", (made,))

    def back(self) -> bool:
        if self.support is not None:
            self.support = None
            return True
        had = self.member is not None
        self.member = None
        return had

    def state(self) -> Any:
        return self.member, self.support, self.end

    def restore(self, state: Any) -> None:
        self.member, self.support, self.end = state
