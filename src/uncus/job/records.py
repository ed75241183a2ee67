"""The records a job is made of: frozen, each with a stable id, in millimetres and degrees.

Records refer to one another by id. Z is up; the frame is right-handed.
"""

from __future__ import annotations

import math
from enum import StrEnum

import msgspec

from uncus.job.billing import AdvanceRules as AdvanceRules
from uncus.job.billing import Allowance as Allowance
from uncus.job.billing import KeptList as KeptList
from uncus.job.billing import ListColumn as ListColumn
from uncus.job.billing import ListTemplate as ListTemplate
from uncus.job.billing import Load as Load
from uncus.job.billing import Offcut as Offcut
from uncus.job.billing import PlateSize as PlateSize
from uncus.job.billing import SortBy as SortBy
from uncus.job.billing import StockLength as StockLength
from uncus.job.billing import StockRules as StockRules
from uncus.job.billing import Stood as Stood
from uncus.job.blanks import Blank as Blank
from uncus.job.blanks import Corner as Corner
from uncus.job.blanks import Fold as Fold
from uncus.job.blanks import HoleRow as HoleRow
from uncus.job.blanks import Lugs as Lugs
from uncus.job.bought import BoughtItem as BoughtItem
from uncus.job.bought import Placed as Placed
from uncus.job.checks import CheckRules as CheckRules
from uncus.job.checks import Hold as Hold
from uncus.job.checks import Verdict as Verdict
from uncus.job.composites import Anchor as Anchor
from uncus.job.composites import Composite as Composite
from uncus.job.criterion import Both as Both
from uncus.job.criterion import Either as Either
from uncus.job.criterion import Fact as Fact
from uncus.job.criterion import Not as Not
from uncus.job.criterion import Rule as Rule
from uncus.job.drawings import Drawing as Drawing
from uncus.job.drawings import Issue as Issue
from uncus.job.drawings import SheetPreset as SheetPreset
from uncus.job.joinery import Attachment as Attachment
from uncus.job.joinery import ByDepth as ByDepth
from uncus.job.joinery import Connection as Connection
from uncus.job.joinery import Loads as Loads
from uncus.job.joinery import OfficeRule as OfficeRule
from uncus.job.joinery import Preset as Preset
from uncus.job.joinery import ShopRules as ShopRules
from uncus.job.marks import AdvanceMark as AdvanceMark
from uncus.job.marks import IssuedMark as IssuedMark
from uncus.job.marks import Mark as Mark
from uncus.job.marks import MarkRules as MarkRules
from uncus.job.marks import Series as Series
from uncus.job.marks import StandardPart as StandardPart
from uncus.job.nc_options import NcOptions as NcOptions
from uncus.job.packages import PackageKind as PackageKind
from uncus.job.packages import PieceProgress as PieceProgress
from uncus.job.packages import Receiver as Receiver
from uncus.job.packages import Sending as Sending
from uncus.job.record import FAR as FAR
from uncus.job.record import End as End
from uncus.job.record import Point as Point
from uncus.job.record import Record as Record
from uncus.job.record import derived_id as derived_id
from uncus.job.record import new_id as new_id
from uncus.job.record import plain as plain
from uncus.job.references import NamesLearnt as NamesLearnt
from uncus.job.references import Reference as Reference
from uncus.job.references import Taken as Taken
from uncus.job.site import Crane as Crane
from uncus.job.site import ErectionRules as ErectionRules
from uncus.job.site import LayDown as LayDown
from uncus.job.site import Reach as Reach
from uncus.job.topics import Remark as Remark
from uncus.job.topics import Topic as Topic
from uncus.job.topics import Viewed as Viewed
from uncus.job.views import Showing as Showing
from uncus.job.views import ViewFrame as ViewFrame
from uncus.units import Units


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
    EMBED = "plate in a wall"
    PLATE = "plate"
    STRINGER = "stringer"
    TREAD = "tread"
    RAIL = "rail"
    PANEL = "panel"
    BOUGHT = "bought item"


class Line(StrEnum):
    """Which line of the section lies on the work line."""

    TOP = "top of steel"
    CENTRE = "centre"
    BOTTOM = "bottom"
    GAGE = "gage line"
    CENTROID = "centroid"


STANDARDS = ("AISC 360", "EN 1993")


class Project(Record, frozen=True, tag=True):
    """The job's own facts: one a job, with a fixed id. `standard` is what joints are designed by; "" goes by the
    units. `work` is the standard and class that the shop works to, `weld_tests` what tests its welds get: both as
    sheets say them."""

    id: str = "project"
    name: str = "New job"
    number: str = ""
    units: Units = Units.IMPERIAL
    finish: str = "shop primer"
    standard: str = ""
    work: str = ""
    weld_tests: str = ""

    def problem(self) -> str | None:
        if self.standard and self.standard not in STANDARDS:
            return f"Joints are designed by {' or '.join(STANDARDS)}; “{self.standard}” is neither."
        return None if self.name.strip() else "The job needs a name."

    @property
    def designed_by(self) -> str:
        """The standard that joints are designed by."""
        return self.standard or STANDARDS[self.units is Units.METRIC]


class GridLine(msgspec.Struct, frozen=True, omit_defaults=True):
    """A grid line. It crosses its family's base line (the x axis for numbers, the y axis for letters) at `at`.

    `turn` skews it, degrees counter-clockwise seen from above about that crossing. `first` and `last` are where it
    begins and ends along itself, measured from the crossing; None: it runs through.
    """

    label: str
    at: float
    turn: float = 0.0
    first: float | None = None
    last: float | None = None

    def problem(self) -> str | None:
        if not self.label.strip() or not abs(self.at) < FAR:
            return f"Grid line “{self.label}” needs a name and a position within 10 km."
        if not abs(self.turn) <= 75.0:
            return f"Grid line “{self.label}” may be skewed by up to 75 degrees; beyond that it is of the other family."
        ends = [end for end in (self.first, self.last) if end is not None]
        if not all(abs(end) < FAR for end in ends) or (len(ends) == 2 and ends[1] - ends[0] < 1.0):
            return f"Grid line “{self.label}” must end after it begins, within 10 km."
        return None


class Grid(Record, frozen=True, tag=True):
    """Two families of lines, skewed or partial where wanted: `numbers` cross the x axis, `letters` the y axis."""

    numbers: tuple[GridLine, ...] = ()
    letters: tuple[GridLine, ...] = ()

    def problem(self) -> str | None:
        for line in (*self.numbers, *self.letters):
            if problem := line.problem():
                return problem
        labels = [line.label for line in (*self.numbers, *self.letters)]
        twice = next((label for label in labels if labels.count(label) > 1), None)
        return f"Two grid lines are called “{twice}”; give each its own name." if twice else None


class Level(Record, frozen=True, tag=True):
    name: str
    elevation: float

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A level needs a name."
        return None if abs(self.elevation) < FAR else f"Level “{self.name}” is out of reach (10 km)."


class WorkPlane(Record, frozen=True, tag=True):
    """A named plane that picks and typed points lie on: its origin, its x and y axes (unit, square), moved by `depth`
    along x cross y."""

    name: str
    origin: Point
    x: Point
    y: Point
    depth: float = 0.0

    def problem(self) -> str | None:
        numbers = (*self.origin, *self.x, *self.y, self.depth)
        if not self.name.strip():
            return "A work plane needs a name to be kept."
        if not all(abs(n) < FAR for n in numbers):
            return f"Work plane “{self.name}” is out of reach (10 km)."
        square = abs(sum(a * b for a, b in zip(self.x, self.y, strict=True))) < 1e-6
        if not square or any(abs(math.dist((0, 0, 0), axis) - 1) > 1e-6 for axis in (self.x, self.y)):
            return f"Work plane “{self.name}” needs two axes square to each other."
        return None


class Guide(Record, frozen=True, tag=True):
    """A throw-away line for picking, on no drawing: from `a` to `b`, or endless through both."""

    a: Point
    b: Point
    endless: bool = True

    def problem(self) -> str | None:
        if not all(abs(n) < FAR for n in (*self.a, *self.b)):
            return "The guide is out of reach (10 km)."
        return None if math.dist(self.a, self.b) >= 1.0 else "The guide has no length; pick two different points."


class Measured(Record, frozen=True, tag=True):
    """A measure kept with the job: points in order of picking, and what was measured between them."""

    kind: str
    points: tuple[Point, ...]
    words: str


class ViewKind(StrEnum):
    PLAN = "plan"
    ELEVATION = "elevation"
    SECTION = "section"
    FREE = "free"


class View(Record, frozen=True, tag=True):
    """A named way to look at the model: where from, how near, and what is left out of it.

    `yaw` and `pitch` in degrees, `scale` mm a pixel; `before` and `behind` clip by depth about `target` (None: no
    clip).
    """

    name: str
    kind: ViewKind
    target: Point
    yaw: float
    pitch: float
    scale: float
    before: float | None = None
    behind: float | None = None
    hidden: tuple[str, ...] = ()

    def problem(self) -> str | None:
        if not self.name.strip():
            return "A view needs a name to be kept."
        numbers = (*self.target, self.yaw, self.pitch, self.scale, self.before or 0.0, self.behind or 0.0)
        return None if all(abs(n) < FAR for n in numbers) and self.scale > 0 else f"View “{self.name}” is out of reach."


class Layout(StrEnum):
    """How the two angles of a double angle stand to each other."""

    BACK_TO_BACK = "back to back"
    STAR = "star"


class Leg(StrEnum):
    LONG = "long"
    SHORT = "short"


class Double(msgspec.Struct, frozen=True, omit_defaults=True):
    """Two angles as one member: `gap` between their backs, `leg` which legs lie back to back; stitch plates by
    `stitches` (a count) or at most `spacing` apart."""

    layout: Layout = Layout.BACK_TO_BACK
    leg: Leg = Leg.LONG
    gap: float = 9.525
    stitches: int | None = None
    spacing: float | None = 914.4

    def problem(self) -> str | None:
        if not 0 <= self.gap < 200:
            return "The gap between two angles must lie between nothing and 200 mm."
        if self.stitches is not None and not 0 <= self.stitches <= 200:
            return "Give between 0 and 200 stitch plates."
        if self.stitches is None and self.spacing is not None and not 100 <= self.spacing < FAR:
            return "Stitch plates stand at least 100 mm apart."
        return None


class Turnbuckle(msgspec.Struct, frozen=True, omit_defaults=True):
    """What draws the two lengths of a tie rod together: `at` mm from the left work point, in the rod's middle where
    that is empty."""

    at: float | None = None

    def middle(self, length: float) -> float:
        """Where its middle stands along a rod of a length."""
        return length / 2 if self.at is None else self.at

    def problem(self) -> str | None:
        if self.at is not None and not 0 < self.at < FAR:
            return "A turnbuckle stands between the ends of its rod; give a distance from the left one."
        return None


END_CUTS = ("square", "plumb", "level")


class Climb(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """How a member climbs: round the plumb line through (x, y), by `turn` degrees from its left end to its right, to
    the left (counter-clockwise seen from above) where positive."""

    x: float
    y: float
    turn: float

    def radius(self, point: Point) -> float:
        return math.hypot(point[0] - self.x, point[1] - self.y)

    def at(self, start: Point, share: float, rise: float) -> Point:
        """Where the work line is at a share of its length, from where it starts."""
        angle = math.atan2(start[1] - self.y, start[0] - self.x) + math.radians(self.turn) * share
        radius = self.radius(start)
        return self.x + radius * math.cos(angle), self.y + radius * math.sin(angle), start[2] + rise * share

    def problem(self, start: Point, end: Point) -> str | None:
        """Why nothing climbs so between two points, in words that follow "it"."""
        if not all(abs(n) < FAR for n in (self.x, self.y)) or not 0.5 <= abs(self.turn) <= 3600.0:
            return "must turn by half a degree to ten times round"
        radius = self.radius(start)
        if not 30.0 <= radius <= 1_000_000.0:
            return "must run round an axis between 30 mm and 1 km away"
        there = self.at(start, 1.0, end[2] - start[2])
        if math.dist(there[:2], end[:2]) > 0.1:
            return "does not come to its right end when it turns so far round its axis"
        if abs(end[2] - start[2]) > 20 * radius * math.radians(abs(self.turn)):
            return "climbs too steeply to go round"
        return None


class Member(Record, frozen=True, gc=False, tag=True):
    """A member between two work points; `start` is the left end, from which drawings read.

    `line` says which line of the section lies on the work line, `rise` how far it is above it and `aside` how far
    towards the far side; `left_back`, `right_back` pull an end back (+) or run it on (-). `roll` is degrees about
    the axis. On its gage line or centroid, a single angle, channel or tee also lies with its back on the work line.
    `bow` is how far, and where to, the middle of a member rolled to an arc stands out of its straight line; only
    what is square to the line counts. `roll_by` says what `roll` was worked out from, and follows
    (`frame.roll.RollBy`); nothing for one that was typed.
    `seismic`: part of a frame that resists earthquakes by yielding, which has protected zones.
    A member with a `blank` is a plate: x from the left work point, z across from the work line, as thick as its section
    and within that. One with a `climb` goes round a plumb axis. `left_cut`, `right_cut`: how an end is cut where no
    joint cuts it. `maker` is the thing of many parts that it is of. One with an `item` is that, whole: its foot's
    middle at the left work point, out along the line, as it comes from its maker; its section is no more than a box.
    """

    role: Role
    section: str
    start: Point
    end: Point
    grade: str = ""
    roll: float = 0.0
    line: Line = Line.CENTRE
    rise: float = 0.0
    aside: float = 0.0
    left_back: float = 0.0
    right_back: float = 0.0
    camber: float = 0.0
    lot: str = "1"
    finish: str = ""
    double: Double | None = None
    bow: Point = (0.0, 0.0, 0.0)
    roll_by: str = ""
    turnbuckle: Turnbuckle | None = None
    seismic: bool = False
    blank: Blank | None = None
    climb: Climb | None = None
    left_cut: str = END_CUTS[0]
    right_cut: str = END_CUTS[0]
    maker: str = ""
    item: Placed | None = None

    def end_for_end(self) -> Member:
        """The same with its ends exchanged, its turnbuckle where it was; its roll is the caller's to find."""
        at = None if self.turnbuckle is None else self.turnbuckle.at
        turnbuckle = self.turnbuckle if at is None else Turnbuckle(self.work_length - at)
        blank = None if self.blank is None else self.blank.turned_end_for_end(self.work_length)
        climb = None if self.climb is None else msgspec.structs.replace(self.climb, turn=-self.climb.turn)
        return msgspec.structs.replace(self, start=self.end, end=self.start, left_back=self.right_back,
            right_back=self.left_back, left_cut=self.right_cut, right_cut=self.left_cut, turnbuckle=turnbuckle,
            blank=blank, climb=climb)  # fmt: skip

    @property
    def words(self) -> str:
        """What it is, in a few words."""
        return f"{self.role} {self.item.code if self.item else self.section}"

    @property
    def is_rolled(self) -> bool:
        """Whether it is an arc."""
        return math.hypot(*self.bow) > 0.05

    @property
    def work_length(self) -> float:
        return math.dist(self.start, self.end)

    def problem(self) -> str | None:
        numbers = (
            *self.start,
            *self.end,
            self.roll,
            self.rise,
            self.aside,
            self.left_back,
            self.right_back,
            self.camber,
            *self.bow,
        )
        if not all(math.isfinite(n) and abs(n) < FAR for n in numbers):
            return (
                f"The {self.role} ({self.section}) has a value that is no number or is out of reach; nothing changed."
            )
        if self.work_length < 1.0:
            return f"The {self.role} ({self.section}) has no length; pick two different points."
        if self.work_length - self.left_back - self.right_back < 1.0:
            return f"The {self.role} ({self.section}) is pulled back to nothing; give less at its ends."
        if not {self.left_cut, self.right_cut} <= set(END_CUTS):
            ways = f"{', '.join(END_CUTS[:-1])} or {END_CUTS[-1]}"
            return f"The {self.role} {self.section} must have its ends cut {ways}."
        if self.is_rolled and (problem := self._bow_problem()):
            return problem
        if self.climb is not None and (problem := self._climb_problem(self.climb)):
            return problem
        if self.blank is not None and (problem := self._blank_problem(self.blank)):
            return problem
        if self.item is not None and (self.double or self.turnbuckle or self.blank or self.climb or self.is_rolled):
            return f"The {self.words} is bought as it is: neither a pair nor a plate nor rolled."
        for own in (self.double, self.turnbuckle):
            if own is not None and (problem := own.problem()):
                return problem
        if self.turnbuckle is not None and self.turnbuckle.at is not None and self.turnbuckle.at > self.work_length:
            return f"The {self.role} ({self.section}) ends before its turnbuckle; give a lesser distance."
        return None

    def _climb_problem(self, climb: Climb) -> str | None:
        about = f"The {self.role} {self.section}"
        if self.double is not None or self.turnbuckle is not None or self.is_rolled:
            return f"{about} climbs round an axis: it is one length, of one section, and bent no other way."
        problem = climb.problem(self.start, self.end)
        return f"{about} {problem}; nothing changed." if problem else None

    def _blank_problem(self, blank: Blank) -> str | None:
        if self.double is not None or self.turnbuckle is not None or self.is_rolled or self.climb is not None:
            return f"The {self.role} {self.section} is a plate: neither a pair, nor a rod, nor rolled along its line."
        if self.line is not Line.CENTRE:
            return f"The {self.role} {self.section} is a plate, which has its work line at its centre."
        problem = blank.problem()
        return f"The {self.role} {self.section}: {problem[0].lower()}{problem[1:]}" if problem else None

    def _bow_problem(self) -> str | None:
        if self.double is not None:
            return (
                f"The {self.role} ({self.section}) is a pair of angles, which is not rolled to an arc; "
                "make it one section first."
            )
        if self.turnbuckle is not None:
            return f"The {self.role} ({self.section}) has a turnbuckle and stays straight; take it away first."
        if math.hypot(*self.bow) > 0.49 * self.work_length:
            return f"The {self.role} ({self.section}) cannot stand out by half its length; make it two arcs."
        return None


class Lens(Record, frozen=True, tag=True):
    """A named criterion on pieces; see `uncus.lens`."""

    name: str
    rule: Rule = Both()

    def problem(self) -> str | None:
        return None if self.name.strip() else "A lens needs a name."


AnyRecord = (
    Project
    | Grid
    | Level
    | WorkPlane
    | Guide
    | Measured
    | View
    | ViewFrame
    | ErectionRules
    | Crane
    | LayDown
    | Member
    | Composite
    | Connection
    | Attachment
    | OfficeRule
    | Preset
    | ShopRules
    | NcOptions
    | Series
    | MarkRules
    | Mark
    | AdvanceMark
    | IssuedMark
    | StandardPart
    | Lens
    | SheetPreset
    | Drawing
    | Issue
    | CheckRules
    | Verdict
    | Hold
    | Topic
    | ListTemplate
    | KeptList
    | AdvanceRules
    | StockRules
    | Offcut
    | Load
    | Reference
    | Taken
    | NamesLearnt
    | BoughtItem
    | PackageKind
    | Receiver
    | Sending
    | PieceProgress
)
