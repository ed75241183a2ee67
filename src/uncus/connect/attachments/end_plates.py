"""End plates: a plate that closes an end of a member, welded all round; for tubes a cap."""

from typing import Annotated

import msgspec

from uncus.connect.attachments.kind import AttachmentKind, Fitting
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.section_weld import weld_round
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    ends: Annotated[str, About("Ends", unit="choice", choices=("both", "left", "right"))] = "both"
    thickness: Annotated[float, About("Thickness", low=3, high=80)] = 6.35
    over: Annotated[
        float, About("Past the section", low=-20, high=200, help="At each side; less than nothing stands inside.")
    ] = 0.0
    weld: Annotated[float | None, About("Weld leg", low=3, high=25)] = None


def build(fitting: Fitting) -> Contribution:
    """A plate at each end asked for that has no joint of its own."""
    p: Params = checked(Params, fitting.record.params)
    fit = Fitup(fitting)
    body, s = fitting.member, fitting.member.section
    for end in End:
        if p.ends not in ("both", end):
            continue
        if end in fitting.joined:
            if p.ends != "both":
                fit.find(f"The {end} end of the {body.words} has a joint; its end plate is left out.")
            continue
        right = end is End.RIGHT
        sign = -1.0 if right else 1.0
        x = body.length - body.record.right_back if right else body.record.left_back
        t = p.thickness
        fit.cut(body.id, end, EndCut((body.length if right else 0.0) + sign * t))
        half_d, half_b = s.d / 2 + p.over, s.b / 2 + p.over
        there = body.touching(body.end(end))
        frame = Placement(there.frame.to_model((x + sign * t / 2, 0.0, 0.0)), axes_of(there.frame.z, there.frame.y))
        id = fit.plate(str(end), frame, rectangle(-half_d, half_d, -half_b, half_b), t, body.id, "end plate")
        weld_round(fit, str(end), there, EndCut(x + sign * t), p.weld or fit.leg(min(t, 12.0)), id)
    return fit.done()


KIND = AttachmentKind(
    "end plates",
    "End plates",
    Params,
    build,
    lambda body: body.record.double is None and body.record.turnbuckle is None,
    "A plate welded on one end or both, such as the cap of a tube.",
    places=False,
)
