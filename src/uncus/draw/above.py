"""What lenses ask of sheets and of findings."""

from __future__ import annotations

from functools import cache, partial

from uncus.job.job import Job
from uncus.lens.above import Above, Handed
from uncus.mark.lines import assembly_lines
from uncus.mark.marking import Marks
from uncus.shop.shop import Shop

WORKLIST = "worklist"  # the flag of sheets to go through


def above(job: Job, shop: Shop) -> Handed:
    """What is known of a job's sheets and findings, worked out when a lens asks."""
    return partial(_read, job, shop)


def _read(job: Job, shop: Shop) -> Above:
    from uncus.draw.entries.assemblies import KIND
    from uncus.draw.histories import current

    marks = Marks(job, shop.carried)
    lines = assembly_lines(shop, marks)
    pieces = {line.mark: frozenset(a.id for a in line.assemblies) for line in lines}
    sent, listed = set[str](), set[str]()
    for (kind, mark), history in current(job, marks, lines).items():
        if kind != KIND:
            continue
        if history.issue is not None:
            sent |= pieces[mark]
        if history.drawing is not None and WORKLIST in history.drawing.flags:
            listed |= pieces[mark]
    return Above(
        _with_members(shop, sent), _with_members(shop, listed), _found(shop), cache(partial(_states, job, shop))
    )


def _states(job: Job, shop: Shop) -> dict[str, str]:
    """How the sheet of each piece stands to its copy that went out."""
    from uncus.draw.entries.assemblies import KIND
    from uncus.draw.entry import PAST
    from uncus.draw.register import register

    found = (e for e in register(job, shop) if e.kind == KIND and e.state not in PAST)
    return {piece: str(e.state) for e in found for piece in e.pieces}


def _with_members(shop: Shop, pieces: set[str]) -> frozenset[str]:
    """Pieces with the members that travel in them."""
    return frozenset(m for id in pieces for m in shop.in_piece(id))


def _found(shop: Shop) -> frozenset[str]:
    """Pieces that something is found of: of themselves or of a joint at them."""
    found = set()
    for a in shop.assemblies.values():
        joints = [c.id for c in shop.connections_at(a.id) if c.id in shop.connections]
        if a.findings or shop.said(a.id) or any(shop.said(id) for id in joints):
            found.add(a.id)
    return frozenset(found)
