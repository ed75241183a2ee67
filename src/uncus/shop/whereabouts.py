"""Where a piece goes in the building, in words."""

from __future__ import annotations

from uncus.frame.grids import where
from uncus.job.records import Grid
from uncus.shop.pieces import Assembly


def whereabouts(grid: Grid | None, assembly: Assembly) -> str:
    """Where a piece goes, by the grid at its middle (columns: at the foot)."""
    a, b = assembly.member.start, assembly.member.end
    if abs(a[0] - b[0]) + abs(a[1] - b[1]) < 1:
        return where(grid, a[0], a[1])
    return where(grid, (a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
