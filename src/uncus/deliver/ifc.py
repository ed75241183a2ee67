"""IFC4: assemblies, parts, fasteners, welds, openings, with our ids, marks and weights.

ISO 16739-1:2018. Swept parts carry their parametric profile and length; end cuts are half spaces; copes, notches and
holes are openings. Equal parts share their geometry.
"""

from __future__ import annotations

import gc
import math
import uuid
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np

from uncus.catalog.bolts import bolt_sizes, rod_sizes, stud_diameter
from uncus.catalog.sections import Form, Section
from uncus.frame.grids import Family, runs
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.job.records import Grid, Level, Role, derived_id
from uncus.mark.marking import Marks
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel import profile
from uncus.steel.describe import describe
from uncus.steel.features import Cope, EndCut, Hole, Notch
from uncus.steel.flat import cope_outline, gross_weight, net_weight, notch_range
from uncus.steel.joint import FastenerKind, Fasteners, Weld
from uncus.steel.part import Part
from uncus.steel.solid import mesh

Entity = Any  # ifcopenshell's entities have no types of their own

_CLASS = {
    Role.COLUMN: "IfcColumn",
    Role.POST: "IfcColumn",
    Role.BRACE: "IfcMember",
    Role.STRUT: "IfcMember",
    Role.PURLIN: "IfcMember",
    Role.GIRT: "IfcMember",
    Role.HANGER: "IfcMember",
}
_TYPE = {
    "IfcColumn": "COLUMN",
    "IfcBeam": "BEAM",
    "IfcMember": "MEMBER",
    "IfcPlate": "SHEET",
    "IfcDiscreteAccessory": "BRACKET",
}


def guid(id: str) -> str:
    """An IFC GlobalId of one of our ids; ids that are no UUID give one of their own, always the same."""
    try:
        return ifcopenshell.guid.compress(uuid.UUID(id).hex)
    except ValueError:
        return ifcopenshell.guid.compress(uuid.UUID(derived_id("ifc", id)).hex)


def _shank(group: Fasteners) -> float:
    """Diameter of a bolt's, rod's or stud's shank."""
    if group.kind is FastenerKind.STUD:
        return stud_diameter(group.size)
    return rod_sizes()[group.size].d if group.kind is FastenerKind.ROD else bolt_sizes()[group.size].d


class _Writer:
    def __init__(self, job: Job) -> None:
        self.job = job
        self.file = ifcopenshell.file(schema="IFC4")
        self._points: dict[tuple[float, ...], Entity] = {}
        self._shapes: dict[Part, Entity] = {}
        self._voids: dict[tuple[Part, object], Entity] = {}
        self._profiles: dict[Section, Entity] = {}
        self._by_grade: dict[str, list[Entity]] = defaultdict(list)
        self._fastener_shapes: dict[tuple[object, ...], Entity] = {}
        self._axes: dict[tuple[float, ...], Entity] = {}
        self._described: dict[tuple[object, ...], tuple[str, list[Entity]]] = {}
        self._header()

    def add(self, kind: str, *values: object, **named: object) -> Entity:
        return self.file.create_entity(kind, *values, **named)

    # -- geometry -------------------------------------------------------------------------------
    def point(self, *xyz: float) -> Entity:
        key = tuple(round(float(v), 6) + 0.0 for v in xyz)
        if key not in self._points:
            self._points[key] = self.add("IfcCartesianPoint", key)
        return self._points[key]

    def direction(self, v: Iterable[float]) -> Entity:
        key = ("d", *(round(float(c), 9) + 0.0 for c in v))
        if key not in self._points:
            self._points[key] = self.add("IfcDirection", key[1:])  # type: ignore[index]
        return self._points[key]  # type: ignore[index]

    def axis3(self, place: Placement) -> Entity:
        key = (*place.origin.round(6).tolist(), *place.axes.ravel().round(9).tolist())
        if key not in self._axes:
            parts = self.point(*place.origin), self.direction(place.z), self.direction(place.x)
            self._axes[key] = self.add("IfcAxis2Placement3D", *parts)
        return self._axes[key]

    def local(self, place: Placement, parent: Entity | None = None) -> Entity:
        return self.add("IfcLocalPlacement", parent, self.axis3(place))

    def polyline(self, points: Iterable[Iterable[float]], closed: bool = True) -> Entity:
        found = [self.point(*p) for p in points]
        return self.add("IfcPolyline", [*found, found[0]] if closed else found)

    def area(self, points: Iterable[tuple[float, float]]) -> Entity:
        return self.add("IfcArbitraryClosedProfileDef", "AREA", None, self.polyline(points))

    def shape(self, items: list[Entity], identifier: str = "Body", kind: str = "SweptSolid") -> Entity:
        context = self.body if identifier == "Body" else self.axis
        representation = self.add("IfcShapeRepresentation", context, identifier, kind, items)
        return self.add("IfcProductDefinitionShape", None, None, [representation])

    def _header(self) -> None:
        add, project = self.add, self.job.project
        units = [
            add("IfcSIUnit", None, "LENGTHUNIT", "MILLI", "METRE"),
            add("IfcSIUnit", None, "AREAUNIT", None, "SQUARE_METRE"),
            add("IfcSIUnit", None, "VOLUMEUNIT", None, "CUBIC_METRE"),
            add("IfcSIUnit", None, "MASSUNIT", "KILO", "GRAM"),
            add("IfcSIUnit", None, "PLANEANGLEUNIT", None, "RADIAN"),
        ]
        world = self.axis3(Placement.identity())
        context = add("IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, world, None)
        self.body, self.axis = (
            add("IfcGeometricRepresentationSubContext", name, "Model", ParentContext=context, TargetView=target)
            for name, target in (("Body", "MODEL_VIEW"), ("Axis", "GRAPH_VIEW"))
        )
        self.project = add(
            "IfcProject",
            guid("project/" + project.name + project.number),
            None,
            project.name,
            None,
            None,
            project.number or None,
            None,
            [context],
            add("IfcUnitAssignment", units),
        )
        site = add(
            "IfcSite", guid("site"), None, "Site", None, None, self.local(Placement.identity()), None, None, "ELEMENT"
        )
        self.building = add(
            "IfcBuilding",
            guid("building"),
            None,
            project.name,
            None,
            None,
            self.local(Placement.identity(), site.ObjectPlacement),
            None,
            None,
            "ELEMENT",
        )
        add("IfcRelAggregates", guid("in project"), None, None, None, self.project, [site])
        add("IfcRelAggregates", guid("in site"), None, None, None, site, [self.building])
        self._storeys()

    def _storeys(self) -> None:
        levels = sorted(self.job.all(Level), key=lambda level: level.elevation) or [
            Level(id="level 0", name="Ground", elevation=0)
        ]
        self.storeys = []
        for level in levels:
            place = self.local(Placement((0, 0, level.elevation), np.eye(3)), self.building.ObjectPlacement)
            storey = self.add(
                "IfcBuildingStorey",
                guid(level.id),
                None,
                level.name,
                None,
                None,
                place,
                None,
                None,
                "ELEMENT",
                level.elevation,
            )
            self.storeys.append((level.elevation, storey))
        self.add("IfcRelAggregates", guid("in building"), None, None, None, self.building, [s for _, s in self.storeys])
        self.inside: dict[int, list[Entity]] = defaultdict(list)

    def contain(self, z: float, product: Entity) -> None:
        below = [i for i, (elevation, _) in enumerate(self.storeys) if elevation <= z + 1.0]
        self.inside[below[-1] if below else 0].append(product)

    def root(self) -> Entity:
        return self.storeys[0][1].ObjectPlacement

    # -- parts ----------------------------------------------------------------------------------
    def profile(self, s: Section) -> Entity:
        if s not in self._profiles:
            self._profiles[s] = self._profile(s)
        return self._profiles[s]

    def _profile(self, s: Section) -> Entity:
        add, fillet = self.add, s.r or None
        match s.form:
            case Form.I:
                return add("IfcIShapeProfileDef", "AREA", s.name, None, s.b, s.d, s.tw, s.tf, fillet)
            case Form.CHANNEL:
                return add("IfcUShapeProfileDef", "AREA", s.name, None, s.d, s.b, s.tw, s.tf, fillet)
            case Form.ANGLE:
                return add("IfcLShapeProfileDef", "AREA", s.name, None, s.d, s.b, s.tw, fillet)
            case Form.TEE:
                return add("IfcTShapeProfileDef", "AREA", s.name, None, s.d, s.b, s.tw, s.tf, fillet)
            case Form.BOX:
                inner = max(0.0, s.r - s.tw) or None
                return add("IfcRectangleHollowProfileDef", "AREA", s.name, None, s.b, s.d, s.tw, inner, fillet)
            case Form.TUBE:
                return add("IfcCircleHollowProfileDef", "AREA", s.name, None, s.d / 2, s.tw)
        raise AssertionError(s.form)

    def part_shape(self, part: Part) -> Entity:
        if part not in self._shapes:
            if part.is_formed:
                items, kind = [self._faceted(part)], "Tessellation"
            elif part.section is None:
                items, kind = [self._prism(part.outline, part.thickness / 2, part.thickness)], "SweptSolid"
            else:
                items, kind = self._swept(part, part.section)
            self._shapes[part] = self.shape(items, "Body", kind)
        return self._shapes[part]

    def _faceted(self, part: Part) -> Entity:
        """A part rolled or bent, with its holes."""
        made = mesh(part)
        points = self.add("IfcCartesianPointList3D", made.points.round(4).tolist())
        return self.add("IfcTriangulatedFaceSet", points, None, True, (made.triangles + 1).tolist())

    def _swept(self, part: Part, section: Section) -> tuple[list[Entity], str]:
        axes = np.column_stack([(0, 1, 0), (0, 0, 1), (1, 0, 0)])
        position = self.axis3(Placement((0, 0, 0), axes))
        solid = self.add(
            "IfcExtrudedAreaSolid", self.profile(section), position, self.direction((0, 0, 1)), part.length
        )
        kind = "SweptSolid"
        for cut, right in ((part.left, False), (part.right, True)):
            if not cut.square:
                solid = self.add("IfcBooleanClippingResult", "DIFFERENCE", solid, self._half_space(cut, right))
                kind = "Clipping"
        return [solid], kind

    def _half_space(self, cut: EndCut, right: bool) -> Entity:
        normal = np.array([1.0, -cut.ky, -cut.kz]) / math.sqrt(1 + cut.ky**2 + cut.kz**2)
        along = np.array([cut.ky, 1.0, 0.0]) if abs(cut.ky) < 1 else np.array([cut.kz, 0.0, 1.0])
        along = along - (along @ normal) * normal
        along /= np.linalg.norm(along)
        place = self.add("IfcAxis2Placement3D", self.point(cut.at, 0, 0), self.direction(normal), self.direction(along))
        # what is taken is the side the normal points to on the right, the other on the left
        return self.add("IfcHalfSpaceSolid", self.add("IfcPlane", place), not right)

    def _prism(self, points: Iterable[tuple[float, float]], y_top: float, depth: float) -> Entity:
        """(x, z) points swept from y_top towards -y."""
        axes = np.column_stack([(1, 0, 0), (0, 0, 1), (0, -1, 0)])
        position = self.axis3(Placement((0, y_top, 0), axes))
        return self.add("IfcExtrudedAreaSolid", self.area(points), position, self.direction((0, 0, 1)), depth)

    def _hole_solid(self, part: Part, hole: Hole) -> Entity:
        reach = max(0.0, hole.slot - hole.d)
        turn = math.radians(hole.angle)
        if reach:
            x = np.array([math.cos(turn), math.sin(turn)])
            arc = np.linspace(-math.pi / 2, math.pi / 2, 17)
            half = hole.d / 2 * np.column_stack([np.cos(arc), np.sin(arc)])
            ring = np.vstack([half + [reach / 2, 0], -half - [reach / 2, 0]])
            outline = ring @ np.array([x, [-x[1], x[0]]])
            flat = self.area(tuple(map(tuple, outline)))
        else:
            flat = self.add("IfcCircleProfileDef", "AREA", None, None, hole.d / 2)
        if part.section is None:
            mid, thickness, upright = 0.0, part.thickness, True
        else:
            wall = profile.faces(part.section).get(hole.face)
            mid, thickness, upright = (
                (wall.mid, wall.thickness, wall.upright) if wall else (-part.section.b / 4, part.section.b / 2, True)
            )
        over = min(2.0, thickness / 2)
        if upright:
            place = Placement(
                (hole.x, mid + thickness / 2 + over, hole.w), np.column_stack([(1, 0, 0), (0, 0, 1), (0, -1, 0)])
            )
        else:
            place = Placement((hole.x, hole.w, mid - thickness / 2 - over), np.eye(3))
        return self.add(
            "IfcExtrudedAreaSolid", flat, self.axis3(place), self.direction((0, 0, 1)), thickness + 2 * over
        )

    def _notch_solid(self, part: Part, notch: Notch) -> Entity:
        if part.section is None:
            return self._prism(notch.outline, part.thickness / 2 + 2, part.thickness + 4)
        low, high = notch_range(part, notch)
        depth = high - low
        if notch.face.upright:
            return self._prism(notch.outline, high, depth)
        position = self.axis3(Placement((0, 0, low), np.eye(3)))
        return self.add("IfcExtrudedAreaSolid", self.area(notch.outline), position, self.direction((0, 0, 1)), depth)

    def openings(self, piece: Piece, host: Entity) -> None:
        part = piece.part
        for number, feature in enumerate(() if part.is_formed else part.features):
            key = (part, feature)
            if key not in self._voids:
                if isinstance(feature, Hole):
                    solid = self._hole_solid(part, feature)
                elif isinstance(feature, Cope):
                    low, high = part.y_range
                    solid = self._prism(cope_outline(part, feature), high + 5, high - low + 10)
                else:
                    solid = self._notch_solid(part, feature)
                self._voids[key] = self.shape([solid])
            id = f"{piece.id}/void {number}"
            words = type(feature).__name__.lower()
            opening = self.add(
                "IfcOpeningElement",
                guid(id),
                None,
                words,
                None,
                words,
                self.local(Placement.identity(), host.ObjectPlacement),
                self._voids[key],
                None,
                "OPENING",
            )
            self.add("IfcRelVoidsElement", guid(id + "/rel"), None, None, None, host, opening)

    def part(self, piece: Piece, role: Role, mark: str) -> Entity:
        part = piece.part
        kind = "IfcPlate" if part.is_plate else _CLASS.get(role, "IfcBeam")
        kind = "IfcDiscreteAccessory" if part.item else kind
        words = describe(part, self.job.project.units)
        product = self.add(
            kind,
            guid(f"{piece.id}/part" if piece.main else piece.id),
            None,
            mark or words,
            words,
            piece.words,
            self.local(piece.placement, self.root()),
            self.part_shape(part),
            mark or None,
            _TYPE[kind],
        )
        self._by_grade[part.grade].append(product)
        self.openings(piece, product)
        quantities = [
            ("Length", "IfcQuantityLength", part.length),
            ("GrossWeight", "IfcQuantityWeight", gross_weight(part)),
            ("NetWeight", "IfcQuantityWeight", net_weight(part)),
        ]
        self.describe(
            product,
            piece.id,
            {
                "Mark": mark,
                "Grade": part.grade,
                "Finish": part.finish,
                "Section": part.section.name if part.section else "",
                "ProductCode": part.item.code if part.item else "",
                "Maker": part.item.maker if part.item else "",
            },
            quantities,
        )
        return product

    def describe(
        self, product: Entity, id: str, facts: dict[str, str], quantities: Iterable[tuple[str, str, float]]
    ) -> None:
        """Note what is known of a product; products of which the same is known share it. Weights are properties too."""
        known = (
            tuple((n, v) for n, v in facts.items() if v),
            tuple((n, k, round(float(v), 6)) for n, k, v in quantities),
        )
        self._described.setdefault(known, (id, []))[1].append(product)

    def _describe_all(self) -> None:
        add = self.add
        for known, (id, products) in self._described.items():
            facts, numbers = known
            values = [add("IfcPropertySingleValue", n, None, add("IfcLabel", v), None) for n, v in facts]  # type: ignore[attr-defined]
            weights = [(n, v) for n, kind, v in numbers if kind == "IfcQuantityWeight"]  # type: ignore[attr-defined]
            values += [add("IfcPropertySingleValue", n, None, add("IfcMassMeasure", v), None) for n, v in weights]
            if values:
                pset = add("IfcPropertySet", guid(id + "/facts"), None, "Steel", None, values)
                add("IfcRelDefinesByProperties", guid(id + "/facts rel"), None, None, None, products, pset)
            sizes = [add(kind, n, None, None, v) for n, kind, v in numbers]  # type: ignore[attr-defined]
            if sizes:
                qto = add("IfcElementQuantity", guid(id + "/sizes"), None, "BaseQuantities", None, None, sizes)
                add("IfcRelDefinesByProperties", guid(id + "/sizes rel"), None, None, None, products, qto)

    # -- assemblies and what joins them ---------------------------------------------------------
    def assembly(self, assembly: Assembly, marks: Marks) -> None:
        mark = marks.of_assembly(assembly.id)
        product = self.add(
            "IfcElementAssembly",
            guid(assembly.id),
            None,
            mark or assembly.words,
            assembly.words,
            str(assembly.member.role),
            self.local(assembly.main.placement, self.root()),
            None,
            mark or None,
            "FACTORY",
            "NOTDEFINED",
        )
        parts = [self.part(p, assembly.member.role, marks.of_part(p.id)) for p in assembly.pieces]
        parts += [self.weld(w, f"{assembly.id}/{i}") for i, w in enumerate(assembly.welds)]
        self.add("IfcRelAggregates", guid(assembly.id + "/parts"), None, None, None, product, parts)
        self.describe(
            product,
            assembly.id + "/whole",
            {"Mark": mark, "Lot": assembly.member.lot, "Role": str(assembly.member.role)},
            [("GrossWeight", "IfcQuantityWeight", assembly.gross), ("NetWeight", "IfcQuantityWeight", assembly.net)],
        )
        self.contain(float(min(assembly.member.start[2], assembly.member.end[2])), product)
        for i, weld in enumerate(assembly.site_welds):
            product = self.weld(weld, f"{assembly.id}/site {i}")
            self.contain(weld.path[0][2], product)
        for i, group in enumerate(assembly.holds):
            self.fasteners(group, f"{assembly.id}/{i}")

    def weld(self, weld: Weld, id: str) -> Entity:
        line = self.polyline(weld.path, closed=False)
        product = self.add(
            "IfcFastener",
            guid(id + "/weld"),
            None,
            "fillet weld",
            None,
            None,
            self.local(Placement.identity(), self.root()),
            self.shape([line], "Axis", "Curve3D"),
            None,
            "WELD",
        )
        facts = {"Sides": str(weld.sides), "Where": "site" if weld.field else "shop"}
        self.describe(
            product,
            id + "/weld",
            facts,
            [("Leg", "IfcQuantityLength", weld.size), ("Length", "IfcQuantityLength", weld.length)],
        )
        return product

    def fasteners(self, group: Fasteners, id: str) -> None:
        shape = self._fastener_shape(group)
        axis = np.asarray(group.axis)
        side = np.array([1.0, 0, 0]) if abs(axis[0]) < 0.9 else np.array([0, 1.0, 0])
        x = np.cross(side, axis)
        x /= np.linalg.norm(x)
        axes = np.column_stack([x, np.cross(axis, x), axis])
        kind = {FastenerKind.ROD: "ANCHORBOLT", FastenerKind.STUD: "SHEARCONNECTOR"}.get(group.kind, "BOLT")
        size = _shank(group)
        for number, at in enumerate(group.points):
            product = self.add(
                "IfcMechanicalFastener",
                guid(f"{id}/{group.key}/{number}"),
                None,
                f"{group.kind} {group.size}",
                group.grade,
                None,
                self.local(Placement(at, axes), self.root()),
                shape,
                None,
                size,
                group.length,
                kind,
            )
            self.contain(at[2], product)

    def _fastener_shape(self, group: Fasteners) -> Entity:
        key = (group.kind, group.size, group.length)
        if key not in self._fastener_shapes:
            up = self.direction((0, 0, 1))
            if group.kind is not FastenerKind.BOLT:
                circle = self.add("IfcCircleProfileDef", "AREA", None, None, _shank(group) / 2)
                items = [self.add("IfcExtrudedAreaSolid", circle, self.axis3(Placement.identity()), up, group.length)]
            else:
                bolt = bolt_sizes()[group.size]
                circle = self.add("IfcCircleProfileDef", "AREA", None, None, bolt.d / 2)
                radius = bolt.head_flats / math.sqrt(3)
                hexagon = [(radius * math.cos(a), radius * math.sin(a)) for a in np.radians(np.arange(0, 360, 60))]
                head = Placement((0, 0, -bolt.head_height), np.eye(3))
                items = [
                    self.add("IfcExtrudedAreaSolid", circle, self.axis3(Placement.identity()), up, group.length),
                    self.add("IfcExtrudedAreaSolid", self.area(hexagon), self.axis3(head), up, bolt.head_height),
                ]
            self._fastener_shapes[key] = self.shape(items)
        return self._fastener_shapes[key]

    def grid(self, grid: Grid) -> None:
        if not grid.numbers or not grid.letters:
            return
        lines = runs(grid, 1500.0)

        def axes(family: Family) -> list[Entity]:
            return [
                self.add("IfcGridAxis", r.label, self.polyline([r.at(r.first), r.at(r.last)], closed=False), True)
                for r in lines
                if r.family is family
            ]

        u, v = axes(Family.NUMBERS), axes(Family.LETTERS)
        curves = [a.AxisCurve for a in (*u, *v)]
        footprint = self.add(
            "IfcShapeRepresentation",
            self.body,
            "FootPrint",
            "GeometricCurveSet",
            [self.add("IfcGeometricCurveSet", curves)],
        )
        product = self.add(
            "IfcGrid",
            guid(grid.id),
            None,
            "Grid",
            None,
            None,
            self.local(Placement.identity(), self.root()),
            self.add("IfcProductDefinitionShape", None, None, [footprint]),
            u,
            v,
            None,
            "RECTANGULAR",
        )
        self.contain(0.0, product)

    def finish(self) -> None:
        self._describe_all()
        for number, products in sorted(self.inside.items()):
            self.add(
                "IfcRelContainedInSpatialStructure",
                guid(f"contained {number}"),
                None,
                None,
                None,
                products,
                self.storeys[number][1],
            )
        for grade, products in sorted(self._by_grade.items()):
            material = self.add("IfcMaterial", grade, None, "steel")
            self.add("IfcRelAssociatesMaterial", guid("grade " + grade), None, None, None, products, material)


@contextmanager
def _uncollected() -> Iterator[None]:
    """Hold the collector of cycles off: a model is hundreds of thousands of objects that all stay, and looking through
    them again and again is what makes a large one slow (a third of the time at 2,000 members)."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def ifc_file(
    job: Job,
    shop: Shop,
    marks: Marks,
    wanted: Callable[[Assembly], bool] = lambda _: True,
    progress: Callable[[], None] = lambda: None,
) -> ifcopenshell.file:
    """The model as IFC4, assemblies that `wanted` lets through only. `progress` is called once an assembly."""
    with _uncollected():
        writer = _Writer(job)
        for grid in job.all(Grid):
            writer.grid(grid)
        for assembly in shop.shipped.values():
            if wanted(assembly):
                writer.assembly(assembly, marks)
                progress()
        writer.finish()
    header = writer.file.header
    header.file_name.name = f"{job.project.number or 'job'}.ifc"
    header.file_name.time_stamp = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S")
    header.file_description.description = ("ViewDefinition [ReferenceView_V1.2]",)
    return writer.file
