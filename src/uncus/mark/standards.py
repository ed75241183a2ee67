"""The office's standard parts: their marks hold in every job; kept in a file that jobs share, built from picked
parts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

import msgspec

from uncus.catalog.sections import section
from uncus.job.errors import JobError
from uncus.job.files import json_of
from uncus.job.job import Job
from uncus.job.records import StandardPart, new_id
from uncus.mark.sameness import maps
from uncus.shop.pieces import Piece
from uncus.steel.describe import describe
from uncus.steel.features import EndCut, Feature
from uncus.steel.forming import Bend, Curve, Item
from uncus.steel.part import Part
from uncus.units import Units

_FORMAT = "uncus standard parts 1"
_MOST = 400  # features of one part that are read


def as_data(part: Part) -> dict[str, Any]:
    """A part as plain data: its section by name, each feature with its kind."""
    found: dict[str, Any] = msgspec.to_builtins(part, order=None)
    found["section"] = part.section.name if part.section else None
    return found


def part_of(data: dict[str, Any]) -> Part:
    """The part that data describe. Raises JobError where they describe none."""
    try:
        features = msgspec.convert(list(data["features"])[:_MOST], tuple[Feature, ...])
        left, right = (msgspec.convert(data[end], EndCut) for end in ("left", "right"))
        outline = msgspec.convert(data["outline"], tuple[tuple[float, float], ...])
        sizes = [float(data[name]) for name in ("length", "thickness")]
        found = section(data["section"]) if data["section"] else None
        if found is None and len(outline) < 3:
            raise ValueError("a plate needs an outline")
        curve = msgspec.convert(data["curve"], Curve) if data.get("curve") else None
        item = msgspec.convert(data["item"], Item) if data.get("item") else None
        bends = msgspec.convert(data.get("bends", ()), tuple[Bend, ...])
        return Part(
            str(data["grade"]),
            str(data["finish"]),
            sizes[0],
            left,
            right,
            found,
            outline,
            sizes[1],
            features,
            curve,
            bends,
            item,
        )
    except (KeyError, TypeError, ValueError, AttributeError, LookupError, msgspec.ValidationError) as error:
        raise JobError(f"A standard part cannot be read: {error}.") from None


def readable(standard: StandardPart) -> Part | None:
    """The part of a standard; None where a damaged file left one that cannot be read: it then fits nothing."""
    try:
        return part_of(standard.shape)
    except JobError:
        return None


def picked(pieces: Sequence[tuple[Piece, str]], known: Iterable[StandardPart], units: Units) -> list[StandardPart]:
    """Standard parts from picked pieces with their marks; those that are standard already are left.

    Raises JobError for a piece without a mark, or a mark that another standard part has.
    """
    there = [(s.mark, part_of(s.shape)) for s in known]
    made: list[StandardPart] = []
    for piece, mark in pieces:
        if not mark:
            raise JobError(f"The {piece.words} has no mark yet; mark it first, or type one.")
        if any(maps(piece.part, part) for _, part in there):
            continue
        if any(name == mark for name, _ in there):
            raise JobError(f"{mark} is the mark of another standard part; type another for this {piece.words}.")
        there.append((mark, piece.part))
        made.append(StandardPart(id=new_id(), mark=mark, shape=as_data(piece.part), words=describe(piece.part, units)))
    return made


class _Library(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    parts: tuple[StandardPart, ...]
    format: str = _FORMAT


def to_json(parts: Iterable[StandardPart]) -> bytes:
    return msgspec.json.format(msgspec.json.encode(_Library(tuple(parts))), indent=1) + b"\n"


def from_json(data: bytes, source: Path | str = "The file") -> list[StandardPart]:
    """Standard parts of a file, each read as a part. Raises JobError with what is wrong."""
    found = json_of(data, _Library, source, "standard parts")
    if found.format != _FORMAT:
        raise JobError(f"{source} says “{found.format}”, which this Uncus does not read.")
    for one in found.parts:
        part_of(one.shape)
        if problem := one.problem():
            raise JobError(f"{source}: {problem}")
    return list(found.parts)


def taken_in(job: Job, parts: Sequence[StandardPart]) -> list[StandardPart]:
    """Records that bring a library into a job: one of the same mark takes the other's place."""
    known = {s.mark: s.id for s in job.all(StandardPart)}
    return [msgspec.structs.replace(one, id=known.get(one.mark, new_id())) for one in parts]
