"""Notches in words with their figures: flanges cut beside the web, clipped corners, access holes, slots of tubes."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

import shapely
from shapely.geometry import box

from uncus.catalog.sections import Form
from uncus.steel import profile
from uncus.steel.features import Face, Notch
from uncus.steel.part import Part
from uncus.units import Units, format_length

_AT_END = 1.0  # mm within which a notch begins at an end
_FLUSH = 1.0
_WHOLE = 0.985  # share of its own box that a plain rectangle fills


class Noted(NamedTuple):
    """Words for a notch (or like ones), and a point of the piece, (x, z), that they lead to."""

    words: str
    at: tuple[float, float]


def noted(part: Part, units: Units) -> list[Noted]:
    """Every notch of a rolled part, like ones on both flanges or both walls in one line."""
    if part.section is None:
        return []
    found: dict[tuple[str, str, float], list[tuple[Face, tuple[float, float]]]] = defaultdict(list)
    for notch in part.notches:
        told = _told(part, notch, units)
        if told is not None:
            side, words, x, z = told
            found[(side, words, round(x))].append((notch.face, (x, z)))
    lines = []
    for (side, words, _), places in found.items():
        faces = _faces(part, {face for face, _ in places})
        lines.append(Noted(" ".join(filter(None, (faces, side, words))), places[0][1]))
    return lines


def _faces(part: Part, faces: set[Face]) -> str:
    assert part.section is not None
    if part.section.form in (Form.BOX, Form.TUBE):
        return "BOTH WALLS" if len(faces) == 2 else "ONE WALL"
    if faces == {Face.TOP, Face.BOTTOM}:
        return "BOTH FLANGES"
    return {Face.TOP: "TOP FLANGE", Face.BOTTOM: "BOTTOM FLANGE", Face.WEB: "WEB", Face.BACK: "BACK"}[min(faces)]


def _told(part: Part, notch: Notch, units: Units) -> tuple[str, str, float, float] | None:
    """Side, words and where; None for one that takes nothing away."""
    s = part.section
    assert s is not None
    wall = profile.faces(s).get(notch.face)
    half = (s.d if notch.face.upright else s.b) / 2
    taken = shapely.Polygon(notch.outline).intersection(box(0.0, -half, part.length, half))
    if taken.is_empty or taken.area < 1.0:
        return None
    x0, w0, x1, w1 = taken.bounds

    def said(mm: float) -> str:
        return format_length(mm, units)

    left, right = x0 < _AT_END, x1 > part.length - _AT_END
    long, wide = said(x1 - x0), said(w1 - w0)
    x = x0 if right and not left else x1
    z = (w0 + w1) / 2 if notch.face.upright else (wall.mid if wall else half)
    if s.form in (Form.BOX, Form.TUBE):
        return "", f"SLOT {wide} X {long}" + ("" if left or right else f" AT {said((x0 + x1) / 2)}"), x, z
    if notch.face is Face.WEB:
        return "", f"ACCESS HOLE {long} X {wide}", x, z
    side = "NS" if w1 <= 0.5 else "FS" if w0 >= -0.5 else ""
    inner = min(abs(w0), abs(w1))
    if taken.area < _WHOLE * (x1 - x0) * (w1 - w0):
        return side, f"CORNER CLIPPED {long} X {wide}, FROM {said(inner)} OFF CL", x, z
    flush = abs(inner - s.tw / 2) < _FLUSH
    return side, f"CUT {long}, " + ("FLUSH WITH WEB" if flush else f"{wide} WIDE"), x, z
