"""Edge plates: bent plates along a top flange, welded down by one leg, that close the edge of a slab or deck."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.bending import usual_radius
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.fitup import Fitup, rectangle
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.forming import Bend, zone
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    side: Annotated[str, About("Edge on the", unit="choice", choices=("near side", "far side"))] = "far side"
    edge: Annotated[float, About("Edge off the middle", low=0, high=2000,
        help="From the web's plane to the edge's face.")] = 200.0  # fmt: skip
    high: Annotated[float, About("Height", low=40, high=1000, help="Over the top flange.")] = 114.3
    lap: Annotated[float, About("Lap on the flange", low=25, high=1000, help="At most all of it.")] = 101.6
    thickness: Annotated[float | None, About("Thickness", low=3, high=20)] = None
    radius: Annotated[float | None, About("Inside radius", low=3, high=100,
        help="One and a half thicknesses where left empty.")] = None  # fmt: skip
    held_back: Annotated[float, About("Held back at the ends", low=0, high=2000,
        help="From the ends of the member, to pass what holds it.")] = 0.0  # fmt: skip
    longest: Annotated[float, About("Longest piece", low=500, high=12_000,
        help="Longer edges are made of several.")] = 3048.0  # fmt: skip
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The plates, one beside the other, and the welds along the flange's edge."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    t = p.thickness or fit.stocked(6.0)
    r = p.radius if p.radius is not None else usual_radius(fit.rules.plate_grade, t)
    out = 1.0 if p.side == "far side" else -1.0
    flange = s.b / 2
    lap = min(p.lap, s.b)
    if p.edge - t < flange - lap:
        fit.find(
            f"The edge plate of the {body.words} does not reach its flange; give it a longer lap or set its edge out."
        )
        return fit.done()
    # outside dimensions of both legs less the set-back of the bend, plus the bend's own zone
    bend = Bend(0, 0, 1, 0, 90.0, r)
    set_back, allowed = r + t, zone(bend, t)
    level = p.edge - flange + lap - set_back
    upright = p.high - set_back
    if min(level, upright) < 0:
        fit.find(f"The legs of the edge plate of the {body.words} are shorter than its bend; use a smaller radius.")
        return fit.done()
    width = level + allowed + upright
    start = flange - lap
    # the plate lies on the flange seen from above, its z outwards: so its x runs back along the near side
    length = fitting.length - 2 * p.held_back
    if length < 2 * lap:
        fit.find(f"The {body.words} is too short for an edge plate held back so far from both its ends.")
        return fit.done()
    number = max(1, int(np.ceil(length / p.longest - 1e-4)))
    each = length / number
    for n in range(number):
        x0 = fitting.left + p.held_back + n * each
        high = s.d / 2 + t / 2
        along = body.frame.x * out
        origin = body.frame.to_model((x0 if out > 0 else x0 + each, out * start, high))
        frame = Placement(origin, np.column_stack([along, -body.frame.z, np.cross(along, -body.frame.z)]))
        line = level + allowed / 2
        fold = Bend(0.0, line, each, line, 90.0, r)
        id = fit.plate(str(n + 1), frame, rectangle(0, each, 0, width), t, body.id, "edge plate", bends=[fold])
        path = [body.frame.to_model((x, out * flange, s.d / 2)) for x in (x0, x0 + each)]
        fit.weld(str(n + 1), p.weld or fit.leg(t), path, (body.id, id), 1)
    return fit.done()


KIND = AttachmentKind(
    "edge plates",
    "Edge plates",
    Params,
    build,
    lambda body: body.section.form in ("I", "U"),
    "Bent plates along the top flange that hold the edge of a slab or deck.",
    rolls=False,
)
