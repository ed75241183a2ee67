"""Bolts loaded off their middle: how many of them a group is worth, by the instantaneous centre of rotation.

Each bolt gives R = R_ult (1 - exp(-10 D))^0.55 with D in inches, 0.34 in. at the farthest bolt (AISC Manual part 7,
after Crawford and Kulak 1971).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

_MOST = 0.34  # in. of slip at the bolt farthest from the centre


@lru_cache(maxsize=2048)
def worth(points: tuple[tuple[float, float], ...], off: float) -> float:
    """C of a group of bolts (x, z), loaded along z at a distance `off` (mm) from its middle along x.

    The group must be symmetrical about its middle line along x.
    """
    spots = np.array(points, dtype=float)
    spots -= spots.mean(axis=0)
    n = len(spots)
    if abs(off) < 1.0 or n == 0:
        return float(n)
    off = abs(off)

    def forces(centre: float) -> tuple[float, float]:
        """Sum of forces along z, and of moments about the centre, for R_ult = 1."""
        dx, dz = spots[:, 0] + centre, spots[:, 1]
        reach = np.hypot(dx, dz)
        slip = _MOST * reach / reach.max()
        r = (1 - np.exp(-10 * slip)) ** 0.55
        safe = np.where(reach > 1e-9, reach, 1.0)
        return float((r * dx / safe).sum()), float((r * reach).sum())

    def unbalanced(centre: float) -> float:
        up, moment = forces(centre)
        return up - moment / (off + centre)

    if n == 1:
        return 0.0
    low, high = 1e-6, max(10.0, 1e4 * float(np.ptp(spots)) + 1e5)
    if unbalanced(low) > 0:
        low = -off + 1e-3
    from scipy.optimize import brentq  # half a second to import

    centre = brentq(unbalanced, low, high, xtol=1e-6)
    _, moment = forces(centre)
    return min(float(n), float(moment / (off + centre)))


@lru_cache(maxsize=2048)
def turning(points: tuple[tuple[float, float], ...]) -> float:
    """C' of a group of bolts turned about its middle: what moment it gives for one bolt's strength, mm (Manual part
    7)."""
    spots = np.array(points, dtype=float)
    reach = np.hypot(*(spots - spots.mean(axis=0)).T)
    if reach.max(initial=0.0) < 1e-9:
        return 0.0
    return float((reach * (1 - np.exp(-10 * _MOST * reach / reach.max())) ** 0.55).sum())
