"""Steel that nothing ties to the ground."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.frame.placement import point_of


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    if not looked.is_joined:
        return  # a frame without joints yet: all of it is loose
    ties = looked.ties
    for lot in ties.loose():
        first = next((id for id in lot if id in looked.assemblies), lot[0])
        words = ties.words[first]
        own = f"The {words} and what holds to it are" if len(lot) > 1 else f"The {words} is"
        text = f"{own} tied to nothing that stands; join it to what holds it."
        owner = looked.assemblies[ties.owner[first]]
        at = next(point_of(p.placement.origin) for p in owner.pieces if p.id == first)
        yield Found("loose", (first,), text, at=at, form=form_of(sorted(lot)))


KIND = Rule(
    "loose", "Holds to nothing", "Pieces that no weld or bolt ties to the rest, down to the ground.", whole=whole
)
