"""Members that hang by one end."""

from collections.abc import Iterator

from uncus.check.found import Found, form_of
from uncus.check.looked import Looked
from uncus.check.rule import NoValues, Rule
from uncus.connect.kinds import KINDS
from uncus.job.records import Connection
from uncus.steel.joint import Severity


def find(looked: Looked, _: NoValues) -> Iterator[Found]:
    for m in looked.members:
        if m.id not in looked.joined_members:
            continue
        tie = looked.ties.hanging(m)
        if tie is None:
            continue
        record = looked.get(tie.maker, Connection)
        kind = KINDS.get(record.kind) if record else None
        if kind is not None and "moment" in kind.name:
            continue  # a cantilever
        text = f"The {m.role} {m.section} is held at one end alone ({tie.said}); join its other end, or put this aside."
        yield Found("hanging", (m.id,), text, Severity.LOOK, tie.at, form_of(m.section, tie.words))


KIND = Rule("hanging", "Hangs by one end", "Members that welds and bolts hold at one end alone, and not for a moment.",
    find)  # fmt: skip
