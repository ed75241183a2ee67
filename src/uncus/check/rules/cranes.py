"""Pieces that no crane on site reaches, or that are too heavy for it there."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.job.records import Crane, LayDown
from uncus.shop.lifting import lift
from uncus.steel.joint import Severity
from uncus.units import format_weight


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    a = looked.shipped[id]
    found = lift(a, looked.all(Crane), looked.all(LayDown))
    if found is None or found.takes(a.lifted):
        return
    weight = format_weight(a.lifted, looked.project.units)
    if found.lifts is None:
        text = (
            f"The {a.words} ({weight}) is out of reach of every crane, or nearer than it works; "
            f"{found.crane.name} would have to reach {looked.said(found.radius)}."
        )
    else:
        most = format_weight(found.lifts, looked.project.units)
        text = (
            f"The {a.words} weighs {weight}, and {found.crane.name} lifts {most} at {looked.said(found.radius)}; "
            "move the crane, or splice the piece."
        )
    yield Found(
        "cranes", (a.id,), text, Severity.LOOK, a.centre, form_of(weight, found.crane.id, round(found.radius, -2))
    )


KIND = Rule("cranes", "Out of reach, or too heavy there", "Pieces that no crane on site lifts from where they lie to "
    "where they stand, by the load tables of the cranes that are placed.", each, Over.SHIPPED,
    state=lambda looked: (looked.all(Crane), looked.all(LayDown)))  # fmt: skip
