"""Words of a lens that no piece has: most often a slip of the pen, and a lens that lets nothing through unsaid."""

from __future__ import annotations

from collections.abc import Iterator
from difflib import get_close_matches

from uncus.job.job import Job
from uncus.job.records import Both, Either, Fact, Not, Rule
from uncus.lens.above import Above, Handed
from uncus.lens.facts import FACTS, Known, Relation, holds
from uncus.shop.shop import Shop

_SHOWN = 6


def unmet(rule: Rule, job: Job, shop: Shop, handed: Handed | None = None) -> list[str]:
    """A sentence for each row of words that no piece meets, with what may have been meant or what there is."""
    rows = [row for row in dict.fromkeys(_rows(rule)) if row.value and FACTS[row.fact].measure is None]
    above = handed() if handed and any(FACTS[row.fact].above for row in rows) else Above()
    known = Known.of(job, shop, above)
    there: dict[str, set[str]] = {}
    said = []
    for row in rows:
        if row.fact not in there:
            found = (FACTS[row.fact].read(known, a) for a in shop.assemblies.values())
            there[row.fact] = {str(word) for words in found if not isinstance(words, float) for word in words} - {""}
        test = holds(row)
        if there[row.fact] and not any(map(test, there[row.fact])):
            said.append(_sentence(row, there[row.fact]))
    return said


def _rows(rule: Rule) -> Iterator[Fact]:
    match rule:
        case Fact():
            yield rule
        case Not(of):
            yield from _rows(of)
        case Both(of) | Either(of):
            for one in of:
                yield from _rows(one)


def _sentence(row: Fact, there: set[str]) -> str:
    how = "" if row.relation == Relation.IS else f"that {Relation(row.relation).words} "
    begin = f"No piece has a {FACTS[row.fact].words.lower()} {how}“{row.value}”"
    by_fold = {word.casefold(): word for word in there}
    near = get_close_matches(row.value.casefold(), by_fold, 1, 0.7)
    if near:
        return f"{begin}; is “{by_fold[near[0]]}” meant?"
    shown = sorted(there, key=str.casefold)
    more = f" and {len(shown) - _SHOWN} more" if len(shown) > _SHOWN else ""
    return f"{begin}; there are {', '.join(shown[:_SHOWN])}{more}."
