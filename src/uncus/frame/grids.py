"""Grid lines from typed spacings, and where they cross."""

import string
from collections.abc import Iterator, Sequence

from uncus.job.records import Grid, GridLine


def _letters() -> Iterator[str]:
    """A, B, C ... without I and O, which read as figures; then AA, AB ..."""
    plain = [c for c in string.ascii_uppercase if c not in "IO"]
    yield from plain
    for first in plain:
        yield from (first + second for second in plain)


def make_grid(across: Sequence[float], up: Sequence[float]) -> Grid:
    """A grid of numbered lines at the running sum of `across` (x) and lettered ones at that of `up` (y); mm."""

    def running(labels: Iterator[str], spacings: Sequence[float]) -> tuple[GridLine, ...]:
        at, lines = 0.0, [GridLine(next(labels), 0.0)]
        for spacing in spacings:
            at += spacing
            lines.append(GridLine(next(labels), at))
        return tuple(lines)

    return Grid(numbers=running((str(n) for n in range(1, 10_000)), across), letters=running(_letters(), up))


def crossings(grid: Grid) -> list[tuple[str, float, float]]:
    """Every crossing as (name, x, y), such as `2/B`."""
    return [(f"{n.label}/{c.label}", n.at, c.at) for n in grid.numbers for c in grid.letters]


def where(grid: Grid | None, x: float, y: float, near: float = 300.0) -> str:
    """A place in words: on a crossing `2/B`, on a line `2, A-B`, or between lines `1-2, A-B`."""
    if grid is None or not grid.numbers or not grid.letters:
        return ""

    def along(lines: tuple[GridLine, ...], at: float) -> str:
        hit = min(lines, key=lambda line: abs(line.at - at))
        if abs(hit.at - at) <= near:
            return hit.label
        below = [line for line in lines if line.at < at]
        above = [line for line in lines if line.at > at]
        if not below or not above:
            return f"beyond {hit.label}"
        return f"{max(below, key=lambda g: g.at).label}-{min(above, key=lambda g: g.at).label}"

    first, second = along(grid.numbers, x), along(grid.letters, y)
    return f"{first}/{second}" if "-" not in first + second else f"{first}, {second}"
