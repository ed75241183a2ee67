"""Faces of a part as outlines in their own plane, with holes apart: what CNC, drawings and weights read.

Face coordinates are (x, w): w is z on web and back, y on top and bottom.
"""

import math
from functools import lru_cache

import msgspec
import numpy as np
import shapely
from shapely.geometry import LineString, Polygon, box
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form, Section
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Face, Hole, Notch
from uncus.steel.part import Part
from uncus.steel.profile import Wall
from uncus.units import STEEL_DENSITY

_OVER = 5.0  # how far cutters reach past the steel
_ARC = 8


def cope_outline(part: Part, cope: Cope) -> list[tuple[float, float]]:
    """The region a cope takes away, as (x, z) points reaching past the steel, rounded in its corner."""
    low, high = part.depth_range
    sx, x_end = (-1.0, part.length) if cope.right else (1.0, 0.0)
    sz, z_end = (1.0, low) if cope.bottom else (-1.0, high)
    r = min(cope.radius, cope.length, cope.depth)
    x_in, z_in = x_end + sx * cope.length, z_end + sz * cope.depth
    corner = [(x_in, z_in)]
    if r > 0:
        cx, cz = x_in - sx * r, z_in - sz * r
        arc = [math.pi / 2 * i / _ARC for i in range(_ARC + 1)]
        corner = [(cx + sx * r * math.cos(a), cz + sz * r * math.sin(a)) for a in arc]
    out_x, out_z = x_end - sx * _OVER, z_end - sz * _OVER
    points = [(x_in, out_z), *corner, (out_x, z_in), (out_x, out_z)]
    return points


def hole_outline(hole: Hole, quarter: int = 16) -> Polygon:
    """A hole as a polygon of the hole's own area, with so many pieces to a quarter circle."""
    step = math.pi / 2 / quarter
    radius = hole.d / 2 * math.sqrt(step / math.sin(step))
    reach = max(0.0, hole.slot - hole.d) / 2
    turn = math.radians(hole.angle)
    along = np.array([math.cos(turn), math.sin(turn)])
    angles = turn + np.linspace(-math.pi / 2, math.pi / 2, 2 * quarter + 1)
    half = radius * np.column_stack([np.cos(angles), np.sin(angles)])
    centre = np.array([hole.x, hole.w])
    return Polygon(np.vstack([centre + along * reach + half, centre - along * reach - half]))


def _cut_wall(part: Part, wall: Wall, lo: float, hi: float) -> BaseGeometry:
    """The outline of a wall's mid-plane between lo and hi after end cuts, copes and notches; holes not taken."""

    def x(cut: EndCut, w: float) -> float:
        return cut.x(wall.mid, w) if wall.upright else cut.x(w, wall.mid)

    shape: BaseGeometry = Polygon(
        [(x(part.left, lo), lo), (x(part.right, lo), lo), (x(part.right, hi), hi), (x(part.left, hi), hi)]
    )
    for cope in part.copes:
        region = Polygon(cope_outline(part, cope))
        if wall.upright:
            shape = shape.difference(region)
        else:
            line = region.intersection(LineString([(-1e5, wall.mid), (1e6, wall.mid)]))
            if not line.is_empty:
                x0, _, x1, _ = line.bounds
                shape = shape.difference(box(x0, lo - _OVER, x1, hi + _OVER))
    for notch in part.notches:
        if notch.face is wall.face:
            shape = shape.difference(Polygon(notch.outline))
    return shape


@lru_cache(maxsize=4096)
def face_outline(part: Part, face: Face) -> Polygon:
    """The outer outline of a face over its whole width, holes not taken. The largest piece, if cut apart."""
    if part.section is None:
        shape: BaseGeometry = Polygon(part.outline)
        for notch in part.notches:
            shape = shape.difference(Polygon(notch.outline))
    else:
        wall = profile.faces(part.section)[face]
        shape = _cut_wall(part, wall, wall.lo, wall.hi)
    return _largest(shape)


@lru_cache(maxsize=4096)
def face_reach(part: Part, face: Face) -> Polygon:
    """The outline of a face as far as any of its thickness reaches, holes not taken: beyond `face_outline` where an
    end slopes through it. Of a round tube, what is seen of the half that the face shows, its ends as far as they
    reach."""
    if part.section is None:
        return face_outline(part, face)
    wall = profile.faces(part.section).get(face)
    if wall is None:
        half = part.section.d / 2
        shape: BaseGeometry = box(0.0, -half, part.length, half)
        for notch in part.notches:
            if notch.face is face:
                shape = shape.difference(Polygon(notch.outline))
        return _largest(shape)
    sides = [msgspec.structs.replace(wall, mid=wall.mid + side * wall.thickness / 2) for side in (-1, 1)]
    near, far = (_cut_wall(part, one, wall.lo, wall.hi) for one in sides)
    return _largest(near.union(far))


def _largest(shape: BaseGeometry) -> Polygon:
    pieces = [g for g in getattr(shape, "geoms", [shape]) if g.geom_type == "Polygon"]
    return max(pieces, key=lambda g: g.area)


def as_plate(part: Part) -> Part:
    """A length of flat as the plate that is cut for it; any other part as it is."""
    if part.section is None or part.section.form is not Form.FLAT or part.rolling is not None:
        return part
    outline = tuple((float(x), float(z)) for x, z in face_outline(part, Face.WEB).exterior.coords[:-1])
    holes = tuple(f for f in part.features if isinstance(f, Hole))
    return msgspec.structs.replace(part, section=None, outline=outline, thickness=part.section.tw, features=holes)


def is_cut_from_plate(part: Part) -> bool:
    """Whether a part is a plate, or a strip of one; a length of flat is a bar."""
    return as_plate(part).section is None and (part.section is None or part.section.family == "PL")


def part_faces(part: Part) -> tuple[Face, ...]:
    """The faces a part has; a round tube is worked from its web side only."""
    if part.section is None:
        return (Face.WEB,)
    return tuple(profile.faces(part.section)) or (Face.WEB,)


def takes_fillets(section: Section, notch: Notch) -> bool:
    """Whether a notch takes the fillets it reaches along: in a web always, in a flange where it stops at the web (flush
    with it) or short of it; one that runs on over the web leaves them."""
    if section.form not in (Form.I, Form.CHANNEL, Form.TEE):
        return False
    if notch.face is Face.WEB:
        return True
    web, half = profile.faces(section)[Face.WEB].mid, section.tw / 2 - 0.01
    ws = [w for _, w in notch.outline]
    return min(ws) >= web + half or max(ws) <= web - half


def notch_range(part: Part, notch: Notch) -> tuple[float, float]:
    """From where to where a notch cuts, across its face: y on web and back, z on top and bottom.

    A round tube has no walls: a notch takes the half of it that the face names.
    """
    if part.section is None:
        return -part.thickness / 2 - _OVER, part.thickness / 2 + _OVER
    wall = profile.faces(part.section).get(notch.face)
    if wall is None:
        far = part.section.d / 2 + _OVER
        return (-far, 0.0) if notch.face in (Face.WEB, Face.BOTTOM) else (0.0, far)
    reach = 0.01 + (part.section.r if takes_fillets(part.section, notch) else 0.0)
    if part.section.form is Form.BOX and wall.upright and max(abs(w) for _, w in notch.outline) > wall.hi:
        # of an upright side that is cut as far as its corners: as deep as their inner curve
        inner = max(0.0, part.section.r - wall.thickness)
        low, high = wall.mid - wall.thickness / 2 - reach, wall.mid + wall.thickness / 2 + reach
        return (low, high + inner) if wall.mid < 0 else (low - inner, high)
    return wall.mid - wall.thickness / 2 - reach, wall.mid + wall.thickness / 2 + reach


def _notched(part: Part, notch: Notch, y: float, z: float) -> bool:
    """Whether a notch takes the filament at (y, z) along."""
    assert part.section is not None
    if part.section.form not in profile.ROUNDS:
        beside = notch.face is Face.WEB or (z > 0) == (notch.face is Face.TOP)
        return beside and takes_fillets(part.section, notch)
    low, high = notch_range(part, notch)
    return low <= (y if notch.face.upright else z) <= high


def _filament_length(part: Part, y: float, z: float) -> float:
    assert part.section is not None
    line: BaseGeometry = LineString([(part.left.x(y, z), z), (part.right.x(y, z), z)])
    for cope in part.copes:
        line = line.difference(Polygon(cope_outline(part, cope)))
    for notch in part.notches:
        if _notched(part, notch, y, z):
            w = z if notch.face.upright else y
            flat = LineString([(part.left.x(y, z), w), (part.right.x(y, z), w)])
            taken = flat.intersection(Polygon(notch.outline))
            if not taken.is_empty:
                x0, _, x1, _ = taken.bounds
                line = line.difference(box(x0, z - 1.0, x1, z + 1.0))
    return float(line.length)


@lru_cache(maxsize=65536)
def net_volume(part: Part) -> float:
    """Volume by features in mm3: walls by their cut outlines, fillets by their cut lengths, holes by their areas."""
    if part.section is None:
        return float(face_outline(part, Face.WEB).area - sum(h.area for h in part.holes)) * part.thickness
    thickness = {wall.face: wall.thickness for wall in profile.walls(part.section)}
    plain = not part.copes and not part.notches
    total = 0.0
    for wall in profile.walls(part.section):
        if plain:
            ends = [(wall.mid, w) if wall.upright else (w, wall.mid) for w in (wall.lo, wall.hi)]
            mean = sum(part.right.x(y, z) - part.left.x(y, z) for y, z in ends) / 2
            total += wall.thickness * (wall.hi - wall.lo) * mean
        else:
            total += wall.thickness * _cut_wall(part, wall, wall.lo, wall.hi).area
    for f in profile.filaments(part.section):
        length = part.right.x(f.y, f.z) - part.left.x(f.y, f.z) if plain else _filament_length(part, f.y, f.z)
        total += f.area * length
    return total - sum(h.area * (thickness.get(h.face) or _bored(part.section, h)) for h in part.holes)


def _bored(tube: Section, hole: Hole) -> float:
    """How much steel a drill meets on the mean in a round tube's near wall, which leans away from it off the middle:
    over a disc the mean of a smooth function is that of its values half a radius to either side, to the second
    order."""
    outer, inner = tube.d / 2, tube.d / 2 - tube.tw
    at = np.array([hole.w - hole.d / 4, hole.w + hole.d / 4])
    return float(np.mean(np.sqrt(np.maximum(outer**2 - at**2, 0)) - np.sqrt(np.maximum(inner**2 - at**2, 0))))


def net_weight(part: Part) -> float:
    """kg of the part as made; of a bought one, as its maker says. What is rolled weighs by the handbook, as its gross
    does, less the share that is cut and drilled away: never more than gross."""
    if part.item is not None:
        return part.item.kg
    if part.section is not None:
        return gross_weight(part) * net_volume(part) / (profile.area(part.section) * part.length)
    return net_volume(part) * _density(part) + _banding(part)


def _banding(part: Part) -> float:
    """kg of the bars along the edges of a grating, its openings' too, which stand in the room of its own bars."""
    if part.surface is None or not part.surface.band:
        return 0.0
    along = float(face_outline(part, Face.WEB).length) * part.surface.band
    return along * part.thickness * (STEEL_DENSITY - _density(part))


def _density(part: Part) -> float:
    """kg to a cubic mm of a plate's room: that of steel, or what a grating has of it."""
    if part.surface is not None and part.surface.kg_m2:
        return part.surface.kg_m2 * 1e-6 / part.thickness
    return STEEL_DENSITY


def gross_weight(part: Part) -> float:
    """kg as billed: handbook weight by length over all, or a plate's enclosing rectangle."""
    if part.item is not None:
        return part.item.kg
    if part.section is not None:
        return part.section.kg_m * part.length / 1000
    return part.length * part.width * part.thickness * _density(part) + _banding(part)


def simplified(polygon: Polygon) -> Polygon:
    """Without points that lie in line within 0.001 mm."""
    return shapely.simplify(polygon, 1e-3)
