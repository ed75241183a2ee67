"""Presets: what is dimensioned and shown on the sheets of some kinds of piece; named, kept in the job, shared as a
file."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import msgspec

from uncus.job.drawings import SheetPreset
from uncus.job.errors import JobError
from uncus.job.files import json_of

_FORMAT = "uncus sheet presets 1"
USUAL = SheetPreset(id="preset usual", name="usual")


class _File(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    presets: tuple[SheetPreset, ...]
    format: str = _FORMAT


def to_json(presets: Iterable[SheetPreset]) -> bytes:
    return msgspec.json.format(msgspec.json.encode(_File(tuple(presets))), indent=1) + b"\n"


def from_json(data: bytes, source: Path | str = "The file") -> list[SheetPreset]:
    """Presets of a file. Raises JobError with what is wrong."""
    found = json_of(data, _File, source, "sheet presets")
    if found.format != _FORMAT:
        raise JobError(f"{source} says “{found.format}”, which this Uncus does not read.")
    for one in found.presets:
        if problem := one.problem():
            raise JobError(f"{source}: {problem}")
    return list(found.presets)


def preset_for(presets: Iterable[SheetPreset], kind: str, role: str, chosen: str = "") -> SheetPreset:
    """The preset that was chosen by name, else the first that names the role or kind, else the usual one."""
    known = sorted(presets, key=lambda p: p.name)
    by_name = next((p for p in known if p.name == chosen), None)
    return by_name or next((p for p in known if role in p.kinds or kind in p.kinds), USUAL)
