"""Marks: what a marking run would do, and doing it."""

from __future__ import annotations

import hashlib
import re
from collections import defaultdict
from collections.abc import Iterable
from enum import StrEnum
from functools import lru_cache

import msgspec

from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Mark, Series
from uncus.mark.sameness import AssemblyGroups, PartGroups
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.part import Part


class State(StrEnum):
    NEW = "new"
    KEPT = "kept"
    MOVED = "moved"


class Row(msgspec.Struct, frozen=True):
    """One mark of a proposal: the pieces under it, what they had before, and why."""

    mark: str
    state: State
    part: bool
    pieces: tuple[str, ...]
    before: tuple[str, ...]
    why: str


class Proposal(msgspec.Struct, frozen=True):
    rows: tuple[Row, ...]
    contents: dict[str, str]

    def count(self, state: State) -> int:
        return sum(row.state is state for row in self.rows)


@lru_cache(maxsize=65536)
def part_content(part: Part) -> str:
    """Fingerprint of a part: equal for equal parts, whenever and wherever it is made."""
    return hashlib.sha256(msgspec.json.encode(part)).hexdigest()[:16]


def assembly_content(assembly: Assembly) -> str:
    """Fingerprint of an assembly: its parts, where they lie in it, its welds and shop bolts."""
    inverse = assembly.main.placement.inverse
    items = []
    for piece in assembly.pieces:
        place = inverse @ piece.placement
        welds = sorted((w.size, w.sides) for w in assembly.welds if piece.id in w.joins)
        items.append(
            (
                part_content(piece.part),
                [round(v, 2) + 0.0 for v in place.origin.tolist()],
                [round(v, 5) + 0.0 for v in place.axes.ravel().tolist()],
                welds,
                assembly.shop_bolts(piece.id),
            )
        )
    items.sort()
    return hashlib.sha256(msgspec.json.encode((assembly.member.camber, items))).hexdigest()[:16]


def natural(mark: str) -> tuple[object, ...]:
    """Sorts marks as people do: B2 before B10."""
    return tuple((0, int(t), "") if t.isdigit() else (1, 0, t) for t in re.findall(r"\d+|\D+", mark))


def _series_of(series: list[Series], part: bool, role: str) -> Series:
    for one in series:
        if one.parts == part and role in one.roles:
            return one
    prefix = "x" if part else "M"
    return Series(id=f"series {prefix}", prefix=prefix, roles=(role,), parts=part)


def mark_id(piece: str, part: bool) -> str:
    return f"mark:{'part' if part else 'assembly'}:{piece}"


class _Group:
    """Pieces that are the same, within one series."""

    def __init__(self, series: Series, order: tuple[object, ...]) -> None:
        self.series = series
        self.order = order
        self.pieces: list[str] = []


def _part_order(part: Part) -> tuple[object, ...]:
    name = part.section.name if part.section else f"PL{part.thickness:08.2f}"
    return (-part.section.kg_m if part.section else 0.0, name, -part.length, part_content(part))


def _groups(shop: Shop, series: list[Series]) -> tuple[list[_Group], list[_Group], dict[str, str]]:
    """Groups of assemblies and of parts, in an order that does not depend on when things were made."""
    parts = PartGroups()
    contents: dict[str, str] = {}
    assemblies = sorted(shop.assemblies.values(), key=lambda a: (_part_order(a.main.part), a.id))
    for assembly in assemblies:
        for piece in assembly.pieces:
            parts.of(piece.part)
    by_assembly: dict[int, _Group] = {}
    by_part: dict[tuple[int, str], _Group] = {}
    found = AssemblyGroups(parts)
    for assembly in assemblies:
        one = _series_of(series, False, assembly.member.role)
        number = found.of(assembly, one.prefix)
        group = by_assembly.setdefault(number, _Group(one, (*_part_order(assembly.main.part), len(by_assembly))))
        group.pieces.append(assembly.id)
        contents[mark_id(assembly.id, False)] = assembly_content(assembly)
        for piece in assembly.pieces:
            kind = "plate" if piece.part.is_plate else "rolled"
            first, _ = parts.of(piece.part)
            own = _series_of(series, True, kind)
            target = by_part.setdefault((first, own.prefix), _Group(own, _part_order(parts.first[first])))
            target.pieces.append(piece.id)
            contents[mark_id(piece.id, True)] = part_content(piece.part)
    return list(by_assembly.values()), list(by_part.values()), contents


def _number_of(mark: str, prefix: str) -> int | None:
    tail = mark[len(prefix) :]
    return int(tail) if mark.startswith(prefix) and tail.isdigit() else None


def _settle(groups: list[_Group], job: Job, part: bool, contents: dict[str, str]) -> list[Row]:
    """A mark for each group: kept where the pieces have not changed, else the least number free."""
    old = {m.piece: m for m in job.all(Mark) if m.part == part}
    claims: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for index, group in enumerate(groups):
        held: dict[str, int] = defaultdict(int)
        for piece in group.pieces:
            mark = old.get(piece)
            if mark and _number_of(mark.mark, group.series.prefix) is not None:
                held[mark.mark] += 1000 if mark.content == contents[mark_id(piece, part)] else 1
        for name, weight in held.items():
            claims[name].append((weight, index))
    given: dict[int, str] = {}
    for name in sorted(claims, key=lambda n: (-max(claims[n])[0], natural(n))):
        for _, index in sorted(claims[name], key=lambda c: (-c[0], c[1])):
            if index not in given:
                given[index] = name
                break
    used = set(given.values())
    rows = []
    for index in sorted(range(len(groups)), key=lambda i: groups[i].order):
        group = groups[index]
        kept = given.get(index)
        name = kept or ""
        if kept is None:
            number = group.series.start
            while f"{group.series.prefix}{number}" in used:
                number += 1
            name = f"{group.series.prefix}{number}"
            used.add(name)
        rows.append(_row(name, group, old, part, contents))
    return rows


def _row(name: str, group: _Group, old: dict[str, Mark], part: bool, contents: dict[str, str]) -> Row:
    before = tuple(sorted({old[p].mark for p in group.pieces if p in old} - {name}, key=natural))
    fresh = [p for p in group.pieces if p not in old]
    kept = all(p in old and old[p].mark == name for p in group.pieces)
    changed = [p for p in group.pieces if p in old and old[p].content != contents[mark_id(p, part)]]
    if kept:
        state, why = State.KEPT, "changed since marked, still the only one of its kind" if changed else ""
    elif before:
        state, why = State.MOVED, f"{len(changed) or len(group.pieces)} changed: was {', '.join(before)}"
    else:
        state, why = State.NEW, f"{len(fresh)} not marked yet"
    return Row(name, state, part, tuple(group.pieces), before, why)


def propose(job: Job, shop: Shop) -> Proposal:
    """What a marking run would do; the job is not touched."""
    series = job.all(Series)
    assemblies, parts, contents = _groups(shop, series)
    rows = _settle(assemblies, job, False, contents) + _settle(parts, job, True, contents)
    return Proposal(tuple(sorted(rows, key=lambda r: (r.part, natural(r.mark)))), contents)


def apply(job: Job, proposal: Proposal) -> int:
    """Write a proposal's marks as one undo step; marks of pieces that are gone go too. The count of marks changed."""
    wanted: dict[str, Mark] = {}
    for row in proposal.rows:
        for piece in row.pieces:
            id = mark_id(piece, row.part)
            wanted[id] = Mark(id=id, piece=piece, mark=row.mark, content=proposal.contents[id], part=row.part)
    changed = 0
    with job.change("Apply marks") as change:
        for mark in job.all(Mark):
            if mark.id not in wanted:
                change.drop(mark.id)
                changed += 1
        for id, mark in wanted.items():
            if change.get(id) != mark:
                change.put(mark)
                changed += 1
    return changed


class Marks:
    """The marks a job's pieces have now, read once."""

    def __init__(self, job: Job) -> None:
        self._assembly = {m.piece: m for m in job.all(Mark) if not m.part}
        self._part = {m.piece: m for m in job.all(Mark) if m.part}

    def of_assembly(self, id: str) -> str:
        mark = self._assembly.get(id)
        return mark.mark if mark else ""

    def content_of(self, id: str) -> str:
        """The fingerprint an assembly had when it got its mark."""
        mark = self._assembly.get(id)
        return mark.content if mark else ""

    def of_part(self, id: str) -> str:
        mark = self._part.get(id)
        return mark.mark if mark else ""

    def unmarked(self, assemblies: Iterable[Assembly]) -> list[str]:
        """Pieces without a mark, or changed since they got theirs, in words."""
        found = []
        for assembly in assemblies:
            own = self._assembly.get(assembly.id)
            if own is None:
                found.append(f"{assembly.words} (no mark)")
            elif own.content != assembly_content(assembly):
                found.append(f"{own.mark} (changed since it was marked)")
            elif any(self._stale(piece) for piece in assembly.pieces):
                found.append(f"{own.mark} (a part of it has no mark)")
        return found

    def _stale(self, piece: Piece) -> bool:
        mark = self._part.get(piece.id)
        return mark is None or mark.content != part_content(piece.part)

    def require(self, assemblies: Iterable[Assembly]) -> None:
        """Raises JobError naming the unmarked pieces and how to mark them."""
        found = self.unmarked(assemblies)
        if found:
            some = ", ".join(found[:5]) + (f" and {len(found) - 5} more" if len(found) > 5 else "")
            raise JobError(
                f"{len(found)} pieces are not marked: {some}. Mark them first: uncus mark JOB, or Apply in the Mark stage."
            )
