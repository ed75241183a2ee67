"""What a sheet of an erector's views is drawn from: plain values, no job."""

from __future__ import annotations

import msgspec

from uncus.draw.erection import ErectionJob
from uncus.draw.sights import Line, Spot
from uncus.frame.placement import Placement
from uncus.job.records import Member, ViewFrame
from uncus.job.views import STICKS
from uncus.steel.part import Part


class Piece(msgspec.Struct, frozen=True):
    """A piece as a view shows it: its mark and member, turned to the view's axes; `path` is the way of its line where
    that is bent. `words` are said after its size; `moments` are the ends, left and right, that hold a moment; `bodies`
    are its parts where steel is drawn by more than its line (u, away, v); `way` is how it is drawn; `tabs` are the
    sides, seen along it from left to right (1: at the left hand), that tabs stand on at its left and right end."""

    mark: str
    member: Member
    path: tuple[Spot, ...] = ()
    words: tuple[str, ...] = ()
    studs: int = 0
    moments: tuple[bool, bool] = (False, False)
    bodies: tuple[tuple[Part, Placement], ...] = ()
    standing: bool = False
    heavy: bool = False
    faint: bool = False  # beyond the box: shown, not marked
    dashed: bool = False
    way: str = STICKS
    tabs: tuple[int, int] = (0, 0)


class SiteWeld(msgspec.Struct, frozen=True):
    """A weld that is made on site, or bolts that are not the usual, in words, at a place of a view."""

    at: Spot
    words: str


class Sign(msgspec.Struct, frozen=True):
    """Where another view cuts this one, or shows a part of it larger: that view's frame, the sheet it is on and its
    number there; from where to where its face runs and which way it looks, or (`box`) what it shows."""

    frame: str
    sheet: str
    number: str
    a: Spot
    b: Spot
    towards: Spot = (0.0, 0.0)
    box: bool = False


class Sight(msgspec.Struct, frozen=True):
    """One view: its frame, its pieces, the grid lines and levels that cross it, site bolts, shop bolts, what is said of
    site welds and of bolts that are not the usual, signs of other views; `heavy` tells what is in heavy lines, `wrong`
    what of its frame cannot be followed, `notes` what else
    its sheet says."""

    frame: ViewFrame
    pieces: tuple[Piece, ...]
    lines: tuple[Line, ...]
    bolts: tuple[Spot, ...] = ()
    shop: tuple[Spot, ...] = ()
    welds: tuple[SiteWeld, ...] = ()
    signs: tuple[Sign, ...] = ()
    heavy: str = ""
    standing: str = ""
    wrong: tuple[str, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def own(self) -> tuple[Piece, ...]:
        """The pieces in its box."""
        return tuple(p for p in self.pieces if not p.faint)


class ViewJob(ErectionJob, frozen=True, kw_only=True):
    """All a worker needs to draw a sheet of views; `title` names it where it is not its one view's."""

    title: str
    sights: tuple[Sight, ...]

    @property
    def members(self) -> tuple[tuple[str, Member], ...]:
        """Each piece once, whichever views show it."""
        found = {p.member.id: (p.mark, p.member) for s in self.sights for p in s.own}
        return tuple(found[id] for id in sorted(found))
