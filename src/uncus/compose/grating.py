"""A floor of grating: panels over a rectangle, their bearing bars one way, cut out round what comes up through them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np
import shapely

from uncus.compose.kind import Compound, Given, Parts, Piece, Said
from uncus.frame.outlines import circle, points_of, rectangle, straight
from uncus.frame.placement import Placement
from uncus.job.blanks import Blank, Corner, Lugs, Ring
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.units import counted, format_length, length_in_words

ALONG, ACROSS = BEARING = ("along the first side", "across it")
ROUND, SQUARE = CUTS = ("round", "square")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    name: Annotated[str, About("Grating", unit="text", help="As it is ordered.")] = "Grating 19-W-4, 1 1/4 x 3/16"
    depth: Annotated[float, About("Depth", low=15, high=150)] = 31.75
    weight: Annotated[float, About("Weight", low=2, high=400, unit="weight", help="Of a square metre.")] = 42.0
    bearing: Annotated[str, About("Bearing bars run", unit="choice", choices=BEARING)] = ALONG
    panel: Annotated[float, About("Panels at most wide", low=150, high=6000)] = 914.4
    longest: Annotated[float, About("Bearing bars at most long", low=300, high=12_000)] = 6096.0
    gap: Annotated[float, About("Between panels", low=0, high=50)] = 6.35
    sit: Annotated[float, About("Top over the points", low=-500, high=500,
        help="Left at nothing where the points lie on the walking surface.")] = 0.0  # fmt: skip
    band: Annotated[float, About("Banding", low=0, high=50,
        help="The thickness of the bar along all edges; none: 0.")] = 4.7625  # fmt: skip
    clips: Annotated[int, About("Clips to a panel", unit="count", low=0, high=100,
        help="That hold it where it lies.")] = 4  # fmt: skip
    cut: Annotated[str, About("Cut-outs", unit="choice", choices=CUTS,
        help="Round what is picked after the two corners.")] = SQUARE  # fmt: skip
    clear: Annotated[float, About("Cut-out's width", low=20, high=3000)] = 304.8


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    a, b = given.points[:2]
    low, high = np.minimum(a, b), np.maximum(a, b)
    if float(min(high[0] - low[0], high[1] - low[1])) < 50.0:
        raise ValueError("its two corners lie on one side; pick opposite ones")
    frame = Placement((low[0], low[1], float(a[2]) + p.sit - p.depth / 2), np.column_stack([[1.0, 0, 0], [0, 0, -1.0],
        [0, 1.0, 0]]))  # fmt: skip
    wide, long = (high[0] - low[0], high[1] - low[1]) if p.bearing == ACROSS else (high[1] - low[1], high[0] - low[0])
    columns, rows = (
        max(1, math.ceil((v + p.gap) / (m + p.gap) - 1e-6)) for v, m in ((wide, p.panel), (long, p.longest))
    )
    across, along = (wide - (columns - 1) * p.gap) / columns, (long - (rows - 1) * p.gap) / rows
    holes = shapely.union_all([shapely.Polygon(points_of(_cut(p, *(q[:2] - low[:2])))) for q in given.points[2:]])
    lugs = Lugs(p.name, 90.0 if p.bearing == ACROSS else 0.0, p.weight, p.band, p.clips)
    n = 0
    for i in range(columns):
        for j in range(rows):
            u, v = i * (across + p.gap), j * (along + p.gap)
            x, z = (u, v) if p.bearing == ACROSS else (v, u)
            dx, dz = (across, along) if p.bearing == ACROSS else (along, across)
            shape = shapely.Polygon(points_of(rectangle((x, z), (x + dx, z + dz)))).difference(holes)
            for piece in shapely.get_parts(shape):
                if piece.geom_type == "Polygon" and piece.area > 1000.0:
                    n += 1
                    parts.plate(f"panel {n}", Role.PANEL, frame, Blank(*_rings(piece), (), (), lugs), p.depth)
    return parts.made


def _cut(p: Params, x: float, z: float) -> Ring:
    half = p.clear / 2
    return circle(x, z, half) if p.cut == ROUND else rectangle((x - half, z - half), (x + half, z + half))


def _rings(shape: shapely.Polygon) -> tuple[tuple[Corner, ...], tuple[Ring, ...]]:
    plain = shapely.simplify(shape, 1e-3)
    return straight(plain.exterior.coords[:-1]), tuple(straight(r.coords[:-1]) for r in plain.interiors)


def told(given: Given) -> Iterator[Said]:
    """What of it cannot be as it is asked for."""
    a, b = given.points[:2]
    if abs(float(a[2] - b[2])) > 1.0:
        apart = length_in_words(abs(float(a[2] - b[2])), given.units)
        yield Said(f"Its two corners lie {apart} one over the other; it lies level at the first.")


def reading(given: Given) -> str:
    panels = len(build(given))
    a, b = given.points[:2]
    sides = (format_length(abs(float(v)), given.units) for v in (b - a)[:2])
    return f"{counted(panels, 'panel')} over {' x '.join(sides)}"


KIND = Compound(
    "grating",
    "Grating",
    Params,
    ("pick a corner", "pick the opposite corner"),
    build,
    "Panels of grating over a rectangle, cut out round what is picked after its corners; Enter makes it.",
    open=True,
    told=told,
    reading=reading,
    metric={"name": "Grating P 34-38/30-3", "depth": 30.0, "weight": 24.0, "panel": 1000.0, "longest": 6000.0,
        "gap": 5.0, "clear": 300.0, "band": 5.0},
)  # fmt: skip
