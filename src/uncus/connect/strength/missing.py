"""Limit states that joints are known to need and that are not worked out yet: named, so that none passes for safe.

A kind names those of its own; one goes from here when its check is there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple

from uncus.connect.strength.case import Case
from uncus.job.records import Role
from uncus.steel.features import Hole


class Missing(NamedTuple):
    """Something that a joint needs `when` its loads ask for it, in words."""

    when: Callable[[Case], bool]
    words: str


def _axial(case: Case) -> bool:
    return abs(case.axial) > 0


def _pulled(case: Case) -> bool:
    return case.axial > 0


def _notched(case: Case) -> bool:
    """Whether a beam is notched where the standard wants more than its bending there (EN 1993; SCI P358)."""
    return not case.code.conventional and case.shear > 0 and bool(case.copes())


def _moment(case: Case) -> bool:
    return case.moment > 0


def _loose(case: Case) -> bool:
    """Whether a plate of the joint has oversize or slotted holes."""
    plates = [h for p in case.made.parts for h in p.part.holes]
    webs = [f for _, f in case.made.features if isinstance(f, Hole)]
    sizes = {round(case.bolting(g, 1).hole, 1) for g in case.made.fasteners}
    return bool(sizes) and any(h.slot or h.d > max(sizes) + 0.3 for h in (*plates, *webs))


def _with(start: str) -> Callable[[Case], bool]:
    """Whether a loaded joint has parts of a key."""
    return lambda case: any(p.key.startswith(start) for p in case.made.parts) and bool(case.moment or case.axial)


# fmt: off
BEARING_ALONG = Missing(_axial, "bearing and tear-out along the member under the axial load")
WALL_BENDING = Missing(_axial, "bending of the support's web or wall under the axial load")
TENSION_WITH_SHEAR = Missing(lambda c: _axial(c) and c.shear > 0, "tension of bolts with shear")
SLIP = Missing(_loose, "slip of bolts in oversize or slotted holes")
WEBS_BESIDE = Missing(_axial, "yielding and crippling of webs beside the gusset")
BLOCK_OF_ONE_LINE = Missing(_axial,
    "block shear of a single line of bolts, and the spread of force beyond the gusset's own edges")
NOTCH = Missing(_notched, "shear and bending together at the notch, and its stability")
TAB_UNDER_BRACE = Missing(_axial, "the beam's tab under the brace's share")
FREE_EDGE = Missing(lambda c: c.axial < 0, "buckling of the gusset's free edge")
STIFFENED_FLANGES = Missing(_moment, "bending of stiffened column flanges")
CONTINUITY_WELDS = Missing(_with("continuity"), "welds of the continuity plates")
FLANGE_BETWEEN_BOLTS = Missing(_moment, "bending of the column's flange between its bolts, and their prying")
HAUNCH = Missing(_with("haunch"), "the haunch and its welds")
STIFFENERS = Missing(_with("stiffener"), "the stiffeners and their welds")
OTHER_BEAM = Missing(lambda c: bool(c.joint.others) and c.shear > 0,
    "the other beam on the plate, whose load is its own")
OTHER_LENGTH = Missing(_axial, "the other length's own welds or bolts, and the brace that runs through")
OTHER_BRACE = Missing(_axial, "the other brace's own welds or bolts")
BEAMS_WEAK_WAY = Missing(_axial, "bending of the beams' webs by the gusset, and of the beams about their weak axes")
CAP_BENDING = Missing(_axial, "bending of the cap, and the tube's wall at it")
BETWEEN_LENGTHS = Missing(lambda c: c.axial < 0, "buckling between the two lengths")
PRYING = Missing(lambda c: _pulled(c) and c.has("plate of member"), "prying of the bolts")
COLUMN_WEB = Missing(_moment, "buckling of the column's web (J10.5)")
ROD_BREAKOUT = Missing(lambda c: _pulled(c) or c.moment > 0 or c.shear > 0, "breakout of the rods from the concrete")
WALL_BELOW = Missing(lambda c: c.shear > 0, "the wall below, if it is not concrete of the rules' strength")
LUG = Missing(lambda c: c.shear > 0 and c.has("lug"), "bearing of the lug on the concrete, and its breakout")
RODS_BOTH_WAYS = Missing(lambda c: c.shear > 0 and (_pulled(c) or c.moment > 0), "rods pulled and sheared together")
CHORD_STRESS = Missing(_axial, "stress of the chord itself (Q_f)")
# fmt: on


def missing(rows: Iterable[Missing], case: Case) -> list[str]:
    """What a joint would also need under its loads, of what is known of its kind; at a plate in a wall, whatever the
    kind, what holds that."""
    held = case.joint.support
    wall = held is not None and held.record.role is Role.EMBED and bool(case.shear or case.axial or case.moment)
    found = ["bending of the plate in the wall, and its anchors in the concrete"] if wall else []
    return found + [row.words for row in rows if row.when(case)]
