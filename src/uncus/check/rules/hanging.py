"""Members that hang by one end."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.connect.kinds import KINDS
from uncus.job.records import Connection
from uncus.steel.joint import Severity


def each(looked: Looked, _: NoValues, id: str) -> Iterator[Found]:
    m = looked.member(id)
    tie = looked.ties.hanging(m) if m and looked.joints_at(id) else None
    if m is None or tie is None:
        return
    record = looked.get(tie.maker, Connection)
    kind = KINDS.get(record.kind) if record else None
    if kind is None or "moment" not in kind.name:  # else a cantilever
        text = f"The {m.role} {m.section} is held at one end alone ({tie.said}); join its other end, or put this aside."
        yield Found("hanging", (m.id,), text, Severity.LOOK, tie.at, form_of(m.section, tie.words))


def also(looked: Looked) -> set[str]:
    """Members that the shop fixes to others that were touched."""
    steps = (step for m in looked.edits.members for step in looked.ties.fixed_in_the_shop(m))
    return {looked.ties.owner[step.piece] for step in steps}


KIND = Rule("hanging", "Hangs by one end", "Members that welds and bolts hold at one end alone, and not for a moment.",
    each, also=also)  # fmt: skip
