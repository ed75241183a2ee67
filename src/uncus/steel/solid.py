"""The solid of a part: profile extruded, cutters taken away; made once for equal parts."""

import atexit
import math
from functools import lru_cache

import manifold3d
import msgspec
import numpy as np
import shapely
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Section
from uncus.steel import profile
from uncus.steel.bodies import body_solid
from uncus.steel.features import EndCut, Hole, Saddle
from uncus.steel.flat import cope_outline, hole_outline, notch_range
from uncus.steel.flats import flats
from uncus.steel.forming import Coil, formed, zone
from uncus.steel.part import Part
from uncus.steel.profile import TUBE_SIDES

TOLERANCE = 0.2  # mm within which two faces that are meant to touch may stand in one another or apart
_TO_X = np.array([[0.0, 0.0, 1.0, 0.0], [1.0, 0.0, 0.0, 0.0], [0.0, 1.0, 0.0, 0.0]])  # extrusion axis onto x
_OVER = 5.0
_STEP = math.radians(0.9)  # of a rolled arc: facets so flat that their edges are not edges of the part
_DUST = 1e-2  # mm3
_FOLDS = 6  # flat strips in the arc of a bend
_AT_FOLD = 0.02  # mm from the middle of a facet's edge to that of the fold there
_SADDLE_SIDES = 4 * TUBE_SIDES  # of the cutter of a saddle, so that its facets hardly count beside the tubes' own


def facets(part: Part) -> float:
    """How far the flat facets of what is round in a solid may stand from its true face: of a round section, and of one
    rolled to an arc."""
    round_ = part.curve or part.coil
    bent = round_.radius * (1 - math.cos(_STEP / 2)) if round_ is not None else 0.0
    return profile.facets(part.section) + bent


class Mesh(msgspec.Struct, frozen=True, eq=False):
    """Triangles of a solid: points (n, 3) in the part's frame, triangles (m, 3)."""

    points: NDArray[np.float64]
    triangles: NDArray[np.int64]


def _rings(polygon) -> list[NDArray[np.float64]]:  # type: ignore[no-untyped-def]
    outer = np.asarray(polygon.exterior.coords)[:-1]
    if not polygon.exterior.is_ccw:
        outer = outer[::-1]
    inner = [np.asarray(ring.coords)[:-1] for ring in polygon.interiors]
    return [outer, *[r[::-1] if ring.is_ccw else r for r, ring in zip(inner, polygon.interiors, strict=True)]]


@lru_cache(maxsize=512)
def _cross_section(section: Section) -> CrossSection:
    return CrossSection(_rings(profile.outline(section)), manifold3d.FillRule.EvenOdd)


def _prism_y(points: list[tuple[float, float]], y0: float, y1: float) -> Manifold:
    """A prism through (x, z) points from y0 to y1."""
    flat = CrossSection(
        [np.asarray(points)], manifold3d.FillRule.NonZero if _ccw(points) else manifold3d.FillRule.Negative
    )
    # (x, z) -> extrusion along -y keeps a right-handed frame
    matrix = np.array([[1.0, 0.0, 0.0, 0.0], [0.0, 0.0, -1.0, y1], [0.0, 1.0, 0.0, 0.0]])
    return flat.extrude(y1 - y0).transform(matrix)


def _prism_z(points: list[tuple[float, float]], z0: float, z1: float) -> Manifold:
    """A prism through (x, y) points from z0 to z1."""
    flat = CrossSection(
        [np.asarray(points)], manifold3d.FillRule.NonZero if _ccw(points) else manifold3d.FillRule.Negative
    )
    return flat.extrude(z1 - z0).translate((0.0, 0.0, z0))


def _ccw(points: list[tuple[float, float]]) -> bool:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, points[1:] + points[:1], strict=True)) > 0


def _trim(solid: Manifold, cut: EndCut, right: bool) -> Manifold:
    normal = np.array([1.0, -cut.ky, -cut.kz])
    length = float(np.linalg.norm(normal))
    sign = -1.0 if right else 1.0
    saddle = cut.saddle
    if not isinstance(saddle, Saddle):
        return solid.trim_by_plane(tuple(sign * normal / length), sign * cut.at / length)
    axis = cut.at - sign * saddle.radius * length  # where the tube's axis crosses the part's own
    kept = solid.trim_by_plane(tuple(sign * normal / length), sign * axis / length)
    return kept - _tube(saddle, axis, cut)


def _tube(saddle: Saddle, at: float, cut: EndCut) -> Manifold:
    """The tube that an end is saddled to, as long as any section is wide, its axis through x = `at` of the part's
    own."""
    ay, az = saddle.along
    u = np.array([cut.ky * ay + cut.kz * az, ay, az])
    u /= np.linalg.norm(u)
    aside = np.array([0.0, az, -ay])
    step = 2 * math.pi / _SADDLE_SIDES
    radius, reach = saddle.radius * math.sqrt(step / math.sin(step)), 4 * saddle.radius * float(np.hypot(1.0, u[0]))
    cylinder = Manifold.cylinder(2 * reach, radius, circular_segments=_SADDLE_SIDES, center=True)
    axes = np.column_stack([np.cross(aside, u), aside, u])
    return cylinder.transform(np.column_stack([axes, [at, 0.0, 0.0]]))


def _hole_cutter(part: Part, hole: Hole, quarter: int) -> Manifold:
    points = list(hole_outline(hole, quarter).exterior.coords)[:-1]
    if part.section is None:
        return _prism_y(points, -part.thickness / 2 - _OVER, part.thickness / 2 + _OVER)
    wall = profile.faces(part.section).get(hole.face)
    if wall is None:  # a round tube: through the near half
        return _prism_y(points, -part.section.b / 2 - _OVER, 0.0)
    # no farther than half the wall past it, so that a hole stays in its own wall
    past = min(_OVER, wall.thickness / 2) if part.section.r else _OVER
    lo, hi = wall.mid - wall.thickness / 2 - past, wall.mid + wall.thickness / 2 + past
    return _prism_y(points, lo, hi) if wall.upright else _prism_z(points, lo, hi)


def hole_cutters(part: Part, body: Manifold) -> list[Manifold]:
    """What the holes of a straight part that come near a body (in its frame) cut off."""
    (x0, y0, z0, x1, y1, z1), found = body.bounding_box(), []
    for hole in part.holes:
        if abs(hole.x - (x0 + x1) / 2) <= (x1 - x0) / 2 + hole.d + hole.slot:
            cutter = _hole_cutter(part, hole, 16)
            low, high = np.array(cutter.bounding_box()).reshape(2, 3)
            if (low < (x1, y1, z1)).all() and (high > (x0, y0, z0)).all():
                found.append(cutter)
    return found


def _build(part: Part, with_holes: bool, quarter: int = 16) -> Manifold:
    if part.item is not None and part.item.body:
        solid = body_solid(part.item.body)
    elif part.section is None:
        solid = _prism_y(list(part.outline), -part.thickness / 2, part.thickness / 2)
    else:
        solid = _rolled_stock(part)
    cutters = []
    y0, y1 = part.y_range
    for cope in part.copes:
        cutters.append(_prism_y(cope_outline(part, cope), y0 - _OVER, y1 + _OVER))
    for notch in part.notches:
        lo, hi = notch_range(part, notch)
        prism = _prism_y if notch.face.upright else _prism_z
        cutters.append(prism(list(notch.outline), lo, hi))
    if with_holes:
        cutters += [_hole_cutter(part, hole, quarter) for hole in part.holes]
    if cutters:
        solid = solid - Manifold.batch_boolean(cutters, manifold3d.OpType.Add)
    if part.curve is not None:
        return _trimmed_arc(part, _warped(part, solid))
    if part.coil is not None:
        return _warped(part, solid)
    if part.bends and all(bend.sharp for bend in part.bends):
        return _developed(part, cutters)
    return _folded(part, solid) if part.bends else solid


def _warped(part: Part, solid: Manifold) -> Manifold:
    return solid.warp_batch(lambda points: np.round(formed(part, points), 6))


def _folded(part: Part, solid: Manifold) -> Manifold:
    """The flat cut into strips at each bend, each strip turned to its place."""
    strips = [solid]
    for bend in part.bends:
        n, width = bend.left, zone(bend, part.thickness)
        for k in range(_FOLDS + 1):
            off = n[0] * bend.x1 + n[1] * bend.z1 + width * (k / _FOLDS - 0.5)
            cut = [s.split_by_plane((float(n[0]), 0.0, float(n[1])), float(off)) for s in strips]
            strips = [half for pair in cut for half in pair if not half.is_empty()]
    whole = Manifold.batch_boolean([_warped(part, s) for s in strips], manifold3d.OpType.Add)
    pieces = whole.decompose()
    kept = [one for one in pieces if one.volume() > _DUST]  # seams of strips leave flakes without volume
    return whole if len(kept) == len(pieces) else Manifold.compose(kept)


def _developed(part: Part, cutters: list[Manifold]) -> Manifold:
    """A developed surface: each facet a body of its own, which meets its neighbours in the planes halfway between."""
    ends = np.array([(b.x1, b.z1, b.x2, b.z2) for b in part.bends])
    each = [
        (flat, _facet(part, np.array(flat.outline), ends)) for flat in flats(part.outline, part.bends, part.thickness)
    ]
    if not cutters:
        whole = _shell([(flat.place.to_model(corners), joined) for flat, (corners, joined) in each])
        if whole.status() == manifold3d.Error.NoError and whole.volume() > 0:
            return whole
    cut = Manifold.batch_boolean(cutters, manifold3d.OpType.Add) if cutters else None
    pieces = []
    for flat, (corners, _) in each:
        body = Manifold.hull_points(corners.reshape(-1, 3))
        body = body - cut if cut is not None else body
        pieces.append(body.transform(np.column_stack([flat.place.axes, flat.place.origin])))
    return Manifold.batch_boolean(pieces, manifold3d.OpType.Add)


def _facet(part: Part, ring: NDArray[np.float64], ends: NDArray[np.float64]) -> tuple[NDArray[np.float64], list[bool]]:
    """The corners (n, 2, 3) of a facet's body, over and under those of its outline, and whether each edge from one to
    the next is a fold: those of a fold are drawn to the plane halfway to the facet beyond, so that where two folds meet
    in a corner there are two."""
    half, n = part.thickness / 2, len(ring)
    middles = (ring + np.roll(ring, -1, axis=0)) / 2
    away = np.linalg.norm(middles[:, None] - (ends[:, :2] + ends[:, 2:])[None] / 2, axis=2)
    of = {e: part.bends[int(away[e].argmin())] for e in range(n) if away[e].min() < _AT_FOLD}
    reach: dict[int, NDArray[np.float64]] = {}
    for e, bend in of.items():
        inside = float(np.sign(bend.off(*ring.mean(axis=0))))
        reach[e] = half * math.tan(math.radians(bend.angle) / 2) * -inside * bend.left  # at the far side, towards +y
    found, joined = [], []
    for i in range(n):
        ending = [reach[e] for e in ((i - 1) % n, i) if e in reach] or [np.zeros(2)]
        for k, step in enumerate(ending):
            corner = [(*(ring[i] + side * step), side * half) for side in (-1.0, 1.0)]
            found.append([(x, y, z) for x, z, y in corner])
            joined.append(i in of and k == len(ending) - 1)
    return np.array(found), joined


def _shell(facets: list[tuple[NDArray[np.float64], list[bool]]]) -> Manifold:
    """One body of facets that share their folds: their two faces each, and walls along the edges that are no folds."""
    points, faces, first = [], [], 0
    for corners, joined in facets:
        n = len(corners)
        low, high = first + 2 * np.arange(n), first + 2 * np.arange(n) + 1
        points.append(corners.reshape(-1, 3))
        for i in range(1, n - 1):
            faces += [(low[0], low[i], low[i + 1]), (high[0], high[i + 1], high[i])]
        for i in range(n):
            j = (i + 1) % n
            if not joined[i]:
                faces += [(low[i], high[i], high[j]), (low[i], high[j], low[j])]
        first += 2 * n
    spots = np.vstack(points)
    near = np.abs(spots[:, None] - spots[None]).max(axis=2) < _AT_FOLD
    tri = near.argmax(axis=1)[np.array(faces)]  # the first of those that are one corner of several facets
    tri = tri[(tri[:, 0] != tri[:, 1]) & (tri[:, 1] != tri[:, 2]) & (tri[:, 2] != tri[:, 0])]
    return Manifold(manifold3d.Mesh64(np.ascontiguousarray(spots), np.ascontiguousarray(tri, dtype=np.uint64)))


def _arc_stock(part: Part) -> Manifold:
    """A length to be rolled, still straight and a little too long: its ends are cut once it is an arc."""
    assert part.section is not None and part.curve is not None
    more = part.section.d / 4
    steps = max(1, math.ceil((part.length + 2 * more) / part.curve.radius / _STEP))
    stock = _cross_section(part.section).extrude(part.length + 2 * more, steps).transform(_TO_X)
    return stock.translate((-more, 0.0, 0.0))


def _trimmed_arc(part: Part, solid: Manifold) -> Manifold:
    """Each end cut by its plane, as it stands to the arc there."""
    for cut, right in ((part.left, False), (part.right, True)):
        frame = formed(part, [(cut.at, 0, 0), (cut.at, 1, 0), (cut.at, 0, 1)])
        y, z = frame[1] - frame[0], frame[2] - frame[0]
        x = np.cross(y, z)
        normal = x - cut.ky * y - cut.kz * z
        normal /= np.linalg.norm(normal)
        sign = -1.0 if right else 1.0
        solid = solid.trim_by_plane(tuple(sign * normal), float(sign * (normal @ frame[0])))
    return solid


def _coil_stock(part: Part, coil: Coil) -> Manifold:
    """A length to be wrapped, still straight: in slices that will stand plumb, so that all corners of a slice come to
    lie in one plane through the axis; its ends as they are cut before it is wrapped."""
    assert part.section is not None
    slope, roll = math.tan(coil.slope), math.radians(coil.roll)
    more = part.section.d * (1 + abs(slope)) + part.section.b * abs(slope)
    steps = max(1, math.ceil(coil.turn(part.length + 2 * more) / _STEP))
    rings = _rings(profile.outline(part.section))
    section, sizes = np.vstack(rings), [len(ring) for ring in rings]
    left, _ = coil.flat(section[:, 0], section[:, 1])
    lean = slope * (math.sin(roll) * section[:, 0] + math.cos(roll) * section[:, 1])
    at = np.linspace(-more, part.length + more, steps + 1)
    points = np.column_stack([(at[:, None] + lean).ravel(), np.tile(section, (steps + 1, 1))])
    cap = np.asarray(manifold3d.triangulate(rings), dtype=np.uint64)
    faces = np.vstack([cap[:, ::-1], _between(sizes, left, steps), cap + np.uint64(len(section) * steps)])
    alone = np.arange(len(faces), dtype=np.uint64)  # each its own face: none is taken for flat before it is wrapped
    stock = Manifold(manifold3d.Mesh64(np.ascontiguousarray(points), np.ascontiguousarray(faces), face_id=alone))
    return _trim(_trim(stock, part.left, right=False), part.right, right=True)


def _between(sizes: list[int], left: NDArray[np.float64], steps: int) -> NDArray[np.uint64]:
    """Triangles between slices of a section whose rings have so many corners. A face between two slices is twisted
    once it is wrapped: it is parted from the corner farther to the right in the first to the one farther to the left
    in the second, so that what the upper face gains the lower one loses."""
    total, start, sides = sum(sizes), 0, []
    for size in sizes:
        i = start + np.arange(size)
        sides.append(np.column_stack([i, start + (np.arange(size) + 1) % size]))
        start += size
    a, b = np.vstack(sides).T
    rising = left[a] <= left[b]
    c, d = a + total, b + total
    first = np.where(rising[:, None], np.column_stack([a, b, d]), np.column_stack([a, b, c]))
    second = np.where(rising[:, None], np.column_stack([a, d, c]), np.column_stack([b, d, c]))
    one = np.vstack([first, second])
    walls = (one[None] + total * np.arange(steps)[:, None, None]).reshape(-1, 3)
    return np.asarray(walls, dtype=np.uint64)


def _rolled_stock(part: Part) -> Manifold:
    assert part.section is not None
    if part.curve is not None:
        return _arc_stock(part)
    if part.coil is not None:
        return _coil_stock(part, part.coil)
    stock = _cross_section(part.section).extrude(part.length).transform(_TO_X)
    if not part.left.square:
        stock = _trim(stock, part.left, right=False)
    if not part.right.square:
        stock = _trim(stock, part.right, right=True)
    return stock


@lru_cache(maxsize=8192)
def solid(part: Part) -> Manifold:
    """The part as made, with its holes."""
    return _build(part, with_holes=True)


@lru_cache(maxsize=8192)
def plain_solid(part: Part) -> Manifold:
    """The part without its holes."""
    return _build(part, with_holes=False)


# x and z of a body to x and y of a cut, y to its height; and x and y to x and y
_UPRIGHT = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, 1, 0, 0]])


def cut_across(body: Manifold, upright: bool, height: float) -> BaseGeometry:
    """What of a body lies in the plane y = height, as (x, z) (`upright`), or z = height, as (x, y)."""
    rings = (body.transform(_UPRIGHT) if upright else body).slice(height).to_polygons()
    shapes = [shapely.Polygon(ring) for ring in rings]
    outer, inner = ([s for s in shapes if s.exterior.is_ccw == way] for way in (True, False))
    return shapely.union_all(outer).difference(shapely.union_all(inner))


def _mesh(body: Manifold) -> Mesh:
    raw = body.to_mesh64()
    points = np.array(raw.vert_properties, dtype=np.float64)[:, :3]  # a copy: the raw mesh can go
    triangles = np.array(raw.tri_verts, dtype=np.int64)
    points.setflags(write=False)
    triangles.setflags(write=False)
    return Mesh(points, triangles)


def _forget() -> None:
    """At exit, before the library's own objects go."""
    solid.cache_clear()
    plain_solid.cache_clear()
    _cross_section.cache_clear()
    body_solid.cache_clear()


atexit.register(_forget)


@lru_cache(maxsize=8192)
def mesh(part: Part) -> Mesh:
    """Triangles of the part with its holes."""
    return _mesh(solid(part))


@lru_cache(maxsize=8192)
def plain_mesh(part: Part) -> Mesh:
    """Triangles of the part without holes: what hides in a drawing, and what the window shows while it moves."""
    return _mesh(plain_solid(part))


@lru_cache(maxsize=8192)
def view_mesh(part: Part) -> Mesh:
    """Triangles of the part with its holes as twelve-sided ones: good enough to look at."""
    return _mesh(_build(part, with_holes=True, quarter=3))


@lru_cache(maxsize=8192)
def stock_mesh(part: Part) -> Mesh:
    """The part before any work, its section without fillets: what shows while a view of many moves."""
    if part.section is None:
        return plain_mesh(part)
    sharp = msgspec.structs.replace(part.section, r=0.0) if part.section.form not in profile.ROUNDS else part.section
    bare = msgspec.structs.replace(part, section=sharp, features=())
    return _mesh(_build(bare, with_holes=False))


@lru_cache(maxsize=8192)
def sharp_edges(part: Part) -> NDArray[np.int64]:
    """Edges (n, 4) of the mesh without holes as point, point, triangle, triangle; every edge of two triangles not in
    one plane."""
    return edges(plain_mesh(part))


def edges(source: Mesh) -> NDArray[np.int64]:
    """Every edge between two triangles that do not lie in one plane: (n, 4) point, point, triangle, triangle."""
    t = source.triangles
    pairs = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
    owner = np.tile(np.arange(len(t)), 3)
    low, high = pairs.min(axis=1), pairs.max(axis=1)
    order = np.lexsort((high, low))
    low, high, owner = low[order], high[order], owner[order]
    if len(low) % 2 or not (np.array_equal(low[::2], low[1::2]) and np.array_equal(high[::2], high[1::2])):
        same = (low[1:] == low[:-1]) & (high[1:] == high[:-1])
        first = np.flatnonzero(same)
    else:
        first = np.arange(0, len(low), 2)
    normals = triangle_normals(source)
    a, b = owner[first], owner[first + 1]
    bent = np.einsum("ij,ij->i", normals[a], normals[b]) < math.cos(math.radians(1.0))
    return np.asarray(np.column_stack([low[first], high[first], a, b])[bent])


@lru_cache(maxsize=8192)
def plain_normals(part: Part) -> NDArray[np.float64]:
    """Those of the mesh without holes."""
    return triangle_normals(plain_mesh(part))


@lru_cache(maxsize=8192)
def plain_sides(part: Part) -> NDArray[np.intp]:
    """The sides of each triangle of the mesh without holes, (m, 3), by number: triangles that meet share one."""
    triangles = plain_mesh(part).triangles.astype(np.int64)
    ends = np.stack([triangles, np.roll(triangles, -1, axis=1)], axis=2).reshape(-1, 2)
    keys = ends.min(axis=1) * (len(plain_mesh(part).points) + 1) + ends.max(axis=1)
    _, numbers = np.unique(keys, return_inverse=True)
    return numbers.reshape(-1, 3)


def triangle_normals(source: Mesh) -> NDArray[np.float64]:
    """Unit normals (m, 3), outwards."""
    p = source.points[source.triangles]
    n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    lengths = np.linalg.norm(n, axis=1, keepdims=True)
    return n / np.where(lengths > 0, lengths, 1.0)
