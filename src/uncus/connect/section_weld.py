"""Welds round the end of a rolled section against a plate."""

from __future__ import annotations

from uncus.catalog.sections import Section
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.steel.features import EndCut
from uncus.steel.profile import outline


def ring_of(section: Section) -> list[tuple[float, float]]:
    """A section's outline (y, z), closed."""
    return [(float(y), float(z)) for y, z in outline(section).simplify(0.05).exterior.coords]


def weld_round(fit: Fitup, key: str, body: Body, cut: EndCut, leg: float, plate: str, field: bool = False) -> None:
    """A fillet all round a section's outline where it is cut, to the plate it stands on."""
    path = [body.frame.to_model((cut.x(y, z), y, z)) for y, z in ring_of(body.section)]
    fit.weld(key, leg, path, (body.id, plate), 1, field, around=True)
