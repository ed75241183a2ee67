"""What the values of joints, attachments and frames by numbers measure, in the steel as it stands or will stand."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import msgspec
import numpy as np

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kind import Body
from uncus.connect.kinds import KINDS
from uncus.connect.meaning import Bed, Measure, Places, by_growing, measured, ring
from uncus.frame.numbers.kind import ByNumbers, made
from uncus.frame.placement import Vec
from uncus.job.forms import checked, fields
from uncus.job.records import Attachment, Connection, Member, Point
from uncus.shop.joints import attached, contribution
from uncus.shop.records import body_of
from uncus.shop.shop import Shop
from uncus.steel.joint import Contribution
from uncus.units import Units

_STEPS = (25.4, 2_000.0)  # mm that a frame's value is grown by


class Remade(NamedTuple):
    """A joint or attachment that can be made with other values on the steel it is on."""

    params: Any
    make: Callable[[Any], Contribution]
    bed: Bed


def remade(shop: Shop, record: Connection | Attachment) -> Remade | None:
    """A record's values and what makes steel of them; None where it has none. Raises JobError where its values cannot
    be used."""
    if isinstance(record, Connection):
        return _of_joint(shop, record)
    known, fitting = ATTACHMENTS.get(record.kind), shop.fitting(record)
    if known is None or fitting is None:
        return None

    def fix(values: Any) -> Contribution:
        return attached(msgspec.structs.replace(fitting, record=_given(record, values)))

    bed = Bed(fitting.bodies, fitting.units is Units.IMPERIAL, (fitting.left, fitting.right))
    return Remade(checked(known.params, record.params), fix, bed)


def _of_joint(shop: Shop, record: Connection) -> Remade | None:
    kind, joint = KINDS.get(record.kind), shop.joint(record.id)
    if kind is None or joint is None:
        return None

    def make(values: Any) -> Contribution:
        return contribution(msgspec.structs.replace(joint, record=_given(record, values)))

    return Remade(checked(kind.params, record.params), make, Bed(joint.bodies, joint.units is Units.IMPERIAL))


def measure(shop: Shop, record: Connection | Attachment, name: str) -> Measure | None:
    """What a length among a record's values measures; None where nothing goes by it. Raises JobError where its values
    cannot be used."""
    of = remade(shop, record)
    if of is None:
        return None
    return measured(of.params, name, fields(type(of.params))[name], of.make, of.bed)


def measure_frame(kind: ByNumbers, params: Any, points: Sequence[Point], units: Units, name: str) -> Measure | None:
    """What a length of a frame by numbers measures where its points are such. Raises JobError or UnitError where there
    is no frame with these values."""
    at = [np.asarray(p) for p in points]

    def places(frame: list[Member]) -> Places:
        ends = {(n, end): np.asarray(p) for n, m in enumerate(frame) for end, p in enumerate((m.start, m.end))}
        bodies = ((n, body_of(m)) for n, m in enumerate(frame))
        rings = {
            (n, x, k): spot
            for n, b in bodies
            if isinstance(b, Body)
            for x in (0.0, 1.0)
            for k, spot in enumerate(ring(b, x * b.length))
        }
        picked: Places = {("picked", n): p for n, p in enumerate(at)}
        return picked | ends | rings

    def sized(_base: list[Member], one: list[Member], more: list[Member], _by: float) -> Measure | None:
        value = getattr(params, name)
        if len(one) != len(more) or not all(map(_lie_alike, one, more)):
            return None
        line = next((_line(a) for a, b in zip(one, more, strict=True) if not _same(a, b)), None)
        return None if line is None else Measure(*line, value, line)

    def frame(values: Any) -> list[Member]:
        return made(kind, values, at, units)

    # a little, which leaves all as it is but for its length; else so much that there is more or less of it
    tries = (by_growing(params, name, fields(kind.params)[name], frame, places, sized, (step,)) for step in _STEPS)
    return next((found for found in tries if found is not None), None)


def _lie_alike(a: Member, b: Member) -> bool:
    return (a.section, a.start, a.end) == (b.section, b.start, b.end)


def _same(a: Member, b: Member) -> bool:
    return msgspec.structs.replace(a, id="") == msgspec.structs.replace(b, id="")


def _line(m: Member) -> tuple[Vec, Vec]:
    return np.asarray(m.start), np.asarray(m.end)


def _given(record: Connection | Attachment, values: Any) -> Any:
    """A record with other values."""
    return msgspec.structs.replace(record, params=msgspec.to_builtins(values))
