"""What an end of a member stands at: the ground, a column, a beam, both, another length in line, another brace."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from enum import StrEnum
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely

from uncus.catalog.sections import Form
from uncus.connect.kind import Body
from uncus.frame.axes import is_vertical
from uncus.frame.neighbours import NEAR, UPRIGHT, Segments
from uncus.frame.placement import Vec, unit
from uncus.job.records import End, Member, Role

_MEETS = 60.0  # mm within which two ends are at one place
_ABOUT = 20_000.0  # mm about a foot in which others tell where the ground is
_STEP = 2500.0  # mm by which foundations may step
WEBS = (Role.BRACE, Role.POST, Role.HANGER, Role.STRUT)  # what may be a web of a truss
_LEAST_WEBS = 3  # on one chord, from which they and it are a truss
_FLAT = 0.02  # of slope up to which a brace lies in plan
_FOOT = 500.0  # mm above a column's foot at which a brace is at its base


class Holding(StrEnum):
    """What holds an end."""

    GROUND = "the ground"
    BELOW = "a beam below"
    OVER = "a beam over"
    COLUMN_ON = "a column in line"
    COLUMN = "a column"
    TUBE = "a tube column"
    BEAM = "a beam"
    BEAM_ON = "a beam in line"
    CORNER = "a column and a beam"
    PLAN = "two beams in plan"
    FOOT = "a column's foot"
    MATE = "a beam with another brace"
    CROSSING = "a brace that crosses"
    PASSING = "a brace that passes back to back"
    BRACE_ON = "a brace in line"
    RIDGE = "another rafter"
    BENT = "a length at an angle"
    TOP = "a column's top"
    CHORD = "a chord of a truss"
    EMBED = "a plate in a wall"


def near_pairs(bodies: Sequence[Body]) -> Iterator[tuple[Body, Body]]:
    """Members whose reach along their axes overlaps, each two once, in the order given."""
    if len(bodies) < 2:
        return
    ends = np.array([[b.end(End.LEFT), b.end(End.RIGHT)] for b in bodies])
    room = np.array([max(b.section.d, b.section.b) for b in bodies])[:, None]
    low, high = ends.min(axis=1) - room, ends.max(axis=1) + room
    tree = shapely.STRtree(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))
    first, second = tree.query(tree.geometries)
    one = (first < second) & (low[first, 2] <= high[second, 2]) & (low[second, 2] <= high[first, 2])
    for i, j in sorted(zip(first[one].tolist(), second[one].tolist(), strict=True)):
        yield bodies[i], bodies[j]


class Standing(NamedTuple):
    """What holds an end, and the members that take part; `also`: what it can be taken for as well."""

    holding: Holding
    support: str | None = None
    others: tuple[str, ...] = ()
    also: Standing | None = None

    def as_(self, holding: str) -> Standing | None:
        """What a rule for ends that are held so, or by anything, takes it for."""
        if holding == self.holding or (holding == "anything" and self.holding is not Holding.BENT):
            return self
        return self.also.as_(holding) if self.also else None


class Surroundings:
    """All members, asked about one end at a time."""

    def __init__(self, members: list[Member]) -> None:
        self.all = Segments(members)
        s = self.all
        direction = s.d / s.length[:, None] if len(s.members) else s.d
        self.plumb = np.array([abs(float(d[2])) > 0.99996 or m.role in UPRIGHT for d, m
            in zip(direction, s.members, strict=True)], dtype=bool)  # fmt: skip
        self.embeds = np.array([m.role is Role.EMBED for m in s.members], dtype=bool)
        self.plumb &= ~self.embeds
        self.columns = np.array([m.role is Role.COLUMN for m in s.members], dtype=bool)
        self.braces = np.array([m.role is Role.BRACE for m in s.members], dtype=bool)
        self.low = np.where((s.a[:, 2] < s.b[:, 2])[:, None], s.a, s.b) if len(s.members) else s.a
        self.high = np.where((s.a[:, 2] < s.b[:, 2])[:, None], s.b, s.a) if len(s.members) else s.a

    def standing(self, member: Member, end: End) -> Standing | str | None:
        """What holds an end; why nothing does, in words; None where it needs no joint of its own."""
        index = self.all.index.get(member.id)
        if index is None:
            return f"its section {member.section} is not in the catalogue"
        if member.role is Role.EMBED:
            return None
        here = np.asarray(member.start if end is End.LEFT else member.end)
        there = np.asarray(member.end if end is End.LEFT else member.start)
        if (plate := self._embed(here)) is not None:
            return Standing(Holding.EMBED, plate)
        plain = self._otherwise(index, member, end, here, there)
        if (chord := self._chord(index, here, there)) is not None:
            other = self.all.index[chord]
            ends = self.all.a[other], self.all.b[other]
            if is_vertical(unit(there - here)) and any(
                np.linalg.norm(p - here) < _MEETS and self._parts_chord(other, p, q) for p, q in (ends, ends[::-1])
            ):
                return None  # the chord's two lengths end on it
            held = plain if isinstance(plain, Standing) and plain.holding is not Holding.GROUND else None
            return Standing(Holding.CHORD, chord, (), held)
        return plain

    def _otherwise(self, index: int, member: Member, end: End, here: Vec, there: Vec) -> Standing | str | None:
        if is_vertical(unit(there - here)):
            return self._plumb(index, here, there[2] < here[2])
        if member.role is Role.BRACE:
            return self._brace(index, end, here, there)
        return self._beam(index, here, there)

    def _embed(self, here: Vec) -> str | None:
        """A plate in a wall at a point."""
        if not self.embeds.any():
            return None
        distance, _ = self.all.at(here)
        near = self.embeds & (distance < self.all.size / 2 + NEAR)
        return self._id(near, distance) if near.any() else None

    # -- trusses ------------------------------------------------------------------------------------
    def _chord(self, index: int, here: Vec, there: Vec) -> str | None:
        """The chord that a web of a truss ends on."""
        if index not in self._webs:
            return None
        post = self.all.members[index].role is not Role.BRACE
        if post and not any(self._meets_web(index, *pair) for pair in ((here, there), (there, here))):
            return None
        found, away = self._chords_at(index, here, there), there - here

        def beyond(one: str) -> bool:
            """Whether a chord lies to the other side of the panel point than the web."""
            i = self.all.index[one]
            return float(((self.all.a[i] + self.all.b[i]) / 2 - here)[:2] @ away[:2]) < 0

        return min(found, key=lambda one: (beyond(one), found[one]))

    @cached_property
    def _webs(self) -> frozenset[int]:
        """Braces and posts between two chords in one upright plane, three of them at least on one chord: two alone are
        a frame that is braced, whose beams stay apart."""
        chords = {}
        for i, member in enumerate(self.all.members):
            if member.role in WEBS:
                ends = (self.all.a[i], self.all.b[i])
                first, last = (self._chords_at(i, p, q).keys() for p, q in (ends, ends[::-1]))
                if first and last and first != last:
                    chords[i] = first | last
        on = Counter(chord for both in chords.values() for chord in both)
        return frozenset(i for i, both in chords.items() if max(on[chord] for chord in both) >= _LEAST_WEBS)

    def _is_web(self, index: int) -> bool:
        """Whether a post is one of a truss."""
        a, b = self.all.a[index], self.all.b[index]
        return self._chord(index, a, b) is not None

    def _parts_chord(self, index: int, here: Vec, there: Vec) -> bool:
        """Whether a chord goes on at an angle beyond the post that it ends at: each length ends on the post."""
        away = unit(there - here)
        meets = self._ends_at(index, here, self.all.a) | self._ends_at(index, here, self.all.b)
        for i in np.flatnonzero(meets & ~self.plumb & ~self.braces):
            out = self._out(int(i), here)
            if float(out @ away) > -0.9999 and self._in_one_plane(away, out) and float(out[:2] @ away[:2]) < 0:
                return True
        return False

    def _meets_web(self, index: int, here: Vec, there: Vec) -> bool:
        """Whether a brace of the truss ends where a post does, or beside it on the same chord."""
        chords = self._chords_at(index, here, there)
        reach = _MEETS + 2 * max(self.all.size[self.all.index[one]] for one in chords)
        for a, b in ((self.all.a, self.all.b), (self.all.b, self.all.a)):
            for i in np.flatnonzero(self.braces & (np.linalg.norm(a - here, axis=1) < reach)):
                if int(i) in self._webs and chords.keys() & self._chords_at(int(i), a[i], b[i]).keys():
                    return True
        return False

    def _chords_at(self, index: int, here: Vec, there: Vec) -> dict[str, float]:
        """Beams and rafters in the upright plane of a web that pass or end where it ends, and how far off; none where
        a column stands there."""
        distance, _ = self.all.at(here)
        near = distance < self.all.size / 2 + NEAR
        near[index] = False
        if (near & self.columns).any():
            return {}
        away = unit(there - here)
        across = np.abs(self.all.d @ away) < 0.995 * self.all.length
        near &= ~self.plumb & ~self.braces & ~self.embeds & across
        normal = self._plane_of(index, away, np.flatnonzero(near))
        if normal is None:
            return {}
        flat = np.abs(self.all.d @ normal) < 0.01 * self.all.length
        return {self.all.members[int(i)].id: float(distance[i]) for i in np.flatnonzero(near & flat)}

    def _plane_of(self, index: int, away: Vec, near: np.ndarray) -> Vec | None:
        """The level normal of the upright plane of a web; a post's is that of what it ends on."""
        runs = [away] if not is_vertical(away) else [self.all.d[i] for i in near]
        for run in runs:
            normal = np.array([-run[1], run[0], 0.0])
            if np.linalg.norm(normal) > 1e-6:
                return unit(normal)
        return None

    # -- columns ------------------------------------------------------------------------------------
    def _plumb(self, index: int, here: Vec, top: bool) -> Standing | str | None:
        ends = self.low if top else self.high
        on = self._ends_at(index, here, ends) & self.plumb
        if on.any():
            return None if top else Standing(Holding.COLUMN_ON, self._id(on))
        distance, along = self.all.at(here)
        distance[index] = np.inf
        past = np.minimum(along, self.all.length - along) > self.all.size
        crossing = (distance < self.all.size + NEAR) & past & ~self.plumb & ~self.braces
        if top:
            over = crossing & (self.low[:, 2] > here[2] - 1.0)
            return Standing(Holding.OVER, self._id(over, distance)) if over.any() else None
        below = crossing & (self.low[:, 2] < here[2] + 1.0)
        if below.any():
            return Standing(Holding.BELOW, self._id(below, distance))
        other = (distance < self.all.size / 2 + NEAR) & (self.low[:, 2] < here[2] - 1.0) & self.plumb
        if other.any():
            return "it stands on other steel in a way that has no usual joint"
        if self.all.members[index].role is Role.HANGER:
            return "it is a hanger's lower end: what hangs on it is joined to it"
        feet = self.low[self.plumb & (np.linalg.norm(self.low[:, :2] - here[:2], axis=1) < _ABOUT), 2]
        if len(feet) and float(here[2]) - float(feet.min()) > _STEP:
            return "it ends in mid-air, far above the feet of the columns about it"
        return Standing(Holding.GROUND)

    def _is_eave(self, column: int, here: Vec, there: Vec) -> bool:
        """Whether an end comes to the top of a column and has no other beyond it."""
        if float(self.high[column, 2] - here[2]) > self.all.size[column]:
            return False
        away = unit(there - here)[:2]
        meets = (self._ends_at(column, here, self.all.a) | self._ends_at(column, here, self.all.b)) & ~self.plumb
        for i in np.flatnonzero(meets & ~self.braces):
            out = self._out(int(i), here)[:2]
            if float(out @ away) < -0.5 * float(np.linalg.norm(out)) * float(np.linalg.norm(away)):
                return False
        return True

    # -- beams, rafters ---------------------------------------------------------------------------------
    def _beam(self, index: int, here: Vec, there: Vec) -> Standing | str | None:
        found = self.all.holding(index, here)
        away = unit(there - here)
        if found is not None and self.all.members[found].role in WEBS and self._is_web(found):
            post = self.all.members[found].id
            return Standing(Holding.CHORD, post) if self._parts_chord(index, here, there) else None
        if found is not None and self.plumb[found]:
            tube = self.all.sections[found].form in (Form.BOX, Form.TUBE)
            column = Standing(Holding.TUBE if tube else Holding.COLUMN, self.all.members[found].id)
            return Standing(Holding.TOP, column.support, (), column) if self._is_eave(found, here, there) else column
        if found is not None:
            beam = Standing(Holding.BEAM, self.all.members[found].id)
            if self._in_one_plane(away, self.all.d[found] / self.all.length[found]):
                return Standing(Holding.CHORD, beam.support, (), beam)
            return beam
        meets = (
            (self._ends_at(index, here, self.all.a) | self._ends_at(index, here, self.all.b))
            & ~self.plumb
            & ~self.braces
        )
        for i in np.flatnonzero(meets):
            out = self._out(int(i), here)
            turn = float(out @ away)
            if turn < -0.9999:
                return Standing(Holding.BEAM_ON, self.all.members[i].id)
            level = np.array([away[0], away[1], 0.0]), np.array([out[0], out[1], 0.0])
            opposite = float(level[0] @ level[1]) < -0.999 * float(np.linalg.norm(level[0]) * np.linalg.norm(level[1]))
            if opposite:
                bent = Standing(Holding.BENT, self.all.members[i].id)
                return Standing(Holding.RIDGE, self.all.members[i].id, (), bent)
            if self._in_one_plane(away, out):
                return Standing(Holding.BENT, self.all.members[i].id)
        return "nothing stands at this end that could hold it"

    def _in_one_plane(self, away: Vec, out: Vec) -> bool:
        """Whether two lengths meet at an angle in an upright plane (a column's knee apart)."""
        normal = np.cross(away, out)
        return float(np.linalg.norm(normal)) > 0.01 and abs(float(normal[2])) < 0.01 * float(np.linalg.norm(normal))

    # -- braces -----------------------------------------------------------------------------------------
    def _brace(self, index: int, end: End, here: Vec, there: Vec) -> Standing | str:
        distance, along = self.all.at(here)
        distance[index] = np.inf
        away = unit(there - here)
        meets = (self._ends_at(index, here, self.all.a) | self._ends_at(index, here, self.all.b)) & self.braces
        for i in np.flatnonzero(meets):
            if abs(float(self.all.d[i] @ away)) > 0.9999 * self.all.length[i]:
                over = self._crossed(distance, along, away)
                mate = self.all.members[i].id
                return Standing(Holding.CROSSING, over, (mate,)) if over else Standing(Holding.BRACE_ON, mate)
        across = np.abs(self.all.d @ away) < 0.995 * self.all.length
        near = (distance < self.all.size / 2 + NEAR) & across & ~self.braces
        posts, beams = near & self.plumb, near & ~self.plumb
        if abs(float(away[2])) < _FLAT and (two := self._beside(beams, here, away)):
            corner = (self._id(posts, distance),) if posts.any() else ()
            return Standing(Holding.PLAN, two[0], (two[1], *corner))
        if posts.any():
            post = self._id(posts, distance)
            if here[2] - self.low[self.all.index[post], 2] < _FOOT:
                return Standing(Holding.FOOT, post)
            beams &= self._leaves_alike(away)
            if beams.any():
                return Standing(Holding.CORNER, post, (self._id(beams, distance),))
            return Standing(Holding.COLUMN, post)
        beams &= np.minimum(along, self.all.length - along) > self.all.size
        if not beams.any():
            return "nothing stands at this end that could hold it"
        beam = self._id(beams, distance)
        line = unit(self.all.d[self.all.index[beam]])
        mates = [self.all.members[i].id for i in np.flatnonzero(meets) if self._opposite(int(i), here, away, line)]
        return Standing(Holding.MATE, beam, (mates[0],)) if mates else Standing(Holding.BEAM, beam)

    def _crossed(self, distance: Vec, along: Vec, away: Vec) -> str | None:
        """A brace that runs through where two lengths of another meet."""
        past = np.minimum(along, self.all.length - along) > self.all.size
        runs = (distance < self.all.size / 2 + NEAR) & past & self.braces & (
            np.abs(self.all.d @ away) < 0.98 * self.all.length)  # fmt: skip
        return self._id(runs, distance) if runs.any() else None

    def _leaves_alike(self, away: Vec) -> np.ndarray:
        """Members that lie in the upright plane of a direction: what a gusset can stand on beside a column."""
        flat = np.array([away[0], away[1], 0.0])
        size = float(np.linalg.norm(flat))
        if size < 1e-6:
            return np.zeros(len(self.all.members), dtype=bool)
        side = np.array([-flat[1], flat[0], 0.0]) / size
        return np.asarray(np.abs(self.all.d @ side) < 0.01 * self.all.length)

    def _beside(self, beams: np.ndarray, here: Vec, away: Vec) -> tuple[str, str] | None:
        """Of level beams at a point those nearest to a level direction at either side of it: one that runs through
        first."""
        found: dict[bool, tuple[float, bool, str]] = {}
        for i in np.flatnonzero(beams & (np.abs(self.all.d[:, 2]) < _FLAT * self.all.length)):
            ends = [float(np.linalg.norm(spot[i] - here)) for spot in (self.all.a, self.all.b)]
            through = min(ends) > self.all.size[i] + NEAR
            out = self.all.d[i] / self.all.length[i] * (1.0 if ends[0] < ends[1] else -1.0)
            for way in (out, -out) if through else (out,):
                side = float(np.cross(away, way)[2]) > 0
                one = (float(away @ way), through, self.all.members[i].id)
                if one[0] > 0.08 and (side not in found or one > found[side]):
                    found[side] = one
        if len(found) < 2 or found[True][2] == found[False][2]:
            return None
        first, second = sorted(found.values(), key=lambda one: (not one[1], one[2]))
        return first[2], second[2]

    def _opposite(self, i: int, here: Vec, away: Vec, line: Vec) -> bool:
        """Whether a brace leaves the same point to the other side along a beam, in the same plane."""
        out = self._out(i, here)
        return float(out @ line) * float(away @ line) < 0 and abs(float(np.cross(line, away) @ out)) < 0.01

    # -- common -----------------------------------------------------------------------------------------
    def _out(self, index: int, here: Vec) -> Vec:
        """The direction of a member from its end that is nearer to a point."""
        starts = np.linalg.norm(self.all.a[index] - here) < np.linalg.norm(self.all.b[index] - here)
        return np.asarray(unit(self.all.d[index] if starts else -self.all.d[index]))

    def _ends_at(self, index: int, here: Vec, ends: Vec) -> np.ndarray:
        near = np.linalg.norm(ends - here, axis=1) < _MEETS
        near[index] = False
        return np.asarray(near)

    def _id(self, mask: np.ndarray, distance: Vec | None = None) -> str:
        hits = np.flatnonzero(mask)
        best = hits[0] if distance is None else hits[np.argmin(distance[hits])]
        return self.all.members[int(best)].id
