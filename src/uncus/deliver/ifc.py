"""IFC4 (ISO 16739-1:2018), and IFC 2x3 out of it: assemblies, parts, fasteners, welds and what they join, with our ids,
marks and weights.

The file is text from templates; GlobalIds are made of the records' own ids and what a joint calls what it makes, so
that they hold whatever else changes.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable
from datetime import UTC, datetime
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from uncus.deliver.ifc_2x3 import in_2x3
from uncus.deliver.ifc_facts import (
    KINDS,
    OURS,
    Facts,
    bought,
    fastener_type,
    label,
    labels,
    mass,
    quantities,
    sizes,
    weld_facts,
    where,
)
from uncus.deliver.ifc_shapes import Shapes, along, shank
from uncus.deliver.ifc_sheets import Paper, ordered_as
from uncus.frame.grids import Family, runs
from uncus.frame.placement import Placement
from uncus.job.job import Job
from uncus.job.records import Grid, Level, Member, Role
from uncus.mark.marking import Marks
from uncus.reference.model import OWN_NAME, OWN_SET, SecondOf
from uncus.reference.step import StepFile, guid, is_uuid, real, refs, some, text
from uncus.shop.pieces import Assembly, Piece
from uncus.shop.shop import Shop
from uncus.steel.describe import describe
from uncus.steel.joint import Fasteners, Weld
from uncus.steel.part import Part

_CLASS = {
    Role.COLUMN: "COLUMN",
    Role.POST: "COLUMN",
    Role.BRACE: "MEMBER",
    Role.STRUT: "MEMBER",
    Role.PURLIN: "MEMBER",
    Role.GIRT: "MEMBER",
    Role.HANGER: "MEMBER",
    Role.EMBED: "PLATE",
    Role.PLATE: "PLATE",
    Role.TREAD: "PLATE",
    Role.PANEL: "PLATE",
    Role.STRINGER: "MEMBER",
    Role.RAIL: "MEMBER",
}
_TYPE = {"COLUMN": "COLUMN", "BEAM": "BEAM", "MEMBER": "MEMBER", "PLATE": "SHEET", "DISCRETEACCESSORY": "BRACKET"}
_SETS = {"COLUMN": "Column", "BEAM": "Beam", "MEMBER": "Member", "PLATE": "Plate"}
IFC4, IFC2X3 = "IFC4", "IFC2X3"
SCHEMAS = {IFC4: "ViewDefinition [ReferenceView_V1.2]", IFC2X3: "ViewDefinition [CoordinationView_V2.0]"}
Array = NDArray[np.float64]
_HERE = Placement.identity()


def global_id(piece: Piece) -> str:
    """The GlobalId of a piece; a member's own length is told from its assembly."""
    return guid(f"{piece.id}/part" if piece.main else piece.id)


class _Storey(NamedTuple):
    id: str
    elevation: float
    entity: str


class _Like(NamedTuple):
    """What parts of one shape and class share, and which products they are."""

    kind: str
    words: str
    shown: str
    voids: tuple[str, ...]
    products: list[str]


class _Writer:
    def __init__(self, job: Job, shop: Shop, marks: Marks, paper: Paper) -> None:
        self.job, self.marks, self.units = job, marks, job.project.units
        self.paper, self.ordered = paper, ordered_as(job)
        about = f"{job.project.name}/{job.project.number}"
        self.file = StepFile()
        self.shapes, self.facts = Shapes(self.file), Facts(self.file, about)
        self.maker: dict[Fasteners | Weld, str] = {}
        for id, made in shop.connections.items():
            self.maker |= dict.fromkeys(made.fasteners, id) | dict.fromkeys(made.welds, id)
        self.product: dict[str, str] = {}
        self.joins: list[tuple[str, tuple[str, ...], list[str], str]] = []
        self.inside: dict[_Storey, list[str]] = defaultdict(list)
        self._electrode = job.rules.electrode
        self._alike: dict[tuple[str, Part], _Like] = {}
        self._header()

    # -- where it all is ----------------------------------------------------------------------------------------
    def _header(self) -> None:
        put, project, facts = self.file.put, self.job.project, self.facts
        units = [
            put(f"IFCSIUNIT(*,.{kind}.,{prefix},.{name}.)")
            for kind, prefix, name in (
                ("LENGTHUNIT", ".MILLI.", "METRE"),
                ("AREAUNIT", "$", "SQUARE_METRE"),
                ("VOLUMEUNIT", "$", "CUBIC_METRE"),
                ("MASSUNIT", ".KILO.", "GRAM"),
                ("PLANEANGLEUNIT", "$", "RADIAN"),
                ("PRESSUREUNIT", ".MEGA.", "PASCAL"),
            )
        ]
        world = self.shapes.axis3((0.0, 0.0, 0.0))
        context = put(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,{world},$)")
        self.shapes.body, self.shapes.axis = (
            put(f"IFCGEOMETRICREPRESENTATIONSUBCONTEXT('{name}','Model',*,*,*,*,{context},$,.{target}.,$)")
            for name, target in (("Body", "MODEL_VIEW"), ("Axis", "GRAPH_VIEW"))
        )
        assignment = put(f"IFCUNITASSIGNMENT({refs(units)})")
        own = guid("project/" + project.name + project.number)
        whole = put(f"IFCPROJECT('{own}',$,{text(project.name)},$,$,{some(project.number)},$,({context}),{assignment})")
        place = put(f"IFCLOCALPLACEMENT($,{world})")
        site = put(f"IFCSITE('{facts.guid('site')}',$,'Site',$,$,{place},$,$,.ELEMENT.,$,$,$,$,$)")
        place = put(f"IFCLOCALPLACEMENT({place},{world})")
        building = put(
            f"IFCBUILDING('{facts.guid('building')}',$,{text(project.name)},$,$,{place},$,$,.ELEMENT.,$,$,$)"
        )
        put(f"IFCRELAGGREGATES('{facts.guid('in project')}',$,$,$,{whole},({site}))")
        put(f"IFCRELAGGREGATES('{facts.guid('in site')}',$,$,$,{site},({building}))")
        self._storeys(building, place)

    def _storeys(self, building: str, place: str) -> None:
        levels = sorted(self.job.all(Level), key=lambda level: level.elevation) or [
            Level(id="level 0", name="Ground", elevation=0)
        ]
        self.storeys = []
        for level in levels:
            here = self.shapes.local(Placement((0, 0, level.elevation), np.eye(3)), place)
            own = guid(level.id) if is_uuid(level.id) else self.facts.guid(level.id)
            made = self.file.put(
                f"IFCBUILDINGSTOREY('{own}',$,{text(level.name)},$,$,{here},$,$,.ELEMENT.,{real(level.elevation)})"
            )
            self.storeys.append(_Storey(level.id, level.elevation, made))
        self.root = place
        whole = refs(s.entity for s in self.storeys)
        self.file.put(f"IFCRELAGGREGATES('{self.facts.guid('in building')}',$,$,$,{building},{whole})")

    def contain(self, z: float, product: str) -> None:
        below = [s for s in self.storeys if s.elevation <= z + 1.0]
        self.inside[below[-1] if below else self.storeys[0]].append(product)

    # -- parts --------------------------------------------------------------------------------------------------
    def part(self, piece: Piece, of: Assembly) -> str:
        part, mark, whole = piece.part, self.marks.of_part(piece.id), self.marks.of_assembly(of.id)
        kind = "PLATE" if part.is_plate else _CLASS.get(of.member.role, "BEAM")
        one = self._like("DISCRETEACCESSORY" if part.item else kind, part)
        place = self.shapes.local(piece.placement, self.root)
        product = self.file.put(
            f"IFC{one.kind}('{global_id(piece)}',$,{text(mark or one.words)},{text(one.words)},"
            f"{text(piece.words)},{place},{one.shown},{some(mark)},.{_TYPE[one.kind]}.)"
        )
        self.product[piece.id] = product
        one.products.append(product)
        told = (*labels(Mark=mark, AssemblyMark=whole, AdvanceMark=self.ordered.get((piece.id, True), "")),
            *self.paper.of_part.get(mark, ()), *labels(Lot=of.member.lot), *sizes(part))  # fmt: skip
        self.facts.say(OURS, told, product)
        record = self._record(piece)
        if record is not None:
            self.facts.say(OWN_SET, ((OWN_NAME, f"IFCTEXT({text(msgspec.json.encode(record).decode())})"),), product)
        if one.voids:
            self._openings(piece, product, place, one)
        return product

    def _record(self, piece: Piece) -> Member | SecondOf | None:
        """What a member's own piece is written from, so that whoever reads the file again has the member and not its
        shape alone; a pair's second piece says whose it is."""
        if piece.main:
            return self.job.get(piece.id, Member)
        return SecondOf(piece.maker) if piece.id == f"{piece.maker}/mate" else None

    def _like(self, kind: str, part: Part) -> _Like:
        """What is the same for all parts of a shape and class."""
        one = self._alike.get((kind, part))
        if one is None:
            shapes, words = self.shapes, describe(part, self.units)
            voids = () if part.is_formed else shapes.voids(part)
            one = self._alike[kind, part] = _Like(kind, words, shapes.shown(shapes.part(part)), voids, [])
        return one

    def _openings(self, piece: Piece, host: str, place: str, one: _Like) -> None:
        here = self.file.put(f"IFCLOCALPLACEMENT({place},{self.shapes.axis3((0.0, 0.0, 0.0))})")
        for number, (feature, shape) in enumerate(zip(piece.part.features, one.voids, strict=True)):
            id, words = f"{piece.id}/void {number}", type(feature).__name__.lower()
            opening = self.file.put(
                f"IFCOPENINGELEMENT('{guid(id)}',$,'{words}',$,'{words}',{here},{shape},$,.OPENING.)"
            )
            self.file.put(f"IFCRELVOIDSELEMENT('{guid(id + '/rel')}',$,$,$,{host},{opening})")

    def _say_of_parts(self) -> None:
        """The type, material and standard sets of all that are alike."""
        facts = self.facts
        for (kind, part), one in self._alike.items():
            words, section = text(one.words), part.section
            attributes = f"{words},$,$,$,({self.shapes.part(part)}),$,$,.{_TYPE[kind]}."
            facts.typed(f"IFC{kind}TYPE", repr(part), attributes, *one.products)
            facts.made_of(part.grade, self.shapes.profile(section) if section else "", section.name if section else "",
                *one.products)  # fmt: skip
            if part.item is not None:
                facts.say("Pset_ManufacturerTypeInformation", bought(part), *one.products)
                continue
            reference = f"IFCIDENTIFIER({text(section.name) if section else words})"
            common = (("Reference", reference), ("LoadBearing", "IFCBOOLEAN(.T.)"))
            facts.say(f"Pset_{_SETS[kind]}Common", common, *one.products)
            facts.say(f"Qto_{_SETS[kind]}BaseQuantities", quantities(part), *one.products)

    # -- assemblies and what joins them -------------------------------------------------------------------------
    def assembly(self, assembly: Assembly) -> None:
        mark, member = self.marks.of_assembly(assembly.id), assembly.member
        place = self.shapes.local(assembly.main.placement, self.root)
        product = self.file.put(
            f"IFCELEMENTASSEMBLY('{guid(assembly.id)}',$,{text(mark or assembly.words)},{text(assembly.words)},"
            f"{text(str(member.role))},{place},$,{some(mark)},.FACTORY.,.NOTDEFINED.)"
        )
        parts = [self.part(p, assembly) for p in assembly.pieces]
        parts += [self.weld(w, assembly.id) for w in assembly.welds]
        parts += [b for g in assembly.holds if not g.field for b in self.fasteners(g, assembly.id)]
        self.file.put(f"IFCRELAGGREGATES('{guid(assembly.id + '/parts')}',$,$,$,{product},{refs(parts)})")
        reference = (("Reference", f"IFCIDENTIFIER({text(mark)})"),) if mark else ()
        self.facts.say("Pset_ElementAssemblyCommon", reference, product)
        told = (*labels(Mark=mark, AdvanceMark=self.ordered.get((assembly.id, False), "")),
            *self.paper.of_assembly.get(assembly.id, ()))  # fmt: skip
        self.facts.say(OURS, (*told, *self._member(member), ("GrossWeight", mass(assembly.gross)),
            ("NetWeight", mass(assembly.net)),
            *((("BoughtWeight", mass(assembly.bought)),) if assembly.bought else ())), product)  # fmt: skip
        self.contain(float(min(member.start[2], member.end[2])), product)
        for weld in assembly.site_welds:
            self.contain(weld.path[0][2], self.weld(weld, assembly.id))
        for group in assembly.holds:
            if group.field:
                for at, bolt in zip(group.points, self.fasteners(group, assembly.id), strict=True):
                    self.contain(at[2], bolt)

    def _member(self, member: Member) -> Iterable[tuple[str, str]]:
        yield from labels(Lot=member.lot, Role=str(member.role), Finish=member.finish)
        if member.camber:
            yield "Camber", f"IFCLENGTHMEASURE({real(member.camber)})"

    def weld(self, weld: Weld, owner: str) -> str:
        id = f"{self.maker.get(weld, owner)}/{weld.key}"
        shape = self.shapes.shape([self.shapes.polyline(weld.path, closed=False)], "Axis", "Curve3D")
        place = self.file.put(f"IFCLOCALPLACEMENT({self.root},{self.shapes.axis3((0.0, 0.0, 0.0))})")
        product = self.file.put(
            f"IFCFASTENER('{guid(id + '/weld')}',$,{text(f'{weld.form} weld')},$,$,{place},{shape},$,.WELD.)"
        )
        standard, ours = weld_facts(weld, self._electrode)
        self.facts.say("Pset_FastenerWeld", standard, product)
        self.facts.say(OURS, ours, product)
        self.joins.append((id + "/welded", weld.joins, [product], f"{where(weld.field)} weld"))
        return product

    def fasteners(self, group: Fasteners, owner: str) -> list[str]:
        """Each bolt, rod or stud of a group."""
        shapes, id = self.shapes, f"{self.maker.get(group, owner)}/{group.key}"
        shape, lies = shapes.shown(shapes.fastener(group)), shapes.turned(along(group.axis))
        sizes_, kind = f"{real(shank(group))},{real(group.length)}", KINDS[group.kind]
        words = f"{text(f'{group.kind} {group.size}')},{some(group.grade)}"
        made = []
        for number, at in enumerate(group.points):
            axis = self.file.put(f"IFCAXIS2PLACEMENT3D({shapes.point(*at)},{lies})")
            place = self.file.put(f"IFCLOCALPLACEMENT({self.root},{axis})")
            own = guid(f"{id}/{number}")
            made.append(
                self.file.put(f"IFCMECHANICALFASTENER('{own}',$,{words},$,{place},{shape},$,{sizes_},.{kind}.)")
            )
        fastener_type(self.facts, shapes, group, made)
        self.facts.say(OURS, (("Where", label(where(group.field))),), *made)
        self.joins.append((id + "/joined", group.joins, made, f"{where(group.field)} bolts"))
        return made

    # -- the rest -----------------------------------------------------------------------------------------------
    def grid(self, grid: Grid) -> None:
        if not grid.numbers or not grid.letters:
            return
        lines = runs(grid, 1500.0)
        curves: list[str] = []

        def axes(family: Family) -> str:
            found = []
            for r in lines:
                if r.family is family:
                    curves.append(self.shapes.polyline([r.at(r.first), r.at(r.last)], closed=False))
                    found.append(self.file.put(f"IFCGRIDAXIS({text(r.label)},{curves[-1]},.T.)"))
            return refs(found)

        u, v = axes(Family.NUMBERS), axes(Family.LETTERS)
        drawn = self.file.put(f"IFCGEOMETRICCURVESET({refs(curves)})")
        shape = self.shapes.shape([drawn], "FootPrint", "GeometricCurveSet")
        place = self.shapes.local(_HERE, self.root)
        own = guid(grid.id) if is_uuid(grid.id) else self.facts.guid(grid.id)
        self.contain(0.0, self.file.put(f"IFCGRID('{own}',$,'Grid',$,$,{place},{shape},{u},{v},$,.RECTANGULAR.)"))

    def finish(self) -> None:
        for id, pieces, products, words in self.joins:
            there = [p for p in dict.fromkeys(pieces) if p in self.product]
            for a, b in zip(there, there[1:], strict=False):
                self.file.put(
                    f"IFCRELCONNECTSWITHREALIZINGELEMENTS('{guid(f'{id}/{a}/{b}')}',$,$,$,$,{self.product[a]},"
                    f"{self.product[b]},{refs(products)},{text(words)})"
                )
        self._say_of_parts()
        self.facts.write()
        for storey, products in sorted(self.inside.items()):
            own = self.facts.guid(f"contained/{storey.id}")
            self.file.put(f"IFCRELCONTAINEDINSPATIALSTRUCTURE('{own}',$,$,$,{refs(products)},{storey.entity})")


def ifc_text(
    job: Job,
    shop: Shop,
    marks: Marks,
    wanted: Callable[[Assembly], bool] = lambda _: True,
    progress: Callable[[], None] = lambda: None,
    schema: str = IFC4,
    paper: Paper = Paper(),
) -> str:
    """The model as the text of an IFC file of a schema (`SCHEMAS`), assemblies that `wanted` lets through only, with
    what `paper` says of their sheets. `progress` is called once an assembly."""
    writer = _Writer(job, shop, marks, paper)
    for grid in job.all(Grid):
        writer.grid(grid)
    for _, assembly in sorted(shop.shipped.items()):
        if wanted(assembly):
            writer.assembly(assembly)
            progress()
    writer.finish()
    stamp = datetime.now(UTC).strftime("%Y-%m-%dT%H:%M:%S")
    written = in_2x3(writer.file) if schema == IFC2X3 else writer.file
    return written.text(schema, f"{job.project.number or 'job'}.ifc", stamp, SCHEMAS[schema])
