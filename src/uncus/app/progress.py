"""How far a job is through each stage: what is done of what is there, and nothing where a stage has nothing yet."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from uncus.job.records import Connection, Issue, Member, Role
from uncus.units import counted

if TYPE_CHECKING:
    from uncus.app.session import Session

# of a member's ends those that ask for a joint of their own
_OWN_ENDS = {Role.COLUMN: 1, Role.POST: 1, Role.EMBED: 0}


def _own_ends(member: Member) -> int:
    """What is part of something, a plate, or bought, is joined as that is."""
    return 0 if member.maker or member.blank is not None or member.item is not None else _OWN_ENDS.get(member.role, 2)


class Through(NamedTuple):
    """`done` of `there` in words that go with both; `there` 0: the stage has nothing yet."""

    done: int
    there: int
    words: str

    @property
    def share(self) -> float:
        return min(1.0, self.done / self.there) if self.there else 0.0


def _while_filling(session: Session) -> dict[str, Through]:
    """What is known before all steel is made: the rings of what hangs on it are empty until then."""
    shop, members = session.shop, session.job.all(Member)
    joints = session.job.all(Connection)
    made = len(joints) - len(shop.waiting.joints)
    return {
        "Frame": Through(len(shop.so_far), len(members), f"of {counted(len(members), 'member')} can be made"),
        "Connect": Through(
            made, len(joints), f"of {counted(len(joints), 'joint')} made so far; the rest are under way"
        ),
        **{name: Through(0, 0, "") for name in ("Check", "Mark", "Draw", "Deliver")},
    }


def progress(session: Session) -> dict[str, Through]:
    """Each stage's."""
    if session.shop.waiting:
        return _while_filling(session)
    shop, job, marks = session.shop, session.job, session.marks
    members = job.all(Member)
    ends = sum(map(_own_ends, members))
    joints = sum(c.id in shop.connections and c.kind != "setback" and not c.maker for c in job.all(Connection))
    wrong = len({f.about for f in shop.known_findings})
    looked_at = len(shop.assemblies) + joints if joints else wrong
    marked = sum(
        bool(marks.of_assembly(id))
        if a.is_bought
        else bool(kept := marks.content_of(id)) and kept == session.content(id)
        for id, a in shop.shipped.items()
    )
    any_mark = any(marks.of_assembly(id) for id in shop.shipped)
    names = {mark for id in shop.shipped if (mark := marks.of_assembly(id))}
    issues = job.all(Issue)
    out, packed = len(names & {i.sheet for i in issues}), len(names & {i.sheet for i in issues if i.packed})
    framed = len(shop.assemblies)
    return {
        "Frame": Through(framed, len(members), f"of {counted(len(members), 'member')} can be made"),
        "Connect": Through(joints, ends if joints else 0, f"of {counted(ends, 'end')} joined"),
        "Check": Through(looked_at - wrong if joints else 0, looked_at, "of pieces and joints have nothing open"),
        "Mark": Through(marked, len(shop.shipped) if any_mark else 0, "of the pieces are marked as they are"),
        "Draw": Through(out, len(names) if issues else 0, "of the marks have sheets that went out"),
        "Deliver": Through(packed, len(names) if issues else 0, "of the marks went out in a package"),
    }
