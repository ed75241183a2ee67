"""The records a job is made of: frozen, each with a stable id, in millimetres and degrees.

Records refer to one another by id. Z is up; the frame is right-handed.
"""

import math
import uuid
from enum import StrEnum
from typing import Any

import msgspec

from uncus.units import Units

Point = tuple[float, float, float]
FAR = 10_000_000.0  # 10 km: farther than any building


def new_id() -> str:
    """A fresh record id (UUID); it is also the piece's identity in IFC and outlives edits."""
    return str(uuid.uuid4())


def derived_id(*parts: str) -> str:
    """The id of something computed from records: the same inputs give the same id, always."""
    return str(uuid.uuid5(uuid.NAMESPACE_OID, "uncus/" + "/".join(parts)))


class Role(StrEnum):
    COLUMN = "column"
    BEAM = "beam"
    RAFTER = "rafter"
    EAVES = "eaves beam"
    PURLIN = "purlin"
    GIRT = "girt"
    BRACE = "brace"
    POST = "post"
    STRUT = "strut"
    HANGER = "hanger"


class Line(StrEnum):
    """Which line of the section lies on the work line."""

    TOP = "top of steel"
    CENTRE = "centre"
    BOTTOM = "bottom"


class End(StrEnum):
    LEFT = "left"
    RIGHT = "right"


class Record(msgspec.Struct, frozen=True, tag=True, kw_only=True):
    id: str = msgspec.field(default_factory=new_id)

    def problem(self) -> str | None:
        """Why this record cannot be kept, as a sentence; None where it can."""
        return None


class Project(Record, frozen=True, tag=True):
    """The job's own facts: one a job, with a fixed id."""

    id: str = "project"
    name: str = "New job"
    number: str = ""
    units: Units = Units.IMPERIAL
    finish: str = "shop primer"

    def problem(self) -> str | None:
        return None if self.name.strip() else "The job needs a name."


class GridLine(msgspec.Struct, frozen=True):
    """A grid line: `across` lines stand at an x, the others at a y."""

    label: str
    at: float


class Grid(Record, frozen=True, tag=True):
    """Two families of parallel lines: `numbers` at x positions, `letters` at y positions."""

    numbers: tuple[GridLine, ...] = ()
    letters: tuple[GridLine, ...] = ()

    def problem(self) -> str | None:
        for line in (*self.numbers, *self.letters):
            if not line.label.strip() or not abs(line.at) < FAR:
                return f"Grid line “{line.label}” needs a name and a position within 10 km."
        labels = [line.label for line in (*self.numbers, *self.letters)]
        twice = next((label for label in labels if labels.count(label) > 1), None)
        return f"Two grid lines are called “{twice}”; give each its own name." if twice else None


class Level(Record, frozen=True, tag=True):
    name: str
    elevation: float

    def problem(self) -> str | None:
        return None if abs(self.elevation) < FAR else f"Level “{self.name}” is out of reach (10 km)."


class Member(Record, frozen=True, tag=True):
    """A straight member between two work points; `start` is the left end, from which drawings read.

    `line` says which line of the section lies on the work line, `rise` how far it is above it;
    `left_back`, `right_back` pull an end back (+) or run it on (-). `roll` is degrees about the axis.
    """

    role: Role
    section: str
    start: Point
    end: Point
    grade: str = ""
    roll: float = 0.0
    line: Line = Line.CENTRE
    rise: float = 0.0
    left_back: float = 0.0
    right_back: float = 0.0
    camber: float = 0.0
    lot: str = "1"
    finish: str = ""

    @property
    def work_length(self) -> float:
        return math.dist(self.start, self.end)

    def problem(self) -> str | None:
        numbers = (*self.start, *self.end, self.roll, self.rise, self.left_back, self.right_back, self.camber)
        if not all(math.isfinite(n) and abs(n) < FAR for n in numbers):
            return (
                f"The {self.role} ({self.section}) has a value that is no number or is out of reach; nothing changed."
            )
        if self.work_length < 1.0:
            return f"The {self.role} ({self.section}) has no length; pick two different points."
        return None


class Connection(Record, frozen=True, tag=True):
    """A joint of one kind: the member's end joined to `support` (None: to the ground).

    `params` holds only what differs from the kind's own values.
    """

    kind: str
    member: str
    end: End
    support: str | None = None
    params: dict[str, Any] = msgspec.field(default_factory=dict)


class ShopRules(Record, frozen=True, tag=True):
    """The fabricator's minimums and preferences; one a job, with a fixed id. Lengths in mm."""

    id: str = "shop rules"
    bolt: str = "3/4"
    bolt_grade: str = "A325"
    plate_grade: str = "A36"
    tab_thickness: float = 9.525
    tab_weld: float = 6.35
    pitch: float = 76.2
    edge: float = 38.1
    gap: float = 12.7
    cope_radius: float = 12.7
    cope_clear: float = 12.7
    rod: str = "3/4"
    rod_grade: str = "F1554-36"
    electrode: str = "E70"
    base_thickness: float = 19.05

    def problem(self) -> str | None:
        lengths = ("tab_thickness", "tab_weld", "pitch", "edge", "gap", "cope_radius", "cope_clear", "base_thickness")
        for name in lengths:
            if not 0 < getattr(self, name) < 1000:
                return f"Shop rule “{name.replace('_', ' ')}” must be more than nothing and under a metre."
        return None


class Series(Record, frozen=True, tag=True):
    """How marks are made: prefix and first number by role of a piece."""

    prefix: str
    roles: tuple[str, ...]
    start: int = 1
    parts: bool = False

    def problem(self) -> str | None:
        if not self.prefix or not all(c.isalnum() or c in "-_." for c in self.prefix):
            return f"Series “{self.prefix}” needs a prefix of letters, figures or - _ . only."
        return None


class Mark(Record, frozen=True, tag=True):
    """The mark of one piece; its id is `mark:` and the piece's id.

    `content` is the fingerprint of the piece the mark was given to, so that a piece changed since is seen.
    """

    piece: str
    mark: str
    content: str = ""
    part: bool = False


class Lens(Record, frozen=True, tag=True):
    """A named criterion: every (fact, value) pair must hold; see `uncus.lens`."""

    name: str
    facts: tuple[tuple[str, str], ...] = ()


class Sent(Record, frozen=True, tag=True):
    """A sheet that went out in a package: its id is `sent:` and the sheet's name; `content` its fingerprint."""

    sheet: str
    content: str
    on: str


AnyRecord = Project | Grid | Level | Member | Connection | ShopRules | Series | Mark | Lens | Sent
