"""A member's own length or plate: what is made of its section or blank between its ends."""

from __future__ import annotations

import math
from collections.abc import Iterable

from uncus.catalog.grades import usual_grade
from uncus.connect.kind import Body
from uncus.frame.helices import Helix
from uncus.steel.blanks import cut_to
from uncus.steel.features import EndCut, Feature
from uncus.steel.forming import Coil, Curve
from uncus.steel.part import Part, rolled

Ends = tuple[EndCut, EndCut]


def own_ends(body: Body) -> Ends:
    """The ends that a member has without joints: square where it is pulled back to or, of one that climbs, cut plumb or
    level through its axis there."""
    member = body.record
    ends = EndCut(member.left_back), EndCut(body.length - member.right_back)
    if member.climb is None or not isinstance(body.arc, Helix):
        return ends
    left, right = (_inclined(cut, how, body.arc) for cut, how in zip(ends, (member.climb.left, member.climb.right),
        strict=True))  # fmt: skip
    return left, right


def _inclined(cut: EndCut, how: str, helix: Helix) -> EndCut:
    if how == "square" or (how == "level" and abs(helix.rise) < 1.0):
        return cut
    slope = math.tan(helix.climb) if how == "plumb" else -1 / math.tan(helix.climb)
    roll = math.radians(helix.roll)
    return EndCut(cut.at, slope * math.sin(roll), slope * math.cos(roll))


def own_part(body: Body, finish: str, ends: Ends, features: Iterable[Feature] = ()) -> tuple[Part, float]:
    """A member's own part between its ends, and how far its left end lies along the member. Raises ValueError where
    there is none."""
    grade = body.record.grade or usual_grade(body.section)
    if body.record.blank is not None:
        return cut_to(body.record.blank, body.section.tw, grade, finish, ends, features)
    return rolled(body.section, grade, finish, *ends, features, _rolling(body))


def bare_part(body: Body, finish: str) -> tuple[Part, float]:
    """A member's length from work point to work point, as it is shown where nothing better can be made of it."""
    grade = body.record.grade or usual_grade(body.section)
    return rolled(body.section, grade, finish, EndCut(0.0), EndCut(body.length), (), _rolling(body))


def _rolling(body: Body) -> Curve | Coil | None:
    if isinstance(body.arc, Helix):
        return Coil.of(body.arc.radius, math.degrees(body.arc.climb), body.arc.hand, body.arc.roll)
    return Curve.of(body.arc.radius, body.arc.turn) if body.arc else None
