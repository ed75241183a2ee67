"""The list of rules of dimensioning: a new one is one file and one name here. Their order means nothing."""

from collections import defaultdict
from importlib import import_module

from uncus.draw.annotation import Annotation, stepping
from uncus.draw.manner import in_manner
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen

_FILES = [
    "along",
    "bevels",
    "copes",
    "edges",
    "forming",
    "gages",
    "holes",
    "levels",
    "marks",
    "notches",
    "openings",
    "overall",
    "plates",
    "saddles",
    "skewed",
    "studs",
    "webs",
    "welds",
    "zones",
]
RULES: tuple[Rule, ...] = tuple(import_module(f"uncus.draw.rules.{file}").RULE for file in _FILES)


class Sayings:
    """What the rules say of the views of one sheet, a view after the other; each rule remembers for itself what it
    has said."""

    def __init__(self) -> None:
        self._of_rule: dict[str, set[object]] = defaultdict(set)

    def of(self, seen: Seen) -> list[Annotation]:
        """All that is said of a view, by the rules' names: where things go does not hang on which rule stands first
        in a list."""
        asked = sorted(
            (r for r in RULES if seen.name in r.views and r.name not in seen.preset.off), key=lambda r: r.name
        )
        found = stepping(a for rule in asked for a in rule.make(seen.remembering(self._of_rule[rule.name])))
        return in_manner(found, seen.preset, seen.length)
