"""Parts in words and lengths as bills and drawings give them."""

from __future__ import annotations

import math
from collections.abc import Iterator

from uncus.catalog.fittings import thread_of
from uncus.job.blanks import Lugs
from uncus.steel.forming import ROLLED, is_developed, is_rolled_plate
from uncus.steel.part import Part
from uncus.units import FOOT, Units, format_length

_HANDS = {1: "LEFT", -1: "RIGHT"}  # the way it turns, going up from its left end


def describe(part: Part, units: Units) -> str:
    """A part as a bill names it: its section, `PL 3/8 x 3 1/2`, or a bought item's code."""
    if part.item is not None:
        return f"{part.item.code} {part.item.words}"
    if part.curve is not None and part.section is not None:
        return f"{part.section.name} ROLLED R {format_length(part.curve.radius, units)}"
    if part.coil is not None and part.section is not None:
        how = "ROLLED" if part.coil.is_level else "CLIMBING"
        return f"{part.section.name} {how} R {format_length(part.coil.radius, units)}"
    if part.section is not None:
        return part.section.name
    short = min(part.width, part.length)
    form = "ROLLED " if is_rolled_plate(part) else "BENT " if part.bends else ""
    if part.surface is not None:
        form = f"{form}{part.surface.name.upper()} "
        if part.surface.kg_m2:
            return f"{form}{format_length(part.thickness, units)} x {format_length(short, units)}"
    return f"{form}PL {format_length(part.thickness, units)} x {format_length(short, units)}"


def billed_length(part: Part) -> float:
    """Length as billed: over all; of a plate, the longer side."""
    return part.length if part.section is not None else max(part.length, part.width)


def _thread_words(part: Part, units: Units) -> set[str]:
    both = len(part.threads) == 2 and len({(t.length, t.left_handed) for t in part.threads}) == 1
    assert part.section is not None
    thread = thread_of(part.section)
    size = thread.name if thread else format_length(part.section.d, units)
    return {
        f"THREAD {size} x {format_length(t.length, units)} {'LEFT' if t.left_handed else 'RIGHT'} HAND, "
        f"{'BOTH ENDS' if both else 'RIGHT END' if t.right else 'LEFT END'}"
        for t in part.threads
    }


def _grating_words(surface: Lugs, depth: float, units: Units) -> Iterator[str]:
    if surface.band:
        bar = f"{format_length(surface.band, units)} x {format_length(depth, units)}"
        yield f"BAND ALL EDGES AND CUT-OUTS WITH BAR {bar}"
    if surface.clips:
        yield f"{surface.clips} CLIPS TO A PANEL, ON SITE"


def developed_words(part: Part) -> str:
    """How a developed plate is brought to its form."""
    angles = sorted(abs(b.angle) for b in part.bends)
    if is_rolled_plate(part):
        folds = [a for a in angles if a > ROLLED]
        more = f", AND {len(folds)} FOLDS OF UP TO {folds[-1]:.1f} DEG" if folds else ""
        return f"ROLL TO THE FORM SHOWN BY {sum(angles):.1f} DEG IN ALL{more}"
    span = f"{angles[0]:.1f}" if angles[-1] - angles[0] < 0.1 else f"{angles[0]:.1f} TO {angles[-1]:.1f}"
    return f"FOLD ALONG {len(angles)} LINES BY {span} DEG, ABOUT THE MIDDLE OF THE PLATE"


def forming_words(part: Part, units: Units) -> tuple[str, ...]:
    """How a part is formed once it is cut and drilled, and its threads: a line for each thing done."""
    if part.surface is not None and (part.surface.band or part.surface.clips):
        return tuple(_grating_words(part.surface, part.thickness, units))
    if part.threads:
        return tuple(sorted(_thread_words(part, units)))
    if part.curve is not None:
        return (f"ROLL TO R {format_length(part.curve.radius, units)} ON THE AXIS",)
    if part.coil is not None:
        coil, long = part.coil, part.length
        radius, to, rise, pitch = (
            format_length(v, units) for v in (coil.radius, coil.rolled_to, coil.rise(long), coil.pitch)
        )
        turning, whole = f"{math.degrees(coil.turn(long)):.1f} DEG", format_length(long, units)
        if coil.is_level:
            return (f"ROLL TO R {radius} BY {turning}, DEVELOPED {whole}",)
        a, of = (FOOT / 1000.0, "FOOT") if units is Units.IMPERIAL else (1.0, "METER")
        return (
            f"ROLL TO R {to} AND TWIST {coil.twist * a:.2f} DEG TO A {of}",
            f"CLIMBS {_HANDS[coil.hand]} HAND AT R {radius} BY {rise}, TURNING {turning}",
            f"PITCH {pitch}, DEVELOPED {whole}",
        )
    if is_developed(part):
        return (developed_words(part),)
    told: dict[str, int] = {}
    for bend in part.bends:
        words = (
            f"BEND {abs(bend.angle):g} DEG {'UP' if bend.angle > 0 else 'DOWN'} R {format_length(bend.radius, units)} "
            f"INSIDE"
        )
        told[words] = told.get(words, 0) + 1
    return tuple(f"{n} x {words}" if n > 1 else words for words, n in told.items())
