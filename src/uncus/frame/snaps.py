"""Where a pick lands: the named point nearest the pointer on screen, else the work plane."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.frame.grids import crossings
from uncus.job.records import Grid, Member, Point

Array = NDArray[np.float64]


class Snap(msgspec.Struct, frozen=True):
    """A picked point, the name of what it snapped to, and the piece it belongs to."""

    point: Point
    words: str
    piece: str = ""


class SnapPoints:
    """Named points of a job, held as arrays so that the nearest on screen is one expression."""

    def __init__(self, members: Iterable[Member], grid: Grid | None, plane_z: float) -> None:
        points: list[Point] = []
        words: list[str] = []
        pieces: list[str] = []
        for m in members:
            middle = tuple((a + b) / 2 for a, b in zip(m.start, m.end, strict=True))
            for point, name in ((m.start, "end"), (m.end, "end"), (middle, "middle")):
                points.append(point)  # type: ignore[arg-type]
                words.append(f"{name} of {m.role}")
                pieces.append(m.id)
        if grid is not None:
            for name, x, y in crossings(grid):
                points.append((x, y, plane_z))
                words.append(f"grid {name}")
                pieces.append("")
        self.points: Array = np.array(points, dtype=np.float64).reshape(-1, 3)
        self.words = words
        self.pieces = pieces

    def nearest(self, screen: Array, at: tuple[float, float], reach: float) -> int | None:
        """Index of the named point nearest `at`; `screen` (n, 3) holds pixel x, y and depth of each (less is nearer)."""
        if not len(screen):
            return None
        away = np.hypot(screen[:, 0] - at[0], screen[:, 1] - at[1])
        close = np.flatnonzero(away <= reach)
        if not len(close):
            return None
        # among points as good as equally near on screen the one in front wins
        best = away[close].min()
        tied = close[away[close] <= best + 2.0]
        return int(tied[np.argmin(screen[tied, 2])])


def on_plane(origin: Array, direction: Array, z: float) -> Array | None:
    """Where a ray meets the level plane at height z; None where it runs along it."""
    if abs(direction[2]) < 1e-6:
        return None
    return origin + direction * ((z - origin[2]) / direction[2])
