"""Bearing on a wall: a plate under a level beam's end that spreads its load on masonry or concrete, with anchors or
none."""

from __future__ import annotations

from typing import Annotated

import msgspec

from uncus.catalog.bolts import RodSize, rod_sizes
from uncus.catalog.sections import Form
from uncus.connect import params as p_
from uncus.connect.fitup import Fitup, axes_of, rectangle
from uncus.connect.kind import Body, Joint, Kind, up_to
from uncus.connect.strength import base, missing
from uncus.frame.placement import Placement
from uncus.job.forms import About, checked
from uncus.job.records import End
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.joint import Contribution, FastenerKind, Fasteners, direction, point
from uncus.units import length_in_words

_LEVEL = 0.01  # of slope
_THROUGH, _BESIDE, _NONE = ANCHORS = ("through the flange", "beside the flange", "none")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    thickness: p_.Thickness = None
    along: Annotated[float | None, About("Length of bearing", low=40, high=1000, help="Along the beam.")] = None
    across: Annotated[float | None, About("Width of the plate", low=40, high=1500, help="Across the beam.")] = None
    past: Annotated[float, About("Plate past the beam's end", low=0, high=300)] = 12.7
    back: Annotated[float, About("Beam held back", low=0, high=1000, help="From its work point.")] = 0.0
    anchors: Annotated[str, About("Anchors", unit="choice", choices=ANCHORS)] = _THROUGH
    rod: Annotated[str | None, About("Anchor rod", unit="choice", choices=tuple(rod_sizes()))] = None
    rod_length: Annotated[float | None, About("Rod's length", low=50, high=3000)] = None
    weld: p_.Weld = None


def build(joint: Joint) -> Contribution:
    """The plate, its welds to the flange and its anchors; findings where they do not fit, alone where the beam is
    not level."""
    p: Params = checked(Params, joint.record.params)
    fit = Fitup(joint)
    beam, s, frame = joint.member, joint.member.section, joint.member.frame
    if not s.flanged:
        return fit.refused(f"A bearing on a wall is for the bottom flange of a beam, which the {beam.words} has not.")
    if abs(float(frame.x[2])) > _LEVEL or float(frame.z[2]) < 1 - _LEVEL:
        return fit.refused(f"The {beam.words} is not level and upright; a bearing on a wall needs it to be.")
    rod = rod_sizes()[p.rod or fit.rules.rod]
    leg = p.weld or fit.leg(min(s.tf, 12.0))
    t, along = p.thickness or fit.rules.base_thickness, p.along or (203.2 if fit.inch else 200.0)
    edge = up_to(1.75 * rod.d, fit.inch, 0.5, 10)
    beside = s.b + 2 * (rod.washer + 6.0 + edge) if p.anchors == _BESIDE else s.b + 4 * leg
    across = p.across or up_to(beside, fit.inch, 1, 10)
    if across < s.b + 2 * leg:
        fit.find(
            f"The bearing plate is too narrow to be welded to the flange of the {beam.words}; make it "
            f"{length_in_words(s.b + 2 * leg, joint.units)} wide at least.")  # fmt: skip
    right = joint.record.end is End.RIGHT
    sign, x0 = (-1.0, beam.length) if right else (1.0, 0.0)
    start = x0 + sign * p.back
    fit.cut(beam.id, joint.record.end, EndCut(start))
    middle, low = start + sign * (along / 2 - p.past), -s.d / 2
    place = Placement(frame.to_model((middle, 0.0, low - t / 2)), axes_of(frame.x, frame.y))
    half = across / 2
    id = fit.plate("plate", place, rectangle(-along / 2, along / 2, -half, half), t, beam.id, "bearing plate")
    ends = (start, middle + sign * along / 2)
    for y, words in ((-s.b / 2, "near"), (s.b / 2, "far")):
        fit.weld(words, leg, [frame.to_model((x, y, low)) for x in ends], (beam.id, id), 1)
    if p.anchors != _NONE:
        _anchored(fit, p, beam, id, place, rod, (middle, t, half - edge))
    return fit.done()


def _anchored(fit: Fitup, p: Params, beam: Body, id: str, place: Placement, rod: RodSize,
    at: tuple[float, float, float]) -> None:  # fmt: skip
    """Two rods amid the bearing, through the plate and, where they stand there, the flange."""
    s, frame = beam.section, beam.frame
    middle, t, beside = at
    through = p.anchors == _THROUGH
    gage = s.gage or s.b / 2
    spots = [(0.0, -beside), (0.0, beside)]
    if through and s.form is Form.CHANNEL:
        far = 1.5 * rod.d
        spots = [(-far, -s.b / 2 + gage), (far, -s.b / 2 + gage)]
    elif through:
        spots = [(0.0, -gage / 2), (0.0, gage / 2)]
        if gage / 2 < s.clear + rod.hole / 2 or gage / 2 + rod.hole / 2 > s.b / 2 - 3.0:
            fit.find(
                f"A {rod.name} rod does not go through the flange of the {beam.words} clear of its fillet; stand the "
                f"rods beside it.")  # fmt: skip
    for x, y in spots:
        fit.feature(id, Hole(Face.WEB, x, y, rod.hole))
        if through:
            fit.feature(beam.id, Hole(Face.BOTTOM, middle + x, y, rod.hole))
    stack = t + rod.washer_t + (s.tf if through else 0.0)
    top = up_to(stack + 2.5 * rod.d, fit.inch, 0.5, 10) - t / 2
    heads = tuple(point(place.origin + x * frame.x + y * frame.y + top * frame.z) for x, y in spots)
    joins = (beam.id, id) if through else (id,)
    length = p.rod_length or rod.length
    fit.fasteners(Fasteners("rods", FastenerKind.ROD, rod.name, fit.rules.rod_grade, length, stack, heads,
        direction(-frame.z), joins, field=True))  # fmt: skip


KIND = Kind(
    "wall bearing",
    "Bearing on a wall",
    Params,
    build,
    "A plate welded under a level beam's end, on masonry or concrete, with two anchors or none.",
    needs="ground",
    checks=base.wall_bearing,
    missing=(missing.WALL_BELOW,),
)
