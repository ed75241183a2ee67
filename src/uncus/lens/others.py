"""Lenses on others' models: `class is IfcWall and not storey is Ground`. Their facts are words alone."""

from __future__ import annotations

from collections.abc import Callable

from uncus.job.errors import JobError
from uncus.job.records import Both, Either, Fact, Not, Reference, Rule
from uncus.lens.facts import Asked, Relation, holds
from uncus.lens.grammar import read
from uncus.reference.model import Product

Told = Callable[[Reference, Product], str]


FACTS: dict[str, Told] = {
    "model": lambda of, _: of.name,
    "class": lambda _, p: p.cls,
    "storey": lambda _, p: p.storey,
    "layer": lambda _, p: p.layer,
    "name": lambda _, p: p.name,
    "tag": lambda _, p: p.tag,
    "material": lambda _, p: p.material,
    "section": lambda _, p: p.section or (p.swept.profile.name if p.swept else ""),
}
_ASKED = {name: Asked(name.capitalize(), lambda known, a: ()) for name in FACTS}
_RELATIONS = (Relation.IS, Relation.BEGINS, Relation.HAS)


def _check(rule: Fact) -> None:
    if rule.relation not in _RELATIONS:
        raise JobError(f"“{rule.fact}” cannot be asked with “{rule.relation}”; it can with {', '.join(_RELATIONS)}.")


def lens_on_products(text: str) -> Callable[[Reference, Product], bool]:
    """Which products a text lets through. Raises JobError with what is wrong where."""
    return _sift(read(text, _ASKED, _check))


def _sift(rule: Rule) -> Callable[[Reference, Product], bool]:
    match rule:
        case Fact():
            told, said = FACTS[rule.fact], holds(rule)
            return lambda of, p: said(told(of, p))
        case Not(inner):
            turned = _sift(inner)
            return lambda of, p: not turned(of, p)
        case Both(rows):
            all_of = [_sift(r) for r in rows]
            return lambda of, p: all(r(of, p) for r in all_of)
        case Either(rows):
            any_of = [_sift(r) for r in rows]
            return lambda of, p: any(r(of, p) for r in any_of)
    raise JobError("This lens cannot be asked here.")
