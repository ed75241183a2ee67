"""Welds round the end of a rolled section against a plate."""

from __future__ import annotations

import numpy as np

from uncus.connect.fitup import Fitup
from uncus.connect.kind import Body
from uncus.steel.features import EndCut
from uncus.steel.profile import outline


def weld_round(fit: Fitup, key: str, body: Body, cut: EndCut, leg: float, plate: str, field: bool = False) -> None:
    """A fillet all round a section's outline where it is cut, to the plate it stands on."""
    ring = np.array(outline(body.section).simplify(0.05).exterior.coords)
    path = [body.frame.to_model((cut.x(y, z), y, z)) for y, z in ring]
    fit.weld(key, leg, path, (body.id, plate), 1, field, around=True)
