"""Gusset on the side of one member: a brace to the flange of a beam between its ends, or to a column away from
beams."""

from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import arm, fasten, outline, plane_of, set_out, thickness_for, weld_side
from uncus.connect.gusset_corner import face_towards, side_of, square_to
from uncus.connect.kind import Joint, Kind
from uncus.connect.strength import axial, missing
from uncus.job.forms import checked
from uncus.steel.joint import Contribution


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    pass


def build(joint: Joint) -> Contribution:
    """Gusset, its weld and the brace's end; a finding alone where it cannot stand."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, support = joint.member, joint.support
    if support is None:
        return fit.refused(f"The {brace.words} has lost what held it; connect this end again.")
    surface = face_towards(support, joint)
    if isinstance(surface, str):
        return fit.refused(f"The gusset of the {brace.words} cannot stand: {surface}.")
    t = thickness_for(fit, brace, p)
    plane = plane_of(brace, joint.record.end, surface.normal, t)
    if isinstance(plane, str):
        return fit.refused(plane)
    if not square_to(plane, surface):
        return fit.refused(f"The {brace.words} does not lie square to the side of the {support.words}.")
    side = side_of(plane, surface)
    a = arm(fit, plane, brace, joint.record.end, [side], p)
    if isinstance(a, str):
        return fit.refused(a)
    shape, (a,) = set_out([a], lambda arms: outline([side], arms, p.edges))
    id = fit.plate("gusset", plane.frame, shape, t, support.id, "gusset plate")
    weld_side(fit, plane, "to support", id, shape, side, p.weld or fit.leg(t), field=False)
    fasten(fit, plane, a, id, p)
    return fit.done()


KIND = Kind(
    "side gusset",
    "Gusset on one member",
    Params,
    build,
    "A brace's gusset on the flange or web of one member, such as a beam between its ends.",
    checks=axial.gusset,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.FREE_EDGE,
    ),
)
