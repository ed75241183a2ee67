"""Fillet welds loaded off their middle: what length of plain weld a group is worth, by the instantaneous centre of
rotation.

An element at an angle to its force gives f = (1 + 0.5 sin^1.5 a) (p (1.9 - 0.9 p))^0.3 of what it gives along its
line, p its deformation over that at its greatest load: 0.209 (a + 2)^-0.32 w; the element that first comes to 1.087
(a + 6)^-0.65 w (at most 0.17 w) ends it, a in degrees (AISC 360-22 J2.4 and its commentary; AISC Manual part 8).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from uncus.job.errors import JobError

Line = tuple[tuple[float, float], tuple[float, float]]
_PIECE = 2.0  # mm, the longest element a line is taken in


@lru_cache(maxsize=2048)
def worth(lines: tuple[Line, ...], off: float) -> float:
    """mm of weld loaded along its line that lines (x, z) are worth, loaded along z at `off` mm beyond their middle
    along +x.

    The group must be symmetrical about its middle line along x. Raises JobError where no balance is found.
    """
    at, way, long = _elements(lines)
    total = float(long.sum())
    at = at - (at * long[:, None]).sum(axis=0) / total
    off = max(abs(off), 1.0)  # nothing is loaded truer than that

    def forces(centre: float) -> tuple[float, float]:
        """Sums of forces along z and of moments about a centre so far beyond the middle."""
        dx, dz = at[:, 0] + centre, at[:, 1]
        reach = np.maximum(np.hypot(dx, dz), 1e-9)
        # the force is square to the radius: its angle to the weld's line
        cosine = np.abs(-dz / reach * way[:, 0] + dx / reach * way[:, 1])
        angle = np.degrees(np.arccos(np.clip(cosine, 0.0, 1.0)))
        most = np.minimum(1.087 * (angle + 6) ** -0.65, 0.17)
        best = 0.209 * (angle + 2) ** -0.32
        turn = float((most / reach).min())
        p = turn * reach / best
        f = (1 + 0.5 * np.sin(np.radians(angle)) ** 1.5) * np.maximum(p * (1.9 - 0.9 * p), 0.0) ** 0.3 * long
        return float((f * dx / reach).sum()), float((f * reach).sum())

    def unbalanced(centre: float) -> float:
        up, moment = forces(centre)
        return up - moment / (off + centre)

    low = -0.9 * float(np.ptp(at[:, 0])) if np.ptp(at[:, 0]) > 1 else 1e-6
    low = max(low, -off + 1e-3)
    steps = np.concatenate([np.linspace(low, 500.0, 80), np.geomspace(501.0, 1e7, 60)])
    values = [unbalanced(float(s)) for s in steps]
    n = next((n for n in range(len(steps) - 1) if values[n] < 0 <= values[n + 1]), None)
    if n is None:
        raise JobError("no balance is found for a group of welds loaded off its middle")
    from scipy.optimize import brentq  # half a second to import

    centre = brentq(unbalanced, float(steps[n]), float(steps[n + 1]), xtol=1e-6)
    return float(forces(centre)[1] / (off + centre))


def _elements(lines: tuple[Line, ...]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Middles (n, 2), directions (n, 2) and lengths (n,) of short pieces of lines."""
    at, way, long = [], [], []
    for a, b in lines:
        one, two = np.array(a), np.array(b)
        size = float(np.linalg.norm(two - one))
        count = max(1, int(np.ceil(size / _PIECE)))
        shares = (np.arange(count) + 0.5) / count
        at.append(one + shares[:, None] * (two - one))
        way.append(np.tile((two - one) / size, (count, 1)))
        long.append(np.full(count, size / count))
    return np.concatenate(at), np.concatenate(way), np.concatenate(long)
