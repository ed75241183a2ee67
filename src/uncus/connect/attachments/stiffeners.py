"""Stiffeners: plates across a web between its flanges, full or part height, on one side or both."""

from typing import Annotated

from uncus.catalog.sections import Form, Section
from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.connect.kind import down_to
from uncus.connect.stiffening import between_flanges, cross_plate
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    sides: Annotated[str, About("Sides of the web", unit="choice", choices=("both", "near", "far"))] = "both"
    reach: Annotated[str, About("Height", unit="choice", choices=("full", "from the top", "from the bottom"))] = "full"
    high: Annotated[float, About("Height in part", low=30, high=3000, help="Of those that are not full.")] = 150.0
    width: Annotated[float | None, About("Width", low=20, high=600, help="To the flange's edge where left empty.")] = (
        None
    )
    thickness: Annotated[float | None, About("Thickness", low=4, high=80)] = None
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The plates and their welds; findings for those that do not fit."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    s = fitting.member.section
    t = p.thickness or fit.stocked(9.5)
    sides = {"both": (-1.0, 1.0), "near": (-1.0,), "far": (1.0,)}[p.sides]
    if s.form is Form.CHANNEL:
        sides = (1.0,)
    room = (s.b - s.tw) / 2 if s.form is Form.I else s.b - s.tw
    wide = p.width or down_to(room, fit.inch, 0.25, 5)
    if wide > room + 0.5:
        fit.find(f"The stiffeners stand out past the flanges of the {fitting.member.words}; give them less width.")
    shape = _outline(s, wide, p)
    for n, x in enumerate(stations(fit, fitting, p, "stiffeners"), 1):
        if not fitting.left + t / 2 < x < fitting.right - t / 2:
            fit.find(f"A stiffener runs into the end of the {fitting.member.words} and is left out.")
            continue
        for side in sides:
            key = f"{n} {'near' if side < 0 else 'far'}"
            cross_plate(fit, fitting.member, key, x, t, side, "stiffener", shape, p.weld)
    return fit.done()


def _outline(s: Section, wide: float, p: Params) -> list[tuple[float, float]]:
    half = s.d / 2 - s.tf
    web = s.tw / 2 if s.form is Form.I else -s.b / 2 + s.tw
    low = half - p.high if p.reach == "from the top" else -half
    high = -half + p.high if p.reach == "from the bottom" else half
    return between_flanges(s, web, web + wide, low, high)


KIND = AttachmentKind(
    "stiffeners",
    "Stiffeners",
    Params,
    build,
    lambda body: body.section.flanged,
    "Plates across the web between the flanges, spread along the member or where others frame in.",
)
