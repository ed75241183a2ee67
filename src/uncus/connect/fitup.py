"""Fitting up a joint: plates, lengths, bolts and welds put together in the model, their holes made in every ply alike.

A kind says where a bolt goes once, in the model; each ply it passes gets its hole there in its own frame, so holes line
up whatever the skew, slope or roll of what they are in.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from uncus.catalog.bolts import BoltSize, HoleKind, bolt_length, bolt_size
from uncus.catalog.sections import Section
from uncus.connect.kind import Placed, up_to
from uncus.frame.placement import Placement, Vec, settled_one, unit
from uncus.job.records import End
from uncus.steel import profile
from uncus.steel.features import EndCut, Face, Feature, Hole
from uncus.steel.flats import flats
from uncus.steel.forming import Bend, Item
from uncus.steel.joint import (
    Contribution,
    FastenerKind,
    Fasteners,
    Finding,
    NewPart,
    Severity,
    Weld,
    WeldForm,
    direction,
    point,
)
from uncus.steel.part import plate, rolled
from uncus.units import Units

_SQUARE = 1e-4  # how far a bolt may be out of square with a ply, in radians


class _Draft:
    """A new part before it is made: a plate's outline or a section's length, and what is done to it."""

    __slots__ = (
        "bends",
        "cuts",
        "features",
        "finish",
        "frame",
        "grade",
        "item",
        "key",
        "outline",
        "owner",
        "section",
        "shared",
        "thickness",
        "words",
    )

    def __init__(self, key: str, frame: Placement, owner: str, words: str, grade: str) -> None:
        self.key, self.frame, self.owner, self.words, self.grade = key, frame, owner, words, grade
        self.outline: list[tuple[float, float]] = []
        self.thickness = 0.0
        self.shared = False
        self.section: Section | None = None
        self.cuts = (EndCut(0.0), EndCut(0.0))
        self.features: list[Feature] = []
        self.bends: tuple[Bend, ...] = ()
        self.item: Item | None = None
        self.finish = ""


class Wall(msgspec.Struct, frozen=True, eq=False):
    """A flat thickness of steel that a bolt can pass: which piece and face, its frame, middle and thickness."""

    piece: str
    face: Face
    frame: Placement
    mid: float
    thickness: float
    upright: bool

    @property
    def normal(self) -> Vec:
        return self.frame.y if self.upright else self.frame.z

    def middle(self, at: Vec, axis: Vec) -> float:
        """How far along `axis` from `at` the middle of the wall is."""
        local = self.frame.to_local(at)
        here = local[1] if self.upright else local[2]
        return float((self.mid - here) * (self.normal @ axis))


class Fitup:
    """What a kind builds with; `done` gives the contribution."""

    FILLET = WeldForm.FILLET
    GROOVE = WeldForm.GROOVE

    def __init__(self, joint: Placed) -> None:
        self.joint = joint
        self.rules = joint.rules
        self.units = joint.units
        self.inch = joint.units is Units.IMPERIAL
        self.about = joint.record.id
        self._stock = {s.id: s for body in joint.bodies for s in body.stock}
        self._drafts: dict[str, _Draft] = {}
        self._features: list[tuple[str, Feature]] = []
        self._cuts: list[tuple[str, End, EndCut]] = []
        self._fasteners: list[Fasteners] = []
        self._welds: list[Weld] = []
        self._findings: list[Finding] = []

    # -- parts ------------------------------------------------------------------------------------
    def plate(
        self,
        key: str,
        frame: Placement,
        outline: Iterable[tuple[float, float]],
        thickness: float,
        owner: str,
        words: str,
        grade: str = "",
        shared: bool = False,
        bends: Iterable[Bend] = (),
        item: Item | None = None,
        finish: str = "",
    ) -> str:
        """A plate lying in x and z of `frame`, half its thickness to either side; its id. One that is `shared` is
        left out where another joint's plate stands in its place. `bends` fold it; an `item` is bought as it is."""
        draft = _Draft(key, frame, owner, words, grade or self.rules.plate_grade)
        draft.bends, draft.item, draft.finish = tuple(bends), item, finish
        draft.outline, draft.thickness, draft.shared = list(outline), thickness, shared
        return self._keep(draft)

    def length(
        self,
        key: str,
        frame: Placement,
        section: Section,
        length: float,
        owner: str,
        words: str,
        grade: str,
        cuts: tuple[EndCut, EndCut] | None = None,
        features: Sequence[Feature] = (),
    ) -> str:
        """A rolled length along x of `frame`, its section's middle on that axis; its id."""
        draft = _Draft(key, frame, owner, words, grade)
        draft.section, draft.cuts = section, cuts or (EndCut(0.0), EndCut(length))
        draft.features += features
        return self._keep(draft)

    def _keep(self, draft: _Draft) -> str:
        id = f"{self.about}/{draft.key}"
        if id in self._drafts:
            raise ValueError(f"two parts of this joint are called {draft.key}")
        self._drafts[id] = draft
        return id

    def outline(self, piece: str) -> list[tuple[float, float]]:
        """The outline of a plate that was made before, in its own frame."""
        return self._drafts[piece].outline

    # -- what is done to members ------------------------------------------------------------------
    def feature(self, piece: str, feature: Feature) -> None:
        """A feature of a member's piece or of a new part, in its own frame."""
        if piece in self._drafts:
            self._drafts[piece].features.append(feature)
        else:
            self._features.append((piece, feature))

    def cut(self, member: str, end: End, cut: EndCut) -> None:
        self._cuts.append((member, end, cut))

    # -- holes and bolts --------------------------------------------------------------------------
    def wall(self, piece: str, at: Vec, axis: Vec) -> Wall:
        """The wall of a piece that is square to `axis` and nearest to `at`. Raises ValueError where there is none."""
        draft = self._drafts.get(piece)
        if draft is not None and draft.section is None:
            shape = tuple((float(x), float(z)) for x, z in draft.outline)
            frames = [draft.frame @ one.place for one in flats(shape, draft.bends, draft.thickness)]
            walls = [Wall(piece, Face.WEB, frame, 0.0, draft.thickness, True) for frame in frames]
        else:
            section, frame = (draft.section, draft.frame) if draft else self._rolled(piece)
            assert section is not None
            walls = [
                Wall(piece, face, frame, w.mid, w.thickness, w.upright) for face, w in profile.faces(section).items()
            ]
        square = [w for w in walls if abs(float(w.normal @ axis)) > 1 - _SQUARE]
        if not square:
            raise ValueError(
                f"no flat side of {self.name(piece)} is square to its bolts; weld it, or choose another kind."
            )
        return min(square, key=lambda w: abs(w.middle(at, axis)))

    def _rolled(self, piece: str) -> tuple[Section, Placement]:
        stock = self._stock[piece]
        return stock.section, stock.frame

    def name(self, piece: str) -> str:
        """A piece in words."""
        if piece in self._drafts:
            return f"the {self._drafts[piece].words}"
        owner = piece.partition("/")[0]
        body = next((b for b in self.joint.bodies if b.id == owner), None)
        return f"the {body.words}" if body else "the steel"

    def hole(self, wall: Wall, at: Vec, size: tuple[float, float], along: Vec | None = None) -> None:
        """A hole of (diameter, slot length) through a wall; a slot's long side lies along a direction of the model."""
        local = wall.frame.to_local(at)
        d, slot = size
        angle = 0.0
        if slot and along is not None:
            run = wall.frame.axes.T @ along
            angle = math.degrees(math.atan2(run[2] if wall.upright else run[1], run[0]))
        self.feature(
            wall.piece, Hole(wall.face, float(local[0]), float(local[2 if wall.upright else 1]), d, slot, angle)
        )

    def bolts(
        self,
        key: str,
        size: BoltSize,
        points: Sequence[Vec],
        axis: Vec,
        pieces: Sequence[str],
        field: bool,
        holes: dict[str, HoleKind] | None = None,
        along: Vec | None = None,
    ) -> Fasteners:
        """Bolts of one size through the same pieces: shanks along `axis`, `points` anywhere near the faying surface.

        `holes` says the kind of hole of the pieces that have no standard ones. Raises ValueError where a piece has no
        flat side square to the bolts.
        """
        axis = unit(axis)
        heads, grip = [], 0.0
        for at in points:
            walls = [self.wall(piece, at, axis) for piece in pieces]
            for wall in walls:
                kind = (holes or {}).get(wall.piece, HoleKind.STANDARD)
                self.hole(wall, at, size.hole_size(kind), along)
            mids = [w.middle(at, axis) for w in walls]
            first = min(m - w.thickness / 2 for m, w in zip(mids, walls, strict=True))
            last = max(m + w.thickness / 2 for m, w in zip(mids, walls, strict=True))
            grip = max(grip, last - first)
            heads.append(point(at + axis * first))
        made = Fasteners(
            key,
            FastenerKind.BOLT,
            size.name,
            self.rules.bolt_grade,
            bolt_length(size, grip),
            grip,
            tuple(heads),
            direction(axis),
            tuple(pieces),
            field=field,
        )
        self._fasteners.append(made)
        return made

    def fasteners(self, made: Fasteners) -> None:
        """Fasteners set out by the kind itself, such as anchor rods."""
        self._fasteners.append(made)

    def size(self, name: str | None) -> BoltSize:
        return bolt_size(name or self.rules.bolt)

    def stocked(self, thickness: float) -> float:
        """The least thickness of plate in stock that is not less."""
        return next((t for t in sorted(self.rules.stock) if t >= thickness - 0.05), thickness)

    # -- welds ------------------------------------------------------------------------------------
    def weld(
        self,
        key: str,
        size: float,
        path: Sequence[Vec],
        joins: tuple[str, str],
        sides: int = 2,
        field: bool = False,
        around: bool = False,
        form: WeldForm = WeldForm.FILLET,
        root: float = 0.0,
    ) -> None:
        """A weld along a path in the model; a fillet over a gap at its `root` gets so much more leg."""
        size, root = settled_one(size + root, 4), settled_one(root, 4)
        made = Weld(key, size, tuple(point(p) for p in path), joins, sides, field, around, form, root)
        self._welds.append(made)

    def leg(self, thickness: float) -> float:
        """The fillet that goes with a plate so thick, welded both sides: 5/8 of it, up to the next sixteenth or mm."""
        return max(self.rules.tab_weld, up_to(thickness * 5 / 8, self.inch, 1 / 16, 1))

    # -- findings ---------------------------------------------------------------------------------
    def find(self, text: str, severity: Severity = Severity.WRONG) -> None:
        finding = Finding(self.about, text, severity)
        if finding not in self._findings:
            self._findings.append(finding)

    def look(self, text: str) -> None:
        self.find(text, Severity.LOOK)

    # -- the end ----------------------------------------------------------------------------------
    def done(self) -> Contribution:
        """The contribution; the finish of what is made is its owner's, unless it has one of its own."""
        made = []
        for draft in self._drafts.values():
            if draft.section is None:
                part = plate(
                    draft.outline, draft.thickness, draft.grade, draft.finish, draft.features, draft.bends, draft.item
                )
                shift = min(x for x, _ in draft.outline)
            else:
                part, shift = rolled(draft.section, draft.grade, "", *draft.cuts, draft.features)
            made.append(
                NewPart(draft.key, part, draft.frame.moved((shift, 0.0, 0.0)), draft.owner, draft.words, draft.shared)
            )
        return Contribution(
            tuple(self._features),
            tuple(self._cuts),
            tuple(made),
            tuple(self._fasteners),
            tuple(self._welds),
            tuple(self._findings),
        )

    def refused(self, text: str) -> Contribution:
        """No joint, and why: the record stays and the joint comes back when it can be made."""
        return Contribution(findings=(Finding(self.about, text),))


def axes_of(x: Vec, z: Vec) -> np.ndarray:
    """Right-handed axes (3, 3) with x and z given, square to each other."""
    return np.column_stack([x, np.cross(z, x), z])


def rectangle(x0: float, x1: float, z0: float, z1: float) -> list[tuple[float, float]]:
    """A rectangle's corners, counter-clockwise."""
    return [(x0, z0), (x1, z0), (x1, z1), (x0, z1)]
