"""Things of many parts that stay one: a kind, values, and the points that they hang on."""

from __future__ import annotations

import math
from typing import Any

import msgspec

from uncus.job.record import FAR, Point, Record

FACES = ("", "top", "bottom", "near", "far")


class Anchor(msgspec.Struct, frozen=True, gc=False, omit_defaults=True):
    """A point that something hangs on: in the model; or `on` a level, its height measured from there; or on a member,
    `at` in the frame of its section (along from the left work point, across, up), what is square to `face` measured
    from that side of it."""

    at: Point
    on: str = ""
    face: str = ""

    def problem(self) -> str | None:
        if not all(math.isfinite(n) and abs(n) < FAR for n in self.at):
            return "a point of it is no place, or is out of reach"
        return None if self.face in FACES else f"a point of it lies on one of {', '.join(FACES[1:])}"


class Composite(Record, frozen=True, tag=True):
    """A stair, a rail, a transition: its members, plates and joints are made of `kind`, `anchors` and `params`, and are
    records of their own, which name it as their `maker`. What was changed on them by hand is kept in `hand`, by the key
    of each within it: the values of fields (of a point, by how much it was moved), or nothing for one that was taken
    out."""

    kind: str
    name: str = ""
    anchors: tuple[Anchor, ...] = ()
    params: dict[str, Any] = msgspec.field(default_factory=dict)
    hand: dict[str, dict[str, Any] | None] = msgspec.field(default_factory=dict)

    @property
    def words(self) -> str:
        return f"{self.kind} {self.name}".strip()

    def problem(self) -> str | None:
        wrong = next((p for a in self.anchors if (p := a.problem())), None)
        return f"The {self.words} cannot be kept: {wrong}." if wrong else None
