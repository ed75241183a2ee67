"""A tie rod in two lengths: where each lies, and the turnbuckle that draws them together.

One length has right-hand threads at both ends, the shorter (the right one of two alike) a left-hand one in the
turnbuckle, so that turning it draws both in; rods that cross are one mark, whichever way they were drawn.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from uncus.catalog.fittings import MAKER, RodFitting
from uncus.catalog.sections import Section
from uncus.frame.placement import Placement
from uncus.job.records import Turnbuckle
from uncus.steel.double import Set
from uncus.steel.features import EndCut, Feature, Thread
from uncus.steel.forming import Item
from uncus.steel.part import plate, rolled

TAKE_UP = 1.5  # threads are cut so much longer than what engages, to be drawn in


class Opening(NamedTuple):
    """How far into a body what it takes goes, and how thick that is."""

    depth: float
    thick: float


def opened(long: float, wide: float, left: Opening, right: Opening) -> list[tuple[float, float]]:
    """The outline of a body about a rod's axis that takes a rod or a plate in at either end: (x, z), x from its left
    end."""
    half, a, b = wide / 2, left.thick / 2, right.thick / 2
    return [(0, -half), (long, -half), (long, -b), (long - right.depth, -b), (long - right.depth, b), (long, b),
        (long, half), (0, half), (0, a), (left.depth, a), (left.depth, -a), (0, -a)]  # fmt: skip


def cut_thread(engaged: float) -> float:
    """How long a thread is cut where so much of it is engaged, up to the next 5 mm."""
    return math.ceil(TAKE_UP * engaged / 5 - 1e-4) * 5.0


def lengths(section: Section, turnbuckle: Turnbuckle, fitting: RodFitting, make: tuple[str, str], length: float,
    ends: tuple[float, float], features: tuple[list[Feature], list[Feature]]) -> list[Set]:  # fmt: skip
    """Both lengths and the turnbuckle in the member's frame, `ends` along it; `make` is grade and finish. Raises
    ValueError where a length is left with nothing."""
    at, half = turnbuckle.middle(length), fitting.apart / 2
    reach = (fitting.sleeve - fitting.apart) / 2
    cut, left_handed = cut_thread(reach), at < length / 2 - 1.0
    left, from_left = rolled(
        section, *make, EndCut(ends[0]), EndCut(at - half), [*features[0], Thread(True, cut, left_handed)]
    )
    right, from_right = rolled(
        section, *make, EndCut(at + half), EndCut(ends[1]), [*features[1], Thread(False, cut, not left_handed)]
    )
    for one in (left, right):
        if one.length < 2 * cut:
            raise ValueError("its turnbuckle stands too near an end")
    rod = Opening(reach, section.d)
    shape = opened(fitting.sleeve, fitting.body, rod, rod)
    item = Item(fitting.turnbuckle, MAKER, "turnbuckle", fitting.sleeve_kg)
    body = plate(shape, fitting.body, "bought", make[1], item=item)
    here = Placement((at - fitting.sleeve / 2, 0.0, 0.0), np.eye(3))
    along = np.eye(3)
    return [Set("", left, Placement((from_left, 0.0, 0.0), along), "rod"),
        Set("mate", right, Placement((from_right, 0.0, 0.0), along), "second rod"),
        Set("turnbuckle", body, here, "turnbuckle")]  # fmt: skip
