"""The bench: stands in for the CNC line. Reads an NC file alone, checks it hard, and rebuilds the part.

It shares no code with the writer: faces, contours and profiles are worked out here again from the standard.
"""

from __future__ import annotations

import math
import re

import manifold3d
import msgspec
import numpy as np
import shapely
from manifold3d import CrossSection, Manifold
from numpy.typing import NDArray

from uncus.words import Sentence

DENSITY = 7.85e-6
_FACES = "vouh"
_CODES = ("I", "U", "L", "T", "M", "RO", "B")
_MAX_LINES = 100_000


class BenchError(Sentence):
    """The file cannot be worked: one sentence with the line."""


class Bore(msgspec.Struct, frozen=True):
    """A hole as the file gives it: face letter, centre (x, y of the face), diameter, extra length, angle."""

    face: str
    x: float
    y: float
    d: float
    reach: float = 0.0
    angle: float = 0.0


class Vertex(msgspec.Struct, frozen=True):
    x: float
    y: float
    radius: float


class Outline(msgspec.Struct, frozen=True):
    """A contour: its face, its points, and whether it is one cut out of the face (IK)."""

    face: str
    points: list[Vertex]
    inner: bool = False


class Fold(msgspec.Struct, frozen=True):
    """A bend: two points of its line on a face, the angle by which what is left of it turns up, the inside radius."""

    face: str
    x1: float
    y1: float
    angle: float
    radius: float
    x2: float
    y2: float


class Program(msgspec.Struct):
    """An NC file, read."""

    mark: str
    grade: str
    quantity: int
    profile: str
    code: str
    length: float
    height: float
    width: float
    tf: float
    tw: float
    r: float
    cuts: tuple[float, float, float, float]
    bores: list[Bore]
    contours: list[Outline]
    folds: list[Fold] = []
    scribes: list[Outline] = []
    stamps: list[str] = []


_POINT = re.compile(r"^\s+([vouh])?\s*(-?[\d.]+)([osu])\s*(-?[\d.]+)\s*(.*)$")


def _floats(text: str, line: int) -> list[float]:
    try:
        values = [float(t) for t in text.split()]
    except ValueError:
        raise BenchError(f"line {line}: “{text.strip()}” is not numbers") from None
    if not values:
        raise BenchError(f"line {line}: a number is missing")
    if not all(math.isfinite(v) and abs(v) < 1e6 for v in values):
        raise BenchError(f"line {line}: a value is out of reach")
    return values


def read(text: str) -> Program:
    """Raises BenchError where the file is not a program this bench can work."""
    lines = [line.rstrip() for line in re.split(r"\r\n|\n|\r", text.rstrip("\r\n")) if not line.startswith("**")]
    if len(lines) > _MAX_LINES:
        raise BenchError("the file has too many lines")
    if not lines or lines[0] != "ST":
        raise BenchError("line 1: a program starts with ST")
    if lines[-1] != "EN":
        raise BenchError("the last line must be EN")
    if len(lines) < 25:
        raise BenchError("the heading is cut short")
    head = [line.strip() for line in lines[1:25]]
    if head[7] not in _CODES:
        raise BenchError(f"line 9: profile code “{head[7]}” is not worked here")
    numbers = [_floats(head[i].replace(",", " "), i + 2)[0] for i in range(8, 20)]
    if min(numbers[:2]) <= 0 or not re.fullmatch("[0-9]{1,6}", head[5]):
        raise BenchError("the heading's length, height and quantity must be more than nothing")
    cuts = numbers[8], numbers[9], numbers[10], numbers[11]
    length, height, width, tf, tw, r = numbers[:6]
    program = Program(
        head[3], head[4], int(head[5]), head[6], head[7], length, height, width, tf, tw, r, cuts, bores=[], contours=[]
    )
    block = ""
    for number, line in enumerate(lines[25:-1], 26):
        if line[:1].strip():
            block = line.strip()
            if block not in ("BO", "AK", "IK", "SI", "PU", "KO", "KA"):
                raise BenchError(f"line {number}: there is no block “{block}”")
            if block in ("AK", "IK"):
                program.contours.append(Outline("", [], block == "IK"))
            elif block in ("PU", "KO"):
                program.scribes.append(Outline("", []))
            continue
        _data_line(program, block, line, number)
    _check(program)
    return program


def _data_line(program: Program, block: str, line: str, number: int) -> None:
    match = _POINT.match(line)
    if not match:
        raise BenchError(f"line {number}: “{line.strip()}” is not a {block} line")
    face, x, _, y, rest = match.groups()
    if block == "SI":
        program.stamps.append(rest.split("r", 1)[-1] if "r" in rest else rest)
        return
    px, py = _floats(f"{x} {y}", number)
    if block == "BO":
        hole, _, slot = rest.partition("l")
        sizes = _floats(hole, number)
        more = _floats(slot, number) if slot else [0.0, 0.0, 0.0]
        if not sizes or sizes[0] <= 0:
            raise BenchError(f"line {number}: a hole needs a diameter")
        program.bores.append(_bore(face or "v", px, py, sizes[0], more))
    elif block == "KA":
        more = _floats(rest, number)
        if len(more) != 4:
            raise BenchError(f"line {number}: a bend needs an angle, a radius and the other end of its line")
        program.folds.append(Fold(face or "v", px, py, *more))
    elif block in ("AK", "IK", "PU", "KO"):
        drawn = program.contours if block in ("AK", "IK") else program.scribes
        known = drawn[-1]
        drawn[-1] = Outline(face or known.face, known.points, known.inner)
        known.points.append(Vertex(px, py, (_floats(rest, number) or [0.0])[0]))


def _bore(face: str, x: float, y: float, d: float, slot: list[float]) -> Bore:
    turn = math.radians(slot[2])
    reach = max(slot[0], slot[1])
    return Bore(face, x + reach / 2 * math.cos(turn), y + reach / 2 * math.sin(turn), d, reach, slot[2])


def _check(program: Program) -> None:
    """A drill that misses the steel or breaks out over an edge, or a contour that does not close, would stop the
    line."""
    for contour in program.contours:
        points = contour.points
        if len(points) < 4 or abs(points[0].x - points[-1].x) + abs(points[0].y - points[-1].y) > 0.02:
            raise BenchError(f"the contour on face {contour.face} does not close")
        if (_turning(points) > 0) == contour.inner:
            raise BenchError(f"the contour on face {contour.face} runs the wrong way round")
    outer = {c.face: shapely.Polygon(outline(c.points)) for c in program.contours if not c.inner}
    for bore in program.bores:
        wide = program.height if bore.face in "vh" else program.width
        whole = outer.get(bore.face, shapely.box(0, 0, program.length, wide)).buffer(0.1)
        turn = math.radians(bore.angle)
        reach = bore.reach / 2 * math.cos(turn), bore.reach / 2 * math.sin(turn)
        line = shapely.LineString([(bore.x - reach[0], bore.y - reach[1]), (bore.x + reach[0], bore.y + reach[1])])
        if not whole.contains(line):
            raise BenchError(f"a hole at {bore.x:.2f}, {bore.y:.2f} on face {bore.face} misses the steel")
        if not whole.covers(line.buffer(bore.d / 2)):
            raise BenchError(f"a hole at {bore.x:.2f}, {bore.y:.2f} on face {bore.face} breaks out over an edge")


def _turning(points: list[Vertex]) -> float:
    """Twice the area of a contour, more than nothing where it runs counter-clockwise."""
    ring = outline(points)
    after = np.roll(ring, -1, axis=0)
    return float((ring[:, 0] * after[:, 1] - ring[:, 1] * after[:, 0]).sum())


# -- rebuilding ---------------------------------------------------------------------------------------
def _arc(a: Vertex, b: Vertex) -> list[tuple[float, float]]:
    """Points from a towards b (b not included) along the arc a's radius asks for."""
    if abs(a.radius) < 1e-6:
        return [(a.x, a.y)]
    dx, dy = b.x - a.x, b.y - a.y
    chord = math.hypot(dx, dy)
    if chord < 1e-6:
        return [(a.x, a.y)]
    half = min(1.0, chord / 2 / abs(a.radius))
    sweep = 2 * math.asin(half) * (1 if a.radius > 0 else -1)
    rise = math.sqrt(max(0.0, a.radius**2 - chord**2 / 4)) * (1 if a.radius > 0 else -1)
    cx, cy = (a.x + b.x) / 2 - dy / chord * rise, (a.y + b.y) / 2 + dx / chord * rise
    turns = math.atan2(a.y - cy, a.x - cx) + np.linspace(0.0, sweep, _to_arc(sweep), endpoint=False)
    return [(cx + abs(a.radius) * math.cos(t), cy + abs(a.radius) * math.sin(t)) for t in turns.tolist()]


def _to_arc(sweep: float) -> int:
    """Straight pieces of an arc: a degree and a half each, sixteen at least."""
    return max(16, math.ceil(abs(sweep) / math.radians(1.5)))


def outline(points: list[Vertex]) -> NDArray[np.float64]:
    """A contour with its arcs in 16 pieces each, (n, 2)."""
    return np.array([p for a, b in zip(points, points[1:], strict=False) for p in _arc(a, b)])


def _quarter(cx: float, cy: float, r: float, start: float) -> list[tuple[float, float]]:
    return [
        (cx + r * math.cos(math.radians(start + 90 * i / 16)), cy + r * math.sin(math.radians(start + 90 * i / 16)))
        for i in range(17)
    ]


def _fillet(x: float, y: float, sx: int, sy: int, r: float) -> CrossSection:
    square = np.array([(x, y), (x + sx * r, y), (x + sx * r, y + sy * r), (x, y + sy * r)])
    if sx * sy < 0:
        square = square[::-1]
    disc = CrossSection(
        [
            np.array(
                [
                    (x + sx * r + r * math.cos(a), y + sy * r + r * math.sin(a))
                    for a in np.linspace(0, 2 * math.pi, 64, endpoint=False)
                ]
            )
        ]
    )
    return CrossSection([square]) - disc


def _box(x0: float, y0: float, x1: float, y1: float) -> CrossSection:
    return CrossSection([np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)])])


def _section(p: Program) -> CrossSection:
    """The profile in (across, up): across 0 at the near edge, up 0 at the foot."""
    h, b, tf, tw, r = p.height, p.width, p.tf, p.tw, p.r
    if p.code == "I":
        near, far = (b - tw) / 2, (b + tw) / 2
        shape = _box(0, 0, b, tf) + _box(0, h - tf, b, h) + _box(near, 0, far, h)
        for x, sx in ((near, -1), (far, 1)):
            shape += _fillet(x, tf, sx, 1, r) + _fillet(x, h - tf, sx, -1, r)
        return shape
    if p.code == "U":
        shape = _box(0, 0, b, tf) + _box(0, h - tf, b, h) + _box(0, 0, tw, h)
        return shape + _fillet(tw, tf, 1, 1, r) + _fillet(tw, h - tf, 1, -1, r)
    if p.code == "L":
        return _box(0, 0, b, tf) + _box(0, 0, tw, h) + _fillet(tw, tf, 1, 1, r)
    if p.code == "T":
        near, far = (b - tw) / 2, (b + tw) / 2
        shape = _box(0, h - tf, b, h) + _box(near, 0, far, h)
        return shape + _fillet(near, h - tf, -1, -1, r) + _fillet(far, h - tf, 1, -1, r)
    if p.code == "M":
        return _rounded(0, 0, b, h, r) - _rounded(tw, tf, b - tw, h - tf, max(0.0, r - tw))
    if p.code == "RO":
        return _disc(h / 2, h / 2, h / 2) - _disc(h / 2, h / 2, h / 2 - tw)
    return _box(0, 0, tw, h)


def _disc(cx: float, cy: float, r: float) -> CrossSection:
    return CrossSection(
        [
            np.array(
                [(cx + r * math.cos(a), cy + r * math.sin(a)) for a in np.linspace(0, 2 * math.pi, 128, endpoint=False)]
            )
        ]
    )


def _rounded(x0: float, y0: float, x1: float, y1: float, r: float) -> CrossSection:
    if r <= 0:
        return _box(x0, y0, x1, y1)
    ring = [
        *_quarter(x1 - r, y1 - r, r, 0),
        *_quarter(x0 + r, y1 - r, r, 90),
        *_quarter(x0 + r, y0 + r, r, 180),
        *_quarter(x1 - r, y0 + r, r, 270),
    ]
    return CrossSection([np.array(ring)])


def _through(p: Program, face: str, flat: CrossSection) -> tuple[Manifold, Manifold]:
    """A prism through a face's shape, and the slab of the part that the face's work reaches."""
    across = max(p.width, p.tw)
    far = 10.0
    if face in "vh":
        depth = (
            (-far, across + far)
            if p.code in ("I", "T", "B") or p.code == "U"
            else ((-far, across / 2) if face == "v" else (across / 2, across + far))
            if p.code == "RO"  # the wall leans away from the drill where it does not meet the middle
            else (-far, p.tw)
            if face == "v"
            else (across - p.tw, across + far)
        )
        # face x, y -> part x, up; the prism runs across. h counts y from the top
        up = [0.0, 1.0, 0.0, 0.0] if face == "v" else [0.0, -1.0, 0.0, p.height]
        sign = 1.0 if face == "h" else -1.0
        start = depth[0] if sign > 0 else depth[1]
        matrix = np.array([[1.0, 0.0, 0.0, 0.0], [0.0, 0.0, sign, start], up])
    else:
        deep = p.height / 2 if p.code == "RO" else p.tf
        depth = (p.height - deep, p.height + far) if face == "o" else (-far, deep)
        # o counts y from the near edge, u from the far edge
        across_row = [0.0, 1.0, 0.0, 0.0] if face == "o" else [0.0, -1.0, 0.0, p.width]
        sign = 1.0 if face == "o" else -1.0
        start = depth[0] if sign > 0 else depth[1]
        matrix = np.array([[1.0, 0.0, 0.0, 0.0], across_row, [0.0, 0.0, sign, start]])
    height = depth[1] - depth[0]
    # an upright face of a flanged profile is worked between its flanges, which have faces of their own
    low, high = (
        {
            "I": (p.tf, p.height - p.tf),
            "U": (p.tf, p.height - p.tf),
            "T": (-far, p.height - p.tf),
            "L": (p.tf, p.height + far),
        }.get(p.code, (-far, p.height + far))
        if face in "vh"
        else (-1e5, 1e5)
    )
    slab = CrossSection([np.array([(-1e5, low), (1e5, low), (1e5, high), (-1e5, high)])]).extrude(height)
    return flat.extrude(height).transform(matrix), slab.transform(matrix)


def rebuild(p: Program) -> Manifold:
    """The part, straight or flat, as the line would make it from the program alone: x along, y across, z up."""
    solid = _section(p).extrude(p.length).transform(np.array([[0.0, 0, 1, 0], [1, 0, 0, 0], [0, 1, 0, 0]]))
    if p.code != "B":
        solid = _sawn(solid, p)
    for contour in (c for c in p.contours if not c.inner):
        flat = CrossSection([outline(contour.points)])
        prism, slab = _through(p, contour.face, flat)
        solid = (solid - slab) + (solid ^ prism)
        if contour.face in "ou" and p.code in "IUT":
            solid -= _fillets_beside(p, contour.face, flat)
    cuts = [_through(p, c.face, CrossSection([outline(c.points)[::-1]]))[0] for c in p.contours if c.inner]
    for bore in p.bores:
        ring = [
            (
                bore.x + side * bore.reach / 2 * math.cos(math.radians(bore.angle)) + bore.d / 2 * math.cos(a),
                bore.y + side * bore.reach / 2 * math.sin(math.radians(bore.angle)) + bore.d / 2 * math.sin(a),
            )
            for side, from_ in ((1, -90), (-1, 90))
            for a in np.radians(bore.angle + from_ + np.linspace(0, 180, 49))
        ]
        cuts.append(_through(p, bore.face, CrossSection([np.array(ring)]))[0])
    return solid - Manifold.batch_boolean(cuts, manifold3d.OpType.Add) if cuts else solid


def _fillets_beside(p: Program, face: str, flat: CrossSection) -> Manifold:
    """Of a flange cut away beside a web that stays, the fillets go too: flush with the web."""
    middle = p.tw / 2 if p.code == "U" else p.width / 2
    middle = middle if face == "o" else p.width - middle

    def strip(half: float) -> CrossSection:
        return _box(-10, middle - half, p.length + 10, middle + half)

    gone = _box(-10, -10, p.length + 10, p.width + 10) - flat
    for ring in (gone ^ strip(p.tw / 4)).to_polygons():  # where the web's own strip is cut, the web's face says
        gone -= _box(float(ring[:, 0].min()), -10, float(ring[:, 0].max()), p.width + 10)
    gone -= strip(p.tw / 2)
    low, high = (p.height - p.tf - p.r, p.height) if face == "o" else (0.0, p.tf + p.r)
    row = [0.0, 1.0, 0.0, 0.0] if face == "o" else [0.0, -1.0, 0.0, p.width]
    sign, start = (1.0, low) if face == "o" else (-1.0, high)
    return gone.extrude(high - low).transform(np.array([[1.0, 0.0, 0.0, 0.0], row, [0.0, 0.0, sign, start]]))


def _sawn(solid: Manifold, p: Program) -> Manifold:
    """Saw cuts of the heading: a plane through each end's farthest point; slopes lean about the section's middle."""
    half, beside = p.height / 2, p.width / 2
    corners = np.vstack(_section(p).to_polygons()) - (beside, half)
    for right, (up, across) in enumerate(((p.cuts[0], p.cuts[2]), (p.cuts[1], p.cuts[3]))):
        ky, kz = math.tan(math.radians(across)), math.tan(math.radians(up))
        if not ky and not kz:
            continue
        runs = corners @ (ky, kz)
        at = p.length - float(runs.max()) if right else -float(runs.min())
        normal = np.array([1.0, -ky, -kz])
        size = float(np.linalg.norm(normal))
        sign = -1.0 if right else 1.0
        solid = solid.trim_by_plane(tuple(sign * normal / size), sign * (at - ky * beside - kz * half) / size)
    return solid


class Product(msgspec.Struct, frozen=True):
    """What the bench made: weight in kg and volume in mm3."""

    mark: str
    quantity: int
    volume: float
    bores: tuple[Bore, ...]

    @property
    def weight(self) -> float:
        return self.volume * DENSITY


def work(text: str) -> Product:
    """Read a program and make its part."""
    program = read(text)
    return Product(program.mark, program.quantity, float(rebuild(program).volume()), tuple(program.bores))
