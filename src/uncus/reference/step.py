"""A STEP file (ISO 10303-21) put together as text: each entity a line, known by its number, alike ones written once."""

from __future__ import annotations

import base64
import hashlib
import re
import uuid
from collections.abc import Iterable, Iterator
from functools import lru_cache

_BASE64 = b"ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/"
_IFC = bytes.maketrans(_BASE64, b"0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$")
_KEPT = ~(0xF << 76 | 0x3 << 62) & (1 << 128) - 1
_VERSION = 0x5 << 76 | 0x2 << 62
_UUID = re.compile("[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}")
_NAMED = hashlib.sha1(uuid.NAMESPACE_OID.bytes + b"uncus/ifc/", usedforsecurity=False)


class StepFile:
    """Entities in order of writing; `#n` refers to one."""

    def __init__(self, lines: Iterable[str] = ()) -> None:
        self._lines: list[str] = list(lines)
        self._known: dict[str, str] = {}

    def __len__(self) -> int:
        return len(self._lines)

    def lines(self) -> list[str]:
        """What is written so far, an entity each; "" where one was taken out."""
        return list(self._lines)

    def put(self, entity: str) -> str:
        """Write an entity; its number."""
        self._lines.append(entity)
        return f"#{len(self._lines)}"

    def replace(self, number: int, entity: str) -> None:
        """Write another entity under a number; "" takes it out."""
        self._lines[number - 1] = entity

    def once(self, entity: str) -> str:
        """Write an entity that is a value, such as a point, unless it stands there already; its number."""
        found = self._known.get(entity)
        if found is None:
            found = self._known[entity] = self.put(entity)
        return found

    def text(self, schema: str, name: str, stamp: str, view: str) -> str:
        """The whole file."""
        head = (
            "ISO-10303-21;\nHEADER;\n"
            f"FILE_DESCRIPTION(({text(view)}),'2;1');\n"
            f"FILE_NAME({text(name)},'{stamp}',(''),(''),'Uncus','Uncus','');\n"
            f"FILE_SCHEMA(('{schema}'));\nENDSEC;\nDATA;\n"
        )
        return head + "".join(self._numbered()) + "ENDSEC;\nEND-ISO-10303-21;\n"

    def _numbered(self) -> Iterator[str]:
        return (f"#{n}={line};\n" for n, line in enumerate(self._lines, 1) if line)


def real(value: float, places: int = 6) -> str:
    """A number with a point, as STEP has it."""
    written = repr(round(float(value), places) + 0.0)
    return written if "e" not in written else f"{float(value):.{places}f}"


def reals(values: Iterable[float], places: int = 6) -> str:
    return f"({','.join([real(v, places) for v in values])})"


def refs(of: Iterable[str]) -> str:
    return f"({','.join(of)})"


@lru_cache(maxsize=16384)
def text(value: str) -> str:
    """Text in quotes; what is not plain ASCII by its code points."""
    plain = value.replace("\\", "\\\\").replace("'", "''")
    if plain.isascii() and plain.isprintable():
        return f"'{plain}'"
    return "'" + "".join(c if " " <= c <= "~" else f"\\X4\\{ord(c):08X}\\X0\\" for c in plain) + "'"


def some(value: str) -> str:
    """Text, or that there is none."""
    return text(value) if value else "$"


def guid(id: str) -> str:
    """The IFC GlobalId of one of our ids; ids that are no UUID give one of their own, always the same."""
    if len(id) == 36 and is_uuid(id):
        return _compressed(bytes.fromhex(id.replace("-", "")))
    named = _NAMED.copy()
    named.update(id.encode())
    whole = int.from_bytes(named.digest()[:16], "big")
    # as RFC 9562 marks a name's UUID, version 5: what `derived_id` gives
    return _compressed((whole & _KEPT | _VERSION).to_bytes(16, "big"))


def is_uuid(id: str) -> bool:
    """Whether an id is a UUID as we write them, which is one of its own in every job."""
    return _UUID.fullmatch(id) is not None


def _compressed(whole: bytes) -> str:
    """128 bits as 22 characters."""
    return base64.b64encode(b"\0\0" + whole).translate(_IFC)[2:].decode()
