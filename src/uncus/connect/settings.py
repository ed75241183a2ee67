"""A joint's values taken elsewhere: to another kind, to other joints, from a preset; and its side changed over."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import msgspec

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kind import Kind
from uncus.connect.kinds import KINDS
from uncus.job.errors import JobError
from uncus.job.forms import fields, problem_of_value
from uncus.job.records import Attachment, Connection, ShopRules

Joined = Connection | Attachment


def params_of(kind: str) -> type:
    """The struct of values of a kind of connection or attachment. Raises JobError for one that is not known."""
    found = KINDS.get(kind) or ATTACHMENTS.get(kind)
    if found is None:
        raise JobError(f"This Uncus knows no “{kind}”.")
    return found.params


def carried(params: dict[str, Any], kind: str) -> dict[str, Any]:
    """The values that another kind has too, and may have."""
    about = fields(params_of(kind))
    return {k: v for k, v in params.items() if k in about and problem_of_value(about[k], v) is None}


def swapped(connection: Connection, kind: str) -> Connection:
    """The joint as another kind, with what carries over of its values. Raises JobError where that kind joins something
    else than this joint does."""
    to: Kind | None = KINDS.get(kind)
    if to is None:
        raise JobError(f"This Uncus knows no “{kind}”.")
    if to.needs == "support" and connection.support is None:
        raise JobError(f"A {to.words.lower()} joins an end to another member; this end stands on the ground.")
    if to.needs == "ground" and connection.support is not None:
        raise JobError(f"A {to.words.lower()} stands on the ground; this end is held by another member.")
    least = to.others if to.asks is None else to.asks
    if len(connection.others) < least and to.serves != "others":
        raise JobError(f"A {to.words.lower()} needs a further member; connect this end again and pick it too.")
    others = connection.others[: to.others]
    return msgspec.structs.replace(connection, kind=kind, params=carried(connection.params, kind), others=others)


def suiting(connections: Sequence[Connection]) -> list[str]:
    """Kinds that every one of some joints could be swapped to."""

    def can(kind: str) -> bool:
        try:
            for c in connections:
                swapped(c, kind)
        except JobError:
            return False
        return True

    return [name for name in KINDS if can(name)]


def other_side(connection: Connection, rules: ShopRules) -> Connection:
    """The joint with its plate at the other side of the web. Raises JobError for a kind that has no side."""
    about = fields(params_of(connection.kind)).get("side")
    if about is None:
        raise JobError(f"A {KINDS[connection.kind].words.lower()} has no side to change.")
    now = connection.params.get("side") or rules.side
    return msgspec.structs.replace(connection, params={**connection.params, "side": "far" if now == "near" else "near"})


def like(target: Joined, kind: str, params: dict[str, Any]) -> Joined:
    """A joint or attachment with the values of another; its kind too where that can be. Raises JobError."""
    if isinstance(target, Connection):
        found = swapped(target, kind) if target.kind != kind else target
        return msgspec.structs.replace(found, params=dict(params))
    if target.kind != kind:
        raise JobError(f"{ATTACHMENTS[target.kind].words} take no values of {kind}.")
    return msgspec.structs.replace(target, params=dict(params))


def free(records: Sequence[Joined]) -> list[Joined]:
    """Those that are not locked. Raises JobError where all are."""
    found = [r for r in records if not r.locked]
    if not found:
        raise JobError("All of these are locked; unlock them first.")
    return found
