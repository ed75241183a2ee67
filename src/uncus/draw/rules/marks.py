"""Marks of the parts that are fixed on, where each is seen best."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterator

import numpy as np

from uncus.catalog.sections import Form
from uncus.draw.annotation import Annotation, Note
from uncus.draw.fans import fans
from uncus.draw.projection import axes_of
from uncus.draw.rules.rule import LEAST, TOUCHING, Rule
from uncus.draw.seen import Seen
from uncus.draw.subject import Fixed
from uncus.units import Units, format_length, sixteenths

_ON = {(1, False): " NS", (1, True): " FS", (2, False): " UNDER IT", (2, True): " ON TOP"}
_MANY = 4  # like parts that each have their mark
_SHORT = 3  # letters of NS and FS, which each part says for itself
FACE_ON = {"front": "y", "top": "z", "bottom": "z"}


def make(seen: Seen) -> Iterator[Annotation]:
    axes = axes_of(seen.name)
    here = [f for f in seen.subject.fixed if at_best(f, seen.name) and seen.first("label", f.id)]
    words = {f.id: _side(f, seen) for f in here}
    ways = defaultdict(list)
    for f in here:
        ways[f.mark].append(words[f.id])
    alone = _alone(here, words)
    fanned = {f.id: fan for fan in fans(seen.subject) for f in fan}
    for f in here:
        u, v, _ = (axes @ f.centre).tolist()
        side = words[f.id]
        if f.id in fanned:  # seen from the end, each with its angle
            if seen.first("fan", fanned[f.id][0].id):
                yield Note(f"{seen.name}|mark {f.id}", (u, v), f"{f.mark} TYP ({len(fanned[f.id])})", v >= 0)
            continue
        if f.mark in alone:  # many that nobody can take for others: said once, with their number
            if seen.first("many", f.mark):
                yield Note(f"{seen.name}|mark {f.id}", (u, v), f"{f.mark}{side} TYP ({len(ways[f.mark])})", v >= 0)
            continue
        alike = len(ways[f.mark]) > 1 and len(set(ways[f.mark])) == 1
        if alike and len(side) > _SHORT:  # how all of them lie is said at the first
            side = f"{side} TYP" if seen.first("lies", f.mark, side) else ""
        yield Note(f"{seen.name}|mark {f.id}", (u, v), f.mark + side, v >= 0)


def _alone(here: list[Fixed], words: dict[str, str]) -> set[str]:
    """Marks of which many are seen, all lying alike, where no part of another mark has their shape."""
    shapes: dict[object, set[tuple[str, str]]] = defaultdict(set)
    number = Counter(f.mark for f in here)
    for f in here:
        plate = (f.normal, f.part.thickness) if f.part.section is None else ()
        shapes[f.part.section, *plate].add((f.mark, words[f.id]))
    single = {mark for own in shapes.values() if len(own) == 1 for mark, _ in own}
    mixed = {mark for own in shapes.values() if len(own) > 1 for mark, _ in own}
    return {mark for mark in single - mixed if number[mark] > _MANY}


def at_best(f: Fixed, name: str) -> bool:
    """Whether a view is the one in which a part is read: face on, or standing across the front."""
    return f.normal == FACE_ON[name] or (name == "front" and f.normal in ("x", ""))


def _side(f: Fixed, seen: Seen) -> str:
    """Near or far side, and how far a plate's nearer face lies off the centre line; of one on the skew, how it is
    turned and where it stands."""
    low, high = f.box()
    axis = {"front": 1, "top": 2, "bottom": 2}[seen.name]
    middle = float(f.centre[axis])
    section = seen.main.section
    if f.has_axis:  # webs and chords lie about one plane
        off = float(f.centre[1])
        return f" AXIS{_off(seen, 1, off, off)}" if abs(off) > LEAST and not f.end_on else ""
    if f.id.endswith("/mate"):
        return _beside(f, seen)
    if f.normal == "x" and seen.name == "front" and section is not None and abs(middle) > section.tw:
        return " NS" if middle < 0 else " FS"
    if f.normal in ("y", "z") and low[axis] * high[axis] > -LEAST and abs(middle) > LEAST:
        near = min((float(low[axis]), float(high[axis])), key=abs)
        outer = max(seen.main.y_range if axis == 1 else seen.main.depth_range)
        if (
            section is not None and abs(abs(near) - outer) < TOUCHING
        ):  # on the outside: the section says how far that is
            return _ON[axis, middle > 0]
        return _off(seen, axis, near, middle)
    if f.normal == "" and section is not None and f.part.is_plate and not f.on_cut(seen.main):
        return f" TURNED {_lean(f.turned, seen)}" + _root(f, seen)
    return ""


def _lean(degrees: float, seen: Seen) -> str:
    """An angle in degrees, or as a bevel where the preset asks for one."""
    if not seen.preset.twelfths or seen.units is not Units.IMPERIAL:
        return f"{degrees:.1f} DEG"
    run, slow = (12.0, degrees) if degrees <= 45.0 else (12.0, 90.0 - degrees)
    rise = format_length(12 * 25.4 * math.tan(math.radians(slow)), Units.IMPERIAL)
    return f"{rise} IN {run:g}" + ("" if degrees <= 45.0 else " FROM SQUARE")


def _beside(f: Fixed, seen: Seen) -> str:
    """The gap to the other of two angles, and to which side it lies."""
    low, high = f.box()
    ways = []
    for axis, (least, most), words in (
        (1, seen.main.y_range, ("NS", "FS")),
        (2, seen.main.depth_range, ("BELOW", "ABOVE")),
    ):
        gap = max(least - float(high[axis]), float(low[axis]) - most)
        if gap > -LEAST:
            ways.append((gap, words[float(low[axis]) >= most - LEAST]))
    if not ways:
        return ""
    return f" {seen.said(ways[0][0])} GAP, {' AND '.join(way for _, way in ways)}"


def _off(seen: Seen, axis: int, at: float, middle: float) -> str:
    """A distance off the centre line in words; off the heel of an angle or the back of a channel, which have none."""
    form, line, datum = seen.main.form, "CL", 0.0
    if form is Form.ANGLE or (form is Form.CHANNEL and axis == 1):
        line, datum = "HEEL", (seen.main.y_range if axis == 1 else seen.main.depth_range)[0]
    at, middle = at - datum, middle - datum
    side = ("NS of" if middle < 0 else "FS of") if axis == 1 else ("above" if middle > 0 else "below")
    return f" {seen.said(abs(at))} {side} {line}" if sixteenths(at) else f" ON {line}, {side.removesuffix(' of')}"


def _root(f: Fixed, seen: Seen) -> str:
    """Where a plate on the skew stands on a flange, or a wall of a tube: off the centre line, if it is not about it."""
    root = f.root(seen.main)
    if root is None:
        return ""
    axis = 1 if np.ptp(np.abs(root[:, 2])) < 0.5 and abs(root[0, 2]) > seen.main.depth_range[1] - 1.5 else 2
    if np.ptp(root[:, 0]) < 0.5 or abs(float(root[:, axis].min() + root[:, axis].max())) / 2 < LEAST:
        return ""
    upright = abs(float(f.place.x[0])) > 0.999 or abs(float(f.place.z[0])) > 0.999
    if not upright:  # stands across a web: the front says where
        return ""
    at = min((float(root[:, axis].min()), float(root[:, axis].max())), key=abs)
    return f", ROOT{_off(seen, axis, at, float(root[:, axis].mean()))}"


RULE = Rule("marks", "Marks of parts", make, "The mark of each part that is fixed on, with its side.")
