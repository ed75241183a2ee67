"""What a piece's sheets are drawn from."""

from __future__ import annotations

import msgspec

from uncus.draw.preset import USUAL
from uncus.draw.site_work import SomeBolts, SomeWelds
from uncus.draw.subject import Subject
from uncus.draw.views import Asked
from uncus.job.drawings import Drawing, Edit, SheetPreset
from uncus.steel.joint import Fasteners, Weld
from uncus.steel.part import Part
from uncus.units import Units


class PieceJob(msgspec.Struct, frozen=True):
    """All a worker needs to draw one piece's sheets: plain values, no job."""

    name: str
    kind: str  # assembly or part
    subject: Subject
    bill: tuple[tuple[str, Part, int], ...]  # mark, part, number in one piece
    required: int
    role: str
    places: tuple[str, ...]
    holds: tuple[Fasteners, ...]
    site_welds: tuple[Weld, ...]
    project: str
    number: str
    finish: str
    electrode: str
    units: Units
    content: str
    camber: float = 0.0
    slips: bool = False  # bolts hold by friction in oversize holes of it
    work: str = ""  # what the shop works to
    weld_tests: str = ""
    hand: Drawing | None = None
    preset: SheetPreset = USUAL
    aside: tuple[Edit, ...] = ()  # made by hand on a piece that lies the other way round
    since: str = ""  # the copy that a revision under way is clouded against
    some_bolts: tuple[SomeBolts, ...] = ()  # on site, where pieces of the mark differ; `holds` has none of them then
    some_welds: tuple[SomeWelds, ...] = ()
    on: str = ""  # the day it goes out, or went
    held: tuple[str, ...] = ()  # questions that hold pieces of it

    @property
    def asked(self) -> Asked:
        return Asked(self.units, self.preset, self.hand.edits if self.hand else ())
