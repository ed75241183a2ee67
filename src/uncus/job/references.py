"""Others' models and drawings in a job, what of them was made into members, and bought items as the job has them."""

from __future__ import annotations

import math
from typing import Any

import msgspec

from uncus.job.record import FAR, Point, Record, derived_id

IFC, DXF = FORMATS = ("ifc", "dxf")
_LONGEST = 4096  # characters of a path


class Reference(Record, frozen=True, tag=True):
    """A model or drawing of others that lies beside the steel. `path` is its file, from the job's folder where it is
    beneath it; `sum` the SHA-256 of what was read, `before` that of the copy before. A point of the file is multiplied
    by `scale`, `shift` is added, it is turned by `turn` degrees about the plumb line through the origin, and then lies
    in the frame of `origin`, `x` and `y`. `hidden` names what of it is not shown (`storey/Ground`, `class/IfcWall`,
    `layer/A-WALL`, or a GlobalId)."""

    name: str
    path: str
    format: str = IFC
    sum: str = ""
    before: str = ""
    scale: float = 1.0
    shift: Point = (0.0, 0.0, 0.0)
    turn: float = 0.0
    origin: Point = (0.0, 0.0, 0.0)
    x: Point = (1.0, 0.0, 0.0)
    y: Point = (0.0, 1.0, 0.0)
    shown: bool = True
    hidden: tuple[str, ...] = ()
    clashes: bool = True

    def problem(self) -> str | None:
        if not self.name.strip() or self.format not in FORMATS:
            return "What others drew needs a name, and is IFC or DXF."
        if not 0 < len(self.path) <= _LONGEST or "\0" in self.path:
            return f"“{self.name}” needs the place of its file."
        if not (1e-6 <= self.scale <= 1e6 and abs(self.turn) <= 3600.0):
            return f"“{self.name}” is scaled or turned by what is no number, or too far."
        if not all(math.isfinite(n) and abs(n) < 1e11 for n in self.shift):
            return f"“{self.name}” is moved out of reach."
        if not all(abs(n) < FAR for n in self.origin):
            return f"“{self.name}” is put out of reach (10 km)."
        square = abs(sum(a * b for a, b in zip(self.x, self.y, strict=True))) < 1e-6
        if not square or any(abs(math.dist((0, 0, 0), axis) - 1) > 1e-6 for axis in (self.x, self.y)):
            return f"“{self.name}” needs two axes square to each other."
        return None


class Taken(Record, frozen=True, tag=True):
    """A product of a reference that was made into a member. `as_made` holds the member's fields as they came of it, so
    that of a newer copy only what changed there is offered, and what was changed by hand stays."""

    reference: str
    product: str
    member: str
    as_made: dict[str, Any] = msgspec.field(default_factory=dict)

    @classmethod
    def named(cls, reference: str, product: str) -> str:
        return derived_id("taken", reference, product)


class NamesLearnt(Record, frozen=True, tag=True):
    """What others call sections and grades, and what they are to us: grows as names are settled, and is shared as a
    file."""

    id: str = "names learnt"
    sections: dict[str, str] = msgspec.field(default_factory=dict)
    grades: dict[str, str] = msgspec.field(default_factory=dict)
