"""A web that overlaps another on its chord: its end cut to the chord and notched to the side of the web that is
there first."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from uncus.catalog.sections import Form
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.connect.meeting import Meeting, on_surface
from uncus.connect.section_weld import ring_of
from uncus.connect.surface import Surface, facing
from uncus.steel import profile
from uncus.steel.features import EndCut, Notch

GROWN = 4.8  # mm of gap up to which a fillet is grown by it (AWS D1.1 5.21.1: three sixteenths)
_LEAN = 0.02  # of slope across a web up to which its two sides lie in the truss's plane
_PAST = 5.0  # mm that a notch runs on past the walls' edges


class Overlap(NamedTuple):
    """The end of a square tube before the side of a web that it overlaps: there x = at + ky y + kz z of the member's
    frame."""

    body: Body
    side: Surface
    sign: float
    plane: EndCut

    def x(self, y: float, z: float) -> float:
        return self.plane.x(y, z)

    def beyond(self, cut: EndCut, y: float, z: float) -> float:
        """How much farther in than an end's cut the other web's side takes the steel at (y, z)."""
        return self.sign * (self.x(y, z) - cut.x(y, z))

    @property
    def open(self) -> float:
        """The gap that walls cut square to themselves leave at the other web's side."""
        return self.body.section.tw * max(abs(self.plane.ky), abs(self.plane.kz))


def overlap_of(m: Meeting, other: Body, gap: float) -> Overlap | str:
    """How an end meets the web it overlaps; or, in a sentence, why it does not."""
    body = m.body
    if Form.BOX is not body.section.form or other.section.form is not Form.BOX:
        return (
            f"The {body.words} does not overlap the {other.words}: only square tubes are notched to one another; leave "
            f"a gap between them."
        )
    side = facing(other, body.end(m.end), body.away(m.end))
    if isinstance(side, str):
        return f"The {body.words} cannot overlap: {side}."
    there = on_surface(body, m.end, side)
    if abs(there.ky) > _LEAN:
        return (
            f"The {body.words} is rolled out of the plane of the {other.words}; a web that overlaps lies with two "
            f"sides in it."
        )
    return Overlap(body, side, m.sign, EndCut(there.side_x(0.0, 0.0, gap), there.ky, there.kz))


def notch(fit: Fitup, lap: Overlap, cut: EndCut) -> bool:
    """Each wall notched to the other web's side where that stands before the end's own cut; whether any is."""
    s, any_ = lap.body.section, False
    for face, wall in profile.faces(s).items():
        half = (s.d if face.upright else s.b) / 2 + _PAST
        depth = (wall.mid - wall.thickness / 2, wall.mid + wall.thickness / 2)

        def spot(w: float, at: float, upright: bool = face.upright) -> tuple[float, float]:
            return (at, w) if upright else (w, at)

        edges = [max(lap.sign * lap.x(*spot(w, at)) for at in depth) * lap.sign for w in (-half, half)]
        if max(lap.beyond(cut, *spot(w, wall.mid)) for w in (-half, half)) <= 0.5:
            continue
        out = cut.x(0.0, 0.0) - lap.sign * 4 * (s.d + s.b)
        fit.feature(lap.body.id, Notch(face, ((edges[0], -half), (edges[1], half), (out, half), (out, -half))))
        any_ = True
    return any_


def runs(lap: Overlap, cut: EndCut) -> Iterator[tuple[bool, list[tuple[float, float]]]]:
    """The section's outline (y, z) in stretches: whether each is welded to the web that is overlapped, else to the
    chord."""
    ring = ring_of(lap.body.section)
    spots: list[tuple[float, float]] = []
    for a, b in pairwise(ring):
        fa, fb = (lap.beyond(cut, *p) for p in (a, b))
        spots.append(a)
        if fa * fb < 0:
            share = fa / (fa - fb)
            spots.append((a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])))
    values = [lap.beyond(cut, *p) for p in spots]
    crossings = [n for n, v in enumerate(values) if abs(v) < 1e-6]
    if not crossings:
        yield values[0] > 0, [*spots, spots[0]]
        return
    for first, last in pairwise([*crossings, crossings[0] + len(spots)]):
        stretch = [spots[n % len(spots)] for n in range(first, last + 1)]
        inner = [values[n % len(spots)] for n in range(first + 1, last)]
        if inner:
            yield max(inner, key=abs) > 0, stretch
