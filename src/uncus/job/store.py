"""The .uncus file: SQLite in WAL mode, one transaction a change, locked while it is open."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import stat
from collections.abc import Iterable, Iterator
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.migrations import record_from, step_from
from uncus.job.records import AnyRecord

APPLICATION_ID = 0x554E4355  # "UNCU"
VERSION = 6

_SCHEMA = f"""
PRAGMA application_id = {APPLICATION_ID};
PRAGMA user_version = {VERSION};
CREATE TABLE records (id TEXT PRIMARY KEY, place INTEGER NOT NULL, body BLOB NOT NULL);
CREATE INDEX records_place ON records (place);
CREATE TABLE steps (number INTEGER PRIMARY KEY, body BLOB NOT NULL);
CREATE TABLE head (number INTEGER NOT NULL);
INSERT INTO head VALUES (0);
"""

Pair = tuple[AnyRecord | None, AnyRecord | None]


class Step(msgspec.Struct, frozen=True):
    """A change as it is kept for undo."""

    label: str
    edits: list[Pair]


class _StoredStep(msgspec.Struct, frozen=True):
    label: str
    before: list[AnyRecord | None]
    after: list[AnyRecord | None]


_record = msgspec.json.Decoder(AnyRecord)
_step = msgspec.json.Decoder(_StoredStep)
_encode = msgspec.json.Encoder().encode


def _sentence(path: Path, error: Exception) -> JobError:
    text = str(error).lower()
    if "locked" in text or "busy" in text:
        return JobError(f"{path} is open in another Uncus; close it there and try again.")
    if "full" in text:
        return JobError(f"{path} could not be written: the disk is full. Nothing was changed; make room and try again.")
    if "readonly" in text or "read-only" in text:
        return JobError(f"{path} is read-only; allow writing to the file and its folder and try again.")
    if "not a database" in text:
        return JobError(f"{path} is not an Uncus job.")
    if "disk i/o" in text or "unable to open" in text:
        return JobError(f"{path} could not be read or written (is its folder writable and the disk in order?).")
    return JobError(f"{path} is damaged and was left as it is; go back to a copy.")


@contextlib.contextmanager
def _spoken(path: Path) -> Iterator[None]:
    """Turn what SQLite and the decoder say into sentences."""
    try:
        yield
    except (sqlite3.Error, msgspec.DecodeError) as error:
        raise _sentence(path, error) from error


def _bring_up(db: sqlite3.Connection, version: int) -> None:
    """Rewrite an older file's records and undo steps, all or nothing."""
    try:
        db.execute("BEGIN IMMEDIATE")
        for table, key, convert in (("records", "id", record_from), ("steps", "number", step_from)):
            rows = db.execute(f"SELECT {key}, body FROM {table}").fetchall()
            db.executemany(
                f"UPDATE {table} SET body = ? WHERE {key} = ?", [(convert(version, body), key) for key, body in rows]
            )
        db.execute(f"PRAGMA user_version = {VERSION}")
        db.execute("COMMIT")
    except (ValueError, LookupError, TypeError, AttributeError) as error:
        db.execute("ROLLBACK")
        raise sqlite3.DatabaseError("damaged") from error


class Store:
    """One open job file. Use `open` and `create`."""

    def __init__(self, path: Path, connection: sqlite3.Connection, head: int) -> None:
        self.path = path
        self._db = connection
        self.head = head

    @classmethod
    def create(cls, path: Path, records: Iterable[AnyRecord], replace: bool = False) -> None:
        """Write a new job file beside its place and move it there. Raises JobError."""
        path = path.absolute()
        if path.exists() and not replace:
            raise JobError(f"{path} exists already; choose another name or move it away.")
        if not path.parent.is_dir():
            raise JobError(f"There is no folder {path.parent}; make it first or choose another.")
        if path.exists():
            cls.open(path).close()  # refuses what is open elsewhere or is not ours
        beside = path.with_name(f".{path.name}.{os.getpid()}.new")
        try:
            with _spoken(path), contextlib.closing(sqlite3.connect(beside)) as db:
                db.executescript(_SCHEMA)
                rows = ((record.id, place, _encode(record)) for place, record in enumerate(records))
                db.executemany("INSERT INTO records VALUES (?, ?, ?)", rows)
                db.commit()
            os.replace(beside, path)
        except OSError as error:
            raise JobError(f"{path} could not be made: {error.strerror or error}.") from error
        finally:
            beside.unlink(missing_ok=True)
            for tail in ("-journal", "-wal", "-shm"):
                beside.with_name(beside.name + tail).unlink(missing_ok=True)

    @classmethod
    def open(cls, path: Path) -> Store:
        """Open, check and lock a job file. Raises JobError."""
        path = path.absolute()
        if not path.exists():
            raise JobError(f"There is no job {path}; check the name, or make the sample with: uncus sample {path.name}")
        if not path.is_file():
            raise JobError(f"{path} is not a file and so not an Uncus job.")
        writable = stat.S_IMODE(path.stat().st_mode) & 0o222
        if not writable or not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
            raise JobError(f"{path} is read-only; allow writing to the file and its folder and try again.")
        with path.open("rb") as head:
            if head.read(16) != b"SQLite format 3\0":
                raise JobError(f"{path} is not an Uncus job.")
        db = sqlite3.connect(path, isolation_level=None, timeout=0.2)
        try:
            with _spoken(path):
                return cls._checked(path, db)
        except BaseException:
            db.close()
            raise

    @classmethod
    def _checked(cls, path: Path, db: sqlite3.Connection) -> Store:
        # Exclusive locking is the job's lock: the system lets go of it when the process dies.
        db.execute("PRAGMA locking_mode = EXCLUSIVE")
        if db.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
            raise JobError(f"{path} is not an Uncus job.")
        version = db.execute("PRAGMA user_version").fetchone()[0]
        if version > VERSION:
            raise JobError(f"{path} was made by a newer Uncus (file version {version}); it was left untouched.")
        db.execute("PRAGMA journal_mode = WAL")
        db.execute("PRAGMA synchronous = FULL")
        db.execute("BEGIN EXCLUSIVE")
        db.execute("UPDATE head SET number = number")
        db.execute("COMMIT")
        if db.execute("PRAGMA quick_check(1)").fetchone()[0] != "ok":
            raise sqlite3.DatabaseError("damaged")
        if version < VERSION:
            _bring_up(db, version)
        row = db.execute("SELECT number FROM head").fetchone()
        if row is None:
            raise sqlite3.DatabaseError("damaged")
        return cls(path, db, row[0])

    def read(self) -> list[AnyRecord]:
        """Every record, in order of making. Raises JobError where one cannot be read."""
        with _spoken(self.path):
            rows = self._db.execute("SELECT id, body FROM records ORDER BY place").fetchall()
            records = [_record.decode(body) for _, body in rows]
        if any(record.id != id for record, (id, _) in zip(records, rows, strict=True)):
            raise JobError(f"{self.path} is damaged and was left as it is; go back to a copy.")
        return records

    def step(self, number: int) -> Step | None:
        with _spoken(self.path):
            row = self._db.execute("SELECT body FROM steps WHERE number = ?", (number,)).fetchone()
            if row is None:
                return None
            stored = _step.decode(row[0])
        return Step(stored.label, list(zip(stored.before, stored.after, strict=True)))

    def append(self, step: Step) -> None:
        """Write a change as one transaction: on disk when this returns, or not at all (JobError)."""
        number = self.head + 1
        body = _encode(_StoredStep(step.label, [b for b, _ in step.edits], [a for _, a in step.edits]))
        with self._transaction():
            self._db.execute("DELETE FROM steps WHERE number >= ?", (number,))
            self._db.execute("INSERT INTO steps VALUES (?, ?)", (number, body))
            self._write(step.edits, number)
        self.head = number

    def move(self, edits: list[Pair], head: int) -> None:
        """Write an undo or redo: the records as they become, and where the job now stands."""
        with self._transaction():
            self._write(edits, head)
        self.head = head

    def _write(self, edits: list[Pair], head: int) -> None:
        gone = [(before.id,) for before, after in edits if before is not None and after is None]
        put = [(after.id, _encode(after)) for _, after in edits if after is not None]
        self._db.executemany("DELETE FROM records WHERE id = ?", gone)
        self._db.executemany(
            "INSERT INTO records VALUES (?1, (SELECT ifnull(max(place), 0) + 1 FROM records), ?2) "
            "ON CONFLICT (id) DO UPDATE SET body = excluded.body",
            put,
        )
        self._db.execute("UPDATE head SET number = ?", (head,))

    @contextlib.contextmanager
    def _transaction(self) -> Iterator[None]:
        with _spoken(self.path):
            self._db.execute("BEGIN IMMEDIATE")
            try:
                yield
                self._db.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    self._db.execute("ROLLBACK")
                raise

    def close(self) -> None:
        """Let go of the lock; what was changed is on disk already."""
        self._db.close()
