"""Loads as they are sent: what rides on each, and what is too much for its truck."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence

import msgspec

from uncus.check.rules.shipping import box
from uncus.job.billing import Load
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly
from uncus.units import Units, format_length, format_weight

_HAIR = 0.5  # mm, kg


def put_on(loads: Iterable[Load], name: str, pieces: Sequence[str]) -> list[Load]:
    """The loads that change as pieces go onto the one of a name (made where there is none): a piece rides on one."""
    found, there = [], False
    for load in loads:
        own = load.name.casefold() == name.casefold()
        there = there or own
        kept = tuple(id for id in load.pieces if id not in pieces)
        now = msgspec.structs.replace(load, pieces=(*kept, *pieces) if own else kept)
        if now != load:
            found.append(now)
    return found if there else [*found, Load(name=name, pieces=tuple(pieces))]


def too_much(loads: Iterable[Load], shipped: Mapping[str, Assembly], marks: Marks, units: Units) -> Iterator[str]:
    """What of each load its truck does not take, a sentence each."""
    for load in sorted(loads, key=lambda one: natural(one.name)):
        own = [shipped[id] for id in load.pieces if id in shipped]
        weight = sum(a.lifted for a in own)
        if load.most_kg and weight > load.most_kg + _HAIR:
            over = format_weight(weight, units), format_weight(load.most_kg, units)
            yield f"Load {load.name} weighs {over[0]}, {over[1]} at most."
        long = [(a, size) for a in own if load.most_length and (size := box(a)[0]) > load.most_length + _HAIR]
        if long:
            named = sorted((natural(marks.of_assembly(a.id)), a.id, a, n) for a, n in long)[:4]
            said = ", ".join(f"{marks.of_assembly(id) or a.words} {format_length(n, units)}" for _, id, a, n in named)
            yield f"On load {load.name} is too long: {said}; {format_length(load.most_length, units)} at most."
