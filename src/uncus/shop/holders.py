"""On whose sheet and list a joint's bolts and site welds are: each once, with a piece that they go through."""

from __future__ import annotations

from collections.abc import Sequence

from uncus.connect.kinds import KINDS
from uncus.job.joinery import SITE_WITH
from uncus.job.records import Attachment, Connection
from uncus.steel.joint import Contribution


def holder(record: Connection | Attachment, made: Contribution, joins: Sequence[str], field: bool, site: str) -> str:
    """The member whose assembly counts what joins these pieces: in the shop that which all of them are fixed to; on
    site, by the office's rule, the one that comes to the joint or the one that stands there. Those whose end the
    joint serves come, before all its own member; where none of them is touched, what carries the joint's own plates
    or angles does."""
    own = {f"{record.id}/{p.key}": p.owner for p in made.parts}
    carriers = {own[piece] for piece in joins if piece in own} & set(record.members)
    there = carriers | ({piece.partition("/")[0] for piece in joins if piece not in own} & set(record.members))
    if not there:
        return record.member
    coming = [id for id in _served(record) if id in there] or sorted(carriers)[:1] or sorted(there)[:1]
    standing = there - set(coming)
    if not field or site == SITE_WITH[0] or not standing:
        return coming[0]
    support = record.support if isinstance(record, Connection) else None
    return support if support in standing else min(standing & carriers or standing)


def _served(record: Connection | Attachment) -> tuple[str, ...]:
    """The members whose ends a joint serves, its own first."""
    if isinstance(record, Attachment):
        return (record.member,)
    kind = KINDS.get(record.kind)
    return (record.member, *(record.others if kind is not None and kind.serves == "others" else ()))
