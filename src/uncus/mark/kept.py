"""Marks kept beyond the run: advance marks as pieces were ordered, and marks that went out."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable

import msgspec

from uncus.job.job import Job
from uncus.job.records import AdvanceMark, IssuedMark, Mark
from uncus.mark.content import assembly_content, mark_id, part_content
from uncus.shop.pieces import Assembly
from uncus.shop.shop import Shop


def ordered(job: Job, assemblies: Iterable[Assembly], on: str, package: str) -> list[AdvanceMark]:
    """Advance marks for assemblies and their parts that have a mark and were not ordered before: what was ordered
    stays as it was called then."""
    found = []
    for assembly in assemblies:
        pieces = [(assembly.id, False), *((p.id, True) for p in assembly.pieces)]
        for piece, part in pieces:
            mark = job.get(mark_id(piece, part), Mark)
            id = f"advance:{mark_id(piece, part)}"
            if mark is not None and mark.mark and id not in job.records:
                found.append(AdvanceMark(id=id, piece=piece, mark=mark.mark, content=mark.content, on=on,
                    package=package, part=part))  # fmt: skip
    return found


def since_ordered(job: Job, shop: Shop, piece: str, part: bool, mark: str) -> str:
    """What became of a piece since it was ordered, in words; nothing where it never was."""
    advance = job.get(f"advance:{mark_id(piece, part)}", AdvanceMark)
    if advance is None:
        return ""
    words = f"{advance.mark}, {advance.on}, {advance.package}"
    content = _content(shop, piece, part)
    if content and advance.content and content != advance.content:
        return f"{words}; changed since"
    return f"{words}; {mark} now" if mark and mark != advance.mark else words


def _content(shop: Shop, piece: str, part: bool) -> str:
    if not part:
        assembly = shop.shipped.get(piece)
        return assembly_content(assembly) if assembly else ""
    owner = shop.assemblies.get(piece.partition("/")[0])
    pieces = owner.pieces if owner else shop.pieces()
    return next((part_content(p.part) for p in pieces if p.id == piece), "")


def issued(job: Job, shop: Shop, wanted: Callable[[Assembly], bool], on: str) -> list[IssuedMark]:
    """Records of the marks that go out with some assemblies, joined with those that went before."""
    contents: dict[tuple[bool, str], set[str]] = defaultdict(set)
    for assembly in filter(wanted, shop.shipped.values()):
        for piece, part in [(assembly.id, False), *((p.id, True) for p in assembly.pieces)]:
            mark = job.get(mark_id(piece, part), Mark)
            if mark is not None and mark.mark:
                contents[(part, mark.mark)].add(mark.content)
    found = []
    for (part, name), own in sorted(contents.items()):
        id = f"issued:{'part' if part else 'assembly'}:{name}"
        before = job.get(id, IssuedMark)
        record = joined(IssuedMark(id=id, mark=name, contents=tuple(sorted(own)), on=on, part=part), before)
        if record != before:
            found.append(record)
    return found


def joined(one: IssuedMark, before: IssuedMark | None) -> IssuedMark:
    """A mark that went out, with what it stood for when it went before."""
    if before is None:
        return one
    return msgspec.structs.replace(before, contents=tuple(sorted({*one.contents, *before.contents})))
