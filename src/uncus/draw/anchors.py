"""Edits by hand hold on to the joints and parts of the piece that a sheet was drawn from; on another piece of its mark
they are put on what lies in the same places. A piece that lies the other way round (end for end, upside down) has its
ends and sides under other names: there they are set aside and told, as they would be made at the wrong end."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable

import msgspec
import numpy as np

from uncus.draw.subject import Fixed, Subject, hole_key
from uncus.frame.placement import Placement
from uncus.job.drawings import Drawing, Edit
from uncus.job.records import Point
from uncus.mark.content import part_content
from uncus.mark.sameness import maps
from uncus.steel.joint import point
from uncus.steel.part import Part

Anchors = tuple[tuple[str, str], ...]
_MAIN = ""  # the anchor that tells how the piece lies
_NEAR = 5.0  # mm within which what is fixed lies where it did


class Lie(msgspec.Struct, frozen=True):
    """How a piece lies in its main part's frame: that part, straight and flat, and the middles of what is fixed."""

    main: Part
    fixed: tuple[Point, ...] = ()

    def way(self, new: Lie) -> Placement | None:
        """How this piece is turned so that it lies as another of its mark: None where it is as it is, or where the
        two are not the same any more (one was changed since)."""
        ways = maps(self.main, new.main)
        if not ways:
            return None
        held = [self._held(way, new) for way in ways]
        best = max(held)
        still = [np.allclose(way.axes, np.eye(3), atol=1e-3) for way in ways]
        if any(n == best and same for n, same in zip(held, still, strict=True)):
            return None
        return ways[held.index(best)]

    def _held(self, way: Placement, new: Lie) -> int:
        """How many of what is fixed there is at its place, turned so, in the other."""
        if not (self.fixed and new.fixed):
            return 0
        off = way.to_model(np.array(self.fixed))[:, None] - np.array(new.fixed)[None]
        return int((np.abs(off).max(axis=2).min(axis=1) < _NEAR).sum())


def lie_of(subject: Subject) -> Lie:
    return Lie(subject.main, _middles(subject.fixed))


def _middles(fixed: Iterable[Fixed]) -> tuple[Point, ...]:
    return tuple(point(np.round(sum(f.box()) / 2, 1) + 0.0) for f in fixed)


def anchors_of(subject: Subject, edits: tuple[Edit, ...]) -> Anchors:
    """Where the joints and parts are that edits name, in words that are the same for every piece that lies alike."""
    named = msgspec.json.encode(edits).decode()
    places = {id: words for id, words in _places(subject).items() if id in named}
    lie = msgspec.json.encode(lie_of(subject)).decode()
    return ((_MAIN, lie), *sorted(places.items())) if edits else ()


def _lay(hand: Drawing) -> Lie | None:
    """How the piece lay that a sheet was edited on; None where only its fingerprint was kept, as once."""
    try:
        return msgspec.json.decode(dict(hand.anchors).get(_MAIN, ""), type=Lie)
    except msgspec.DecodeError:
        return None


def lies_as(hand: Drawing, main: Part) -> bool:
    """Whether a piece with this main part, straight and flat, lies to all appearance as the one that a sheet was
    edited on."""
    lay = _lay(hand)
    return lay.main == main if lay else dict(hand.anchors).get(_MAIN) == part_content(main)


def turned(hand: Drawing, subject: Subject) -> Placement | None:
    """How the piece that a sheet was edited on is turned to lie as this one of its mark; None where it lies so."""
    lay = _lay(hand)
    return lay.way(lie_of(subject)) if lay else None


def set_aside(hand: Drawing, subject: Subject) -> tuple[Drawing, tuple[Edit, ...]]:
    """What was done by hand as it holds for a piece: put on its own joints and parts; or, where it lies the other way
    round, the edits apart, and the sections added where they were on the steel."""
    way = turned(hand, subject)
    if way is None:
        return followed(hand, subject), ()
    ends = float(way.axes[0, 0]) < 0
    cuts = tuple(subject.main.length - x if ends else x for x in hand.sections)
    return msgspec.structs.replace(hand, edits=(), sections=cuts), hand.edits


def followed(hand: Drawing, subject: Subject) -> Drawing:
    """What was done by hand, put on the joints and parts of another piece of the mark; as it is where all are there."""
    places = _places(subject)
    away = [(id, words) for id, words in hand.anchors if id != _MAIN and id not in places]
    if not away:
        return hand
    free: dict[str, list[str]] = defaultdict(list)
    for id, words in sorted(places.items()):
        if id not in dict(hand.anchors):
            free[words].append(id)
    text, moved = msgspec.json.encode(hand.edits).decode(), dict(hand.anchors)
    for id, words in sorted(away, key=lambda one: -len(one[0])):  # a part's id begins with that of its joint
        if free[words]:
            new = free[words].pop(0)
            text = re.sub(rf"(?<![\w-]){re.escape(id)}(?![\w-])", new.replace("\\", r"\\"), text)
            moved[new] = moved.pop(id)
    edits = msgspec.json.decode(text, type=tuple[Edit, ...])
    return msgspec.structs.replace(hand, edits=edits, anchors=tuple(sorted(moved.items())))


def _places(subject: Subject) -> dict[str, str]:
    """Of each part that is fixed on its own shape and place, of each joint the holes it makes in the main part."""
    found = {}
    for f in subject.fixed:
        axes = (np.round(f.place.axes, 2) + 0.0).ravel().tolist()
        found[f.id] = f"{part_content(f.part)} {(np.round(f.place.origin, 0) + 0.0).tolist()} {axes}"
    holes: dict[str, list[str]] = defaultdict(list)
    for hole, source in zip(subject.main.holes, subject.sources, strict=False):
        if source != "own":
            holes[source].append(str(hole_key(hole)))
    return found | {source: " ".join(sorted(keys)) for source, keys in holes.items()}
