"""What a kind of connection is: parameters that make their own form, what it fits, and what it builds."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import cached_property
from typing import Any, Protocol

import msgspec
import numpy as np

from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Section
from uncus.frame.arcs import Arc
from uncus.frame.helices import Helix
from uncus.frame.placement import Placement, Vec
from uncus.job.records import STANDARDS, BoughtItem, Connection, Double, End, Member, Record, ShopRules
from uncus.steel.double import frames
from uncus.steel.joint import Contribution
from uncus.units import INCH, STEP_PLACES, Units


class Stock(msgspec.Struct, frozen=True, gc=False, eq=False):
    """One rolled piece of a member (a pair of angles has two): its id, section and own frame."""

    id: str
    section: Section
    frame: Placement


class Body(msgspec.Struct, frozen=True, eq=False, dict=True):
    """A member as a connection sees it: its record, section and frame (origin at the left work point)."""

    record: Member
    section: Section
    frame: Placement
    arc: Arc | Helix | None = None
    bought: BoughtItem | None = None

    @property
    def id(self) -> str:
        return self.record.id

    @property
    def words(self) -> str:
        return self.record.words

    @property
    def grade(self) -> str:
        return self.record.grade or usual_grade(self.section)

    @property
    def length(self) -> float:
        """Along its axis, between its work points."""
        return self.arc.length if self.arc else self.record.work_length

    def end(self, end: End) -> Vec:
        """The end of its axis (not of its work line) in the model."""
        along = self.length if end is End.RIGHT else 0.0
        return self.along(along).to_model((along, 0.0, 0.0))

    def away(self, end: End) -> Vec:
        """Unit direction from an end into the member."""
        return -self.along(self.length).x if end is End.RIGHT else self.along(0.0).x

    def along(self, x: float) -> Placement:
        """The frame that holds at x: the member's own or, of one rolled to an arc, of the straight length touching
        there."""
        return self.arc.at(x) if self.arc else self.frame

    def touching(self, point: Vec) -> Body:
        """The member as a joint at a point takes it: straight, as it is just there."""
        if self.arc is None:
            return self
        return msgspec.structs.replace(self, frame=self.arc.at(self.arc.nearest(point)))

    @cached_property
    def stock(self) -> tuple[Stock, ...]:
        """What it is rolled of: one piece, two angles, or the two lengths of a tie rod."""
        double: Double | None = self.record.double
        if self.record.turnbuckle is not None:
            return (Stock(self.id, self.section, self.frame), Stock(f"{self.id}/mate", self.section, self.frame))
        if double is None:
            return (Stock(self.id, self.section, self.frame),)
        first, second = frames(self.section, double, self.length)
        return (
            Stock(self.id, self.section, self.frame @ first),
            Stock(f"{self.id}/mate", self.section, self.frame @ second),
        )


class Joint(msgspec.Struct, frozen=True, eq=False):
    """What `build` is given: the record, the members it joins, the shop's rules, the joints at the own ends of
    its support and others (`under`), the joint at the member's other end (`mate`), and the job's units and standard of
    design, which are the job's own and not to be read off anything else."""

    record: Connection
    member: Body
    support: Body | None
    rules: ShopRules
    others: tuple[Body, ...] = ()
    under: tuple[Connection, ...] = ()
    mate: Joint | None = None
    units: Units = Units.IMPERIAL
    standard: str = STANDARDS[0]

    @property
    def right(self) -> bool:
        return self.record.end is End.RIGHT

    @property
    def bodies(self) -> tuple[Body, ...]:
        return (self.member, *((self.support,) if self.support else ()), *self.others)


class Placed(Protocol):
    """What a joint and an attachment's fitting have in common: a record's id, the members, the shop's rules, the
    units."""

    @property
    def record(self) -> Record: ...

    @property
    def rules(self) -> ShopRules: ...

    @property
    def units(self) -> Units: ...

    @property
    def bodies(self) -> tuple[Body, ...]: ...


class Kind(msgspec.Struct, frozen=True):
    """A kind of connection: `needs` says what it joins the member's end to: "support", "ground" or "either";
    `others` how many further members take part at most (of which it must have `asks`, all where that is empty),
    `serves` whose end it joins besides its own member's: "support", "others". `checks` works out the limit states of
    a case (`connect.strength.case`); a kind without it is not checked, by name. `missing` are those that it needs as
    well and that nothing works out yet (`connect.strength.missing`): each is said. `carries`: whether it stands for
    a joint at all (a setback does not). `protects`: how far from its support's face a beam of a seismic frame is
    protected at it (`connect.protected`), of a kind that holds a moment. `beside`: it does nothing to its support and
    asks no more of it than how it lies beside the end."""

    name: str
    words: str
    params: type
    build: Callable[[Joint], Contribution]
    help: str = ""
    needs: str = "support"
    others: int = 0
    serves: str = ""
    checks: Callable[[Any], None] | None = None
    missing: tuple[Any, ...] = ()
    carries: bool = True
    protects: Callable[[Body, Joint, Contribution], float] | None = None
    asks: int | None = None
    beside: bool = False


def up_to(value: float, imperial: bool, inch: float = 0.25, mm: float = 5.0) -> float:
    """Up to the next step a shop likes: a quarter inch or 5 mm unless said otherwise."""
    step = inch * INCH if imperial else mm
    return math.ceil(round(value / step, STEP_PLACES)) * step


def down_to(value: float, imperial: bool, inch: float = 0.25, mm: float = 5.0) -> float:
    """Down to the step before, likewise."""
    step = inch * INCH if imperial else mm
    return math.floor(round(value / step, STEP_PLACES)) * step


def angle_between(a: Vec, b: Vec) -> float:
    """Degrees between two unit directions."""
    return math.degrees(math.atan2(float(np.linalg.norm(np.cross(a, b))), float(a @ b)))
