"""Pieces without a mark, or changed since they got theirs, once a job is marked."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Over, Rule
from uncus.mark.content import assembly_content
from uncus.steel.joint import Severity


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    if not looked.is_marked:
        return  # nobody has marked yet: that is no fault
    a, mark = looked.shipped[id], looked.marks.of_assembly(id)
    if not mark:
        text = f"The {a.words} has no mark; run Mark."
    elif looked.marks.content_of(id) != assembly_content(a):
        text = f"{mark} was changed since it was marked; run Mark."
    else:
        return
    yield Found("unmarked", (id,), text, Severity.LOOK, looked.middle(id), form_of(text))


KIND = Rule("unmarked", "Has no mark of its own", "Pieces that were not marked, or not since they changed.", each,
    Over.SHIPPED, state=lambda looked: looked.is_marked, also=lambda looked: looked.edits.marked)  # fmt: skip
