"""The list of kinds of composites: a new one is one file and one name here."""

from __future__ import annotations

from uncus.compose import (
    branch,
    dogleg,
    elbow,
    floor_plate,
    grating,
    ladder,
    lintel,
    profile_plate,
    rail,
    stair,
    transition,
    winding,
)
from uncus.compose.kind import Compound

_LISTED: tuple[Compound, ...] = tuple(
    kind.KIND
    for kind in (
        stair,
        dogleg,
        winding,
        ladder,
        rail,
        grating,
        floor_plate,
        profile_plate,
        lintel,
        transition,
        elbow,
        branch,
    )
)  # in the order in which they are offered
COMPOUNDS: dict[str, Compound] = {kind.name: kind for kind in _LISTED}
