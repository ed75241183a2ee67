"""DSTV NC, one file a part (standard of the German steelwork association, 7th edition, July 1998).

Faces as the standard unfolds the profile: o above v, u below it, h above o; x from the left end, y from the lower
edge of each face in that picture. So y runs up on v, away from the viewer on o, towards the viewer on u, down on h.
A contour runs counter-clockwise on its face; a point's radius belongs to the arc to the next point, positive
where the arc turns left. A slot's point is the centre of its first half circle, followed by the way to the second.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec
import numpy as np
import shapely

from uncus.catalog.sections import Form
from uncus.steel.features import Face, Hole
from uncus.steel.flat import face_outline, net_weight, part_faces
from uncus.steel.part import Part
from uncus.steel.profile import outline

CODES = {Form.I: "I", Form.CHANNEL: "U", Form.ANGLE: "L", Form.TEE: "T", Form.BOX: "M", Form.TUBE: "RO"}
LETTERS = {Face.WEB: "v", Face.TOP: "o", Face.BOTTOM: "u", Face.BACK: "h"}


class Heading(msgspec.Struct, frozen=True):
    """What the ST block says beside the part itself."""

    order: str
    drawing: str
    mark: str
    quantity: int
    phase: str = "1"
    texts: tuple[str, ...] = ()


def _ascii(text: str) -> str:
    """One line of plain ASCII, as the format has it."""
    return "".join(c if 32 <= ord(c) < 127 else "?" for c in text).strip()


def _y(part: Part, face: Face, w: float) -> float:
    """A face coordinate as the file's y."""
    low, high = part.depth_range
    y_low, y_high = part.y_range
    return {Face.WEB: w - low, Face.BACK: high - w, Face.TOP: w - y_low, Face.BOTTOM: y_high - w}[face]


def _flips(face: Face) -> bool:
    return face in (Face.BACK, Face.BOTTOM)


def _number(value: float) -> str:
    return f"{value + 0.0:.2f}" if abs(value) >= 0.005 else "0.00"


def _cut_angle(slope: float) -> float:
    return math.degrees(math.atan(slope))


def _header(part: Part, head: Heading) -> Iterator[str]:
    s = part.section
    name = s.name if s else f"PL{part.thickness:g}*{part.width:g}"
    sizes = (s.d, s.b, s.tf, s.tw, s.r) if s else (part.width, 0.0, part.thickness, part.thickness, 0.0)
    mass = s.kg_m if s else net_weight(part) / part.length * 1000
    paint = _paint(part)
    yield from (head.order, head.drawing, head.phase, head.mark, part.grade, str(head.quantity), name)
    yield CODES[s.form] if s else "B"
    for value in (part.length, *sizes):
        yield _number(value)
    yield f"{mass:.3f}"
    yield f"{paint:.3f}"
    for slope in (part.left.kz, part.right.kz, part.left.ky, part.right.ky):
        yield f"{_cut_angle(slope):.3f}"
    texts = [*head.texts, "", "", "", ""][:4]
    yield from (text or "-" for text in texts)


def _paint(part: Part) -> float:
    """Painted surface, m2 a metre: the profile's perimeter, or both sides of a plate."""
    if part.section is None:
        return 2 * part.width / 1000
    shape = outline(part.section)
    return float(shape.exterior.length if part.section.form in (Form.BOX, Form.TUBE) else shape.length) / 1000


def _plain_face(part: Part, face: Face) -> bool:
    """The face is a rectangle over the whole length and width: the header says it all."""
    shape = face_outline(part, face)
    low, high = part.depth_range if face in (Face.WEB, Face.BACK) else part.y_range
    return bool(abs(shape.area - part.length * (high - low)) < 0.5)


def _contour(part: Part, face: Face) -> list[tuple[float, float, float]]:
    """Points (x, y, radius to the next), closed, counter-clockwise on the face as the file sees it."""
    shape = shapely.simplify(face_outline(part, face), 1e-4)
    ring = [(x, _y(part, face, w)) for x, w in shape.exterior.coords[:-1]]
    if shape.exterior.is_ccw == _flips(face):
        ring.reverse()
    points = _with_arcs(ring, _arc_centres(part, face))
    return [*points, points[0]]


def _arc_centres(part: Part, face: Face) -> list[tuple[float, float, float]]:
    """Centres and radii of the rounded corners of copes on an upright face, in the file's x and y."""
    if face not in (Face.WEB, Face.BACK):
        return []
    low, high = part.depth_range
    found = []
    for cope in part.copes:
        r = min(cope.radius, cope.length, cope.depth)
        x = part.length - cope.length + r if cope.right else cope.length - r
        z = low + cope.depth - r if cope.bottom else high - cope.depth + r
        if r > 0:
            found.append((x, _y(part, face, z), r))
    return found


def _with_arcs(
    ring: list[tuple[float, float]], arcs: list[tuple[float, float, float]]
) -> list[tuple[float, float, float]]:
    """The ring with runs of points that lie on an arc made one arc, its radius at the run's first point."""
    on = []
    for x, y in ring:
        on.append(next((i for i, (cx, cy, r) in enumerate(arcs) if abs(math.hypot(x - cx, y - cy) - r) < 0.01), -1))
    n = len(ring)
    start = next((i for i in range(n) if on[i] == -1 or on[i] != on[i - 1]), 0)
    points: list[tuple[float, float, float]] = []
    i = 0
    while i < n:
        at = (start + i) % n
        run = 0
        if on[at] >= 0:
            while run + 1 < n - i and on[(at + run + 1) % n] == on[at]:
                run += 1
        if run >= 2:
            (x0, y0), (xm, ym), (x1, y1) = ring[at], ring[(at + 1) % n], ring[(at + run) % n]
            turn = (xm - x0) * (y1 - ym) - (ym - y0) * (x1 - xm)
            points.append((x0, y0, math.copysign(arcs[on[at]][2], turn)))
            points.append((x1, y1, 0.0))
        else:
            points += [(*ring[(at + k) % n], 0.0) for k in range(run + 1)]
        i += run + 1
    return points


def _hole_line(part: Part, hole: Hole) -> str:
    letter, y = LETTERS[hole.face], _y(part, hole.face, hole.w)
    reach = max(0.0, hole.slot - hole.d)
    if not reach:
        return f"  {letter} {_number(hole.x)}u {_number(y)} {_number(hole.d)} 0.00"
    turn = math.radians(-hole.angle if _flips(hole.face) else hole.angle)
    x0, y0 = hole.x - reach / 2 * math.cos(turn), y - reach / 2 * math.sin(turn)
    angle = math.degrees(turn) + 0.0
    return f"  {letter} {_number(x0)}u {_number(y0)} {_number(hole.d)} 0.00l {_number(reach)} 0.00 {_number(angle)}"


def nc_text(part: Part, head: Heading) -> str:
    """The NC file of a part."""
    lines = ["ST", *(f"  {_ascii(line)}" for line in _header(part, head))]
    if part.holes:
        lines.append("BO")
        lines += [_hole_line(part, hole) for hole in part.holes]
    for face in part_faces(part):
        if part.form is Form.TUBE:
            break
        if part.section is not None and _plain_face(part, face):
            continue
        lines.append("AK")
        for x, y, radius in _contour(part, face):
            lines.append(f"  {LETTERS[face]} {_number(x)}u {_number(y)} {_number(radius)} 0.00 0.00 0.00 0.00")
    low, _ = part.depth_range
    spot = _mark_spot(part)
    lines += ["SI", f"  v {_number(spot[0])}u {_number(spot[1] - low)} 0.00 10r{_ascii(head.mark)}", "EN"]
    return "\n".join(lines) + "\n"


def _mark_spot(part: Part) -> tuple[float, float]:
    """Where the mark is stamped: on the web, clear of holes, near the left end."""
    centre_z = sum(part.depth_range) / 2
    holes = np.array([(h.x, h.w) for h in part.holes if h.face is Face.WEB]).reshape(-1, 2)
    for x in np.linspace(min(300.0, part.length / 2), part.length * 0.8, 9):
        if not len(holes) or np.abs(holes - [x, centre_z]).max(axis=1).min() > 40:
            return float(x), centre_z
    return part.length / 2, centre_z
