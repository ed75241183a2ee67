"""Records of what joins members: connections, attachments, their presets, the office's rules and the shop's."""

from __future__ import annotations

import math
from typing import Annotated, Any

import msgspec

from uncus.catalog.bolts import HoleKind, bolt_sizes, rod_sizes
from uncus.catalog.grades import BOLT_GRADES, ELECTRODES, ROD_GRADES, plate_grades
from uncus.job.criterion import Both, Rule
from uncus.job.forms import About, problem_of
from uncus.job.record import End, Record


class Loads(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """What a joint must carry, as designed with (factored for LRFD and Eurocode): newtons and newton mm.

    `axial` is tension where positive; None is left to the office's rule.
    """

    shear: Annotated[float | None, About("Shear", unit="force", low=-1e9, high=1e9)] = None
    axial: Annotated[float | None, About("Axial", unit="force", low=-1e9, high=1e9, help="Tension is positive.")] = None
    moment: Annotated[float | None, About("Moment", unit="moment", low=-1e13, high=1e13)] = None

    def problem(self) -> str | None:
        given = [n for n in (self.shear, self.axial, self.moment) if n is not None]
        return None if all(math.isfinite(n) and abs(n) < 1e15 for n in given) else "A load is no number."


class Connection(Record, frozen=True, gc=False, tag=True):
    """A joint of one kind: the member's end joined to `support` (None: to the ground).

    `others` are further members that take part (the beam beside a gusset, the other brace of a pair). `params` holds
    only what differs from the kind's own values. A `locked` one is left alone by rules, presets and copied settings.
    """

    kind: str
    member: str
    end: End
    support: str | None = None
    others: tuple[str, ...] = ()
    params: dict[str, Any] = msgspec.field(default_factory=dict)
    loads: Loads | None = None
    locked: bool = False
    maker: str = ""

    @property
    def members(self) -> tuple[str, ...]:
        """Every member that takes part, its own first."""
        return (self.member, *((self.support,) if self.support else ()), *self.others)

    def problem(self) -> str | None:
        return self.loads.problem() if self.loads else None


class Attachment(Record, frozen=True, gc=False, tag=True):
    """Something fixed to or made in a member along its length, such as stiffeners or nailer holes: a kind and its
    values; where it takes two members to have it, such as bolts where braces cross, `mate` is the other."""

    kind: str
    member: str
    params: dict[str, Any] = msgspec.field(default_factory=dict)
    locked: bool = False
    mate: str | None = None
    maker: str = ""

    @property
    def members(self) -> tuple[str, ...]:
        """Every member that has it, its own first."""
        return (self.member, self.mate) if self.mate else (self.member,)

    def problem(self) -> str | None:
        return "What two members have between them needs another one." if self.mate == self.member else None


class ByDepth(msgspec.Struct, frozen=True, omit_defaults=True):
    """The shop's minimums for beams up to a depth: bolt, rows of them, thickness of the plate; None: as elsewhere.

    `shear` is what a joint of such a beam is designed for, in newtons, where loads are by a table."""

    depth: float
    bolt: str | None = None
    rows: int | None = None
    thickness: float | None = None
    shear: float | None = None

    def problem(self) -> str | None:
        if not 50 <= self.depth <= 3000:
            return "A row of the shop's table needs a depth between 50 mm and 3 m."
        if self.bolt is not None and self.bolt not in bolt_sizes():
            return f"There is no bolt size “{self.bolt}”; there are {', '.join(bolt_sizes())}."
        if self.rows is not None and not 1 <= self.rows <= 30:
            return "A row of the shop's table asks for between 1 and 30 rows of bolts."
        if self.shear is not None and not 0 <= self.shear < 1e9:
            return "A row of the shop's table needs a shear that is no less than nothing."
        if self.thickness is not None and not 3 <= self.thickness <= 150:
            return "A row of the shop's table needs a plate between 3 and 150 mm thick."
        return None


SITE_WITH = ("the piece that comes to the joint", "the piece that stands there")


class ShopRules(Record, frozen=True, tag=True):
    """The fabricator's minimums and preferences; one a job, with a fixed id. Lengths in mm."""

    id: str = "shop rules"
    bolt: Annotated[str, About("Bolt", unit="choice", choices=tuple(bolt_sizes()))] = "3/4"
    bolt_grade: Annotated[str, About("Bolt grade", unit="choice", choices=tuple(BOLT_GRADES))] = "A325"
    threads: Annotated[
        str,
        About("Threads in the shear plane", unit="choice", choices=("included", "excluded"), help="N or X bolts."),
    ] = "included"
    plate_grade: Annotated[str, About("Plate grade", unit="choice", choices=plate_grades())] = "A36"
    tab_thickness: Annotated[float, About("Tab thickness", low=3, high=150)] = 9.525
    tab_weld: Annotated[float, About("Least fillet weld", low=3, high=40)] = 6.35
    tab_hole: Annotated[str, About("Holes in tabs", unit="choice", choices=tuple(HoleKind))] = HoleKind.STANDARD
    pitch: Annotated[float, About("Pitch of bolts", low=20, high=500)] = 76.2
    edge: Annotated[float, About("Edge distance", low=10, high=300, help="Bolts to the edges of plates.")] = 38.1
    side: Annotated[
        str,
        About("Plates go on the", unit="choice", choices=("near", "far"), help="Side of the web, alike at both ends."),
    ] = "near"
    gap: Annotated[float, About("Gap at a beam's end", low=1, high=150)] = 12.7
    cope_radius: Annotated[float, About("Radius of copes", low=1, high=100)] = 12.7
    cope_clear: Annotated[
        float,
        About("Copes past the flange", low=1, high=100, help="From the edge of the support's flange to a cope's end."),
    ] = 12.7
    rod: Annotated[str, About("Anchor rod", unit="choice", choices=tuple(rod_sizes()))] = "3/4"
    rod_grade: Annotated[str, About("Rod grade", unit="choice", choices=tuple(ROD_GRADES))] = "F1554-36"
    electrode: Annotated[str, About("Electrode", unit="choice", choices=tuple(ELECTRODES))] = "E70"
    faying: Annotated[
        str,
        About(
            "Faying surfaces",
            unit="choice",
            choices=("A", "B"),
            help="Where bolts hold by friction: A as rolled or primed (0.30), B blasted (0.50).",
        ),
    ] = "A"
    concrete: Annotated[
        float, About("Concrete under bases", unit="stress", low=5, high=120, help="Strength f'c, or f_ck of cylinders.")
    ] = 27.579
    base_thickness: Annotated[float, About("Base plate thickness", low=5, high=300)] = 19.05
    gusset_thickness: Annotated[float, About("Gusset thickness", low=4, high=100)] = 9.525
    angle: Annotated[str, About("Connection angle", unit="section", help="For double angles and clips.")] = (
        "L4X3-1/2X5/16"
    )
    seat_angle: Annotated[str, About("Seat angle", unit="section")] = "L6X4X1/2"
    thickest: Annotated[
        float, About("Thickest plate without asking", low=5, high=300, help="Thicker ones are found and said.")
    ] = 50.8
    stock: Annotated[
        tuple[float, ...],
        About("Plate stock", unit="lengths", low=2, high=300, help="Thicknesses kept; others are found and said."),
    ] = tuple(25.4 / 16 * n for n in (4, 5, 6, 8, 10, 12, 14, 16, 20, 24, 28, 32, 36, 40, 48))
    method: Annotated[
        str,
        About(
            "Design by",
            unit="choice",
            choices=("LRFD", "ASD"),
            help="Of AISC 360; EN 1993 knows one method.",
        ),
    ] = "LRFD"
    load_rule: Annotated[
        str,
        About(
            "Loads where none are given",
            unit="choice",
            choices=("none", "share of the beam's capacity", "table by depth"),
        ),
    ] = "none"
    load_share: Annotated[
        float,
        About(
            "Share of the capacity",
            unit="share",
            low=0.05,
            high=1.0,
            help="Of the uniform load a beam carries over its span.",
        ),
    ] = 0.5
    site_with: Annotated[
        str,
        About(
            "Site bolts and welds go with",
            unit="choice",
            choices=SITE_WITH,
            help="On whose sheet and list they are: each is on one alone.",
        ),
    ] = SITE_WITH[0]
    by_depth: tuple[ByDepth, ...] = ()

    def problem(self) -> str | None:
        return problem_of(self) or next((p for row in self.by_depth if (p := row.problem())), None)

    def at_depth(self, depth: float) -> ShopRules:
        """The rules as they are for a beam so deep."""
        row = self.row_at(depth)
        if row is None:
            return self
        return msgspec.structs.replace(
            self, bolt=row.bolt or self.bolt, tab_thickness=row.thickness or self.tab_thickness
        )

    def rows_for(self, depth: float) -> int | None:
        """Rows of bolts the shop's table asks for at a depth."""
        row = self.row_at(depth)
        return row.rows if row else None

    def row_at(self, depth: float) -> ByDepth | None:
        """The row of the shop's table for a depth: the first whose depth is not less."""
        return next((r for r in sorted(self.by_depth, key=lambda r: r.depth) if depth <= r.depth + 0.5), None)


class Preset(Record, frozen=True, tag=True):
    """A named setting of one kind of connection or attachment."""

    kind: str
    name: str
    params: dict[str, Any] = msgspec.field(default_factory=dict)

    def problem(self) -> str | None:
        return None if self.name.strip() else "A preset needs a name."


class OfficeRule(Record, frozen=True, tag=True):
    """One of the office's rules of joining, in order: which members (a lens's rule), which ends, what holds them,
    and the kind and setting they get."""

    order: int
    name: str
    kind: str
    members: Rule = Both()
    ends: str = "both"
    holding: str = "anything"
    params: dict[str, Any] = msgspec.field(default_factory=dict)

    def problem(self) -> str | None:
        return None if self.name.strip() else "A rule of joining needs a name."
