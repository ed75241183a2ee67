"""Steel that was changed after its fabricator said that it is cut, or further: what it costs, in tonnes."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.mark.content import assembly_content
from uncus.steel.joint import Severity
from uncus.units import format_weight


def _state(looked: Looked) -> object:
    return tuple(sorted((p.piece, p.stage, p.content) for p in looked.progress.values()))


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    units = looked.project.units
    for id, told in sorted(looked.progress.items()):
        assembly = looked.shipped.get(id)
        cost = format_weight(told.kg, units)
        if assembly is None:
            text = f"A piece is {told.stage} already and is gone from the job: {cost} of steel is lost; tell its shop."
            yield Found("after cutting", (id,), text, Severity.WRONG, None, form_of(id, told.content))
        elif assembly_content(assembly) != told.content:
            mark = looked.marks.of_assembly(id) or assembly.words
            text = f"{mark} is {told.stage} already and was changed since: {cost} of steel is at stake; tell its shop."
            yield Found("after cutting", (id,), text, Severity.WRONG, assembly.centre, form_of(id, told.content))


KIND = Rule("after cutting", "Changed after it was cut",
    "Pieces that their fabricator says are cut, or further, and that were changed or taken out since, in weight.",
    whole=whole, state=_state)  # fmt: skip
