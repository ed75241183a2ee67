"""Welds round the end of a rolled section against a plate."""

from __future__ import annotations

import math

import numpy as np

from uncus.catalog.sections import Section
from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.steel.features import EndCut, Saddle
from uncus.steel.profile import outline

_QUARTER = 24  # runs of a weld to a quarter of a saddle


def ring_of(section: Section) -> list[tuple[float, float]]:
    """A section's outline (y, z), closed."""
    return [(float(y), float(z)) for y, z in outline(section).simplify(0.05).exterior.coords]


def _round_ring(section: Section, saddle: Saddle) -> list[tuple[float, float]]:
    """A round tube's outline, with points where its saddle lies deepest and where the two walls run side by side."""
    angles = math.radians(saddle.turn) + np.linspace(0.0, 2 * math.pi, 4 * _QUARTER + 1)
    return [(section.d / 2 * math.sin(a), section.d / 2 * math.cos(a)) for a in angles.tolist()]


def weld_round(fit: Fitup, key: str, body: Body, cut: EndCut, leg: float, plate: str, field: bool = False,
    gap: float = 0.0) -> None:  # fmt: skip
    """A fillet all round a section's outline where it is cut, to the plate it stands on; `gap` mm before it."""
    ring = _round_ring(body.section, cut.saddle) if isinstance(cut.saddle, Saddle) else ring_of(body.section)
    path = [body.frame.to_model((cut.x(y, z), y, z)) for y, z in ring]
    fit.weld(key, leg, path, (body.id, plate), 1, field, around=True, root=gap if gap > 1.6 else 0.0)
