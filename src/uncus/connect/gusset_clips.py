"""Clip angles that hold a gusset's edge to what it stands at: bolted to it on site and to the gusset in the shop."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from uncus.catalog.bolts import BoltSize
from uncus.catalog.grades import usual_grade
from uncus.catalog.sections import Form, Section, section, usual_gage
from uncus.connect.double_angle import corner_frame
from uncus.connect.fitup import Fitup
from uncus.connect.gusset import FAR, Arm, Flat, Params, Plane, Side, on_side
from uncus.connect.kind import Body
from uncus.frame.placement import Vec

_THREAD = 5.0  # mm of a bolt past its nut
_BESIDE = 12.0  # mm between a brace and the angles that hold its gusset


def _room_on(shape: list[tuple[float, float]], at: Flat, along: Flat, edge: float) -> tuple[float, float]:
    """From where to where along a line bolts keep a distance from an outline's edges."""
    inside = Polygon(shape).buffer(-edge - 0.05, join_style="mitre")
    cut = inside.intersection(LineString([tuple(at - 1e4 * along), tuple(at + 1e4 * along)]))
    if cut.is_empty:
        return 0.0, -1.0
    steps = [float((np.array(p) - at) @ along) for p in shapely.get_coordinates(cut)]
    return min(steps), max(steps)


class Clips(NamedTuple):
    """Two angles along a face: their section, its leg on the gusset and its leg on the face; where they begin on it,
    their direction, bolts and length."""

    section: Section
    flat: float
    out: float
    start: Flat
    along: Flat
    steps: tuple[float, ...]
    long: float


def clips(fit: Fitup, plane: Plane, shape: list[tuple[float, float]], side: Side, p: Params) -> Clips | str:
    """The angles that hold a gusset's edge at a face; or why they cannot."""
    stretch = on_side(shape, side)
    if stretch is None:
        return f"The gusset does not reach the {side.body.words}; give the brace more clearance or other work points."
    a, b = stretch
    along = (b - a) / float(np.linalg.norm(b - a))
    edge, pitch = fit.rules.edge - 6.35, p.pitch or fit.rules.pitch
    s = section(fit.rules.angle)
    fitting = [(flat, out) for flat, out in ((s.b, s.d), (s.d, s.b)) if plane.thickness / 2 + out <= side.room]
    if not fitting:
        return (
            f"Angles {s.name} do not stand between the flanges of the {side.body.words}; weld the gusset, or take "
            f"smaller ones."
        )
    flat, out = fitting[0]
    line = a + (_gage(s, flat, fit.size(p.bolt)) - side.gap) * side.normal
    low, high = _room_on(shape, line, along, fit.size(p.bolt).edge)
    low, high = max(low, edge + 6.0), min(high, float((b - a) @ along) - edge - 6.0)
    rows = int((high - low) // pitch) + 1
    if rows < 2:
        return f"The gusset's edge at the {side.body.words} is too short for two rows of bolts; weld it, or enlarge it."
    start = a + along * ((low + high - (rows - 1) * pitch) / 2 - edge) - side.gap * side.normal
    return Clips(
        s, flat, out, start, along, tuple(edge + i * pitch for i in range(rows)), (rows - 1) * pitch + 2 * edge
    )


def in_way(a: Arm, side: Side, held: Clips) -> bool:
    """Whether a brace's end stands where the angles are."""
    leg = held.flat * side.normal
    foot = [held.start, held.start + held.long * held.along]
    angles = Polygon([tuple(q) for q in (*foot, *(q + leg for q in reversed(foot)))])
    strip = Polygon([tuple(a.point(s, h)) for s, h in ((a.start, a.low), (a.stop + FAR, a.low), (a.stop + FAR, a.high),
        (a.start, a.high))])  # fmt: skip
    return bool(angles.distance(strip) < _BESIDE)


def past_clips(side: Side, held: Clips) -> Side:
    """A face whose brace stays clear of the angles there, however long they are."""
    return side._replace(clear=held.flat + _BESIDE)


def angle_side(fit: Fitup, plane: Plane, key: str, id: str, held: Clips | str, side: Side, p: Params,
    owner: str) -> None:  # fmt: skip
    """Two angles along a face, bolted to it on site and to the gusset in the shop."""
    if isinstance(held, str):
        fit.find(held)
        return
    s, bolt, t = held.section, fit.size(p.bolt), plane.thickness
    normal = plane.frame.axes @ np.array([side.normal[0], 0.0, side.normal[1]])
    run = plane.frame.axes @ np.array([held.along[0], 0.0, held.along[1]])
    ids: dict[float, str] = {}
    for sign, words in ((-1.0, "near"), (1.0, "far")):
        heel = plane.model(held.start, sign * t / 2)
        way = sign * plane.frame.y
        out = [heel + run * x + _gage_on(side.body, normal, heel, way, held, bolt) * way for x in held.steps]
        if _in_fillet(side.body, normal, out[0], bolt):
            fit.look(
                f"The gusset stands off the middle of the {side.body.words}: one clip angle holds it, at the "
                f"{'far' if sign < 0 else 'near'} side.")  # fmt: skip
            continue
        frame = corner_frame(heel, normal, way, s, held.flat > held.out)
        if float(frame.x @ run) < 0:
            frame = frame.moved((-held.long, 0.0, 0.0))
        ids[sign] = fit.length(f"{key} {words}", frame, s, held.long, owner, f"{words} clip angle", usual_grade(s))
        fit.bolts(f"{key} {words} bolts", bolt, out, -normal, (ids[sign], side.body.id), field=True)
    points = [plane.model(held.start) + run * x + normal * _gage(s, held.flat, bolt) for x in held.steps]
    plies = [*(ids[w] for w in (-1.0,) if w in ids), id, *(ids[w] for w in (1.0,) if w in ids)]
    fit.bolts(f"{key} bolts", bolt, points, plane.frame.y, plies, field=False)


def _gage(s: Section, leg: float, bolt: BoltSize) -> float:
    """The gage of bolts in a leg: the usual. In mm, where it may be anywhere, as far out as a socket turns beside the
    nuts of the other leg, which stand at the same places."""
    usual = usual_gage(leg)
    if bolt.system == "inch":
        return usual
    clear = 5.0 * math.ceil((s.tw + bolt.nut_height + _THREAD + bolt.turn) / 5.0)
    return max(usual, min(clear, 5.0 * math.floor((leg - bolt.edge) / 5.0)))


def _gage_on(body: Body, normal: Vec, heel: Vec, way: Vec, held: Clips, bolt: BoltSize) -> float:
    """From a clip angle's heel to its bolts in what holds it: the usual, less where an I's flange ends before, as
    far as the heads clear the angle's own fillet."""
    s, usual = body.section, _gage(held.section, held.out, bolt)
    if s.form is not Form.I or abs(float(normal @ body.frame.z)) < 0.5:
        return usual
    room = s.b / 2 - float(body.frame.to_local(heel)[1]) * math.copysign(1.0, float(way @ body.frame.y)) - bolt.edge
    return max(min(usual, room), held.section.k + bolt.head_flats / 2 + 1.0) if room < usual else usual


def _in_fillet(body: Body, normal: Vec, at: Vec, bolt: BoltSize) -> bool:
    """Whether a bolt through an I's flange would meet its web or fillet."""
    s = body.section
    if s.form is not Form.I or abs(float(normal @ body.frame.z)) < 0.5:
        return False
    return abs(float(body.frame.to_local(at)[1])) < s.clear + bolt.hole / 2
