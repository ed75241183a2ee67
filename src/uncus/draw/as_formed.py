"""Pieces that are rolled or bent, as they are in the end: views without figures, from where the form shows best."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from uncus.draw.annotation import Annotation, Chain, Note, Stop
from uncus.draw.as_stood import upright
from uncus.draw.breaks import Shortening
from uncus.draw.by_hand import applied, said
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT
from uncus.draw.placing import place
from uncus.draw.projection import project
from uncus.draw.sheet import Text
from uncus.draw.subject import Subject
from uncus.draw.views import Asked, Drawn
from uncus.frame.placement import Placement
from uncus.steel.forming import formed, is_developed
from uncus.steel.part import Part
from uncus.units import format_length


def formed_views(subject: Subject, scale: float, asked: Asked) -> list[Drawn]:
    """A rolled or bent piece as it is in the end: from where it shows best, with the figures of a climb alone."""
    part = subject.rolled_as
    assert part is not None
    identity = subject.bodies[0][1]
    if part.coil is not None:
        up = upright(part.coil)
        return _climbing(part, Placement(up.T @ identity.origin, up.T @ identity.axes), scale, asked)
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


def _climbing(part: Part, stood: Placement, scale: float, asked: Asked) -> list[Drawn]:
    """Plan and elevation of what climbs, with its radius and the angle it turns by, and how high it comes."""
    assert part.coil is not None
    coil, drawn = part.coil, []
    line = stood.to_model(formed(part, [(x, 0.0, 0.0) for x in np.linspace(0.0, part.length, 9)]))
    for name, words, key in (("top", "PLAN, AS ROLLED", "as formed, plan"),
        ("front", "ELEVATION, AS ROLLED", "as formed")):  # fmt: skip
        view = project([(part, stood)], name)
        canvas = Canvas(view, scale, Shortening())
        left, low, right, high = view.box
        if name == "top":
            u, v = line[6, :2].tolist()
            turn = math.degrees(coil.turn(part.length))
            radius = f"R {format_length(coil.radius, asked.units)}, TURNS {turn:.1f}°"
            found: list[Annotation] = [Note(f"{key}|radius", (u, v), radius, v >= (low + high) / 2)]
        else:
            found = [Chain(f"{key}|rise", "right", (Stop("top", high), Stop("bottom", low)))]
        edited = applied(found, asked.of(key), {})
        place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees)
        foot = canvas.board.extent()[1] - 4
        canvas.board.text(Text((canvas.x(left) + canvas.x(right)) / 2, foot, words, TEXT, "c"))
        frame = msgspec.structs.replace(canvas.frame({}), name=key)
        drawn.append(Drawn(canvas.board, frame, tuple(said(e) for e in edited.lost)))
    return drawn


def _formed(part: Part, place: Placement, name: str, scale: float, words: str, key: str) -> Drawn:
    view = project([(part, place)], name)
    canvas = Canvas(view, scale, Shortening())
    canvas.board.text(Text(canvas.x((view.box[0] + view.box[2]) / 2), canvas.foot - 5, words, TEXT, "c"))
    return Drawn(canvas.board, msgspec.structs.replace(canvas.frame({}), name=key))


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
