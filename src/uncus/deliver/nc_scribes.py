"""Where pieces sit on another: their outlines on its faces, for a line that scribes them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence

import numpy as np
import shapely

from uncus.deliver.nc import Scribe
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.features import Face
from uncus.steel.flat import face_outline
from uncus.steel.part import Part
from uncus.steel.profile import faces
from uncus.steel.solid import TOLERANCE, cut_across, plain_solid

_LEAST = 25.0  # mm2 of a footprint
_LINE = 0.05  # mm by which an outline may be simplified


def scribes_of(pieces: Sequence[Piece], within: Mapping[str, Assembly], mark: Callable[[str], str]) -> list[Scribe]:
    """The outlines of what is welded in the shop to pieces of one mark, wherever all of them have it. `within` tells
    each piece's assembly by its id, `mark` a piece's mark."""
    first = pieces[0]
    alike: dict[str, list[Piece]] = defaultdict(list)
    for piece in pieces:
        alike[_shape(within[piece.id], mark)].append(piece)
    found: list[Scribe] | None = None
    for group in alike.values():
        one = next((p for p in group if p.part == first.part), None)
        if one is None:
            return []
        own = list(_sat_on(one, within[one.id], mark))
        found = own if found is None else [s for s in found if any(_same(s, other) for other in own)]
    return found or []


def _shape(assembly: Assembly, mark: Callable[[str], str]) -> str:
    """What is the same for assemblies in which a piece has the same marks about it."""
    return " ".join(sorted(mark(p.id) for p in assembly.pieces))


def _same(a: Scribe, b: Scribe) -> bool:
    if (a.face, a.mark, len(a.points)) != (b.face, b.mark, len(b.points)):
        return False
    return bool(np.abs(np.array(a.points) - np.array(b.points)).max() < 0.5)


def _sat_on(piece: Piece, assembly: Assembly, mark: Callable[[str], str]) -> Iterator[Scribe]:
    """Of each pair of pieces welded together the larger is scribed."""
    known = {p.id: p for p in assembly.pieces}
    others = {id for w in assembly.welds if piece.id in w.joins for id in w.joins if id in known} - {piece.id}
    for id in sorted(others):
        other = known[id]
        if (_size(other.part), other.id) < (_size(piece.part), piece.id):
            yield from footprints(piece, other, mark(id))


def _size(part: Part) -> float:
    return part.length * part.width


def footprints(piece: Piece, other: Piece, mark: str) -> Iterator[Scribe]:
    """Where another piece stands on the outer faces of one that is straight or flat (x, w)."""
    if piece.part.is_formed or other.part.bends:
        return
    turn = piece.placement.axes.T @ other.placement.axes
    shift = piece.placement.to_local(other.placement.origin)
    body = plain_solid(other.part).transform(np.column_stack([turn, shift]))
    for face, height, outward, upright in _sides(piece.part):
        sat = cut_across(body, upright, height + outward * TOLERANCE)
        spot = sat.intersection(face_outline(piece.part, face if face in _own(piece.part) else Face.WEB))
        for one in getattr(spot, "geoms", [spot]):
            if one.geom_type == "Polygon" and one.area > _LEAST:
                line = shapely.simplify(one, _LINE).exterior.coords
                yield Scribe(face, tuple((round(x, 3), round(w, 3)) for x, w in line), mark)


def _own(part: Part) -> tuple[Face, ...]:
    return (Face.WEB,) if part.section is None else tuple(faces(part.section))


def _sides(part: Part) -> Iterator[tuple[Face, float, float, bool]]:
    """Each face a line can reach: its name, where its surface is, which way it looks, whether it stands."""
    if part.section is None:
        yield Face.WEB, -part.thickness / 2, -1.0, True
        yield Face.BACK, part.thickness / 2, 1.0, True
        return
    for face, wall in faces(part.section).items():
        out = -1.0 if face in (Face.WEB, Face.BOTTOM) else 1.0
        yield face, wall.mid + out * wall.thickness / 2, out, wall.upright
        if face is Face.WEB and Face.BACK not in faces(part.section):
            yield Face.BACK, wall.mid + wall.thickness / 2, 1.0, True
