"""Steel that fills other steel: every two pieces of a job."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.shop.pieces import Piece


def _shape(piece: Piece) -> tuple[object, ...]:
    part = piece.part
    return part.section.name if part.section else "", round(part.thickness, 2), bool(part.holes)


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    for clash, text in looked.clashes:
        shared, pair = clash.shared, sorted((clash.a, clash.b), key=lambda p: p.id)
        turn = (pair[0].placement.axes.T @ pair[1].placement.axes).round(4).tolist()
        form = form_of(round(shared.volume, 1), round(shared.depth, 2), turn, *map(_shape, pair))
        yield Found("overlap", tuple(p.id for p in pair), text, at=shared.at, form=form, volume=shared.volume,
            depth=shared.depth)  # fmt: skip


KIND = Rule("overlap", "Fills the same space",
    "Two pieces of steel that stand in one another by more than 0.2 mm, wherever they come from.",
    whole=whole)  # fmt: skip
