"""Setback: an end pulled back from what will hold it, before there is a real joint, so that lengths can be ordered."""

from typing import Annotated

import msgspec

from uncus.connect.coping import Clearing
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind
from uncus.connect.meeting import meeting
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    gap: Annotated[float, About("Gap", low=0, high=500, help="From the face of what holds the end to the end.")] = 12.7


def build(joint: Joint) -> Contribution:
    """The end cut off before the face; a finding alone where there is no face."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    half = joint.member.section.b / 2
    end = m.nearest(-half, half) + p.gap
    Clearing(end, m.square_cut(end)).apply(fit, m)
    return fit.done()


KIND = Kind("setback", "Setback", Params, build, "An end pulled back to leave a gap, until it gets its real joint.",
    carries=False)  # fmt: skip
