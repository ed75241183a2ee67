"""What a piece's sheet shows: its bodies in the main part's frame, what is fixed to it, and what its ends meet."""

from __future__ import annotations

from collections.abc import Collection

import msgspec
import numpy as np

from uncus.draw.bracing import OnGusset
from uncus.draw.notches import slot_views
from uncus.draw.studs import Stud
from uncus.frame.placement import Placement
from uncus.job.records import Point
from uncus.steel.features import EndCut, Face, Hole
from uncus.steel.forming import formed, laid_flat
from uncus.steel.joint import Weld
from uncus.steel.part import Part, rolled
from uncus.steel.profile import ROUNDS, hole_spot

_PLIES = 80.0  # mm between the middles of two plies that one bolt goes through
_ALONG = 25  # places along a rolled length whose corners are asked for
_ON = 1.0  # mm within which a plate stands on a surface
_STRAIGHT = 0.9998
SQUARE = 0.5  # degrees of skew or slope under which an end meets its support square
_APART = 60.0  # mm along the piece within which plates stand at one station


class Fixed(msgspec.Struct, frozen=True):
    """A part fixed to the main one: placed in its frame, with its mark and weld, and the axis its plane is square
    to. `id` is what it is within the assembly: the joint that made it and its name there."""

    id: str
    part: Part
    place: Placement
    mark: str
    weld: Weld | None
    normal: str  # x, y, z or "" where it is skewed

    @property
    def centre(self) -> np.ndarray:
        low, high = self.part.depth_range
        return self.place.to_model((self.part.length / 2, 0.0, (low + high) / 2))

    @property
    def corners(self) -> np.ndarray:
        """The corners of the room it takes, (n, 3) in the main part's frame: a plate's own, bent as it is."""
        return self.place.to_model(corners(self.part))

    def box(self) -> tuple[np.ndarray, np.ndarray]:
        """Least and greatest corner in the main part's frame."""
        corners = self.corners
        return corners.min(axis=0), corners.max(axis=0)

    def root(self, main: Part) -> np.ndarray | None:
        """Of a plate on the skew, the corners that stand on the main part's flange or web, (n, 3); None where none
        does."""
        assert main.section is not None
        corners, s = self.corners, main.section
        for axis, half in ((2, s.d / 2), (1, s.b / 2), (1, s.tw / 2)):
            off = np.abs(np.abs(corners[:, axis]) - half)
            if (off < _ON).sum() >= 2 and np.abs(corners[off < _ON][:, axis]).max() <= np.abs(
                corners[:, axis]
            ).min() + _ON:
                return corners[off < _ON]  # type: ignore[no-any-return]
        return None

    def bolted_to(self, part: Part, at: Placement) -> bool:
        """Whether two bolts or more go through it and another part."""
        if not (self.part.holes and part.holes):
            return False
        mine = [_spot(self.part, h) for h in self.part.holes]
        spots = at.to_local(self.place.to_model(formed(self.part, mine) if self.part.bends else mine))
        pairs = 0
        for hole in part.holes:
            off = np.abs(spots - np.array(_spot(part, hole)))
            normal = 1 if part.section is None or hole.face.upright else 2
            deep = off[:, normal].copy()
            off[:, normal] = 0.0
            pairs += int(((np.linalg.norm(off, axis=1) < _ON) & (deep < _PLIES)).any())
        return pairs > 1

    @property
    def is_member(self) -> bool:
        """A member of its own, welded on: a truss's web or other chord."""
        return self.part.section is not None and "/" not in self.id

    @property
    def has_axis(self) -> bool:
        """Whether it is a member set out by its axis: one that climbs is set out by its plan."""
        return self.is_member and self.part.coil is None

    @property
    def end_on(self) -> bool:
        """Whether it is a member that runs through or from the main part straight towards who looks at the front, as
        the rungs of a ladder do."""
        return self.has_axis and abs(float(self.place.x[1])) > _STRAIGHT

    @property
    def shows_across(self) -> bool:
        """Whether a section across the main part shows best how it stands."""
        return self.normal == "x" or (self.normal == "" and self.part.is_plate and abs(float(self.place.y[0])) < 0.02)

    @property
    def turned(self) -> float:
        """Degrees by which a plate's plane is turned out of the nearest of the main part's own."""
        return float(np.degrees(np.arccos(min(1.0, np.abs(self.place.y).max()))))

    def on_cut(self, main: Part) -> bool:
        """Whether it lies on a sloping or skewed end: the end's own bevel says how it stands."""
        for cut in (main.left, main.right):
            n = np.array([1.0, -cut.ky, -cut.kz])
            off = np.abs(self.corners @ n - cut.at).min() / float(np.linalg.norm(n))
            if not cut.square and off < _ON and abs(float(self.place.y @ n)) > 0.9998 * float(np.linalg.norm(n)):
                return True
        return False


class Meets(msgspec.Struct, frozen=True):
    """What an end of the main part meets: the support's side is the plane x = at + ky y + kz z of its frame; `skew` and
    `slope` in degrees, in words what it frames to, and the support's steel near by."""

    right: bool
    at: float
    ky: float
    kz: float
    skew: float
    slope: float
    words: str
    stub: tuple[Part, Placement] | None = None


class EndWelds(msgspec.Struct, frozen=True, order=True):
    """Welds alike that are made on site at an end of the main part: how many, each `length` long along one side."""

    right: bool
    size: float
    length: float
    number: int


class Section(msgspec.Struct, frozen=True):
    """A section across the main part at `x`: what is fixed there, and which other places look like it; `named` keeps
    the name of one that was cut elsewhere by hand."""

    x: float
    fixed: tuple[Fixed, ...]
    others: tuple[float, ...]
    at_end: bool
    named: str = ""

    @property
    def view(self) -> str:
        return f"section {self.key}"

    @property
    def key(self) -> str:
        return self.named or min((f.id for f in self.fixed), default=f"x{round(self.x)}")


class Subject(msgspec.Struct, frozen=True):
    """`sources` name the joint behind each of the main part's holes; `works` are the work points along it; `levels`
    (x, words) what levels an upright piece passes; `faces` the compass letters of its near, far, top and bottom
    sides, and `framing` what frames to each: its letter, at what height in the building, and the mark."""

    main: Part
    fixed: tuple[Fixed, ...] = ()
    sources: tuple[str, ...] = ()
    works: tuple[float, float] | None = None
    meets: tuple[Meets, ...] = ()
    levels: tuple[tuple[float, str], ...] = ()
    faces: tuple[tuple[str, str], ...] = ()
    rolled_as: Part | None = None  # the main part as it is once it is rolled or bent
    studs: tuple[Stud, ...] = ()
    framing: tuple[tuple[str, float, str], ...] = ()
    bracing: tuple[OnGusset, ...] = ()  # how it lies on gussets, wherever it stands
    end_welds: tuple[EndWelds, ...] = ()
    bases: tuple[
        tuple[str, float], ...
    ] = ()  # by what a column is levelled, and the grout under it, wherever it stands
    zones: tuple[tuple[float, float], ...] = ()  # protected in an earthquake, wherever it stands, along it
    stood: Placement | None = None  # where a formed main part is among what is fixed to it, plumb; else at their frame
    pins: tuple[float, ...] = ()  # of a tie rod: where the pins of its clevises are along it
    up: Point | None = None  # of what turns corners: which way is up in the main part's frame

    @property
    def is_tie(self) -> bool:
        return bool(self.pins)

    @property
    def bodies(self) -> list[tuple[Part, Placement]]:
        if self.stood is not None and self.rolled_as is not None:
            return [(self.rolled_as, self.stood), *((f.part, f.place) for f in self.fixed)]
        return [(self.main, Placement.identity()), *((f.part, f.place) for f in self.fixed)]

    def is_bolted(self, f: Fixed) -> bool:
        """Whether bolts through holes of the main part, or of what is welded to it, put a part in its place."""
        if f.bolted_to(self.main, Placement.identity()):
            return True
        held = [g for g in self.fixed if g.weld is not None and g is not f]
        return f.weld is None and any(f.bolted_to(g.part, g.place) for g in held)

    def source(self, hole: int) -> str:
        return self.sources[hole] if hole < len(self.sources) else "own"

    @property
    def views(self) -> list[str]:
        """Top and bottom only where they say something that the front does not."""
        names = ["front"]
        faces = {h.face for h in self.main.holes}
        skewed = abs(self.main.left.ky) > 1e-4 or abs(self.main.right.ky) > 1e-4
        # a plate turned out of the front's plane shows how it stands from above
        skewed |= any(
            f.normal == "" and abs(float(f.place.y[1])) > 0.01 and not f.on_cut(self.main) for f in self.fixed
        )
        skewed |= any(abs(m.skew) > SQUARE for m in self.meets)
        # and studs on the front, or on the top, how they stand and where
        slots = slot_views(self.main)
        # and a member that lies beside the main one, such as the other stringer of a flight
        skewed |= any(f.has_axis and abs(float(f.centre[1])) > _APART for f in self.fixed)
        if Face.TOP in faces or any(f.normal == "z" for f in self.fixed) or skewed or self.studs or "top" in slots:
            names.insert(0, "top")
        if Face.BOTTOM in faces or "bottom" in slots:
            names.append("bottom")
        return names

    def sections(self, beside: Collection[str] = ()) -> list[Section]:
        """One section for each different set of plates that stand across the main part, or along it but turned about
        it; none across a plate, nor of what is shown `beside` in a view of its own."""
        if self.main.section is None:
            return []
        shown = (f for f in self.fixed if f.shows_across and not f.is_member and f.id not in beside)
        across = sorted(shown, key=lambda f: float(f.centre[0]))
        stations: list[list[Fixed]] = []
        for f in across:
            if stations and abs(stations[-1][0].centre[0] - f.centre[0]) < _APART:
                stations[-1].append(f)
            else:
                stations.append([f])
        found: dict[tuple[object, ...], Section] = {}
        for station in stations:
            x = float(np.mean([f.centre[0] for f in station]))
            key = tuple(sorted((f.mark, *np.round(f.centre[1:], 0).tolist()) for f in station))
            known = found.get(key)
            if known:
                found[key] = msgspec.structs.replace(known, others=(*known.others, x))
            else:
                end = x < 30 or x > self.main.length - 30
                found[key] = Section(x, tuple(station), (), end)
        return list(found.values())

    def section_at(self, x: float) -> Section:
        """A section asked for at a place: with the plates that stand across near it."""
        near = tuple(f for f in self.fixed if f.shows_across and abs(float(f.centre[0]) - x) < _APART)
        return Section(x, near, (), False)

    def section_bodies(self, section: Section) -> list[tuple[Part, Placement]]:
        """A short stub of the main part with what is fixed at the section."""
        assert self.main.section is not None
        stub, _ = rolled(self.main.section, "", "", EndCut(0.0), EndCut(20.0))
        start = section.x - 10.0
        if section.at_end:  # the stub stands behind the plate, as the member does
            start = 0.0 if section.x < self.main.length / 2 else self.main.length - 20.0
        shown = (*section.fixed, *self.passing(section))
        return [(stub, Placement((start, 0, 0), np.eye(3))), *((f.part, f.place) for f in shown)]

    def passing(self, section: Section) -> list[Fixed]:
        """Plates along the main part that a section cuts through: doublers, and what stands behind stiffeners."""
        if section.at_end:
            return []
        ranges = ((f, f.box()) for f in self.fixed if f.normal in ("y", "z"))
        return [f for f, (near, far) in ranges if near[0] < section.x - 1.0 and far[0] > section.x + 1.0]


def corners(part: Part) -> np.ndarray:
    """The corners of the room a part takes, (n, 3) in its own frame: a plate's own, bent as it is, those of what is
    rolled at places along it."""
    y0, y1 = part.y_range
    if part.is_plate:
        flat = [(x, y, z) for x, z in part.outline for y in (y0, y1)]
    else:
        xs = np.linspace(0.0, part.length, _ALONG if part.is_formed else 2)
        flat = [(x, y, z) for x in xs for y in (y0, y1) for z in part.depth_range]
    return formed(part, flat) if part.is_formed else np.array(flat)


def of_part(part: Part) -> Subject:
    return Subject(laid_flat(part), rolled_as=part if part.is_formed else None)


def _spot(part: Part, hole: Hole) -> tuple[float, float, float]:
    """The middle of a hole in a part's own frame."""
    if part.section is None or part.section.form in ROUNDS:
        return hole.x, 0.0, hole.w
    x, y, z = hole_spot(part.section, hole)
    return float(x), float(y), float(z)


def normal_of(place: Placement) -> str:
    along = np.abs(place.y)
    return "xyz"[int(along.argmax())] if along.max() > 0.9998 else ""


def hole_key(hole: Hole) -> tuple[object, ...]:
    """What tells a hole of a part from its others."""
    return str(hole.face), round(hole.x, 1), round(hole.w, 1)
