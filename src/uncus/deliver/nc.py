"""DSTV NC, one file a part (standard of the German steelwork association, 7th edition, July 1998).

Faces as the standard unfolds the profile: o above v, u below it, h above o; x from the steel's left end, y from the
lower edge of each face in that picture. So y runs up on v, away from the viewer on o, towards the viewer on u, down
on h. A contour runs counter-clockwise on its face, an inner one clockwise; a point's radius belongs to the arc to
the next point, positive where the arc turns left. A slot's point is the centre of its first half circle, followed by
the way to the second. A bend is a point of its line, the angle by which what lies left of it turns up, the inside
radius and the line's other point.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from shapely.geometry import Polygon

from uncus.catalog.sections import Form
from uncus.deliver.nc_contours import Contour, Picture, contours, picture_of
from uncus.job.errors import JobError
from uncus.steel.features import Face, Hole
from uncus.steel.flat import as_plate, face_reach, hole_outline, net_weight
from uncus.steel.part import Part
from uncus.steel.profile import outline
from uncus.steel.wrapping import is_wrapped

CODES = {Form.I: "I", Form.CHANNEL: "U", Form.ANGLE: "L", Form.TEE: "T", Form.BOX: "M", Form.TUBE: "RO", Form.FLAT: "B"}
LETTERS = {Face.WEB: "v", Face.TOP: "o", Face.BOTTOM: "u", Face.BACK: "h"}
_BURST = 0.05  # mm by which a hole may stand over an edge: what rounding leaves


class Heading(msgspec.Struct, frozen=True):
    """What the ST block says beside the part itself."""

    order: str
    drawing: str
    mark: str
    quantity: int
    phase: str = "1"
    texts: tuple[str, ...] = ()


class Scribe(NamedTuple):
    """A line to be scribed or punched on a face of a part (x, w), and the mark of the piece that sits there."""

    face: Face
    points: tuple[tuple[float, float], ...]
    mark: str = ""


class Marking(NamedTuple):
    """What is marked on a part: its own mark, and the lines of what sits on it by powder (PU) or punch (KO)."""

    stamp: bool = True
    block: str = "PU"
    scribes: Sequence[Scribe] = ()


def _ascii(text: str) -> str:
    """One line of plain ASCII, as the format has it."""
    return "".join(c if 32 <= ord(c) < 127 else "?" for c in text).strip()


def _number(value: float) -> str:
    return f"{value + 0.0:.2f}" if abs(value) >= 0.005 else "0.00"


def _cut_angle(slope: float) -> float:
    return math.degrees(math.atan(slope))


def _header(part: Part, head: Heading, picture: Picture) -> Iterator[str]:
    s = part.section
    name = s.name if s else f"PL{part.thickness:g}*{part.width:g}"
    sizes = (s.d, s.b, s.tf, s.tw, s.r) if s else (part.width, 0.0, part.thickness, part.thickness, 0.0)
    mass = s.kg_m if s else net_weight(part) / part.length * 1000
    yield from (head.order, head.drawing, head.phase, head.mark, part.grade, str(head.quantity), name)
    yield CODES[s.form] if s else "B"
    for value in (picture.length, *sizes):
        yield _number(value)
    yield f"{mass:.3f}"
    yield f"{_paint(part):.3f}"
    left, right = picture.saws
    for slope in (left.kz, right.kz, left.ky, right.ky):
        yield f"{_cut_angle(slope):.3f}"
    texts = [*head.texts, "", "", "", ""][:4]
    yield from (text or "-" for text in texts)


def _paint(part: Part) -> float:
    """Painted surface, m2 a metre: the profile's perimeter, or both sides of a plate."""
    if part.section is None:
        return 2 * part.width / 1000
    shape = outline(part.section)
    return float(shape.exterior.length if part.section.form in (Form.BOX, Form.TUBE) else shape.length) / 1000


def _hole_line(picture: Picture, hole: Hole) -> str:
    letter, (x, y) = LETTERS[hole.face], picture.point(hole.face, hole.x, hole.w)
    reach = max(0.0, hole.slot - hole.d)
    if not reach:
        return f"  {letter} {_number(x)}u {_number(y)} {_number(hole.d)} 0.00"
    turn = math.radians(-hole.angle if picture.flips(hole.face) else hole.angle)
    x0, y0 = x - reach / 2 * math.cos(turn), y - reach / 2 * math.sin(turn)
    angle = math.degrees(turn) + 0.0
    return f"  {letter} {_number(x0)}u {_number(y0)} {_number(hole.d)} 0.00l {_number(reach)} 0.00 {_number(angle)}"


def burst(part: Part) -> list[Hole]:
    """Holes that run out over an edge of their face."""
    found, faces = [], {hole.face for hole in part.holes}
    whole: dict[Face, Polygon] = {face: face_reach(part, face).buffer(_BURST) for face in faces}
    for hole in part.holes:
        if not whole[hole.face].covers(hole_outline(hole)):
            found.append(hole)
    return found


def nc_text(part: Part, head: Heading, marking: Marking = Marking()) -> str:
    """The NC file of a part. Raises JobError for one with a hole whose edge has burst: no drill would make it; and
    for a tube with a saddle, which none of the faces that the format knows would show."""
    if is_wrapped(part):
        raise JobError(
            "its end is a saddle, which the format has no face for; its pattern, to wrap round it, is among the flat "
            "files")  # fmt: skip
    part = as_plate(part)
    for hole in burst(part):
        raise JobError(
            f"the hole of {hole.d:g} mm at x {hole.x:.0f} mm on its {hole.face} runs out over an edge; move it, or cut "
            f"it as an outline"
        )
    picture = picture_of(part)
    lines = ["ST", *(f"  {_ascii(line)}" for line in _header(part, head, picture))]
    if part.holes:
        lines.append("BO")
        lines += [_hole_line(picture, hole) for hole in part.holes]
    for contour in contours(part, picture):
        lines += _contour_block("IK" if contour.inner else "AK", contour)
    lines += _bends(part, picture)
    for scribe in marking.scribes:
        points = tuple((*picture.point(scribe.face, x, w), 0.0) for x, w in scribe.points)
        lines += _contour_block(marking.block, Contour(scribe.face, points, False))
    stamps = [(Face.WEB, _mark_spot(part), head.mark)] if marking.stamp else []
    stamps += [(s.face, _middle(s), s.mark) for s in marking.scribes if s.mark]
    if stamps:
        lines.append("SI")
        for face, spot, mark in stamps:
            x, y = picture.point(face, *spot)
            lines.append(f"  {LETTERS[face]} {_number(x)}u {_number(y)} 0.00 10r{_ascii(mark)}")
    lines.append("EN")
    return "\n".join(lines) + "\n"


def _contour_block(block: str, contour: Contour) -> Iterator[str]:
    yield block
    for x, y, radius in contour.points:
        yield f"  {LETTERS[contour.face]} {_number(x)}u {_number(y)} {_number(radius)} 0.00 0.00 0.00 0.00"


def _bends(part: Part, picture: Picture) -> Iterator[str]:
    for bend in part.bends:
        (x1, y1), (x2, y2) = (picture.point(Face.WEB, *p) for p in ((bend.x1, bend.z1), (bend.x2, bend.z2)))
        numbers = " ".join(map(_number, (bend.angle, max(bend.radius, 0.0), x2, y2)))
        yield from ("KA", f"  v {_number(x1)}u {_number(y1)} {numbers}")


def _middle(scribe: Scribe) -> tuple[float, float]:
    spots = np.array(scribe.points)
    x, w = ((spots.min(axis=0) + spots.max(axis=0)) / 2).tolist()
    return x, w


def _mark_spot(part: Part) -> tuple[float, float]:
    """Where the mark is stamped: on the web, clear of holes, near the left end."""
    centre_z = sum(part.depth_range) / 2
    holes = np.array([(h.x, h.w) for h in part.holes if h.face is Face.WEB]).reshape(-1, 2)
    for x in np.linspace(min(300.0, part.length / 2), part.length * 0.8, 9):
        if not len(holes) or np.abs(holes - [x, centre_z]).max(axis=1).min() > 40:
            return float(x), centre_z
    return part.length / 2, centre_z
