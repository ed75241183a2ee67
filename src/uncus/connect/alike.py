"""Joints that are alike are made once: each is taken home, to where its member's end is the origin and no record has
a name of its own, made there and brought back.

What is made at home hangs on nothing but the key, since all that is given to be made is what the key says. The turn
home is about the plumb line, so that what stands upright does so there."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import Any, Generic, NamedTuple, TypeVar

import msgspec
import numpy as np

from uncus.catalog.sections import section
from uncus.connect.attachments.kind import Fitting
from uncus.connect.kind import Body, Joint
from uncus.frame.arcs import Arc
from uncus.frame.helices import Helix
from uncus.frame.placement import OFF_TIES, Placement, Vec, settled_one
from uncus.job.records import Attachment, Climb, Connection, Member, ShopRules
from uncus.steel.joint import Contribution

P = TypeVar("P", Joint, Fitting)
_LENGTH = 4, 2e-6, 8  # of a mm: the places of a figure that was meant, how near one is to that, the places kept
_TURN = 6, 1e-8, 12  # the same of a direction's parts
_PLUMB = 0.1  # least level part of a direction that says which way something runs
_encode = msgspec.msgpack.Encoder(order="deterministic").encode


class Home(msgspec.Struct, Generic[P], frozen=True):
    """Where and as whom a joint or fitting is made: its `key`, `placed` which gives it as it is there, made of what
    the key says, and how what is made comes back."""

    key: bytes
    placed: Callable[[], P]
    frame: Placement
    names: dict[str, str]

    def back(self, made: Contribution) -> Contribution:
        """What was made at home, where it belongs and by the names of its records."""
        return made.moved(self.frame, self.names)


class _Names:
    """Names instead of ids, in order of meeting them."""

    def __init__(self) -> None:
        self.given: dict[str, str] = {}

    def of(self, id: str) -> str:
        return self.given.setdefault(id, f"#{len(self.given)}")

    def known(self, id: str | None) -> str:
        return self.given.get(id or "", "")

    @property
    def back(self) -> dict[str, str]:
        return {name: id for id, name in self.given.items()}


def _level(body: Body, at: Vec) -> Placement:
    """A frame at a point whose z is up and whose x runs level along a member; of an upright one, across it."""
    run = body.frame.x if math.hypot(*body.frame.x[:2].tolist()) > _PLUMB else body.frame.y
    x, y = run[:2].tolist()
    long = math.hypot(x, y)
    c, s = settled_one(x / long, 14), settled_one(y / long, 14)
    return Placement(at, ((c, -s, 0.0), (s, c, 0.0), (0.0, 0.0, 1.0)))


class Roughly(NamedTuple):
    """Places kept of lengths in mm and of a direction's parts."""

    length: int
    turn: int


WELDED = Roughly(4, 6)  # what a fillet along an edge asks of how the two lie
CUT = Roughly(5, 8)  # and an end that is cut to what it stands on


class _Stood(NamedTuple):
    """Members as they stand at home: natures, origins (n, 3), axes (n, 3, 3) and, of those rolled to an arc or that
    climb, that."""

    natures: list[Member]
    origins: Vec
    axes: Vec
    arcs: list[Arc | Helix | None]

    @classmethod
    def of(cls, home: Placement, bodies: Sequence[Body]) -> _Stood:
        origins, axes = _at(home, [b.frame for b in bodies])
        return cls([nature(b.record) for b in bodies], origins, axes, [_arc(home, b.arc) for b in bodies])

    @property
    def said(self) -> tuple[Any, ...]:
        arcs = [None if a is None else _told(a) for a in self.arcs]
        return [_said(n) for n in self.natures], self.origins.tobytes(), self.axes.tobytes(), arcs

    def roughly(self, to: Roughly) -> _Stood:
        """The same with fewer places, for what asks no more: as alike as parts of one thing come out that were each put
        down where they belong."""
        arcs = [None if a is None else _rough_arc(a, to) for a in self.arcs]
        natures = [_rough_nature(n, to) for n in self.natures]
        return _Stood(natures, self.origins.round(to.length), self.axes.round(to.turn), arcs)

    def bodies(self, names: Sequence[str]) -> list[Body]:
        found = []
        for n, (own, name) in enumerate(zip(self.natures, names, strict=True)):
            record = msgspec.structs.replace(own, id=name)
            found.append(Body(record, section(own.section), Placement(self.origins[n], self.axes[n]), self.arcs[n]))
        return found


_FIGURES = np.array([10.0 ** _LENGTH[0]] * 3 + [10.0 ** _TURN[0]] * 9)
_NEAR = np.array([_LENGTH[1]] * 3 + [_TURN[1]] * 9)
_KEPT = np.array([10.0 ** _LENGTH[2]] * 3 + [10.0 ** _TURN[2]] * 9)
_OFF = OFF_TIES / _KEPT


def _plain(values: Vec) -> Vec:
    """Frames (n, 12), each its origin and axes, free of what a place and a turn in the building left in them: numbers
    that are all but round figures are made so, that a regular frame is regular wherever it stands, and the others
    hardly changed. As `_plain_one`."""
    meant = np.rint(values * _FIGURES) / _FIGURES
    kept = np.rint((values + _OFF) * _KEPT) / _KEPT
    return np.asarray(np.where(np.abs(values - meant) < _NEAR, meant, kept) + 0.0)


def _plain_one(value: float, of: tuple[int, float, int] = _LENGTH) -> float:
    figure, near, kept = of
    meant = round(value, figure)
    return meant + 0.0 if abs(value - meant) < near else settled_one(value, kept)


def _at(home: Placement, frames: Sequence[Placement]) -> tuple[Vec, Vec]:
    found = np.empty((len(frames), 12))
    found[:, :3] = (np.array([f.origin for f in frames]) - home.origin) @ home.axes
    found[:, 3:] = (home.axes.T @ np.array([f.axes for f in frames])).reshape(-1, 9)
    found = _plain(found)
    return found[:, :3], found[:, 3:].reshape(-1, 3, 3)


def _arc(home: Placement, arc: Arc | Helix | None) -> Arc | Helix | None:
    if arc is None:
        return None
    origins, axes = _at(home, [arc.frame])
    frame, rise = Placement(origins[0], axes[0]), _plain_one(arc.rise)
    if isinstance(arc, Helix):
        radius, off = _plain_one(arc.radius), _plain_one(arc.off)
        return Helix(frame, radius, _plain_one(arc.turn, _TURN), rise, _plain_one(arc.roll, _TURN), off)
    out = _plain_one(arc.out[0], _TURN), _plain_one(arc.out[1], _TURN)
    return Arc(frame, _plain_one(arc.chord), out, rise)


def _told(arc: Arc | Helix) -> tuple[Any, ...]:
    """An arc or a helix as the key has it."""
    own = (arc.radius, arc.turn, arc.roll, arc.off) if isinstance(arc, Helix) else (arc.chord, arc.out)
    return arc.frame.origin.tobytes(), arc.frame.axes.tobytes(), arc.rise, *own


@lru_cache(16384)
def nature(member: Member) -> Member:
    """What of a member a joint may ask: not whose it is, where it stands, or what leaves its steel as it is."""
    long, backs = _plain_one(member.work_length), (member.left_back, member.right_back)
    left, right = (_plain_one(back) for back in backs)
    return Member(id="", role=member.role, section=member.section, start=(0.0, 0.0, 0.0), end=(long, 0.0, 0.0),
        grade=member.grade, left_back=left, right_back=right, double=member.double, turnbuckle=member.turnbuckle,
        seismic=member.seismic, blank=member.blank, climb=_nature_of_climb(member.climb),
        left_cut=member.left_cut, right_cut=member.right_cut)  # fmt: skip


def _nature_of_climb(climb: Climb | None) -> Climb | None:
    """How a member climbs, but for where."""
    return None if climb is None else msgspec.structs.replace(climb, x=0.0, y=0.0)


def _rough_arc(arc: Arc | Helix, to: Roughly) -> Arc | Helix:
    frame = Placement(arc.frame.origin.round(to.length) + 0.0, arc.frame.axes.round(to.turn) + 0.0)
    if isinstance(arc, Arc):
        return msgspec.structs.replace(arc, frame=frame)
    return msgspec.structs.replace(arc, frame=frame, radius=round(arc.radius, to.length),
        turn=round(arc.turn, to.turn + 1), rise=round(arc.rise, to.length))  # fmt: skip


@lru_cache(16384)
def _rough_nature(own: Member, to: Roughly) -> Member:
    climb = own.climb and msgspec.structs.replace(own.climb, turn=round(own.climb.turn, to.turn - 1))
    return msgspec.structs.replace(own, end=(round(own.end[0], to.length), 0.0, 0.0), climb=climb)


@lru_cache(16384)
def _said(own: Member | ShopRules) -> bytes:
    return _encode(own)


def joint_home(joint: Joint, roughly: Roughly | None = None) -> Home[Joint]:
    """A joint taken to its member's end; `roughly` where its kind asks no more."""
    body, names = joint.member, _Names()
    frame = _level(body, body.end(joint.record.end))
    both = (joint, joint.mate) if joint.mate else (joint,)
    stood = _Stood.of(frame, [b for j in both for b in j.bodies])
    stood = stood.roughly(roughly) if roughly else stood
    for j in both:
        for id in (j.record.id, *(b.id for b in j.bodies)):
            names.of(id)
    records = [_named(j.record, names) for j in both]
    under = sorted(joint.under, key=lambda c: _encode(_known(c, names)))
    below = [_named(c, names) for c in under]
    counts = [(j.support is not None, len(j.others), str(j.units), j.standard, _said(j.rules)) for j in both]

    def placed() -> Joint:
        bodies = stood.bodies([names.of(b.id) for j in both for b in j.bodies])
        mate = _made(joint.mate, records[1], bodies[len(joint.bodies) :], (), None) if joint.mate else None
        return _made(joint, records[0], bodies[: len(joint.bodies)], tuple(below), mate)

    return Home(_digest((records, below, counts, stood.said)), placed, frame, names.back)


def _made(
    of: Joint, record: Connection, bodies: list[Body], under: tuple[Connection, ...], mate: Joint | None
) -> Joint:
    support = bodies[1] if of.support is not None else None
    others = tuple(bodies[2 if support else 1 :])
    return Joint(record, bodies[0], support, of.rules, others, under, mate, of.units, of.standard)


def _named(record: Connection, names: _Names) -> Connection:
    support = names.of(record.support) if record.support else None
    others = tuple(names.of(id) for id in record.others)
    return Connection(id=names.of(record.id), kind=record.kind, member=names.of(record.member), end=record.end,
        support=support, others=others, params=record.params, loads=record.loads)  # fmt: skip


def _known(record: Connection, names: _Names) -> Connection:
    """A joint by what of its members is named by now, to put several in an order that no id decides."""
    others = tuple(names.known(id) for id in record.others)
    return Connection(id="", kind=record.kind, member=names.known(record.member), end=record.end,
        support=names.known(record.support), others=others, params=record.params, loads=record.loads)  # fmt: skip


def fitting_home(fitting: Fitting, roughly: Roughly | None = None) -> Home[Fitting]:
    """A fitting taken to the left end of its member; `roughly` where its kind asks no more."""
    names, record = _Names(), fitting.record
    frame = _level(fitting.member, fitting.member.along(0.0).origin)
    stood = _Stood.of(frame, fitting.bodies)
    stood = stood.roughly(roughly) if roughly else stood
    own = Attachment(id=names.of(record.id), kind=record.kind, member=names.of(record.member), params=record.params,
        mate=names.of(record.mate) if record.mate else None)  # fmt: skip
    left, right = (round(_plain_one(x), roughly.length if roughly else 8) for x in (fitting.left, fitting.right))
    item = None if fitting.item is None else (fitting.item.facts, hashlib.blake2b(fitting.item.body).digest())
    said = own, left, right, fitting.loads, fitting.joined, str(fitting.units), _said(fitting.rules), stood.said, item

    def placed() -> Fitting:
        bodies = stood.bodies([names.of(b.id) for b in fitting.bodies])
        mate = bodies[1] if fitting.mate else None
        return Fitting(
            own, bodies[0], fitting.rules, left, right, fitting.loads, fitting.joined, fitting.units, mate, fitting.item
        )

    return Home(_digest(said), placed, frame, names.back)


def _digest(said: Any) -> bytes:
    return hashlib.blake2b(_encode(said), digest_size=20).digest()
