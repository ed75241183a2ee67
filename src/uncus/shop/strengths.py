"""What is to be said of a connection's strength."""

from __future__ import annotations

from uncus.connect.kinds import KINDS
from uncus.connect.strength.design import Design, State
from uncus.job.records import Connection
from uncus.steel.joint import Contribution, Finding, Severity


def strength_of(joint: Connection, member: str, made: Contribution, design: Design) -> Finding | None:
    """That it fails, or what of it is not checked; nothing where it carries nothing. `member`: its member in words."""
    if design.state not in (State.FAILS, State.NOT_CHECKED) or (not made.parts and not design.limits):
        return None
    kind = KINDS.get(joint.kind)
    words = f"The {kind.name if kind else joint.kind} at the {member}"
    if design.state is State.FAILS:
        worst = design.limits[0]
        text = (
            f"{words} fails: {worst.words.lower()} ({worst.where}) is used to {worst.used * 100:.0f} %. Give it more, "
            f"or less load."
        )
        return Finding(joint.id, text)
    return Finding(joint.id, f"{words} is not checked for: {'; '.join(design.unchecked)}.", Severity.LOOK)
