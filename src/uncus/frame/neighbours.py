"""Which members stand at a point: their work lines as arrays."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from uncus.catalog.sections import Section, UnknownSection, section
from uncus.frame.axes import is_vertical
from uncus.frame.placement import Vec, unit
from uncus.job.records import Line, Member, Role

UPRIGHT = (Role.COLUMN, Role.POST)
_BEAM, _LAST = 200.0, 600.0  # mm that a beam is held to be farther than a column, and a post under the end
_UNDER = 1.0
NEAR = 60.0  # mm that a drawn end may miss its support's outline


class Segments:
    """All members (those whose section is known) as segments, for finding what stands at a point."""

    def __init__(self, members: Sequence[Member]) -> None:
        self.members: list[Member] = []
        self.sections: list[Section] = []
        for m in members:
            try:
                found = section(m.section)
            except UnknownSection:
                continue
            self.members.append(m)
            self.sections.append(found)
        self.a = np.array([m.start for m in self.members]).reshape(-1, 3)
        self.b = np.array([m.end for m in self.members]).reshape(-1, 3)
        self.d = self.b - self.a
        self.length = np.linalg.norm(self.d, axis=1)
        self.size = np.array([max(s.d, s.b) for s in self.sections])
        self.index = {m.id: i for i, m in enumerate(self.members)}

    def at(self, point: Vec) -> tuple[Vec, Vec]:
        """Distance (n,) of every work line from a point, and where along it (n,) in mm."""
        along = np.clip(np.einsum("ij,ij->i", point - self.a, self.d) / self.length**2, 0, 1)
        foot = self.a + along[:, None] * self.d
        return np.linalg.norm(foot - point, axis=1), along * self.length

    @cached_property
    def sloping(self) -> Segments:
        """Those that are neither level nor plumb."""
        steep = np.abs(self.d[:, 2])
        across = np.hypot(self.d[:, 0], self.d[:, 1])
        return Segments([m for m, up, out in zip(self.members, steep, across, strict=True) if up > 1.0 and out > 1.0])

    def touched(self, here: Vec) -> bool:
        """Whether a point lies on or in any member, or just beside it."""
        if not self.members:
            return False
        distance, _ = self.at(here)
        return bool(np.any(distance < self.size / 2 + NEAR))

    def holding(self, index: int, here: Vec) -> int | None:
        """The member that holds an end at a point: a column first, else a beam that runs on past it; a post that ends
        under the member's own underside only where no beam does."""
        distance, along = self.at(here)
        x = unit(self.d[index])
        across = np.abs(self.d @ x) / self.length < 0.95
        own = self.sections[index]
        near = (distance < self.size / 2 + own.d / 2 + NEAR) & across
        near[index] = False
        low = float(here[2]) - {Line.TOP: 1.0, Line.BOTTOM: 0.0}.get(self.members[index].line, 0.5) * own.d
        best: tuple[float, int] | None = None
        for i in np.flatnonzero(near):
            upright = is_vertical(self.d[i] / self.length[i]) or self.members[i].role in UPRIGHT
            runs_on = min(along[i], self.length[i] - along[i]) > self.size[i]
            if not upright and not runs_on:
                continue
            under = upright and max(self.a[i, 2], self.b[i, 2]) < low + _UNDER
            score = float(distance[i]) + (_LAST if under else 0.0 if upright else _BEAM)
            if best is None or score < best[0]:
                best = (score, int(i))
        return best[1] if best else None

    def under(self, member: Member, here: Vec) -> Member | None:
        """The nearest member across a member's end that is not plumb: what its flange lies on."""
        distance, _ = self.at(here)
        x = unit(np.subtract(member.end, member.start))
        lying = np.abs(self.d[:, 2]) / self.length < 0.996
        across = np.abs(self.d @ x) / self.length < 0.95
        own = self.sections[self.index[member.id]].d if member.id in self.index else 300.0
        near = (distance < self.size / 2 + own / 2 + NEAR) & across & lying
        if member.id in self.index:
            near[self.index[member.id]] = False
        hits = np.flatnonzero(near)
        return self.members[int(hits[np.argmin(distance[hits])])] if len(hits) else None

    def landing_on(self, member: Member) -> list[Member]:
        """Members with an end on a member's work line, that are neither plumb nor in line with it."""
        a, x = np.asarray(member.start), unit(np.subtract(member.end, member.start))
        length = member.work_length
        near = np.zeros(len(self.members), dtype=bool)
        for ends in (self.a, self.b):
            t = np.clip((ends - a) @ x, 0.0, length)
            near |= np.linalg.norm(ends - a - t[:, None] * x, axis=1) < self.size / 2 + NEAR
        near &= np.abs(self.d @ x) / self.length < 0.995
        near &= np.abs(self.d[:, 2]) / self.length < 0.996
        return [self.members[int(i)] for i in np.flatnonzero(near) if self.members[int(i)].id != member.id]

    def passing(self, point: Vec, normal: Vec) -> tuple[Member, float] | None:
        """The nearest member whose work line passes a point as seen along a direction without meeting it, and how far
        along that direction it does (+ or -)."""
        if not self.members:
            return None
        flat = self.d - (self.d @ normal)[:, None] * normal
        size = np.einsum("ij,ij->i", flat, flat)
        w = point - self.a
        with np.errstate(divide="ignore", invalid="ignore"):
            t = np.einsum("ij,ij->i", w, flat) / size
            foot = self.a + t[:, None] * self.d
            off = foot - point
            along = off @ normal
            beside = np.linalg.norm(off - along[:, None] * normal, axis=1)
            ok = (size > 1.0) & (t >= -1e-6) & (t <= 1 + 1e-6) & (beside <= 1.0)
        hits = np.flatnonzero(ok)
        if not len(hits):
            return None
        best = int(hits[np.argmin(np.abs(along[hits]))])
        return (self.members[best], float(along[best])) if abs(along[best]) > 1.0 else None
