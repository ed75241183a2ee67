"""Notches in words with their figures: flanges cut beside the web, clipped corners, access holes, slots of tubes."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

import shapely
from shapely.geometry import box

from uncus.catalog.sections import Form
from uncus.steel import profile
from uncus.steel.features import EndCut, Face, Notch
from uncus.steel.part import Part
from uncus.units import Units, format_length

_AT_END = 1.0  # mm within which a notch begins at an end
_FLUSH = 1.0


class Noted(NamedTuple):
    """Words for a notch (or like ones), and a point that they lead to: (x, z) of the piece, or as it is seen in
    another `view`, where it is seen as what it is."""

    words: str
    at: tuple[float, float]
    view: str = "front"


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
        on = {face for face, _ in places}
        said = " ".join(filter(None, (_faces(part, on), side, words)))
        view = slot_view(on) if _hollow(part) else "front"
        x, z = places[0][1]
        lines.append(Noted(said, (x, z) if view == "front" or any(f.upright for f in on) else (x, 0.0), view))
    return lines


def _hollow(part: Part) -> bool:
    return part.section is not None and part.section.form in (Form.BOX, Form.TUBE)


def slot_views(part: Part) -> set[str]:
    """The views from which the slots of a tube are seen."""
    return {one.view for one in noted(part, Units.METRIC)} if _hollow(part) else set()


def slot_view(faces: set[Face]) -> str:
    """Of like slots in some walls of a tube, the view that shows one: the front where it does."""
    if faces & {Face.WEB, Face.BACK}:
        return "front"
    return "top" if Face.TOP in faces else "bottom"


_SIDES = {Face.WEB: "NEAR SIDE", Face.BACK: "FAR SIDE", Face.TOP: "TOP", Face.BOTTOM: "BOTTOM"}


def _faces(part: Part, faces: set[Face]) -> str:
    assert part.section is not None
    if part.section.form in (Form.BOX, Form.TUBE):
        if faces == {Face.WEB, Face.BACK}:
            return "BOTH SIDES"
        return " AND ".join(_SIDES[f] for f in (Face.WEB, Face.BACK, Face.TOP, Face.BOTTOM) if f in faces)
    if faces == {Face.TOP, Face.BOTTOM}:
        return "BOTH FLANGES"
    return {Face.TOP: "TOP FLANGE", Face.BOTTOM: "BOTTOM FLANGE", Face.WEB: "WEB", Face.BACK: "BACK"}[min(faces)]


def _told(part: Part, notch: Notch, units: Units) -> tuple[str, str, float, float] | None:
    """Side, words and where; None for one that takes nothing away."""
    s = part.section
    assert s is not None
    wall = profile.faces(s).get(notch.face)
    half = (s.d if notch.face.upright else s.b) / 2
    web = notch.face is Face.WEB and s.form not in (Form.BOX, Form.TUBE)
    room = _between_cuts(part, half) if web else box(0.0, -half, part.length, half)
    taken = shapely.Polygon(notch.outline).intersection(room)
    if taken.is_empty or taken.area < 1.0:
        return None
    x0, w0, x1, w1 = taken.bounds
    left, right = x0 < _AT_END, x1 > part.length - _AT_END
    if web:
        corners = list(taken.exterior.coords)
        left = min(x - part.left.x(0.0, w) for x, w in corners) < _AT_END
        right = min(part.right.x(0.0, w) - x for x, w in corners) < _AT_END
    x = x0 if right and not left else x1
    z = (w0 + w1) / 2 if notch.face.upright else (wall.mid if wall else half)
    if s.form in (Form.BOX, Form.TUBE):
        side, words = "", _of_tube(taken, left or right, units)
    elif notch.face is Face.WEB:
        side, words = (
            "",
            _access(taken, part.right if right else part.left, right, half - s.tf, units) if left != right else "",
        )
        side = ("TOP" if z > 0 else "BOTTOM") if words else ""
    else:
        side, words = _of_flange(taken, half, s.tw / 2, left, right, units)
    return side, words or _by_corners(taken, units), x, z


def _fills(taken: shapely.Polygon, corners: list[tuple[float, float]]) -> bool:
    """Whether an outline is what its words say: these corners, to a part in a hundred."""
    said = shapely.Polygon(corners)
    return bool(said.symmetric_difference(taken).area < 0.01 * taken.area + 1.0)


def _of_tube(taken: shapely.Polygon, at_end: bool, units: Units) -> str:
    """A slot about the middle of a wall."""
    x0, w0, x1, w1 = taken.bounds
    if not _fills(taken, list(box(x0, w0, x1, w1).exterior.coords)) or abs(w0 + w1) > _FLUSH:
        return ""
    words = f"SLOT {format_length(w1 - w0, units)} X {format_length(x1 - x0, units)}"
    return f"{words} CENTRED" if at_end else f"{words} CENTRED AT {format_length((x0 + x1) / 2, units)}"


def _between_cuts(part: Part, half: float) -> shapely.Polygon:
    """A web from end to end, however they are cut."""
    ends = (part.left, -half), (part.right, -half), (part.right, half), (part.left, half)
    return shapely.Polygon([(cut.x(0.0, w), w) for cut, w in ends])


def _access(taken: shapely.Polygon, cut: EndCut, right: bool, flange: float, units: Units) -> str:
    """A weld access hole under a flange at an end: its length from the web's end at the flange, at its far edge, and
    its depth from the flange."""
    _, w0, _, w1 = taken.bounds
    near, far = (w1, w0) if w0 + w1 > 0 else (w0, w1)
    if abs(abs(near) - flange) > _FLUSH:
        return ""
    long, short = (_across(taken, w) for w in (near, far))
    way, at_near, at_far = -1.0 if right else 1.0, cut.x(0.0, near), cut.x(0.0, far)
    corners = [(at_near, near), (at_near + way * long, near), (at_far + way * short, far), (at_far, far)]
    if not _fills(taken, corners):
        return ""
    return (
        f"ACCESS HOLE {format_length(long, units)} AND {format_length(short, units)} X {format_length(w1 - w0, units)} "
        f"FROM FLANGE"
    )


def _across(taken: shapely.Polygon, w: float) -> float:
    """How long a notch is at `w`, just within it."""
    _, w0, _, w1 = taken.bounds
    at = min(max(w, w0 + 0.02), w1 - 0.02)
    return float(taken.intersection(shapely.LineString([(taken.bounds[0] - 1, at), (taken.bounds[2] + 1, at)])).length)


def _of_flange(
    taken: shapely.Polygon, half: float, web: float, left: bool, right: bool, units: Units
) -> tuple[str, str]:
    """A flange cut from its toe inwards at an end: square, clipped off or slanting; which side of the web."""
    x0, w0, x1, w1 = taken.bounds
    side = "NS" if w1 <= 0.5 else "FS" if w0 >= -0.5 else ""
    inner, toe = (w0, w1) if side == "FS" else (w1, w0)
    if not side or abs(abs(toe) - half) > _FLUSH or left == right:
        return side, ""
    at_inner, at_toe = (0.0 if n < _FLUSH else n for n in (_across(taken, w) for w in (inner, toe)))
    end, way = (x1, -1.0) if right else (x0, 1.0)
    if not _fills(taken, [(end, inner), (end + way * at_inner, inner), (end + way * at_toe, toe), (end, toe)]):
        return side, ""
    long, wide = format_length(at_toe, units), format_length(w1 - w0, units)
    if abs(at_inner - at_toe) < _FLUSH:
        return side, f"CUT {long}, " + ("FLUSH WITH WEB" if abs(abs(inner) - web) < _FLUSH else f"{wide} WIDE")
    if not at_inner:
        return side, f"CORNER CLIPPED {long} X {wide}"
    return side, f"CUT {format_length(at_inner, units)} TO {long} AT TOE, {wide} WIDE"


def _by_corners(taken: shapely.Polygon, units: Units) -> str:
    """Any other: its corners from the left end, and off the centre line upwards or to the far side."""
    ring = taken.simplify(0.1).exterior.coords[:-1]
    return "CUT OUT, FROM LEFT END AND CL AT " + "; ".join(
        f"{format_length(x, units)}, {format_length(w, units)}" for x, w in ring
    )
