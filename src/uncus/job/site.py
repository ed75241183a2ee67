"""Records of the erector's site: what stands there, where steel is laid down, and how erection drawings are made."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Annotated

import msgspec

from uncus.job.forms import About, problem_of
from uncus.job.record import FAR, Point, Record

_MOST_ROWS = 60
_FLAT = 1.0e4  # mm2, of an area that holds something


class ErectionRules(Record, frozen=True, tag=True, kw_only=True):
    """How erection drawings of a job are made; one a job, with a fixed id."""

    id: str = "erection rules"
    under: Annotated[str, About("Before heights", unit="text",
        help="Said before the heights of bases on the anchor plan, such as U/S.")] = ""  # fmt: skip
    larger: Annotated[float, About("Bases drawn at", unit="share", low=1.0, high=20.0,
        help="On the anchor plan, of their size; middles and dimensions stay true.")] = 1.0  # fmt: skip
    template: Annotated[bool, About("Template holes", unit="flag",
        help="The rod schedule says how large the holes of the setting templates are.")] = True  # fmt: skip
    spare: Annotated[float, About("Spare bolts", unit="share", low=0.0, high=1.0,
        help="Of each size and length of site bolts, rounded up.")] = 0.03  # fmt: skip
    spare_least: Annotated[int, About("Spare bolts at least", unit="count", low=0, high=100)] = 2
    order: Annotated[str, About("Order of lots", unit="text",
        help="Lots as they are set, with commas between; those not named come last.")] = ""  # fmt: skip
    columns: Annotated[bool, About("Columns", unit="flag", help="A schedule sheet: columns by grid and level.")] = False
    bolts: Annotated[bool, About("Site bolts", unit="flag", help="A schedule sheet: by level, with spares.")] = False
    welds: Annotated[bool, About("Site welds", unit="flag", help="A schedule sheet: by level, with length.")] = False
    lots: Annotated[bool, About("Lots", unit="flag", help="A schedule sheet: lots in order, with weight.")] = False

    def problem(self) -> str | None:
        return problem_of(self)

    def spares(self, number: int) -> int:
        """How many more of a size and length are sent to the site than are wanted there."""
        return max(self.spare_least, math.ceil(number * self.spare - 1e-9))

    @property
    def ordered(self) -> tuple[str, ...]:
        """The lots whose order is said, the first to be set first."""
        return tuple(dict.fromkeys(filter(None, (word.strip() for word in self.order.split(",")))))


class Reach(msgspec.Struct, frozen=True):
    """A row of a crane's load table: what it lifts (kg) out to a radius (mm)."""

    radius: float
    lifts: float


class Crane(Record, frozen=True, tag=True):
    """A crane where it stands: its middle, its load table from the nearest radius out, and how near it works at least
    (mm; 0: as near as it likes)."""

    name: str
    at: Point
    table: tuple[Reach, ...] = ()
    nearest: float = 0.0

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A crane needs a name."
        if not all(abs(n) < FAR for n in self.at):
            return f"Crane “{self.name}” is out of reach (10 km)."
        if len(self.table) > _MOST_ROWS:
            return f"Crane “{self.name}”: a load table has {_MOST_ROWS} rows at most."
        if not 0.0 <= self.nearest <= 500_000.0:
            return f"Crane “{self.name}” works from a radius on that is a length, or nothing is said of it."
        if not all(0.0 <= row.radius <= 500_000.0 and 0.0 < row.lifts <= 5_000_000.0 for row in self.table):
            return f"Crane “{self.name}”: each row of the load table is a radius and what it lifts there."
        if any(b.radius - a.radius < 1.0 or b.lifts > a.lifts for a, b in pairwise(self.table)):
            return f"Crane “{self.name}”: from row to row the radius grows, and what is lifted there does not."
        return None

    def lifts(self, radius: float) -> float | None:
        """What it lifts at a radius: that of the next row out, as between rows nothing is promised. None out of its
        reach, or nearer than it works."""
        if radius < self.nearest - 1.0:
            return None
        return next((row.lifts for row in self.table if radius <= row.radius), None)

    def away(self, point: Point) -> float:
        """How far a point is from its middle in plan."""
        return math.dist(self.at[:2], point[:2])


class LayDown(Record, frozen=True, tag=True):
    """An area where the steel of some lots is laid down: its corners on the ground, and what it bears (kg; 0: not
    said)."""

    name: str
    corners: tuple[Point, ...]
    lots: tuple[str, ...] = ()
    bears: float = 0.0

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A laying-down area needs a name."
        if not all(abs(n) < FAR for p in self.corners for n in p):
            return f"Area “{self.name}” is out of reach (10 km)."
        if len(self.corners) < 3 or self.area < _FLAT:
            return f"Area “{self.name}” has no room; pick two opposite corners."
        return None if 0.0 <= self.bears < 1e9 else f"Area “{self.name}” bears a weight, or nothing is said of it."

    @property
    def area(self) -> float:
        """mm2, in plan."""
        turned = (*self.corners[1:], *self.corners[:1])
        return abs(sum(p[0] * q[1] - q[0] * p[1] for p, q in zip(self.corners, turned, strict=True))) / 2
