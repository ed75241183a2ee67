"""Protected zones of seismic frames: stretches of beams and braces that will yield, where nothing is fixed or bored but
what the frame's own joints bring (AISC 341-22 D1.3).

Beams: as the prequalified joints say (AISC 358-22), from the face of the column; joints that are not among them, a
beam's depth, which the engineer is to confirm. Braces: the middle quarter of the clear length, and a brace's depth past
each end's joint (AISC 341-22 F2.5c).
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

import numpy as np

from uncus.connect.kind import Body, Joint
from uncus.connect.meeting import Meeting, meeting
from uncus.job.errors import JobError
from uncus.job.records import End, Role
from uncus.steel.features import Cope, Notch, Thread
from uncus.steel.joint import Contribution
from uncus.units import Units, length_in_words

_BESIDE = 1.0  # mm over a zone's edge that nobody sees
_MIDDLE = 0.25  # of a brace's clear length


class Zone(NamedTuple):
    """A stretch along a member's own x, and the joint it belongs to; "" for the middle of a brace."""

    low: float
    high: float
    joint: str = ""


Protects = Callable[[Body, Joint, Contribution], float]


class Brought(NamedTuple):
    """A joint or attachment at a member, what its kind is called and what it makes; the joint as it was built, where
    it is of the member's own end, and how far its kind `protects` a beam there."""

    id: str
    words: str
    made: Contribution
    joint: Joint | None = None
    protects: Protects | None = None


def zones(body: Body, ends: tuple[float, float], brought: Iterable[Brought]) -> tuple[Zone, ...]:
    """The protected zones of a member whose steel is between `ends`; none where it is no part of a seismic frame."""
    if not body.record.seismic or body.arc is not None:
        return ()
    found = list(_brace(body, ends, brought) if body.record.role is Role.BRACE else _beam(body, ends, brought))
    return tuple(Zone(max(z.low, ends[0]), min(z.high, ends[1]), z.joint) for z in sorted(found))


def _beam(body: Body, ends: tuple[float, float], brought: Iterable[Brought]) -> Iterator[Zone]:
    for b in brought:
        if b.joint is None or b.protects is None:
            continue
        long = b.protects(body, b.joint, b.made)
        at = _face(b.joint) if b.joint.member.id == body.id else None
        left = _at_left(body, b)
        at = ends[0 if left else 1] if at is None else at
        yield Zone(at, at + long, b.id) if left else Zone(at - long, at, b.id)


def _brace(body: Body, ends: tuple[float, float], brought: Iterable[Brought]) -> Iterator[Zone]:
    clear, middle = ends[1] - ends[0], sum(ends) / 2
    yield Zone(middle - clear * _MIDDLE / 2, middle + clear * _MIDDLE / 2)
    deep = max(body.section.d, body.section.b)
    for b in brought:
        if b.joint is None:
            continue
        held = [x for x in places(body, b.made) if ends[0] - _BESIDE < x < ends[1] + _BESIDE]
        if _at_left(body, b):
            yield Zone(ends[0], max(held, default=ends[0]) + deep, b.id)
        else:
            yield Zone(min(held, default=ends[1]) - deep, ends[1], b.id)


def _at_left(body: Body, b: Brought) -> bool:
    """Whether a joint is at a member's left end: by its record, or by where it holds a member that it serves as
    well."""
    assert b.joint is not None
    if b.joint.member.id == body.id:
        return b.joint.record.end is End.LEFT
    held = places(body, b.made)
    return not held or sum(held) / len(held) < body.length / 2


def _face(joint: Joint) -> float | None:
    """Where along a joint's member the face of its support is."""
    try:
        met = meeting(joint)
    except (JobError, LookupError, ValueError, ZeroDivisionError):
        return None
    return met.a if isinstance(met, Meeting) else None


def places(body: Body, made: Contribution) -> list[float]:
    """Where along a member what a joint or attachment makes bores it, cuts it or is welded or bolted to it."""
    pieces, points = {s.id for s in body.stock}, []
    for group in made.fasteners:
        if pieces.intersection(group.joins):
            points += list(group.points)
    for weld in made.welds:
        if pieces.intersection(weld.joins):
            points += list(weld.path)
    xs = body.frame.to_local(np.array(points))[:, 0].tolist() if points else []
    stock = {s.id: s for s in body.stock}
    for owner, f in made.features:
        if owner in stock and not isinstance(f, Cope | Thread):
            along = [x for x, _ in f.outline] if isinstance(f, Notch) else [f.x]
            xs += [float(body.frame.to_local(stock[owner].frame.to_model((x, 0.0, 0.0)))[0]) for x in along]
    return xs


def intruders(body: Body, found: Iterable[Zone], brought: Iterable[Brought], units: Units) -> Iterator[str]:
    """A sentence for each joint or attachment that bores a protected zone or is fixed there."""
    known = list(found)
    for b in brought:
        inside = [
            x
            for x in places(body, b.made)
            for zone in known
            if zone.joint != b.id and zone.low + _BESIDE < x < zone.high - _BESIDE
        ]
        if inside:
            x = min(inside)
            end, away = ("left", x) if x < body.length / 2 else ("right", body.length - x)
            where = f"{length_in_words(away, units)} from its {end} work point"
            yield (
                f"{b.words} in a protected zone of the {body.words}, {where}: nothing "
                f"may be bored, welded or bolted there; move it, or take the {body.record.role} out of the seismic "
                f"frame."
            )


def beam_depth(body: Body, joint: Joint, made: Contribution) -> float:
    """A depth of the beam (AISC 358-22, 8.3: welded flanges and web)."""
    return body.section.d


def beside_end_plate(body: Body, joint: Joint, made: Contribution) -> float:
    """The lesser of the beam's depth and three times its flange (AISC 358-22, 6.3: unstiffened end plates)."""
    return min(body.section.d, 3 * body.section.b)


def past_flange_plates(body: Body, joint: Joint, made: Contribution) -> float:
    """A depth of the beam past the bolt that is farthest from the column (AISC 358-22, 7.3)."""
    face = _face(joint)
    reach = [] if face is None else [abs(x - face) for x in places(body, made)]
    return max(reach, default=0.0) + body.section.d
