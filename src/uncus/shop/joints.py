"""What joints and attachments bring to a job's steel: those that are alike made once, and brought to where each is.

Whatever goes wrong in one becomes a finding on it, never the end of the rest."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from itertools import product
from typing import Protocol

import msgspec
import numpy as np

from uncus import faults
from uncus.caches import Cache
from uncus.connect.alike import CUT, WELDED, Home, fitting_home, joint_home
from uncus.connect.attachments.kind import Fitting
from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.buildable.drop_in import Entry, entry
from uncus.connect.buildable.inspect import inspected
from uncus.connect.clash import bounds
from uncus.connect.kind import Joint
from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import Design, design
from uncus.connect.stretch import stretch
from uncus.frame.placement import point_of
from uncus.job.errors import JobError
from uncus.job.records import Point
from uncus.shop.rolling import rolled_up, straightened
from uncus.steel.joint import Contribution, Finding


class Made(msgspec.Struct, frozen=True, gc=False):
    """What a joint brings, at home, and how its member gets in there, where it is one to be entered."""

    brings: Contribution
    entry: Entry | None = None
    middle: Point = (0.0, 0.0, 0.0)
    reach: float = 0.0


class Joined(msgspec.Struct, frozen=True, gc=False):
    """What a joint brings where it is, and by what key others are alike; all of it lies within `reach` of `middle`."""

    key: bytes
    brings: Contribution
    entry: Entry | None
    middle: Point
    reach: float

    def near(self, other: Joined) -> bool:
        """Whether something of one can be in the place of something of the other."""
        return math.dist(self.middle, other.middle) < self.reach + other.reach


_BESIDE = 100.0  # mm: bolts this near to one another are said to stand too near
_JOINTS: Cache[bytes, Made] = Cache(8192)
_DESIGNS: Cache[tuple[bytes, bytes], Design] = Cache(8192)
_REACH = 4.0  # times the larger of two sections, along which an end may lie on its support
_FITTINGS: Cache[bytes, Contribution] = Cache(8192)


def forget() -> None:
    """Nothing is known any more: for those who change how joints are made while the program runs."""
    for known in (_JOINTS, _FITTINGS, _DESIGNS):
        known.clear()


class Store(Protocol):
    """Where joints are kept that were made before, by their keys."""

    def get(self, keys: Iterable[bytes]) -> Mapping[bytes, Made]: ...

    def keep(self, made: Mapping[bytes, Made]) -> None: ...


def joined_all(homes: Sequence[Home[Joint]], kept: Store | None = None) -> Iterator[Joined]:
    """What each of some joints does; those that are not known are looked for among what is kept, or are made and
    kept."""
    unknown = unknown_of(homes, kept)
    for home in homes:
        if home.key in unknown:
            take({home.key: made_at_home(unknown.pop(home.key))}, kept)
        yield joined(home)


def unknown_of(homes: Iterable[Home[Joint]], kept: Store | None = None) -> dict[bytes, Home[Joint]]:
    """Those of some joints at home that are to be made, one of each key."""
    unknown = {home.key: home for home in homes if _JOINTS.get(home.key) is None}
    if kept is not None and unknown:
        found = kept.get(unknown)
        take(found)
        unknown = {key: home for key, home in unknown.items() if key not in found}
    return unknown


def take(made: Mapping[bytes, Made], kept: Store | None = None) -> None:
    """Know joints that were made elsewhere, or just now."""
    for key, one in made.items():
        _JOINTS.keep(key, one)
    if kept is not None:
        kept.keep(made)


def joined(home: Home[Joint]) -> Joined:
    """What one joint does, where it is."""
    made = _at_home(home)
    middle = point_of(home.frame.to_model(made.middle))
    return Joined(home.key, home.back(made.brings), made.entry, middle, made.reach)


def designed(joint: Joint, own: Joined, sharing: tuple[Joint, Joined] | None) -> Design | None:
    """A joint's strength, worked out once for all that are alike; None for what carries nothing. `sharing` is a joint
    whose bolts through the support are also this one's."""
    kind = KINDS.get(joint.record.kind)
    if kind is not None and not kind.carries:
        return None

    def made() -> Design:
        home = home_of(joint)
        return design(home.placed(), _at_home(home).brings, kind, sharing[0] if sharing else None)

    return _DESIGNS.of((own.key, sharing[1].key if sharing else b""), made)


def _at_home(home: Home[Joint]) -> Made:
    return _JOINTS.of(home.key, lambda: made_at_home(home))


def made_at_home(home: Home[Joint]) -> Made:
    """What a joint brings, made anew."""
    return made_of(home.placed())


def _extent(made: Contribution) -> tuple[Point, float]:
    """A ball about all plates and bolts."""
    spots = [np.array(g.points) + side * g.grip * np.array(g.axis) for g in made.fasteners for side in (-1, 1)]
    spots += [p.placement.to_model(list(product(*zip(*bounds(p.part), strict=True)))) for p in made.parts]
    if not spots:
        return (0.0, 0.0, 0.0), 0.0
    points = np.concatenate(spots)
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    return point_of(middle), float(np.linalg.norm(points - middle, axis=1).max()) + _BESIDE


def contribution(joint: Joint) -> Contribution:
    """What one connection does, and no more of it."""
    return joined(home_of(joint)).brings


def home_of(joint: Joint) -> Home[Joint]:
    """A joint taken home with no more of its support than its kind asks of: alike wherever along that it is."""
    near = _beside(joint)
    if near.mate is not None:
        near = msgspec.structs.replace(near, mate=_beside(near.mate))
    return joint_home(near, CUT if near.support is not joint.support else None)


def _beside(joint: Joint) -> Joint:
    kind, support = KINDS.get(joint.record.kind), joint.support
    if kind is None or not kind.beside or support is None or support.arc is not None or joint.others:
        return joint
    own, end = joint.member.section, joint.member.end(joint.record.end)
    reach = _REACH * max(own.d, own.b, support.section.d, support.section.b) * support.frame.x
    return msgspec.structs.replace(joint, support=stretch(support, np.array([end - reach, end, end + reach])))


def attached(fitting: Fitting) -> Contribution:
    """What one attachment does."""
    near = _nearby(fitting)
    home = fitting_home(near, WELDED if near is not fitting else None)
    return home.back(_FITTINGS.of(home.key, lambda: _fixed(home.placed())))


def _nearby(fitting: Fitting) -> Fitting:
    """A fitting with no more of the other member than its kind asks of: alike wherever along that it is."""
    kind = ATTACHMENTS.get(fitting.record.kind)
    if fitting.mate is None or kind is None or kind.beside is None:
        return fitting
    return msgspec.structs.replace(fitting, mate=stretch(fitting.mate, kind.beside(fitting.member)))


def made_of(joint: Joint) -> Made:
    """What a joint brings, made where it is."""
    kind = KINDS.get(joint.record.kind)
    if kind is None:
        text = f"This Uncus knows no connection “{joint.record.kind}”; choose another kind for it."
        return Made(Contribution(findings=(Finding(joint.record.id, text),)))
    try:
        brings = inspected(joint, kind.build(joint))
        return Made(brings, entry(joint, brings), *_extent(brings))
    except Exception as error:
        text = f"The {kind.name} at the {joint.member.words} could not be made: {why(error)}"
        return Made(Contribution(findings=(Finding(joint.record.id, text),)))


def _fixed(fitting: Fitting) -> Contribution:
    about, body = fitting.record.id, fitting.member
    kind = ATTACHMENTS.get(fitting.record.kind)
    if kind is None:
        text = f"This Uncus knows no attachment “{fitting.record.kind}”; choose another kind for it."
        return Contribution(findings=(Finding(about, text),))
    if body.arc is not None and kind.places and not kind.rolls:
        return Contribution(findings=(Finding(about,
            f"{kind.words} do not go on the {body.words}, which is rolled to an arc; take them off it."),))  # fmt: skip
    if not kind.fits(body):
        return Contribution(findings=(Finding(about,
            f"{kind.words} do not go on a {body.words}; they come back when it can take them."),))  # fmt: skip
    try:
        if body.arc is None or not kind.places:
            return inspected(fitting, kind.build(fitting))
        straight = msgspec.structs.replace(fitting, member=straightened(body))
        return rolled_up(body, inspected(straight, kind.build(straight)), about, fitting.units)
    except Exception as error:
        return Contribution(
            findings=(Finding(about, f"The {kind.name} of the {body.words} could not be made: {why(error)}"),)
        )


def why(error: Exception) -> str:
    """What a kind says of what it cannot do; of a fault of ours, where it is."""
    if isinstance(error, (JobError, LookupError, ValueError, ZeroDivisionError)):
        return f"{str(error).rstrip('.')}."
    return f"a fault of the program at {faults.place(error)}; choose other values and tell its makers."
