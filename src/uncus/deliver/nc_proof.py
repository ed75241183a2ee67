"""Whether a program gives the part that was modelled: both solids cut along every wall, and the cuts laid on one
another."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from uncus.deliver.nc_contours import Picture, picture_of
from uncus.standin.bench import Program, rebuild
from uncus.steel.flat import as_plate, net_volume
from uncus.steel.forming import laid_flat
from uncus.steel.part import Part
from uncus.steel.profile import faces, facets
from uncus.steel.solid import TOLERANCE, cut_across, solid

_SHARE = 0.003  # of the volume that fillets and facets may make
_FAR = 2000.0  # mm, beyond any section
_AMID = 0.5  # mm beside a tube's middle, where halves worked apart meet
_BEND = 0.05  # mm and degrees


def differs(part: Part, program: Program) -> str | None:
    """What of a part its program does not give, and where; None where it gives all of it."""
    part = as_plate(part)
    model, picture = solid(laid_flat(part)), picture_of(part)
    made = rebuild(program).translate((picture.start, part.y_range[0], part.depth_range[0]))
    made.num_tri()  # worked out once, and not again for each cut
    round_ = facets(part.section)
    for upright, height, words in _planes(part):
        one, two = (cut_across(body, upright, height) for body in (model, made))
        beyond = _bevels(part, picture, upright, height)
        for off, what in ((two.difference(one), "leaves steel"), (one.difference(two), "takes steel away")):
            deep = off.difference(beyond).buffer(-TOLERANCE / 2 - round_)
            if not deep.is_empty:
                x, w = deep.representative_point().coords[0]
                return f"on the bench it {what} on its {words} at x {x:.1f}, {w:.1f} mm"
    volume = net_volume(laid_flat(part))
    if abs(float(made.volume()) - volume) > _SHARE * volume:
        return f"on the bench it weighs {(float(made.volume()) / volume - 1) * 100:+.2f} % of what it should"
    if len(program.bores) != len(part.holes):
        return f"on the bench it has {len(program.bores)} holes of {len(part.holes)}"
    return _bends_differ(part, program, picture.start)


def _planes(part: Part) -> Iterator[tuple[bool, float, str]]:
    """Where to cut: amid every wall; a round tube along both its axes."""
    if part.section is None:
        yield True, 0.0, "face"
        return
    for face, wall in faces(part.section).items():
        yield wall.upright, wall.mid, str(face)
    if not faces(part.section):
        for off in (-part.width / 4, _AMID, part.width / 4):
            yield True, off, "side"
            yield False, off, "top"


def _bevels(part: Part, picture: Picture, upright: bool, height: float) -> BaseGeometry:
    """Of ends that outlines alone make, which are square through each wall, where the steel slopes through it."""
    bands = []
    for saw, cut in zip(picture.saws, (part.left, part.right), strict=True):
        if part.section is not None and saw is not cut and not cut.square:
            slack = TOLERANCE + (abs(cut.ky) * part.section.tw + abs(cut.kz) * part.section.tf) / 2
            ends = [(cut.x(height, w), w) if upright else (cut.x(w, height), w) for w in (-_FAR, _FAR)]
            bands.append(shapely.LineString(ends).buffer(slack))
    return shapely.union_all(bands)


def _bends_differ(part: Part, program: Program, start: float) -> str | None:
    low = part.depth_range[0]
    wanted = [(b.x1 - start, b.z1 - low, b.angle, max(b.radius, 0.0), b.x2 - start, b.z2 - low) for b in part.bends]
    found = [(f.x1, f.y1, f.angle, f.radius, f.x2, f.y2) for f in program.folds]
    if len(wanted) != len(found):
        return f"on the bench it has {len(found)} bends of {len(wanted)}"
    if wanted and float(np.abs(np.array(wanted) - np.array(found)).max()) > _BEND:
        return "on the bench a bend lies elsewhere or turns otherwise"
    return None
