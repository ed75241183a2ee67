"""Crossing bolts: two braces that pass back to back are bolted through where they cross, a filler between their
backs."""

from __future__ import annotations

from typing import Annotated, NamedTuple

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.fitup import Fitup, rectangle
from uncus.connect.kind import Body
from uncus.connect.lapping import lap_of
from uncus.frame.placement import Placement, Vec, unit
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution
from uncus.units import length_in_words

_FLAT = 1e-4  # of slope by which backs that look at each other may differ
_AIR = 1.6  # mm that the trade draws together without a filler
_APART = 60.0  # mm between backs that a filler still spans
_ALIKE = 0.2  # of sine under which two braces lie along one another


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    bolt: p_.Bolt = None
    count: Annotated[
        int, About("Bolts", unit="count", low=1, high=2, help="Two stand along the longer way of where the legs lap.")
    ] = 1
    pitch: p_.Pitch = None
    filler: Annotated[
        str,
        About("Filler", unit="choice", choices=("welded to the first", "none"),
            help="As thick as the gussets that keep the braces apart; without one the bolts draw them together."),
    ] = "welded to the first"  # fmt: skip
    side: Annotated[float | None, About("Filler's side", low=30, high=300, help="Left open: two edge distances.")] = (
        None
    )
    weld: p_.Weld = None


class Crossing(NamedTuple):
    """Where the gage lines of two braces cross, on the first one's back; how far apart the backs are."""

    at: Vec
    gap: float
    first: Body
    second: Body

    @property
    def along(self) -> Vec:
        """The longer way across the steel that both legs share."""
        a, b = self.first.frame.x, self.second.frame.x
        return unit(a + b if float(a @ b) > 0 else a - b)


def is_backed(body: Body) -> bool:
    return body.section.form in (Form.ANGLE, Form.CHANNEL) and body.record.double is None and body.arc is None


def crossing_of(first: Body, second: Body) -> Crossing | str:
    """How two braces pass back to back; or, in words that follow their names, why they do not."""
    if not (is_backed(first) and is_backed(second)):
        return "are not single angles or channels, whose backs can lie on one another"
    normal = -first.frame.y  # out of the first one's back
    if float(normal @ second.frame.y) < 1 - _FLAT:
        return "do not turn their backs to one another"
    back = first.frame.to_model((0.0, lap_of(first).back, 0.0))
    gap = float((second.frame.to_model((0.0, lap_of(second).back, 0.0)) - back) @ normal)
    if not -0.1 <= gap <= _APART:
        return "fill the same space" if gap < 0 else "stand too far apart to be bolted to one another"
    a, b = first.frame.x, second.frame.x
    if float(np.linalg.norm(np.cross(a, b))) < _ALIKE:
        return "lie along one another and do not cross"
    starts = [body.frame.to_model((0.0, lap_of(body).back, lap_of(body).lines[0][0])) for body in (first, second)]
    way = starts[1] - starts[0]
    way = way - float(way @ normal) * normal
    xa, xb = np.linalg.lstsq(np.column_stack([a, -b]), way, rcond=None)[0].tolist()
    if not (0 < xa < first.length and 0 < xb < second.length):
        return "do not cross between their ends"
    return Crossing(starts[0] + xa * a, max(0.0, gap), first, second)


def build(fitting: Fitting) -> Contribution:
    """The bolts and their filler; a finding alone where the two do not cross back to back."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    first, second = fitting.member, fitting.mate
    if second is None:
        fit.find(f"The brace that crossed the {first.words} is gone; delete its crossing bolts.")
        return fit.done()
    found = crossing_of(first, second)
    if isinstance(found, str):
        fit.find(f"The {first.words} and the {second.words} {found}; move or turn one, or delete their crossing bolts.")
        return fit.done()
    size, pitch = fit.size(p.bolt), p.pitch or fit.rules.pitch
    plies = [first.id, second.id]
    if found.gap > _AIR and p.filler != "none":
        plies.insert(1, _filler(fit, found, p, pitch))
    elif found.gap > _AIR:
        fit.look(
            f"The bolts where the {first.words} and the {second.words} cross draw them over "
            f"{length_in_words(found.gap, fit.units)}; a filler keeps them straight.")  # fmt: skip
    steps = (np.arange(p.count) - (p.count - 1) / 2) * pitch
    points = [found.at + step * found.along for step in steps]
    fit.bolts("bolts", size, points, -first.frame.y, plies, field=True)
    return fit.done()


def _filler(fit: Fitup, found: Crossing, p: Params, pitch: float) -> str:
    """A plate on the first one's back, square to its bolts' line, welded along the two edges that cross the leg."""
    first, lap = found.first, lap_of(found.first)
    side = p.side or 2 * fit.rules.edge
    reach = (side + (p.count - 1) * pitch * abs(float(found.along @ first.frame.x))) / 2
    x, _, z = first.frame.to_local(found.at).tolist()
    high = min(z + side / 2 + (p.count - 1) * pitch / 2, lap.high - 2.0)
    low = max(z - side / 2 - (p.count - 1) * pitch / 2, lap.low + 2.0)
    y = lap.back - found.gap / 2
    frame = Placement(first.frame.to_model((x, y, 0.0)), first.frame.axes)
    id = fit.plate("filler", frame, rectangle(-reach, reach, low, high), found.gap, first.id, "filler")
    leg = p.weld or min(fit.leg(found.gap), found.gap)
    for key, end in (("left", x - reach), ("right", x + reach)):
        fit.weld(key, leg, [first.frame.to_model((end, lap.back, w)) for w in (low, high)], (first.id, id), 1)
    return id


KIND = AttachmentKind(
    "crossing bolts",
    "Crossing bolts",
    Params,
    build,
    is_backed,
    "Bolts through two braces that pass back to back where they cross, with a filler between them. Pick both braces.",
    crosses=lambda first, second: not isinstance(crossing_of(first, second), str),
)
