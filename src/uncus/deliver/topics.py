"""Findings as topics for others, and their topics as findings of ours: the same finding is the same topic for good."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from manifold3d import Manifold

from uncus.check.checking import Stands, Told
from uncus.check.found import Found
from uncus.check.looked import Looked
from uncus.deliver.ifc import global_id
from uncus.deliver.snapshot import Shape, picture
from uncus.frame.placement import Placement
from uncus.job.records import Point, Remark, Topic, Viewed, derived_id
from uncus.reference.step import guid
from uncus.shop.pieces import Piece
from uncus.steel.joint import Severity
from uncus.steel.solid import solid

_ABOUT = 1500.0  # mm round a finding that its view shows
_FROM = np.array([-0.56, -0.70, 0.44])  # where the eye is, seen from a finding
_COLOURS = ((214, 69, 55), (230, 159, 0))  # of the two pieces; of all others
_PLAIN = (176, 184, 192)
_CLASHES = frozenset({"overlap", "room"})
_MOST_SHOWN = 400  # pieces near a finding that its picture shows


class Sent(NamedTuple):
    """A topic as it goes out: with the pieces it picks out in each colour, by GlobalId, and its picture."""

    topic: Topic
    coloured: tuple[tuple[str, tuple[str, ...]], ...]
    picture: bytes


def topic_guid(finding: str) -> str:
    """The GUID of the topic about a finding, by its key."""
    return derived_id("topic", finding)


def going_out(looked: Looked, told: Iterable[Told], by: str, on: str) -> Iterator[Sent]:
    """A topic for each finding, those of others with what was said of them among them, and theirs that are settled; one
    by one, since each is drawn.
    `by` brings up what is new, `on` date and time (ISO 8601)."""
    kept = {topic.guid: topic for topic in looked.all(Topic)}
    pieces = _Pieces(looked)
    asked = set()
    for one in told:
        topic = looked.get(one.found.about[0], Topic) if one.found.rule == "topic" else None
        if topic is None:
            found = kept.get(topic_guid(one.found.key))
            if one.stands is Stands.SOLVED and found is None:
                continue  # of which nobody was told
            topic = _of_finding(looked, one, found, by, on)
        asked.add(topic.guid)
        yield _sent(pieces, one.found, _answered(topic, one))
    for topic in kept.values():
        if topic.guid not in asked and topic.settled and not topic.finding:
            yield _sent(pieces, Found("topic", (topic.id, *topic.about), topic.title, at=topic.at), topic)


def _of_finding(looked: Looked, told: Told, kept: Topic | None, by: str, on: str) -> Topic:
    found, place = told.found, looked.place(told.found.at)
    title, _, _ = found.text.partition("; ")
    kind = "Clash" if found.rule in _CLASHES else "Remark" if found.severity is Severity.SAVING else "Issue"
    text = f"{found.text} At {place}." if place else found.text
    new = Topic(id="", guid=topic_guid(found.key), title=title.rstrip("."), by=by, on=on, finding=found.key)
    return msgspec.structs.replace(kept or new, title=title.rstrip("."), text=text, kind=kind,
        status="Closed" if told.stands is Stands.SOLVED else "Open")  # fmt: skip


def _answered(topic: Topic, told: Told) -> Topic:
    """A topic with what was said of its finding here."""
    verdict = told.verdict
    if told.stands is not Stands.ASIDE or verdict is None:
        return topic
    id = derived_id("remark", verdict.id, verdict.by, verdict.on, verdict.why)
    said = Remark(id, verdict.by, f"{verdict.on}T00:00:00", verdict.why)
    remarks = topic.remarks if any(r.id == id for r in topic.remarks) else (*topic.remarks, said)
    return msgspec.structs.replace(topic, status="Closed", remarks=remarks)


def remarked(looked: Looked, told: Iterable[Told], by: str, text: str, on: str) -> list[Topic]:
    """Records that add a remark to what is said of findings; none where nothing is said."""
    if not text.strip():
        return []
    kept = {topic.guid: topic for topic in looked.all(Topic)}
    found = []
    for one in told:
        topic = looked.get(one.found.about[0], Topic) if one.found.rule == "topic" else None
        topic = topic or _of_finding(looked, one, kept.get(topic_guid(one.found.key)), by.strip(), on)
        said = Remark(derived_id("remark", topic.guid, by, on, text), by.strip(), on, text.strip())
        found.append(msgspec.structs.replace(topic, id=f"topic:{topic.guid}", remarks=(*topic.remarks, said)))
    return found


# -- what it shows --------------------------------------------------------------------------------------------
class _Pieces:
    """The pieces of a job by what they are known by."""

    def __init__(self, looked: Looked) -> None:
        self.looked = looked
        self.by_id = {p.id: p for a in looked.assemblies.values() for p in a.pieces}
        self.made: dict[str, list[Piece]] = {}
        for piece in self.by_id.values():
            self.made.setdefault(piece.maker, []).append(piece)

    def of(self, about: str) -> list[Piece]:
        """What something a finding is about stands for: a piece, a member's own length, what a joint made."""
        root = about.partition("/")[0]
        own = self.by_id.get(about) or self.by_id.get(root)
        return [own] if own is not None else self.made.get(root, [])


def _sent(pieces: _Pieces, found: Found, topic: Topic) -> Sent:
    asked = found.about[1:] if found.rule == "topic" else found.about
    groups = [of for id in asked if (of := pieces.of(id))]
    colour = {p.id: _COLOURS[min(n, 1)] for n, of in reversed(list(enumerate(groups))) for p in of}
    at = found.at or next((_middle(p) for of in groups for p in of), None)
    coloured = []
    for paint in _COLOURS:
        ids = sorted(global_id(pieces.by_id[id]) for id in colour if colour[id] == paint)
        coloured += [("{:02X}{:02X}{:02X}".format(*paint), tuple(ids))] if ids else []
    view = topic.view or (viewed(at) if at is not None else None)
    if view is not None and not view.pieces:
        view = msgspec.structs.replace(view, pieces=tuple(id for _, ids in coloured for id in ids))
    shown = picture(_shapes(pieces, at, colour), view) if view is not None and at is not None else b""
    return Sent(msgspec.structs.replace(topic, view=view), tuple(coloured), shown)


def viewed(at: Point) -> Viewed:
    """The view of a place: from a corner above, all that is farther off than a storey's half cut off."""
    eye = np.asarray(at) + _FROM / np.linalg.norm(_FROM) * _ABOUT * 2.1
    way = -_FROM / np.linalg.norm(_FROM)
    up = np.cross(np.cross(way, (0.0, 0.0, 1.0)), way)
    up /= np.linalg.norm(up)
    cuts = tuple(
        (_point(np.asarray(at) + _ABOUT * side), _point(side))
        for side in (sign * axis for axis in np.eye(3) for sign in (-1.0, 1.0))
    )
    return Viewed(_point(eye), _point(way), _point(up), cuts=cuts)


def _shapes(pieces: _Pieces, at: Point | None, colour: dict[str, tuple[int, int, int]]) -> Iterator[Shape]:
    if at is None:
        return
    low, high = np.asarray(at) - _ABOUT, np.asarray(at) + _ABOUT
    box = Manifold.cube(tuple(high - low)).translate(tuple(low))
    near = pieces.looked.pieces_in(low, high)
    near.sort(key=lambda p: (p.id not in colour, float(np.linalg.norm(np.subtract(_middle(p), at)))))
    for piece in near[:_MOST_SHOWN]:
        frame = piece.placement
        body = solid(piece.part).transform(np.column_stack([frame.axes, frame.origin])) ^ box
        raw = body.to_mesh64()
        points = np.asarray(raw.vert_properties)[:, :3]
        yield Shape(points[np.asarray(raw.tri_verts, dtype=np.int64)], colour.get(piece.id, _PLAIN))


def _middle(piece: Piece) -> Point:
    frame: Placement = piece.placement
    return _point(frame.to_model((piece.part.length / 2, 0.0, 0.0)))


def _point(at: Sequence[float] | np.ndarray) -> Point:
    x, y, z = (float(v) for v in at)
    return x, y, z


# -- what comes back ------------------------------------------------------------------------------------------
def coming_in(looked: Looked, told: Iterable[Told], topics: Iterable[Topic]) -> list[Topic]:
    """What of topics that came from outside is new, as records: at our findings where they are about them, with all
    remarks that are there by now, and with the pieces they pick out where this job has them."""
    findings = {topic_guid(one.found.key): one for one in told}
    kept = {topic.guid: topic for topic in looked.all(Topic)}
    ours = {guid(id): id for id in looked.assemblies}
    ours |= {global_id(p): p.id for a in looked.assemblies.values() for p in a.pieces}
    found = []
    for topic in topics:
        was, one = kept.get(topic.guid), findings.get(topic.guid)
        picked = topic.view.pieces if topic.view else ()
        remarks = {r.id: r for r in (*(was.remarks if was else ()), *topic.remarks)}
        new = msgspec.structs.replace(topic, id=f"topic:{topic.guid}",
            finding=was.finding if was else one.found.key if one else "",
            about=tuple(dict.fromkeys(ours[id] for id in picked if id in ours)),
            remarks=tuple(sorted(remarks.values(), key=lambda r: (r.on, r.id))))  # fmt: skip
        if one is not None and new.finding and _says_nothing_new(new, was, one):
            continue
        if new != was:
            found.append(new)
    return found


def _says_nothing_new(topic: Topic, was: Topic | None, told: Told) -> bool:
    """Whether a topic about a finding of ours came back as it went out."""
    out = _answered(was or msgspec.structs.replace(topic, remarks=(), status="Open"), told)
    return topic.settled == out.settled and {r.id for r in topic.remarks} <= {r.id for r in out.remarks}
