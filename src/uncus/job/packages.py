"""What an office sends and to whom, what was sent, and what the fabricator says of it: records."""

from __future__ import annotations

import math
import re
from enum import StrEnum

import msgspec

from uncus.job.record import Record, derived_id

IFC, IFC2X3, MATERIAL, BOTH = "ifc", "ifc2x3", "material", "both"
IFCS = (IFC, IFC2X3)  # models in IFC, by the outputs that write them
MODELS = ("", *IFCS, MATERIAL, BOTH)
SEVERITIES = ("wrong", "look here", "saving")  # of findings, the gravest first
PLACES = re.compile(r"\{(job|number|kind|date|no)\}")  # what is filled in in a package's name
_MOST = 200  # characters of a name
_MOST_FILES = 200_000


class PackageKind(Record, frozen=True, tag=True):
    """What goes into a kind of package: `outputs` by the names of their writers, `sheets` the kinds of sheets (empty:
    all), `lists` by their templates (empty: all), `lens` what it is limited to, `job` whether the job itself goes.
    `name_by` is the folder's name, in which {job}, {number}, {kind}, {date} and {no} are filled in. `must` are the
    checks that stand in its way where they fail, by name; `severity` the findings that do."""

    name: str
    outputs: tuple[str, ...] = ()
    sheets: tuple[str, ...] = ()
    lists: tuple[str, ...] = ()
    lens: str = ""
    job: bool = False
    name_by: str = "{number} {kind} {no} {date}"
    must: tuple[str, ...] = ("marked", "sheets", "findings", "nc", "ifc", "ids", "lists")
    severity: str = "wrong"

    def problem(self) -> str | None:
        if not 0 < len(self.name.strip()) <= _MOST or len(self.name_by) > _MOST:
            return "A kind of package needs a name, and a short one."
        if self.severity not in SEVERITIES:
            return f"Findings that stand in a package's way are {', '.join(SEVERITIES)}; “{self.severity}” is none."
        if not self.outputs and not self.job:
            return f"Nothing goes into a package “{self.name}”; choose what does."
        if not set(PLACES.sub("", self.name_by)).isdisjoint("{}"):
            places = "{job}, {number}, {kind}, {date} and {no}"
            return f"The name of a package “{self.name}” may have {places} in it, and no other brackets."
        return None


class Receiver(Record, frozen=True, tag=True):
    """Who gets packages: which model he reads (`MODELS`), whether zipped, notes, and what he asks of the model: the
    text of his IDS file and its name."""

    name: str
    model: str = ""
    zipped: bool = False
    note: str = ""
    ids: str = ""
    ids_name: str = ""

    def problem(self) -> str | None:
        if not 0 < len(self.name.strip()) <= _MOST:
            return "A receiver needs a name, and a short one."
        return (
            None
            if self.model in MODELS
            else f"{self.name} reads IFC, IFC 2x3 or the material file; “{self.model}” is none of them."
        )


class SentFile(msgspec.Struct, frozen=True, gc=False):
    """A file of a package: its place in it and its SHA-256."""

    file: str
    sha256: str


class Sending(Record, frozen=True, tag=True):
    """A package that went out: its number, what and to whom, its files, what it held of each piece (id to fingerprint),
    what stood in its way and why it went anyway."""

    number: int
    kind: str
    receiver: str
    on: str
    folder: str
    files: tuple[SentFile, ...] = ()
    pieces: dict[str, str] = msgspec.field(default_factory=dict)
    against: tuple[str, ...] = ()
    reason: str = ""

    def problem(self) -> str | None:
        if self.number < 1 or len(self.files) > _MOST_FILES:
            return "A package that was sent has a number from one on, and no more than 200,000 files."
        return None


class Stage(StrEnum):
    """How far a piece is, as its fabricator says."""

    CUT = "cut"
    FITTED = "fitted"
    PAINTED = "painted"
    SHIPPED = "shipped"
    ERECTED = "erected"

    @property
    def order(self) -> int:
        return list(Stage).index(self)


class PieceProgress(Record, frozen=True, tag=True):
    """How far a piece is: the assembly's id, its `stage` by the day, and the fingerprint of what was sent then."""

    piece: str
    stage: Stage
    on: str
    by: str = ""
    content: str = ""
    kg: float = 0.0

    @classmethod
    def named(cls, piece: str) -> str:
        return derived_id("progress", piece)

    def problem(self) -> str | None:
        if not math.isfinite(self.kg) or self.kg < 0:
            return "What a piece weighs is a number of kg."
        return None if self.id == self.named(self.piece) else "A piece's progress is kept under another piece."
