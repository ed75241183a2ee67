"""The outline of a rolled section and its pieces: flat walls and thin filaments (fillets, corners).

Section coordinates are (y, z) about the middle of the bounding box. Channels and angles have their web or long leg at
the near side (-y); angles have the short leg at the bottom, tees the flange at the top.
"""

import math
from functools import cache

import msgspec
import numpy as np
import shapely
from shapely.geometry import Polygon, box

from uncus.catalog.sections import Form, Section
from uncus.steel.features import Face, Hole

_ARC = 6  # pieces of a quarter circle: 15 degrees each, smooth to the eye
TUBE_SIDES = 48
ROUNDS = (Form.TUBE, Form.ROUND)  # sections without flat walls


def facets(section: Section | None) -> float:
    """How far a round tube's flat facets may stand from its true face, inside and out."""
    return section.d * (1 - math.cos(math.pi / TUBE_SIDES)) if section and section.form in ROUNDS else 0.0


class Wall(msgspec.Struct, frozen=True):
    """A flat piece of a section: the face it shows, its mid-plane, thickness and range across.

    `mid` is y for web and back, z for top and bottom; `lo`..`hi` run along the other axis.
    """

    face: Face
    mid: float
    thickness: float
    lo: float
    hi: float

    @property
    def upright(self) -> bool:
        return self.face in (Face.WEB, Face.BACK)


class Filament(msgspec.Struct, frozen=True):
    """A small area at a point of the section: what walls leave over."""

    y: float
    z: float
    area: float


_FILLET_AREA = 1 - math.pi / 4
_FILLET_AT = (10 - 3 * math.pi) / (12 - 3 * math.pi)  # centroid of a fillet from its sharp corner, in radii


@cache
def walls(section: Section) -> tuple[Wall, ...]:
    """The flat walls, none overlapping another. Round sections have none."""
    d, b, tw, tf, r = section.d, section.b, section.tw, section.tf, section.r
    flange_top = Wall(Face.TOP, d / 2 - tf / 2, tf, -b / 2, b / 2)
    flange_bottom = Wall(Face.BOTTOM, -d / 2 + tf / 2, tf, -b / 2, b / 2)
    match section.form:
        case Form.I:
            return Wall(Face.WEB, 0, tw, -d / 2 + tf, d / 2 - tf), flange_top, flange_bottom
        case Form.CHANNEL:
            return Wall(Face.WEB, -b / 2 + tw / 2, tw, -d / 2 + tf, d / 2 - tf), flange_top, flange_bottom
        case Form.TEE:
            return Wall(Face.WEB, 0, tw, -d / 2, d / 2 - tf), flange_top
        case Form.ANGLE:
            return (Wall(Face.WEB, -b / 2 + tw / 2, tw, -d / 2 + tf, d / 2), flange_bottom)
        case Form.BOX:
            return (
                Wall(Face.WEB, -b / 2 + tw / 2, tw, -d / 2 + r, d / 2 - r),
                Wall(Face.BACK, b / 2 - tw / 2, tw, -d / 2 + r, d / 2 - r),
                Wall(Face.TOP, d / 2 - tf / 2, tf, -b / 2 + r, b / 2 - r),
                Wall(Face.BOTTOM, -d / 2 + tf / 2, tf, -b / 2 + r, b / 2 - r),
            )
        case Form.FLAT:
            return (Wall(Face.WEB, 0, tw, -d / 2, d / 2),)
        case Form.TUBE | Form.ROUND:
            return ()


@cache
def faces(section: Section) -> dict[Face, Wall]:
    """Each face as its whole width, as drawings and CNC see it: a web's face runs over the whole depth."""
    wide = {}
    for wall in walls(section):
        lo, hi = (-section.d / 2, section.d / 2) if wall.upright else (-section.b / 2, section.b / 2)
        wide[wall.face] = msgspec.structs.replace(wall, lo=lo, hi=hi)
    return wide


def hole_spot(section: Section, hole: Hole) -> tuple[float, float, float]:
    """A hole's centre on the outside of its face, in the frame of the stock it is in."""
    wall = faces(section)[hole.face]
    out = -wall.thickness / 2 if hole.face in (Face.WEB, Face.BOTTOM) else wall.thickness / 2
    return (hole.x, wall.mid + out, hole.w) if wall.upright else (hole.x, hole.w, wall.mid + out)


@cache
def filaments(section: Section) -> tuple[Filament, ...]:
    """Fillets and rounded corners; of a round section, its ring in as many pieces as it has sides."""
    d, b, tw, tf, r = section.d, section.b, section.tw, section.tf, section.r
    area, at = _FILLET_AREA * r * r, _FILLET_AT * r
    match section.form:
        case Form.I:
            corners = [(sy * (tw / 2 + at), sz * (d / 2 - tf - at)) for sy in (-1, 1) for sz in (-1, 1)]
        case Form.CHANNEL:
            corners = [(-b / 2 + tw + at, sz * (d / 2 - tf - at)) for sz in (-1, 1)]
        case Form.TEE:
            corners = [(sy * (tw / 2 + at), d / 2 - tf - at) for sy in (-1, 1)]
        case Form.ANGLE:
            corners = [(-b / 2 + tw + at, -d / 2 + tf + at)]
        case Form.BOX:
            inner = max(0.0, r - tw)
            area = math.pi / 4 * (r * r - inner * inner)
            middle = 4 / (3 * math.pi) * (r**3 - inner**3) / max(r * r - inner * inner, 1e-9)
            corners = [(sy * (b / 2 - r + middle), sz * (d / 2 - r + middle)) for sy in (-1, 1) for sz in (-1, 1)]
        case Form.FLAT:
            return ()
        case Form.TUBE | Form.ROUND:
            ring = ring_area(section) / TUBE_SIDES
            radius = d / 2 - tw / 2
            angles = 2 * math.pi * (np.arange(TUBE_SIDES) + 0.5) / TUBE_SIDES
            return tuple(Filament(radius * math.cos(a), radius * math.sin(a), ring) for a in angles)
    return tuple(Filament(y, z, area) for y, z in corners) if area > 0 else ()


def ring_area(section: Section) -> float:
    return math.pi / 4 * (section.d**2 - (section.d - 2 * section.tw) ** 2)


@cache
def area(section: Section) -> float:
    """Area of the modelled section in mm2 (walls and filaments; the handbook's differs by rounding)."""
    return sum(w.thickness * (w.hi - w.lo) for w in walls(section)) + sum(f.area for f in filaments(section))


@cache
def outline(section: Section) -> Polygon:
    """The section as a polygon in (y, z), arcs in 15 degree pieces whose area is the arc's own."""
    d, b, r = section.d, section.b, section.r
    if section.form is Form.ROUND:
        return _ring(d / 2, 0)
    if section.form is Form.TUBE:
        return _ring(d / 2, 0).difference(_ring(d / 2 - section.tw, 0))
    if section.form is Form.BOX:
        inner = max(0.0, r - section.tw)
        hollow = _rounded_box(b / 2 - section.tw, d / 2 - section.tf, inner)
        return _rounded_box(b / 2, d / 2, r).difference(hollow)
    pieces = []
    for wall in walls(section):
        lo, hi = wall.mid - wall.thickness / 2, wall.mid + wall.thickness / 2
        pieces.append(box(lo, wall.lo, hi, wall.hi) if wall.upright else box(wall.lo, lo, wall.hi, hi))
    at = _FILLET_AT * r
    for filament in filaments(section):
        # from the fillet's centroid back to its sharp corner; it opens away from web and flange
        opens_y = 1.0 if section.form in (Form.CHANNEL, Form.ANGLE) or filament.y > 0 else -1.0
        opens_z = 1.0 if section.form is Form.ANGLE else -1.0 if section.form is Form.TEE or filament.z > 0 else 1.0
        pieces.append(_fillet(filament.y - opens_y * at, filament.z - opens_z * at, opens_y, opens_z, r))
    return shapely.union_all(pieces, grid_size=1e-6)


def _true_area_radius(radius: float, pieces: int) -> float:
    """The radius at which a polygon of so many pieces a quarter has the circle's area."""
    step = math.pi / 2 / pieces
    return radius * math.sqrt(step / math.sin(step))


def _true_area_corner(r: float) -> float:
    """The radius at which a corner or fillet in straight pieces takes the area a true arc of `r` takes."""
    quarter = _ARC / 2 * math.sin(math.pi / 2 / _ARC)
    return r * math.sqrt(_FILLET_AREA / (1 - quarter))


def _ring(radius: float, turn: float) -> Polygon:
    angles = turn + 2 * math.pi * np.arange(TUBE_SIDES) / TUBE_SIDES
    true = _true_area_radius(radius, TUBE_SIDES // 4)
    return Polygon(np.column_stack([true * np.cos(angles), true * np.sin(angles)]))


def _rounded_box(half_b: float, half_d: float, r: float) -> Polygon:
    if r <= 0:
        return box(-half_b, -half_d, half_b, half_d)
    r = _true_area_corner(r)
    points = []
    for quarter, (sy, sz) in enumerate(((1, 1), (-1, 1), (-1, -1), (1, -1))):
        for step in range(_ARC + 1):
            angle = math.pi / 2 * (quarter + step / _ARC)
            points.append((sy * (half_b - r) + r * math.cos(angle), sz * (half_d - r) + r * math.sin(angle)))
    return Polygon(points)


def _fillet(y: float, z: float, sy: float, sz: float, r: float) -> Polygon:
    """The fillet in a corner at (y, z) opening towards (sy, sz)."""
    r = _true_area_corner(r)
    arc = [math.pi / 2 * step / _ARC for step in range(_ARC + 1)]
    curve = [(y + sy * r * (1 - math.cos(a)), z + sz * r * (1 - math.sin(a))) for a in arc]
    return Polygon([(y, z), *curve])
