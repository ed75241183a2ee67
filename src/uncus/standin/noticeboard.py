"""The noticeboard: a stand-in for the place where an office lays out what it sends. A folder that several offices see,
or that is served (`serving.py`): every package of a job as a version of its own, who took which, and for each receiver
what is different since the one he last took, piece by piece.

    BOARD/<job>/001/notice.json   what the version is
    BOARD/<job>/001/package/      the package as it was sent
    BOARD/<job>/taken/<receiver>.json

Versions are never changed. One is laid out whole or not at all: it is written beside its place and moved into it.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import shutil
import tempfile
import time
from pathlib import Path, PurePosixPath
from typing import NamedTuple

import msgspec

from uncus.bill.pieces_changed import Changes, pieces_changed
from uncus.bill.stood import Pieces
from uncus.job.errors import JobError
from uncus.job.files import file_name, json_of, read_outside, write_beside
from uncus.standin.parcels import MANIFEST, Parcel, manifest_in, opened

PAGE = "viewer.html"  # of a package: the page whose place for changes is filled in
_NOTICE, _TAKEN, _INSIDE = "notice.json", "taken", "package"
_PREFIX, _STALE = ".being-laid-out.", 3600.0  # s after which what a killed run left is cleared away
_CHANGES = re.compile(rb'(<script type="application/json" id="changes">)[^<]*(</script>)')
_TRIES = 100


class Notice(msgspec.Struct, frozen=True):
    """A version: of which job, the package's name, kind, receiver and day, how much is in it, and its sum."""

    job: str
    number: str
    version: int
    package: str
    kind: str = ""
    receiver: str = ""
    on: str = ""
    files: int = 0
    pieces: int = 0
    sum: str = ""

    @property
    def words(self) -> str:
        return f"version {self.version} ({self.package})"


class Taken(msgspec.Struct, frozen=True):
    """Who took which version, and when."""

    receiver: str
    version: int
    on: str


class Took(NamedTuple):
    """What a receiver gets: the version, where it lies now, and what is different since the one he had (None: he had
    none, or one of them does not tell its pieces)."""

    notice: Notice
    folder: Path
    changes: Changes | None


class Noticeboard:
    def __init__(self, folder: Path) -> None:
        self.folder = folder

    # -- what is there -----------------------------------------------------------------------------------------------
    def jobs(self) -> list[str]:
        """The jobs there are versions of, by their folders' names."""
        if not self.folder.is_dir():
            return []
        own = (p for p in self.folder.iterdir() if p.is_dir() and not p.is_symlink() and file_name(p.name) == p.name)
        return sorted(p.name for p in own if self.versions(p.name))

    def versions(self, job: str) -> list[Notice]:
        """The versions of a job, the first one first. Those that cannot be read are left out."""
        found = []
        for place in sorted(self._of(job).glob("[0-9]*/" + _NOTICE)):
            with contextlib.suppress(JobError):
                one = json_of(read_outside(place), Notice, place, "notice")
                if one.version == int(place.parent.name if place.parent.name.isdecimal() else 0):
                    found.append(one)
        return sorted(found, key=lambda one: one.version)

    def version(self, job: str, number: int = 0) -> Notice:
        """One of them, the last where none is asked for. Raises JobError."""
        there = self.versions(job)
        if not there:
            all_ = ", ".join(self.jobs()) or "nothing"
            raise JobError(f"Nothing of “{job}” is on the noticeboard {self.folder}; there is {all_}.")
        for one in there:
            if one.version == (number or there[-1].version):
                return one
        raise JobError(f"There is no version {number} of {job} on the noticeboard; the last is {there[-1].version}.")

    def file(self, job: str, version: int, name: str) -> bytes:
        """A file of a version that its manifest lists, or the manifest. Raises JobError for any other."""
        root = self._inside(job, self.version(job, version).version)
        place = (root / name).resolve()
        known = {MANIFEST, *(f.file for f in manifest_in(root).files)}
        if name not in known or not place.is_relative_to(root.resolve()) or (root / name).is_symlink():
            raise JobError(f"There is no {name!r} in version {version} of {job}.")
        return read_outside(place, 2_000_000_000)

    # -- laid out ----------------------------------------------------------------------------------------------------
    def publish(self, package: Path) -> Notice:
        """Lay out a package (a folder or a ZIP) as the next version of its job. One that is there already stays the
        version it is. Raises JobError where it is none, or not whole."""
        return self.lay_out(opened(package))

    def lay_out(self, parcel: Parcel) -> Notice:
        if missing := parcel.missing:
            raise JobError(f"{parcel.name} is not whole and was not laid out: {missing[0]}.")
        of = parcel.manifest
        job = job_folder(of.job, of.number)
        sum = hashlib.sha256(parcel.files[MANIFEST]).hexdigest()
        for one in self.versions(job):
            if one.sum == sum:
                return one
        told = parcel.pieces
        notice = Notice(of.job, of.number, 0, Path(parcel.name).stem if parcel.name.endswith(".zip") else parcel.name,
            of.kind, of.receiver, of.on, len(of.files), len(told.assemblies) if told else 0, sum)  # fmt: skip
        return self._moved_in(job, notice, parcel)

    def _moved_in(self, job: str, notice: Notice, parcel: Parcel) -> Notice:
        root = self._of(job)
        root.mkdir(parents=True, exist_ok=True)
        _clear(root)
        beside = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=root))
        try:
            os.chmod(beside, 0o755)
            for name in (MANIFEST, *(f.file for f in parcel.manifest.files)):
                _put(beside / _INSIDE, name, parcel.files[name])
            for _ in range(_TRIES):  # somebody else may lay out at the same time
                number = 1 + max((int(p.name) for p in root.iterdir() if p.name.isdecimal()), default=0)
                made = msgspec.structs.replace(notice, version=number)
                (beside / _NOTICE).write_bytes(_json(made))
                with contextlib.suppress(OSError):
                    os.rename(beside, root / f"{number:03d}")
                    return made
            raise JobError(f"The noticeboard {self.folder} could not be written to.")
        finally:
            shutil.rmtree(beside, ignore_errors=True)

    # -- taken -------------------------------------------------------------------------------------------------------
    def taken(self, job: str) -> list[Taken]:
        """Who took which version last."""
        found = []
        for place in sorted((self._of(job) / _TAKEN).glob("*.json")):
            with contextlib.suppress(JobError):
                found.append(json_of(read_outside(place), Taken, place, "record of what was taken"))
        return found

    def last_taken(self, job: str, receiver: str) -> int:
        """The version that a receiver took last; 0 for none."""
        return next((t.version for t in self.taken(job) if t.receiver.casefold() == receiver.strip().casefold()), 0)

    def changes(self, job: str, receiver: str, version: int = 0) -> Changes | None:
        """What is different in a version (the last) against the one that a receiver took last: None where he took none
        or one of the two does not tell its pieces. Raises JobError."""
        new, had = self.version(job, version), self.last_taken(job, receiver)
        if not had:
            return None
        old = self.version(job, had)
        was, now = self._pieces(job, had), self._pieces(job, new.version)
        return None if was is None or now is None else pieces_changed(was, now, (old.words, new.words))

    def to_learn(self, notice: Notice) -> dict[str, str]:
        """Each receiver who took another version last, with which it is and what is different for him, in words."""
        job = job_folder(notice.job, notice.number)
        found = {}
        for one in self.taken(job):
            if one.version != notice.version:
                changes = self.changes(job, one.receiver, notice.version)
                words = changes.in_short if changes is not None else "what changed cannot be told"
                found[one.receiver] = f"has version {one.version}; {words}"
        return found

    def take(self, job: str, receiver: str, out: Path, on: str, version: int = 0) -> Took:
        """Copy a version (the last) for a receiver into a folder of its own under `out`; from then on he is told what
        is different against it. Raises JobError."""
        if not receiver.strip():
            raise JobError("Say who takes it, so that he can be told what changes.")
        notice = self.version(job, version)
        changes = self.changes(job, receiver, notice.version)
        target = out / file_name(notice.package, "package")
        if target.exists() or target.is_symlink():
            raise JobError(f"{target} is there already and is not written over.")
        parcel = opened(self._inside(job, notice.version))
        out.mkdir(parents=True, exist_ok=True)
        beside = Path(tempfile.mkdtemp(prefix=_PREFIX, dir=out))
        try:
            os.chmod(beside, 0o755)
            for name, data in parcel.files.items():
                _put(beside, name, with_changes(data, changes) if name == PAGE and changes else data)
            os.rename(beside, target)
        finally:
            shutil.rmtree(beside, ignore_errors=True)
        self.note_taken(job, receiver, notice.version, on)
        return Took(notice, target, changes)

    def note_taken(self, job: str, receiver: str, version: int, on: str) -> None:
        """Keep that a receiver has a version now. Raises JobError where there is none."""
        number = self.version(job, version).version
        own = hashlib.sha256(receiver.strip().casefold().encode()).hexdigest()[:8]  # two names may make one file's
        place = self._of(job) / _TAKEN / f"{file_name(receiver.casefold())} {own}.json"
        place.parent.mkdir(parents=True, exist_ok=True)
        write_beside(place, _json(Taken(receiver.strip(), number, on)))

    # -- places ------------------------------------------------------------------------------------------------------
    def _of(self, job: str) -> Path:
        if not job or file_name(job) != job:
            raise JobError(f"“{job}” is no job of this noticeboard.")
        return self.folder / job

    def _inside(self, job: str, version: int) -> Path:
        return self._of(job) / f"{version:03d}" / _INSIDE

    def _pieces(self, job: str, version: int) -> Pieces | None:
        return opened(self._inside(job, version)).pieces


def job_folder(job: str, number: str) -> str:
    """The name that a job goes by on a noticeboard."""
    return file_name(f"{number} {job}".strip(), "job")


def with_changes(page: bytes, changes: Changes | None) -> bytes:
    """A page with what changed written in its place for that. What is in it is data and never runs: no character of it
    can end the place it stands in."""
    data = msgspec.json.encode(changes).replace(b"<", b"\\u003c").replace(b">", b"\\u003e")
    return _CHANGES.sub(lambda m: m[1] + data + m[2], page, count=1)


def _put(root: Path, name: str, data: bytes) -> None:
    """Write a file of a package under a folder. Raises JobError for a name that leads out of it."""
    place = PurePosixPath(name)
    if place.is_absolute() or ".." in place.parts or "\\" in name or "\0" in name or not place.parts:
        raise JobError(f"A package lists {name[:80]!r}, which lies outside of it; nothing was written.")
    target = root.joinpath(*place.parts)
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_bytes(data)


def _clear(root: Path) -> None:
    """Take away what killed runs left long ago."""
    for left in root.glob(_PREFIX + "*"):
        with contextlib.suppress(OSError):
            if time.time() - left.stat().st_mtime > _STALE:
                shutil.rmtree(left, ignore_errors=True)


def _json(content: Notice | Taken) -> bytes:
    return msgspec.json.format(msgspec.json.encode(content), indent=1) + b"\n"
