"""A saddle branch: a round duct that ends on the side of another round one."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np

from uncus.compose.development import Strip, seams
from uncus.compose.ducts import FLANGES, DuctParams, add_flange, add_strips
from uncus.compose.kind import Compound, Given, Parts, Piece
from uncus.frame.placement import unit
from uncus.job.forms import About


class Params(DuctParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    diameter: Annotated[float, About("Diameter", low=50, high=10_000)] = 304.8
    onto: Annotated[float, About("Onto a duct of", low=50, high=20_000,
        help="The outside diameter of the round that it ends on.")] = 457.2  # fmt: skip


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    foot, along, end = given.points[:3]
    main, way = unit(along - foot), end - foot
    long = float(np.linalg.norm(way))
    axis = way / long
    if float(np.linalg.norm(np.cross(main, axis))) < math.sin(math.radians(15.0)):
        raise ValueError("it runs along the duct that it ends on; pick its end to the side")
    r, big = p.middle(p.diameter) / 2, p.onto / 2
    x = unit(main - (main @ axis) * axis)
    y = np.cross(axis, x)
    phi = 2 * math.pi * np.arange(p.round_steps + 1) / p.round_steps
    phi[-1] = 0.0
    base = foot + np.outer(r * np.cos(phi), x) + np.outer(r * np.sin(phi), y)
    # along each ruling, where it is as far from the main axis as that one's outside: a quadratic, the outer root
    u = axis - (axis @ main) * main
    v = (base - foot) - np.outer((base - foot) @ main, main)
    a, b, c = float(u @ u), v @ u, np.einsum("ij,ij->i", v, v) - big**2
    inside = b * b - a * c
    if float(inside.min()) < 0.0:
        raise ValueError("it is wider than the duct that it ends on; give it a lesser diameter or another axis")
    s = (-b + np.sqrt(inside)) / a
    if float(s.max()) > long - p.thickness:
        raise ValueError("its end lies within the duct that it ends on; pick it farther out")
    first, last = base + np.outer(s, axis), base + long * axis
    shares = [(p.seam / 360.0 + n / p.pieces) % 1.0 for n in range(p.pieces)]
    keys = add_strips(parts, "branch", seams(Strip(first, last), p.pieces, shares), p.thickness)
    host = given.host(0)
    for key in keys if host else ():
        parts.attach(f"{key} on its main", "welded on", key, host, sides="one side")
    if p.flange in (FLANGES[2], FLANGES[3]):
        add_flange(parts, "end 2", last[:-1], axis, p, keys)
    return parts.made


KIND = Compound(
    "saddle branch",
    "Saddle branch",
    Params,
    ("pick where its axis meets the main's", "pick another point of the main's axis", "pick the middle of its end"),
    build,
    "A round duct that ends on the side of another, cut to its saddle.",
    metric={"thickness": 5.0, "diameter": 300.0, "onto": 450.0, "flange_width": 50.0, "flange_thickness": 10.0,
        "flange_hole": 14.0, "flange_pitch": 150.0},
)  # fmt: skip
