"""Whether a program gives the part that was modelled: both solids cut along every wall, and the cuts laid on one another."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely
from manifold3d import Manifold
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from uncus.catalog.sections import Form
from uncus.deliver.nc_contours import Picture, picture_of
from uncus.standin.bench import Program, rebuild
from uncus.steel.flat import net_volume
from uncus.steel.forming import laid_flat
from uncus.steel.part import Part
from uncus.steel.profile import TUBE_SIDES, faces
from uncus.steel.solid import TOLERANCE, solid

_SHARE = 0.003  # of the volume that fillets and facets may make
_FAR = 2000.0  # mm, beyond any section
_AMID = 0.5  # mm beside a tube's middle, where halves worked apart meet
_BEND = 0.05  # mm and degrees

Turn = NDArray[np.float64]
# x and z of the part to x and y of a cut, y to its height; and x and y to x and y
_UPRIGHT = np.array([[1.0, 0, 0, 0], [0, 0, 1, 0], [0, 1, 0, 0]])
_FLAT = np.array([[1.0, 0, 0, 0], [0, 1, 0, 0], [0, 0, 1, 0]])


def differs(part: Part, program: Program) -> str | None:
    """What of a part its program does not give, and where; None where it gives all of it."""
    model, picture = solid(laid_flat(part)), picture_of(part)
    made = rebuild(program).translate((picture.start, part.y_range[0], part.depth_range[0]))
    facets = part.width * (1 - math.cos(math.pi / TUBE_SIDES)) if part.form is Form.TUBE else 0.0
    for turn, height, words in _planes(part):
        one, two = _cut(model, turn, height), _cut(made, turn, height)
        beyond = _bevels(part, picture, turn is _UPRIGHT, height)
        for off, what in ((two.difference(one), "leaves steel"), (one.difference(two), "takes steel away")):
            deep = off.difference(beyond).buffer(-TOLERANCE / 2 - facets)
            if not deep.is_empty:
                x, w = deep.representative_point().coords[0]
                return f"on the bench it {what} on its {words} at x {x:.1f}, {w:.1f} mm"
    volume = net_volume(laid_flat(part))
    if abs(float(made.volume()) - volume) > _SHARE * volume:
        return f"on the bench it weighs {(float(made.volume()) / volume - 1) * 100:+.2f} % of what it should"
    if len(program.bores) != len(part.holes):
        return f"on the bench it has {len(program.bores)} holes of {len(part.holes)}"
    return _bends_differ(part, program, picture.start)


def _planes(part: Part) -> Iterator[tuple[Turn, float, str]]:
    """Where to cut: amid every wall; a round tube along both its axes."""
    if part.section is None:
        yield _UPRIGHT, 0.0, "face"
        return
    for face, wall in faces(part.section).items():
        yield (_UPRIGHT if wall.upright else _FLAT), wall.mid, str(face)
    if not faces(part.section):
        for off in (-part.width / 4, _AMID, part.width / 4):
            yield _UPRIGHT, off, "side"
            yield _FLAT, off, "top"


def _bevels(part: Part, picture: Picture, upright: bool, height: float) -> BaseGeometry:
    """Of ends that outlines alone make, which are square through each wall, where the steel slopes through it."""
    bands = []
    for saw, cut in zip(picture.saws, (part.left, part.right), strict=True):
        if part.section is not None and saw is not cut and not cut.square:
            slack = TOLERANCE + (abs(cut.ky) * part.section.tw + abs(cut.kz) * part.section.tf) / 2
            ends = [(cut.x(height, w), w) if upright else (cut.x(w, height), w) for w in (-_FAR, _FAR)]
            bands.append(shapely.LineString(ends).buffer(slack))
    return shapely.union_all(bands)


def _cut(body: Manifold, turn: Turn, height: float) -> BaseGeometry:
    rings = body.transform(turn).slice(height).to_polygons()
    found = shapely.union_all([shapely.Polygon(r) for r in rings if _area(r) > 0])
    return found.difference(shapely.union_all([shapely.Polygon(r) for r in rings if _area(r) < 0]))


def _area(ring: NDArray[np.float64]) -> float:
    after = np.roll(ring, -1, axis=0)
    return float((ring[:, 0] * after[:, 1] - ring[:, 1] * after[:, 0]).sum())


def _bends_differ(part: Part, program: Program, start: float) -> str | None:
    low = part.depth_range[0]
    wanted = [(b.x1 - start, b.z1 - low, b.angle, b.radius, b.x2 - start, b.z2 - low) for b in part.bends]
    found = [(f.x1, f.y1, f.angle, f.radius, f.x2, f.y2) for f in program.folds]
    if len(wanted) != len(found):
        return f"it has {len(found)} bends of {len(wanted)}"
    if wanted and float(np.abs(np.array(wanted) - np.array(found)).max()) > _BEND:
        return "a bend lies elsewhere or turns otherwise"
    return None
