"""Closed tubes that are to be galvanised and have no vents: they burst in the bath."""

from collections.abc import Iterator

from uncus.catalog.sections import Form
from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.frame.placement import point_of


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    a = looked.assemblies[id]
    part = a.main.part
    closed = part.section is not None and part.section.form in (Form.BOX, Form.TUBE)
    if closed and "galv" in part.finish.casefold() and not any(h.d < 40.0 for h in part.holes):
        text = f"The {a.words} is closed, has no vent and is to be galvanised; give it vent holes."
        at = point_of(a.main.placement.to_model((part.length / 2, 0.0, 0.0)))
        yield Found("vents", (a.id,), text, at=at, form=form_of(part.finish))


KIND = Rule(
    "vents", "Bursts in the zinc bath", "Closed tubes to be galvanised without vents (ASTM A385).", each, Over.PIECES
)
