"""Steel that nothing ties to the ground."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.frame.placement import point_of
from uncus.units import counted


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    if not looked.joined:
        return  # a frame without joints yet: all of it is loose
    ties, pieces = looked.ties, looked.pieces
    for lot in ties.loose():
        first = next((id for id in lot if id in looked.assemblies), lot[0])
        words = ties.words[first]
        others = f", with {counted(len(lot) - 1, 'more piece')} that hold to it," if len(lot) > 1 else ""
        text = f"The {words}{others} is tied to nothing that stands; join it to what holds it."
        at = point_of(pieces[first].placement.origin)
        yield Found("loose", (first,), text, at=at, form=form_of(sorted(lot)))


KIND = Rule("loose", "Holds to nothing", "Pieces that no weld or bolt ties to the rest, down to the ground.", find)
