"""Welded end: an end cut to the side of what holds it and welded all round. Done in the shop it makes both one piece: the
webs and chords of a truss, the posts and rails of a frame."""

from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import meeting
from uncus.connect.section_weld import ring_of, weld_round
from uncus.connect.strength import axial
from uncus.job.forms import About, checked
from uncus.steel.features import EndCut
from uncus.steel.joint import Contribution

_ROOT = 3.2  # mm of root opening that a fillet still bridges (AWS D1.1 5.21.1: 3/16 in. at most)


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    where: Annotated[
        str,
        About(
            "Welded", unit="choice", choices=("in the shop", "on site"), help="In the shop: both leave it as one piece."
        ),
    ] = "in the shop"
    gap: Annotated[
        float, About("Root opening", low=0, high=_ROOT, help="From the side of what holds it to the end.")
    ] = 0.0
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """The cut and the weld; a finding alone where the end does not come to stand on a flat side."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    body = joint.member
    m = meeting(joint)
    if isinstance(m, str):
        return fit.refused(m)
    support = m.surface.body
    if support.section.form is Form.TUBE:
        return fit.refused(f"The {support.words} is round: a flat cut does not fit it; choose a gusset.")
    if body.record.double is not None:
        return fit.refused(f"The {body.words} is a pair, whose angles stand apart; choose a gusset.")
    cut = EndCut(m.a + m.sign * p.gap * (1 + m.ky**2 + m.kz**2) ** 0.5, m.ky, m.kz)
    spots = np.array([body.frame.to_model((cut.x(y, z), y, z)) for y, z in ring_of(body.section)])
    over = m.surface.over(spots, body.away(m.end))
    if over > 0.5 and m.surface.sunk:
        return fit.refused(f"The {body.words} does not go between the flanges of the {support.words} so; choose a narrower one, a tab or a gusset.")  # fmt: skip
    if over > support.section.r + 0.5 or (over > 0.5 and support.section.form is not Form.BOX):
        return fit.refused(
            f"The {body.words} stands over the edge of the {support.words}; choose a narrower one or a gusset."
        )
    if over > 0.5:
        fit.look(f"The {body.words} reaches the rounded corners of the {support.words}: flare bevel welds there.")
    fit.cut(body.id, m.end, cut)
    field = p.where == "on site"
    leg = p.weld or max(fit.rules.tab_weld, up_to(body.section.tw, fit.inch, 1 / 16, 1))
    weld_round(fit, "round", body, cut, leg, support.id, field)
    return fit.done()


KIND = Kind("welded end", "Welded end", Params, build, "An end cut to fit and welded all round; in the shop it makes one piece of both.", checks=axial.welded_end)  # fmt: skip
