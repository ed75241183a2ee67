"""Where something is, as people on site say it: by the grid and the level that is next to it."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.frame.grids import where
from uncus.job.records import Grid, Level, Point
from uncus.units import Units, length_in_words

_ON = 3.0  # mm within which a height is a level's own


def in_words(grid: Grid | None, levels: Sequence[Level], at: Point, units: Units) -> str:
    """`grid 2/B, 3'-0 under Club room`; without a grid or levels what there is of it."""
    said = where(grid, at[0], at[1])
    found = [f"grid {said}"] if said else []
    if levels:
        near = min(levels, key=lambda level: abs(level.elevation - at[2]))
        away = at[2] - near.elevation
        if abs(away) <= _ON:
            found.append(f"at {near.name}")
        else:
            found.append(f"{length_in_words(abs(away), units)} {'over' if away > 0 else 'under'} {near.name}")
    return ", ".join(found) or "no grid or level to say it by"
