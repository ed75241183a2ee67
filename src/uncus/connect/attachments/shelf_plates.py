"""Shelf plates: plates on a web that stand out level to carry deck or brick."""

from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    by: Annotated[str, About("Spread by", unit="choice", choices=("count", "spacing", "loads", "places"))] = "count"
    count: Annotated[int, About("Count", unit="count", low=1, high=2000)] = 1
    long: Annotated[float, About("Length along the member", low=20, high=20_000)] = 203.2
    wide: Annotated[float, About("Stands out", low=20, high=1000, help="From the web's face.")] = 101.6
    thickness: Annotated[float, About("Thickness", low=4, high=60)] = 9.525
    at: Annotated[float, About("Above the middle", low=-1000, high=1000,
        help="Top of the shelf from the section's middle.")] = 0.0  # fmt: skip
    side: Annotated[str, About("Side", unit="choice", choices=("near", "far", "both"))] = "near"
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The plates and their welds to the web."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    z = p.at - p.thickness / 2
    if s.flanged and abs(p.at) > s.d / 2 - s.k:
        fit.find(f"The shelf meets the fillet of the {body.words}; move it to the flat of the web.")
        return fit.done()
    sides = {"near": (-1.0,), "far": (1.0,), "both": (-1.0, 1.0)}[p.side]
    faces = {-1.0: -s.tw / 2, 1.0: s.tw / 2} if s.form in ("I", "T") else {-1.0: -s.b / 2, 1.0: -s.b / 2 + s.tw
        if s.form != "BOX" else s.b / 2}  # fmt: skip
    for n, x in enumerate(stations(fit, fitting, p, "shelf plates"), 1):
        x0, x1 = x - p.long / 2, x + p.long / 2
        if x0 < fitting.left or x1 > fitting.right:
            fit.find(f"A shelf plate runs past the end of the {body.words} and is left out.")
            continue
        for side in sides:
            face = faces[side]
            frame = Placement(body.frame.to_model((0.0, face, z)), axes_of(body.frame.x, -body.frame.y))
            lo, hi = sorted((0.0, -side * p.wide))
            key = f"{n} {'near' if side < 0 else 'far'}"
            id = fit.plate(key, frame, rectangle(x0, x1, lo, hi), p.thickness, body.id, "shelf plate")
            path = [body.frame.to_model((at, face, z)) for at in (x0, x1)]
            fit.weld(key, p.weld or fit.leg(p.thickness), path, (body.id, id))
    return fit.done()


KIND = AttachmentKind(
    "shelf plates",
    "Shelf plates",
    Params,
    build,
    lambda body: body.section.form in ("I", "U", "BOX", "T"),
    "Plates that stand out level from the web to carry deck, brick or pipes.",
)
