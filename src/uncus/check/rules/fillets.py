"""Holes in the fillets of a section, whichever joint made them."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.connect.buildable.holes import to_fillet
from uncus.frame.placement import point_of
from uncus.shop.pieces import Piece
from uncus.steel import profile

_ROUNDING = 0.05  # mm


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    a = looked.assemblies[id]
    for piece in a.pieces:
        yield from _of_piece(looked, piece, a.words if piece.main else piece.words)


def _of_piece(looked: Looked, piece: Piece, words: str) -> Iterator[Found]:
    part = piece.part
    if part.section is None or part.rolling is not None or part.section.form in profile.ROUNDS:
        return
    there = profile.faces(part.section)
    deep = [(to_fillet(part.section, h.face, h.w) - h.d / 2, h) for h in part.holes if h.face in there]
    for into, hole in sorted(((d, h) for d, h in deep if d < -_ROUNDING), key=lambda one: one[0])[:1]:
        text = (
            f"A hole of {looked.said(hole.d)} in the {words} meets the fillet of the section by {looked.said(-into)}; "
            f"move it, or take another gage."
        )
        at = point_of(piece.placement.to_model(profile.hole_spot(part.section, hole)))
        yield Found("fillets", (piece.id,), text, at=at, form=form_of(round(into, 1), hole.d, hole.face))


KIND = Rule("fillets", "Hole in a fillet", "Holes that meet the fillet or the rounded corner of their section.", each,
    Over.PIECES)  # fmt: skip
