"""A package as whoever gets it sees it: a folder or a ZIP, its list of files, and whether all of it is there.

Written apart from what makes packages, as another office would: the stand-ins read what a stranger reads.
"""

from __future__ import annotations

import hashlib
import io
import zipfile
from pathlib import Path

import msgspec

from uncus.bill.stood import PIECES, Pieces, read_pieces
from uncus.job.errors import JobError
from uncus.job.files import SPOILT_ZIP, json_of, read_outside

MANIFEST = "manifest.json"
_MOST = 2_000_000_000  # bytes of a package that is packed
_MOST_FILES = 200_000


class Listed(msgspec.Struct, frozen=True):
    """A file of a package as its manifest lists it."""

    file: str
    kind: str
    sha256: str
    mark: str = ""


class Manifest(msgspec.Struct, frozen=True):
    """What a package says of itself; earlier ones named neither kind nor receiver."""

    job: str
    number: str
    files: tuple[Listed, ...]
    package: int = 0
    kind: str = ""
    receiver: str = ""
    on: str = ""


class Parcel(msgspec.Struct, frozen=True):
    """A package that came: its name, every file of it by its place, its manifest."""

    name: str
    files: dict[str, bytes]
    manifest: Manifest

    @property
    def missing(self) -> list[str]:
        """What its manifest lists and is not there, or is not as it says."""
        found = [f"{one.file} is not in the package" for one in self.manifest.files if one.file not in self.files]
        return found + [f"{one.file} is not what the manifest says" for one in self.manifest.files
            if one.file in self.files and hashlib.sha256(self.files[one.file]).hexdigest() != one.sha256]  # fmt: skip

    @property
    def pieces(self) -> Pieces | None:
        """The pieces that it told of; None where it has no such list. Raises JobError."""
        at = next((f.file for f in self.manifest.files if f.file.rpartition("/")[2] == PIECES), None)
        return read_pieces(self.files[at], at) if at in self.files else None


def opened(package: Path) -> Parcel:
    """A package: a folder, or one packed as ZIP. Raises JobError where it is none."""
    files = _contents(package)
    return Parcel(package.name, files, _manifest(files, package.name))


def unpacked(data: bytes, name: str) -> Parcel:
    """A package out of the bytes of a ZIP; `name` is what sentences call it. Raises JobError."""
    files = _of_zip(data, name)
    return Parcel(name, files, _manifest(files, name))


def _contents(package: Path) -> dict[str, bytes]:
    if package.is_dir():
        return {p.relative_to(package).as_posix(): read_outside(p, _MOST) for p in sorted(package.rglob("*"))
            if p.is_file() and not p.is_symlink()}  # fmt: skip
    if not package.is_file():
        raise JobError(f"{package} is no package: neither a folder nor a ZIP.")
    return _of_zip(read_outside(package, _MOST), package.name)


def _of_zip(data: bytes, name: str) -> dict[str, bytes]:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as source:
            entries = [i for i in source.infolist() if not i.is_dir()]
            if sum(i.file_size for i in entries) > _MOST or len(entries) > _MOST_FILES:
                raise JobError(f"{name} unpacks to more than is taken in.")
            return {i.filename.partition("/")[2] if "/" in i.filename else i.filename: source.read(i) for i in entries}
    except SPOILT_ZIP as error:
        raise JobError(f"{name} is no ZIP that can be read ({error}).") from None


def manifest_in(folder: Path) -> Manifest:
    """The manifest of a package's folder. Raises JobError."""
    return _manifest({MANIFEST: read_outside(folder / MANIFEST)}, folder.name)


def _manifest(files: dict[str, bytes], name: str) -> Manifest:
    data = files.get(MANIFEST)
    if data is None:
        raise JobError(f"{name} has no manifest; it is no package, or was not all sent.")
    return json_of(data, Manifest, f"{MANIFEST} of {name}", "list of files")
