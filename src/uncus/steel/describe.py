"""Parts in words and lengths as bills and drawings give them."""

from __future__ import annotations

from uncus.steel.part import Part
from uncus.units import Units, format_length


def describe(part: Part, units: Units) -> str:
    """A part as a bill names it: its section, or `PL 3/8 x 3 1/2`."""
    if part.section is not None:
        return part.section.name
    short = min(part.width, part.length)
    return f"PL {format_length(part.thickness, units)} x {format_length(short, units)}"


def billed_length(part: Part) -> float:
    """Length as billed: over all; of a plate, the longer side."""
    return part.length if part.section is not None else max(part.length, part.width)
