"""The list of rules of dimensioning: a new one is one file and one name here. Their order means nothing."""

from collections import defaultdict

from uncus.draw.annotation import Annotation
from uncus.draw.rules import (
    along,
    bevels,
    copes,
    edges,
    forming,
    gages,
    holes,
    levels,
    marks,
    notches,
    overall,
    plates,
    saddles,
    skewed,
    studs,
    webs,
    welds,
)
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen

_MODULES = (
    along,
    plates,
    webs,
    gages,
    copes,
    overall,
    edges,
    skewed,
    bevels,
    saddles,
    levels,
    forming,
    notches,
    holes,
    studs,
    marks,
    welds,
)
RULES: tuple[Rule, ...] = tuple(module.RULE for module in _MODULES)


class Sayings:
    """What the rules say of the views of one sheet, a view after the other; each rule remembers for itself what it has said."""

    def __init__(self) -> None:
        self._of_rule: dict[str, set[object]] = defaultdict(set)

    def of(self, seen: Seen) -> list[Annotation]:
        """All that is said of a view, by the rules' names: where things go does not hang on which rule stands first in a list."""
        asked = sorted(
            (r for r in RULES if seen.name in r.views and r.name not in seen.preset.off), key=lambda r: r.name
        )
        return [a for rule in asked for a in rule.make(seen.remembering(self._of_rule[rule.name]))]
