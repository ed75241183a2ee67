"""What a lens lets through, and lenses by name or as typed text; taken to and from JSON files."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from uncus.job.errors import JobError
from uncus.job.files import json_of
from uncus.job.job import Job
from uncus.job.records import Both, Either, Fact, Lens, Not, Rule
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


def passes(rule: Rule, job: Job, shop: Shop) -> Callable[[Assembly], bool]:
    """Whether an assembly meets a lens's rule. Raises JobError for what cannot be asked."""
    test = _test(rule, job.project.units, _DEEPEST)
    known = Known.of(job, shop)
    return lambda assembly: test(known, assembly)


def reads(rule: Rule) -> frozenset[type]:
    """The kinds of record, beside the pieces themselves, that decide whether a piece meets a rule."""
    match rule:
        case Fact(fact=name):
            return frozenset(FACTS[name].reads if name in FACTS else ())
        case Not(of):
            return reads(of)
        case Both(of) | Either(of):
            return frozenset().union(*map(reads, of))
    raise TypeError(rule)


def named(name: str | None, job: Job, shop: Shop) -> Callable[[Assembly], bool]:
    """Whether an assembly passes a lens by name or text; without one all do. Raises JobError as `lens_named` does."""
    return passes(lens_named(job, name).rule, job, shop) if name else lambda _: True


def _test(rule: Rule, units: Units, deep: int) -> Callable[[Known, Assembly], bool]:
    if deep == 0:
        raise JobError("This lens is nested too deeply; split it into several.")
    match rule:
        case Fact():
            return meets(rule, units)
        case Not(of):
            inner = _test(of, units, deep - 1)
            return lambda known, a: not inner(known, a)
        case Both(of):
            every = [_test(one, units, deep - 1) for one in of]
            return lambda known, a: all(test(known, a) for test in every)
        case Either(of):
            some = [_test(one, units, deep - 1) for one in of]
            return lambda known, a: any(test(known, a) for test in some)
    raise TypeError(rule)


def chosen(rule: Rule, job: Job, shop: Shop) -> list[str]:
    """Ids of the assemblies a lens lets through, in order of making."""
    test = passes(rule, job, shop)
    return [a.id for a in shop.assemblies.values() if test(a)]


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
            _test(lens.rule, Units.IMPERIAL, _DEEPEST)
        except JobError as error:
            raise JobError(f"Lens “{lens.name}” in {source}: {error}") from None
    return list(found.lenses)
