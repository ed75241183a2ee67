"""The ends that a member has before any joint cuts them."""

from __future__ import annotations

import math

import numpy as np

from uncus.connect.kind import Body
from uncus.job.records import END_CUTS
from uncus.steel.features import EndCut

Ends = tuple[EndCut, EndCut]
_ALONG = 0.02  # of slope under which a plane would run along the member instead of across it


def own_ends(body: Body) -> Ends:
    """Where a member is pulled back to, cut square, plumb or level through its axis there."""
    member = body.record
    left = _cut(body, member.left_back, member.left_cut)
    return left, _cut(body, body.length - member.right_back, member.right_cut)


def _cut(body: Body, at: float, how: str) -> EndCut:
    if how == END_CUTS[0]:
        return EndCut(at)
    frame = body.along(at)
    run = frame.x[:2].tolist()
    level = math.hypot(*run)
    if how == "level":
        normal = np.array([0.0, 0.0, 1.0])
    elif level > _ALONG:
        normal = np.array([run[0] / level, run[1] / level, 0.0])
    else:
        return EndCut(at)
    n = frame.axes.T @ normal
    if abs(float(n[0])) < _ALONG:
        return EndCut(at)
    return EndCut(at, round(float(-n[1] / n[0]), 9) + 0.0, round(float(-n[2] / n[0]), 9) + 0.0)
