"""Pieces of a lot that is set before that of what holds them."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.raising import order_of, too_early, waits
from uncus.check.rule import NoValues, Rule
from uncus.job.records import ErectionRules
from uncus.shop.lifting import lot_of
from uncus.steel.joint import Severity


def _order(looked: Looked) -> dict[str, int]:
    said = looked.get("erection rules", ErectionRules) or ErectionRules()
    return order_of((lot_of(a) for a in looked.shipped.values()), said.ordered)


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    own = (c for c in looked.joints_at(id) if c.member == id)
    found = waits(own, looked.member, lambda member: looked.carried.get(member, member))
    for wait, lot, other in too_early(found, lambda piece: _lot(looked, piece), _order(looked)):
        piece, holder = looked.shipped[wait.piece], looked.shipped[wait.holder]
        text = (
            f"The {piece.words} of lot {lot} is set before the {holder.words} that holds it, which is of lot {other}; "
            "change the lot, or the order of lots."
        )
        yield Found("raising", tuple(sorted((wait.piece, wait.holder))), text, Severity.LOOK,
            looked.middle(wait.joint), form_of(lot, other))  # fmt: skip


def _lot(looked: Looked, piece: str) -> str:
    a = looked.shipped.get(piece)
    return lot_of(a) if a is not None else ""


KIND = Rule("raising", "Set before what holds it", "Pieces of a lot that is erected before the lot of what they are "
    "joined to, by the order of lots that is said among the rules of erection drawings.", each,
    state=lambda looked: tuple(_order(looked).items()))  # fmt: skip
