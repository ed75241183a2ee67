"""Reads an IFC file in a process of its own: `python -m uncus.reference.ifc_reader FILE OUT MEGABYTES`.

What others wrote may bring any reader down or ask for more memory than there is, so this process is limited and may
die; who started it (`reference.reading`) says so in a sentence. It tells how far it is in lines of JSON and writes what
it read as a packed `Model`, whole or not at all.
"""

from __future__ import annotations

import hashlib
import math
import os
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from uncus.reference.ifc_sweeps import Sweeps
from uncus.reference.limited import Refused, run, tell
from uncus.reference.meshes import settled_shape
from uncus.reference.model import OWN_NAME, OWN_SET, Axis, Facts, Model, Product, Shape, Storey
from uncus.reference.profiles import shape_of

SCHEMAS = ("IFC2X3", "IFC4", "IFC4X1", "IFC4X2", "IFC4X3", "IFC4X3_ADD1", "IFC4X3_ADD2")
_UNSEEN = ("IfcOpeningElement", "IfcSpace", "IfcSpatialElement", "IfcVirtualElement", "IfcAnnotation", "IfcGrid",
    "IfcPort", "IfcStructuralItem", "IfcStructuralActivity")  # fmt: skip
STEEL = ("IfcBeam", "IfcColumn", "IfcMember", "IfcPlate")
_PLAUSIBLE = (0.5e3, 20e6)  # mm that a building measures across
_GREY = (0.72, 0.72, 0.70)
_QUICK, _THOROUGH = "hybrid-manifold-cgal-simple-opencascade", "opencascade"


class _Reading:
    def __init__(self, path: Path) -> None:
        import ifcopenshell

        self.file: Any
        try:
            self.file = ifcopenshell.open(str(path))
        except MemoryError:
            raise
        except Exception as error:
            raise Refused(f"cannot be read as IFC: {str(error)[:160] or type(error).__name__}") from None
        if self.file is None or self.file.schema_identifier not in SCHEMAS:
            schema = getattr(self.file, "schema_identifier", "none")
            raise Refused(f"is of the schema {schema}; IFC 2x3, 4 and 4.3 are read")
        self.notes: list[str] = []
        self.unit, angle = self._units()
        self.sweeps = Sweeps(self.unit, angle)

    # -- units -------------------------------------------------------------------------------------------------
    def _units(self) -> tuple[float, float]:
        """mm to the unit of length, radians to that of angles."""
        from ifcopenshell.util.unit import calculate_unit_scale

        assigned = [u for a in self.file.by_type("IfcUnitAssignment") for u in a.Units]
        kinds = {getattr(u, "UnitType", "") for u in assigned}
        if "LENGTHUNIT" not in kinds:
            self.notes.append("It names no unit of length, and was read as metres.")
        try:
            length = calculate_unit_scale(self.file) * 1000.0
            angle = calculate_unit_scale(self.file, "PLANEANGLEUNIT") if "PLANEANGLEUNIT" in kinds else 1.0
        except Exception as error:
            raise Refused(f"has units that cannot be read: {str(error)[:120]}") from None
        if not (math.isfinite(length) and 1e-6 < length < 1e9):
            raise Refused("has a unit of length that is no length")
        return length, angle if math.isfinite(angle) and angle > 0 else 1.0

    # -- what there is -----------------------------------------------------------------------------------------
    def products(self) -> list[Any]:
        found = []
        for product in self.file.by_type("IfcProduct"):
            if not any(product.is_a(name) for name in _UNSEEN if self._knows(name)):
                found.append(product)
        return [p for p in found if not p.is_a("IfcSpatialStructureElement")]

    def _knows(self, name: str) -> bool:
        if name not in _KNOWN:
            try:
                self.file.by_type(name)
                _KNOWN[name] = True
            except Exception:
                _KNOWN[name] = False
        return _KNOWN[name]

    def guard_placements(self) -> None:
        """Raises Refused where a placement is relative to itself, however far round: the geometry's own reader does
        not come back from that."""
        sound: set[int] = set()
        for place in self.file.by_type("IfcLocalPlacement"):
            chain: list[int] = []
            seen: set[int] = set()
            one = place
            while one is not None and one.id() not in sound:
                if one.id() in seen:
                    name = next((p.Name or p.GlobalId for n in seen for p in self._placed_by(n)), "a product")
                    raise Refused(f"places “{name}” relative to itself; have that put right where the file was made")
                seen.add(one.id())
                chain.append(one.id())
                one = getattr(one, "PlacementRelTo", None)
            sound.update(chain)

    def _placed_by(self, id: int) -> list[Any]:
        return [p for p in self.file.get_inverse(self.file.by_id(id)) if p.is_a("IfcProduct")]

    def storeys(self) -> list[Storey]:
        found = []
        for one in self.file.by_type("IfcBuildingStorey"):
            height = float(self.sweeps.placement(one.ObjectPlacement).matrix[2, 3]) if one.ObjectPlacement else math.nan
            told = one.Elevation
            if one.ObjectPlacement is None:
                height = float(told or 0.0) * self.unit
            if math.isfinite(height) and abs(height) < 1e10:
                found.append(Storey(one.Name or "", height))
        return found

    def axes(self) -> list[Axis]:
        found = []
        for grid in self.file.by_type("IfcGrid"):
            frame = self.sweeps.placement(grid.ObjectPlacement)
            for family, axes in (("U", grid.UAxes), ("V", grid.VAxes), ("W", grid.WAxes or ())):
                for axis in axes or ():
                    line = self.sweeps._line(axis.AxisCurve)
                    if line is not None and len(line) >= 2:
                        ends = frame.point(line[0]), frame.point(line[-1])
                        found.append(Axis(axis.AxisTag or "", family, *(ends if axis.SameSense else ends[::-1])))
        return found

    # -- facts of a product ------------------------------------------------------------------------------------
    def layers(self) -> dict[int, str]:
        """The layer of each representation and item that is on one."""
        found: dict[int, str] = {}
        for layer in self.file.by_type("IfcPresentationLayerAssignment"):
            for item in layer.AssignedItems:
                found.setdefault(item.id(), layer.Name)
        return found

    def facts(self, product: Any, guid: str, layers: dict[int, str]) -> Product:
        steel = any(product.is_a(name) for name in STEEL)
        swept = axis = None
        why = ""
        if steel:
            try:
                swept, axis = self.sweeps.swept(product), self.sweeps.axis(product)
            except (ValueError, AttributeError, TypeError, IndexError, ZeroDivisionError, OverflowError) as error:
                why = f"its shape cannot be read ({str(error)[:80]})"
        grade, section = _material(product)
        owner, place = _owner(product), product
        steps = 0
        while place is not None and not _contained(place) and steps < 50:
            place, steps = _decomposed(place), steps + 1
        storey = ""
        if place is not None and _contained(place):
            storey = place.ContainedInStructure[0].RelatingStructure.Name or ""
        return Product(guid, product.is_a(), product.Name or "", getattr(product, "Tag", None) or "",
            getattr(product, "PredefinedType", None) or "", storey, self._layer(product, layers), grade, section,
            owner, swept, axis, _own_record(product) if steel else "", _weight(product), why)  # fmt: skip

    @staticmethod
    def _layer(product: Any, layers: dict[int, str]) -> str:
        shape = getattr(product, "Representation", None)
        for one in shape.Representations if shape is not None and layers else ():
            for id in (one.id(), *(item.id() for item in one.Items)):
                if id in layers:
                    return layers[id]
        return ""

    def draw_derived(self) -> None:
        """Profiles that are derived from others (mirrored, moved) drawn as rings: the geometry's readers leave out what
        is done to them. What is told of them has been read before."""
        from ifcopenshell.util.element import replace_element

        for one in self.file.by_type("IfcDerivedProfileDef") if self._knows("IfcDerivedProfileDef") else ():
            profile = self.sweeps.profile(one)
            shape = shape_of(profile) if profile is not None else None
            if shape is None or shape.geom_type != "Polygon":
                self.notes.append(f"Profile “{one.ProfileName or one.is_a()}” is shown as what it is derived from.")
                continue
            rings = [self._polyline(ring.coords) for ring in (shape.exterior, *shape.interiors)]
            kind = "IfcArbitraryProfileDefWithVoids" if rings[1:] else "IfcArbitraryClosedProfileDef"
            drawn = self.file.create_entity(
                kind, "AREA", one.ProfileName, rings[0], *([rings[1:]] if rings[1:] else [])
            )
            replace_element(one, drawn)

    def _polyline(self, points: Any) -> Any:
        made = [self.file.create_entity("IfcCartesianPoint", [x / self.unit, y / self.unit]) for x, y in points]
        return self.file.create_entity("IfcPolyline", [*made[:-1], made[0]])

    # -- shapes ------------------------------------------------------------------------------------------------
    def shaped(self, products: list[Any]) -> Iterator[Any]:
        """Triangulated elements, one after the other: by the quick reader what it makes rightly, by the thorough one
        what is clipped by planes (there the quick one is out by some percent) and what the quick one leaves out or
        leaves open where it took openings away."""
        clipped = [p for p in products if _is_clipped(p)]
        plain = [p for p in products if not _is_clipped(p)]
        left = {p.id(): p for p in plain}
        for element in self._triangulated(plain, _QUICK):
            product = left.get(element.id)
            if product is not None and _openings(product) and not _is_closed(element.geometry):
                continue
            left.pop(element.id, None)
            yield element
        yield from self._triangulated([*clipped, *left.values()], _THOROUGH)

    def _triangulated(self, products: list[Any], library: str) -> Iterator[Any]:
        import ifcopenshell.geom

        if not products:
            return
        settings = ifcopenshell.geom.settings()
        settings.set("weld-vertices", True)
        settings.set("mesher-angular-deflection", 0.25)
        settings.set("circle-segments", 36)
        threads = max(1, (os.cpu_count() or 2) - 1)  # one is the window
        made: Any = ifcopenshell.geom.iterator(
            settings, self.file, threads, include=products, geometry_library=library,  # type: ignore[arg-type]
        )  # fmt: skip
        if not made.initialize():
            return
        while True:
            yield made.get()
            if not made.next():
                return


def _has_body(product: Any) -> bool:
    """Whether a product is shown as more than lines."""
    shape = getattr(product, "Representation", None)
    kinds = [r.RepresentationType for r in shape.Representations] if shape is not None else []
    return any(kind not in ("Curve", "Curve2D", "Curve3D", "GeometricCurveSet", "BoundingBox") for kind in kinds)


def _contained(product: Any) -> Any:
    return getattr(product, "ContainedInStructure", None) or ()


def _openings(product: Any) -> Any:
    return getattr(product, "HasOpenings", None) or ()


def _is_clipped(product: Any) -> bool:
    """Whether a product's body is a boolean of others, itself or what it is mapped from."""
    shape = product.Representation
    items = [item for one in shape.Representations for item in one.Items]
    for _ in range(8):
        if any(item.is_a("IfcBooleanResult") or item.is_a("IfcCsgSolid") for item in items):
            return True
        maps = [item.MappingSource for item in items if item.is_a("IfcMappedItem")]
        items = [item for one in maps for item in one.MappedRepresentation.Items]
        if not items:
            return False
    return False


def _is_closed(geometry: Any) -> bool:
    """Whether every edge of a mesh is shared by two triangles."""
    faces = np.array(geometry.faces, dtype=np.int64).reshape(-1, 3)
    if not len(faces):
        return False
    pairs = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    _, count = np.unique(pairs[:, 0] << 32 | pairs[:, 1], return_counts=True)
    return bool((count == 2).all())


_KNOWN: dict[str, bool] = {}


def _decomposed(product: Any) -> Any:
    for rel in (*(getattr(product, "Decomposes", None) or ()), *(getattr(product, "Nests", None) or ())):
        return rel.RelatingObject
    return None


def _owner(product: Any) -> str:
    whole = _decomposed(product)
    return whole.GlobalId if whole is not None and whole.is_a("IfcElement") else ""


def _material(product: Any) -> tuple[str, str]:
    """The name of a product's material, and of the profile that goes with it."""
    import ifcopenshell.util.element as element

    try:
        found = element.get_material(product)
        for _ in range(8):
            if found is None:
                return "", ""
            if found.is_a("IfcMaterialProfileSetUsage"):
                found = found.ForProfileSet
            elif found.is_a("IfcMaterialLayerSetUsage"):
                found = found.ForLayerSet
            elif found.is_a("IfcMaterialProfileSet"):
                one = found.MaterialProfiles[0]
                profile = one.Profile.ProfileName if one.Profile is not None else ""
                return (one.Material.Name if one.Material is not None else ""), profile or one.Name or ""
            elif found.is_a("IfcMaterialLayerSet"):
                found = found.MaterialLayers[0].Material
            elif found.is_a("IfcMaterialList"):
                found = found.Materials[0]
            elif found.is_a("IfcMaterialConstituentSet"):
                found = found.MaterialConstituents[0].Material
            else:
                return found.Name or "", ""
    except (AttributeError, IndexError, TypeError, RuntimeError):
        pass
    return "", ""


def _weight(product: Any) -> float:
    """kg of an assembly, by a property that says its gross weight."""
    if not product.is_a("IfcElementAssembly"):
        return 0.0
    for rel in getattr(product, "IsDefinedBy", None) or ():
        of = getattr(rel, "RelatingPropertyDefinition", None)
        for one in of.HasProperties if of is not None and of.is_a("IfcPropertySet") else ():
            if one.Name == "GrossWeight" and one.is_a("IfcPropertySingleValue") and one.NominalValue is not None:
                value = one.NominalValue.wrappedValue
                return float(value) if isinstance(value, int | float) and math.isfinite(value) else 0.0
    return 0.0


def _own_record(product: Any) -> str:
    """The record of ours that a product was written from, where it carries one."""
    for rel in getattr(product, "IsDefinedBy", None) or ():
        of = getattr(rel, "RelatingPropertyDefinition", None)
        if of is not None and of.is_a("IfcPropertySet") and of.Name == OWN_SET:
            for one in of.HasProperties:
                if one.Name == OWN_NAME and one.is_a("IfcPropertySingleValue") and one.NominalValue is not None:
                    return str(one.NominalValue.wrappedValue)
    return ""


def read(path: Path) -> Model:
    """Raises Refused."""
    reading = _Reading(path)
    tell(step="looking", of=0, done=0)
    reading.guard_placements()
    products = reading.products()
    if not products:
        raise Refused("holds nothing that is built: no product has a place in it")
    layers = reading.layers()
    count: Counter[str] = Counter()
    facts: list[Product] = []
    number: dict[int, int] = {}
    for n, product in enumerate(products):
        guid = product.GlobalId
        count[guid] += 1
        number[product.id()] = n
        facts.append(reading.facts(product, guid if count[guid] == 1 else f"{guid}#{count[guid]}", layers))
        if n % 500 == 499:
            tell(step="looking", done=n + 1, of=len(products))
    twice = sorted(guid for guid, n in count.items() if n > 1)
    if twice:
        reading.notes.append(
            f"{len(twice)} GlobalId{'s are' if len(twice) > 1 else ' is'} given to more than one product "
            f"({', '.join(twice[:3])}): a newer copy of it may mistake one for the other.")  # fmt: skip
    made: dict[str, tuple[bytes, Any]] = {}
    known: dict[bytes, Shape] = {}
    found: dict[int, tuple[bytes, Any, Any]] = {}
    reading.draw_derived()
    wanted = [p for p in products if getattr(p, "Representation", None) is not None]
    for done, element in enumerate(reading.shaped(wanted) if wanted else (), 1):
        n = number.get(element.id, -1)
        if n < 0:
            continue
        if done % 50 == 0:
            tell(step="shapes", done=done, of=len(wanted))
        geometry = element.geometry
        key = str(geometry.id)
        if key not in made:
            made[key] = _learn(geometry, known)
        digest, middle = made[key]
        matrix = np.array(element.transformation.matrix).reshape(4, 4, order="F")
        if digest and np.isfinite(matrix).all():
            place = matrix[:3].copy()
            place[:, 3] = place[:, 3] * 1000.0 + place[:, :3] @ middle
            found[n] = (digest, place, _colour(geometry))
    # threads hand them over in any order: what is kept is in the order of the file
    numbers = {digest: k for k, digest in enumerate(dict.fromkeys(found[n][0] for n in sorted(found)))}
    stands = [(n, numbers[found[n][0]], *found[n][1:]) for n in sorted(found)]
    shapes = [known[digest] for digest in numbers]
    shaped = found.keys()
    for n, product in enumerate(products):
        if n not in shaped and _has_body(product) and not facts[n].why:
            facts[n] = msgspec.structs.replace(facts[n], why="it has no shape that can be built")
    project = next((p.Name or "" for p in reading.file.by_type("IfcProject")), "")
    model = Model.of(Facts(reading.file.schema_identifier, tuple(facts), tuple(reading.storeys()),
        tuple(reading.axes()), tuple(reading.notes), project), shapes, stands)  # fmt: skip
    return _sized(model)


def _learn(geometry: Any, known: dict[bytes, Shape]) -> tuple[bytes, Any]:
    """A geometry's shape, by a sum that alike ones share, and its middle; no sum where nothing of it is left."""
    points = np.array(geometry.verts, dtype=np.float64).reshape(-1, 3) * 1000.0
    found = settled_shape(points, np.array(geometry.faces, dtype=np.int32).reshape(-1, 3))
    if found is None:
        return b"", None
    shape, middle = found
    digest = hashlib.blake2b(shape.points.tobytes() + shape.triangles.tobytes(), digest_size=16).digest()
    known.setdefault(digest, shape)
    return digest, middle


def _sized(model: Model) -> Model:
    """With a note where it is so small or so large that its units must be wrong."""
    extent = model.extent
    if extent is None:
        if not model.facts.axes:
            raise Refused("holds products, but no shape that can be built")
        return model
    across = float(np.linalg.norm(extent[1] - extent[0]))
    if not _PLAUSIBLE[0] <= across <= _PLAUSIBLE[1]:
        note = (f"It is {across / 1000.0:,.4g} m across, which no building is: its unit of length is probably wrong; "
            "scale it where it is placed.")  # fmt: skip
        facts = msgspec.structs.replace(model.facts, notes=(*model.facts.notes, note))
        return msgspec.structs.replace(model, facts=facts)
    return model


def _colour(geometry: Any) -> tuple[float, float, float]:
    """The colour of the largest share of a shape's faces."""
    numbers, materials = geometry.material_ids, geometry.materials
    if not len(materials) or not len(numbers):
        return _GREY
    most = Counter(n for n in numbers if n >= 0).most_common(1)
    if not most:
        return _GREY
    colour = materials[most[0][0]].diffuse
    found = tuple(float(c() if callable(c) else c) for c in (colour.r, colour.g, colour.b))
    return found if all(0.0 <= c <= 1.0 for c in found) else _GREY  # type: ignore[return-value]


if __name__ == "__main__":
    run(read)
