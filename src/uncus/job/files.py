"""Files: those of others read with suspicion, ours written beside their place and moved into it, names made of any
text."""

from __future__ import annotations

import codecs
import contextlib
import os
import secrets
import stat
import unicodedata
import zipfile
import zlib
from pathlib import Path
from typing import TypeVar

import msgspec
from pathvalidate import sanitize_filename

from uncus.job.errors import JobError
from uncus.job.schema import is_job
from uncus.words import one_line

T = TypeVar("T")

SPOILT_ZIP = (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError, ValueError, zlib.error)
"""What `zipfile` raises of bytes that are no whole archive: it promises no list, this is the one found by trying."""

_MOST = 64_000_000  # bytes of a file that are taken in
_NAME = 100  # bytes of a file name, less its ending
_MARKS = (
    (codecs.BOM_UTF8, "utf-8"),
    (codecs.BOM_UTF32_LE, "utf-32-le"),
    (codecs.BOM_UTF32_BE, "utf-32-be"),
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
)  # UTF-32's little-endian mark begins with UTF-16's


def read_outside(path: Path, most: int = _MOST) -> bytes:
    """The bytes of a file that is not ours. Raises JobError for what is no plain file, cannot be read or is too
    large."""
    try:
        # a FIFO with nobody writing must not hold us up, so it is opened without waiting and then looked at
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(handle, "rb") as source:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise JobError(f"{path} is not a file that can be read; choose a plain file.")
            data = source.read(most + 1)
    except OSError as error:
        raise JobError(f"{path} cannot be read: {error.strerror or error}.") from None
    except ValueError as error:  # a name with a zero in it
        raise JobError(f"{path} cannot be read: {error}.") from None
    if len(data) > most:
        raise JobError(f"{path} is too large to be read here (over {most // 1_000_000} MB).")
    return data


def text_of(data: bytes, source: Path | str = "The file") -> str:
    """The text of a file's bytes: UTF-8, or as its byte-order mark says. Raises JobError."""
    mark, encoding = next((m for m in _MARKS if data.startswith(m[0])), (b"", "utf-8"))
    try:
        return data[len(mark) :].decode(encoding)
    except UnicodeDecodeError as error:
        raise JobError(
            f"{source} is not {encoding.upper()} text (byte {error.start + 1}); save it as UTF-8 and try again."
        ) from None


def json_of(data: bytes, type: type[T], source: Path | str, what: str) -> T:
    """A struct from a file's JSON. `what` says what it should hold. Raises JobError with what is wrong."""
    text = text_of(data, source)
    try:
        return msgspec.json.decode(text, type=type)
    except RecursionError:
        raise JobError(f"{source} holds no {what} that can be read (it is nested too deeply).") from None
    except (msgspec.MsgspecError, ValueError) as error:
        raise JobError(f"{source} holds no {what} that can be read ({error}).") from None


def file_name(text: str, usual: str = "unnamed") -> str:
    """A file's name made of any text, safe in any folder of any system: no path, nothing hidden, never too long."""
    plain = unicodedata.normalize("NFC", one_line(text)).strip(" .")
    name = sanitize_filename(plain, replacement_text="_", platform="universal", max_len=_NAME).strip(" .")
    return name or usual


def writable(path: Path) -> None:
    """See that a file could be written there, before work is spent on it. Raises JobError."""
    folder = path.absolute().parent
    if path.is_dir():
        raise JobError(f"{path} is a folder; give the name of a file in it.")
    _spare_jobs(path)
    while not folder.exists():
        folder = folder.parent
    if not folder.is_dir() or not os.access(folder, os.W_OK | os.X_OK):
        raise JobError(f"{path} cannot be written: {folder} is not a folder that may be written to.")


def _spare_jobs(path: Path) -> None:
    """Nothing but a job is ever written over a job. Raises JobError."""
    with contextlib.suppress(OSError), path.open("rb") as there:
        if is_job(there.read(100)):
            raise JobError(f"{path} is an Uncus job and is not written over; choose another name.")


def name_beside(path: Path, words: str = "") -> Path:
    """A new hidden name in a path's own folder, short enough whatever the path's own."""
    return path.with_name(f".{path.name[:40]}.{words}{secrets.token_hex(4)}")


def into_place(beside: Path, path: Path) -> None:
    """Move what was written beside its place into it, and see the folder on disk."""
    os.replace(beside, path)
    with contextlib.suppress(OSError):
        folder = os.open(path.parent, os.O_RDONLY | os.O_DIRECTORY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)


def write_beside(path: Path, data: bytes) -> None:
    """Write a file so that it is either all there or as it was. Raises JobError with why it cannot be."""
    path = path.absolute()
    _spare_jobs(path)
    beside = name_beside(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
        with os.fdopen(handle, "wb") as out:
            out.write(data)
            out.flush()
            if path.is_file():
                os.fchmod(handle, stat.S_IMODE(path.stat().st_mode))
            os.fsync(handle)
        into_place(beside, path)
    except OSError as error:
        raise JobError(f"{path} cannot be written: {error.strerror}.") from None
    finally:
        with contextlib.suppress(OSError):
            beside.unlink(missing_ok=True)
