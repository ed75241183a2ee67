"""A piece's form whichever way it is described: the same for every proper rotation of its section, for a plate
however it lies, and for what is fixed to it however its own frame stands. Sameness itself is always the full
comparison."""

from __future__ import annotations

import hashlib
import math
from functools import lru_cache

import msgspec
import numpy as np

from uncus.catalog.sections import Form
from uncus.frame.outlines import middle_of, with_arcs
from uncus.mark.sameness import Matrix, lean, rotations, spun, turned_coil, turned_curve, turned_cut, turned_feature
from uncus.shop.pieces import Assembly
from uncus.steel.features import Cope, Feature, Hole, Saddle, Thread
from uncus.steel.forming import formed
from uncus.steel.part import Part
from uncus.steel.profile import ROUNDS, hole_spot

_MANY = 60  # corners of an outline beyond which it is told by its arcs, and laid by its longest sides
_GRID = 0.2  # mm to which a form is read
_OFF = 0.0371  # so that sixteenths of an inch and whole mm do not lie on a boundary

Reading = tuple[object, ...]


def _read(value: float) -> int:
    return math.floor((value + _OFF) / _GRID)


def _digest(form: object) -> str:
    return hashlib.sha256(msgspec.json.encode(form)).hexdigest()[:16]


@lru_cache(maxsize=65536)
def part_reading(part: Part) -> Reading:
    """A part's form in values that can be ordered: parts of one section, or of one thickness, can be held against one
    another. Nothing in it is a fingerprint, so the order does not hang on the last digits of a reckoning."""
    return min(_plate_forms(part) if part.section is None else [_rolled_form(part, r) for r in _ways(part)])


def part_form(part: Part) -> str:
    """The fingerprint of a part's form."""
    return _digest(part_reading(part))


def part_order(part: Part) -> tuple[object, ...]:
    """Numbers go to the heaviest section first, then to the longest piece."""
    name = part.section.name if part.section else f"PL{part.thickness:08.2f}"
    return -part.section.kg_m if part.section else 0.0, name, -_read(part.length)


def _ways(part: Part) -> list[Matrix]:
    """The rotations of its section; a plain round tube also turned about itself until it leans to z."""
    found = rotations(part)
    if part.form is not Form.TUBE or part.features or part.coil:
        return found
    return [spun(lean(part, r) or 0.0) @ r for r in found]


def _head(part: Part) -> Reading:
    name = part.section.name if part.section else f"PL{_read(part.thickness)}"
    surface = part.surface.name if part.surface else ""
    return name, part.grade, part.finish, (part.item.code if part.item else "") + surface


def _rolled_form(part: Part, r: Matrix) -> Reading:
    cuts = [turned_cut(c, r, part.length) for c in (part.left, part.right)]
    if r[0, 0] < 0:
        cuts.reverse()
    slopes = [round(k * 500) + 0 for c in cuts for k in (c.ky, c.kz)]
    slopes += [v for c in cuts if isinstance(c.saddle, Saddle) for v in _saddle(c.saddle)]
    arc: list[int] = []
    if part.curve is not None:
        out = turned_curve(part.curve, r).out * part.curve.rise(part.length)
        arc = [_read(float(v)) for v in out]
    if part.coil is not None:
        coil = turned_coil(part.coil, r)
        rise, turn = coil.rise(part.length), coil.turn(part.length) * coil.radius
        arc = [coil.hand, _read(coil.radius), _read(rise), _read(turn), round(coil.roll) % 360]
    return (
        *_head(part),
        _read(part.length),
        slopes,
        arc,
        sorted(_feature(turned_feature(part, f, r)) for f in part.features),
    )


def _saddle(s: Saddle) -> tuple[int, int, int]:
    """A saddle so that a tube that runs the other way reads the same."""
    twice = 2 * math.radians(s.turn)
    return _read(s.radius), round(math.cos(twice) * 250) + 0, round(math.sin(twice) * 250) + 0


def _feature(f: Feature) -> list[object]:
    if isinstance(f, Hole):
        turn = round(f.angle % 180.0) % 180 if f.slot else 0
        return ["hole", str(f.face), _read(f.x), _read(f.w), _read(f.d), _read(f.slot), turn]
    if isinstance(f, Cope):
        return ["cope", bool(f.right), bool(f.bottom), _read(f.length), _read(f.depth), _read(f.radius)]
    if isinstance(f, Thread):
        return ["thread", bool(f.right), bool(f.left_handed), _read(f.length)]
    return ["notch", str(f.face), sorted([_read(x), _read(w)] for x, w in f.outline)]


def _starts(points: Matrix) -> list[int]:
    """The corners that a plate is laid by: of many those alone from which its longest side runs."""
    if len(points) <= _MANY:
        return list(range(len(points)))
    sides = np.linalg.norm(np.roll(points, -1, axis=0) - points, axis=1)
    return np.flatnonzero(sides > sides.max() - 1.0).tolist()[:_MANY]


def _plate_forms(part: Part) -> list[Reading]:
    """The plate laid with each corner at the origin and the side after it along x, from both faces."""
    ring = np.array(part.outline)
    if len(ring) > _MANY:  # an outline of arcs: their ends and middles say as much
        along = with_arcs(part.outline)
        pairs = zip(along, along[1:] + along[:1], strict=True)
        ring = np.array([p for a, b in pairs for p in ([(a.x, a.z), middle_of(a, b)] if a.bulge else [(a.x, a.z)])])
    holes = [f for f in part.features if isinstance(f, Hole)]
    spots = np.array([(h.x, h.w) for h in holes]).reshape(-1, 2)
    lines = np.array([p for b in part.bends for p in ((b.x1, b.z1), (b.x2, b.z2))]).reshape(-1, 2)
    forms = []
    for flip in (1.0, -1.0):
        points = ring * [1.0, flip] if flip > 0 else (ring * [1.0, flip])[::-1]
        for k in _starts(points):
            run = points[(k + 1) % len(points)] - points[k]
            c, s = run / max(float(np.linalg.norm(run)), 1e-9)
            turn = np.array([[c, -s], [s, c]])
            laid = (np.roll(points, -k, axis=0) - points[k]) @ turn
            bored = (spots * [1.0, flip] - points[k]) @ turn
            folds = sorted(
                [*sorted(_points((lines[i : i + 2] * [1.0, flip] - points[k]) @ turn)), round(flip * b.angle),
                    _read(b.radius)]
                for i, b in zip(range(0, len(lines), 2), part.bends, strict=True)
            )  # fmt: skip
            forms.append(
                (
                    *_head(part),
                    _points(laid),
                    folds,
                    sorted([*p, _read(h.d), _read(h.slot)] for p, h in zip(_points(bored), holes, strict=True)),
                )
            )
    return forms


def _points(points: Matrix) -> list[list[int]]:
    read: list[list[int]] = np.floor((points + _OFF) / _GRID).astype(int).tolist()
    return read


def assembly_form(assembly: Assembly) -> str:
    """The fingerprint of an assembly's form."""
    return _digest(assembly_reading(assembly))


def assembly_reading(assembly: Assembly) -> Reading:
    """An assembly's form in values that can be ordered among those whose main parts have one section: its main part
    and where the corners and holes of the others lie in it."""
    main = assembly.main.part
    if main.section is None:
        return tuple(part_reading(p.part) for p in assembly.pieces)
    inverse = assembly.main.placement.inverse
    others = [(_head(p.part), (inverse @ p.placement).to_model(_marked_points(p.part))) for p in assembly.pieces[1:]]
    others += [(("stud", words), np.array([place.origin])) for words, place in assembly.studs]
    forms = []
    for r in _ways(main):
        origin = np.array([main.length if r[0, 0] < 0 else 0.0, 0.0, 0.0])
        placed = sorted((list(head), sorted(_points(points @ r.T + origin))) for head, points in others)
        forms.append((_rolled_form(main, r), placed))
    return _read(assembly.member.camber), min(forms)


def _marked_points(part: Part) -> Matrix:
    """Corners of a part and the middles of its holes, in its own frame."""
    if part.section is None:
        corners = [(x, 0.0, z) for x, z in part.outline]
        return formed(part, corners + [(h.x, 0.0, h.w) for h in part.holes])
    (low, high), (near, far) = part.depth_range, part.y_range
    corners = [(x, y, z) for x in (0.0, part.length) for y in (near, far) for z in (low, high)]
    return np.array(corners + [hole_spot(part.section, h) for h in part.holes if part.section.form not in ROUNDS])
