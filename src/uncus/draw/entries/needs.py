"""What entries are made from."""

from __future__ import annotations

from typing import NamedTuple

from uncus.draw.kept import Kept
from uncus.job.job import Job
from uncus.job.records import Hold, SheetPreset
from uncus.mark.lines import AssemblyLine
from uncus.mark.marking import Marks
from uncus.shop.shop import Shop


class Needs(NamedTuple):
    """A marked job with its steel, all assemblies by mark, those that sheets are `wanted` of, what is kept of sheets,
    and the questions that hold members. A sheet shows all that has its mark, wanted or not: it is one sheet, whoever it
    goes to."""

    job: Job
    shop: Shop
    marks: Marks
    lines: list[AssemblyLine]
    wanted: frozenset[str]
    kept: Kept
    presets: list[SheetPreset]
    holds: dict[str, list[Hold]]
