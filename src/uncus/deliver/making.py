"""What the outputs of a package are made from."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import msgspec

from uncus.bill.pieces_changed import Changes
from uncus.job.job import Job
from uncus.mark.lines import AssemblyLine, PartLine
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop


class File(NamedTuple):
    """A file of a package: its folder, a name made of any text, its ending; what it is called in the manifest, and
    the mark it is of ("" for none)."""

    folder: str
    name: str
    ending: str
    kind: str
    mark: str
    data: bytes


class Making(msgspec.Struct, frozen=True, eq=False):
    """A marked job, its steel, the pieces that go, the lines they are billed in, the assembly of each part; `step`
    tells that one of them is done; `lists` are those that go, `changes` what is different since its receiver's last."""

    job: Job
    shop: Shop
    marks: Marks
    wanted: Callable[[Assembly], bool]
    lines: list[AssemblyLine]
    parts: list[PartLine]
    within: dict[str, Assembly]
    step: Callable[[str], None]
    lists: tuple[str, ...] = ()  # by the names of their templates; all where there are none
    changes: Changes | None = None
