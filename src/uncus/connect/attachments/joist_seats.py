"""Joist seats: plates with slotted holes that joists are bolted down to, on the flange or on uprights over it."""

from typing import Annotated

from uncus.connect.attachments.kind import AttachmentKind, Fitting, Spread, stations
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.steel.features import Face, Hole
from uncus.steel.joint import Contribution
from uncus.units import format_length

_LOWEST = 20.0  # mm of an upright under which nobody welds it
_HEAD = 1.6  # of a hole's width, from its middle to what keeps a wrench off its nut


class Params(Spread, frozen=True, forbid_unknown_fields=True):
    last: Annotated[float, About("Least to the other end", low=0, high=50_000)] = 152.4
    height: Annotated[float, About("Height", low=5, high=1000,
        help="Of the seat's top over the flange; no more than its plate: it lies on the flange.")] = 63.5  # fmt: skip
    long: Annotated[float, About("Length along the member", low=40, high=1000)] = 177.8
    wide: Annotated[float | None, About("Width", low=40, high=1000,
        help="Across, the way the joists run; left open: less than the flange by its welds.")] = None  # fmt: skip
    thickness: Annotated[float, About("Plate", low=4, high=60)] = 9.525
    upright: Annotated[float, About("Uprights", low=4, high=40, help="The plates that a raised seat stands on.")] = (
        9.525
    )
    aside: Annotated[float, About("Off the middle", low=-300, high=300, help="Across the flange.")] = 0.0
    hole: Annotated[float, About("Slots wide", low=0, high=60, help="For the joist's bolts; none: 0.")] = 14.2875
    slot: Annotated[float, About("Slots long", low=0, high=300,
        help="Length over all, the way the joists run; round: 0.")] = 31.75  # fmt: skip
    gage: Annotated[float, About("Slots apart", low=20, high=600, help="Along the member.")] = 88.9
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """The seats with their uprights and welds; findings where one has no room."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    raised = p.height > p.thickness + 0.5
    flat = s.b - 2 * s.r if s.form == "BOX" else s.b
    leg = p.weld or fit.leg(min(p.upright if raised else p.thickness, 12.0))
    wide = p.wide or flat - 4 * leg
    if (trouble := _trouble(fitting, p, wide, flat, leg, raised)) is not None:
        fit.find(trouble)
        return fit.done()
    top = Placement(
        body.frame.to_model((0.0, p.aside, s.d / 2 + p.height - p.thickness / 2)), axes_of(body.frame.x, -body.frame.y)
    )
    for n, x in enumerate(stations(fit, fitting, p, "joist seats"), 1):
        x0, x1 = x - p.long / 2, x + p.long / 2
        if x0 < fitting.left or x1 > fitting.right:
            fit.find(f"A joist seat runs past the end of the {body.words} and is left out.")
            continue
        id = fit.plate(str(n), top, rectangle(x0, x1, -wide / 2, wide / 2), p.thickness, body.id, "joist seat")
        for at in (-p.gage / 2, p.gage / 2) if p.hole else ():
            slot = p.slot if p.slot > p.hole else 0.0
            fit.feature(id, Hole(Face.WEB, x + at, 0.0, p.hole, slot, 90.0 if slot else 0.0))
        if raised:
            _stand(fit, fitting, p, (n, x, wide, leg), id)
            continue
        for side, words in ((-1.0, "near"), (1.0, "far")):
            path = [body.frame.to_model((at, p.aside + side * wide / 2, s.d / 2)) for at in (x0, x1)]
            fit.weld(f"{n} {words}", leg, path, (body.id, id), 1)
    return fit.done()


def _trouble(fitting: Fitting, p: Params, wide: float, flat: float, leg: float, raised: bool) -> str | None:
    """Why seats so large are not made on a member, as a sentence."""
    words, under = fitting.member.words, p.height - p.thickness
    if wide < 40.0 or abs(p.aside) + wide / 2 + leg > flat / 2 + 0.1:
        return (
            f"A joist seat with its welds does not lie on the top of the {words}; make it narrower, or move it to the "
            f"middle."
        )
    if raised and under < _LOWEST:
        return (
            f"A joist seat {format_length(p.height, fitting.units)} high has no room for uprights under its plate; "
            f"make its plate as thick, or the seat higher."
        )
    room = p.long / 2 - (p.upright if raised else 0.0) - p.gage / 2
    if p.hole and room < _HEAD * p.hole:
        return "The slots of the joist seats stand too near their ends or uprights; make the seats longer."
    if p.hole and wide / 2 < max(p.slot, p.hole) / 2 + 1.25 * p.hole:
        return "The slots of the joist seats run too near their edges; make the seats wider, or the slots shorter."
    return None


def _stand(fit: Fitup, fitting: Fitting, p: Params, at: tuple[int, float, float, float], seat: str) -> None:
    """The two uprights of a raised seat, the way the joist runs, flush with its ends."""
    n, x, wide, leg = at
    body, s = fitting.member, fitting.member.section
    low, high = s.d / 2, s.d / 2 + p.height - p.thickness
    for way, words in ((-1.0, "left"), (1.0, "right")):
        middle = x + way * (p.long - p.upright) / 2
        frame = Placement(body.frame.to_model((middle, p.aside, 0.0)), axes_of(body.frame.y, body.frame.z))
        key = f"{n} {words}"
        outline = rectangle(-wide / 2, wide / 2, low, high)
        id = fit.plate(key, frame, outline, p.upright, body.id, "seat upright")
        for z, other, edge in ((low, body.id, "foot"), (high, seat, "head")):
            path = [body.frame.to_model((middle, p.aside + y, z)) for y in (-wide / 2, wide / 2)]
            fit.weld(f"{key} {edge}", leg, path, (other, id), 2 if z == low else 1)


KIND = AttachmentKind(
    "joist seats",
    "Joist seats",
    Params,
    build,
    lambda body: body.section.form in ("I", "U", "BOX"),
    "Plates with slotted holes that joists are bolted down to, on the top flange or raised over it on uprights.",
    rolls=False,
)
