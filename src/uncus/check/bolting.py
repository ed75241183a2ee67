"""The room that site bolts and their tools ask for.

Clearances: AISC Manual table 7-15 (C2 to enter, C1 for a socket on the nut); metric by sockets of ISO 2725-2.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from uncus.catalog.bolts import bolt_size
from uncus.connect.buildable.reach import SOCKET
from uncus.steel.joint import Contribution, FastenerKind, Fasteners

Array = NDArray[np.float64]


def site_bolts(_: str, made: Contribution) -> tuple[Fasteners, ...] | None:
    """A joint's bolts that are put in on site."""
    return tuple(g for g in made.fasteners if g.kind is FastenerKind.BOLT and g.field) or None


def reach(group: Fasteners) -> Array:
    """The lowest and the highest corner of all that bolts and their tools may need (2, 3)."""
    size = bolt_size(group.size)
    out = group.length + size.head_height + SOCKET * size.d
    ends = np.concatenate([np.add(group.points, np.multiply(group.axis, x)) for x in (-out, group.grip + out)])
    wide = max(size.enter, size.turn, size.head_flats / 2)
    return np.array([ends.min(axis=0) - wide, ends.max(axis=0) + wide])


def reaches(joints: Sequence[Sequence[Fasteners]]) -> Array:
    """The boxes about all that each joint's bolts need (n, 2, 3)."""
    boxes = [np.array([reach(group) for group in groups]) for groups in joints]
    return np.array([(own[:, 0].min(axis=0), own[:, 1].max(axis=0)) for own in boxes])
