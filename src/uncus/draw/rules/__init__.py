"""The list of rules of dimensioning: a new one is one file and one name here."""

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
