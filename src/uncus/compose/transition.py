"""A transition: plate stretched from one outline to another, such as from a square to a round."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np

from uncus.compose.development import hull_strip, seams
from uncus.compose.ducts import CIRCLE, FLANGES, RECTANGLE, SHAPES, DuctParams, add_flange, add_strips, outline
from uncus.compose.kind import Compound, Given, Parts, Piece
from uncus.frame.placement import Vec, unit
from uncus.job.forms import About
from uncus.units import format_length


class Params(DuctParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    first: Annotated[str, About("First end", unit="choice", choices=SHAPES)] = RECTANGLE
    first_wide: Annotated[float, About("First: width, or diameter", low=30, high=20_000)] = 914.4
    first_deep: Annotated[float, About("First: depth", low=30, high=20_000, only=("first", *SHAPES[1:3]))] = 914.4
    first_sides: Annotated[int, About("First: sides", unit="count", low=3, high=24, only=("first", SHAPES[3]))] = 6
    first_turn: Annotated[float, About("First: turned", unit="angle", low=-360, high=360)] = 0.0
    first_tilt: Annotated[float, About("First: tilted", unit="angle", low=-60, high=60,
        help="About its second direction, out of square to the axis.")] = 0.0  # fmt: skip
    second: Annotated[str, About("Second end", unit="choice", choices=SHAPES)] = CIRCLE
    second_wide: Annotated[float, About("Second: width, or diameter", low=30, high=20_000)] = 457.2
    second_deep: Annotated[float, About("Second: depth", low=30, high=20_000, only=("second", *SHAPES[1:3]))] = 457.2
    second_sides: Annotated[int, About("Second: sides", unit="count", low=3, high=24, only=("second", SHAPES[3]))] = 6
    second_turn: Annotated[float, About("Second: turned", unit="angle", low=-360, high=360)] = 0.0
    second_tilt: Annotated[float, About("Second: tilted", unit="angle", low=-60, high=60)] = 0.0
    ends: Annotated[str, About("Ends lie", unit="choice", choices=("level", "square to the axis"),
        help="Level, the second may stand out of centre.")] = "level"  # fmt: skip


def frames(given: Given) -> tuple[Vec, Vec, Vec]:
    """The middles of both ends and the axes (3, 3) that both lie in: the third from the first to the second."""
    p: Params = given.params
    a, b = given.points[:2]
    if float(np.linalg.norm(b - a)) < 10.0:
        raise ValueError("its ends lie on one another; pick the second away from the first")
    way = b - a
    up = np.array([0.0, 0.0, math.copysign(1.0, way[2])]) if p.ends == "level" and abs(way[2]) > 1.0 else unit(way)
    side = np.array([1.0, 0.0, 0.0]) if abs(up[2]) > 0.9 else np.array([0.0, 0.0, 1.0])
    x = unit(side - (side @ up) * up)
    return a, b, np.column_stack([x, np.cross(up, x), up])


def ring(middle: Vec, axes: Vec, flat: Vec, turn: float, tilt: float) -> Vec:
    """An outline (n, 3) in the model, turned in its plane and tilted about its second direction."""
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    x, y = flat[:, 0] * c - flat[:, 1] * s, flat[:, 0] * s + flat[:, 1] * c
    slope = math.tan(math.radians(tilt))
    return np.asarray(middle + np.column_stack([x, y, x * slope]) @ axes.T)


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    a, b, axes = frames(given)
    rings = []
    for middle, end in ((a, "first"), (b, "second")):
        shape, wide, deep = (getattr(p, f"{end}_{name}") if name else getattr(p, end) for name in ("", "wide", "deep"))
        flat = outline(shape, p.middle(wide), p.middle(deep), getattr(p, f"{end}_sides"), p.round_steps)
        rings.append(ring(middle, axes, flat, getattr(p, f"{end}_turn"), getattr(p, f"{end}_tilt")))
    strip = hull_strip(*rings)
    if float(np.abs(np.linalg.norm(strip.last - strip.first, axis=1)).min()) < p.thickness:
        raise ValueError("its ends touch one another; set them farther apart")
    shares = [(p.seam / 360.0 + k / p.pieces) % 1.0 for k in range(p.pieces)]
    keys = add_strips(parts, "plate", seams(strip, p.pieces, shares), p.thickness)
    for n, (points, out) in enumerate(zip(rings, (-axes[:, 2], axes[:, 2]), strict=True), 1):
        if p.flange in (FLANGES[n], FLANGES[3]):
            add_flange(parts, f"end {n}", points, _square_to(points, out), p, keys)
    return parts.made


def _square_to(points: Vec, out: Vec) -> Vec:
    """The direction square to an outline's plane that looks as `out` does."""
    found = unit(np.cross(points[1] - points[0], points[len(points) // 2] - points[0]))
    return np.asarray(found * math.copysign(1.0, float(found @ out)))


def reading(given: Given) -> str:
    p: Params = given.params
    a, b, axes = frames(given)
    off = float(np.linalg.norm((b - a) - (b - a) @ axes[:, 2] * axes[:, 2]))
    high = format_length(abs(float((b - a) @ axes[:, 2])), given.units)
    centre = f", {format_length(off, given.units)} out of centre" if off > 0.5 else ""
    return f"{p.first} to {p.second}, {high} from end to end{centre}, in {p.pieces} pieces"


KIND = Compound(
    "transition",
    "Transition",
    Params,
    ("pick the middle of the first end", "pick the middle of the second end"),
    build,
    "Plate from one outline to another, folded or rolled, in centre or out of it, with flanges at its ends.",
    reading=reading,
    metric={"thickness": 5.0, "first_wide": 900.0, "first_deep": 900.0, "second_wide": 450.0, "second_deep": 450.0,
        "flange_width": 50.0, "flange_thickness": 10.0, "flange_hole": 14.0, "flange_pitch": 150.0},
)  # fmt: skip
