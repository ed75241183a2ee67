"""What came up when joints, attachments and pieces were made: what their kinds and the inspection say."""

import re
from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule

_FIGURES = re.compile(r"[\d./'\"]+")


def whole(looked: Looked, _: NoValues) -> Iterator[Found]:
    for one in looked.made:
        said = (
            f"{one.about}/{form_of(_FIGURES.sub('', one.text))}"  # a joint may have several, told apart by their words
        )
        yield Found("made", (said,), one.text, one.severity, looked.middle(one.about), form_of(one.text))


KIND = Rule("made", "Cannot be made so",
    "What joints and attachments say of themselves: room for bolts and welds, distances, grips, how a member gets in.",
    whole=whole)  # fmt: skip
