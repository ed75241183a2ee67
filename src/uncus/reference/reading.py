"""Others' models read by a process of its own, and what was read kept beside the job: a model is read once.

What may go wrong there (a file cut short, one that refers to itself, one that asks for more memory than it may have, a
reader that breaks down) is one sentence here, and nothing half read is left.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import signal
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import IO, NamedTuple

import msgspec
from cachetools import LRUCache

from uncus.job.errors import JobError
from uncus.job.files import write_beside
from uncus.reference.limited import surroundings
from uncus.reference.model import FORM, Model
from uncus.words import one_line

_LARGEST = 4_000_000_000  # bytes of a file
_LEAST, _EACH, _SHARE = 1500, 14, 0.75  # MB a reader may have at least; times the file; of all memory
_END = b"END-ISO-10303-21;"
_STEPS = {"opening": "opening", "looking": "looking at products", "shapes": "building shapes"}
_KEPT: LRUCache[str, Model] = LRUCache(8)
_LOCK = threading.Lock()
Tell = Callable[[int, int, str], None]


class Read(NamedTuple):
    """A model, and the SHA-256 of its file."""

    model: Model
    sum: str


def _quiet(done: int, of: int, words: str) -> None:
    """Progress that nobody asks for."""


def sum_of_file(path: Path) -> str:
    """The SHA-256 of a file. Raises JobError."""
    try:
        with path.open("rb") as source:
            return hashlib.file_digest(source, "sha256").hexdigest()
    except OSError as error:
        raise JobError(f"{path} cannot be read: {error.strerror or error}.") from None


def shapes_folder(job: Path | None) -> Path:
    """Where what was read is kept: beside the job, or among what can be made again where that has no place of its own
    or cannot be written to."""
    if job is not None:
        beside = job.with_name(job.name + ".models")
        if beside.is_dir() and os.access(beside, os.W_OK):
            return beside
        if os.access(job.parent, os.W_OK):
            return beside
    from platformdirs import user_cache_path

    return user_cache_path("uncus") / "models"


def _kept(folder: Path, sum: str) -> Path:
    return folder / f"{sum[:40]}-{FORM}.npz"


def model_of(sum: str, folder: Path) -> Model | None:
    """A model that was read before; None where it is not kept, or not whole."""
    with _LOCK:
        known = _KEPT.get(sum)
    if known is not None:
        return known
    try:
        found = Model.unpacked(_kept(folder, sum).read_bytes())
    except OSError:
        return None
    if found is not None:
        with _LOCK:
            _KEPT[sum] = found
    return found


def read(
    path: Path,
    folder: Path,
    tell: Tell = _quiet,
    stopped: Callable[[], bool] = lambda: False,
    megabytes: int | None = None,
) -> Read:
    """An IFC model or a DXF drawing, by its file's ending: read now, or as it is kept. `tell` is called with done, of
    and words; `megabytes` is the most memory that reading may take. Raises JobError with one sentence."""
    reader, check = _READERS.get(path.suffix.casefold(), (None, None))
    if reader is None or check is None:
        raise JobError(f"{path.name or path} is neither an IFC model (.ifc) nor a DXF drawing (.dxf).")
    check(path, _size(path))
    sum = sum_of_file(path)
    known = model_of(sum, folder)
    if known is not None:
        return Read(known, sum)
    limit = megabytes or memory_for(path)
    with tempfile.TemporaryDirectory(prefix="uncus-") as place:
        out = Path(place) / "model"
        _run(reader, path, out, limit, tell, stopped)
        try:
            data = out.read_bytes()
        except OSError:
            raise JobError(f"{path.name} could not be read: its reader left nothing behind.") from None
    model = Model.unpacked(data)
    if model is None:
        raise JobError(f"{path.name} could not be read: what its reader made of it is not whole.")
    if sum_of_file(path) != sum:
        raise JobError(f"{path.name} changed while it was read; read it again.")
    with contextlib.suppress(OSError, JobError):  # it is read again next time
        folder.mkdir(parents=True, exist_ok=True)
        write_beside(_kept(folder, sum), data)
    with _LOCK:
        _KEPT[sum] = model
    return Read(model, sum)


def _size(path: Path) -> int:
    """Bytes of a file. Raises JobError for one that cannot be one of a model."""
    try:
        if not path.is_file():
            raise JobError(f"{path} is no file that can be read; choose an IFC model or a DXF drawing.")
        size = path.stat().st_size
    except OSError as error:
        raise JobError(f"{path} cannot be read: {error.strerror or error}.") from None
    if not size:
        raise JobError(f"{path.name} is empty.")
    if size > _LARGEST:
        raise JobError(f"{path.name} is larger than {_LARGEST // 1_000_000_000} GB; have it saved in parts.")
    return size


def _check_ifc(path: Path, size: int) -> None:
    """What can be told of a STEP file without reading it. Raises JobError."""
    try:
        with path.open("rb") as source:
            head = source.read(4096)
            source.seek(max(0, size - 4096))
            tail = source.read()
    except OSError as error:
        raise JobError(f"{path} cannot be read: {error.strerror or error}.") from None
    if b"ISO-10303-21" not in head[:1024]:
        hint = "; unpack it first" if head.startswith(b"PK") else ""
        raise JobError(f"{path.name} is no IFC file of text (ISO 10303-21){hint}.")
    if _END not in tail:
        raise JobError(f"{path.name} ends in the middle; have it sent again, whole.")


def _no_check(path: Path, size: int) -> None:
    """A drawing is known by being read."""


_READERS: dict[str, tuple[str, Callable[[Path, int], None]]] = {
    ".ifc": ("ifc_reader", _check_ifc),
    ".dxf": ("dxf_reader", _no_check),
}


def memory_for(path: Path) -> int:
    """MB that a reader may have for a file."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 1e6
    return int(min(max(_LEAST, _EACH * path.stat().st_size / 1e6), max(_LEAST, _SHARE * whole)))


class _Told(msgspec.Struct):
    step: str = ""
    done: int = 0
    of: int = 0
    refused: str = ""
    memory: bool = False


def _command(reader: str, path: Path, out: Path, limit: int) -> list[str]:
    return [sys.executable, "-m", f"uncus.reference.{reader}", str(path.absolute()), str(out), str(limit)]


def _run(reader: str, path: Path, out: Path, limit: int, tell: Tell, stopped: Callable[[], bool]) -> None:
    """Start a reader and wait for it. Raises JobError."""
    command = _command(reader, path, out, limit)
    with tempfile.TemporaryFile() as errors:
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=errors, stdin=subprocess.DEVNULL,
            env=surroundings())  # fmt: skip
        told = _Listening(process.stdout, path.name, tell)
        try:
            while process.poll() is None:
                told.join(0.05)
                if stopped():
                    raise JobError(f"Stopped; nothing of {path.name} was taken in.")
        finally:
            if process.poll() is None:
                process.kill()
            process.wait()
            told.join(2.0)
            if process.stdout is not None:
                process.stdout.close()
        errors.seek(0)
        wrong = errors.read(20_000).decode("utf-8", "replace")
    if process.returncode == 0:
        return
    if told.last.refused:
        raise JobError(f"{path.name} {one_line(told.last.refused).rstrip('.')}.")
    if told.last.memory or "bad_alloc" in wrong or "MemoryError" in wrong:
        raise JobError(f"{path.name} asks for more than {limit / 1000:.1f} GB of memory to be read; have it saved in "
            "parts.")  # fmt: skip
    where = f" while {_STEPS.get(told.step, 'reading')}" + (f", after {told.done:,} of {told.of:,}" if told.of else "")
    why = signal.strsignal(-process.returncode) if process.returncode < 0 else f"exit {process.returncode}"
    raise JobError(f"{path.name} brought its reader down{where} ({why}): it holds something that no reader can follow; "
        "nothing of it was taken in.")  # fmt: skip


class _Listening(threading.Thread):
    """Hears what a reader says, line by line."""

    def __init__(self, source: IO[bytes] | None, name: str, tell: Tell) -> None:
        super().__init__(daemon=True)
        assert source is not None
        self._source, self._name, self._tell = source, name, tell
        self.last = _Told()
        self.step, self.done, self.of = "", 0, 0
        self.start()

    def run(self) -> None:
        with contextlib.suppress(ValueError, OSError):
            for line in self._source:
                try:
                    self.last = msgspec.json.decode(line, type=_Told)
                except msgspec.MsgspecError:
                    continue  # a library of the reader's has its say as well
                if self.last.step:
                    self.step, self.done, self.of = self.last.step, self.last.done, self.last.of
                    self._tell(self.done, self.of, f"{self._name}: {_STEPS.get(self.step, self.step)}")
