"""Mitred ends: two members of one section meet at an angle, both cut to the plane halfway between them and welded all
round: knees and ridges of tubes, a chord that bends at a panel point, frames of angles and channels."""

import math
from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body, Joint, Kind, angle_between, up_to
from uncus.connect.meeting import Meeting, on_surface
from uncus.connect.section_weld import ring_of
from uncus.connect.strength import axial
from uncus.connect.surface import Surface
from uncus.frame.placement import Vec, unit
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut, Face
from uncus.steel.joint import Contribution, WeldForm
from uncus.units import length_in_words

_ACUTE = 30.0  # degrees between two members under which a mitre runs out along them
_IN_LINE = 179.5  # degrees from which one that is rolled runs on from the other, both ends square
_BESIDE = 0.5  # mm by which two axes may miss one another


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    where: p_.Where = "in the shop"
    weld: Annotated[
        str,
        About("Weld", unit="choice", choices=("groove", "fillet"), help="Groove: through the whole thickness."),
    ] = "groove"
    gap: Annotated[float, About("Root opening", low=0, high=10, help="Between the two ends.")] = 0.0


def build(joint: Joint) -> Contribution:
    """Both cuts and the weld; a finding alone where the two do not come to lie face to face."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    member, support = joint.member, joint.support
    if support is None:
        return fit.refused(f"The {member.words} has lost the member it met; connect this end again.")
    here = member.end(joint.record.end)
    other = min(End, key=lambda e: float(np.linalg.norm(support.end(e) - here)))
    if trouble := _apart(joint, member, support, here, other):
        return fit.refused(trouble)
    a, b = member.touching(here), support.touching(support.end(other))
    n = unit(a.away(joint.record.end) - b.away(other))
    at = (here + b.end(other)) / 2
    cuts = []
    for body, end, sign in ((a, joint.record.end, 1.0), (b, other, -1.0)):
        met = _before(body, end, at + sign * n * p.gap / 2, sign * n)
        cut = EndCut(met.a, met.ky, met.kz)
        fit.cut(body.id, end, cut)
        cuts.append(cut)
    ring = [a.frame.to_model((cuts[0].x(y, z), y, z)) for y, z in ring_of(a.section)]
    groove = p.weld == "groove"
    size = a.section.tw if groove else max(fit.rules.tab_weld, up_to(a.section.tw, fit.inch, 1 / 16, 1))
    form = WeldForm.GROOVE if groove else WeldForm.FILLET
    fit.weld("round", size, ring, (a.id, b.id), 1, p.where == "on site", around=True, form=form,
        root=0.0 if groove or p.gap <= 1.6 else p.gap)  # fmt: skip
    return fit.done()


def _apart(joint: Joint, a: Body, b: Body, here: Vec, other: End) -> str | None:
    """Why two ends cannot be mitred; None where they can."""
    both = f"the {a.words} and the {b.words}"
    if a.record.double is not None or b.record.double is not None:
        return f"Pairs are not mitred: {both} need a gusset."
    if a.section.name != b.section.name:
        return f"Mitred ends need one section: {both} do not come to lie face to face; choose a plate or a gusset."
    miss = float(np.linalg.norm(b.end(other) - here))
    if miss > _BESIDE:
        return f"The ends of {both} are {length_in_words(miss, joint.units)} apart; bring their work points together."
    away, out = a.away(joint.record.end), b.away(other)
    between = angle_between(away, out)
    if (a.arc is not None or b.arc is not None) and between < _IN_LINE:
        arc = (a if a.arc else b).words
        return f"The {arc} is rolled to an arc that {both} do not run on from in line; end it square and use a plate."
    if between < _ACUTE:
        return f"There are {between:.0f}° between {both}: a mitre would run out along them; choose a gusset."
    n = unit(away - out)
    a, b = a.touching(here), b.touching(b.end(other))
    if a.section.form is not Form.TUBE and not _face_to_face(a, b, n):
        return f"Mirrored in the plane between them, {both} do not lie on one another; turn one, or choose a plate."
    return None


def _face_to_face(a: Body, b: Body, n: Vec) -> bool:
    """Whether the section of one is the other's in the plane halfway, as far as its own symmetry tells."""
    y, z = (v - 2 * (v @ n) * n for v in (a.frame.y, a.frame.z))
    near = math.cos(math.radians(0.1))
    same = {axis: float(v @ w) for axis, v, w in (("y", y, b.frame.y), ("z", z, b.frame.z))}
    form, s = a.section.form, a.section
    if form is Form.BOX and abs(s.d - s.b) < 0.1 and abs(float(y @ b.frame.z)) > near:
        return True
    if abs(same["y"]) < near or abs(same["z"]) < near:
        return False
    either = {Form.I: "yz", Form.BOX: "yz", Form.CHANNEL: "z", Form.TEE: "y", Form.FLAT: "yz"}.get(form, "")
    return all(value > 0 or axis in either for axis, value in same.items())


def _before(body: Body, end: End, at: Vec, n: Vec) -> Meeting:
    across = np.cross(n, body.frame.z) if abs(float(n @ body.frame.z)) < 0.99 else np.cross(n, body.frame.y)
    return on_surface(body, end, Surface(body, Face.TOP, at, n, unit(across), -1e4, 1e4, body.section.tw))


KIND = Kind(
    "mitred ends",
    "Mitred ends",
    Params,
    build,
    "Two members of one section cut to the plane halfway between them and welded all round.",
    serves="support",
    checks=axial.mitred_ends,
)
