"""What is written at a view, before it has a place: chains of dimensions, notes, weld symbols, bevels.

Each has a key made of what it measures: the joint and the row of holes, the plate, the end. Edits by hand hold on to
it. Positions are in the view's own mm, u to the right and v up; sides are those of the paper.
"""

from __future__ import annotations

from collections.abc import Iterable

import msgspec


class Stop(msgspec.Struct, frozen=True):
    """A point that a chain measures to: `at` along the chain, `foot` across it, where its extension line begins."""

    key: str
    at: float
    foot: float | None = None


class Chain(msgspec.Struct, frozen=True, tag="chain"):
    """Dimensions along one line. `how`: "running" from the first stop, "steps" from one to the next. `side`: below
    or above the view (along u), left or right of it (along v). `rank` orders the lines of one side outwards.
    `to_edge`: the last stop is an edge, which does not join a run of equal steps. `datum`: where figures are rounded
    from, so that all chains from there agree; for one along the piece its left end, for one across it the first
    stop, unless given."""

    key: str
    side: str
    stops: tuple[Stop, ...]
    how: str = "steps"
    rank: int = 0
    to_edge: bool = False
    words: str = ""
    datum: float | None = None

    @property
    def places(self) -> list[float]:
        """Places of the stops from the datum, growing along u and down v."""
        usual, sign = (0.0, 1.0) if self.along_u else (self.stops[0].at, -1.0)
        datum = usual if self.datum is None else self.datum
        return [sign * (s.at - datum) for s in self.stops]

    @property
    def along_u(self) -> bool:
        return self.side in ("below", "above")


class Aligned(msgspec.Struct, frozen=True, tag="aligned"):
    """One dimension straight between two points of the view, its line `off` mm of paper to the left of a to b."""

    key: str
    a: tuple[float, float]
    b: tuple[float, float]
    off: float = 6.0
    words: str = ""


class Note(msgspec.Struct, frozen=True, tag="note"):
    """Words with a leader to a point of the view."""

    key: str
    tip: tuple[float, float]
    words: str
    above: bool = True
    leader: bool = True


class WeldNote(msgspec.Struct, frozen=True, tag="weld"):
    """A weld's symbol with its arrow to a point of the view."""

    key: str
    tip: tuple[float, float]
    size: float
    both: bool
    field: bool
    around: bool
    groove: bool
    above: bool = True
    tail: str = "TYP"


class Bevel(msgspec.Struct, frozen=True, tag="bevel"):
    """The triangle of a sloping or skewed cut, beside the end at a point of the view."""

    key: str
    at: tuple[float, float]
    slope: float
    right: bool


class LevelLine(msgspec.Struct, frozen=True, tag="level"):
    """A named level where it crosses an upright piece."""

    key: str
    at: float
    words: str


class Ray(msgspec.Struct, frozen=True, tag="ray"):
    """An angle about the middle of a view: a centre line through it at `turn` degrees anticlockwise from the right,
    past `out` mm, with its words beyond it, `rank` lines out."""

    key: str
    turn: float
    out: float
    words: str
    rank: int = 0


class Cut(msgspec.Struct, frozen=True, tag="cut"):
    """Where a section is cut, with its letter over and under the view."""

    key: str
    at: float
    letter: str


Annotation = Chain | Aligned | Note | WeldNote | Bevel | LevelLine | Ray | Cut
_NOTHING = 0.05  # mm within which two stops are one place


def stepping(found: Iterable[Annotation]) -> list[Annotation]:
    """Annotations whose chains have no step of nothing, each said once: of stops at one place the piece's own, its
    middle or an end, is kept, or else the first; a chain that is left with one stop goes, and one with the figures of
    another on its side."""
    out: list[Annotation] = []
    told: set[tuple[object, ...]] = set()
    for one in found:
        if isinstance(one, Chain):
            stops: list[Stop] = []
            for stop in one.stops:
                if not stops or abs(stop.at - stops[-1].at) > _NOTHING:
                    stops.append(stop)
                elif "|" not in stop.key:
                    stops[-1] = stop
            if len(stops) < 2:
                continue
            one = one if len(stops) == len(one.stops) else msgspec.structs.replace(one, stops=tuple(stops))
            figures = one.side, one.how, one.words, *(round(place, 1) for place in (stops[0].at, *one.places))
            if figures in told:
                continue
            told.add(figures)
        out.append(one)
    return out
