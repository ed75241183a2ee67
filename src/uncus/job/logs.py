"""Logs that lie beside a job file after a crash: told whether they are its own before SQLite may apply them.

SQLite ties a log to a file by its name alone, so that one left by a crash would be applied to whatever file next
bears that name: a new job, or a copy put back. Each state of a job names itself and the one before (`Head`); a
rollback journal leads to the state just before the file's, or is not its own, and none is needed by a file that is
whole.
"""

from __future__ import annotations

import contextlib
import enum
import fcntl
import os
import pwd
import shutil
import sqlite3
import struct
import tempfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

import msgspec

from uncus.job.errors import InUse, JobError
from uncus.job.schema import UNREADABLE, Head, connect, head_of, is_ours, is_sound, sum_of, total_of

TAILS = ("-journal", "-wal", "-shm")
_HOT = b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7"  # how a journal begins that is to be rolled back (file format, 3)
_LOCKED = (0x40000000, 512)  # the bytes that SQLite locks (its os.h)
_LATER = 2.0  # s: a file written so much later than a log beside it has nothing to do with that log


def beside(path: Path, tail: str) -> Path:
    return path.with_name(path.name + tail)


@contextlib.contextmanager
def claimed(path: Path) -> Iterator[None]:
    """Hold a job file while its logs are looked at. Raises JobError where another Uncus has it open.

    An open file description's lock (fcntl(2)) is not let go of when some other handle on the file is closed.
    """
    handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    try:
        try:
            fcntl.fcntl(handle, fcntl.F_OFD_SETLK, struct.pack("hhqqi4x", fcntl.F_WRLCK, os.SEEK_SET, *_LOCKED, 0))
        except (BlockingIOError, PermissionError):
            raise is_open(path, holder(path)) from None
        yield
    finally:
        os.close(handle)


def is_open(path: Path, who: str = "") -> InUse:
    return InUse(f"{path} is open in another Uncus{f' ({who})' if who else ''}; close it there and try again.")


def holder(path: Path) -> str:
    """Who holds a job's lock, as far as this machine can tell: the user and the process; "" where it cannot. Never
    for a file that this process has open itself: closing any handle on it would let go of its lock (fcntl(2))."""
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC)
    except OSError:
        return ""
    try:
        asked = struct.pack("hhqqi4x", fcntl.F_WRLCK, os.SEEK_SET, *_LOCKED, 0)
        told = fcntl.fcntl(handle, fcntl.F_OFD_GETLK, asked)
        process: int = struct.unpack("hhqqi4x", told)[4]
        if process <= 0:
            return ""
        return f"{pwd.getpwuid(os.stat(f'/proc/{process}').st_uid).pw_name}, process {process}"
    except (OSError, KeyError, struct.error):
        return ""
    finally:
        os.close(handle)


def put_aside(path: Path, tail: str) -> Path | None:
    """Give a log another name, under which nothing applies it; None where there is none."""
    log = beside(path, tail)
    if not log.exists():
        return None
    for number in range(1, 10_000):
        place = path.with_name(f"{path.name[:60]}.log-put-aside-{number}")
        if not place.exists():
            os.replace(log, place)
            return place
    raise JobError(f"There are too many logs put aside beside {path}; delete them and try again.")


def remove(path: Path) -> None:
    """Delete logs that are in the file already."""
    for tail in TAILS:
        beside(path, tail).unlink(missing_ok=True)


def clear_place(path: Path) -> None:
    """See that no log of an earlier file lies where a new file goes."""
    for tail in TAILS:
        log = beside(path, tail)
        if log.exists() and (tail == "-shm" or log.stat().st_size == 0):
            log.unlink()
        put_aside(path, tail)


def settle(path: Path) -> list[str]:
    """Leave beside a file only the journal that is its own; what was put aside, in sentences. The file must be
    claimed."""
    notes = [_said(path, place) for place in (put_aside(path, "-wal"),) if place is not None]
    beside(path, "-shm").unlink(missing_ok=True)
    if _begins(beside(path, "-journal"), _HOT):
        match _judged(path):
            case Use.DONE:
                beside(path, "-journal").unlink()
            case Use.NONE:
                place = put_aside(path, "-journal")
                notes += [_said(path, place)] if place else []
    return notes


def _said(path: Path, place: Path) -> str:
    return (
        f"A log that is not of {path.name} as it is now lay beside it: it was put aside as {place.name} and nothing of "
        f"it "
        "was used."
    )


def _begins(path: Path, magic: bytes) -> bool:
    try:
        with path.open("rb") as source:
            return source.read(len(magic)) == magic
    except FileNotFoundError:
        return False


class Use(enum.Enum):
    """What a journal is to the file beside it."""

    OWN = "leads from a change that was begun to the state before it"
    DONE = "leads back from a change that is in the file whole"
    NONE = "is of another file, or of another day of this one"


class State(msgspec.Struct, frozen=True):
    """What a copy of a file holds: None for a head that cannot be read; whether all of it is of one day."""

    head: Head | None
    whole: bool


def _judged(path: Path) -> Use:
    with tempfile.TemporaryDirectory(prefix="uncus-") as scratch:
        alone, rolled = (Path(scratch) / name for name in ("alone", "rolled"))
        for copy in (alone, rolled):
            shutil.copyfile(path, copy)
        shutil.copyfile(beside(path, "-journal"), beside(rolled, "-journal"))
        now, then = _state(alone), _state(rolled)
    if now.head is None or then.head is None or not then.whole:
        return Use.NONE if now.whole else Use.OWN  # of two that are broken SQLite's own way is taken
    if then.head.turn == now.head.turn:
        return Use.OWN
    if then.head.turn != now.head.last:
        return Use.NONE
    return Use.DONE if now.whole else Use.OWN  # a copy may have gone on by itself from what the journal leads to


def _state(path: Path) -> State:
    try:
        with closing(connect(path)) as db:
            if not is_ours(db):
                return State(None, False)
            head = head_of(db)
            whole = head is not None and is_sound(db) and total_of(db) == head.total and _agrees(db, head.number)
            return State(head, whole)
    except UNREADABLE:
        return State(None, False)


def _agrees(db: sqlite3.Connection, number: int) -> bool:
    """Whether the history is as it was written, and the records are what its last change made of them."""
    rows = db.execute("SELECT number, body, sum FROM steps ORDER BY number").fetchall()
    steps = {n: body for n, body, own in rows if own == sum_of(n, body)}
    if len(steps) != len(rows) or list(steps) != list(range(1, len(rows) + 1)) or number > len(rows):
        return False
    try:
        made = _made(steps[number]) if number else {}
    except _HOSTILE:
        return False
    find = "SELECT body FROM records WHERE id = ?"
    return all((db.execute(find, (id,)).fetchone() or (None,))[0] == body for id, body in made.items())


# -- files of versions 1 to 6, which kept a write-ahead log that names no file -------------------------


@contextlib.contextmanager
def older(path: Path) -> Iterator[tuple[Path, list[str]]]:
    """A copy of an older file to read from, with its log or journal applied where that can be its own; and what to
    say of it."""
    with tempfile.TemporaryDirectory(prefix="uncus-") as scratch:
        alone, logged = (Path(scratch) / name for name in ("alone", "logged"))
        for copy in (alone, logged):
            shutil.copyfile(path, copy)
        for tail in ("-wal", "-journal"):
            if beside(path, tail).exists():
                shutil.copyfile(beside(path, tail), beside(logged, tail))
        log = beside(path, "-wal")
        if log.exists() and log.stat().st_size and not _could_be_own(path, alone, logged):
            place = put_aside(path, "-wal")
            yield alone, [_said(path, place)] if place else []
        else:
            yield logged, []


class _Known(msgspec.Struct, frozen=True):
    """The records of an older file, and which of them any change ever touched."""

    rows: dict[str, bytes]
    touched: set[str]


def _could_be_own(path: Path, alone: Path, logged: Path) -> bool:
    """What no change touched must be the same with the log and without it, and the file no younger than its log."""
    before, after = _known(alone), _known(logged)
    if before is None or after is None:
        return before is None  # of two that are broken SQLite's own way is taken
    if path.stat().st_mtime > beside(path, "-wal").stat().st_mtime + _LATER:
        return before.rows == after.rows
    still = before.rows.keys() - before.touched - after.touched
    return all(after.rows.get(id) == before.rows[id] for id in still)


def _known(path: Path) -> _Known | None:
    """What an older file holds; None where its pages are out of order or not what its changes made of it."""
    try:
        with closing(connect(path)) as db:
            if not is_ours(db, 6) or not is_sound(db):
                return None
            steps = db.execute("SELECT number, body FROM steps ORDER BY number").fetchall()
            head = db.execute("SELECT number FROM head").fetchone()[0]
            rows = dict(db.execute("SELECT id, body FROM records").fetchall())
    except (*UNREADABLE, TypeError):
        return None
    if [n for n, _ in steps] != list(range(1, len(steps) + 1)) or not 0 <= head <= len(steps):
        return None
    made: dict[str, bytes | None] = {}
    touched: set[str] = set()
    try:
        for number, body in steps:
            became = _made(body)
            touched |= became.keys()
            made |= became if number <= head else {}
    except _HOSTILE:
        return None
    return _Known(rows, touched) if all(rows.get(id) == body for id, body in made.items()) else None


# -- what a change made, read as lightly as can be -----------------------------------------------------

_HOSTILE = (msgspec.MsgspecError, ValueError, TypeError, RecursionError)


def _made(body: bytes) -> dict[str, bytes | None]:
    """The records that a change touched, as it left them, by their ids; None for one that it dropped. Raises
    _HOSTILE."""
    step = msgspec.json.decode(body, type=_Step)
    made: dict[str, bytes | None] = {}
    for was, became in zip(map(bytes, step.before), map(bytes, step.after), strict=True):
        id = msgspec.json.decode(became if became != b"null" else was, type=_Id).id
        made[id] = became if became != b"null" else None
    return made


class _Step(msgspec.Struct):
    before: list[msgspec.Raw]
    after: list[msgspec.Raw]


class _Id(msgspec.Struct):
    id: str
