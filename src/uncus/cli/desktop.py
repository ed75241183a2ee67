"""The desktop's own files: a menu entry, a kind of file with its icon, and what opens it, in the user's data folder.

Desktop Entry Specification 1.5, Shared MIME-info Database 0.21, Icon Theme Specification 0.13 (freedesktop.org).
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from importlib.resources import files
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import json_of, read_outside, write_beside
from uncus.job.schema import APPLICATION_ID

MIME = "application/x-uncus"
_KEPT = Path("uncus") / "desktop.json"  # what was made, so that taking it away leaves the folder as it was
_CACHES = (("applications", "update-desktop-database"), ("mime", "update-mime-database"))
_CACHE = Path("applications") / "mimeinfo.cache"  # what the first of them writes; the second all else under its folder


class Made(msgspec.Struct, frozen=True):
    """Files and folders that were made, by their places in the data folder."""

    files: tuple[str, ...]
    folders: tuple[str, ...]


def data_folder() -> Path:
    """The user's data folder (XDG Base Directory Specification)."""
    own = os.environ.get("XDG_DATA_HOME", "")
    return Path(own) if own.startswith("/") else Path.home() / ".local" / "share"


def starter() -> str:
    """How a desktop starts this program: the script that it was started by, or this Python."""
    own = os.environ.get("UNCUS_STARTED_BY") or shutil.which(Path(sys.argv[0]).name if "uncus" in sys.argv[0] else "")
    if own and Path(own).name == "uncus":
        return _quoted(str(Path(own).absolute()))
    return f"{_quoted(sys.executable)} -m uncus"


def _quoted(path: str) -> str:
    """A path as the value of Exec has it."""
    escaped = path.replace("\\", "\\\\\\\\").replace('"', '\\\\"').replace("`", "\\\\`").replace("$", "\\\\$")
    return f'"{escaped.replace("%", "%%")}"'


def install(folder: Path, start: str) -> Made:
    """Put the files in place and tell the desktop; what was there before is kept. Raises JobError."""
    if (folder / _KEPT).exists():
        remove(folder)
    icon = (files("uncus") / "app" / "icons" / "uncus.svg").read_bytes()
    wanted = {
        Path("applications/uncus.desktop"): _entry(start).encode(),
        Path("mime/packages/uncus.xml"): _kind().encode(),
        Path("icons/hicolor/scalable/apps/uncus.svg"): icon,
        Path("icons/hicolor/scalable/mimetypes/application-x-uncus.svg"): icon,
    }
    before = _there(folder, wanted)
    try:
        for place, data in wanted.items():
            (folder / place).parent.mkdir(parents=True, exist_ok=True)
            write_beside(folder / place, data)
        _tell(folder)
        (folder / _KEPT).parent.mkdir(parents=True, exist_ok=True)
        write_beside(folder / _KEPT, b"{}")
        new = sorted(_there(folder, wanted) - before)
        made = Made(tuple(p for p in new if not (folder / p).is_dir()), tuple(p for p in new if (folder / p).is_dir()))
        write_beside(folder / _KEPT, msgspec.json.encode(made))
    except OSError as error:
        raise JobError(f"{error.filename or folder} could not be written: {error.strerror or error}.") from None
    return made


def remove(folder: Path) -> int:
    """Take everything away that was put in place, and folders that are empty then; how many files. Raises JobError."""
    kept = folder / _KEPT
    if not kept.exists():
        raise JobError(f"Nothing of Uncus is in {folder}; there is nothing to take away.")
    made = json_of(read_outside(kept), Made, kept, "what was installed")
    others = [p for p in (folder / "mime" / "packages").glob("*.xml") if p.name != "uncus.xml"]
    gone = 0
    for place in made.files:
        path = folder / place
        if ".." in Path(place).parts or Path(place).is_absolute():
            continue  # nobody but us writes this file; if somebody did, nothing outside is touched
        ours = "uncus" in path.name or path == kept
        if path.is_file() and (ours or not others):  # a cache that other programs use by now stays
            path.unlink()
            gone += 1
    for place in sorted(made.folders, key=len, reverse=True):
        path = folder / place
        if ".." not in Path(place).parts and path.is_dir() and not any(path.iterdir()):
            path.rmdir()
    if others or any((folder / "applications").glob("*.desktop")):
        _tell(folder)
    return gone


def _there(folder: Path, wanted: Iterable[Path]) -> set[str]:
    """What is there of our files, their folders, and the caches made of them: never another program's own."""
    ours = {part for place in (*wanted, _KEPT, _CACHE) for part in (place, *place.parents)} - {Path()}
    caches = {p.relative_to(folder) for p in (folder / "mime").rglob("*")}
    caches = {p for p in caches if p.parts[:2] != ("mime", "packages")}
    return {str(p) for p in ours | caches if (folder / p).exists()}


def _tell(folder: Path) -> None:
    """Let the desktop's caches be made anew, where it has the programs for it."""
    for name, program in _CACHES:
        found = shutil.which(program)
        if found and (folder / name).is_dir():
            subprocess.run([found, str(folder / name)], check=False, capture_output=True, timeout=60)


def _entry(start: str) -> str:
    return f"""[Desktop Entry]
Type=Application
Version=1.5
Name=Uncus
GenericName=Steel detailing
Comment=Model a steel building, number its pieces, make sheets, bills and NC
Exec={start} open %f
Icon=uncus
Terminal=false
Categories=Graphics;Engineering;
MimeType={MIME};
StartupNotify=true
"""


def _kind() -> str:
    number = f"0x{APPLICATION_ID:08x}"
    return f"""<?xml version="1.0" encoding="UTF-8"?>
<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">
  <mime-type type="{MIME}">
    <comment>Uncus job</comment>
    <icon name="application-x-uncus"/>
    <glob pattern="*.uncus"/>
    <sub-class-of type="application/vnd.sqlite3"/>
    <magic priority="60"><match type="big32" value="{number}" offset="68"/></magic>
  </mime-type>
</mime-info>
"""
