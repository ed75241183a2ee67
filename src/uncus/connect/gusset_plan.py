"""Gusset in plan: between the webs of two beams that meet, at any angle, clear of the column that stands in their
corner."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

import numpy as np

from uncus.connect import gusset
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import CORNER, Plane, Side, corner_cut
from uncus.connect.gusset_corner import between
from uncus.connect.kind import Body, Joint, Kind, up_to
from uncus.connect.strength import axial, missing
from uncus.frame.axes import UP
from uncus.job.forms import About, checked
from uncus.steel.joint import Contribution
from uncus.steel.profile import outline

_LEVEL = 0.05  # of slope up to which a brace lies in plan
_PAST = 12.7  # mm between the gusset and a column


class Params(gusset.Params, frozen=True, forbid_unknown_fields=True):
    to_first: Annotated[
        str, About("To the first beam", unit="choice", choices=("angles", "welded"),
            help="Angles are bolted on site; to the second beam it is welded.")
    ] = "angles"  # fmt: skip
    goes_with: Annotated[
        str, About("Gusset goes with the", unit="choice", choices=("second beam", "first beam"),
            help="Where it is welded in the shop.")
    ] = "second beam"  # fmt: skip
    back: Annotated[
        float | None,
        About("Cut back from the corner", low=0, high=2000,
            help="Along both webs; clear of the column and of what holds the beams where empty."),
    ] = None  # fmt: skip


def build(joint: Joint) -> Contribution:
    """Gusset, its welds and clips, and the brace's end; a finding alone where it cannot stand."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    brace, one = joint.member, joint.support
    if one is None or not joint.others:
        return fit.refused(f"The plan gusset of the {brace.words} stands on two beams; connect this end to both again.")
    other, bolted = joint.others[0], p.to_first == "angles"
    level = [b for b in (brace, one, other) if abs(float(b.frame.x @ UP)) > _LEVEL]
    if level:
        return fit.refused(f"The {level[0].words} does not lie level; a plan gusset holds level braces to level beams.")
    owner = one if p.goes_with == "first beam" and not bolted else other
    column = joint.others[1] if len(joint.others) > 1 else None
    return between(fit, joint, p, one, other, bolted, owner, _Corner(fit, column, p.back))


class _Corner(NamedTuple):
    """The column in the corner, if one is known, and how far back was asked for."""

    fit: Fitup
    column: Body | None
    asked: float | None

    def back(self, plane: Plane, sides: list[Side]) -> float:
        """Far enough for the cut edge to pass the column, and past the plates that hold the beams to it."""
        if self.asked is not None:
            return max(self.asked, CORNER)
        rules, inch = self.fit.rules, self.fit.inch
        plates = rules.gap + 3 * rules.edge
        if self.column is None:
            return up_to(plates + _PAST, inch)
        ring = np.array(outline(self.column.section).convex_hull.exterior.coords)
        at = self.column.frame.to_local(plane.frame.origin)[0]
        spots = [plane.flat(self.column.frame.to_model((at, y, z))) for y, z in ring]
        back = CORNER
        while any(_over(sides, back, spot) < _PAST for spot in spots) and back < 3000.0:
            back = up_to(back + 1.0, inch)
        return up_to(back + plates, inch)


def _over(sides: list[Side], back: float, spot: np.ndarray) -> float:
    """How far a point lies behind the cut corner."""
    a, b = corner_cut(sides[0], sides[1], back)
    out = np.array([-(b - a)[1], (b - a)[0]]) / math.dist(a, b)
    out = out if float(out @ (sides[0].normal + sides[1].normal)) > 0 else -out
    return -float((spot - a) @ out)


KIND = Kind(
    "plan gusset",
    "Gusset between beams in plan",
    Params,
    build,
    "A level brace's gusset on the webs of two beams that meet at any angle, cut back past the column in their corner.",
    others=2,
    asks=1,
    checks=axial.plan_gusset,
    missing=(
        missing.WEBS_BESIDE,
        missing.BLOCK_OF_ONE_LINE,
        missing.FREE_EDGE,
        missing.BEAMS_WEAK_WAY,
    ),
)
