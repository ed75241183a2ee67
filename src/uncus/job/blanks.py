"""What is cut out of plate, as a record holds it: an outline of lines and arcs, openings, holes and bends.

All in the plate's own frame, as a drawing shows it from its near side: x along the member from its left end, z across
from its work line, mm and degrees.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec

from uncus.job.record import FAR

MOST_CORNERS = 2000
MOST_HOLES = 5000


class Corner(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A corner of an outline. `bulge` bends the edge to the next one to an arc: the tangent of a quarter of its angle,
    counter-clockwise where positive (as DXF's LWPOLYLINE has it). `round` is the radius and `clip` the leg that its own
    two straight edges are rounded or clipped with."""

    x: float
    z: float
    bulge: float = 0.0
    round: float = 0.0
    clip: float = 0.0

    def problem(self) -> str | None:
        if not (abs(self.x) < FAR and abs(self.z) < FAR):
            return "A corner of the plate is no place, or is out of reach."
        if not abs(self.bulge) <= 100.0:
            return "An arc of the plate's outline is all but a whole circle; make it of two."
        if not (0.0 <= self.round < FAR and 0.0 <= self.clip < FAR):
            return "A corner is rounded or clipped by no less than nothing."
        return None


class HoleRow(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A hole, or a pattern of them: the first at (x, z), `columns` of them `dx` apart along x and `rows` `dz` apart
    along z, the pattern turned by `turn` about the first. `slot` is the length over all of a slot (0: round) whose long
    side stands at `angle` to the pattern's x."""

    x: float
    z: float
    d: float
    slot: float = 0.0
    angle: float = 0.0
    columns: int = 1
    rows: int = 1
    dx: float = 76.2
    dz: float = 76.2
    turn: float = 0.0

    @property
    def count(self) -> int:
        return self.columns * self.rows

    def spots(self) -> Iterator[tuple[float, float]]:
        """The middle of each hole."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        for row in range(self.rows):
            for column in range(self.columns):
                u, w = column * self.dx, row * self.dz
                yield self.x + c * u - s * w, self.z + s * u + c * w

    def problem(self) -> str | None:
        numbers = (self.x, self.z, self.d, self.slot, self.angle, self.dx, self.dz, self.turn)
        if not all(abs(n) < FAR for n in numbers):
            return "A hole of the plate has a value that is no number or is out of reach."
        if not 1.0 <= self.d <= 2000.0:
            return "A hole is between 1 mm and 2 m wide; cut a larger opening."
        if self.slot and not self.d < self.slot <= 4000.0:
            return "A slot is longer than it is wide, and no longer than 4 m."
        if self.columns < 1 or self.rows < 1 or self.count > MOST_HOLES:
            return f"A pattern has between 1 and {MOST_HOLES:,} holes."
        apart = [step for n, step in ((self.columns, self.dx), (self.rows, self.dz)) if n > 1]
        if any(abs(step) < self.d for step in apart):
            return "Holes of a pattern lie on one another; give more from one to the next."
        return None


class Fold(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A bend along the line from (x1, z1) to (x2, z2), the middle of the bend's own zone in the flat: what lies left of
    it turns by `angle` towards the near side (away from it where negative), with the inside `radius`; a `radius` less
    than nothing is a sharp fold about the middle of the thickness, as a developed surface has."""

    x1: float
    z1: float
    x2: float
    z2: float
    angle: float
    radius: float

    def problem(self) -> str | None:
        if not all(abs(n) < FAR for n in (self.x1, self.z1, self.x2, self.z2)):
            return "A bend line is no place, or is out of reach."
        if not math.hypot(self.x2 - self.x1, self.z2 - self.z1) >= 1.0:
            return "A bend line has no length; pick two different points."
        if not (0.1 if self.radius >= 0 else 1e-3) <= abs(self.angle) <= 170.0:
            return "A plate is bent by between 0.1 and 170 degrees."
        if not -200.0 <= self.radius <= 5000.0:
            return "The inside radius of a bend lies between nothing and 5 m; roll the plate for more."
        return None


class Lugs(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """What a plate is that is not plain: checkered, with lugs on its near side, or a grating; how the lugs' main
    direction or the bearing bars lie, degrees from x towards z; and what it weighs, kg to a square metre (0: as plain
    plate does). A grating may be banded along all of its edges with a bar `band` mm thick, and is held where it lies by
    so many `clips`."""

    name: str = "checkered"
    angle: float = 0.0
    kg_m2: float = 0.0
    band: float = 0.0
    clips: int = 0

    def problem(self) -> str | None:
        if not self.name.strip() or len(self.name) > 60:
            return "A plate that is not plain needs a short name for what it is."
        if not (abs(self.angle) <= 360.0 and 0.0 <= self.kg_m2 <= 5000.0):
            return "A grating weighs up to 5000 kg to a square metre."
        if not (0.0 <= self.band <= 50.0 and 0 <= self.clips <= 1000):
            return "A grating's edges are banded with bars of up to 50 mm, and up to 1000 clips hold it."
        return None


Ring = tuple[Corner, ...]


class Blank(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A plate as it is cut, before it is bent."""

    outline: Ring
    openings: tuple[Ring, ...] = ()
    holes: tuple[HoleRow, ...] = ()
    folds: tuple[Fold, ...] = ()
    lugs: Lugs | None = None

    def problem(self) -> str | None:
        """Why no such plate is cut. Raises nothing, whatever its numbers are."""
        for ring in (self.outline, *self.openings):
            if len(ring) < 3 and not (len(ring) == 2 and all(abs(c.bulge) > 1e-6 for c in ring)):
                return "An outline needs three corners, or two arcs."
        if sum(len(ring) for ring in (self.outline, *self.openings)) > MOST_CORNERS:
            return f"An outline has more than {MOST_CORNERS:,} corners; draw it of arcs and fewer lines."
        if sum(max(row.count, 1) for row in self.holes) > MOST_HOLES:
            return f"The plate has more than {MOST_HOLES:,} holes."
        corners = (c for ring in (self.outline, *self.openings) for c in ring)
        own = (self.lugs,) if self.lugs is not None else ()
        each: tuple[Corner | HoleRow | Fold | Lugs, ...] = (*corners, *self.holes, *self.folds, *own)
        return next((problem for one in each if (problem := one.problem()) is not None), None)

    def turned_end_for_end(self, length: float) -> Blank:
        """The same plate seen from its other side: x from the other end, z as it is."""
        return Blank(
            _mirrored_ring(self.outline, length),
            tuple(_mirrored_ring(ring, length) for ring in self.openings),
            tuple(
                msgspec.structs.replace(h, x=length - h.x, dx=-h.dx, angle=-h.angle, turn=-h.turn) for h in self.holes
            ),
            tuple(Fold(length - f.x2, f.z2, length - f.x1, f.z1, -f.angle, f.radius) for f in self.folds),
            self.lugs,
        )

    def mirrored(self) -> Blank:
        """Its mirror image in its own plane: the same outline, bent the other way."""
        folds = tuple(msgspec.structs.replace(f, angle=-f.angle) for f in self.folds)
        return msgspec.structs.replace(self, folds=folds)


def _mirrored_ring(ring: Ring, length: float) -> Ring:
    """A ring with x from the other end, gone round the other way so that it keeps its sense."""
    n = len(ring)
    found = []
    for i in range(n - 1, -1, -1):  # the edge after corner i of the new ring is the one before it in the old
        c, before = ring[i], ring[i - 1]
        found.append(msgspec.structs.replace(c, x=length - c.x, bulge=before.bulge))
    return tuple(found)
