"""Records that a file holds but that cannot be used: set aside with the reason, so that the rest goes on."""

from __future__ import annotations

import re

import msgspec

from uncus.job.records import AnyRecord
from uncus.words import sentence

_record = msgspec.json.Decoder(AnyRecord)
_HOSTILE = (msgspec.MsgspecError, ValueError, TypeError, ArithmeticError, LookupError, RecursionError)


class Aside(msgspec.Struct, frozen=True):
    """A record that was set aside: its id, the piece it is about (its own id where it names none), and a sentence."""

    id: str
    about: str
    text: str


class _Glimpse(msgspec.Struct):
    """What can be told of a record that cannot be used."""

    type: str = "record"
    piece: str = ""
    member: str = ""


def checked_record(id: str, body: bytes) -> AnyRecord | str:
    """A record of a file, checked as one that is written; or why it cannot be used."""
    try:
        record: AnyRecord = _record.decode(body)
        if record.id != id:
            return "its id is another's"
        return record.problem() or record
    except _HOSTILE as error:
        return f"it cannot be read: {str(error)[:200]}"


def set_aside(id: str, body: bytes, why: str) -> Aside:
    try:
        seen = msgspec.json.decode(body, type=_Glimpse)
    except _HOSTILE:
        seen = _Glimpse()
    kind = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", seen.type[:40]).lower()
    article = "An" if kind[:1] in "aeiou" else "A"
    named = f" (record {id[:8]})" if re.match("[0-9a-f]{8}-", id) else ""
    why = why.rstrip(".")
    text = (
        f"{article} {kind}{named} was set aside on opening: {why}. Make it anew, or clear what was set aside (Ctrl+K)."
    )
    return Aside(id, seen.piece or seen.member or id, sentence(text))
