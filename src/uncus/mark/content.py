"""Fingerprints of pieces, and the order in which people read marks and number pieces."""

from __future__ import annotations

import hashlib
import re
from functools import lru_cache

import msgspec
import numpy as np

from uncus.frame.placement import Placement
from uncus.shop.pieces import Assembly
from uncus.steel.part import Part


@lru_cache(maxsize=65536)
def part_content(part: Part) -> str:
    """Fingerprint of a part: equal for equal parts, whenever and wherever it is made."""
    return hashlib.sha256(msgspec.json.encode(part)).hexdigest()[:16]


Digits = tuple[list[float], list[float]]  # origin (3) in hundredths of a mm, axes (9)


def digits(place: Placement) -> Digits:
    """A place without the last bits of its reckoning."""
    origin, axes = place.origin.tolist(), place.axes.ravel().tolist()
    return [round(v, 2) + 0.0 for v in origin], [round(v, 5) + 0.0 for v in axes]


def rounded(place: Placement) -> Placement:
    origin, axes = digits(place)
    return Placement(np.array(origin), np.array(axes).reshape(3, 3))


def placed(assembly: Assembly) -> list[Placement]:
    """Where each piece of an assembly lies in the frame of its main part, as its fingerprint has it, in their order."""
    inverse = assembly.main.placement.inverse
    return [rounded(inverse @ piece.placement) for piece in assembly.pieces]


def assembly_content(assembly: Assembly) -> str:
    """Fingerprint of an assembly: its parts, where they lie in it, its welds and shop bolts."""
    inverse = assembly.main.placement.inverse
    items = []
    all_welds, bolts = assembly.shop_welds, assembly.shop_bolts
    for piece in assembly.pieces:
        welds = sorted((w.size, w.sides) for w in all_welds[piece.id])
        place = digits(inverse @ piece.placement)
        items.append((part_content(piece.part), *place, welds, bolts[piece.id]))
    items.sort()
    studs = sorted((words, digits(place)[0]) for words, place in assembly.studs)
    said = (assembly.member.camber, items, studs) if studs else (assembly.member.camber, items)
    return hashlib.sha256(msgspec.json.encode(said)).hexdigest()[:16]


@lru_cache(maxsize=65536)
def natural(mark: str) -> tuple[object, ...]:
    """Sorts marks as people do: B2 before B10."""
    return tuple((0, int(t), "") if t.isdigit() else (1, 0, t) for t in re.findall(r"\d+|\D+", mark))


def part_order(part: Part) -> tuple[object, ...]:
    """Numbers go to the heaviest section first, then to the longest piece."""
    name = part.section.name if part.section else f"PL{part.thickness:08.2f}"
    return (-part.section.kg_m if part.section else 0.0, name, -part.length)


def mark_id(piece: str, part: bool) -> str:
    return f"mark:{'part' if part else 'assembly'}:{piece}"
