"""What an IFC4 file says of products: types, materials by profile and grade, the standard's property and quantity
sets and our own, each written once for all of which it is true."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from functools import lru_cache

from uncus.catalog.bolts import bolt_sizes, thread_length
from uncus.catalog.grades import GRADES
from uncus.deliver.ifc_shapes import Shapes, shank
from uncus.reference.step import StepFile, guid, real, refs, text
from uncus.steel.features import Face
from uncus.steel.flat import face_outline, gross_weight, net_volume, net_weight
from uncus.steel.joint import GOES_WITH, FastenerKind, Fasteners, Weld, WeldForm
from uncus.steel.part import Part
from uncus.steel.profile import outline

OURS = "Steel"  # the set of what no set of the standard has
Values = tuple[tuple[str, str], ...]


def label(value: str) -> str:
    return f"IFCLABEL({text(value)})"


def length(value: float) -> str:
    return f"IFCLENGTHMEASURE({real(value)})"


def mass(value: float) -> str:
    return f"IFCMASSMEASURE({real(value)})"


def count(value: int) -> str:
    return f"IFCCOUNTMEASURE({value})"


def flag(value: bool) -> str:
    return f"IFCBOOLEAN({'.T.' if value else '.F.'})"


def _positive(value: float) -> str:
    return f"IFCPOSITIVELENGTHMEASURE({real(value)})"


def labels(**of: str) -> Values:
    """Properties of text, those without any left out."""
    return tuple((name, label(value)) for name, value in of.items() if value)


class Facts:
    """Gathers what is said of products and writes it at the end; `about` tells the jobs apart."""

    def __init__(self, file: StepFile, about: str) -> None:
        self.file, self.about = file, about
        self._sets: dict[tuple[str, Values], list[str]] = defaultdict(list)
        self._types: dict[tuple[str, str], tuple[str, list[str]]] = {}
        self._materials: dict[tuple[str, str], list[str]] = defaultdict(list)

    def guid(self, of: str) -> str:
        return guid(f"{self.about}/{of}")

    def say(self, name: str, values: Values, *products: str) -> None:
        """Properties of products, each a name and its value; of a set of quantities each a name and its entity."""
        if values:
            self._sets[name, values] += products

    def typed(self, kind: str, key: str, attributes: str | Callable[[], str], *products: str) -> None:
        """Products are of a type, known by a key; its attributes from its name on, or what gives them."""
        known = self._types.get((kind, key))
        if known is None:
            own = self.guid(f"type/{kind}/{key}")
            written = attributes if isinstance(attributes, str) else attributes()
            known = self._types[kind, key] = (f"{kind}('{own}',$,{written})", [])
        known[1].extend(products)

    def made_of(self, grade: str, profile: str, section: str, *products: str) -> None:
        """The grade of products and the profile (its entity and name) they are rolled to, if any."""
        if grade or profile:
            self._materials[grade, f"{profile}/{section}" if profile else ""] += products

    def write(self) -> None:
        """All that was said."""
        for (kind, key), (entity, products) in self._types.items():
            made = self.file.put(entity)
            self._relate("IFCRELDEFINESBYTYPE", f"typed/{kind}/{key}", products, made)
        for (name, values), products in self._sets.items():
            key = f"{name}/{values}"
            if name.startswith("Qto_"):
                sizes = [self.file.once(quantity) for _, quantity in values]
                made = self.file.put(f"IFCELEMENTQUANTITY('{self.guid(key)}',$,{text(name)},$,$,{refs(sizes)})")
            else:
                made = self.property_set(name, values)
            self._relate("IFCRELDEFINESBYPROPERTIES", f"of/{key}", products, made)
        for (grade, rolled), products in self._materials.items():
            self._relate("IFCRELASSOCIATESMATERIAL", f"made of/{grade}/{rolled.partition('/')[2]}", products,
                self._material(grade, rolled))  # fmt: skip

    def property_set(self, name: str, values: Values, of: str = "") -> str:
        """A set of its own: of a type, or shared by products."""
        found = [self.file.once(f"IFCPROPERTYSINGLEVALUE({text(n)},$,{v},$)") for n, v in values]
        return self.file.put(f"IFCPROPERTYSET('{self.guid(f'{of}{name}/{values}')}',$,{text(name)},$,{refs(found)})")

    def _relate(self, kind: str, key: str, products: Iterable[str], to: str) -> None:
        self.file.put(f"{kind}('{self.guid(key)}',$,$,$,{refs(products)},{to})")

    def _material(self, grade: str, rolled: str) -> str:
        made = self.file.once(f"IFCMATERIAL({text(grade or 'steel')},$,'steel')")
        self._strength(grade, made)
        if not rolled:
            return made
        profile, _, name = rolled.partition("/")
        one = self.file.put(f"IFCMATERIALPROFILE({text(name)},$,{made},{profile},$,$)")
        of = self.file.put(f"IFCMATERIALPROFILESET({text(name)},$,({one}),$)")
        return self.file.put(f"IFCMATERIALPROFILESETUSAGE({of},5,$)")  # 5: about the middle of its depth and width

    def _strength(self, grade: str, material: str) -> None:
        if grade in GRADES:
            steel = GRADES[grade]
            found = [self.file.once(f"IFCPROPERTYSINGLEVALUE('{n}',$,IFCPRESSUREMEASURE({real(v, 1)}),$)") for n, v
                in (("YieldStress", steel.fy), ("UltimateStress", steel.fu))]  # fmt: skip
            self.file.once(f"IFCMATERIALPROPERTIES('Pset_MaterialSteel',$,{refs(found)},{material})")


# -- parts ------------------------------------------------------------------------------------------------------
def _quantity(kind: str, name: str, value: float, places: int = 6) -> tuple[str, str]:
    """A quantity's name and its whole entity."""
    return name, f"IFCQUANTITY{kind}({text(name)},$,$,{real(value, places)},$)"


@lru_cache(maxsize=65536)
def quantities(part: Part) -> Values:
    """The standard's base quantities of a part, mm, m2, m3 and kg: Qto_BeamBaseQuantities and its like, or
    Qto_PlateBaseQuantities."""
    if part.section is not None:
        s = part.section
        gross = s.area * part.length
        own = [
            _quantity("LENGTH", "Length", part.length),
            _quantity("AREA", "CrossSectionArea", s.area * 1e-6, 9),
            _quantity("AREA", "OuterSurfaceArea", outline(s).exterior.length * part.length * 1e-6),
        ]
    else:
        flat = face_outline(part, Face.WEB)
        gross = flat.area * part.thickness
        own = [
            _quantity("LENGTH", "Width", part.thickness),
            _quantity("LENGTH", "Perimeter", flat.length),
            _quantity("AREA", "GrossArea", flat.area * 1e-6),
            _quantity("AREA", "NetArea", net_volume(part) / part.thickness * 1e-6),
        ]
    return (
        *own,
        _quantity("VOLUME", "GrossVolume", gross * 1e-9, 9),
        _quantity("VOLUME", "NetVolume", net_volume(part) * 1e-9, 9),
        _quantity("WEIGHT", "GrossWeight", gross_weight(part)),
        _quantity("WEIGHT", "NetWeight", net_weight(part)),
    )


@lru_cache(maxsize=65536)
def sizes(part: Part) -> Values:
    """What a shop asks of a part first, and no set of the standard has."""
    found = labels(Grade=part.grade, Finish=part.finish, Section=part.section.name if part.section else "")
    if part.section is None and part.item is None:
        found += (("Thickness", length(part.thickness)), ("Width", length(part.width)))
    if part.item is None:
        found += (("Length", length(part.length)),)
    return (*found, ("GrossWeight", mass(gross_weight(part))), ("NetWeight", mass(net_weight(part))))


def bought(part: Part) -> Values:
    """Pset_ManufacturerTypeInformation."""
    return labels(ModelReference=part.item.code, Manufacturer=part.item.maker) if part.item else ()


# -- what joins them --------------------------------------------------------------------------------------------
KINDS = {FastenerKind.BOLT: "BOLT", FastenerKind.ROD: "ANCHORBOLT", FastenerKind.STUD: "SHEARCONNECTOR"}


def fastener_type(facts: Facts, shapes: Shapes, group: Fasteners, products: Iterable[str]) -> None:
    """All that is the same for a size, grade and length of bolt, rod or stud."""
    key = f"{group.kind}/{group.size}/{group.grade}/{group.length}/{group.grip}"
    facts.typed("IFCMECHANICALFASTENERTYPE", key, lambda: _fastener_type(facts, shapes, group, key), *products)


def _fastener_type(facts: Facts, shapes: Shapes, group: Fasteners, key: str) -> str:
    d, words = shank(group), f"{group.kind} {group.size} x {group.length:g} {group.grade}"
    own = (*labels(Size=group.size, Grade=group.grade), ("Length", length(group.length)), ("Grip", length(group.grip)),
        *((_counted(words), count(n)) for words, n in GOES_WITH[group.kind]))  # fmt: skip
    sets = [facts.property_set(OURS, own, key)]
    if group.kind is FastenerKind.BOLT:
        thread = thread_length(bolt_sizes()[group.size], group.length)
        standard: Values = (
            ("ThreadDiameter", _positive(d)),
            ("ThreadLength", _positive(thread)),
            ("NutsCount", count(1)),
            ("WashersCount", count(1)),
            ("HeadShape", label("hexagon")),
            ("NutShape", label("hexagon")),
            ("WasherShape", label("round")),
        )
        sets.append(facts.property_set("Pset_MechanicalFastenerBolt", standard, key))
    elif group.kind is FastenerKind.ROD:
        standard = (("AnchorBoltLength", _positive(group.length)), ("AnchorBoltDiameter", _positive(d)))
        sets.append(facts.property_set("Pset_MechanicalFastenerAnchorBolt", standard, key))
    kind, sizes = KINDS[group.kind], f"{real(d)},{real(group.length)}"
    return f"{text(words)},$,$,{refs(sets)},({shapes.fastener(group)}),$,$,.{kind}.,{sizes}"


def _counted(words: str) -> str:
    """The name of a property that counts things: plate washer, PlateWashers."""
    return f"{''.join(word.title() for word in words.split())}s"


def weld_facts(weld: Weld, electrode: str) -> tuple[Values, Values]:
    """Pset_FastenerWeld of a weld, and what that has no name for."""
    kind = "fillet weld" if weld.form is WeldForm.FILLET else "butt weld, complete penetration"
    size = "z" if weld.form is WeldForm.FILLET else "s"
    standard = [("Type1", label(kind)), *([("Type2", label(kind))] if weld.sides == 2 else [])]
    standard += [
        (size, _positive(weld.size)),
        ("l", _positive(max(weld.length / weld.sides, 0.001))),
        ("Intermittent", flag(False)),
    ]
    ours = (("Sides", count(weld.sides)), ("Where", label(where(weld.field))),
        ("AllAround", flag(weld.around)), *labels(Electrode=electrode))  # fmt: skip
    return tuple(standard), (*ours, ("Length", length(weld.length)))


def where(field: bool) -> str:
    return "site" if field else "shop"
