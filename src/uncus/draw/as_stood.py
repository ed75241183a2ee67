"""Assemblies whose main part is rolled to a climb or bent: as they stand, from above, from the front and from the
right, since nothing that is fixed to such a part lies where it would on the flat one."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence

import numpy as np
import shapely

from uncus.draw.annotation import Annotation, Chain, Note, Stop, WeldNote, stepping
from uncus.draw.breaks import Shortening
from uncus.draw.by_hand import applied, said
from uncus.draw.canvas import Canvas
from uncus.draw.dimension import TEXT
from uncus.draw.fans import fans, title, told
from uncus.draw.placing import place
from uncus.draw.projection import View, axes_of, project
from uncus.draw.rules.rule import LEAST
from uncus.draw.sheet import Text
from uncus.draw.subject import Fixed, Subject, corners, normal_of
from uncus.draw.views import Asked, Drawn
from uncus.frame.placement import Placement
from uncus.shop.pieces import Piece
from uncus.steel.forming import Coil
from uncus.steel.joint import WeldForm
from uncus.steel.part import Part
from uncus.units import format_length

_VIEWS = {"top": "FROM ABOVE", "front": "FROM THE FRONT", "right end": "FROM THE RIGHT"}
_INSET = 8.0  # mm from which a foot or head is said to be narrower: less is a plate's own thickness
_LEVEL = 1.0  # mm within which points are at one height
_MOST = 30  # heights that are told: of more, what is fixed on is set out by its own points


def stand(pieces: Sequence[Piece]) -> Placement | None:
    """Where a formed main part is in a plumb frame: the axis of what climbs is its third axis; None where the part is
    not formed so. What is bent stands as it does in the building."""
    main = pieces[0]
    part = main.part
    if part.coil is not None:
        up = upright(part.coil)
        return Placement(-up.T @ _axis_point(part, part.coil), up.T)
    if not part.bends:
        return None
    axes = main.placement.axes
    right = _squarest(np.vstack([p.placement.to_model(corners(p.part)) for p in pieces])[:, :2])
    frame = np.column_stack([right, np.cross((0.0, 0.0, 1.0), right), (0.0, 0.0, 1.0)])
    return Placement(frame.T @ (axes @ (-np.asarray(part.centre))), frame.T @ axes)


def _squarest(points: np.ndarray) -> np.ndarray:
    """The horizontal way along which points (n, 2) fill the smallest rectangle, within 45 degrees of x."""
    ring = np.array(shapely.MultiPoint(points).minimum_rotated_rectangle.exterior.coords)
    side = ring[1] - ring[0]
    turn = (math.degrees(math.atan2(side[1], side[0])) + 45.0) % 90.0 - 45.0
    return np.array([math.cos(math.radians(turn)), math.sin(math.radians(turn)), 0.0])


def upright(coil: Coil) -> np.ndarray:
    """Axes, in the frame of a climbing part, of which the third is plumb where it stands."""
    c, s = math.cos(coil.slope), math.sin(coil.slope)
    left, web = _across(coil)
    x = np.array([1.0, 0.0, 0.0])
    return np.column_stack([c * x - s * web, left, s * x + c * web])


def _across(coil: Coil) -> tuple[np.ndarray, np.ndarray]:
    """To the left of a climb and up its web, in the frame of the part."""
    roll = math.radians(coil.roll)
    return np.array([0.0, math.cos(roll), -math.sin(roll)]), np.array([0.0, math.sin(roll), math.cos(roll)])


def _axis_point(part: Part, coil: Coil) -> np.ndarray:
    """The point of the axis beside the middle of a climbing part."""
    left, _ = _across(coil)
    y, z = part.section.centroid if part.section is not None else (0.0, 0.0)
    fibre, _ = coil.flat(np.asarray(y), np.asarray(z))
    return np.array([part.length / 2, 0.0, 0.0]) + (coil.hand * coil.radius + float(fibre)) * left


def stood_views(subject: Subject, mark: str, scale: float, asked: Asked) -> tuple[list[Drawn], list[Drawn]]:
    """The views that stand over one another, and those beside; `mark` is the main part's own."""
    main = Fixed("main", subject.bodies[0][0], subject.bodies[0][1], mark, None, normal_of(subject.bodies[0][1]))
    told_of: set[str] = set()
    names = [n for n in _VIEWS if n != "right end" or main.part.coil is None]  # a plan and heights say all of a climb
    made = [_view(subject, main, name, asked.scale(name, scale), asked, told_of) for name in names]
    return made[:2], made[2:]


def _view(subject: Subject, main: Fixed, name: str, scale: float, asked: Asked, told_of: set[str]) -> Drawn:
    view = project(subject.bodies, name)
    canvas = Canvas(view, scale, Shortening())
    about = name == "top" and subject.rolled_as is not None and subject.rolled_as.coil is not None
    found = list(_marks(subject, main, view, asked, told_of))
    found += told(subject, name, asked.units) if about else _sizes(subject, view)
    if name == "front":
        found += _heights(subject, view)
    edited = applied(stepping(found), asked.of(name), {})
    place(canvas, edited.annotations, edited.moved, asked.units, asked.preset.degrees)
    board = canvas.board
    words = title(subject, _VIEWS[name]) if about else _VIEWS[name]
    board.text(Text((canvas.x(view.box[0]) + canvas.x(view.box[2])) / 2, board.extent()[1] - 4, words, TEXT, "c"))
    return Drawn(board, canvas.frame({}), tuple(said(e) for e in edited.lost))


def _sizes(subject: Subject, view: View) -> Iterator[Annotation]:
    """Over all; and between what is at its foot and what at its head, where these are narrower."""
    left, low, right, high = view.box
    ends = Stop("left end", left, low), Stop("right end", right, low)
    yield Chain(f"{view.name}|overall", "below", ends, rank=2, datum=left)
    here = np.vstack([place.to_model(corners(part)) for part, place in subject.bodies]) @ axes_of(view.name).T
    for side, at in (("below", low), ("above", high)):
        us = here[np.abs(here[:, 1] - at) < _LEVEL, 0] if view.name != "top" else here[:0, 0]
        inner = [u for u in (float(us.min()), float(us.max())) if left + _INSET < u < right - _INSET] if len(us) else []
        if inner:
            stops = tuple(Stop(f"{side} {n}", u, at) for n, u in enumerate((left, *inner, right)))
            yield Chain(f"{view.name}|{side}", side, stops, rank=1, datum=left)
    yield Chain(f"{view.name}|height", "right", (Stop("top", high), Stop("bottom", low)), rank=2)


def _heights(subject: Subject, view: View) -> Iterator[Annotation]:
    """How high the upper faces of what lies level are, from the foot."""
    _, low, _, high = view.box
    tops = {round(float(f.box()[1][2]), 1): f for f in subject.fixed if f.normal == "z" and f.part.is_plate}
    inner = [Stop(f"{f.id}|edge", z) for z, f in sorted(tops.items(), reverse=True) if low + LEAST < z < high - LEAST]
    if inner and len(inner) <= _MOST:
        yield Chain(f"{view.name}|heights", "left", (*inner, Stop("bottom", low)), "running", datum=low)


def _marks(subject: Subject, main: Fixed, view: View, asked: Asked, told_of: set[str]) -> Iterator[Annotation]:
    """Each mark once, with its number, in the view where it shows its face or else from the front; its weld with it."""
    fanned = {f.mark for fan in fans(subject) for f in fan}
    alike: dict[str, list[Fixed]] = defaultdict(list)
    for f in (main, *subject.fixed):
        alike[f.mark].append(f)
    axes = axes_of(view.name)
    for mark, own in alike.items():
        seen = [f for f in own if abs(float((axes @ f.place.y)[2])) > 0.7]  # face on, or nearly
        if not seen and view.name == "front" and not any(_faces(f) for f in own):
            seen = own
        if not seen or mark in told_of:
            continue
        told_of.add(mark)
        f = max(seen, key=lambda one: round(float((axes @ one.centre)[1])))
        u, v, _ = (axes @ _on(f)).tolist()
        middle = (view.box[1] + view.box[3]) / 2
        many = f" TYP ({len(own)})" if len(own) > 1 else ""
        if not (mark in fanned and view.name == "top") and f.part.coil is None:
            yield Note(f"{view.name}|mark {f.id}", (u, v), mark + many, v >= middle)
        elif f.part.coil is not None and view.name != "top":
            radius = format_length(f.part.coil.radius, asked.units)
            yield Note(f"{view.name}|mark {f.id}", (u, v), f"{mark} R {radius}", v >= middle)
        w = f.weld
        if w is not None:
            yield WeldNote(f"{view.name}|weld {mark} {w.size:g}", (u, v), w.size, w.sides == 2, w.field, w.around,
                w.form is WeldForm.GROOVE, v >= middle)  # fmt: skip


def _faces(f: Fixed) -> bool:
    """Whether some view of an assembly as it stands shows it face on."""
    return any(abs(float((axes_of(name) @ f.place.y)[2])) > 0.7 for name in _VIEWS)


def _on(f: Fixed) -> np.ndarray:
    """A point on a part: the middle of it, which of what is formed lies beside it."""
    if not f.part.is_formed:
        return f.centre
    on = f.corners
    nearest: np.ndarray = on[np.linalg.norm(on - on.mean(axis=0), axis=1).argmin()]
    return nearest
