"""Welded end: an end cut to the side of what holds it, to a round tube as a saddle, and welded all round. Done in
the shop it makes both one piece: the webs and chords of a truss, the posts and rails of a frame."""

import math
from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Joint, Kind, up_to
from uncus.connect.meeting import Meeting, meeting
from uncus.connect.overlapping import GROWN, notch, overlap_of, runs
from uncus.connect.section_weld import ring_of, weld_round
from uncus.connect.strength import axial, missing
from uncus.job.forms import About, checked
from uncus.job.records import Role
from uncus.steel.features import EndCut, saddle_at
from uncus.steel.joint import Contribution
from uncus.steel.solid import TOLERANCE
from uncus.units import length_in_words

_ACUTE = 60.0  # degrees under which a fillet does not reach the root (AWS D1.1 figure 9.10)
_ROOT = 3.2  # mm of root opening that a fillet still bridges (AWS D1.1 5.21.1: 3/16 in. at most)


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    where: p_.Where = "in the shop"
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
    if body.record.double is not None:
        return fit.refused(f"The {body.words} is a pair, whose angles stand apart; choose a gusset.")
    if support.section.form is Form.TUBE:
        return _saddled(fit, joint, m, p)
    cut = EndCut(m.side_x(0.0, 0.0, p.gap), m.ky, m.kz)
    lap = overlap_of(m, joint.others[0], p.gap) if joint.others else None
    if isinstance(lap, str):
        return fit.refused(lap)
    ring = [(y, z) for y, z in ring_of(body.section) if lap is None or lap.beyond(cut, y, z) <= 0.0]
    if not ring:
        return fit.refused(
            f"The {body.words} does not reach the {support.words} past the web it overlaps; weld it to that web."
        )
    spots = np.array([body.frame.to_model((cut.x(y, z), y, z)) for y, z in ring])
    over = m.surface.over(spots, body.away(m.end))
    if over > 0.5 and m.surface.sunk:
        return fit.refused(
            f"The {body.words} does not go between the flanges of the {support.words} so; choose a narrower one, a tab "
            f"or a gusset.")  # fmt: skip
    if over > support.section.r + 0.5 or (over > 0.5 and support.section.form is not Form.BOX):
        return fit.refused(
            f"The {body.words} stands over the edge of the {support.words}; choose a narrower one or a gusset."
        )
    if over > 0.5:
        fit.look(f"The {body.words} reaches the rounded corners of the {support.words}: flare bevel welds there.")
    fit.cut(body.id, m.end, cut)
    field = p.where == "on site"
    leg = p.weld or max(fit.rules.tab_weld, up_to(body.section.tw, fit.inch, 1 / 16, 1))
    if lap is None or not notch(fit, lap, cut):
        weld_round(fit, "round", body, cut, leg, support.id, field, p.gap)
        return fit.done()
    if lap.open > GROWN:
        fit.find(
            f"The walls of the {body.words}, cut square, leave {length_in_words(lap.open, fit.units)} open at the web "
            f"it overlaps; let that one overlap, or leave a gap.")  # fmt: skip
    beside = [body.frame.to_model((lap.x(y, z), y, z)) for y, z in ring_of(body.section) if lap.beyond(cut, y, z) > 0.0]
    if lap.side.over(np.array(beside), body.away(m.end)) > 0.5:
        fit.look(f"The {body.words} reaches the rounded corners of the {lap.side.body.words}: flare bevel welds there.")
    for n, (on_web, stretch) in enumerate(runs(lap, cut)):
        end, to = (lap.plane, lap.side.body.id) if on_web else (cut, support.id)
        path = [body.frame.to_model((end.x(y, z), y, z)) for y, z in stretch]
        fit.weld(
            f"{'over' if on_web else 'round'}{' ' + str(n) if n > 1 else ''}",
            leg,
            path,
            (body.id, to),
            1,
            field,
            root=root if (root := max(lap.open if on_web else 0.0, p.gap)) > 1.6 else 0.0,
        )
    return fit.done()


def _saddled(fit: Fitup, joint: Joint, m: Meeting, p: Params) -> Contribution:
    """A round tube's end cut to the side of another."""
    body, tube = m.body, m.surface.body
    if trouble := _no_saddle(joint, m):
        return fit.refused(trouble)
    run = body.frame.axes.T @ tube.frame.x
    saddle = saddle_at(tube.section.d / 2 + p.gap, (float(run[1]), float(run[2])), m.right)
    cut = EndCut(m.side_x(0.0, 0.0, p.gap), m.ky, m.kz, saddle)
    fit.cut(body.id, m.end, cut)
    lean = math.degrees(math.asin(min(1.0, abs(float(body.frame.x @ m.surface.normal)))))
    rail = Role.RAIL in (body.record.role, tube.record.role)  # whose posts and rails are of one pipe, as rails are
    if lean < _ACUTE and not rail:
        fit.look(
            f"The {body.words} meets the {tube.words} at {lean:.0f}°: no fillet reaches the root at its heel; have a "
            f"groove weld there."
        )
    if body.section.d > tube.section.d / 2 + 0.1 and not rail:
        fit.look(
            f"Beside the {tube.words} the walls of the {body.words} meet it flatter than 120°: their edge is cut back "
            f"there to keep the weld's throat.")  # fmt: skip
    leg = p.weld or max(fit.rules.tab_weld, up_to(body.section.tw, fit.inch, 1 / 16, 1))
    weld_round(fit, "round", body, cut, leg, tube.id, p.where == "on site", p.gap)
    return fit.done()


def _no_saddle(joint: Joint, m: Meeting) -> str | None:
    """Why an end cannot be saddled to a round tube; None where it can."""
    body, tube = m.body, m.surface.body
    if body.section.form is not Form.TUBE:
        return (
            f"The {tube.words} is round, and only a round tube is saddled to it; choose a gusset for the {body.words}."
        )
    if body.section.d > tube.section.d + 0.1:
        return f"The {body.words} is wider than the {tube.words} and cannot be saddled to it; let that one end on this."
    if joint.others:
        return (
            f"The {body.words} does not overlap the {joint.others[0].words}: only square tubes are notched to one "
            f"another; leave a gap between them."
        )
    if body.arc is not None or tube.arc is not None:
        return (
            f"The {body.words if body.arc else tube.words} is rolled to an arc, and no saddle is cut to or of one; "
            f"choose a gusset."
        )
    away = body.end(m.end) - m.surface.at
    if (aside := abs(float(away @ np.cross(body.frame.x, tube.frame.x)))) > TOLERANCE:
        return (
            f"The {body.words} passes {length_in_words(aside, joint.units)} beside the middle of the round "
            f"{tube.words}; a saddle wants it there."
        )
    return None


KIND = Kind(
    "welded end",
    "Welded end",
    Params,
    build,
    "An end cut to fit, to a round tube as a saddle, and welded all round, and notched to a web it overlaps; in the "
    "shop it makes one piece of all.",
    others=1,
    asks=0,
    checks=axial.welded_end,
    missing=(missing.CHORD_STRESS,),
    beside=True,
)
