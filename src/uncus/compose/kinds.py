"""The list of kinds of composites: a new one is one file and one name here."""

from __future__ import annotations

from uncus.compose import branch, elbow, rail, stair, transition, winding
from uncus.compose.kind import Compound

_LISTED: tuple[Compound, ...] = (stair.KIND, winding.KIND, rail.KIND, transition.KIND, elbow.KIND, branch.KIND)
COMPOUNDS: dict[str, Compound] = {kind.name: kind for kind in _LISTED}
