"""Shapes for IFC4 (ISO 16739-1:2018): swept parts by their parametric profile and length, end cuts as half spaces;
copes, notches and holes as openings. Each shape is written once and mapped to all that have it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from uncus.catalog.bolts import BoltSize, bolt_sizes, rod_sizes, stud_diameter
from uncus.catalog.sections import Form, Section
from uncus.frame.placement import Placement
from uncus.job.record import Point
from uncus.reference.step import StepFile, real, reals, refs, text
from uncus.steel import profile
from uncus.steel.features import Cope, EndCut, Hole, Notch, Saddle, Thread
from uncus.steel.flat import cope_outline, notch_range
from uncus.steel.joint import FastenerKind, Fasteners
from uncus.steel.part import Part
from uncus.steel.solid import mesh

Array = NDArray[np.float64]
_FLAT = np.eye(3)
_ACROSS = np.column_stack([(1, 0, 0), (0, 0, 1), (0, -1, 0)])  # x and z of a part swept towards its -y
_ALONG = np.column_stack([(0, 1, 0), (0, 0, 1), (1, 0, 0)])  # y and z of a part swept along it
_HOLE_OVER = 2.0  # mm by which an opening stands over what it goes through
_COPE_OVER = 5.0


def shank(group: Fasteners) -> float:
    """Diameter of a bolt's, rod's or stud's shank."""
    if group.kind is FastenerKind.STUD:
        return stud_diameter(group.size)
    return rod_sizes()[group.size].d if group.kind is FastenerKind.ROD else bolt_sizes()[group.size].d


def along(axis: Point) -> Array:
    """Axes whose z runs along a unit direction."""
    x, y, z = axis
    side = (0.0, z, -y) if abs(x) < 0.9 else (-z, 0.0, x)  # square to it and to one of the model's axes
    size = math.hypot(*side)
    first = tuple(c / size for c in side)
    return np.column_stack([first, np.cross(axis, first), axis])


class Disc(NamedTuple):
    """What stands on a bolt's shank: whether it has six corners, its radius (to them), from where and how deep, in mm
    along the shank from the underside of the head."""

    six: bool
    radius: float
    at: float
    deep: float


def discs(bolt: BoltSize, grip: float) -> tuple[Disc, Disc, Disc]:
    """The head before the plies; behind them a washer, and the nut on it."""
    corner = bolt.head_flats / math.sqrt(3)
    washer = Disc(False, bolt.washer_od / 2, grip, bolt.washer_t)
    nut = Disc(True, corner, grip + bolt.washer_t, bolt.nut_height)
    return Disc(True, corner, -bolt.head_height, bolt.head_height), washer, nut


class Shapes:
    """Points, placements and bodies of one file; `body` and `axis` are its contexts."""

    def __init__(self, file: StepFile) -> None:
        self.file = file
        self.body = self.axis = ""
        self._parts: dict[Part, str] = {}
        self._voids: dict[Part, tuple[str, ...]] = {}
        self._fasteners: dict[tuple[object, ...], str] = {}
        self._shown: dict[str, str] = {}

    # -- places -------------------------------------------------------------------------------------------------
    def point(self, *xyz: float) -> str:
        return self.file.once(f"IFCCARTESIANPOINT({reals(xyz)})")

    def direction(self, v: Iterable[float]) -> str:
        return self.file.once(f"IFCDIRECTION({reals(v, 9)})")

    def axis3(self, at: Iterable[float], axes: Array = _FLAT) -> str:
        return self.file.once(f"IFCAXIS2PLACEMENT3D({self.point(*at)},{self.turned(axes)})")

    def turned(self, axes: Array) -> str:
        """How a placement's z and x lie."""
        if axes is _FLAT:
            return "$,$"
        return f"{self.direction(axes[:, 2].tolist())},{self.direction(axes[:, 0].tolist())}"

    @property
    def _flat(self) -> str:
        """Where a profile lies: as it is given."""
        return self.file.once(f"IFCAXIS2PLACEMENT2D({self.point(0.0, 0.0)},$)")

    def local(self, place: Placement, parent: str) -> str:
        return self.file.put(f"IFCLOCALPLACEMENT({parent},{self.axis3(place.origin.tolist(), place.axes)})")

    def polyline(self, points: Iterable[Iterable[float]], closed: bool = True) -> str:
        found = [self.point(*p) for p in points]
        return self.file.put(f"IFCPOLYLINE({refs([*found, found[0]] if closed else found)})")

    def area(self, points: Iterable[tuple[float, float]]) -> str:
        return self.file.put(f"IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,$,{self.polyline(points)})")

    # -- shapes -------------------------------------------------------------------------------------------------
    def shape(self, items: Iterable[str], identifier: str = "Body", kind: str = "SweptSolid") -> str:
        return self.file.once(f"IFCPRODUCTDEFINITIONSHAPE($,$,({self._represented(items, identifier, kind)}))")

    def _represented(self, items: Iterable[str], identifier: str, kind: str) -> str:
        context = self.body if identifier == "Body" else self.axis
        return self.file.put(f"IFCSHAPEREPRESENTATION({context},'{identifier}','{kind}',{refs(items)})")

    def mapped(self, kind: str, items: Iterable[str]) -> str:
        """A representation map of some items."""
        origin = self.axis3((0.0, 0.0, 0.0))
        return self.file.put(f"IFCREPRESENTATIONMAP({origin},{self._represented(items, 'Body', kind)})")

    def shown(self, shape_map: str) -> str:
        """The shape of a product that shows a map as it is."""
        if shape_map not in self._shown:
            here = self.file.once(f"IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,{self.point(0.0, 0.0, 0.0)},$,$)")
            item = self.file.put(f"IFCMAPPEDITEM({shape_map},{here})")
            self._shown[shape_map] = self.shape([item], "Body", "MappedRepresentation")
        return self._shown[shape_map]

    # -- parts --------------------------------------------------------------------------------------------------
    def profile(self, s: Section) -> str:
        name, r = text(s.name), real(s.r) if s.r else "$"
        d, b, tw, tf = (real(v) for v in (s.d, s.b, s.tw, s.tf))
        at = self._flat  # IFC 2x3 asks for it, and some readers of IFC4
        match s.form:
            case Form.I:
                made = f"IFCISHAPEPROFILEDEF(.AREA.,{name},{at},{b},{d},{tw},{tf},{r},$,$)"
            case Form.CHANNEL:
                made = f"IFCUSHAPEPROFILEDEF(.AREA.,{name},{at},{d},{b},{tw},{tf},{r},$,$)"
            case Form.ANGLE:
                made = f"IFCLSHAPEPROFILEDEF(.AREA.,{name},{at},{d},{b},{tw},{r},$,$)"
            case Form.TEE:
                made = f"IFCTSHAPEPROFILEDEF(.AREA.,{name},{at},{d},{b},{tw},{tf},{r},$,$,$,$)"
            case Form.BOX:
                inner = real(s.r - s.tw) if s.r > s.tw else "$"
                made = f"IFCRECTANGLEHOLLOWPROFILEDEF(.AREA.,{name},{at},{b},{d},{tw},{inner},{r})"
            case Form.FLAT:
                made = f"IFCRECTANGLEPROFILEDEF(.AREA.,{name},{at},{b},{d})"
            case Form.TUBE:
                made = f"IFCCIRCLEHOLLOWPROFILEDEF(.AREA.,{name},{at},{real(s.d / 2)},{tw})"
            case Form.ROUND:
                made = f"IFCCIRCLEPROFILEDEF(.AREA.,{name},{at},{real(s.d / 2)})"
        return self.file.once(made)

    def part(self, part: Part) -> str:
        """The map of a part's body, its openings not in it."""
        if part not in self._parts:
            if part.is_formed or (part.item is not None and part.item.body):
                made = "Tessellation", self._faceted(part)
            elif part.section is None:
                made = "SweptSolid", self._prism(part.outline, part.thickness / 2, part.thickness)
            else:
                made = self._swept(part, part.section)
            self._parts[part] = self.mapped(made[0], [made[1]])
        return self._parts[part]

    def _faceted(self, part: Part) -> str:
        """A part rolled or bent, with its holes, or a bought one with a body of its own."""
        made = mesh(part)
        points = ",".join(reals(p, 4) for p in made.points.tolist())
        listed = self.file.put(f"IFCCARTESIANPOINTLIST3D(({points}))")
        faces = ",".join(f"({a},{b},{c})" for a, b, c in (made.triangles + 1).tolist())
        return self.file.put(f"IFCTRIANGULATEDFACESET({listed},$,.T.,({faces}),$)")

    def _extruded(self, flat: str, position: str, depth: float) -> str:
        return self.file.put(f"IFCEXTRUDEDAREASOLID({flat},{position},{self.direction((0.0, 0.0, 1.0))},{real(depth)})")

    def _swept(self, part: Part, section: Section) -> tuple[str, str]:
        solid = self._extruded(self.profile(section), self.axis3((0.0, 0.0, 0.0), _ALONG), part.length)
        kind = "SweptSolid"
        for cut, right in ((part.left, False), (part.right, True)):
            if isinstance(cut.saddle, Saddle):
                solid, kind = self._saddled(solid, cut, cut.saddle), "CSG"
            elif not cut.square:
                solid = self.file.put(f"IFCBOOLEANCLIPPINGRESULT(.DIFFERENCE.,{solid},{self._half_space(cut, right)})")
                kind = kind if kind == "CSG" else "Clipping"
        return kind, solid

    def _saddled(self, solid: str, cut: EndCut, saddle: Saddle) -> str:
        """What lies beyond the axis of the tube that an end is saddled to is taken, and then what lies in the tube."""
        ay, az = saddle.along
        u = np.array([cut.ky * ay + cut.kz * az, ay, az])
        way, long = 1.0 if saddle.right else -1.0, float(np.linalg.norm(u))
        axis = cut.moved(way * saddle.radius * long)
        u, aside, reach = u / long, np.array([0.0, az, -ay]), 4 * saddle.radius * long
        start = np.array([axis.at, 0.0, 0.0]) - reach * u
        place = self.axis3(start.tolist(), np.column_stack([np.cross(aside, u), aside, u]))
        tube = self._extruded(self._circle(2 * saddle.radius), place, 2 * reach)
        beyond = self._half_space(axis, saddle.right)
        for taken in (beyond, tube):
            solid = self.file.put(f"IFCBOOLEANRESULT(.DIFFERENCE.,{solid},{taken})")
        return solid

    def _half_space(self, cut: EndCut, right: bool) -> str:
        normal = np.array([1.0, -cut.ky, -cut.kz]) / math.sqrt(1 + cut.ky**2 + cut.kz**2)
        along = np.array([cut.ky, 1.0, 0.0]) if abs(cut.ky) < 1 else np.array([cut.kz, 0.0, 1.0])
        along = along - (along @ normal) * normal
        along /= np.linalg.norm(along)
        place = self.axis3((cut.at, 0.0, 0.0), np.column_stack([along, np.cross(normal, along), normal]))
        # what is taken is the side the normal points to on the right, the other on the left
        return self.file.put(f"IFCHALFSPACESOLID({self.file.put(f'IFCPLANE({place})')},{'.F.' if right else '.T.'})")

    def _prism(self, points: Iterable[tuple[float, float]], y_top: float, depth: float) -> str:
        """(x, z) points swept from y_top towards -y."""
        return self._extruded(self.area(points), self.axis3((0.0, y_top, 0.0), _ACROSS), depth)

    # -- openings -----------------------------------------------------------------------------------------------
    def voids(self, part: Part) -> tuple[str, ...]:
        """The shape of what each of a part's features takes from it."""
        if part not in self._voids:
            self._voids[part] = tuple(
                self._void(part, feature) for feature in part.features if not isinstance(feature, Thread)
            )
        return self._voids[part]

    def _void(self, part: Part, feature: Cope | Notch | Hole) -> str:
        if isinstance(feature, Hole):
            return self.shape([self._hole(part, feature)])
        if isinstance(feature, Cope):
            low, high = part.y_range
            outline = cope_outline(part, feature)
            return self.shape([self._prism(outline, high + _COPE_OVER, high - low + 2 * _COPE_OVER)])
        return self.shape([self._notch(part, feature)])

    def _hole(self, part: Part, hole: Hole) -> str:
        flat = self._slot(hole) if hole.slot > hole.d else self._circle(hole.d)
        if part.section is None:
            mid, thickness, upright = 0.0, part.thickness, True
        else:
            wall = profile.faces(part.section).get(hole.face)
            mid, thickness, upright = (
                (wall.mid, wall.thickness, wall.upright) if wall else (-part.section.b / 4, part.section.b / 2, True)
            )
        over = min(_HOLE_OVER, thickness / 2)
        if upright:
            position = self.axis3((hole.x, mid + thickness / 2 + over, hole.w), _ACROSS)
        else:
            position = self.axis3((hole.x, hole.w, mid - thickness / 2 - over))
        return self._extruded(flat, position, thickness + 2 * over)

    def _circle(self, d: float) -> str:
        return self.file.once(f"IFCCIRCLEPROFILEDEF(.AREA.,$,{self._flat},{real(d / 2)})")

    def _slot(self, hole: Hole) -> str:
        reach, turn = hole.slot - hole.d, math.radians(hole.angle)
        x = np.array([math.cos(turn), math.sin(turn)])
        arc = np.linspace(-math.pi / 2, math.pi / 2, 17)
        half = hole.d / 2 * np.column_stack([np.cos(arc), np.sin(arc)])
        ring = np.vstack([half + [reach / 2, 0], -half - [reach / 2, 0]])
        return self.area([(float(a), float(b)) for a, b in ring @ np.array([x, [-x[1], x[0]]])])

    def _notch(self, part: Part, notch: Notch) -> str:
        if part.section is None:
            return self._prism(notch.outline, part.thickness / 2 + 2, part.thickness + 4)
        low, high = notch_range(part, notch)
        if notch.face.upright:
            return self._prism(notch.outline, high, high - low)
        return self._extruded(self.area(notch.outline), self.axis3((0.0, 0.0, low)), high - low)

    # -- fasteners ----------------------------------------------------------------------------------------------
    def fastener(self, group: Fasteners) -> str:
        """The map of a bolt with its head, washer and nut, of a rod or a stud."""
        key = (group.kind, group.size, group.length, group.grip)
        if key not in self._fasteners:
            items = [self._extruded(self._circle(shank(group)), self.axis3((0.0, 0.0, 0.0)), group.length)]
            if group.kind is FastenerKind.BOLT:
                items += map(self._disc, discs(bolt_sizes()[group.size], group.grip))
            self._fasteners[key] = self.mapped("SweptSolid", items)
        return self._fasteners[key]

    def _disc(self, disc: Disc) -> str:
        turns = np.radians(np.arange(0, 360, 60))
        corners = [(disc.radius * math.cos(a), disc.radius * math.sin(a)) for a in turns]
        flat = self.area(corners) if disc.six else self._circle(2 * disc.radius)
        return self._extruded(flat, self.axis3((0.0, 0.0, disc.at)), disc.deep)
