"""Studs: headed shear studs on the top flange of a beam, in rows."""

from typing import Annotated

from uncus.catalog.bolts import stud_diameter
from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point

SIZES = ("1/2", "5/8", "3/4", "7/8", "13 mm", "16 mm", "19 mm", "22 mm")


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    spacing: Annotated[float, About("Spacing", low=50, high=5000)] = 304.8
    first: Annotated[float, About("First from the end", low=0, high=50_000)] = 152.4
    rows: Annotated[int, About("Rows", unit="count", low=1, high=3)] = 1
    gage: Annotated[float, About("Between rows", low=40, high=400)] = 76.2
    size: Annotated[str, About("Stud", unit="choice", choices=SIZES)] = "3/4"
    long: Annotated[float, About("Length", low=40, high=300)] = 101.6


def build(fitting: Fitting) -> Contribution:
    """The studs, standing on the top flange; findings where the flange is too thin or too narrow for them."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    d = stud_diameter(p.size)
    if d > 2.5 * s.tf and p.rows != 1:
        fit.look(
            f"Studs of {p.size} off the web are more than 2 1/2 times as thick as the flange of the {body.words} (AISC "
            f"360 I8.1).")  # fmt: skip
    if p.rows > 1 and (p.rows - 1) * p.gage / 2 + 25.4 > s.b / 2:
        fit.find(f"The rows of studs do not fit the flange of the {body.words}; give them less distance.")
    if p.spacing < 6 * d - 0.1:
        fit.find(f"Studs stand closer than six diameters along the {body.words}; enlarge the spacing.")
    ys = [(n - (p.rows - 1) / 2) * p.gage for n in range(p.rows)]
    xs = stations(fit, fitting, p, "studs")
    tops = tuple(point(body.frame.to_model((x, y, s.d / 2 + p.long))) for x in xs for y in ys)
    if tops:
        fit.fasteners(Fasteners("studs", FastenerKind.STUD, p.size, "A108", p.long, p.long, tops,
            direction(-body.frame.z), (body.id,), field=False))  # fmt: skip
    return fit.done()


KIND = AttachmentKind(
    "studs",
    "Shear studs",
    Params,
    build,
    lambda body: body.section.form == "I",
    "Headed studs on the top flange, in one row or more.",
)
