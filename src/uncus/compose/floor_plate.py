"""A floor of plate: panels of checkered or plain plate over a rectangle, with flats welded under them as stiffeners."""

from __future__ import annotations

import math
from typing import Annotated

import msgspec
import numpy as np

from uncus.catalog.sections import Form, section
from uncus.compose.kind import Compound, Given, Parts, Piece
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.job.blanks import Blank, Lugs
from uncus.job.forms import About
from uncus.job.records import Role
from uncus.units import counted, format_length

CHECKERED, PLAIN = SURFACES = ("checkered", "plain")
ALONG, ACROSS = RUNS = ("along the first side", "across it")


class Params(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    surface: Annotated[str, About("Plate is", unit="choice", choices=SURFACES)] = CHECKERED
    thickness: Annotated[float, About("Plate", low=3, high=60)] = 6.35
    panel: Annotated[float, About("Panels at most wide", low=150, high=6000)] = 1524.0
    longest: Annotated[float, About("Panels at most long", low=300, high=12_000)] = 6096.0
    gap: Annotated[float, About("Between panels", low=0, high=50)] = 3.175
    stiffener: Annotated[str, About("Stiffeners", unit="section", help="Flats on edge under it, such as PL1/4X3.")] = (
        "PL1/4X3"
    )
    spacing: Annotated[float, About("Stiffeners at most apart", low=100, high=3000)] = 609.6
    runs: Annotated[str, About("Stiffeners run", unit="choice", choices=RUNS)] = ACROSS
    back: Annotated[float, About("Stiffeners end short by", low=0, high=1000,
        help="At both ends, to lie between what the plate lies on.")] = 101.6  # fmt: skip


def _spread(whole: float, most: float, gap: float) -> tuple[int, float]:
    """How many equal parts so many mm are made of, and how wide each is."""
    n = max(1, math.ceil((whole + gap) / (most + gap) - 1e-6))
    return n, (whole - (n - 1) * gap) / n


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    low, high = np.minimum(*given.points[:2]), np.maximum(*given.points[:2])
    long, wide = (float(v) for v in (high - low)[:2])
    if min(long, wide) < 50.0:
        raise ValueError("its two corners lie on one side; pick opposite ones")
    s = section(p.stiffener)
    if s.form is not Form.FLAT:
        raise ValueError(f"its stiffeners are flats, such as PL1/4X3, which {p.stiffener} is not")
    z = float(given.points[0][2])
    columns, dx = _spread(long, p.panel if p.runs == ACROSS else p.longest, p.gap)
    rows, dy = _spread(wide, p.longest if p.runs == ACROSS else p.panel, p.gap)
    axes = np.column_stack([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])
    lugs = Lugs() if p.surface == CHECKERED else None
    for i in range(columns):
        for j in range(rows):
            x, y, key = float(low[0]) + i * (dx + p.gap), float(low[1]) + j * (dy + p.gap), f"panel {i * rows + j + 1}"
            blank = Blank(rectangle((0.0, 0.0), (dx, dy)), (), (), (), lugs)
            parts.plate(key, Role.TREAD, Placement((x, y, z - p.thickness / 2), axes), blank, p.thickness)
            _stiffen(parts, p, key, (x, y), (dx, dy), z - p.thickness - s.d / 2)
    return parts.made


def _stiffen(parts: Parts, p: Params, key: str, at: tuple[float, float], size: tuple[float, float], z: float) -> None:
    """Flats on edge under a panel, evenly between its edges."""
    (x, y), (dx, dy) = at, size
    over, long = (dx, dy) if p.runs == ACROSS else (dy, dx)
    if long - 2 * p.back < 50.0:
        raise ValueError("its stiffeners have no length; let them end less short of the edges")
    n = max(0, math.ceil(over / p.spacing) - 1)
    for k in range(1, n + 1):
        off = over * k / (n + 1)
        if p.runs == ACROSS:
            a, b = (x + off, y + p.back, z), (x + off, y + dy - p.back, z)
        else:
            a, b = (x + p.back, y + off, z), (x + dx - p.back, y + off, z)
        name = f"{key} stiffener {k}"
        parts.member(name, Role.BEAM, p.stiffener, a, b, np.array([0.0, 0.0, 1.0]))
        parts.cut(name, "square", "square")
        parts.attach(f"{name} weld", "welded on", name, key)


def reading(given: Given) -> str:
    made = build(given)
    panels = len([k for k in made if k.startswith("panel") and " " not in k.removeprefix("panel ")])
    sides = (format_length(abs(float(v)), given.units) for v in (given.points[1] - given.points[0])[:2])
    return f"{counted(panels, 'panel')} over {' x '.join(sides)}"


KIND = Compound(
    "floor plate",
    "Floor plate",
    Params,
    ("pick a corner", "pick the opposite corner"),
    build,
    "Panels of plate over a rectangle, with flats welded under them as stiffeners.",
    reading=reading,
    metric={"thickness": 6.0, "panel": 1500.0, "longest": 6000.0, "gap": 3.0, "stiffener": "FL80X6", "spacing": 600.0,
        "back": 100.0},
)  # fmt: skip
