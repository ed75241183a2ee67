"""What joints do to a member rolled to an arc: said of the straight length that touches it there, told of the arc."""

from __future__ import annotations

import msgspec
import numpy as np

from uncus.catalog.sections import Section
from uncus.connect.kind import Body
from uncus.frame.arcs import Arc
from uncus.frame.placement import Placement
from uncus.job.records import End
from uncus.steel import profile
from uncus.steel.features import EndCut, Feature, Hole, Notch


def feature_on(body: Body, straight: Placement, feature: Feature) -> Feature:
    """A feature given in the frame of a straight length, where it lies on the arc. Copes are given from their ends and
    stay as they are."""
    if body.arc is None:
        return feature
    if isinstance(feature, Hole):
        x, w = _spot(body.arc, straight, body.section, feature, (feature.x, feature.w))
        return msgspec.structs.replace(feature, x=x, w=w)
    if isinstance(feature, Notch):
        ring = tuple(_spot(body.arc, straight, body.section, feature, p) for p in feature.outline)
        return msgspec.structs.replace(feature, outline=ring)
    return feature


def _spot(
    arc: Arc, straight: Placement, section: Section, feature: Hole | Notch, at: tuple[float, float]
) -> tuple[float, float]:
    wall = profile.faces(section).get(feature.face)
    mid = wall.mid if wall else 0.0
    local = (at[0], mid, at[1]) if feature.face.upright else (at[0], at[1], mid)
    x, y, z = arc.unrolled(straight.to_model(local)).tolist()
    return x, z if feature.face.upright else y


def cut_on(arc: Arc, straight: Placement, cut: EndCut) -> EndCut:
    """An end's plane, given in the frame of a straight length, as it crosses the arc."""
    normal = straight.axes @ np.array([1.0, -cut.ky, -cut.kz])
    foot = straight.to_model((cut.at, 0.0, 0.0))
    at = cut.at
    for _ in range(4):  # Newton's steps along the arc
        here = arc.at(at)
        at -= float((here.to_model((at, 0.0, 0.0)) - foot) @ normal) / float(here.x @ normal)
    n = arc.at(at).axes.T @ normal
    ky, kz = (round(float(-v / n[0]), 9) + 0.0 for v in n[1:])
    return EndCut(at, ky, kz)


def straight_at(body: Body, of: Body, end: End) -> Placement:
    """The frame in which a joint at an end of member `of` sees this one."""
    return body.touching(of.end(end)).frame
