"""Notches in words with their figures, at each."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Note
from uncus.draw.notches import noted
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    for n, one in enumerate(noted(seen.main, seen.units)):
        if one.view == seen.name:
            yield Note(f"{seen.name}|notch {n}", one.at, one.words, one.at[1] >= 0)


RULE = Rule("notches", "Notches", make, "Cut flanges, clipped corners, access holes and slots of tubes.")
