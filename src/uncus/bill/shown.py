"""Cells of lists in a job's units, and what heads say of them."""

from __future__ import annotations

from uncus.bill.table import Cell, Unit
from uncus.units import POUND, Units, format_length

_SQUARE_FOOT = 0.09290304  # m2


def head_words(column_words: str, unit: Unit, units: Units) -> str:
    """A column's head with what it is measured in, where its cells do not say so."""
    imperial = units is Units.IMPERIAL
    if unit is Unit.WEIGHT:
        return f"{column_words} ({'lb' if imperial else 'kg'})"
    if unit is Unit.AREA:
        return f"{column_words} ({'sq ft' if imperial else 'm2'})"
    return f"{column_words} (mm)" if unit is Unit.LENGTH and not imperial else column_words


def shown(cell: Cell, unit: Unit, units: Units) -> Cell:
    """A cell in the job's units; words, and what is not there, as they are."""
    if isinstance(cell, str):
        return cell
    imperial = units is Units.IMPERIAL
    match unit:
        case Unit.LENGTH:
            return format_length(float(cell), units)
        case Unit.WEIGHT:
            return round(float(cell) / POUND, 1) if imperial else round(float(cell), 2)
        case Unit.AREA:
            return round(float(cell) / _SQUARE_FOOT, 1) if imperial else round(float(cell), 2)
        case Unit.NUMBER:
            return round(float(cell), 3)
    return cell
