"""Things of many parts that break the rule chosen for them, or that cannot follow what they hang on."""

from __future__ import annotations

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.compose.making import given_to, kind_of, pure
from uncus.frame.placement import point_of
from uncus.job.composites import Composite
from uncus.job.errors import JobError
from uncus.steel.joint import Severity


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    records = looked.records
    for composite in looked.all(Composite):
        form = form_of(composite.kind, composite.params, composite.anchors)
        try:
            given = given_to(composite, records)
            at = point_of(given.points[0]) if len(given.points) else None
            pure(composite, records)
            told = [s for s in kind_of(composite).told(given) if s.wrong]
        except (JobError, ValueError) as error:
            yield Found("parts", (composite.id,), str(error), Severity.WRONG, None, form)
            continue
        for n, said in enumerate(told):
            about = (f"{composite.id}/{n}",)
            text = f"The {composite.words}: {said.text[0].lower()}{said.text[1:]}"
            yield Found("parts", about, text, Severity.LOOK, at, form_of(form, said.text))


KIND = Rule(
    "parts",
    "Stairs, rails, ducts",
    "What breaks the rule chosen for a stair, a rail or a ladder, or cannot follow what it hangs on.",
    whole=whole,
)
