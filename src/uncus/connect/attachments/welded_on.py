"""Welded on: a plate, or the end of a length, set against other steel and welded wherever its edge lies there."""

from typing import Annotated

import msgspec

from uncus.catalog.sections import Form
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.contact import runs, surface
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution

WHERE = ("in the shop", "on site")
SIDES = ("both sides", "one side")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    weld: Annotated[float | None, About("Weld leg", low=3, high=40,
        help="Left open: by the thinner of the two.")] = None  # fmt: skip
    where: Annotated[str, About("Welded", unit="choice", choices=WHERE,
        help="In the shop, both leave it as one piece.")] = WHERE[0]  # fmt: skip
    sides: Annotated[str, About("Where it stands on its edge", unit="choice", choices=SIDES)] = SIDES[0]
    least: Annotated[float, About("Least length", low=0, high=5000,
        help="Shorter stretches that touch are left without a weld.")] = 10.0  # fmt: skip


def build(fitting: Fitting) -> Contribution:
    """A fillet along each stretch of an edge that lies on the other; a finding where none does."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    plate, other = fitting.member, fitting.mate
    if other is None:
        fit.find(f"What the {plate.words} was welded to is gone; weld it to something else or delete its weld.")
        return fit.done()
    found = [run for run in runs(plate, other) if run.length >= p.least]
    if not found:
        fit.find(f"No edge of the {plate.words} lies on the {other.words} any more; move it there or delete its weld.")
        return fit.done()
    leg = p.weld or fit.leg(min(plate.section.tw, other.section.tw) if other.section.tw else plate.section.tw)
    for n, run in enumerate(found, 1):
        sides = run.sides if p.sides == SIDES[0] else 1
        fit.weld(str(n), leg, list(run.path), (plate.id, other.id), sides, field=p.where == WHERE[1])
    return fit.done()


def is_plate(body: Body) -> bool:
    return body.section.form is Form.FLAT and body.arc is None and body.record.double is None


KIND = AttachmentKind(
    "welded on",
    "Welded on",
    Params,
    build,
    lambda body: body.record.double is None,
    "A plate, or the end of a length, welded to what it touches wherever its edge lies there. Pick both.",
    crosses=lambda one, other: bool(runs(one, other)),
    places=False,
    beside=surface,
)
