"""Chevron gusset: one plate on a beam for two braces that meet there from either side."""

import numpy as np

from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import arm, fasten, outline, plane_of, set_out, thickness_for, weld_side
from uncus.connect.gusset_corner import face_towards, side_of, square_to
from uncus.connect.kind import Joint, Kind
from uncus.connect.strength import axial, missing
from uncus.job.forms import checked
from uncus.job.records import End
from uncus.steel.joint import Contribution


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    pass


def build(joint: Joint) -> Contribution:
    """One gusset, its weld and both braces' ends; a finding alone where the braces do not lie in one plane."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, beam = joint.member, joint.support
    if beam is None or not joint.others:
        return fit.refused(
            f"The chevron gusset of the {brace.words} joins two braces to a beam; connect this end again."
        )
    mate = joint.others[0]
    surface = face_towards(beam, joint)
    if isinstance(surface, str):
        return fit.refused(f"The gusset of the {brace.words} cannot stand: {surface}.")
    here = brace.end(joint.record.end)
    end = min(End, key=lambda e: float(np.linalg.norm(mate.end(e) - here)))
    t = thickness_for(fit, brace, p)
    plane = plane_of(brace, joint.record.end, surface.normal, t)
    if isinstance(plane, str):
        return fit.refused(plane)
    other = plane_of(mate, end, surface.normal, t)
    apart = isinstance(other, str) or abs(float((other.frame.origin - plane.frame.origin) @ plane.frame.y)) > 0.5
    if isinstance(other, str) or apart or abs(float(other.frame.y @ plane.frame.y)) < 1 - 1e-5:
        return fit.refused(f"The {brace.words} and the {mate.words} do not lie on one plate; turn one of them over.")
    if abs(thickness_for(fit, mate, p) - t) > 0.5:
        return fit.refused(f"The gaps of the {brace.words} and the {mate.words} differ; one plate cannot fill both.")
    if not square_to(plane, surface):
        return fit.refused(f"The {brace.words} does not lie square to the flange of the {beam.words}.")
    side = side_of(plane, surface)
    arms = [arm(fit, plane, b, e, [side], p) for b, e in ((brace, joint.record.end), (mate, end))]
    for a in arms:
        if isinstance(a, str):
            return fit.refused(a)
    both = [a for a in arms if not isinstance(a, str)]
    both = _apart(fit, both)
    shape, both = set_out(both, lambda arms: outline([side], arms, p.edges))
    id = fit.plate("gusset", plane.frame, shape, t, beam.id, "gusset plate")
    weld_side(fit, plane, "to beam", id, shape, side, p.weld or fit.leg(t), field=False)
    for a, mark in zip(both, ("", " of mate"), strict=True):
        fasten(fit, plane, a, id, p, mark)
    return fit.done()


def _span(a: gusset.Arm) -> tuple[np.ndarray, np.ndarray]:
    return a.point(a.start, a.low), a.point(a.start, a.high)


def _cross(a: gusset.Arm, b: gusset.Arm) -> bool:
    """Whether two braces' ends come nearer each other than 20 mm."""
    return any(_inside(b, corner) for corner in _span(a)) or any(_inside(a, corner) for corner in _span(b))


def _inside(a: gusset.Arm, p: np.ndarray) -> bool:
    s, h = float((p - a.at) @ a.out), float((p - a.at) @ a.w)
    return s > a.start - 20.0 and a.low - 20.0 < h < a.high + 20.0


def _apart(fit: Fitup, arms: list[gusset.Arm]) -> list[gusset.Arm]:
    """Both braces pulled back alike until their ends are clear of each other."""
    step = 25.4 / 4 if fit.inch else 5.0
    for _ in range(400):
        if not _cross(*arms):
            break
        arms = [a.moved(step) for a in arms]
    return arms


KIND = Kind(
    "chevron gusset",
    "Chevron gusset",
    Params,
    build,
    "One plate on a beam for two braces that meet there.",
    others=1,
    serves="others",
    checks=axial.chevron,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.FREE_EDGE,
        missing.OTHER_BRACE,
    ),
)
