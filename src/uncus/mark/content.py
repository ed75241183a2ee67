"""Fingerprints of pieces, and the order in which people read marks and number pieces."""

from __future__ import annotations

import hashlib
import re
from functools import lru_cache

import msgspec

from uncus.shop.pieces import Assembly
from uncus.steel.part import Part


@lru_cache(maxsize=65536)
def part_content(part: Part) -> str:
    """Fingerprint of a part: equal for equal parts, whenever and wherever it is made."""
    return hashlib.sha256(msgspec.json.encode(part)).hexdigest()[:16]


def assembly_content(assembly: Assembly) -> str:
    """Fingerprint of an assembly: its parts, where they lie in it, its welds and shop bolts."""
    inverse = assembly.main.placement.inverse
    items = []
    for piece in assembly.pieces:
        place = inverse @ piece.placement
        welds = sorted((w.size, w.sides) for w in assembly.welds if piece.id in w.joins)
        items.append(
            (
                part_content(piece.part),
                [round(v, 2) + 0.0 for v in place.origin.tolist()],
                [round(v, 5) + 0.0 for v in place.axes.ravel().tolist()],
                welds,
                assembly.shop_bolts(piece.id),
            )
        )
    items.sort()
    studs = sorted((words, [round(v, 2) + 0.0 for v in place.origin.tolist()]) for words, place in assembly.studs)
    if studs:
        return hashlib.sha256(msgspec.json.encode((assembly.member.camber, items, studs))).hexdigest()[:16]
    return hashlib.sha256(msgspec.json.encode((assembly.member.camber, items))).hexdigest()[:16]


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
