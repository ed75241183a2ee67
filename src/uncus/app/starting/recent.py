"""Jobs that were open lately: a small file beside the program's other traces, and a picture of each."""

from __future__ import annotations

import hashlib
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import json_of, read_outside, write_beside

MOST = 24


class Recent(msgspec.Struct, frozen=True):
    """A job: where it lies, what it is called, when it was last open (ISO 8601)."""

    path: str
    name: str
    number: str = ""
    at: str = ""


class RecentJobs:
    """Kept in a folder; what cannot be read or written is left out, never in the way."""

    def __init__(self, folder: Path | None) -> None:
        self._folder = folder
        self.all: list[Recent] = self._read()

    def note(self, job: Recent) -> None:
        """A job is open, or was until now."""
        self.all = [job, *(one for one in self.all if one.path != job.path)][:MOST]
        self._write()

    def forget(self, path: str) -> None:
        self.all = [one for one in self.all if one.path != path]
        self._write()

    def picture(self, path: str) -> Path | None:
        """Where the picture of a job is kept."""
        if self._folder is None:
            return None
        return self._folder / "pictures" / f"{hashlib.sha256(path.encode()).hexdigest()[:24]}.png"

    def _read(self) -> list[Recent]:
        if self._folder is None or not (place := self._folder / "recent.json").exists():
            return []
        try:
            return json_of(read_outside(place), list[Recent], place, "recent jobs")[:MOST]  # type: ignore[arg-type]
        except JobError:
            return []

    def _write(self) -> None:
        if self._folder is None:
            return
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            write_beside(self._folder / "recent.json", msgspec.json.encode(self.all))
        except (JobError, OSError):
            return
