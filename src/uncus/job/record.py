"""What every record is: frozen, with a stable id."""

from __future__ import annotations

import uuid
from enum import StrEnum
from typing import TypeVar

import msgspec

Point = tuple[float, float, float]
FAR = 10_000_000.0  # 10 km: farther than any building
R = TypeVar("R", bound=msgspec.Struct)


def new_id() -> str:
    """A fresh record id (UUID); it is also the piece's identity in IFC and outlives edits."""
    return str(uuid.uuid4())


def derived_id(*parts: str) -> str:
    """The id of something computed from records: the same inputs give the same id, always."""
    return str(uuid.uuid5(uuid.NAMESPACE_OID, "uncus/" + "/".join(parts)))


def plain(record: R) -> R:
    """A record of plain numbers, whatever library's numbers it was made of."""
    return msgspec.convert(msgspec.to_builtins(record, enc_hook=float), type(record))


class End(StrEnum):
    LEFT = "left"
    RIGHT = "right"

    @property
    def other(self) -> End:
        return End.RIGHT if self is End.LEFT else End.LEFT


class Record(msgspec.Struct, frozen=True, tag=True, kw_only=True):
    id: str = msgspec.field(default_factory=new_id)

    def problem(self) -> str | None:
        """Why this record cannot be kept, as a sentence; None where it can."""
        return None
