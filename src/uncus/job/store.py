"""The .uncus file: one SQLite file with a rollback journal, one transaction a change, locked while it is open."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import stat
from collections.abc import Iterable, Iterator
from pathlib import Path

import msgspec

from uncus.job import logs, migrations, schema
from uncus.job.aside import Aside, checked_record, set_aside
from uncus.job.errors import Damaged, JobError
from uncus.job.files import into_place, name_beside
from uncus.job.mounts import mount_of
from uncus.job.records import AnyRecord
from uncus.job.schema import Head, added, damaged, sum_of

Pair = tuple[AnyRecord | None, AnyRecord | None]


class Step(msgspec.Struct, frozen=True):
    """A change as it is kept for undo: `at` is when it was made (ISO 8601, local time), `moment` the name that the
    job's state after it was given."""

    label: str
    edits: list[Pair]
    at: str = ""
    moment: str = ""


class Past(msgspec.Struct, frozen=True):
    """A change of the history without what it did."""

    number: int
    label: str
    at: str = ""
    moment: str = ""


class _StoredStep(msgspec.Struct, frozen=True):
    label: str
    before: list[AnyRecord | None]
    after: list[AnyRecord | None]
    at: str = ""
    moment: str = ""


class _Told(msgspec.Struct, frozen=True):
    label: str
    at: str = ""
    moment: str = ""


_step, _told = msgspec.json.Decoder(_StoredStep), msgspec.json.Decoder(_Told)
_encode = msgspec.json.Encoder().encode
_open: dict[tuple[int, int], Path] = {}  # the files that this process has open, by device and number


def _stored(step: Step) -> bytes:
    before, after = [b for b, _ in step.edits], [a for _, a in step.edits]
    return _encode(_StoredStep(step.label, before, after, step.at, step.moment))


def _sentence(path: Path, error: Exception) -> JobError:
    text = str(error).lower() if isinstance(error, sqlite3.Error) else ""
    if "locked" in text or "busy" in text:
        return logs.is_open(path, "" if path in _open.values() else logs.holder(path))
    if "full" in text:
        return JobError(f"{path} could not be written: the disk is full. Nothing was changed; make room and try again.")
    if "readonly" in text or "read-only" in text:
        return JobError(f"{path} is read-only; allow writing to the file and its folder and try again.")
    if "not a database" in text:
        return JobError(f"{path} is not an Uncus job.")
    if "disk i/o" in text or "unable to open" in text:
        return JobError(f"{path} could not be read or written (is its folder writable and the disk in order?).")
    return damaged(path)


@contextlib.contextmanager
def _spoken(path: Path) -> Iterator[None]:
    """Turn what SQLite says into sentences."""
    try:
        yield
    except schema.UNREADABLE as error:
        raise _sentence(path, error) from error


class Store:
    """One open job file. Use `open` and `create`. `notes` are sentences on what opening it found."""

    def __init__(
        self, path: Path, connection: sqlite3.Connection, head: Head, notes: list[str], is_whole: bool = True
    ) -> None:
        self.path, self.notes, self.is_whole = path, notes, is_whole
        self._db, self._head = connection, head
        self._file = _number(path)
        _open[self._file] = path

    @property
    def head(self) -> int:
        """The number of the change that the job stands after."""
        return self._head.number

    @classmethod
    def create(cls, path: Path, records: Iterable[AnyRecord], replace: bool = False) -> None:
        """Write a new job file beside its place and move it there. Raises JobError."""
        path = _place(path, replace)
        with written_beside(path) as new, _spoken(path), contextlib.closing(schema.make(new)) as db:
            schema.fill(db, ((record.id, _encode(record)) for record in records))

    @classmethod
    def open(cls, path: Path) -> Store:
        """Open, check and lock a job file. Raises JobError; Damaged where going back to a copy is what helps."""
        path = path.absolute()
        if not path.exists():
            raise JobError(f"There is no job {path}; check the name, or make the sample with: uncus sample {path.name}")
        path = path.resolve()
        if not path.is_file():
            raise JobError(f"{path} is not a file and so not an Uncus job.")
        if _number(path) in _open:
            raise logs.is_open(path)
        writable = stat.S_IMODE(path.stat().st_mode) & 0o222
        if not writable or not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
            raise JobError(f"{path} is read-only; allow writing to the file and its folder and try again.")
        mount = mount_of(path)
        if not mount.keeps_locks:
            raise JobError(
                f"{path} lies on a file server ({mount.kind}) that would let two people change it at once; copy it to "
                f"this "
                "machine, work there and put the copy back."
            )
        try:
            notes = _settled(path)
        except OSError as error:
            raise JobError(f"{path} could not be opened: {error.strerror or error}.") from error
        with _spoken(path):
            db = schema.connect(path)
            try:
                return cls._locked(path, db, notes)
            except BaseException:
                db.close()
                raise

    @classmethod
    def _locked(cls, path: Path, db: sqlite3.Connection, notes: list[str]) -> Store:
        # Exclusive locking is the job's lock: the system lets go of it when the process dies.
        db.execute("PRAGMA locking_mode = EXCLUSIVE")
        db.execute("PRAGMA journal_mode = DELETE")
        db.execute("PRAGMA synchronous = FULL")
        db.execute("BEGIN EXCLUSIVE")
        if not schema.is_ours(db) or not schema.is_sound(db):
            raise damaged(path)
        head, total = schema.head_of(db), schema.total_of(db)
        is_whole = head is not None and head.total == total
        if head is None:
            last = db.execute("SELECT ifnull(max(number), 0) FROM steps").fetchone()[0]
            head = Head(max(0, min(last, 2**40)), total=total)
            notes.append(f"Where the history of {path.name} stands is damaged; it goes on from its last change.")
        elif not is_whole:
            notes.append(
                f"Something in {path.name} is missing or of another day, by its own sum; hold it against a copy before "
                "you go on."
            )
        db.execute("UPDATE head SET number = number")  # takes the lock in earnest
        db.execute("COMMIT")
        return cls(path, db, msgspec.structs.replace(head, total=total), notes, is_whole)

    def read(self) -> tuple[list[AnyRecord], list[Aside]]:
        """Every record that can be used, in order of making, and those that cannot, set aside."""
        with _spoken(self.path):
            rows = self._db.execute("SELECT place, id, body, sum FROM records ORDER BY place").fetchall()
        records, aside = [], []
        for place, id, body, own in rows:
            found = checked_record(id, body) if own == sum_of(id, place, body) else "it is damaged in the file"
            if isinstance(found, str):
                aside.append(set_aside(str(id), body, found))
            else:
                records.append(found)
        return records, aside

    def step(self, number: int) -> Step | None:
        """A change of the history; None where there is none. Raises JobError for one that cannot be used."""
        with _spoken(self.path):
            row = self._db.execute("SELECT body, sum FROM steps WHERE number = ?", (number,)).fetchone()
        if row is None:
            return None
        body, own = row
        try:
            if own != sum_of(number, body):
                raise ValueError("damaged")
            stored = _step.decode(body)
            edits = list(zip(stored.before, stored.after, strict=True))
            if any(record is not None and record.problem() for pair in edits for record in pair):
                raise ValueError("not to be used")
        except (msgspec.MsgspecError, ValueError, TypeError, ArithmeticError, LookupError, RecursionError) as error:
            raise JobError(
                f"Change {number} of the history of {self.path.name} is damaged: it can be neither taken back nor done "
                f"again."
            ) from error
        return Step(stored.label, edits, stored.at, stored.moment)

    def past(self) -> list[Past]:
        """Every change of the history that can be read, the first first."""
        with _spoken(self.path):
            rows = self._db.execute("SELECT number, body FROM steps ORDER BY number").fetchall()
        found = []
        for number, body in rows:
            with contextlib.suppress(msgspec.MsgspecError, ValueError, TypeError, RecursionError):
                told = _told.decode(body)
                found.append(Past(number, told.label, told.at, told.moment))
        return found

    def name_moment(self, number: int, name: str) -> None:
        """Name the state after a change; nothing takes the name away. Raises JobError."""
        step = self.step(number)
        if step is None:
            raise JobError("There is no such change in the history any more.")
        body = _stored(msgspec.structs.replace(step, moment=name))
        with self._transaction():
            self._db.execute(
                "UPDATE steps SET body = ?, sum = ? WHERE number = ?", (body, sum_of(number, body), number)
            )

    def append(self, step: Step) -> None:
        """Write a change as one transaction: on disk when this returns, or not at all (JobError)."""
        number = self.head + 1
        body = _stored(step)
        with self._transaction():
            self._db.execute("DELETE FROM steps WHERE number >= ?", (number,))
            self._db.execute("INSERT INTO steps VALUES (?, ?, ?)", (number, body, sum_of(number, body)))
            head = self._write({record.id: a for b, a in step.edits if (record := a or b)}, number)
        self._head = head

    def move(self, after: dict[str, AnyRecord | None], number: int) -> None:
        """Write an undo or redo: the records as they become by their ids, and where the job now stands."""
        with self._transaction():
            head = self._write(after, number)
        self._head = head

    def _write(self, records: dict[str, AnyRecord | None], number: int) -> Head:
        db = self._db
        next_place = db.execute("SELECT ifnull(max(place), 0) + 1 FROM records").fetchone()[0]
        total = self._head.total
        for id, record in records.items():
            row = db.execute("SELECT place, sum FROM records WHERE id = ?", (id,)).fetchone()
            if row is not None and isinstance(row[1], int):
                total = added(total, less=row[1:])
            if record is None:
                db.execute("DELETE FROM records WHERE id = ?", (id,))
                continue
            place, body = row[0] if row else next_place, _encode(record)
            own = sum_of(id, place, body)
            db.execute("INSERT OR REPLACE INTO records VALUES (?, ?, ?, ?)", (place, id, body, own))
            total, next_place = added(total, (own,)), next_place + (row is None)
        return self._put_head(number, total)

    def _put_head(self, number: int, total: int) -> Head:
        head = self._head.next(number, total)
        self._db.execute("DELETE FROM head")
        self._db.execute("INSERT INTO head VALUES (?, ?, ?, ?, ?)", head.row)
        return head

    def forget(self, ids: Iterable[str]) -> None:
        """Take out of the file what was set aside on reading."""
        with self._transaction():
            for id in ids:
                self._db.execute("DELETE FROM records WHERE id = ?", (id,))
            head = self._put_head(self.head, schema.total_of(self._db))
        self._head = head

    def copy(self, path: Path, replace: bool = False) -> None:
        """Write a copy of the job as it stands, history included, whole or not at all. Raises JobError."""
        path = _place(path, replace)
        with written_beside(path) as new, _spoken(path):
            self._db.execute("VACUUM INTO ?", (str(new),))

    def compact(self) -> tuple[int, int]:
        """Write the file anew without what is free in it, whole or not at all; its size before and after. Raises
        JobError."""
        before = self.path.stat().st_size
        with _spoken(self.path):
            self._db.execute("VACUUM")
        return before, self.path.stat().st_size

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
        _open.pop(self._file, None)


def _number(path: Path) -> tuple[int, int]:
    found = path.stat()
    return found.st_dev, found.st_ino


def _place(path: Path, replace: bool) -> Path:
    """Where a job file may be written, resolved. Raises JobError."""
    path = path.absolute()
    if path.exists() and not replace:
        raise JobError(f"{path} exists already; choose another name or move it away.")
    if not path.parent.is_dir():
        raise JobError(f"There is no folder {path.parent}; make it first or choose another.")
    if path.exists():
        path = path.resolve()
        with contextlib.suppress(Damaged):  # what is damaged may be written over
            Store.open(path).close()  # refuses what is open elsewhere or is not ours
    return path


@contextlib.contextmanager
def written_beside(path: Path, own_logs: bool = False) -> Iterator[Path]:
    """A place to write a job file to, from where it is moved to its own. Logs that lie there are of an earlier file
    and are put aside first; a file's `own_logs`, which are in what was written, go once it is there."""
    new = name_beside(path, "new.")
    try:
        yield new
        if path.exists():
            os.chmod(new, stat.S_IMODE(path.stat().st_mode))
        if not own_logs:
            logs.clear_place(path)
        into_place(new, path)
        if own_logs:
            logs.remove(path)
    except OSError as error:
        raise JobError(f"{path} could not be made: {error.strerror or error}.") from error
    finally:
        new.unlink(missing_ok=True)
        logs.beside(new, "-journal").unlink(missing_ok=True)


def _settled(path: Path) -> list[str]:
    """Make a file ready to be opened: no log beside it but its own, and of this version; what was found, in
    sentences."""
    with logs.claimed(path):
        with path.open("rb") as source:
            version = schema.version_of(source.read(100), path)
        if version == schema.VERSION:
            return logs.settle(path)
        found = logs.settle(path) if version >= schema.JOURNALLED else []
        with logs.older(path) as (copy, notes), _spoken(path):
            with written_beside(path, own_logs=True) as new:
                migrations.bring_up(copy, version, new, path)
            return [*found, *notes, f"{path.name} was brought up to date from file version {version}."]
