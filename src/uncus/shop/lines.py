"""Lines and points of a piece to lay work out by: its bolt and gage lines, outline, corners and hole centres."""

from __future__ import annotations

from collections import defaultdict

import numpy as np
from numpy.typing import NDArray

from uncus.frame.snaps import Snap, SnapKind
from uncus.shop.pieces import Piece
from uncus.steel import profile
from uncus.steel.features import Hole
from uncus.steel.forming import formed
from uncus.steel.joint import NewPart
from uncus.steel.part import Part
from uncus.steel.solid import plain_mesh, sharp_edges

Array = NDArray[np.float64]
Segment = tuple[Array, Array]


def _spot(part: Part, hole: Hole) -> tuple[float, float, float]:
    """A hole's centre on the outside of its face, in the part's frame."""
    if part.section is None:
        return hole.x, -part.thickness / 2, hole.w
    return profile.hole_spot(part.section, hole)


def hole_snaps(piece: Piece) -> list[Snap]:
    """The centre of each hole, named."""
    holes = piece.part.holes
    if not holes:
        return []
    points = piece.placement.to_model(formed(piece.part, [_spot(piece.part, h) for h in holes]))
    words = f"hole of {piece.words}"
    return [Snap((float(x), float(y), float(z)), words, piece.owner, SnapKind.HOLE) for x, y, z in points]


def _edges(piece: Piece | NewPart) -> tuple[Array, NDArray[np.int64]]:
    mesh = plain_mesh(piece.part)
    return piece.placement.to_model(mesh.points), sharp_edges(piece.part)


def corner_snaps(piece: Piece) -> list[Snap]:
    """Each corner where sharp edges meet."""
    points, edges = _edges(piece)
    used, count = np.unique(edges[:, :2].ravel(), return_counts=True)
    out = []
    for i in used[count >= 3]:
        x, y, z = points[i]
        out.append(Snap((float(x), float(y), float(z)), f"corner of {piece.words}", piece.owner, SnapKind.CORNER))
    return out


def edge_lines(piece: Piece | NewPart) -> list[Segment]:
    """The piece's sharp edges in the model."""
    points, edges = _edges(piece)
    return [(points[a], points[b]) for a, b in edges[:, :2].tolist()]


def outline(piece: Piece) -> list[Array]:
    """Corners all round a plate, in its middle plane; of a rolled piece, round its web as it is seen."""
    part = piece.part
    if part.is_plate:
        ring = [(x, 0.0, z) for x, z in part.outline]
    else:
        low, high = part.depth_range
        ring = [(0.0, 0.0, low), (part.length, 0.0, low), (part.length, 0.0, high), (0.0, 0.0, high)]
    return list(piece.placement.to_model(formed(part, ring)))


def bolt_lines(piece: Piece) -> list[Segment]:
    """A line through each row of two or more holes, along the piece and across it."""
    rows: dict[tuple[object, ...], list[tuple[float, float, float]]] = defaultdict(list)
    for hole in piece.part.holes:
        at = _spot(piece.part, hole)
        rows[(hole.face, "along", round(hole.w, 1))].append(at)
        rows[(hole.face, "across", round(hole.x, 1))].append(at)
    out = []
    for spots in rows.values():
        if len(spots) > 1:
            first, last = min(spots), max(spots)
            a, b = piece.placement.to_model(formed(piece.part, [first, last]))
            out.append((a, b))
    return out


def gage_lines(piece: Piece) -> list[Segment]:
    """The section's usual bolt lines along its flanges (both sides of the web) or its upright leg."""
    section = piece.part.section
    if section is None or not section.gage:
        return []
    local: list[tuple[float, float]] = []
    if section.form == "L":
        local = [(-section.b / 2, -section.d / 2 + section.gage)]
    elif section.form == "U":
        local = [(-section.b / 2 + section.gage, z) for z in (section.d / 2, -section.d / 2)]
    elif section.form == "I":
        local = [(side * section.gage / 2, z) for side in (-1, 1) for z in (section.d / 2, -section.d / 2)]
    length = piece.part.length
    ends = [piece.placement.to_model(formed(piece.part, [(0.0, y, z), (length, y, z)])) for y, z in local]
    return [(a, b) for a, b in ends]
