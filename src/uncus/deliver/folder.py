"""The folder of a package: written beside its place, with names made of any text, and exchanged for an earlier one
whole.

A run that is killed leaves its folder beside the place, held by nobody any more; the next run there clears it away.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import file_name, json_of, name_beside, read_outside, writable

MANIFEST = "manifest.json"
_OLD, _WRITING = ".old", "being-written."
_AT_FDCWD, _EXCHANGE = -100, 2  # renameat2(2)


def check_place(out: Path) -> None:
    """See that a package may go there, before work is spent on it. Raises JobError."""
    if out.exists() and not out.is_dir():
        raise JobError(f"{out} is a file; choose a folder for the package.")
    if out.is_dir() and (other := _other(out)) is not None:
        raise JobError(
            f"The folder {out} holds {other}, which is not of a package written there; choose an empty one or a new "
            f"name."
        )
    writable(out / "x" if out.is_dir() else out)
    if out.is_dir() and not os.access(out.absolute().parent, os.W_OK):
        raise JobError(f"The folder {out} cannot be exchanged for a new one: its own folder may not be written to.")


class _Listed(msgspec.Struct):
    file: str
    sha256: str = ""  # earlier versions gave none


class Manifest(msgspec.Struct):
    """The files of a package, as its list of them says."""

    files: list[_Listed]


def manifest_of(folder: Path) -> Manifest:
    """Raises JobError where there is none that can be read."""
    return json_of(read_outside(folder / MANIFEST), Manifest, MANIFEST, "list of a package")


def _other(out: Path) -> Path | None:
    """Something in a folder that no manifest of a package there lists, and that would be lost with it; None where
    all is."""
    listed: set[Path] = set()
    with contextlib.suppress(JobError):
        found = manifest_of(out)
        listed = {out / MANIFEST, *(out / one.file for one in found.files)}
    for here, folders, names in os.walk(out):
        for name in [*names, *(f for f in folders if (Path(here) / f).is_symlink())]:
            if Path(here) / name not in listed:
                return (Path(here) / name).relative_to(out)
    return None


class Folder:
    """What is being written; `put` makes names safe and different from one another."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._taken: set[str] = set()

    def put(self, folder: str, name: str, ending: str, data: bytes) -> str:
        """Write a file under a name made of any text; its path within the package. Raises JobError for a place
        outside."""
        stem = file_name(name)
        for number in range(1, 100_000):
            file = f"{folder}/{stem}{f'-{number}' if number > 1 else ''}{ending}".lstrip("/")
            if file.casefold() not in self._taken:  # some receivers' systems do not tell B1 from b1
                break
        self._taken.add(file.casefold())
        path = (self.path / file).resolve()
        if not path.is_relative_to(self.path.resolve()):
            raise JobError(f"{file} lies outside the package and was not written.")
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
        return file


@contextlib.contextmanager
def written(out: Path) -> Iterator[Folder]:
    """A folder beside `out`, moved into its place at the end or gone without a trace. Raises JobError."""
    out = out.resolve()  # a link goes on leading to the package
    check_place(out)
    beside: Path | None = None
    handle = -1
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        _clear_leftovers(out)
        beside = name_beside(out, _WRITING)  # named before it is made: stopped in between, it is still known
        beside.mkdir(mode=0o700)
        handle = os.open(beside, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)  # as long as this run lives, the folder is its own
        yield Folder(beside)
        _move_into_place(beside, out)
    except OSError as error:
        raise JobError(
            f"The package could not be written to {out}: {error.strerror or error}. Nothing was left behind."
        ) from error
    finally:
        if beside is not None:
            shutil.rmtree(beside, ignore_errors=True)
        if handle >= 0:
            os.close(handle)


def _prefix(out: Path) -> str:
    return f".{out.name[:40]}.{_WRITING}"


def _clear_leftovers(out: Path) -> None:
    """Delete what killed runs to the same place left: folders of ours that nobody holds."""
    for left in out.parent.iterdir():
        if not left.name.startswith(_prefix(out)) or not left.is_dir() or left.is_symlink():
            continue
        with contextlib.suppress(OSError):
            handle = os.open(left, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                if left.name.endswith(_OLD) and not out.exists():
                    os.replace(left, out)  # killed between the two moves of an exchange
                else:
                    shutil.rmtree(left, ignore_errors=True)
            finally:
                os.close(handle)


def _move_into_place(beside: Path, out: Path) -> None:
    """The new folder takes the place; an earlier one goes to where the new one was, and is deleted from there."""
    os.chmod(beside, 0o755)
    if not out.exists():
        os.replace(beside, out)
    elif not _exchange(beside, out):
        old = beside.with_name(beside.name + _OLD)
        os.replace(out, old)
        try:
            os.replace(beside, out)
        except OSError:
            os.replace(old, out)
            raise
        shutil.rmtree(old, ignore_errors=True)


def _exchange(a: Path, b: Path) -> bool:
    """Exchange two folders in one step, so that a kill between finds one or the other whole; False where that cannot
    be."""
    try:
        rename = ctypes.CDLL(None, use_errno=True).renameat2
    except (OSError, AttributeError):
        return False
    return rename(_AT_FDCWD, os.fsencode(a), _AT_FDCWD, os.fsencode(b), _EXCHANGE) == 0  # type: ignore[no-any-return]
