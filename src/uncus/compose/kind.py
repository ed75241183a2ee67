"""What a kind of composite is, what it is given, and how it puts its parts together."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any

import msgspec
import numpy as np

from uncus.catalog.sections import Section, section
from uncus.frame.axes import member_frame
from uncus.frame.placement import Placement, Vec, tidied
from uncus.frame.plates import SIDES, plate_in
from uncus.frame.roll import towards
from uncus.job.blanks import Blank
from uncus.job.errors import JobError
from uncus.job.records import (
    Attachment,
    Climb,
    Composite,
    Connection,
    End,
    Line,
    Member,
    Point,
    Role,
    ShopRules,
    derived_id,
    plain,
)
from uncus.units import Units

Piece = Member | Connection | Attachment


class Given(msgspec.Struct, frozen=True, eq=False):
    """What a kind builds with: its record and values, where its anchors are (n, 3), the job's units and rules, and the
    members that anchors hang on, by id."""

    record: Composite
    params: Any
    points: Vec
    units: Units
    rules: ShopRules
    hosts: Mapping[str, Member] = {}

    def host(self, n: int) -> str | None:
        """The id of the member that an anchor hangs on; None where that is a level, or nothing: what has no steel is
        neither bolted to nor welded on."""
        on = self.record.anchors[n].on
        return on if on in self.hosts else None

    @property
    def imperial(self) -> bool:
        return self.units is Units.IMPERIAL


class Said(msgspec.Struct, frozen=True):
    """Something about a composite, in a sentence; `wrong`: a limit of the rule chosen is broken."""

    text: str
    wrong: bool = True


class Compound(msgspec.Struct, frozen=True):
    """A kind of composite. `picks` are the prompts for its anchors, the last of them repeated where it is `open`;
    `build` gives its parts by key, or raises JobError with what is in the way; `told` says what of it breaks a rule;
    `reading` what its values come to, in words, as they are typed. `climbs` is the pick that goes to the next floor up
    where it is made on the first one's. `metric` are usual values in metric jobs."""

    name: str
    words: str
    params: type
    picks: tuple[str, ...]
    build: Callable[[Given], dict[str, Piece]]
    help: str
    open: bool = False
    climbs: int | None = None
    told: Callable[[Given], Iterable[Said]] = lambda _: ()
    reading: Callable[[Given], str] = lambda _: ""
    metric: dict[str, Any] = {}


class Parts:
    """The parts of a composite being put together; `made` has them by key. What has a part of its own for each of
    several places, such as a flight, makes it `under` a name: its keys then begin so."""

    def __init__(self, given: Given, name: str = "", made: dict[str, Piece] | None = None) -> None:
        self.given = given
        self.made: dict[str, Piece] = {} if made is None else made
        self._name = name

    def under(self, name: str) -> Parts:
        return Parts(self.given, self._name + name, self.made)

    def id(self, key: str) -> str:
        return part_id(self.given.record.id, self._name + key)

    def body(self, key: str | None) -> tuple[Placement, Section, float] | None:
        """A member by its key here, or by its id where an anchor hangs on it: its section's frame and section, and how
        long it is between its work points; None for none."""
        found = self.made.get(self._name + (key or "")) or self.made.get(key or "") or self.given.hosts.get(key or "")
        if not isinstance(found, Member):
            return None
        s = section(found.section)
        return member_frame(found, s), s, float(np.linalg.norm(np.subtract(found.end, found.start)))

    def name_of(self, key: str) -> str:
        """A part's key as parts under other names call it."""
        return self._name + key

    def piece(self, key: str) -> Piece:
        """A part that was put down, by its key."""
        return self.made[self._name + key]

    def _keep(self, key: str, piece: Piece) -> str:
        whole = self._name + key
        if whole in self.made:
            raise ValueError(f"two parts of this {self.given.record.kind} are called {whole}")
        self.made[whole] = plain(piece)
        return key

    def member(
        self,
        key: str,
        role: Role,
        shape: str,
        start: Sequence[float] | Vec,
        end: Sequence[float] | Vec,
        up: Vec | None = None,
        line: Line = Line.CENTRE,
        rise: float = 0.0,
        aside: float = 0.0,
        backs: tuple[float, float] = (0.0, 0.0),
        grade: str = "",
        bow: Point = (0.0, 0.0, 0.0),
    ) -> str:
        """A straight member, or one rolled to an arc whose middle stands out by `bow`; `up` is where the top of its
        section looks. Its key."""
        a, b = tidied(start), tidied(end)
        made = Member(id=self.id(key), role=role, section=shape, start=a, end=b, line=line, rise=rise, aside=aside,
            left_back=backs[0], right_back=backs[1], grade=grade, bow=bow, maker=self.given.record.id)  # fmt: skip
        if up is not None:
            made = msgspec.structs.replace(made, roll=round(towards(made, np.asarray(up)), 6) % 360.0)
        return self._keep(key, made)

    def cut(self, key: str, left: str, right: str) -> None:
        """How the ends of a member are cut that no joint cuts."""
        piece = self.piece(key)
        assert isinstance(piece, Member)
        self.made[self._name + key] = msgspec.structs.replace(piece, left_cut=left, right_cut=right)

    def climbing(
        self, key: str, role: Role, shape: str, start: Point, rise: float, climb: Climb, roll: float = 0.0
    ) -> str:
        """A member that climbs about an axis from a point on. Its key."""
        end = tidied(climb.at(start, 1.0, rise))
        return self._keep(key, Member(id=self.id(key), role=role, section=shape, start=tidied(start), end=end,
            line=Line.CENTRE, roll=roll, climb=climb, maker=self.given.record.id))  # fmt: skip

    def plate(
        self,
        key: str,
        role: Role,
        place: Placement,
        blank: Blank,
        thickness: float,
        side: str = SIDES[0],
        grade: str = "",
    ) -> str:
        """A plate in x and z of a frame. Its key."""
        made = plate_in(place, blank, thickness, self.given.units, side)
        return self._keep(key, msgspec.structs.replace(made, id=self.id(key), role=role, grade=grade,
            maker=self.given.record.id))  # fmt: skip

    def join(
        self, key: str, kind: str, member: str, end: End, support: str | None, others: Iterable[str] = (), **params: Any
    ) -> str:
        """A connection between parts of it, by their keys, or of one to a member with an id of its own. Its key."""
        return self._keep(key, Connection(id=self.id(key), kind=kind, member=self._named(member), end=end,
            support=None if support is None else self._named(support), others=tuple(map(self._named, others)),
            params=params, maker=self.given.record.id))  # fmt: skip

    def attach(self, key: str, kind: str, member: str, mate: str | None = None, **params: Any) -> str:
        """An attachment on a part of it, or between it and another. Its key."""
        return self._keep(key, Attachment(id=self.id(key), kind=kind, member=self._named(member),
            mate=None if mate is None else self._named(mate), params=params, maker=self.given.record.id))  # fmt: skip

    def _named(self, key: str) -> str:
        found = self.made.get(self._name + key) or self.made.get(key)
        return key if found is None else found.id


def part_id(composite: str, key: str) -> str:
    """The id of a part of a composite."""
    return derived_id("composite", composite, key)


def refuse(words: str) -> JobError:
    return JobError(words)
