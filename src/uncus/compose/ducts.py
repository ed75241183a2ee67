"""What transitions, elbows and branches have in common: outlines, plates made of strips, flanges at their ends."""

from __future__ import annotations

import math
from typing import Annotated

import msgspec
import numpy as np
import shapely

from uncus.compose.development import Strip, blank_of, corner, inset, laid_flat
from uncus.compose.kind import Parts
from uncus.frame.outlines import straight
from uncus.frame.placement import Placement, Vec
from uncus.job.blanks import Blank, Corner, HoleRow
from uncus.job.forms import About
from uncus.job.records import Role

CIRCLE, ELLIPSE, RECTANGLE, POLYGON = SHAPES = ("circle", "ellipse", "rectangle", "polygon")
FOLDED, ROLLED = MAKES = ("in folds", "rolled")
INSIDE, MIDDLE, OUTSIDE = MEASURED = ("inside", "in the middle of the plate", "outside")
FLANGES = ("none", "at the first end", "at the second end", "at both ends")
_ROLLED_STEP = 2.0  # degrees from ruling to ruling of what is rolled


class DuctParams(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What of their values all of them have."""

    thickness: Annotated[float, About("Plate", low=1.5, high=60)] = 4.7625
    measured: Annotated[str, About("Sizes are measured", unit="choice", choices=MEASURED)] = INSIDE
    made: Annotated[str, About("Round parts are", unit="choice", choices=MAKES)] = FOLDED
    folds: Annotated[int, About("Folds to a round end", unit="count", low=4, high=96, only=("made", FOLDED),
        help="A whole circle in so many flats.")] = 24  # fmt: skip
    pieces: Annotated[int, About("Parted into", unit="count", low=1, high=12, help="Pieces round it.")] = 2
    seam: Annotated[float, About("First seam at", unit="angle", low=-360, high=360,
        help="Round the axis from its first direction.")] = 0.0  # fmt: skip
    flange: Annotated[str, About("Flanges", unit="choice", choices=FLANGES)] = FLANGES[0]
    flange_width: Annotated[float, About("Width of flanges", low=15, high=500)] = 50.8
    flange_thickness: Annotated[float, About("Thickness of flanges", low=3, high=60)] = 9.525
    flange_hole: Annotated[float, About("Holes of flanges", low=0, high=40, help="None: 0.")] = 14.2875
    flange_pitch: Annotated[float, About("Holes apart, about", low=30, high=1000)] = 152.4

    @property
    def round_steps(self) -> int:
        return self.folds if self.made == FOLDED else round(360 / _ROLLED_STEP)

    def middle(self, size: float) -> float:
        """A width across as it is in the middle of the plate."""
        return size + {INSIDE: 1.0, MIDDLE: 0.0, OUTSIDE: -1.0}[self.measured] * self.thickness


def outline(shape: str, wide: float, deep: float, sides: int, steps: int) -> Vec:
    """Points (n, 2) of an outline about its middle, counter-clockwise, beginning on its first direction or, of one with
    straight sides, in the middle of the side there. Corners of what is round lie on it."""
    if shape in (CIRCLE, ELLIPSE):
        turn = 2 * math.pi * np.arange(steps) / steps
        return np.column_stack([wide / 2 * np.cos(turn), (wide if shape == CIRCLE else deep) / 2 * np.sin(turn)])
    if shape == RECTANGLE:
        w, d = wide / 2, deep / 2
        return np.array([(w, 0.0), (w, d), (-w, d), (-w, -d), (w, -d)])
    turn = 2 * math.pi * (np.arange(sides) + 0.5) / sides
    corners = wide / 2 / math.cos(math.pi / sides) * np.column_stack([np.cos(turn), np.sin(turn)])
    return np.vstack([(corners[-1] + corners[0]) / 2, corners])


def add_strips(parts: Parts, key: str, strips: list[Strip], thickness: float) -> list[str]:
    """The plates of strips that follow each other round a duct, each welded to the next; their keys."""
    keys = []
    turns = [corner(one, other) for one, other in zip(strips, [*strips[1:], strips[0]], strict=True)]
    back = [thickness / 2 * math.tan(turn / 2) for turn in turns]
    for n, strip in enumerate(strips, 1):
        flat = inset(laid_flat(strip), back[n - 2], back[n - 1])
        name = f"{key} {n}" if len(strips) > 1 else key
        keys.append(parts.plate(name, Role.PLATE, flat.place, blank_of(flat, thickness), thickness))
    for n, (one, other) in enumerate(zip(keys, [*keys[1:], keys[0]], strict=True), 1):
        if one != other and not (len(keys) == 2 and n == 2):
            parts.attach(f"{key} seam {n}", "welded on", other, one, sides="one side")
    return keys


def meeting(n: int, shift: float) -> list[tuple[int, int]]:
    """Which of n pieces round an end meet which of those beyond, whose seams are turned by a share of the way round."""
    here = [(k / n, (k + 1) / n) for k in range(n)]
    found = []
    for i, (a, b) in enumerate(here):
        for j, (c, d) in enumerate(here):
            spans = ((c + shift + turn, d + shift + turn) for turn in (-1.0, 0.0, 1.0))
            if any(min(b, high) - max(a, low) > 1e-6 for low, high in spans):
                found.append((i, j))
    return found


def add_flange(parts: Parts, key: str, ring: Vec, out: Vec, p: DuctParams, plates: list[str]) -> None:
    """A flat ring about the end of a duct whose plates' middle is `ring` (n, 3), in the plane there; its outer face
    where they end, `out` of them."""
    middle = ring.mean(axis=0)
    x = ring[0] - middle
    x = x / np.linalg.norm(x)
    axes = np.column_stack([x, -out, np.cross(x, -out)])
    place = Placement(middle - out * p.flange_thickness / 2, axes)
    flat = place.to_local(ring)[:, [0, 2]]
    inner = shapely.Polygon(flat).buffer(p.thickness / 2, join_style="mitre")
    outer = inner.buffer(p.flange_width, join_style="mitre")
    line = inner.buffer(p.flange_width / 2, join_style="mitre").exterior
    n = max(4, round(line.length / p.flange_pitch)) if p.flange_hole else 0
    spots = [line.interpolate((k + 0.5) / n, normalized=True).coords[0] for k in range(n)]
    holes = tuple(HoleRow(float(x), float(z), p.flange_hole) for x, z in spots)
    blank = Blank(_ring(outer), (_ring(inner),), holes)
    parts.plate(f"{key} flange", Role.PLATE, place, blank, p.flange_thickness)
    for plate in plates:
        parts.attach(f"{key} flange to {plate}", "welded on", plate, f"{key} flange")


def _ring(shape: shapely.Polygon) -> tuple[Corner, ...]:
    return straight(shape.simplify(1e-3).exterior.coords[:-1])
