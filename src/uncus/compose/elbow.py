"""A segmented elbow: a round duct led round a corner in straight lengths, mitred to one another."""

from __future__ import annotations

import math
from typing import Annotated

import numpy as np

from uncus.compose.development import Strip, seams
from uncus.compose.ducts import FLANGES, DuctParams, add_flange, add_strips, meeting
from uncus.compose.kind import Compound, Given, Parts, Piece
from uncus.frame.placement import Vec, unit
from uncus.job.forms import About
from uncus.units import format_length


class Params(DuctParams, frozen=True, forbid_unknown_fields=True, kw_only=True):
    diameter: Annotated[float, About("Diameter", low=50, high=10_000)] = 457.2
    radius: Annotated[float, About("Radius of its axis", low=30, high=50_000)] = 685.8
    segments: Annotated[int, About("Segments", unit="count", low=2, high=24,
        help="Both end segments are half as long as those between.")] = 5  # fmt: skip


_SHORT = 5.0  # mm of a segment's inside, under which nobody welds it


def bend_of(given: Given) -> tuple[Vec, Vec, Vec, Vec, float]:
    """The centre of the bend, the directions out, on (both at its beginning) and across, and the angle it turns by."""
    p: Params = given.params
    corner, one, other = given.points[:3]
    into, away = unit(corner - one), unit(other - corner)
    turn = math.atan2(float(np.linalg.norm(np.cross(into, away))), float(into @ away))
    if not math.radians(2.0) < turn < math.radians(178.0):
        raise ValueError("its legs run in one line; pick them to either side of the corner")
    across = unit(np.cross(into, away))
    out = np.cross(into, across)  # away from the centre
    tangent = p.radius * math.tan(turn / 2)
    centre = corner - tangent * into - p.radius * out
    return centre, out, into, across, turn


def build(given: Given) -> dict[str, Piece]:
    p: Params = given.params
    parts = Parts(given)
    centre, out, on, across, turn = bend_of(given)
    r = p.middle(p.diameter) / 2
    if p.radius <= r:
        raise ValueError("its axis bends tighter than half its width; give it a larger radius")
    step = turn / (p.segments - 1)
    if (p.radius - r) * math.tan(step / 2) < p.thickness + _SHORT:  # of the end segments, half as long
        raise ValueError("its segments have no length inside the bend; give it a larger radius, or fewer of them")
    bounds = [0.0, *((k + 0.5) * step for k in range(p.segments - 1)), turn]
    phi = 2 * math.pi * np.arange(p.round_steps + 1) / p.round_steps
    phi[-1] = 0.0  # the last ruling is the first one

    def ring(along: float, mitre: float) -> Vec:
        """Where the cylinder about the axis at one angle meets the plane at another."""
        o = math.cos(along) * out + math.sin(along) * on
        t = math.cos(along) * on - math.sin(along) * out
        reach = p.radius + r * np.cos(phi)
        return np.asarray(centre + np.outer(reach, o) + np.outer(reach * math.tan(mitre - along), t) +
            np.outer(r * np.sin(phi), across))  # fmt: skip

    keys: list[list[str]] = []
    rings = []
    shift = 0.5 / p.pieces  # of every other segment's seams, so that no four plates meet in a point
    for k in range(p.segments):
        axis = math.cos(k * step) * on - math.sin(k * step) * out
        ends = [ring(k * step, bound) for bound in bounds[k : k + 2]]
        rings += ends
        mitres = zip(bounds[k : k + 2], (k > 0, k < p.segments - 1), strict=True)
        gaps = [p.thickness / 2 * abs(math.tan(bound - k * step)) if inner else 0.0 for bound, inner in mitres]
        back = [np.outer(gap * np.abs(np.cos(phi)), axis) for gap in gaps]  # so far that square edges do not cross
        strip = Strip(ends[0] + back[0], ends[1] - back[1])
        shares = [(p.seam / 360.0 + shift * (k % 2) + n / p.pieces) % 1.0 for n in range(p.pieces)]
        keys.append(add_strips(parts, f"segment {k + 1}", seams(strip, p.pieces, shares), p.thickness))
    for k, (before, after) in enumerate(zip(keys, keys[1:], strict=False)):
        for a, b in meeting(p.pieces, -shift if k % 2 else shift):
            parts.attach(f"mitre {k + 1} {a + 1} {b + 1}", "welded on", after[b], before[a], sides="one side")
    for n, (points, way) in enumerate(((rings[0], -on), (rings[-1], math.cos(turn) * on - math.sin(turn) * out)), 1):
        if p.flange in (FLANGES[n], FLANGES[3]):
            add_flange(parts, f"end {n}", points[:-1], way, p, keys[0] if n == 1 else keys[-1])
    return parts.made


def reading(given: Given) -> str:
    p: Params = given.params
    *_, turn = bend_of(given)
    throat = format_length(p.radius - p.diameter / 2, given.units)
    return f"{math.degrees(turn):.1f} degrees in {p.segments} segments, throat {throat}"


KIND = Compound(
    "elbow",
    "Segmented elbow",
    Params,
    ("pick the corner where the axes cross", "pick a point of the axis coming in", "pick a point of that going out"),
    build,
    "A round duct led round a corner in straight lengths, mitred and welded to one another.",
    reading=reading,
    metric={"thickness": 5.0, "diameter": 450.0, "radius": 675.0, "flange_width": 50.0, "flange_thickness": 10.0,
        "flange_hole": 14.0, "flange_pitch": 150.0},
)  # fmt: skip
