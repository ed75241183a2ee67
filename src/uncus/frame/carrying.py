"""Members copied, moved and flipped with what is joined to them: the connections between them, and their
attachments."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Any, NamedTuple

import msgspec
import numpy as np

from uncus.frame.likeness import Likes
from uncus.frame.moves import MOST, Motion, Turned, flipped, transformed, turned_by, turned_by_flip
from uncus.frame.placement import Vec
from uncus.job.errors import JobError
from uncus.job.records import Attachment, Connection, End, Member, derived_id, new_id

replace = msgspec.structs.replace
Joined = Connection | Attachment
Restated = Callable[[Joined, Turned], dict[str, Any]]  # a record's values where its member's directions are turned


def _as_it_is(record: Joined, turned: Turned) -> dict[str, Any]:
    return record.params


def connections_among(members: Iterable[str], joined: Iterable[Joined]) -> list[Joined]:
    """What belongs to members of a set alone: connections whose members are all in it (a base plate needs its column
    only), and attachments."""
    ids = set(members)
    return [r for r in joined if ids.issuperset(r.members)]


class Copied(NamedTuple):
    """What copying makes, and the joints (by the id of the first) that nothing like their support stands for."""

    records: list[Member | Joined]
    left_out: list[str]


def copies(
    members: Sequence[Member], motions: Sequence[Motion], joined: Sequence[Joined] = (), restated: Restated = _as_it_is
) -> list[Member | Joined]:
    """New members, one set a motion, and what is joined among them anew. Raises JobError where it would be too many."""
    return copied(members, motions, joined, restated, {}).records


def copied(
    members: Sequence[Member],
    motions: Sequence[Motion],
    joined: Sequence[Joined],
    restated: Restated,
    there: Mapping[str, Member],
) -> Copied:
    """Copies, with joints to what is not copied as well (`there`: all members by id) wherever something stands at the
    copy as the support does at the first. Raises JobError where it would be too many."""
    if len(members) * len(motions) > MOST:
        raise JobError(
            f"That would make {len(members) * len(motions):,} members; {MOST:,} at once is the most. "
            "Give a smaller count, or copy fewer."
        )
    own = {m.id: m for m in members}
    outer = [r for r in joined if r.member in own and not own.keys() >= set(r.members)] if there else []
    inner = connections_among(own, joined)
    likes = Likes(there.values()) if outer else None
    made: list[Member | Joined] = []
    left_out: list[str] = []
    for motion in motions:
        ids = {m.id: new_id() for m in members}
        turns = {m.id: turned_by(m, motion) for m in members}
        made += [replace(transformed(m, motion), id=ids[m.id]) for m in members]
        made += [_made_anew(r, turns[r.member], ids, restated) for r in inner]
        for r in outer:
            held = _held(r, own, there, motion, likes) if likes else None
            if held is None:
                left_out.append(r.id)
            else:
                made.append(_made_anew(r, turns[r.member], ids | held, restated))
    return Copied(made, left_out)


def _made_anew(record: Joined, turned: Turned, ids: dict[str, str], restated: Restated) -> Joined:
    params = restated(record, turned) if any(turned) else record.params
    member = ids[record.member]
    if isinstance(record, Attachment):
        mate = ids[record.mate] if record.mate else None
        return replace(record, id=new_id(), member=member, params=params, mate=mate)
    end = record.end.other if turned.ends else record.end
    return replace(
        record,
        id=derived_id("connection", member, end),
        member=member,
        end=end,
        support=ids[record.support] if record.support else None,
        others=tuple(ids[other] for other in record.others),
        params=params,
    )


def _held(
    record: Joined, own: Mapping[str, Member], there: Mapping[str, Member], motion: Motion, likes: Likes
) -> dict[str, str] | None:
    """For each member of a joint that is not moved with it, the one that stands as it does where the joint comes to
    be; None where one is missing."""
    member = own[record.member]
    if isinstance(record, Connection):
        spot = motion(member.start if record.end is End.LEFT else member.end)
    else:
        spot = motion(np.add(member.start, member.end) / 2)
    found = {}
    for id in record.members:
        if id in own:
            continue
        if id not in there or (like := likes.at(transformed(there[id], motion), spot)) is None:
            return None
        found[id] = like
    return found


def moved(
    members: Sequence[Member],
    motion: Motion,
    joined: Sequence[Joined],
    restated: Restated = _as_it_is,
    there: Mapping[str, Member] | None = None,
) -> tuple[list[Member | Joined], list[str]]:
    """The same members elsewhere, and ids of connections that go on under another.

    What is joined to them stays with them, and is held by what stands at the new place as its support did at the old
    one (of all members `there`); in a mirror its sides change places, and connections of a member turned end for end
    go to its other end.
    """
    put: list[Member | Joined] = [transformed(m, motion) for m in members]
    own, drop = {m.id: m for m in members}, list[str]()
    before = {r.id: r for r in joined if r.member in own}
    now = dict(before)
    outer = [r for r in before.values() if not own.keys() >= set(r.members)] if there else []
    if there and outer:
        likes = Likes(m for m in there.values() if m.id not in own)
        for r in outer:
            if (held := _held(r, own, there, motion, likes)) is not None:
                now[r.id] = _held_by(r, held)
    if motion.mirrors:
        turns = {m.id: turned_by(m, motion) for m in members}
        changed, drop = _changed_over(list(now.values()), turns, restated)
        put += changed
    else:
        put += [r for id, r in now.items() if r != before[id]]
    return put, drop


def _held_by(record: Joined, others: Mapping[str, str]) -> Joined:
    """A joint with some of its members other ones."""
    if isinstance(record, Attachment):
        return replace(record, mate=others.get(record.mate or "", record.mate))
    support = others.get(record.support or "", record.support)
    return replace(record, support=support, others=tuple(others.get(id, id) for id in record.others))


def _changed_over(
    joined: Sequence[Joined], turns: dict[str, Turned], restated: Restated
) -> tuple[list[Joined], list[str]]:
    """Records of turned members, and ids that nothing goes by any more.

    A connection's id is made of its member and end: under its old one the next to be made at that end would replace it.
    """
    put: list[Joined] = []
    for r in joined:
        turned = turns[r.member]
        params = restated(r, turned)
        if isinstance(r, Connection) and turned.ends:
            end = r.end.other
            put.append(replace(r, id=derived_id("connection", r.member, end), end=end, params=params))
        else:
            put.append(replace(r, params=params))
    taken = {r.id for r in put}
    return put, [r.id for r in joined if r.id not in taken]


def flipped_with(
    member: Member, joined: Sequence[Joined], restated: Restated = _as_it_is
) -> tuple[list[Member | Joined], list[str]]:
    """A flipped member and what is joined to it, which stays where it is in the model, and ids that this leaves."""
    own = [r for r in joined if r.member == member.id]
    there, drop = _changed_over(own, {member.id: turned_by_flip(member)}, restated)
    return [flipped(member), *there], drop


def between(cut: Mapping[str, Sequence[Member]], there: Mapping[str, Member],
    joined: Iterable[Attachment]) -> list[Attachment]:  # fmt: skip
    """What two members have between them, where one was split: on the pieces that pass one another now. `cut` are a
    member's pieces by its id, `there` the members as they were."""
    put = []
    for a in joined:
        first, second = there.get(a.member), there.get(a.mate or "")
        if first is None or second is None or not set(cut).intersection(a.members):
            continue
        member, mate = (_nearest(cut.get(m.id, (m,)), _passed(m, o)) for m, o in ((first, second), (second, first)))
        held = replace(a, member=member.id, mate=mate.id)
        put += [held] if held != a else []
    return put


def _passed(one: Member, other: Member) -> Vec:
    """Where on a member's work line another passes nearest to it."""
    a, d, e = np.asarray(one.start), np.subtract(one.end, one.start), np.subtract(other.end, other.start)
    t = np.linalg.lstsq(np.column_stack([d, -e]), np.asarray(other.start) - a, rcond=None)[0][0]
    return np.asarray(a + t * d)


def _nearest(pieces: Sequence[Member], spot: Vec) -> Member:
    return min(
        pieces, key=lambda m: float(np.linalg.norm((np.asarray(m.start) + m.end) / 2 - spot)) - m.work_length / 2
    )


def along(pieces: Iterable[tuple[str, Member]], attachments: Iterable[Attachment]) -> list[Attachment]:
    """Attachments for the further pieces of a split member: (the whole's id, the piece); the first piece keeps its
    own."""
    held = list(attachments)
    return [replace(a, id=new_id(), member=piece.id) for id, piece in pieces for a in held if a.member == id]
