"""Steel that stands in others' models: walls, slabs, ducts and other people's steel."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.reference.clash import Standing, boxes_of, clashes
from uncus.steel.joint import Severity
from uncus.units import length_in_words


def _state(looked: Looked) -> object:
    return looked.others_state


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    if not looked.others:
        return
    made = looked.made_into_members
    pieces = [p for a in looked.assemblies.values() for p in a.pieces]
    steel = [Standing(p.part, p.placement) for p in pieces]
    boxes = boxes_of(steel)
    for of, model in looked.others:
        for clash in clashes(steel, boxes, of, model):
            piece, product = pieces[clash.piece], clash.product
            if made.get((of.id, product.guid)) or (product.owner and made.get((of.id, product.owner))):
                continue  # it is steel of ours by now, or what goes with it
            name = product.name or product.cls.removeprefix("Ifc").lower()
            text = (f"The {piece.words} stands in “{name}” of {of.name} by "
                f"{length_in_words(clash.depth, looked.project.units)}; move one of them, or put it aside with the "
                "reason.")  # fmt: skip
            form = form_of(round(clash.volume, 0), round(clash.depth, 1), product.guid)
            yield Found("others", (piece.id, f"{of.id}/{product.guid}"), text, Severity.WRONG, clash.at, form,
                clash.volume, clash.depth)  # fmt: skip


KIND = Rule("others", "Stands in others' models",
    "Steel that fills the same space as what others drew, by more than 2 mm; models that are not shown are left out.",
    whole=whole, state=_state)  # fmt: skip
