"""The user's own settings, in a file that can be carried to another machine."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Annotated, Any

import msgspec
from platformdirs import user_config_path

from uncus.job.errors import JobError
from uncus.job.files import json_of, read_outside, write_beside
from uncus.job.forms import About, checked
from uncus.job.records import Line, Role
from uncus.units import Units

_ON = ("yes", "no")
_SIZES = ("85 %", "100 %", "115 %", "130 %", "150 %", "175 %", "200 %")
_LONGEST = 40  # characters of a key's name


class Preferences(msgspec.Struct, frozen=True):
    """Values that make their own form; `offsets` are where each role's steel lies on its work line, `tools` what was
    last chosen in each tool's options, `keys` those that commands have instead of their own."""

    theme: Annotated[str, About("Look", unit="choice", choices=("light", "dark"))] = "light"
    text: Annotated[
        str,
        About("Text size", unit="choice", choices=_SIZES, help="Of the whole window, as far as the screen has room."),
    ] = "100 %"
    units: Annotated[
        str,
        About("Units of new jobs", unit="choice", choices=tuple(str(u) for u in Units), help="A job keeps its own."),
    ] = "imperial"
    snap: Annotated[int, About("Snap distance, pixels", unit="count", low=3, high=60)] = 12
    orbit: Annotated[
        str, About("Turn with", unit="choice", choices=("middle", "right"), help="The button that is dragged.")
    ] = "middle"
    wheel: Annotated[str, About("Wheel forward", unit="choice", choices=("zooms in", "zooms out"))] = "zooms in"
    land: Annotated[
        str,
        About(
            "Warn of missed steel",
            unit="choice",
            choices=_ON,
            help="Say so where a new end passes under or over a member.",
        ),
    ] = "yes"
    catalogue: Annotated[
        str, About("Catalogue of bought items", unit="text", help="The folder that colleagues share; empty: none.")
    ] = ""
    cluster: Annotated[
        str,
        About(
            "Other machines",
            unit="text",
            help="A Dask scheduler whose workers draw and write NC, such as tls://machine:8786; empty: this one.",
        ),
    ] = ""
    catalogue_id: str = ""  # its own, by which it is found where the folder moves
    offsets: dict[str, tuple[str, float]] = msgspec.field(default_factory=dict)
    tools: dict[str, dict[str, Any]] = msgspec.field(default_factory=dict)
    keys: dict[str, str] = msgspec.field(default_factory=dict)

    @property
    def percent(self) -> int:
        """How large the interface's lettering is."""
        return int(self.text.removesuffix("%"))

    def offset(self, role: Role) -> tuple[Line, float]:
        """Which line of the section lies on a role's work line, and how far above."""
        usual = {
            Role.COLUMN: Line.CENTRE,
            Role.POST: Line.CENTRE,
            Role.BRACE: Line.CENTRE,
            Role.HANGER: Line.CENTRE,
            Role.EMBED: Line.CENTRE,
            Role.STRINGER: Line.CENTRE,
            Role.RAIL: Line.CENTRE,
        }
        line, rise = self.offsets.get(str(role), (str(usual.get(role, Line.TOP)), 0.0))
        return Line(line), rise


def place() -> Path:
    """Where the settings live: what UNCUS_PREFERENCES says, else the user's configuration folder."""
    own = os.environ.get("UNCUS_PREFERENCES")
    return Path(own) if own else user_config_path("uncus") / "preferences.json"


def read(path: Path) -> Preferences:
    """Settings from a file. Raises JobError with what is wrong in it."""
    try:
        found = json_of(read_outside(path), Preferences, f"The settings file {path}", "settings")
        plain = {
            k: v
            for k, v in msgspec.structs.asdict(found).items()
            if k not in ("offsets", "tools", "keys", "catalogue_id")
        }
        checked(Preferences, plain)
        if any(len(key) > _LONGEST or not key.isprintable() for key in found.keys.values()):
            raise ValueError("a key has no name that a keyboard could have")
        for role, (line, rise) in found.offsets.items():
            Role(role), Line(line)
            if not abs(rise) < 100_000:
                raise ValueError(f"{role} lies too far off")
    except (msgspec.MsgspecError, ValueError, TypeError) as error:
        raise JobError(f"The settings {path} cannot be used ({error}).") from None
    return found


def write(path: Path, preferences: Preferences) -> None:
    """Settings to a file. Raises JobError."""
    write_beside(path, msgspec.json.format(msgspec.json.encode(preferences), indent=1))
