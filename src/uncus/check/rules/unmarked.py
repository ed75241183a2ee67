"""Pieces without a mark, or changed since they got theirs, once a job is marked."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.mark.content import assembly_content
from uncus.steel.joint import Severity


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    marks = looked.marks
    if not any(marks.of_assembly(id) for id in looked.shipped):
        return  # nobody has marked yet: that is no fault
    for id, a in looked.shipped.items():
        mark = marks.of_assembly(id)
        if not mark:
            text = f"The {a.words} has no mark; run Mark."
        elif marks.content_of(id) != assembly_content(a):
            text = f"{mark} was changed since it was marked; run Mark."
        else:
            continue
        yield Found("unmarked", (id,), text, Severity.LOOK, looked.middle(id), form_of(text))


KIND = Rule("unmarked", "Has no mark of its own", "Pieces that were not marked, or not since they changed.", find)
