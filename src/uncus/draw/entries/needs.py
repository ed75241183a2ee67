"""What entries are made from."""

from __future__ import annotations

from typing import Any, NamedTuple

from uncus.draw.kept import Kept, Standing
from uncus.job.job import Job
from uncus.job.records import Hold, SheetPreset
from uncus.mark.lines import AssemblyLine
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly
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

    @property
    def everything(self) -> list[Assembly]:
        """All assemblies, wanted or not, in the order of their ids."""
        return sorted((a for line in self.lines for a in line.assemblies), key=lambda a: a.id)

    def said(self, name: str, standing: Standing) -> dict[str, Any]:
        """What every sheet of an erector's is given beside what it shows, by the names of its fields."""
        project = self.job.project
        return {"name": name, "project": project.name, "number": project.number, "units": project.units, "content": "",
            "hand": standing.hand, "since": standing.since}  # fmt: skip
