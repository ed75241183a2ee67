"""Whether a beam can be brought to its place: caught between the flanges of columns at both ends, it must be let
down or lifted past the plates that wait for it there."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np
import shapely
from shapely.geometry import MultiPoint
from shapely.geometry.base import BaseGeometry

from uncus.connect.buildable.stock import FILLS
from uncus.connect.coping import obstacle_of
from uncus.connect.kind import Body, Joint
from uncus.connect.meeting import Meeting, meeting
from uncus.frame.axes import is_vertical
from uncus.job.records import End
from uncus.steel.features import Cope, EndCut, Face, Notch
from uncus.steel.joint import Contribution, Finding, NewPart, Severity

_TOUCH = 1.0  # mm2 of a flange over a plate that counts


class Entry(msgspec.Struct, frozen=True):
    """How a beam's end gets in: whether it stands `tight` against a column; between a column's flanges (`caught`),
    which of its own flanges stand over (`down`) or under (`up`) what waits there."""

    end: End
    tight: bool
    caught: bool = False
    down: bool = False
    up: bool = False


def inspect(beam: Body, ends: Sequence[Entry | None]) -> Finding | None:
    """A beam's two ends looked at together; None where it can be brought in."""
    if len(ends) > 1 and all(one is not None and one.tight for one in ends):
        return Finding(
            beam.id,
            f"The {beam.words} stands tight against columns at both ends and cannot be entered between them: give "
            f"shims at one "
            "end, or bolt or weld its angles to the column in the shop.",
            Severity.LOOK,
        )
    caught = [one for one in ends if one is not None and one.caught]
    if len(caught) < 2 or not any(c.down for c in caught) or not any(c.up for c in caught):
        return None
    where = [str(c.end) for c in caught if c.down]
    said = f"the {where[0]} end" if len(where) == 1 else "both ends"
    return Finding(
        beam.id,
        f"The {beam.words} stands between columns' flanges at both ends and cannot be let down past its tabs: have the "
        f"bottom flange coped at {said} (Lowered between flanges), or turn the tabs over to the other piece.",
        Severity.LOOK,
    )


def _is_tight(joint: Joint, made: Contribution) -> bool:
    """Whether what the member brings with it lies on the side of a column when it is bolted up, with no shims
    between."""
    support = joint.support
    if support is None or not is_vertical(support.frame.x) or any(w in p.words for p in made.parts for w in FILLS):
        return False
    own = {f"{joint.record.id}/{p.key}" for p in made.parts if p.owner == joint.member.id}
    along = joint.member.frame.x
    return any(
        g.field
        and support.id in g.joins
        and not own.isdisjoint(g.joins)
        and abs(float(along @ np.asarray(g.axis))) > 0.5
        for g in made.fasteners
    )


def entry(joint: Joint, made: Contribution) -> Entry | None:
    """How a joint's member gets in there; None where nothing hinders it."""
    tight, caught = _is_tight(joint, made), _caught(joint, made)
    if caught is None:
        return Entry(joint.record.end, True) if tight else None
    return Entry(joint.record.end, tight, True, *caught)


def _caught(joint: Joint, made: Contribution) -> tuple[bool, bool] | None:
    """Of an end between a column's flanges, whether its own flanges stand over or under what waits there."""
    support = joint.support
    if support is None or not support.section.flanged or not is_vertical(support.frame.x):
        return None
    m = meeting(joint)
    if isinstance(m, str):
        return None
    between = obstacle_of(m)
    cut = next((c for owner, end, c in made.cuts if owner == m.body.id and end is m.end), None)
    if cut is None or between is None or not between.beside or _past(m, cut) > between.out:
        return None
    waiting = [p for p in made.parts if p.owner == support.id]
    return _over(m, made, cut, Face.BOTTOM, waiting), _over(m, made, cut, Face.TOP, waiting)


def _past(m: Meeting, cut: EndCut) -> float:
    """How far off the column's web the member's web ends."""
    return m.flat(cut.x(0.0, 0.0), 0.0)[0] - m.trace(0.0)


def _over(m: Meeting, made: Contribution, cut: EndCut, face: Face, waiting: Sequence[NewPart]) -> bool:
    """Whether a flange of the member stands over what is fixed to the column already."""
    flange = _flange(m.body, m, made, cut, face)
    return any(flange.intersection(_shadow(m.body, new)).area > _TOUCH for new in waiting)


def _flange(body: Body, m: Meeting, made: Contribution, cut: EndCut, face: Face) -> BaseGeometry:
    s = body.section
    z = s.d / 2 if face is Face.TOP else -s.d / 2
    far = body.length / 2
    edge = [(cut.x(y, z), y) for y in (-s.b / 2, s.b / 2)]
    shape: BaseGeometry = shapely.Polygon([*edge, (far, s.b / 2), (far, -s.b / 2)])
    for owner, feature in made.features:
        if owner != body.id:
            continue
        if isinstance(feature, Notch) and feature.face is face:
            shape = shape.difference(shapely.Polygon(feature.outline))
        elif isinstance(feature, Cope) and feature.bottom == (face is Face.BOTTOM):
            tip = cut.at - m.sign * 1e4, cut.at + m.sign * feature.length
            shape = shape.difference(shapely.box(min(tip), -1e4, max(tip), 1e4))
    return shape


def _shadow(body: Body, new: NewPart) -> BaseGeometry:
    """What a plate covers in the member's plan (x, y); nothing where it lies wholly above or below the member."""
    (low, high), (near, far) = new.part.depth_range, new.part.y_range
    corners = [(x, y, z) for x in (0.0, new.part.length) for y in (near, far) for z in (low, high)]
    local = body.frame.to_local(new.placement.to_model(np.array(corners)))
    if local[:, 2].min() > body.section.d / 2 or local[:, 2].max() < -body.section.d / 2:
        return shapely.Point()
    return MultiPoint(local[:, :2]).convex_hull
