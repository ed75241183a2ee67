"""Joints that were made before, kept on disk by what they were made of: another start need not make them again.

They lie outside the job, in a file of this very version alone, of no more than a given size. What is not whole is
thrown away; nothing here is ever asked what a job holds."""

from __future__ import annotations

import hashlib
import platform
import sqlite3
from collections.abc import Iterable, Mapping
from contextlib import suppress
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from platformdirs import user_cache_path

import uncus
from uncus.frame.placement import Placement
from uncus.shop.joints import Made

_ROOMS = ("units.py", "words.py", "catalog", "job", "frame", "steel", "connect", "shop")  # what joints are made by
_MOST = 256_000_000  # bytes
_AT_ONCE = 500  # rows asked for, or written, in one go
_SUM = 8  # bytes of a row's checksum
_DROPPED = 3  # a third of what was used longest ago goes when there is no more room


@cache
def version() -> str:
    """What the makers of joints are: another release, Python or NumPy, or one changed file of ours, is another."""
    root = Path(uncus.__file__).parent
    files = sorted(f for room in _ROOMS for f in ([root / room] if "." in room else (root / room).rglob("*.*")))
    said = [uncus.__version__, platform.python_version(), np.__version__]
    sum_ = hashlib.blake2b("\n".join(said).encode(), digest_size=8)
    for file in files:
        if file.is_file() and file.suffix != ".pyc":
            sum_.update(str(file.relative_to(root)).encode() + file.read_bytes())
    return sum_.hexdigest()


def usual_place() -> Path:
    """The user's own folder of what can be made again."""
    return user_cache_path("uncus") / "steel"


def _plain(value: object) -> Any:
    if isinstance(value, Placement):
        return [*value.origin.tolist(), *value.axes.ravel().tolist()]
    raise TypeError(f"nothing keeps a {type(value).__name__}")


def _read(kind: type, value: Any) -> Any:
    if kind is Placement:
        numbers = np.array(value, dtype=np.float64)
        return Placement(numbers[:3], numbers[3:].reshape(3, 3))
    raise TypeError(f"nothing reads a {kind.__name__}")


_encoder = msgspec.msgpack.Encoder(enc_hook=_plain)
_decoder = msgspec.msgpack.Decoder(Made, dec_hook=_read)


class Kept:
    """What is kept in a folder; a fault of its file costs what it held and no more."""

    def __init__(self, folder: Path, most: int = _MOST, own: str | None = None) -> None:
        self._file, self._most = folder / f"joints-{own or version()}.db", most
        self._new: dict[bytes, Made] = {}
        self._base: sqlite3.Connection | None = None
        with suppress(OSError, sqlite3.Error):
            folder.mkdir(parents=True, exist_ok=True, mode=0o700)
            for other in folder.glob("joints-*.db*"):
                if not other.name.startswith(self._file.name):
                    other.unlink(missing_ok=True)
            self._open()

    def _open(self) -> None:
        try:
            self._base = _opened(self._file)
        except sqlite3.DatabaseError:  # what is there is no file of ours, or not whole
            self._throw_away()
            self._base = _opened(self._file)

    def _throw_away(self) -> None:
        """The file, and with it its journal, which would be rolled back into the next of its name."""
        for file in self._file.parent.glob(f"{self._file.name}*"):
            file.unlink(missing_ok=True)

    def get(self, keys: Iterable[bytes]) -> dict[bytes, Made]:
        """What is known of some keys."""
        wanted, found = list(dict.fromkeys(keys)), dict[bytes, Made]()
        for start in range(0, len(wanted), _AT_ONCE):
            some = wanted[start : start + _AT_ONCE]
            for key, row in self._rows(some):
                with suppress(msgspec.MsgspecError, ValueError, TypeError):
                    if row[:_SUM] == _sum(row[_SUM:]):
                        found[key] = _decoder.decode(row[_SUM:])
        return found

    def _rows(self, keys: list[bytes]) -> list[tuple[bytes, bytes]]:
        if self._base is None:
            return []
        marks = ",".join("?" * len(keys))
        try:
            rows = self._base.execute(f"SELECT key, made FROM joints WHERE key IN ({marks})", keys).fetchall()
            if rows:
                now = "(SELECT max(used) FROM joints) + 1"
                self._base.execute(f"UPDATE joints SET used = {now} WHERE key IN ({marks})", keys)
            return rows
        except sqlite3.Error as error:
            self._failed(error)
            return []

    def keep(self, made: Mapping[bytes, Made]) -> None:
        """Keep what was made, before long."""
        self._new |= made
        if len(self._new) >= _AT_ONCE:
            self.flush()

    def flush(self) -> None:
        """Write what is to be kept."""
        new, self._new = self._new, {}
        if self._base is None or not new:
            return
        rows = [(key, _sum(text) + text) for key, one in new.items() for text in (_encoder.encode(one),)]
        try:
            with self._base:
                self._base.execute("BEGIN IMMEDIATE")
                self._base.executemany(
                    "INSERT OR IGNORE INTO joints VALUES (?, ?, (SELECT coalesce(max(used), 0) + 1 FROM joints))", rows
                )
                self._make_room()
        except sqlite3.Error as error:
            self._failed(error)

    def _make_room(self) -> None:
        assert self._base is not None
        (size,) = self._base.execute("SELECT (page_count - freelist_count) * page_size FROM pragma_page_count(), "
            "pragma_freelist_count(), pragma_page_size()").fetchone()  # fmt: skip
        if size > self._most:
            self._base.execute(f"DELETE FROM joints WHERE key IN (SELECT key FROM joints ORDER BY used, key LIMIT "
                f"(SELECT count(*) / {_DROPPED} + 1 FROM joints))")  # fmt: skip

    def _failed(self, error: sqlite3.Error) -> None:
        """Another has the file just now, or there is no room: that time it is done without. One that is not whole is
        thrown away."""
        if isinstance(error, sqlite3.OperationalError) or self._base is None:
            return
        with suppress(sqlite3.Error, OSError):
            self._base.close()
            self._throw_away()
        self._base = None

    def close(self) -> None:
        self.flush()
        if self._base is not None:
            self._base.close()
            self._base = None


def _sum(text: bytes) -> bytes:
    return hashlib.blake2b(text, digest_size=_SUM).digest()


def _opened(file: Path) -> sqlite3.Connection:
    base = sqlite3.connect(file, timeout=0.2, isolation_level=None, check_same_thread=False)
    try:
        base.execute("PRAGMA synchronous = NORMAL")
        base.execute("CREATE TABLE IF NOT EXISTS joints (key BLOB PRIMARY KEY, made BLOB, used INTEGER) WITHOUT ROWID")
        base.execute("CREATE INDEX IF NOT EXISTS by_use ON joints (used)")
        return base
    except sqlite3.Error:
        base.close()
        raise
