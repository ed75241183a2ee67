"""A composite's parts: what its kind makes of it where it hangs now, with what was changed by hand."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Protocol, TypeVar

import msgspec
import numpy as np

from uncus.catalog.sections import UnknownSection, section
from uncus.compose.kind import Compound, Given, Piece, part_id
from uncus.compose.kinds import COMPOUNDS
from uncus.frame.axes import member_frame, overall_depth
from uncus.frame.placement import Vec, tidied
from uncus.job.composites import Anchor, Composite
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.records import AnyRecord, Attachment, Connection, Level, Member, Project, Record, ShopRules

R = TypeVar("R", bound=Record)
_POINTS = ("start", "end", "bow")  # of fields changed by hand, those that are told by how far they moved
_OWN = ("id", "maker")
_SAME = 1e-4  # mm or degrees by which a value may differ and still be the one that was made


class Source(Protocol):
    """Where records are looked up: a job, or a change of one."""

    def get(self, id: str) -> AnyRecord | None: ...


def kind_of(record: Composite) -> Compound:
    """Raises JobError for a kind that this program does not know."""
    found = COMPOUNDS.get(record.kind)
    if found is None:
        raise JobError(f"This Uncus knows no {record.kind} to make of parts; it is kept as it is.")
    return found


def given_to(record: Composite, records: Source) -> Given:
    """What a composite's kind builds with. Raises JobError."""
    kind = kind_of(record)
    project, rules = records.get("project"), records.get("shop rules")
    return Given(
        record,
        checked(kind.params, record.params),
        np.array([place_of(a, record, records) for a in record.anchors], dtype=np.float64).reshape(-1, 3),
        project.units if isinstance(project, Project) else Project().units,
        rules if isinstance(rules, ShopRules) else ShopRules(),
        {a.on: host for a in record.anchors if isinstance(host := records.get(a.on), Member)},
    )


def place_of(anchor: Anchor, record: Composite, records: Source) -> Vec:
    """Where an anchor is in the model. Raises JobError where what it hangs on is gone."""
    at = np.asarray(anchor.at, dtype=np.float64)
    if not anchor.on:
        return at
    host = records.get(anchor.on)
    if isinstance(host, Level):
        return at + (0.0, 0.0, host.elevation)
    if not isinstance(host, Member):
        raise JobError(f"What the {record.words} hangs on is gone; pick its points anew or delete it.")
    try:
        found = section(host.section)
    except UnknownSection as error:
        raise JobError(str(error)) from error
    half, wide = overall_depth(host, found) / 2, found.b / 2
    off = {"top": (0, 0, half), "bottom": (0, 0, -half), "near": (0, -wide, 0), "far": (0, wide, 0)}
    return member_frame(host, found).to_model(at + off.get(anchor.face, (0, 0, 0)))


def hung_on(point: Vec, host: Member | Level, face: str = "") -> Anchor:
    """The anchor of a model point that is to go with a level or with a side of a member."""
    if isinstance(host, Level):
        return Anchor(tidied((point[0], point[1], point[2] - host.elevation)), host.id)
    found = section(host.section)
    half, wide = overall_depth(host, found) / 2, found.b / 2
    off = {"top": (0, 0, half), "bottom": (0, 0, -half), "near": (0, -wide, 0), "far": (0, wide, 0)}
    return Anchor(tidied(member_frame(host, found).to_local(point) - off.get(face, (0, 0, 0))), host.id, face)


def pure(record: Composite, records: Source) -> dict[str, Piece]:
    """The parts of a composite by key, as its kind makes them. Raises JobError."""
    kind = kind_of(record)
    given = given_to(record, records)
    if len(given.points) < len(kind.picks):
        raise JobError(f"The {record.words} needs {len(kind.picks)} points; pick them.")
    try:
        made = kind.build(given)
    except (ValueError, LookupError, ZeroDivisionError) as error:
        raise JobError(f"The {record.words} cannot be made: {str(error).rstrip('.')}.") from error
    for piece in made.values():
        if problem := piece.problem():
            raise JobError(f"The {record.words} cannot be made: {problem[0].lower()}{problem[1:]}")
    return made


def parts(record: Composite, records: Source) -> dict[str, Piece]:
    """The parts of a composite by key, with what was changed on them by hand; what hangs on a part that was taken out
    is taken out with it. Raises JobError."""
    made = pure(record, records)
    found = {key: _by_hand(piece, record.hand.get(key, {})) for key, piece in made.items()}
    kept = {key: piece for key, piece in found.items() if piece is not None}
    gone = {part_id(record.id, key) for key in found if key not in kept}
    return {key: piece for key, piece in kept.items() if gone.isdisjoint(_hangs_on(piece))}


def _hangs_on(piece: Piece) -> tuple[str, ...]:
    return piece.members if isinstance(piece, (Connection, Attachment)) else ()


def _by_hand(piece: Piece, hand: Mapping[str, Any] | None) -> Piece | None:
    if hand is None:
        return None
    known = {name: value for name, value in hand.items() if name in piece.__struct_fields__ and name not in _OWN}
    if not known:
        return piece
    values: dict[str, Any] = msgspec.to_builtins(piece)
    try:
        for name, value in known.items():
            values[name] = (np.asarray(getattr(piece, name)) + value).tolist() if name in _POINTS else value
        changed = msgspec.convert(values, type(piece))
    except (msgspec.ValidationError, TypeError, ValueError):
        return piece  # of a field that is another one today, or out of a file that is broken
    return piece if changed.problem() else changed


def by_hand(made: Piece, now: Piece) -> dict[str, Any]:
    """What of a part is not as its composite makes it."""
    found: dict[str, Any] = {}
    for name in made.__struct_fields__:
        was, is_ = getattr(made, name), getattr(now, name)
        if name in _OWN or was == is_:
            continue
        if name in _POINTS:
            step = np.subtract(is_, was)
            if np.abs(step).max() > _SAME:
                found[name] = [float(v) for v in tidied(step)]
        elif not (isinstance(was, float) and isinstance(is_, float) and abs(was - is_) < _SAME):
            found[name] = msgspec.to_builtins(is_)
    return found
