"""Anchored: rods through a plate's own holes into the concrete or masonry that it stands on or hangs from."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.catalog.bolts import rod_sizes
from uncus.connect.attachments.bolted_on import holes_of
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.attachments.welded_on import is_plate
from uncus.connect.fitup import Fitup
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point

SIDES = ("far", "near")
_PAST = 1.6  # mm that a hole is wider than its rod at least
_OVER = 1.6  # of the rod's thickness, that it stands over the plate with its nut


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    rod: Annotated[str | None, About("Rod", unit="choice", choices=tuple(rod_sizes()),
        help="Left open: the largest that goes through the holes.")] = None  # fmt: skip
    side: Annotated[str, About("Concrete on its side", unit="choice", choices=SIDES)] = "far"
    deep: Annotated[float, About("Embedded", low=30, high=2000)] = 152.4


def build(fitting: Fitting) -> Contribution:
    """A rod in each hole; a finding where the plate has none, or none goes through."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    plate, t = fitting.member, fitting.member.section.tw
    found = list(holes_of(plate))
    if not found:
        fit.find(f"The {plate.words} has no holes for anchors; give it some, or delete its anchors.")
        return fit.done()
    sizes = rod_sizes()
    for n, (place, spot, hole) in enumerate(found, 1):
        own = [s for s in sizes.values() if (s.system == "inch") is fit.inch]
        within = [s for s in own if s.d + _PAST <= hole.d + 0.05]
        size = sizes[p.rod] if p.rod else max(within, key=lambda s: s.d, default=None)
        if size is None:
            fit.find(f"No anchor goes through a hole of the {plate.words}; make it wider.")
            continue
        into = place.y if p.side == SIDES[0] else -place.y
        over = t / 2 + _OVER * size.d
        head, stack = point(spot - into * over), t + _OVER * size.d
        fit.feature(plate.id, hole)  # its own, so that whoever looks at the rods knows of it
        fit.fasteners(Fasteners(f"rod {n}", FastenerKind.ROD, size.name, fit.rules.rod_grade, p.deep + t / 2 + over,
            stack, (head,), direction(into), (plate.id,), field=True))  # fmt: skip
    return fit.done()


KIND = AttachmentKind(
    "anchored",
    "Anchored",
    Params,
    build,
    is_plate,
    "Rods through a plate's own holes into concrete or masonry.",
    places=False,
)
