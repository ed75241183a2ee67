"""What a connection brings: parts, features, bolts, rods, welds and findings."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from enum import StrEnum
from itertools import islice

import msgspec

from uncus.frame.placement import Placement, settled, settled_one
from uncus.job.records import End, Point
from uncus.steel.features import EndCut, Feature
from uncus.steel.part import Part
from uncus.words import QUOTED, sentence


class FastenerKind(StrEnum):
    BOLT = "bolt"
    ROD = "anchor rod"
    STUD = "stud"


# what goes with each of them besides itself, and how many
GOES_WITH: dict[FastenerKind, tuple[tuple[str, int], ...]] = {
    FastenerKind.BOLT: (("nut", 1), ("washer", 1)),
    FastenerKind.ROD: (("nut", 2), ("plate washer", 1)),
    FastenerKind.STUD: (("ferrule", 1),),
}


class WeldForm(StrEnum):
    FILLET = "fillet"
    GROOVE = "complete penetration groove"


class Severity(StrEnum):
    WRONG = "wrong"
    LOOK = "look here"
    SAVING = "saving"


class Finding(msgspec.Struct, frozen=True, gc=False):
    """Something about a piece or joint, in one sentence; `about` is a record's id."""

    about: str
    text: str
    severity: Severity = Severity.WRONG

    def __post_init__(self) -> None:
        if len(self.text) > QUOTED:  # it may repeat somebody's text
            msgspec.structs.force_setattr(self, "text", sentence(self.text))


class NewPart(msgspec.Struct, frozen=True, gc=False):
    """A part that a connection makes: `key` names it within the connection, `owner` is the member it is shop-fixed to;
    `shared`: a stiffener that is left out where another joint's plate stands in its place."""

    key: str
    part: Part
    placement: Placement
    owner: str
    words: str
    shared: bool = False


class Fasteners(msgspec.Struct, frozen=True, gc=False):
    """Bolts or rods of one size through the same plies: heads at `points` (model), shanks along `axis`."""

    key: str
    kind: FastenerKind
    size: str
    grade: str
    length: float
    grip: float
    points: tuple[Point, ...]
    axis: Point
    joins: tuple[str, ...]
    field: bool


class Weld(msgspec.Struct, frozen=True, gc=False):
    """A weld along a path (model) between two pieces: a fillet of leg `size`, or a groove weld through a thickness of
    `size`; `sides` 1 or 2; `root`: a gap between them that its leg is grown by."""

    key: str
    size: float
    path: tuple[Point, ...]
    joins: tuple[str, str]
    sides: int
    field: bool
    around: bool = False
    form: WeldForm = WeldForm.FILLET
    root: float = 0.0

    @property
    def length(self) -> float:
        """Length of weld metal, all sides."""
        steps = zip(self.path, self.path[1:], strict=False)
        return self.sides * sum(math.dist(p, q) for p, q in steps)


class Contribution(msgspec.Struct, frozen=True, gc=False):
    """All that one connection does. Features and cuts are in the frame of the member they belong to."""

    features: tuple[tuple[str, Feature], ...] = ()
    cuts: tuple[tuple[str, End, EndCut], ...] = ()
    parts: tuple[NewPart, ...] = ()
    fasteners: tuple[Fasteners, ...] = ()
    welds: tuple[Weld, ...] = ()
    findings: tuple[Finding, ...] = ()

    def moved(self, frame: Placement, names: Mapping[str, str]) -> Contribution:
        """The same where `frame` stands, by other names: each id, or what of one stands before a stroke, that
        `names` knows."""

        def named(id: str) -> str:
            whose, stroke, key = id.partition("/")
            return f"{names.get(whose, whose)}{stroke}{key}"

        def all_named(ids: Iterable[str]) -> tuple[str, ...]:
            return tuple(map(named, ids))

        places = [p for group in self.fasteners for p in group.points] + [p for weld in self.welds for p in weld.path]
        spots = iter(_moved(frame, places))
        fasteners = tuple(
            Fasteners(g.key, g.kind, g.size, g.grade, g.length, g.grip, tuple(islice(spots, len(g.points))),
                direction(frame.axes @ g.axis), all_named(g.joins), g.field)
            for g in self.fasteners
        )  # fmt: skip
        welds = tuple(
            Weld(w.key, w.size, tuple(islice(spots, len(w.path))), (named(w.joins[0]), named(w.joins[1])), w.sides,
                w.field, w.around, w.form, w.root)
            for w in self.welds
        )  # fmt: skip
        return Contribution(
            tuple((named(owner), feature) for owner, feature in self.features),
            tuple((named(owner), end, cut) for owner, end, cut in self.cuts),
            tuple(NewPart(p.key, p.part, frame @ p.placement, named(p.owner), p.words, p.shared) for p in self.parts),
            fasteners,
            welds,
            tuple(Finding(named(f.about), f.text, f.severity) for f in self.findings),
        )


def _moved(frame: Placement, points: list[Point]) -> list[Point]:
    """Points of a frame in the model, so finely that those of one joint stand to each other as they do in the frame
    however it is turned."""
    return [(x, y, z) for x, y, z in settled(frame.to_model(points), 8).tolist()] if points else []


def direction(v) -> Point:  # type: ignore[no-untyped-def]
    """A unit direction to nine places: enough to follow it over a building."""
    return round(float(v[0]), 9) + 0.0, round(float(v[1]), 9) + 0.0, round(float(v[2]), 9) + 0.0


def point(v) -> Point:  # type: ignore[no-untyped-def]
    """A model point to a thousandth of a mm."""
    return settled_one(float(v[0]), 3), settled_one(float(v[1]), 3), settled_one(float(v[2]), 3)
