"""Edits by hand hold on to the joints and parts of the piece that a sheet was drawn from; on another piece of its mark
they are put on what lies in the same places."""

from __future__ import annotations

import re
from collections import defaultdict

import msgspec
import numpy as np

from uncus.draw.subject import Subject, hole_key
from uncus.job.drawings import Drawing, Edit
from uncus.mark.content import part_content

Anchors = tuple[tuple[str, str], ...]
_MAIN = ""  # the anchor of the main part, which tells how the piece lies


def anchors_of(subject: Subject, edits: tuple[Edit, ...]) -> Anchors:
    """Where the joints and parts are that edits name, in words that are the same for every piece that lies alike."""
    named = msgspec.json.encode(edits).decode()
    places = {id: words for id, words in _places(subject).items() if id in named}
    return ((_MAIN, part_content(subject.main)), *sorted(places.items())) if edits else ()


def lies_as(hand: Drawing, main: str) -> bool:
    """Whether a piece whose main part has this fingerprint lies as the one that a sheet was edited on."""
    return dict(hand.anchors).get(_MAIN) == main


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
