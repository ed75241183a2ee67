"""A member's own length or plate: what is made of its section or blank between its ends."""

from __future__ import annotations

import math
from collections.abc import Iterable

from uncus.catalog.grades import usual_grade
from uncus.connect.kind import Body
from uncus.connect.own_ends import Ends
from uncus.frame.helices import Helix
from uncus.steel.blanks import cut_to
from uncus.steel.bodies import item_part
from uncus.steel.features import EndCut, Feature
from uncus.steel.forming import Coil, Curve
from uncus.steel.part import Part, rolled


def own_part(body: Body, finish: str, ends: Ends, features: Iterable[Feature] = ()) -> tuple[Part, float]:
    """A member's own part between its ends, and how far its left end lies along the member. Raises ValueError where
    there is none."""
    grade = body.record.grade or usual_grade(body.section)
    if body.record.item is not None and body.bought is not None:
        made, shift, _ = item_part(
            body.bought.facts, body.bought.body, body.record.item.mirrored, body.record.item.black
        )
        return made, shift
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
