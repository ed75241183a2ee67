"""Holes too near an edge of their own piece, whichever joints made hole and edge."""

from collections.abc import Iterator
from typing import Annotated

import msgspec
import numpy as np
import shapely

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import Over, Rule
from uncus.frame.placement import point_of
from uncus.job.forms import About
from uncus.shop.pieces import Piece
from uncus.steel.flat import face_outline, part_faces


class Values(msgspec.Struct, frozen=True):
    share: Annotated[float, About("Least, of the hole's diameter", unit="share", low=0.5, high=3.0,
        help="From a hole's middle to the edge: 1.2 in EN 1993-1-8 table 3.3; AISC 360-22 table J3.4 comes down to "
        "1.11.")] = 1.1  # fmt: skip


def each(looked: Looked, values: Values, id: str) -> Iterator[Found]:
    a = looked.assemblies[id]
    for piece in a.pieces:
        yield from _of_piece(looked, piece, a.words if piece.main else piece.words, values.share)


def _of_piece(looked: Looked, piece: Piece, words: str, share: float) -> Iterator[Found]:
    part = piece.part
    if not part.holes or part.item is not None or part.rolling is not None:
        return
    for face in part_faces(part):
        holes = [h for h in part.holes if h.face is face]
        if not holes:
            continue
        spots = shapely.points([(h.x, h.w) for h in holes])
        away = shapely.distance(face_outline(part, face).exterior, spots)
        for hole, far in zip(holes, away.tolist(), strict=True):
            if far < share * hole.d - 0.05:
                text = (
                    f"A hole of {looked.said(hole.d)} in the {words} is {looked.said(far)} from its edge, and wants "
                    f"{looked.said(share * hole.d)}; move one of them."
                )
                at = point_of(piece.placement.to_model((hole.x, 0.0, hole.w)))
                yield Found("edges", (f"{piece.id}/{face}",), text, at=at, form=form_of(np.round(far, 1), hole.d))
                break


KIND = Rule("edges", "Hole at an edge", "Holes nearer to an edge than they tear out at, in every piece as it is made.",
    each, Over.PIECES, values=Values)  # fmt: skip
