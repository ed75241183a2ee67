"""What is ordered ahead of detailing: lengths with what is allowed on them, under marks that are kept for good."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable

import msgspec

from uncus.job.billing import AdvanceRules, Allowance
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import AdvanceMark
from uncus.mark.kept import ordered
from uncus.mark.marking import Marks, natural
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.part import Part
from uncus.units import counted

_HAIR = 1e-6


class OrderedLength(msgspec.Struct, frozen=True):
    """A bar to be ordered: the piece, what it is of, how long it is now and at what length it is ordered (mm)."""

    piece: str
    mark: str
    section: str
    grade: str
    length: float
    ordered: float
    kg: float


def allowance_for(rules: AdvanceRules, section: str) -> Allowance:
    """That of the longest beginning of a section's name; none where none fits."""
    fit = [a for a in rules.allowances if section.startswith(a.section)]
    return max(fit, key=lambda a: len(a.section), default=Allowance())


def length_ordered(part: Part, camber: float, rules: AdvanceRules) -> float:
    """A bar's length with what is allowed on it, in whole steps."""
    assert part.section is not None
    a = allowance_for(rules, part.section.name)
    mitres = sum(not cut.square for cut in (part.left, part.right))
    long = (part.length + a.more + a.mitre * mitres + (a.camber if camber else 0.0)) * (1.0 + a.share)
    return math.ceil(long / rules.step - _HAIR) * rules.step if rules.step else long


def advance_lengths(
    assemblies: Iterable[Assembly], marks: Marks, rules: AdvanceRules, wanted: Callable[[Assembly], bool]
) -> list[OrderedLength]:
    """Every bar that is to be bought, in order of section, grade and length."""
    found = []
    for a in assemblies:
        if wanted(a):
            found += [_ordered(p, a, marks, rules) for p in a.pieces if _is_bar(p)]
    return sorted(found, key=lambda o: (natural(o.section), o.grade, -o.ordered, natural(o.mark), o.piece))


def _is_bar(piece: Piece) -> bool:
    return piece.part.section is not None and piece.part.item is None


def _ordered(piece: Piece, assembly: Assembly, marks: Marks, rules: AdvanceRules) -> OrderedLength:
    part = piece.part
    assert part.section is not None
    long = length_ordered(part, assembly.member.camber if piece.main else 0.0, rules)
    kg = part.section.kg_m * long / 1000.0
    return OrderedLength(piece.id, marks.of_part(piece.id), part.section.name, part.grade, part.length, long, kg)


def alike(found: Iterable[OrderedLength]) -> dict[tuple[str, str, float], list[OrderedLength]]:
    """Bars by section, grade and the length they are ordered at."""
    rows: dict[tuple[str, str, float], list[OrderedLength]] = defaultdict(list)
    for one in found:
        rows[one.section, one.grade, round(one.ordered, 2)].append(one)
    return rows


def keep_advance(
    job: Job, assemblies: Iterable[Assembly], found: Iterable[OrderedLength], on: str, package: str
) -> list[AdvanceMark]:
    """Advance marks for what was not ordered before, with the lengths it is ordered at. Raises JobError for pieces
    without a mark."""
    found = list(found)
    lengths = {o.piece: o.ordered for o in found}
    bare = [o for o in found if not o.mark]
    if bare:
        raise JobError(
            f"{counted(len(bare), 'piece')} to be ordered, such as {bare[0].section}, without a mark; mark them first."
        )
    there = [a for a in assemblies if any(p.id in lengths for p in a.pieces)]
    made = ordered(job, there, on, package)
    return [
        msgspec.structs.replace(m, length=lengths[m.piece]) if m.part and m.piece in lengths else m
        for m in made
        if not m.part or m.piece in lengths
    ]
