"""Placing things of many parts - stairs, rails, transitions - by picks, each with the form of its kind."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.catalog.sections import UnknownSection, section
from uncus.compose.kind import Compound, Said
from uncus.compose.making import given_to, hung_on, parts
from uncus.frame.axes import member_frame, overall_depth
from uncus.frame.snaps import Snap
from uncus.job.composites import Anchor, Composite
from uncus.job.errors import JobError
from uncus.job.records import Level, Member, new_id
from uncus.units import counted

_MOST = 400  # members that are shown as it is drawn
_ON_LEVEL = 1.0  # mm


class CompositeTool(PointTool):
    """One of a kind, shown as it will be, with what its values come to and what of them breaks the rule."""

    def __init__(self, site: Site, kind: Compound) -> None:
        self.words = kind.words  # type: ignore[misc]
        super().__init__(site)
        self.kind = kind
        self.options = self._remembered(kind.params, {} if self.units == "imperial" else kind.metric)

    @property
    def prompt(self) -> str:  # type: ignore[override]
        picks = self.kind.picks
        words = picks[min(len(self.picks), len(picks) - 1)]
        return words + ("; its values are at the right" if not self.picks else "")

    def taken(self) -> Result:
        return None if self.kind.open or len(self.picks) < len(self.kind.picks) else self._made()

    def typed(self, text: str) -> Result:
        if text.strip() or not self.kind.open:
            return super().typed(text)
        if len(self.picks) < len(self.kind.picks):
            raise JobError(f"A {self.kind.name} needs {len(self.kind.picks)} points at least; pick another one first.")
        return self._made()

    def _made(self) -> Commit:
        record = self.record(self.picks)
        made = parts(record, self.site.job.records)
        self.picks.clear()
        members = sum(isinstance(p, Member) for p in made.values())
        said = [s.text for s in self.kind.told(given_to(record, self.site.job.records))]
        words = f"{self.kind.words}: {counted(members, 'member')}" + (f"; {said[0]}" if said else "")
        return Commit(self.kind.words, (record,), words=words)

    def record(self, snaps: list[Snap]) -> Composite:
        """What the picks make with the values as they are."""
        usual = msgspec.structs.asdict(self.kind.params())
        given = {k: v for k, v in msgspec.structs.asdict(self.options).items() if v != usual[k]}
        picks = [self._climbed(snaps, n) for n in range(len(snaps))]
        return Composite(id=new_id(), kind=self.kind.name, anchors=tuple(map(self._anchor, picks)), params=given)

    def _climbed(self, snaps: list[Snap], n: int) -> Snap:
        """A pick; one that is to be on the upper floor, and was made on the lower, over there."""
        x, y, z = snaps[n].point
        if n != self.kind.climbs or abs(z - snaps[0].point[2]) > _ON_LEVEL:
            return snaps[n]
        above = min((one.elevation for one in self.site.job.all(Level) if one.elevation > z + _ON_LEVEL), default=z)
        return Snap((x, y, above), snaps[n].words)

    def _anchor(self, snap: Snap) -> Anchor:
        """A pick, hung on the member whose side it lies on, or on the level that it lies at."""
        at = np.asarray(snap.point)
        host = self.site.job.get(snap.piece.partition("/")[0], Member) if snap.piece else None
        if host is not None and host.climb is None and not host.is_rolled:
            return hung_on(at, host, _side(host, at))
        levels = self.site.job.all(Level)
        level = next((one for one in levels if abs(one.elevation - float(at[2])) < _ON_LEVEL), None)
        return hung_on(at, level) if level is not None else Anchor(snap.point)

    def preview(self) -> Preview:
        path = self._path()
        if self.pointer is None or len(path) < len(self.kind.picks):
            return Preview(lines=(path,) if len(path) > 1 else ())
        try:
            record = self.record([*self.picks, self.pointer])
            made = parts(record, self.site.job.records)
            given = given_to(record, self.site.job.records)
            told: list[Said] = list(self.kind.told(given))
            words = "   ".join([self.kind.reading(given), *(f"▲ {s.text}" for s in told[:1])]).strip()
        except JobError as error:
            return Preview(lines=(path,), words=str(error), at=path[-1])
        members = tuple(p for p in made.values() if isinstance(p, Member))
        return Preview(members[:_MOST], (path,), words, path[-1])


def _side(host: Member, at: Any) -> str:
    """The side of a straight member that a point lies on, by its name."""
    try:
        found = section(host.section)
    except UnknownSection:
        return ""
    _, y, z = member_frame(host, found).to_local(at).tolist()
    half, wide = overall_depth(host, found) / 2, found.b / 2
    if abs(z) > half - 1.0:
        return "top" if z > 0 else "bottom"
    if abs(y) > wide - 1.0:
        return "far" if y > 0 else "near"
    return ""
