"""Levels where they cross an upright piece."""

from collections.abc import Iterator

from uncus.draw.annotation import Annotation, LevelLine
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    for x, words in seen.subject.levels:
        yield LevelLine(f"{seen.name}|level {words.rpartition(' ')[0]}", x, words)


RULE = Rule("levels", "Levels", make, "The job's levels across columns and posts.", ("front",))
