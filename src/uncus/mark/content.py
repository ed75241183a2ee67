"""Fingerprints of pieces, and the order in which people read marks and number pieces."""

from __future__ import annotations

import hashlib
import re
from functools import lru_cache

import msgspec
import numpy as np

from uncus.frame.placement import Placement, Vec, settled
from uncus.shop.pieces import Assembly
from uncus.steel.part import Part


@lru_cache(maxsize=65536)
def part_content(part: Part) -> str:
    """Fingerprint of a part: equal for equal parts, whenever and wherever it is made."""
    return hashlib.sha256(msgspec.json.encode(part)).hexdigest()[:16]


Digits = tuple[list[float], list[float]]  # origin (3) in hundredths of a mm, axes (9)


def digits(place: Placement) -> Digits:
    """A place without the last bits of its reckoning."""
    return settled(place.origin, 2).tolist(), settled(place.axes.ravel(), 5).tolist()


def rounded(place: Placement) -> Placement:
    return Placement(settled(place.origin, 2), settled(place.axes, 5))


def _places(assembly: Assembly) -> tuple[Vec, Vec]:
    """Where the pieces of an assembly lie in the frame of its main part, in their order: origins (n, 3) and axes
    (n, 3, 3), without the last bits of their reckoning."""
    main = assembly.main.placement
    origins = np.array([p.placement.origin for p in assembly.pieces])
    axes = np.array([p.placement.axes for p in assembly.pieces])
    return settled(main.to_local(origins), 2), settled(main.axes.T @ axes, 5)


def placed(assembly: Assembly) -> list[Placement]:
    """Where each piece of an assembly lies in the frame of its main part, as its fingerprint has it, in their order."""
    return [Placement(origin, axes) for origin, axes in zip(*_places(assembly), strict=True)]


def assembly_content(assembly: Assembly) -> str:
    """Fingerprint of an assembly: its parts, where they lie in it, its welds and shop bolts."""
    items = []
    all_welds, bolts = assembly.shop_welds, assembly.shop_bolts
    origins, axes = _places(assembly)
    places = zip(origins.tolist(), axes.reshape(-1, 9).tolist(), strict=True)
    for piece, place in zip(assembly.pieces, places, strict=True):
        welds = sorted((w.size, w.sides) for w in all_welds[piece.id])
        items.append((part_content(piece.part), *place, welds, bolts[piece.id]))
    items.sort()
    studs = sorted((words, digits(place)[0]) for words, place in assembly.studs)
    said = (assembly.member.camber, items, studs) if studs else (assembly.member.camber, items)
    return hashlib.sha256(msgspec.json.encode(said)).hexdigest()[:16]


@lru_cache(maxsize=65536)
def natural(mark: str) -> tuple[object, ...]:
    """Sorts marks as people do: B2 before B10."""
    return tuple((0, int(t), "") if t.isdigit() else (1, 0, t) for t in re.findall(r"\d+|\D+", mark))


def mark_id(piece: str, part: bool) -> str:
    return f"mark:{'part' if part else 'assembly'}:{piece}"
