"""What a lens lets through, and lenses by name or as typed text; taken to and from JSON files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from itertools import compress
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import json_of
from uncus.job.job import Job
from uncus.job.records import Both, Either, Fact, Lens, Not, Rule
from uncus.lens.above import Above, Handed
from uncus.lens.facts import FACTS, Known, meets
from uncus.lens.grammar import read
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop
from uncus.units import Units

_DEEPEST = 60


def lens_named(job: Job, name: str) -> Lens:
    """The lens of a name; a text that reads as a lens will do as well. Raises JobError with the lenses there are."""
    lenses = job.all(Lens)
    for lens in lenses:
        if lens.name.casefold() == name.strip().casefold():
            return lens
    if len(name.split()) > 2:
        return Lens(name=name, rule=read(name))
    there = ", ".join(f"“{lens.name}”" for lens in lenses) or "none yet"
    raise JobError(f"There is no lens “{name}”; there are: {there}. Or type one such as: role is beam.")


def passes(
    rule: Rule, job: Job, shop: Shop, handed: Handed | None = None, before: tuple[type, ...] = ()
) -> Callable[[Assembly], bool]:
    """Whether an assembly meets a lens's rule, which may ask for what is `allowed`. Raises JobError for what cannot
    be asked."""
    sieve = _sieve(rule, job, shop, handed, before)
    return lambda assembly: sieve([assembly])[0]


def _sieve(
    rule: Rule, job: Job, shop: Shop, handed: Handed | None = None, before: tuple[type, ...] = ()
) -> Callable[[Sequence[Assembly]], list[bool]]:
    """Which of some assemblies a rule lets through."""
    sift = _sift(rule, job.project.units, _DEEPEST)
    allowed(rule, handed is not None, before)
    needed = handed is not None and any(name in FACTS and FACTS[name].above for name in facts_of(rule))
    known = Known.of(job, shop, handed() if handed and needed else Above())
    return lambda some: sift(known, some)


def allowed(rule: Rule, handed: bool = False, before: tuple[type, ...] = ()) -> Rule:
    """The rule itself. A rule that decides what sheets and findings are made from cannot ask for those, unless they
    are `handed` down, nor for what is read from records that come after what it decides. Raises JobError."""
    for name in sorted(facts_of(rule) & FACTS.keys()):
        if (FACTS[name].above and not handed) or set(before) & set(FACTS[name].reads):
            raise JobError(f"“{name}” cannot be asked here: it is known only after what this decides.")
    return rule


def facts_of(rule: Rule) -> frozenset[str]:
    """The facts that a rule asks for."""
    match rule:
        case Fact(fact=name):
            return frozenset((name,))
        case Not(of):
            return facts_of(of)
        case Both(of) | Either(of):
            return frozenset[str]().union(*map(facts_of, of))
    raise TypeError(rule)


def reads(rule: Rule) -> frozenset[type]:
    """The kinds of record, beside the pieces themselves, that decide whether a piece meets a rule."""
    return frozenset(kind for name in facts_of(rule) if name in FACTS for kind in FACTS[name].reads)


def named(name: str | None, job: Job, shop: Shop, handed: Handed) -> Callable[[Assembly], bool]:
    """Whether an assembly passes a lens by name or text; without one all do. Raises JobError as `lens_named` does."""
    return passes(lens_named(job, name).rule, job, shop, handed) if name else lambda _: True


Sift = Callable[[Known, Sequence[Assembly]], list[bool]]


def _sift(rule: Rule, units: Units, deep: int) -> Sift:
    """Which of a row of assemblies a rule lets through: a row of the rule is asked only of those that the one before
    it leaves open."""
    if deep == 0:
        raise JobError("This lens is nested too deeply; split it into several.")
    match rule:
        case Fact():
            return meets(rule, units)
        case Not(of):
            inner = _sift(of, units, deep - 1)
            return lambda known, some: [not found for found in inner(known, some)]
        case Both(of) | Either(of):
            rows = [_sift(one, units, deep - 1) for one in of]
            return partial(_through, rows, isinstance(rule, Both))
    raise TypeError(rule)


def _through(rows: Sequence[Sift], all_: bool, known: Known, some: Sequence[Assembly]) -> list[bool]:
    """Through all rows or through one of them."""
    open_ = list(range(len(some)))  # places of those that the rows so far do not decide
    for row in rows:
        found = row(known, [some[n] for n in open_])
        open_ = [n for n, through in zip(open_, found, strict=True) if through is all_]
    flags = [not all_] * len(some)
    for n in open_:
        flags[n] = all_
    return flags


def chosen(rule: Rule, job: Job, shop: Shop, handed: Handed | None = None) -> list[str]:
    """Ids of the assemblies a lens lets through, in order of making."""
    there = shop.assemblies
    return list(compress(there, _sieve(rule, job, shop, handed)(tuple(there.values()))))


class Lenses(msgspec.Struct, frozen=True):
    """Lenses as they are kept in a file of their own."""

    lenses: tuple[Lens, ...]
    format: str = "uncus lenses 1"


def to_json(lenses: list[Lens]) -> bytes:
    return msgspec.json.format(msgspec.json.encode(Lenses(tuple(lenses))), indent=1)


def from_json(data: bytes, source: Path | str = "The file") -> list[Lens]:
    """Lenses read from a file's bytes, each checked. Raises JobError."""
    found = json_of(data, Lenses, source, "lenses")
    if found.format != Lenses.__struct_defaults__[0]:
        raise JobError(f"{source} says “{found.format}”, which this Uncus does not read.")
    for lens in found.lenses:
        if problem := lens.problem():
            raise JobError(problem)
        try:
            _sift(lens.rule, Units.IMPERIAL, _DEEPEST)
        except JobError as error:
            raise JobError(f"Lens “{lens.name}” in {source}: {error}") from None
    return list(found.lenses)
