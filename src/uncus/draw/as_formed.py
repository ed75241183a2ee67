"""Pieces that are rolled or bent, as they are in the end: views without figures, from where the form shows best."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from uncus.draw.breaks import Shortening
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT
from uncus.draw.projection import project
from uncus.draw.sheet import Text
from uncus.draw.subject import Subject
from uncus.draw.views import Drawn
from uncus.frame.placement import Placement
from uncus.steel.forming import Coil, is_developed
from uncus.steel.part import Part


def formed_views(subject: Subject, scale: float) -> list[Drawn]:
    """A rolled or bent piece as it is in the end, without figures: from where it shows best."""
    part = subject.rolled_as
    assert part is not None
    identity = subject.bodies[0][1]
    if part.coil is not None:
        up = _upright(part.coil)
        stood = Placement(up.T @ identity.origin, up.T @ identity.axes)
        return [_formed(part, stood, "top", scale, "PLAN, AS ROLLED", "as formed, plan"),
            _formed(part, stood, "front", scale, "ELEVATION, AS ROLLED", "as formed")]  # fmt: skip
    if is_developed(part):
        return [_formed(part, identity, name, scale, f"AS FORMED, {words}", f"as formed, {name}")
            for name, words in (("right end", "FROM THE RIGHT"), ("top", "FROM ABOVE"))]  # fmt: skip
    if not part.bends:
        return [_formed(part, identity, _sideways(subject), scale, "AS ROLLED", "as formed")]
    found: list[Drawn] = []
    for turn in _bend_ways(part)[:2]:
        along = Placement(turn @ identity.origin, turn @ identity.axes)
        found.append(_formed(part, along, "right end", scale, "AS BENT", f"as formed{' 2' if found else ''}"))
    return found


def _formed(part: Part, place: Placement, name: str, scale: float, words: str, key: str) -> Drawn:
    view = project([(part, place)], name)
    canvas = Canvas(view, scale, Shortening())
    canvas.board.text(Text(canvas.x((view.box[0] + view.box[2]) / 2), canvas.foot - 5, words, TEXT, "c"))
    return Drawn(canvas.board, msgspec.structs.replace(canvas.frame({}), name=key))


def _upright(coil: Coil) -> np.ndarray:
    """Axes, in the frame of a climbing part, of which the third is plumb where it stands."""
    c, s = math.cos(coil.slope), math.sin(coil.slope)
    roll = math.radians(coil.roll)
    left = np.array([0.0, math.cos(roll), -math.sin(roll)])
    web = np.array([0.0, math.sin(roll), math.cos(roll)])
    x = np.array([1.0, 0.0, 0.0])
    return np.column_stack([c * x - s * web, left, s * x + c * web])


def _bend_ways(part: Part) -> list[np.ndarray]:
    """Turns about the plate's normal that bring the directions of its bends along x, the commonest first."""
    found: dict[float, float] = {}
    for b in part.bends:
        angle = math.degrees(math.atan2(b.z2 - b.z1, b.x2 - b.x1)) % 180.0
        key = next((k for k in found if abs((k - angle + 90) % 180 - 90) < 1.0), round(angle, 3))
        found[key] = found.get(key, 0.0) + math.hypot(b.x2 - b.x1, b.z2 - b.z1)
    turns = []
    for angle in sorted(found, key=lambda k: -found[k]):
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        turns.append(np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]]))
    return turns


def _sideways(subject: Subject) -> str:
    """The view in which an arc shows best: the front, or the top for one that stands out to a side."""
    curve = subject.rolled_as.curve if subject.rolled_as else None
    return "top" if curve is not None and abs(float(curve.out[0])) > 0.7 else "front"
