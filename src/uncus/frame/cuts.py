"""Members split, trimmed, extended and joined: what was done, and why nothing was done."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence

import msgspec
import numpy as np

from uncus.frame import arc_cuts, helices
from uncus.frame.moves import replace
from uncus.frame.placement import Placement, Vec, tidied, unit
from uncus.frame.snaps import closest
from uncus.job.errors import JobError
from uncus.job.records import Attachment, Connection, End, Member, Turnbuckle, derived_id, new_id
from uncus.units import Units, format_length

_LEAST = 10.0  # mm of a member that may be left by a cut


class Done(msgspec.Struct, frozen=True):
    """Records to put, ids to drop, a sentence on what was done and what was not, and why; of a split the `pieces`
    that are new, each with the id of the whole."""

    put: tuple[Member | Connection | Attachment, ...] = ()
    drop: tuple[str, ...] = ()
    words: str = ""
    pieces: tuple[tuple[str, Member], ...] = ()


def _name(m: Member) -> str:
    return f"{m.role} {m.section}"


def _told(done: str, skipped: Sequence[str]) -> str:
    """What was done, then each reason with how often it held."""
    reasons = [f"{why} ({skipped.count(why)})" if skipped.count(why) > 1 else why for why in dict.fromkeys(skipped)]
    more = f"; {len(reasons) - 2} more reasons" if len(reasons) > 2 else ""
    return done + (f"; left: {'; '.join(reasons[:2])}{more}" if reasons else "") + "."


def _nothing(what: str, skipped: Sequence[str]) -> JobError:
    return JobError(_told(f"Nothing was {what}", skipped or ["nothing was picked to work on"]))


# -- split ------------------------------------------------------------------------------------------------


def shares_at_plane(m: Member, plane: Placement) -> list[float | None]:
    """All shares of a member's length at which a plane cuts it: an arc may be cut twice."""
    if m.is_rolled:
        return [*arc_cuts.crossings(m, plane.origin, plane.z)]
    if m.climb is not None:
        return [*helices.shares_at(m, plane.origin, plane.z)]
    return [share_at_plane(m, plane)]


def shares_at_line(m: Member, line: tuple[Vec, Vec], normal: Vec) -> list[float | None]:
    """All shares of a member's length at which a line cuts it, as seen along `normal`."""
    if m.climb is not None:
        return [*helices.shares_at(m, line[0], unit(np.cross(line[1] - line[0], normal)))]
    if m.is_rolled:
        across = np.cross(line[1] - line[0], normal)
        return [*arc_cuts.crossings(m, line[0], unit(across), line)]
    return [share_at_line(m, line, normal)]


def _tied(m: Member, piece: Member) -> Member:
    """A piece of a tie rod with the rod's turnbuckle where it was, if that is on it."""
    if m.turnbuckle is None:
        return piece
    start = np.asarray(m.start)
    along = unit(np.asarray(m.end) - start)
    here = m.turnbuckle.middle(m.work_length) - float((np.asarray(piece.start) - start) @ along)
    on_it = 0.0 < here < piece.work_length
    return replace(piece, turnbuckle=Turnbuckle(round(here, 3)) if on_it else None)


def share_at_plane(m: Member, plane: Placement) -> float | None:
    """Where along a member (0 to 1, or beyond) its work line crosses a plane; None where it runs along it."""
    a, b = (float(plane.to_local(p)[2]) for p in (m.start, m.end))
    return None if abs(a - b) < 1e-6 * m.work_length else a / (a - b)


def share_at_line(m: Member, line: tuple[Vec, Vec], normal: Vec) -> float | None:
    """Where a member's work line crosses a line as seen along `normal`; None where it is parallel or out of reach of
    a limited line."""
    a, b = np.asarray(m.start), np.asarray(m.end)
    u, v = b - a, line[1] - line[0]
    turn = float(np.cross(u, v) @ normal)
    if abs(turn) < 1e-9 * float(np.linalg.norm(u)) * float(np.linalg.norm(v)):
        return None
    s = float(np.cross(line[0] - a, u) @ normal) / turn
    return float(np.cross(line[0] - a, v) @ normal) / turn if -1e-6 <= s <= 1 + 1e-6 else None


def _pieces(m: Member, shares: Sequence[float]) -> list[Member]:
    if m.climb is not None:
        return helices.pieces(m, shares)
    return arc_cuts.pieces(m, shares) if m.is_rolled else _lengths(m, shares)


def split(
    members: Sequence[Member],
    shares: Sequence[Sequence[float | None]],
    connections: Sequence[Connection] = (),
    there: Mapping[str, Member] | None = None,
) -> Done:
    """Each member cut at its own shares of length: the first piece keeps its identity and its left end's connection.

    `shares[i]` are those of member i; None means that a cutter runs along it. What hangs on a split member goes with
    the piece it hangs on (`there` are all members, by id). Raises JobError where nothing was cut, with why.
    """
    put: list[Member | Connection] = []
    drop: list[str] = []
    skipped: list[str] = []
    pieces = 0
    cut: dict[str, list[Member]] = {}
    for m, at in zip(members, shares, strict=True):
        wanted = sorted({round(t, 12) for t in at if t is not None})
        if m.item is not None:
            skipped.append(f"the {m.words} is bought as it is")
            continue
        if m.is_rolled and (why := arc_cuts.refused(m)):
            skipped.append(why)
            continue
        inside = [t for t in wanted if _LEAST < t * m.work_length < m.work_length - _LEAST]
        if not inside:
            if any(t is None for t in at) and not wanted:
                skipped.append(f"the {_name(m)} runs along the cut")
            else:
                skipped.append(f"the {_name(m)} ends before the cut reaches it")
            continue
        parts = []
        lengths = _pieces(m, inside)
        for n, length in enumerate(lengths):
            last = n == len(lengths) - 1
            piece = replace(
                _tied(m, length),
                id=m.id if n == 0 else new_id(),
                left_back=m.left_back if n == 0 else 0.0,
                right_back=m.right_back if last else 0.0,
                camber=0.0,
            )
            if problem := piece.problem():
                raise JobError(problem)
            parts.append(piece)
        cut[m.id] = parts
        put += parts
        pieces += len(parts)
    if not cut:
        raise _nothing("cut", skipped)
    moved, gone = _rehung(cut, there or {}, connections)
    put += moved
    drop += gone
    done = f"{len(cut)} cut into {pieces}"
    if any(m.camber for m in members if m.id in cut):
        done += ", their camber taken off"
    new = tuple((id, piece) for id, parts in cut.items() for piece in parts[1:])
    return Done(tuple(put), tuple(drop), _told(done, skipped), new)


def _lengths(m: Member, shares: Sequence[float]) -> list[Member]:
    points = [np.asarray(m.start) + t * np.subtract(m.end, m.start) for t in shares]
    ends = [m.start, *[tidied(p) for p in points], m.end]
    return [replace(m, start=a, end=b) for a, b in itertools.pairwise(ends)]


def _rehung(
    cut: dict[str, list[Member]], there: Mapping[str, Member], connections: Sequence[Connection]
) -> tuple[list[Connection], list[str]]:
    """Connections of split members, on the pieces they belong to now; ids of those that change with their member."""
    put: list[Connection] = []
    drop: list[str] = []
    for c in connections:
        joined = there.get(c.member)
        if c.member in cut:
            joined = cut[c.member][0 if c.end is End.LEFT else -1]
        if joined is None:
            continue
        held = replace(
            c,
            member=joined.id,
            support=_piece_at(cut, c.support, joined, c.end) if c.support else None,
            others=tuple(_piece_at(cut, other, joined, c.end) for other in c.others),
        )
        if joined.id != c.member:
            drop.append(c.id)
            put.append(replace(held, id=derived_id("connection", joined.id, c.end)))
        elif held != c:
            put.append(held)
    return put, drop


def _piece_at(cut: dict[str, list[Member]], id: str, joined: Member, end: End) -> str:
    """The piece of a member that an end meets, where that member was cut; else the member."""
    return _nearest(cut[id], joined, end).id if id in cut else id


def _nearest(parts: Sequence[Member], joined: Member, end: End) -> Member:
    here = np.asarray(joined.start if end is End.LEFT else joined.end)

    def away(m: Member) -> float:
        a, d = np.asarray(m.start), np.subtract(m.end, m.start)
        t = min(1.0, max(0.0, float((here - a) @ d / (d @ d))))
        return float(np.linalg.norm(a + t * d - here))

    return min(parts, key=away)


# -- trim and extend -------------------------------------------------------------------------------------

_FAR = 100_000.0  # mm beyond an end that a line is still taken to


def _taken(m: Member, t: float, units: Units, target: str) -> Member | str:
    """A member's nearer end taken to a share of its length, or why not."""
    outside = max(-t, t - 1) * m.work_length
    if m.item is not None:
        return f"the {m.words} is bought as it is"
    if outside > _FAR:
        return f"the {_name(m)} is out of reach ({format_length(outside, units)} away)"
    if abs(outside) < 0.5:
        return f"the {_name(m)} ends at {target} already"
    at = tidied(np.asarray(m.start) + t * np.subtract(m.end, m.start))
    changed = replace(m, start=at) if t < 0.5 else replace(m, end=at)
    if m.turnbuckle is not None and m.turnbuckle.at is not None:
        changed = _tied(m, changed)
    problem = changed.problem()
    return problem.rstrip(".") if problem else changed


def _told_taken(before: Sequence[Member], put: Sequence[Member], skipped: Sequence[str], target: str) -> Done:
    if not put:
        raise _nothing("trimmed or extended", skipped)
    was = {m.id: m.work_length for m in before}
    longer = sum(m.work_length > was[m.id] for m in put)
    words = [f"{n} {word}" for n, word in ((longer, "extended"), (len(put) - longer, "trimmed")) if n]
    return Done(tuple(put), words=_told(f"{' and '.join(words)} to {target}", skipped))


def to_member(members: Sequence[Member], target: Member, units: Units) -> Done:
    """Each member's nearer end taken to where its work line meets the target's: lengthened or shortened.

    Lines that pass each other without meeting are taken to where they come nearest, if within 600 mm.
    Raises JobError where nothing changed, with why.
    """
    put: list[Member] = []
    skipped: list[str] = []
    for m in members:
        if m.id == target.id:
            continue
        met = closest(m.start, m.end, target.start, target.end)
        if met is None:
            skipped.append(f"the {_name(m)} is parallel to the {_name(target)}")
            continue
        if met[2] > 600.0:
            skipped.append(f"the {_name(m)} passes the {_name(target)} {format_length(met[2], units)} off")
            continue
        _keep(_taken(m, met[0], units, f"the {_name(target)}"), put, skipped)
    return _told_taken(members, put, skipped, f"the {_name(target)}")


def to_plane(members: Sequence[Member], plane: Placement, units: Units) -> Done:
    """Each member's nearer end taken to a plane; see `to_member`."""
    put: list[Member] = []
    skipped: list[str] = []
    for m in members:
        t = share_at_plane(m, plane)
        if t is None:
            skipped.append(f"the {_name(m)} runs along the plane")
        else:
            _keep(_taken(m, t, units, "the plane"), put, skipped)
    return _told_taken(members, put, skipped, "the plane")


def to_faces(members: Sequence[Member], faces: Mapping[str, tuple[Vec, Vec] | str], target: Member,
    units: Units) -> Done:  # fmt: skip
    """Each member's nearer end taken to the face of the target that it looks at: a point of it and its normal, by the
    member's id, or why there is none; see `to_member`."""
    put: list[Member] = []
    skipped: list[str] = []
    words = f"the face of the {_name(target)}"
    for m in members:
        if m.id == target.id:
            continue
        found = faces[m.id]
        if isinstance(found, str):
            skipped.append(found)
            continue
        at, normal = found
        d = np.subtract(m.end, m.start)
        if abs(float(d @ normal)) < 1e-6 * m.work_length:
            skipped.append(f"the {_name(m)} runs along {words}")
        else:
            _keep(_taken(m, float((at - m.start) @ normal / (d @ normal)), units, words), put, skipped)
    return _told_taken(members, put, skipped, words)


def _keep(found: Member | str, put: list[Member], skipped: list[str]) -> None:
    if isinstance(found, str):
        skipped.append(found)
    else:
        put.append(found)


# -- join -------------------------------------------------------------------------------------------------

_SAME = ("section", "grade", "roll", "line", "rise", "role", "finish", "double")


def join(
    members: Sequence[Member], connections: Sequence[Connection], units: Units, attachments: Sequence[Attachment] = ()
) -> Done:
    """Members in line and end to end made one, which keeps the first one's identity, both outer connections and each
    attachment once.

    Raises JobError with the first reason why they cannot be.
    """
    first = members[0]
    if len(members) > 1 and all(m.is_rolled for m in members):
        _refuse_unlike(members)
        whole, left, right = arc_cuts.joined(members, units)
    else:
        spans = _in_line(members, units)
        left, right = spans[0], spans[-1]
        tied = [m for m in spans if m.turnbuckle is not None]
        if len(tied) > 1:
            raise JobError(
                f"The {_name(tied[0])} and the {_name(tied[1])} both have a turnbuckle; take one away first."
            )
        whole = replace(first, start=left.start, end=right.end, turnbuckle=None)
        whole = _tied(tied[0], whole) if tied else whole
    whole = replace(whole, left_back=left.left_back, right_back=right.right_back, camber=0.0)
    words = f"{len(members)} joined into one, {format_length(whole.work_length, units)} long."
    return as_one(whole, members, (left, right), connections, attachments, words)


def as_one(
    whole: Member,
    members: Sequence[Member],
    ends: tuple[Member, Member],
    connections: Sequence[Connection],
    attachments: Sequence[Attachment],
    words: str,
) -> Done:
    """Members made `whole`, which has the first one's id, with what becomes of their joints; `ends` are those whose
    left and right ends are the whole's."""
    first, ids = members[0], {m.id for m in members}
    put: list[Member | Connection | Attachment] = [whole]
    drop = [m.id for m in members if m.id != first.id]
    for record, after in (*_taken_over(connections, first, *ends, ids), *_reattached(attachments, first, ids)):
        put += [after] if after is not None else []
        drop += [record.id] if after is None or after.id != record.id else []
    return Done(tuple(put), tuple(drop), words)


def _refuse_unlike(members: Sequence[Member]) -> None:
    """Raises JobError where members differ in what a joined one has once; the roll of arcs turns along with them."""
    first = members[0]
    for m in members:
        if m.item is not None:
            raise JobError(f"The {m.words} is bought as it is; leave it out.")
        for name in _SAME:
            if getattr(m, name) != getattr(first, name) and not (name == "roll" and m.is_rolled):
                raise JobError(f"The {_name(m)} cannot be joined to the {_name(first)}: their {name} differs.")


def _in_line(members: Sequence[Member], units: Units) -> list[Member]:
    """Members from left to right along the first one's line. Raises JobError where they do not follow one another on
    it."""
    if len(members) < 2:
        raise JobError("Pick two or more members in line to join.")
    first = members[0]
    arc = next((m for m in members if m.is_rolled), None)
    if arc is not None:
        raise JobError(f"The {_name(arc)} is rolled to an arc; join it to lengths of the same arc alone.")
    _refuse_unlike(members)
    x, a = unit(np.subtract(first.end, first.start)), np.asarray(first.start)
    spans = []
    for m in members:
        d = unit(np.subtract(m.end, m.start))
        if np.linalg.norm(np.cross(d, x)) > 1e-4:
            raise JobError(f"The {_name(m)} does not run in line with the {_name(first)}.")
        off = float(np.linalg.norm(np.cross(np.asarray(m.start) - a, x)))
        if off > 1.0:
            raise JobError(f"The {_name(m)} lies {format_length(off, units)} beside the line of the {_name(first)}.")
        if d @ x < 0:
            raise JobError(f"The {_name(m)} runs the other way; flip its ends first.")
        spans.append((float((np.asarray(m.start) - a) @ x), float((np.asarray(m.end) - a) @ x), m))
    spans.sort(key=lambda span: span[0])
    for (_, end, _m), (start, _e, m) in itertools.pairwise(spans):
        if abs(start - end) > 25.0:
            word = "a gap" if start > end else "an overlap"
            raise JobError(f"There is {word} of {format_length(abs(start - end), units)} before the {_name(m)}.")
    return [m for _, _, m in spans]


def _taken_over(
    connections: Sequence[Connection], first: Member, left: Member, right: Member, ids: set[str]
) -> Iterator[tuple[Connection, Connection | None]]:
    """What becomes of connections as members are joined: those at the outer ends are the first's, inner ones go,
    what hangs on one of them hangs on the first."""
    for c in connections:
        if c.member in ids:
            outer = (c.member == left.id and c.end is End.LEFT) or (c.member == right.id and c.end is End.RIGHT)
            if not outer or ids.intersection(c.members[1:]):
                yield c, None
            elif c.member != first.id:
                yield c, replace(c, id=derived_id("connection", first.id, c.end), member=first.id)
        elif ids.intersection(c.members):
            support = first.id if c.support in ids else c.support
            rehung = replace(c, support=support, others=tuple(first.id if o in ids else o for o in c.others))
            if rehung != c:
                yield c, rehung


def _reattached(
    attachments: Sequence[Attachment], first: Member, ids: set[str]
) -> Iterator[tuple[Attachment, Attachment | None]]:
    """What becomes of attachments as members are joined: each is the first's, and there once."""
    known = [(held.kind, held.params) for held in attachments if held.member == first.id]
    for held in attachments:
        if held.mate is not None and ids.intersection(held.members):  # each has its own place along the whole
            member, mate = (first.id if id in ids else id for id in held.members)
            yield held, replace(held, member=member, mate=mate) if member != mate else None
        elif held.member in ids and held.member != first.id:
            if (held.kind, held.params) in known:
                yield held, None
            else:
                known.append((held.kind, held.params))
                yield held, replace(held, member=first.id)


# -- doubles ------------------------------------------------------------------------------------------------

_OVERLAP = 10.0  # mm that members on one work line may lie over each other


def double_of(new: Sequence[Member], there: Sequence[Member]) -> tuple[Member, Member] | None:
    """The first new member that lies on another's work line, whole or in part and either way round, and that one."""

    def ends(m: Member) -> frozenset[tuple[float, ...]]:
        return frozenset(tuple(round(c) + 0.0 for c in p) for p in (m.start, m.end))

    seen: dict[object, Member] = {}
    for m in new:
        key = (ends(m), round(m.rise))
        if key in seen:
            return m, seen[key]
        seen[key] = m
    if not there:
        return None
    a, b = (np.array([getattr(m, name) for m in there]) for name in ("start", "end"))
    rise = np.array([m.rise for m in there])
    for m in new:
        start, x = np.asarray(m.start), unit(np.subtract(m.end, m.start))
        ta, tb = (a - start) @ x, (b - start) @ x
        off = np.maximum(
            np.linalg.norm(a - start - ta[:, None] * x, axis=1), np.linalg.norm(b - start - tb[:, None] * x, axis=1)
        )
        over = np.minimum(np.maximum(ta, tb), m.work_length) - np.maximum(np.minimum(ta, tb), 0.0)
        hits = np.flatnonzero((off <= 1.0) & (over > _OVERLAP) & (np.abs(rise - m.rise) <= 1.0))
        if len(hits):
            return m, there[int(hits[0])]
    return None


def refuse_doubles(new: Sequence[Member], there: Sequence[Member]) -> None:
    """Raises JobError where a new member would lie on one that is there."""
    mine = {m.id for m in new}
    found = double_of(new, [m for m in there if m.id not in mine])
    if found is not None:
        m, other = found
        raise JobError(
            f"There is a member ({_name(other)}) on the line of the new {_name(m)} already; nothing was made. "
            "Change its section instead, or delete it first."
        )
