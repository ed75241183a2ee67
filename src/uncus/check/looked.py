"""A job as its rules look at it: records, steel, marks, and what several of them ask, worked out once."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, cached_property, partial
from typing import Any, NamedTuple, TypeVar

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.caches import Beside
from uncus.check.bolting import reaches, site_bolts
from uncus.check.found import Found
from uncus.check.place import in_words
from uncus.check.room import Room
from uncus.check.since import changed, followed
from uncus.check.ties import Ties
from uncus.connect.clash import Boxes
from uncus.frame.grids import runs
from uncus.frame.placement import point_of
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import (
    AnyRecord,
    Attachment,
    CheckRules,
    Composite,
    Connection,
    Crane,
    End,
    Grid,
    Hold,
    LayDown,
    Level,
    Mark,
    Member,
    PieceProgress,
    Point,
    Record,
    Reference,
    Role,
    Taken,
    Topic,
)
from uncus.job.references import IFC
from uncus.lens.criteria import chosen, lens_named
from uncus.mark.content import assembly_content
from uncus.mark.marking import Marks
from uncus.reference.laying import model_for
from uncus.reference.model import Model
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.joint import Fasteners, Finding
from uncus.units import length_in_words

Array = NDArray[np.float64]
R = TypeVar("R", bound=Record)


class Kept(msgspec.Struct, frozen=True):
    """What a rule found: with which values and of what else, and what of each thing that it found something of."""

    key: object
    found: dict[str, tuple[Found, ...]]


class GridLines(NamedTuple):
    """The lines of the grid in plan (n, 2): a point of each, and the way across it."""

    labels: list[str]
    origin: Array
    across: Array


class Likeness(NamedTuple):
    """A piece's mark, its section, length and the marks of its parts, and where it is."""

    mark: str
    of: tuple[object, ...]
    at: Point | None


class Looked:
    """One look at a job: taken at once, and read by rules afterwards, in another thread too, whatever is edited in the
    meantime. Only what changed since the look `before` is worked out, and looked at, again."""

    def __init__(self, job: Job, shop: Shop, marks: Marks | None = None, before: Looked | None = None) -> None:
        self.project = job.project
        self.records: dict[str, AnyRecord] = dict(job.records)
        self.marks = marks or Marks(job, shop.carried)
        self.assemblies: dict[str, Assembly] = dict(shop.assemblies)
        self.shipped: dict[str, Assembly] = dict(shop.shipped)
        self.connections = dict(shop.connections)
        self.bodies = dict(shop.bodies)
        self.designs = shop.designs
        self.carried = dict(shop.carried)
        self.lenses = _lenses(job, shop)
        self.clashes, self._unwelded = shop.clashes, shop.unwelded
        few = (Grid, Level, Hold, Topic, Composite, Crane, LayDown)
        self._few: dict[type, tuple[Any, ...]] = {kind: tuple(job.all(kind)) for kind in few}
        self.is_marked = next(iter(job.all(Mark)), None) is not None
        self._aside = [f for found in shop.findings.values() for f in found]
        self.before: Looked | None = before
        self._then = before or _nothing()
        self.kept: dict[str, Kept] = {}
        self._references = tuple(r for r in job.all(Reference) if r.shown and r.clashes and r.format == IFC)
        self._path = job.home
        self.progress = {p.piece: p for p in job.all(PieceProgress)}
        self._boxes: Beside[str, Array] = before._boxes if before else Beside()  # of the pieces of each member

    # -- others' models ------------------------------------------------------------------------------------------
    @property
    def others_state(self) -> object:
        """What of others' models is looked at, and as what steel it stands here."""
        return self._references, tuple(sorted(self.made_into_members))

    @cached_property
    def others(self) -> list[tuple[Reference, Model]]:
        """Models of others that steel is held against, as far as they are at hand."""
        found = ((r, model_for(r, self._path)) for r in self._references)
        return [(r, model) for r, model in found if model is not None]

    @cached_property
    def made_into_members(self) -> dict[tuple[str, str], str]:
        """Products of references that are members by now, and the assemblies those products were part of."""
        taken = [t for t in self.records.values() if isinstance(t, Taken) and t.member in self.records]
        found = {(t.reference, t.product): t.member for t in taken}
        for r, model in self.others if taken else ():
            for p in model.products:
                if p.owner and (member := found.get((r.id, p.guid))):
                    found[r.id, p.owner] = member
        return found

    def settle(self) -> None:
        """Let go of the look before, once all that is asked of it is known."""
        _ = self.bolting  # what the next look asks of this one
        for id in self.edits.assemblies - self.assemblies.keys():
            self._boxes.forget(id)
        self.before, self._then = None, _nothing()
        del self.edits  # what is asked for later is worked out of everything

    def let(self, lens: str) -> frozenset[str]:
        """The members that a lens which a rule asks for lets through. Raises JobError where there is none such."""
        found = self.lenses.get(lens, frozenset())
        if isinstance(found, str):
            raise JobError(found)
        return found

    # -- records ------------------------------------------------------------------------------------------------
    def all(self, kind: type[R]) -> tuple[R, ...]:
        """Every record of a kind of which there are few."""
        return self._few[kind]

    def get(self, id: str | None, kind: type[R]) -> R | None:
        record = self.records.get(id or "")
        return record if isinstance(record, kind) else None

    def member(self, id: str) -> Member | None:
        """A member that can be made."""
        return self.get(id, Member) if id in self.assemblies else None

    def said(self, mm: float) -> str:
        return length_in_words(mm, self.project.units)

    def place(self, at: Point | None) -> str:
        """Where a finding is, in words."""
        return in_words(self.grid, self.levels, at, self.project.units) if at is not None else ""

    def members_of(self, found: Found) -> tuple[str, ...]:
        """The members a finding is about: themselves, or those that the joint or attachment is at."""
        own: dict[str, None] = {}
        for id in found.records:
            record = self.records.get(id)
            if isinstance(record, Member):
                own[id] = None
            else:
                member = getattr(record, "member", None) or getattr(record, "piece", None)
                own |= dict.fromkeys((member,) if member else ())
        return tuple(own)

    @cached_property
    def grid(self) -> Grid | None:
        return next(iter(self.all(Grid)), None)

    @cached_property
    def levels(self) -> tuple[Level, ...]:
        return tuple(sorted(self.all(Level), key=lambda level: level.elevation))

    @cached_property
    def grid_lines(self) -> GridLines:
        found = runs(self.grid) if self.grid else ()
        along = np.array([run.along for run in found]).reshape(-1, 2)
        origin = np.array([run.origin for run in found]).reshape(-1, 2)
        return GridLines([run.label for run in found], origin, np.column_stack([along[:, 1], -along[:, 0]]))

    # -- joints -------------------------------------------------------------------------------------------------
    @cached_property
    def _at(self) -> dict[str, frozenset[str]]:
        """The joints that each member takes part in, and what holds two members by attachment."""
        old, was = self._then.records, self._then._at
        edits = changed(old, self.records)
        parts: dict[str, set[str]] = {}
        for id in edits:
            for record in (old.get(id), self.records.get(id)):
                for member in _joined_by(record):
                    parts.setdefault(member, set(was.get(member, ()))).discard(id)
        for id in edits:
            record = self.records.get(id)
            for member in _joined_by(record):
                parts[member].add(id)
        found = {**was, **{member: frozenset(ids) for member, ids in parts.items()}}
        for member, ids in parts.items():
            if not ids:
                del found[member]
        return found

    @property
    def is_joined(self) -> bool:
        """Whether there is any joint yet."""
        return bool(self._at)

    def joints_at(self, member: str) -> list[Connection]:
        """The joints a member takes part in, its own or another's."""
        return [c for id in sorted(self._at.get(member, ())) if (c := self.get(id, Connection)) is not None]

    def middle(self, id: str) -> Point | None:
        """Where a joint is: its member's end; else the middle of a member, or of the one that an attachment is on."""
        record = self.records.get(id)
        member = record if isinstance(record, Member) else self.get(getattr(record, "member", ""), Member)
        if member is None:
            return None
        if isinstance(record, Connection):
            return member.start if record.end is End.LEFT else member.end
        return point_of(np.add(member.start, member.end) / 2)

    @cached_property
    def designed(self) -> bool:
        """Whether the strength of all joints is worked out."""
        return all(id in self.designs for id in self.connections if isinstance(self.records.get(id), Connection))

    @cached_property
    def site_bolts(self) -> dict[str, tuple[Fasteners, ...]]:
        """The bolts of each joint that are put in on site."""
        return followed(self.edits.made, self._then.site_bolts, self.connections, site_bolts)

    @cached_property
    def bolting(self) -> Room:
        """The room that the site bolts of each joint ask for."""
        edits = changed(self._then.site_bolts, self.site_bolts)
        return Room(self.site_bolts, reaches, self.before.bolting if self.before else None, edits)

    @cached_property
    def made(self) -> list[Finding]:
        """What kinds, welds and pieces say of themselves."""
        of_joints = (f for found in self._said_of_joints.values() for f in found)
        of_pieces = (f for found in self._said_of_pieces.values() for f in found)
        return [*of_joints, *self._unwelded, *of_pieces, *self._aside]

    @cached_property
    def _said_of_joints(self) -> dict[str, tuple[Finding, ...]]:
        was = self._then._said_of_joints
        return followed(self.edits.made, was, self.connections, lambda _, made: made.findings or None)

    @cached_property
    def _said_of_pieces(self) -> dict[str, tuple[Finding, ...]]:
        return followed(self.edits.assemblies, self._then._said_of_pieces, self.assemblies,
            lambda id, a: tuple(f for f in a.findings if f.about == id) or None)  # fmt: skip

    # -- steel --------------------------------------------------------------------------------------------------
    @cached_property
    def ties(self) -> Ties:
        """What holds what."""
        return Ties(self.assemblies, self.connections, self.project.units, self.before.ties if self.before else None)

    @cached_property
    def room(self) -> Room:
        """The boxes about members with all that is fixed to them."""
        return Room(self.assemblies, self._about, self.before.room if self.before else None, self.edits.assemblies)

    def changed_boxes(self) -> list[Array]:
        """The boxes about steel that changed, as it is and as it was."""
        rooms = [self.room, *([self.before.room] if self.before else [])]
        return [box for id in self.edits.assemblies for room in rooms if (box := room.box(id)) is not None]

    def _about(self, assemblies: Sequence[Assembly]) -> Array:
        boxes = Boxes.of((p.part, p.placement) for a in assemblies for p in a.pieces)
        own = np.stack([boxes.low, boxes.high], axis=1)
        first = np.cumsum([0, *(len(a.pieces) for a in assemblies)]).tolist()
        for a, start, end in zip(assemblies, first, first[1:], strict=False):
            self._boxes.of(a.id, a, partial(own.__getitem__, slice(start, end)))
        low, high = np.minimum.reduceat(own[:, 0], first[:-1]), np.maximum.reduceat(own[:, 1], first[:-1])
        return np.stack([low, high], axis=1)

    @cached_property
    def lines(self) -> Room:
        """The middles of members' work lines."""
        return Room(self.assemblies, _middles, self.before.lines if self.before else None, self.edits.assemblies)

    def _boxes_of(self, assembly: Assembly) -> Array:
        return self._boxes.of(assembly.id, assembly, partial(_boxes, assembly))

    def pieces_in(self, low: Array, high: Array) -> list[Piece]:
        """Pieces whose boxes meet a box."""
        ids = self.room.meeting(low, high)
        if not ids:
            return []
        near = [p for id in ids for p in self.assemblies[id].pieces]
        boxes = np.concatenate([self._boxes_of(self.assemblies[id]) for id in ids])
        meet = ((boxes[:, 0] < high) & (boxes[:, 1] > low)).all(axis=1)
        return [near[n] for n in np.flatnonzero(meet).tolist()]

    def members_near(self, id: str, within: float) -> list[str]:
        """Members whose boxes come as near to a member's as that, itself among them."""
        box = self.room.box(id)
        return [] if box is None else self.room.meeting(box[0] - within, box[1] + within)

    def pieces_near(self, one: str, other: str, within: float) -> list[tuple[Piece, Piece]]:
        """Pairs of two members' pieces whose boxes come as near to each other as that."""
        a, b = self.assemblies[one], self.assemblies[other]
        mine, theirs = self._boxes_of(a), self._boxes_of(b)
        meet = (mine[:, None, 0] - within < theirs[:, 1]) & (mine[:, None, 1] + within > theirs[:, 0])
        return [(a.pieces[i], b.pieces[j]) for i, j in np.argwhere(meet.all(axis=2)).tolist()]

    def between(self, one: str, other: str) -> Point:
        """The middle of what two members' boxes have in common, or of what lies between them."""
        a, b = (self.room.boxes[self.room.rows[id]] for id in (one, other))
        return point_of((np.maximum(a[0], b[0]) + np.minimum(a[1], b[1])) / 2)

    def is_laid(self, id: str) -> bool:
        """Whether a piece only lies on what is under it, as grating does."""
        found = self.assemblies.get(id)
        return found is not None and found.main.part.is_grating and found.member.role is Role.PANEL

    def joined_to(self, one: str, other: str) -> bool:
        """Whether a joint is at both of two members, or they leave the shop as one piece."""
        here, there = self._at.get(one, frozenset()), self._at.get(other, frozenset())
        return not here.isdisjoint(there) or self.carried.get(one, one) == self.carried.get(other, other)

    @cached_property
    def likeness(self) -> dict[str, Likeness]:
        """Of each piece whose mark is of what it is now what it has in common with others of the same parts."""
        changed_ = self.edits.shipped | self.edits.marked
        return followed(changed_, self._then.likeness, self.shipped, lambda id, a: self._like(a))

    def _like(self, a: Assembly) -> Likeness | None:
        section, content = a.main.part.section, self.marks.content_of(a.id)
        parts = sorted(self.marks.of_part(p.id) for p in a.pieces[1:])
        if section is None or not parts or not content or content != assembly_content(a):
            return None
        of = section.name, round(a.main.part.length), *parts
        return Likeness(self.marks.of_assembly(a.id), of, self.middle(a.id))

    # -- what changed -------------------------------------------------------------------------------------------
    @cached_property
    def edits(self) -> Edits:
        """What is other than in the look before, and what that touches; everything, where there was none."""
        return Edits(self)


class Edits:
    """Ids of what changed between a look and the one before, and of what that touches."""

    def __init__(self, looked: Looked) -> None:
        then = looked._then
        self.assemblies = changed(then.assemblies, looked.assemblies)
        self.shipped = changed(then.shipped, looked.shipped)
        records = changed(then.records, looked.records)
        pairs = {id: (then.records.get(id), looked.records.get(id)) for id in records}
        self.marked = {r.piece for pair in pairs.values() for r in pair if isinstance(r, Mark)}
        own = {id for id, pair in pairs.items() if any(isinstance(r, Member) for r in pair)} | self.assemblies
        self.made = changed(then.connections, looked.connections)
        joints = self.made | changed(then.designs, looked.designs)
        joints |= {id for id, pair in pairs.items() if any(isinstance(r, Connection) for r in pair)}
        for id in joints:
            for look in (looked, then):
                record = look.get(id, Connection)
                own |= set(record.members) if record else set()
        near = {c.id: c for m in own for c in looked.joints_at(m)}
        self.joints = joints | near.keys()
        self.members = own | {m for c in near.values() for m in c.members}


def _lenses(job: Job, shop: Shop) -> dict[str, frozenset[str] | str]:
    """Of the lenses that rules ask for what each lets through, or why there is none such."""
    rules = job.get("check rules", CheckRules)
    names = {own.get(field, "") for own in (rules.values if rules else {}).values() for field in ("lens", "other_lens")}
    found: dict[str, frozenset[str] | str] = {}
    for name in sorted(names - {""}):
        try:
            found[name] = frozenset(chosen(lens_named(job, name).rule, job, shop))
        except JobError as error:
            found[name] = str(error)
    return found


@cache
def _nothing() -> Looked:
    """The look before the first: at nothing."""
    found = object.__new__(Looked)
    names = "records", "assemblies", "shipped", "connections", "designs", "kept"
    known = "site_bolts", "_at", "likeness", "_said_of_joints", "_said_of_pieces"
    found.__dict__.update({name: {} for name in (*names, *known)})
    return found


def _joined_by(record: AnyRecord | None) -> tuple[str, ...]:
    """The members that a joint, or an attachment between two, holds together."""
    joins = isinstance(record, Connection) or (isinstance(record, Attachment) and record.mate is not None)
    return record.members if joins and isinstance(record, (Connection, Attachment)) else ()


def _boxes(assembly: Assembly) -> Array:
    boxes = Boxes.of((p.part, p.placement) for p in assembly.pieces)
    return np.stack([boxes.low, boxes.high], axis=1)


def _middles(assemblies: Sequence[Assembly]) -> Array:
    middles = np.array([(a.member.start, a.member.end) for a in assemblies]).mean(axis=1)
    return np.stack([middles, middles], axis=1)
