"""Others' models and drawings placed by two points of theirs on two points of the job."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.app.tools.tool import Commit, PointTool, Preview, Result, Site
from uncus.job.errors import JobError
from uncus.job.forms import FLAGS, About
from uncus.job.records import Reference
from uncus.job.references import DXF
from uncus.reference.placing import by_two_points


class PlaceModelOptions(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    scales: Annotated[str, About("Scale to the second point", unit="choice", choices=FLAGS,
        help="As drawings want it whose unit is not known; models keep their size.")] = FLAGS[1]  # fmt: skip


class PlaceModelTool(PointTool):
    words = "Place a model by points"
    picks_edges = True

    def __init__(self, site: Site, reference: str) -> None:
        super().__init__(site)
        self.reference = reference
        of = site.job.get(reference, Reference)
        drawing = of is not None and of.format == DXF
        self.options = PlaceModelOptions(FLAGS[0] if drawing else FLAGS[1])

    @property
    def prompt(self) -> str:  # type: ignore[override]
        return ("pick a point of the model", "pick where that point comes to", "pick a second point of the model",
            "pick where the second point lies, or its direction")[min(len(self.picks), 3)]  # fmt: skip

    def taken(self) -> Result:
        if len(self.picks) < 4:
            return None
        of = self.site.job.get(self.reference, Reference)
        if of is None:
            raise JobError("The model is no longer beside the steel.")
        a, to_a, b, to_b = self.points
        made = by_two_points(of, a, b, to_a, to_b, self.options.scales == FLAGS[0])
        self.picks.clear()
        return Commit(f"Place {of.name}", (made,), words=f"{of.name} is turned by {(made.turn - of.turn) % 360:.2f}°")

    def preview(self) -> Preview:
        path = self._path()
        return Preview(lines=tuple(path[n : n + 2] for n in (0, 2) if len(path) > n + 1))
