"""A plate's outline read from a DXF drawing: the largest closed line, what is closed within it, and its circles."""

from __future__ import annotations

import math
from collections import defaultdict
from pathlib import Path
from typing import Any, NamedTuple

from uncus.frame.outlines import OutlineError, polygon
from uncus.job.blanks import MOST_CORNERS, Blank, Corner, HoleRow, Ring
from uncus.job.errors import JobError

_MEET = 0.5  # mm within which the ends of lines meet
_MOST_HOLE = 100.0  # mm of diameter up to which a circle within is a hole and not an opening
_UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # $INSUNITS of DXF: inches, feet, mm, cm, m
_LARGEST = 20_000_000  # bytes of a file
_MOST = 20_000  # entities


class Stroke(NamedTuple):
    """A line or an arc from a to b."""

    a: tuple[float, float]
    b: tuple[float, float]
    bulge: float

    def turned(self) -> Stroke:
        return Stroke(self.b, self.a, -self.bulge)


def read_outline(path: Path, inches: bool = False) -> Blank:
    """The outline in a DXF file, mm; `inches`: what its units are where it does not say. Raises JobError with a
    sentence for a file that is none, or in which nothing is closed."""
    if not path.is_file() or path.stat().st_size > _LARGEST:
        raise JobError(f"{path.name} is no drawing that can be read; choose a DXF file of up to 20 MB.")
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    try:
        document, _ = recover.readfile(path)
        entities = list(document.modelspace())
        scale = _UNITS.get(int(document.header.get("$INSUNITS", 0)), 25.4 if inches else 1.0)
    except (DXFError, OSError, ValueError, TypeError, AttributeError, KeyError, IndexError) as error:
        raise JobError(f"{path.name} cannot be read as DXF: {str(error)[:120] or type(error).__name__}.") from error
    if len(entities) > _MOST:
        raise JobError(f"{path.name} holds more than {_MOST:,} things; save the plate's outline alone.")
    rings, strokes, circles = _of(entities, scale)
    rings += chained(strokes)
    return _blank(rings, circles, path.name)


def _of(entities: list[Any], scale: float) -> tuple[list[Ring], list[Stroke], list[tuple[float, float, float]]]:
    """Closed rings, strokes that may be chained to some, and circles (x, z, radius)."""
    rings: list[Ring] = []
    strokes: list[Stroke] = []
    circles: list[tuple[float, float, float]] = []
    for e in entities:
        kind = e.dxftype()
        try:
            if kind == "LWPOLYLINE":
                points = [(x * scale, y * scale, b) for x, y, b in e.get_points("xyb")]
                _take(points, bool(e.closed), rings, strokes)
            elif kind == "POLYLINE" and e.is_2d_polyline:
                points = [(v.dxf.location.x * scale, v.dxf.location.y * scale, float(v.dxf.bulge)) for v in e.vertices]
                _take(points, bool(e.is_closed), rings, strokes)
            elif kind == "LINE":
                a, b = ((p.x * scale, p.y * scale) for p in (e.dxf.start, e.dxf.end))
                strokes.append(Stroke(a, b, 0.0))
            elif kind == "ARC":
                strokes.append(_arc(e, scale))
            elif kind == "CIRCLE":
                circles.append((e.dxf.center.x * scale, e.dxf.center.y * scale, abs(e.dxf.radius) * scale))
        except (AttributeError, TypeError, ValueError, IndexError):
            continue  # one entity that is broken is not the plate
    return rings, [s for s in strokes if all(math.isfinite(v) for v in (*s.a, *s.b, s.bulge))], circles


def _arc(e: Any, scale: float) -> Stroke:
    x, y, r = e.dxf.center.x * scale, e.dxf.center.y * scale, e.dxf.radius * scale
    first, last = math.radians(e.dxf.start_angle), math.radians(e.dxf.end_angle)
    swept = (last - first) % (2 * math.pi)
    a, b = ((x + r * math.cos(t), y + r * math.sin(t)) for t in (first, last))
    return Stroke(a, b, math.tan(swept / 4))


def _take(points: list[tuple[float, float, float]], closed: bool, rings: list[Ring], strokes: list[Stroke]) -> None:
    if len(points) > MOST_CORNERS or not all(math.isfinite(v) for p in points for v in p):
        return
    if len(points) > 1 and math.dist(points[0][:2], points[-1][:2]) < _MEET:
        closed, points = True, points[:-1]
    if closed and len(points) >= 2:
        rings.append(tuple(Corner(x, y, b) for x, y, b in points))
    else:
        strokes += [Stroke(a[:2], b[:2], a[2]) for a, b in zip(points, points[1:], strict=False)]


def chained(strokes: list[Stroke]) -> list[Ring]:
    """Rings of strokes that meet end to end."""
    at: dict[tuple[int, int], list[int]] = defaultdict(list)

    def cell(p: tuple[float, float]) -> tuple[int, int]:
        return round(p[0] / _MEET), round(p[1] / _MEET)

    for n, s in enumerate(strokes):
        for p in (s.a, s.b):
            at[cell(p)].append(n)

    def near(p: tuple[float, float]) -> list[int]:
        x, y = cell(p)
        return [n for dx in (-1, 0, 1) for dy in (-1, 0, 1) for n in at.get((x + dx, y + dy), ())]

    used: set[int] = set()
    found: list[Ring] = []
    for first in range(len(strokes)):
        if first in used or math.dist(strokes[first].a, strokes[first].b) < 1e-6:
            continue
        chain = [strokes[first]]
        used.add(first)
        while math.dist(chain[-1].b, chain[0].a) > _MEET:
            end = chain[-1].b
            following = next((n for n in near(end) if n not in used and
                min(math.dist(strokes[n].a, end), math.dist(strokes[n].b, end)) < _MEET), None)  # fmt: skip
            if following is None:
                break
            used.add(following)
            s = strokes[following]
            chain.append(s if math.dist(s.a, end) < _MEET else s.turned())
        if len(chain) > 1 and math.dist(chain[-1].b, chain[0].a) <= _MEET and len(chain) <= MOST_CORNERS:
            found.append(tuple(Corner(*s.a, s.bulge) for s in chain))
    return found


def _blank(rings: list[Ring], circles: list[tuple[float, float, float]], name: str) -> Blank:
    shapes = []
    for ring in rings:
        try:
            shapes.append((polygon(ring), ring))
        except (OutlineError, ValueError):
            continue
    round_ = [(x, z, r) for x, z, r in circles if math.isfinite(x + z + r) and r > 0.5]
    largest = max(shapes, key=lambda s: s[0].area, default=None)
    widest = max(round_, key=lambda c: c[2], default=None)
    if widest is not None and (largest is None or math.pi * widest[2] ** 2 > largest[0].area):
        ring = _circle(*widest)
        largest = (polygon(ring), ring)
        round_.remove(widest)
    if largest is None:
        raise JobError(f"Nothing in {name} is a closed line; a plate's outline is one, of lines and arcs that meet.")
    whole, outline = largest
    inside = [ring for shape, ring in shapes if ring is not outline and whole.contains(shape)]
    holes = [c for c in round_ if whole.contains(polygon(_circle(*c)))]
    small = tuple(HoleRow(x, z, 2 * r) for x, z, r in holes if 2 * r <= _MOST_HOLE)
    inside += [_circle(*c) for c in holes if 2 * c[2] > _MOST_HOLE]
    made = Blank(outline, tuple(inside), small)
    if problem := made.problem():
        raise JobError(f"{name}: {problem}")
    return made


def _circle(x: float, z: float, r: float) -> Ring:
    return Corner(x - r, z, 1.0), Corner(x + r, z, 1.0)
