"""What a job file is made of, to the letter: its tables, its head, and the sums that show a change nobody made.

The file is SQLite 3 with a rollback journal (see https://www.sqlite.org/fileformat2.html). One job is one file at every
moment between two changes, so that a copy of it is whole; nothing lies beside it but for the length of a change.
"""

from __future__ import annotations

import secrets
import sqlite3
from collections.abc import Iterable
from contextlib import closing
from functools import cache
from hashlib import blake2b
from pathlib import Path

import msgspec

from uncus.job.errors import Damaged, JobError

APPLICATION_ID = 0x554E4355  # "UNCU"
VERSION = 21
MAGIC = b"SQLite format 3\0"
UNREADABLE = (sqlite3.Error, UnicodeDecodeError)  # what SQLite raises, and Python on its words about a damaged file
_ROOM = 2**63  # sums are kept as SQLite's signed integers, never below nothing

SCHEMA = """
CREATE TABLE records (place INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE, body BLOB NOT NULL, sum INTEGER NOT NULL);
CREATE TABLE steps (number INTEGER PRIMARY KEY, body BLOB NOT NULL, sum INTEGER NOT NULL);
CREATE TABLE head (number INTEGER NOT NULL, turn TEXT NOT NULL, last TEXT NOT NULL, total INTEGER NOT NULL, sum INTEGER NOT NULL);
"""  # noqa: E501  (files are known by these very words)
_TO_6 = """
CREATE TABLE records (id TEXT PRIMARY KEY, place INTEGER NOT NULL, body BLOB NOT NULL);
CREATE INDEX records_place ON records (place);
CREATE TABLE steps (number INTEGER PRIMARY KEY, body BLOB NOT NULL);
CREATE TABLE head (number INTEGER NOT NULL);
"""
JOURNALLED = 7  # the version since which a file has these tables, and a journal that names it


def is_job(data: bytes) -> bool:
    """Whether a file's first hundred bytes are those of a job."""
    return len(data) >= 100 and data.startswith(MAGIC) and int.from_bytes(data[68:72], "big") == APPLICATION_ID


def version_of(data: bytes, path: Path) -> int:
    """The version of a job file by its first hundred bytes. Raises JobError for one that is none, or of a version to
    come."""
    if not is_job(data):
        raise JobError(f"{path} is not an Uncus job.")
    version = int.from_bytes(data[60:64], "big")
    if version > VERSION:
        raise JobError(f"{path} was made by a newer Uncus (file version {version}); it was left untouched.")
    if version < 1:
        raise damaged(path)
    return version


def damaged(path: Path) -> Damaged:
    return Damaged(f"{path} is damaged and was left as it is; go back to a copy.")


def sum_of(*parts: object) -> int:
    """A sum over values, each told apart from the next: BLAKE2b to 63 bits."""
    found = blake2b(digest_size=8)
    for part in parts:
        data = part if isinstance(part, bytes) else str(part).encode("utf-8", "surrogatepass")
        found.update(len(data).to_bytes(8, "big"))
        found.update(data)
    return int.from_bytes(found.digest(), "big") % _ROOM


def added(total: int, more: Iterable[int] = (), less: Iterable[int] = ()) -> int:
    """The sum over all records after some came and some went; their order does not count."""
    return (total + sum(more) - sum(less)) % _ROOM


class Head(msgspec.Struct, frozen=True):
    """Where a job stands: the number of its last change, a name for this very state and the one before, and the sum
    over all records, by which a file made of two days' pages is told."""

    number: int = 0
    turn: str = "new"
    last: str = ""
    total: int = 0

    def next(self, number: int, total: int) -> Head:
        return Head(number, secrets.token_hex(8), self.turn, total)

    @property
    def row(self) -> tuple[int, str, str, int, int]:
        return (self.number, self.turn, self.last, self.total, sum_of(self.number, self.turn, self.last, self.total))


def head_of(db: sqlite3.Connection) -> Head | None:
    """The head of an open file; None where it is not what was written."""
    row = db.execute("SELECT number, turn, last, total, sum FROM head").fetchone()
    head = Head(*row[:4]) if row else None
    own = head is not None and head.row == row and isinstance(head.number, int) and 0 <= head.number < 2**40
    return head if own else None


def connect(path: Path) -> sqlite3.Connection:
    """A connection on which a hostile file can do nothing but be read."""
    db = sqlite3.connect(path, isolation_level=None, timeout=0.2)
    db.text_factory = lambda data: data.decode("utf-8", "replace")
    db.execute("PRAGMA trusted_schema = OFF")
    db.execute("PRAGMA cell_size_check = ON")
    return db


@cache
def _tables(schema: str) -> frozenset[tuple[str, str, str]]:
    with closing(sqlite3.connect(":memory:")) as db:
        db.executescript(schema)
        return frozenset(db.execute("SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL"))


def is_ours(db: sqlite3.Connection, version: int = VERSION) -> bool:
    """Whether a file holds our tables and nothing else: no view, trigger or column of anybody's making is ever read."""
    rows = db.execute("SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL LIMIT 9").fetchall()
    return frozenset(rows) == _tables(SCHEMA if version >= JOURNALLED else _TO_6)


def total_of(db: sqlite3.Connection) -> int:
    """The sum over all records by their own sums."""
    return added(0, (n for (n,) in db.execute("SELECT sum FROM records") if isinstance(n, int)))


def is_sound(db: sqlite3.Connection) -> bool:
    """Whether SQLite finds the file's pages, and its index of them, in order."""
    return db.execute("PRAGMA integrity_check(1)").fetchone()[0] == "ok"  # type: ignore[no-any-return]


def make(path: Path) -> sqlite3.Connection:
    """A new file with our tables, to be filled in one transaction, which is begun."""
    db = connect(path)
    db.executescript(f"PRAGMA application_id = {APPLICATION_ID}; PRAGMA user_version = {VERSION};")
    db.executescript(f"PRAGMA synchronous = FULL; BEGIN; {SCHEMA}")
    return db


def fill(
    db: sqlite3.Connection,
    records: Iterable[tuple[str, bytes]],
    steps: Iterable[tuple[int, bytes]] = (),
    number: int = 0,
) -> None:
    """Put records (id, JSON) in order of making and changes (number, JSON) into a new file, and finish its
    transaction."""
    total = 0
    for place, (id, body) in enumerate(records, 1):
        own = sum_of(id, place, body)
        total = added(total, (own,))
        db.execute("INSERT INTO records VALUES (?, ?, ?, ?)", (place, id, body, own))
    db.executemany("INSERT INTO steps VALUES (?, ?, ?)", ((n, body, sum_of(n, body)) for n, body in steps))
    db.execute("INSERT INTO head VALUES (?, ?, ?, ?, ?)", Head().next(number, total).row)
    db.execute("COMMIT")
