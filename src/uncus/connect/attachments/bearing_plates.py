"""Bearing plates: plates on a top flange for joists, deck or timber to bear on."""

from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    long: Annotated[float, About("Length along the member", low=20, high=20_000)] = 152.4
    wide: Annotated[float | None, About("Width", low=20, high=1000,
        help="Across; left open: less than the flange by its welds.")] = None  # fmt: skip
    thickness: Annotated[float, About("Thickness", low=4, high=80)] = 9.525
    aside: Annotated[float, About("Off the middle", low=-300, high=300, help="Across the flange.")] = 0.0
    holes: Annotated[float, About("Holes", low=0, high=60,
        help="Two, along the member, for what bears on it; none: 0.")] = 0.0  # fmt: skip
    apart: Annotated[float, About("Holes apart", low=20, high=1000)] = 88.9
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The plates and a weld along each side; findings where one does not lie on the flange with room for its welds."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    leg = p.weld or fit.leg(min(p.thickness, 12.0))
    flat = s.b - 2 * s.r if s.form == "BOX" else s.b
    wide = p.wide or flat - 4 * leg
    if wide < 20.0 or abs(p.aside) + wide / 2 + leg > flat / 2 + 0.1:
        fit.find(
            f"A bearing plate with its welds does not lie on the top of the {body.words}; make it narrower, or move it "
            f"to the middle.")  # fmt: skip
        return fit.done()
    if p.holes and p.apart + 2.5 * p.holes > p.long:
        fit.find(
            "The holes of the bearing plates stand too near their ends; make the plates longer, or the holes nearer "
            "each other.")  # fmt: skip
    frame = Placement(
        body.frame.to_model((0.0, p.aside, s.d / 2 + p.thickness / 2)), axes_of(body.frame.x, -body.frame.y)
    )
    for n, x in enumerate(stations(fit, fitting, p, "bearing plates"), 1):
        x0, x1 = x - p.long / 2, x + p.long / 2
        if x0 < fitting.left or x1 > fitting.right:
            fit.find(f"A bearing plate runs past the end of the {body.words} and is left out.")
            continue
        id = fit.plate(str(n), frame, rectangle(x0, x1, -wide / 2, wide / 2), p.thickness, body.id, "bearing plate")
        for at in (-p.apart / 2, p.apart / 2) if p.holes else ():
            fit.feature(id, Hole(Face.WEB, x + at, 0.0, p.holes))
        for side, words in ((-1.0, "near"), (1.0, "far")):
            path = [body.frame.to_model((at, p.aside + side * wide / 2, s.d / 2)) for at in (x0, x1)]
            fit.weld(f"{n} {words}", leg, path, (body.id, id), 1)
    return fit.done()


KIND = AttachmentKind(
    "bearing plates",
    "Bearing plates",
    Params,
    build,
    lambda body: body.section.form in ("I", "U", "BOX"),
    "Plates on the top flange for joists, deck or timber to bear on, with holes for what is bolted down.",
)
