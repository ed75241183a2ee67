"""Made-up models of others, written by ifcopenshell in any schema and unit, with what is true of them."""

import math
from pathlib import Path

import ifcopenshell
import ifcopenshell.guid
import numpy as np

UNITS = {"mm": 1.0, "m": 1000.0, "ft": 304.8}


class Written:
    """One file. All lengths are given in mm; `base` (4 x 4) is where the building stands, in mm."""

    def __init__(self, schema="IFC4", unit="mm", base=None):
        self.file = ifcopenshell.file(schema=schema)
        self.schema, self.k = schema, 1 / UNITS[unit]
        new = self.new
        self.world = self.axes()
        self.context = new("IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, self.world, None)
        if unit == "ft":
            metre = new("IfcSIUnit", UnitType="LENGTHUNIT", Name="METRE")
            factor = new("IfcMeasureWithUnit", new("IfcLengthMeasure", 0.3048), metre)
            powers = new("IfcDimensionalExponents", 1, 0, 0, 0, 0, 0, 0)
            length = new("IfcConversionBasedUnit", powers, "LENGTHUNIT", "FOOT", factor)
        else:
            length = new("IfcSIUnit", UnitType="LENGTHUNIT", Name="METRE", Prefix="MILLI" if unit == "mm" else None)
        angle = new("IfcSIUnit", UnitType="PLANEANGLEUNIT", Name="RADIAN")
        assigned = new("IfcUnitAssignment", [length, angle])
        person = new("IfcPerson", None, "X")
        both = new("IfcPersonAndOrganization", person, new("IfcOrganization", None, "Made up"))
        app = new("IfcApplication", both.TheOrganization, "1", "made up", "made up")
        self.history = new("IfcOwnerHistory", both, app, None, "ADDED", None, None, None, 0)
        project = self.root(
            "IfcProject", Name="Made up", RepresentationContexts=[self.context], UnitsInContext=assigned
        )
        site = self.root("IfcSite", Name="Site", CompositionType="ELEMENT", ObjectPlacement=self.placement(None, base))
        building = self.root("IfcBuilding", Name="Hall", CompositionType="ELEMENT",
            ObjectPlacement=self.placement(site.ObjectPlacement))  # fmt: skip
        self.aggregate(project, site)
        self.aggregate(site, building)
        self.building, self.storeys = building, {}
        self.storey("Ground", 0.0)

    # -- roots and places
    def new(self, kind, *args, **named):
        return self.file.create_entity(kind, *args, **named)

    def root(self, kind, guid=None, **named):
        return self.new(kind, GlobalId=guid or ifcopenshell.guid.new(), OwnerHistory=self.history, **named)

    def aggregate(self, whole, *parts):
        self.root("IfcRelAggregates", RelatingObject=whole, RelatedObjects=list(parts))

    def point(self, *xyz):
        return self.new("IfcCartesianPoint", [float(v) * self.k for v in xyz])

    def way(self, *xyz):
        return self.new("IfcDirection", [float(v) for v in xyz])

    def axes(self, at=(0, 0, 0), z=None, x=None):
        z, x = (None if v is None else self.way(*v) for v in (z, x))
        return self.new("IfcAxis2Placement3D", self.point(*at), z, x)

    def placement(self, parent, matrix=None):
        m = np.eye(4) if matrix is None else np.asarray(matrix, dtype=float)
        return self.new("IfcLocalPlacement", parent, self.axes(m[:3, 3], m[:3, 2], m[:3, 0]))

    def storey(self, name, elevation):
        here = self.placement(self.building.ObjectPlacement, moved(0, 0, elevation))
        made = self.root("IfcBuildingStorey", Name=name, CompositionType="ELEMENT", Elevation=elevation * self.k,
            ObjectPlacement=here)  # fmt: skip
        self.aggregate(self.building, made)
        self.storeys[name] = made
        return made

    # -- shapes
    def extruded(self, profile, depth, place=None, way=(0, 0, 1)):
        return self.new("IfcExtrudedAreaSolid", profile, place or self.axes(), self.way(*way), depth * self.k)

    def box(self, b, d, h, at=(0, 0, 0)):
        flat = self.new("IfcRectangleProfileDef", "AREA", None, self.flat2((b / 2, d / 2)), b * self.k, d * self.k)
        return self.extruded(flat, h, self.axes(at))

    def flat2(self, at=(0, 0), x=None):
        return self.new("IfcAxis2Placement2D", self.point(*at), None if x is None else self.way(*x))

    def profile(self, s, name=None, **more):
        """The parametric profile of a section of ours, as somebody else would write it."""
        k, at = self.k, self.flat2(**more)
        name = s.name if name is None else name
        common = ("AREA", name, at)
        r = s.r * k if s.r else None
        match s.form.value:
            case "I":
                return self.new("IfcIShapeProfileDef", *common, s.b * k, s.d * k, s.tw * k, s.tf * k, r)
            case "U":
                return self.new("IfcUShapeProfileDef", *common, s.d * k, s.b * k, s.tw * k, s.tf * k, r)
            case "L":
                return self.new("IfcLShapeProfileDef", *common, s.d * k, s.b * k, s.tw * k, r)
            case "T":
                return self.new("IfcTShapeProfileDef", *common, s.d * k, s.b * k, s.tw * k, s.tf * k, r)
            case "BOX":
                return self.new("IfcRectangleHollowProfileDef", *common, s.b * k, s.d * k, s.tw * k, None, r)
            case "TUBE":
                return self.new("IfcCircleHollowProfileDef", *common, s.d / 2 * k, s.tw * k)
            case "ROUND":
                return self.new("IfcCircleProfileDef", *common, s.d / 2 * k)
            case "FLAT":
                return self.new("IfcRectangleProfileDef", *common, s.b * k, s.d * k)

    def drawn(self, ring, holes=(), name=None):
        def line(points):
            made = [self.point(*p) for p in points]
            return self.new("IfcPolyline", [*made, made[0]])

        inner = [line(h) for h in holes]
        kind = "IfcArbitraryProfileDefWithVoids" if inner else "IfcArbitraryClosedProfileDef"
        return self.new(kind, "AREA", name, line(ring), *([inner] if inner else []))

    def faceted(self, points, triangles):
        """A body of triangles: a closed shell in 2x3, a triangulated face set in others."""
        if self.schema == "IFC2X3":
            at = [self.point(*p) for p in points]
            loops = [self.new("IfcPolyLoop", [at[i] for i in t]) for t in triangles.tolist()]
            faces = [self.new("IfcFace", [self.new("IfcFaceOuterBound", loop, True)]) for loop in loops]
            return self.new("IfcFacetedBrep", self.new("IfcClosedShell", faces))
        listed = self.new("IfcCartesianPointList3D", (np.asarray(points) * self.k).tolist())
        return self.new("IfcTriangulatedFaceSet", listed, None, True, (triangles + 1).tolist())

    def clipped(self, item, at, normal):
        """What is beyond a plane taken from a body."""
        z = np.array(normal, dtype=float)
        x = np.cross(z, (0, 0, 1) if abs(z[2]) < 0.9 else (1, 0, 0))
        plane = self.new("IfcPlane", self.axes(at, z, x / np.linalg.norm(x)))
        return self.new("IfcBooleanClippingResult", "DIFFERENCE", item, self.new("IfcHalfSpaceSolid", plane, False))

    def shape(self, *items, kind="SweptSolid", axis=None):
        made = [self.new("IfcShapeRepresentation", self.context, "Body", kind, list(items))]
        if axis is not None:
            line = self.new("IfcPolyline", [self.point(*p) for p in axis])
            made.append(self.new("IfcShapeRepresentation", self.context, "Axis", "Curve3D", [line]))
        return self.new("IfcProductDefinitionShape", None, None, made)

    def mapped(self, *items, kind="SweptSolid"):
        of = self.new("IfcShapeRepresentation", self.context, "Body", kind, list(items))
        return self.new("IfcRepresentationMap", self.axes(), of)

    def instance(self, of, at=(0, 0, 0)):
        target = self.new("IfcCartesianTransformationOperator3D", None, None, self.point(*at), None, None)
        return self.shape(self.new("IfcMappedItem", of, target), kind="MappedRepresentation")

    # -- products
    def product(self, kind, shape, matrix=None, name="", storey="Ground", guid=None, material="", layer="", **more):
        parent = self.storeys[storey]
        lift = np.linalg.inv(moved(0, 0, self.elevation(storey)))
        place = self.placement(parent.ObjectPlacement, lift @ (np.eye(4) if matrix is None else matrix))
        made = self.root(kind, guid, Name=name, ObjectPlacement=place, Representation=shape, **more)
        self.root("IfcRelContainedInSpatialStructure", RelatedElements=[made], RelatingStructure=parent)
        if material:
            found = next((m for m in self.file.by_type("IfcMaterial") if m.Name == material), None)
            self.root("IfcRelAssociatesMaterial", RelatedObjects=[made],
                RelatingMaterial=found or self.new("IfcMaterial", material))  # fmt: skip
        if layer:
            self.new("IfcPresentationLayerAssignment", layer, None, [shape.Representations[0]])
        return made

    def elevation(self, storey):
        return self.storeys[storey].Elevation / self.k

    def bar(self, s, start, end, z=None, kind="IfcBeam", **more):
        """A straight bar of a section between two points, extruded from start to end, its z as given."""
        shape = self.shape(self.extruded(self.profile(s), math.dist(start, end)))
        return self.product(kind, shape, along(start, end, z), **more)

    def grid(self, across, up):
        def axes(lines):
            return [self.new("IfcGridAxis", n, self.new("IfcPolyline", [self.point(*a), self.point(*b)]), True)
                for n, a, b in lines]  # fmt: skip

        made = self.root("IfcGrid", Name="Grid", ObjectPlacement=self.placement(self.building.ObjectPlacement),
            UAxes=axes(across), VAxes=axes(up))  # fmt: skip
        self.root("IfcRelContainedInSpatialStructure", RelatedElements=[made],
            RelatingStructure=self.storeys["Ground"])  # fmt: skip

    def save(self, path: Path) -> Path:
        self.file.write(str(path))
        return path


def moved(x, y, z):
    found = np.eye(4)
    found[:3, 3] = x, y, z
    return found


def turned(degrees, axis="z"):
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    i, j = {"z": (0, 1), "x": (1, 2), "y": (2, 0)}[axis]
    found = np.eye(4)
    found[i, i] = found[j, j] = c
    found[i, j], found[j, i] = -s, s
    return found


def along(start, end, z=None):
    """Axes whose z runs from start to end, with the section's y and z as x and y."""
    x = np.subtract(end, start) / math.dist(start, end)
    z = np.array((0, 0, 1.0) if z is None else z, dtype=float)
    if abs(x @ z) > 0.999 * np.linalg.norm(z):
        z = np.array((0, 1.0, 0))
    z = z - (z @ x) * x
    z /= np.linalg.norm(z)
    found = np.eye(4)
    found[:3, :3] = np.column_stack([np.cross(z, x), z, x])
    found[:3, 3] = start
    return found
