"""Lifting lugs: plates with a hole on the top of a member, to lift it by."""

import math
from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    by: Annotated[str, About("Spread by", unit="choice", choices=("count", "spacing", "places"))] = "count"
    first: Annotated[float, About("First from the end", low=0, high=50_000)] = 1219.2
    last: Annotated[float, About("Least to the other end", low=0, high=50_000)] = 1219.2
    foot: Annotated[float, About("Length at the foot", low=40, high=600)] = 152.4
    high: Annotated[float, About("Hole above the steel", low=25, high=400)] = 63.5
    hole: Annotated[float, About("Hole", low=10, high=120)] = 26.9875
    thickness: Annotated[float, About("Thickness", low=6, high=80)] = 12.7
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """A lug over the web at each place, rounded round its hole."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    r = max(1.5 * p.hole, 25.0)
    if 2 * r > p.foot:
        fit.look("The lug is wider round its hole than at its foot; give it a longer foot.")
    for n, x in enumerate(stations(fit, fitting, p, "lifting lugs"), 1):
        half = p.foot / 2
        if x - half < fitting.left or x + half > fitting.right:
            fit.find(f"A lifting lug runs past the end of the {body.words} and is left out.")
            continue
        arc = [math.pi * k / 8 for k in range(9)]
        shape = [(-half, 0.0), (half, 0.0), *((r * math.cos(a), p.high + r * math.sin(a)) for a in arc)]
        frame = Placement(body.frame.to_model((x, 0.0, s.d / 2)), body.frame.axes)
        id = fit.plate(str(n), frame, shape, p.thickness, body.id, "lifting lug")
        fit.feature(id, Hole(Face.WEB, 0.0, p.high, p.hole))
        path = [frame.to_model((at, 0.0, 0.0)) for at in (-half, half)]
        fit.weld(str(n), p.weld or fit.leg(min(p.thickness, 16.0)), path, (body.id, id))
    return fit.done()


KIND = AttachmentKind(
    "lifting lugs",
    "Lifting lugs",
    Params,
    build,
    lambda body: body.section.form in ("I", "BOX"),
    "Plates with a hole on the top of a member, to lift it by.",
)
