"""IFC against independent readers: ifcopenshell's validator and its geometry."""

import json
import math
import random
import re
from collections import Counter
from itertools import pairwise

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.validate
import msgspec
import numpy as np
import pytest
from ifcopenshell.util.pset import PsetQto
from tests.conftest import how_many, marked
from tests.draw.gallery import truss

from uncus.catalog.bolts import bolt_sizes
from uncus.deliver.ifc import IFC2X3, IFC4, global_id, ifc_text
from uncus.deliver.ifc_sheets import paper_of
from uncus.deliver.nc import Heading, nc_text
from uncus.draw.register import register
from uncus.job.drawings import Revision
from uncus.job.job import Job
from uncus.job.records import Connection, Drawing, Member, Project
from uncus.job.start import SERIES
from uncus.lens.criteria import lens_named, passes
from uncus.mark.kept import ordered
from uncus.mark.marking import Marks
from uncus.reference.model import OWN_SET
from uncus.reference.reading import read
from uncus.reference.step import guid
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.bench import work
from uncus.steel.flat import gross_weight, net_volume, net_weight
from uncus.steel.joint import GOES_WITH


def written(job, shop, tmp_path, **more):
    path = tmp_path / "a.ifc"
    path.write_text(ifc_text(job, shop, Marks(job), **more))
    return ifcopenshell.open(str(path))


def volumes(model, products):
    """Volume in mm3 of each product as ifcopenshell builds it."""
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-angular-deflection", 0.2)
    found = {}
    for product in products:
        shape = ifcopenshell.geom.create_shape(settings, product).geometry
        p = np.array(shape.verts).reshape(-1, 3)[np.array(shape.faces).reshape(-1, 3)]
        found[product.GlobalId] = float(np.einsum("ij,ij->i", p[:, 0], np.cross(p[:, 1], p[:, 2])).sum()) / 6 * 1e9
    return found


@pytest.mark.parametrize("which", ["sample", pytest.param("grid_frame", marks=pytest.mark.long)])
def test_three_ways_to_weigh_every_part_agree_and_holes_too(which, request, tmp_path):
    """Net weight by features, by the volume of the IFC geometry, by the bench from NC alone: within 0.3 %."""
    job, shop = request.getfixturevalue(which)
    model = written(job, shop, tmp_path)
    one_of_each = {piece.part: piece for piece in shop.pieces()}
    products = {global_id(p): model.by_guid(global_id(p)) for p in one_of_each.values()}
    measured = volumes(model, products.values())
    for part, piece in one_of_each.items():
        product = work(nc_text(part, Heading("1", "1", "m", 1)))
        by_ifc, by_bench, by_features = measured[global_id(piece)], product.volume, net_volume(part)
        # a bend stretches its outside more than it upsets its inside: what leaves the bench is the flat
        assert by_ifc == pytest.approx(by_features, rel=0.01 if part.is_formed else 0.003), piece.words
        assert by_bench == pytest.approx(by_features, rel=0.003), piece.words
        low, _ = part.depth_range
        ours = sorted((h.x, h.w - low, h.d) for h in part.holes if h.face == "web")
        benched = sorted((b.x, b.y, b.d) for b in product.bores if b.face == "v")
        assert np.allclose(ours, benched, atol=0.1) if ours else not benched
        if part.is_formed:
            assert not products[global_id(piece)].HasOpenings
            continue
        _check_openings(products[global_id(piece)], part)


def test_saddles_are_the_bodies_that_they_are(tmp_path):
    job, shop = marked(
        [Project(name="Truss"), *SERIES, *truss(2, 2000.0, name="t", chord="PIPE8STD", web="HSS4.000X0.250")]
    )
    model = written(job, shop, tmp_path)
    pieces = {global_id(p): p for p in shop.pieces()}
    measured = volumes(model, [model.by_guid(id) for id in pieces])
    for id, piece in pieces.items():
        assert measured[id] == pytest.approx(net_volume(piece.part), rel=0.003), piece.words
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, log, express_rules=True)
    assert not log.statements


def _check_openings(product, part):
    """Round openings in the IFC: as many as the part's holes, of their diameters, at their places."""
    here = np.linalg.inv(ifcopenshell.util.placement.get_local_placement(product.ObjectPlacement))
    found = []
    for rel in product.HasOpenings:
        solid = rel.RelatedOpeningElement.Representation.Representations[0].Items[0]
        if solid.SweptArea.is_a("IfcCircleProfileDef"):
            place = here @ ifcopenshell.util.placement.get_local_placement(rel.RelatedOpeningElement.ObjectPlacement)
            at = place @ [*solid.Position.Location.Coordinates, 1.0]
            turned = solid.Position.Axis is not None
            axis = place[:3, :3] @ (solid.Position.Axis.DirectionRatios if turned else (0.0, 0.0, 1.0))
            found.append((at[0], at[1] if abs(axis[2]) > 0.5 else at[2], 2 * solid.SweptArea.Radius))
    assert (
        np.allclose(sorted(found), sorted((h.x, h.w, h.d) for h in part.holes), atol=0.1) if part.holes else not found
    )


@pytest.mark.parametrize(
    ("which", "lens", "schema"),
    [pytest.param("sample", None, IFC4, marks=pytest.mark.long), ("sample", "columns", IFC4), ("hard_job", None, IFC4),
        pytest.param("sample", None, IFC2X3, marks=pytest.mark.long), ("hard_job", None, IFC2X3),
        ("sample", "columns", IFC2X3), pytest.param("gallery_job", None, IFC4, marks=pytest.mark.long),
        pytest.param("gallery_job", None, IFC2X3, marks=pytest.mark.long)],
)  # fmt: skip
def test_the_validator_finds_nothing(which, lens, schema, request, tmp_path):
    """Entities, types and cardinalities, and all rules of the schema."""
    job, shop = request.getfixturevalue(which)
    wanted = {"wanted": passes(lens_named(job, lens).rule, job, shop)} if lens else {}
    model = written(job, shop, tmp_path, schema=schema, paper=paper_of(register(job, shop)), **wanted)
    assert model.schema == schema
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, log, express_rules=True)
    assert not log.statements


def test_both_schemas_tell_of_the_same_steel(sample, tmp_path):
    """The same pieces by the same ids, with the same bodies, facts and joints; and the older is taken in as ours."""
    job, shop = sample
    marks = Marks(job)
    new, old = written(job, shop, tmp_path), written(job, shop, tmp_path, schema=IFC2X3)
    kinds = "ElementAssembly MechanicalFastener Fastener OpeningElement Beam Plate Column Member"
    for kind in (*(f"Ifc{name}" for name in kinds.split()), "IfcRelConnectsWithRealizingElements"):
        ours, theirs = ({e.GlobalId for e in model.by_type(kind, include_subtypes=False)} for model in (new, old))
        assert ours == theirs, kind
    one_of_each = {piece.part: global_id(piece) for piece in shop.pieces()}
    some = list(one_of_each.values())[:: how_many(6, 1)]
    ours, theirs = (volumes(model, [model.by_guid(id) for id in some]) for model in (new, old))
    for id in some:
        assert theirs[id] == pytest.approx(ours[id], rel=1e-6), new.by_guid(id).Name
        told, again = (ifcopenshell.util.element.get_psets(model.by_guid(id)) for model in (new, old))
        assert told["Steel"] == {**again["Steel"], "id": told["Steel"]["id"]}
    material = ifcopenshell.util.element.get_material(old.by_guid(some[0]))
    assert material.is_a("IfcMaterial") and material.Name == next(iter(one_of_each)).grade
    path = tmp_path / "old.ifc"
    path.write_text(ifc_text(job, shop, marks, schema=IFC2X3))
    there = [json.loads(p.own) for p in read(path, tmp_path).model.products if p.own]
    assert {one["id"] for one in there if "section" in one} == {m.id for m in job.all(Member)}


TEXTS = (
    "It's",
    "a','b)",
    "(((",
    "#1=IFCWALL($);",
    "'',$,",
    "\\X4\\0001F3D7\\X0\\",
    "ärø 🏗",
    "\u202e,.X.,",
    "$",
    "*",
    ",#5,#6,",
)


def test_words_of_any_kind_are_the_same_in_both_schemas(once, tmp_path):
    job = Job(once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values())))
    lots = {}
    with job.change("words") as change:
        change.put(msgspec.structs.replace(job.project, name=TEXTS[0] * 3, number=TEXTS[1]))
        for n, member in enumerate(job.all(Member)):
            lots[guid(member.id)] = TEXTS[n % len(TEXTS)]
            change.put(msgspec.structs.replace(member, lot=TEXTS[n % len(TEXTS)]))
    shop = build(job)
    for schema in (IFC4, IFC2X3):
        model = written(job, shop, tmp_path, schema=schema)
        assert (model.by_type("IfcProject")[0].Name, model.by_type("IfcProject")[0].LongName) == (
            TEXTS[0] * 3, TEXTS[1])  # fmt: skip
        told = {a.GlobalId: ifcopenshell.util.element.get_psets(a)["Steel"]["Lot"] for a in model.by_type(
            "IfcElementAssembly")}  # fmt: skip
        assert told == lots
        log = ifcopenshell.validate.json_logger()
        ifcopenshell.validate.validate(model, log)
        assert not log.statements


def test_bolts_have_nuts_and_washers_and_pieces_their_papers(sample, tmp_path):
    job, shop = sample
    job = Job(list(job.records.values()))
    piece = next(p for p in shop.pieces() if p.part.section)
    with job.change("ordered") as change:
        for one in ordered(job, shop.shipped.values(), "2026-11-29", "mill"):
            change.put(one)
    entries = register(job, shop)
    revised = next(e for e in entries if e.kind == "assembly")
    hand = Drawing(piece=revised.piece, kind="assembly", revisions=(Revision("B", "2026-11-29", "moved"),))
    entries = [msgspec.structs.replace(e, hand=hand) if e is revised else e for e in entries]
    model, marks = written(job, shop, tmp_path, paper=paper_of(entries)), Marks(job)
    facts = ifcopenshell.util.element.get_psets(model.by_guid(global_id(piece)))["Steel"]
    assert (facts["AdvanceMark"], facts["Sheet"]) == (marks.of_part(piece.id), marks.of_part(piece.id))
    whole = ifcopenshell.util.element.get_psets(model.by_guid(guid(revised.pieces[0])))["Steel"]
    assert (whole["Sheet"], whole["Revision"]) == (revised.name, "B")
    assert "Revision" not in facts
    wanted = Counter()
    for group in shop.fasteners():
        for words, n in GOES_WITH[group.kind]:
            wanted[words] += n * len(group.points)
    found = Counter()
    for bolt in model.by_type("IfcMechanicalFastener"):
        kind = ifcopenshell.util.element.get_psets(ifcopenshell.util.element.get_type(bolt))["Steel"]
        for words, name in (("nut", "Nuts"), ("washer", "Washers"), ("plate washer", "PlateWashers"),
                ("ferrule", "Ferrules")):  # fmt: skip
            found[words] += kind.get(name, 0)
    assert found == wanted and wanted["nut"] and wanted["washer"]
    group = next(g for g in shop.fasteners() if g.kind == "bolt")
    bolt = next(b for b in model.by_type("IfcMechanicalFastener") if b.NominalLength == pytest.approx(group.length))
    size = bolt_sizes()[group.size]
    flats = bolt_sizes()[group.size].head_flats ** 2 * math.sqrt(3) / 2
    solid = math.pi / 4 * (size.d**2 * group.length + size.washer_od**2 * size.washer_t)
    solid += flats * (size.head_height + size.nut_height)
    (came,) = volumes(model, [bolt]).values()
    assert came == pytest.approx(solid, rel=0.02)  # each body by itself


def test_the_standards_own_sets_have_its_names_and_kinds(sample, tmp_path):
    """Against the templates of buildingSMART that ship with the reader."""
    model, templates = written(*sample, tmp_path), PsetQto("IFC4")
    sets = (*model.by_type("IfcPropertySet"), *model.by_type("IfcElementQuantity"))
    found = [s for s in sets if s.Name not in ("Steel", OWN_SET)]
    assert {s.Name for s in found} >= {"Pset_BeamCommon", "Qto_PlateBaseQuantities", "Pset_FastenerWeld",
        "Pset_MechanicalFastenerBolt", "Qto_ColumnBaseQuantities", "Pset_ElementAssemblyCommon"}  # fmt: skip
    for one in found:
        of = {t.Name: t for t in templates.get_by_name(one.Name).HasPropertyTemplates}
        for fact in getattr(one, "HasProperties", None) or one.Quantities:
            template = of[fact.Name]
            if fact.is_a("IfcPropertySingleValue"):
                assert template.PrimaryMeasureType in (None, fact.NominalValue.is_a()), (one.Name, fact.Name)
            else:
                assert template.TemplateType.removeprefix("Q_").title() == fact.is_a().removeprefix("IfcQuantity")


def test_bolts_and_welds_are_tied_to_what_they_join(sample, tmp_path):
    """Counted against the shop, and read from either side: a bolt's plies, and the bolts of a plate."""
    job, shop = sample
    model = written(job, shop, tmp_path)
    ids = {p.id: global_id(p) for p in shop.pieces()}
    groups = [*shop.fasteners(), *shop.welds()]
    wanted = Counter()
    for g in groups:
        there = [ids[j] for j in dict.fromkeys(g.joins) if j in ids]
        wanted.update((a, b, len(getattr(g, "points", "1"))) for a, b in pairwise(there))
    found = model.by_type("IfcRelConnectsWithRealizingElements")
    assert (
        Counter((r.RelatingElement.GlobalId, r.RelatedElement.GlobalId, len(r.RealizingElements)) for r in found)
        == wanted
    )
    bolt = next(b for b in model.by_type("IfcMechanicalFastener") if b.PredefinedType == "BOLT")
    (rel, *_) = bolt.IsConnectionRealization
    assert bolt in rel.RealizingElements and rel in (*rel.RelatedElement.ConnectedFrom, *rel.RelatedElement.ConnectedTo)
    facts = ifcopenshell.util.element.get_psets(bolt)
    assert facts["Steel"]["Where"] in ("shop", "site") and rel.ConnectionType.startswith(facts["Steel"]["Where"])
    kind = ifcopenshell.util.element.get_psets(ifcopenshell.util.element.get_type(bolt))
    assert kind["Steel"]["Grade"] == bolt.Description and kind["Steel"]["Length"] == bolt.NominalLength
    weld = ifcopenshell.util.element.get_psets(model.by_type("IfcFastener")[0])
    assert (
        weld["Pset_FastenerWeld"]["Type1"] in ("fillet weld", "butt weld, complete penetration")
        and weld["Steel"]["Electrode"] == "E70"
    )


def test_parts_have_types_profiles_and_what_a_shop_asks(sample, tmp_path):
    job, shop = sample
    model = written(job, shop, tmp_path)
    for piece in shop.pieces():
        product, part = model.by_guid(global_id(piece)), piece.part
        kind = ifcopenshell.util.element.get_type(product)
        shape = product.Representation.Representations[0].Items[0]
        assert shape.is_a("IfcMappedItem") and shape.MappingSource in kind.RepresentationMaps
        facts, material = (
            ifcopenshell.util.element.get_psets(product)["Steel"],
            ifcopenshell.util.element.get_material(product),
        )
        if part.section is not None:
            (profile,) = material.ForProfileSet.MaterialProfiles
            assert (profile.Profile.ProfileName, profile.Material.Name) == (part.section.name, part.grade)
        elif part.item is None:
            assert (material.Name, facts["Thickness"], facts["Width"]) == (
                part.grade,
                part.thickness,
                pytest.approx(part.width),
            )
    assert len({p.part for p in shop.pieces()}) >= len(model.by_type("IfcElementType")) - len(
        model.by_type("IfcMechanicalFastenerType")
    )
    one = next(m for m in job.all(Member) if not m.double)
    with (bent := Job(list(job.records.values()))).change("camber") as change:
        change.put(msgspec.structs.replace(one, camber=19.05, lot="7", finish="galvanised"))
    again = written(bent, build(bent), tmp_path)
    facts = ifcopenshell.util.element.get_psets(again.by_guid(guid(one.id)))["Steel"]
    assert (facts["Camber"], facts["Lot"], facts["Finish"]) == (pytest.approx(19.05), "7", "galvanised")


def test_ids_hold_through_edits_elsewhere_and_differ_by_job(grid_frame):
    """Fifty edits: members shifted, joints given other bolts, a joint taken away. What is not about the edited ones
    keeps its id."""
    job, _ = grid_frame
    lot, job = random.Random(3), Job(list(job.records.values()))
    before = ids_of(job)
    joints = sorted(job.all(Connection), key=lambda c: c.id)
    touched = lot.sample([c for c in joints if c.kind == "shear tab"], 50)
    with job.change("edits") as change:
        for n, joint in enumerate(touched):
            if n % 5 == 4:
                change.drop(joint.id)
            else:
                change.put(msgspec.structs.replace(joint, params={"rows": 2 + n % 3}))
    after = ids_of(job)
    about = {c.id for c in touched}
    lost = {id for id in before if id not in after and before[id] not in about}
    assert not lost and all(before[id] == after[id] for id in before if id in after)
    with job.change("another job") as change:
        change.put(msgspec.structs.replace(job.project, number="another"))
    other = ifc_text(job, build(job), Marks(job))
    ours = re.findall(r"IFC(?:SITE|BUILDING|PROJECT)\('([^']+)'", ifc_text(grid_frame[0], grid_frame[1], Marks(job)))
    assert len(ours) == 3 and not any(f"'{id}'" in other for id in ours)


def ids_of(job):
    """GlobalIds of all products, each with the joint that makes it, if any."""
    shop = build(job)
    found = {global_id(p): p.maker for p in shop.pieces()} | {guid(id): id for id in shop.shipped}
    for id, made in shop.connections.items():
        found |= {guid(f"{id}/{w.key}/weld"): id for w in made.welds}
        found |= {guid(f"{id}/{g.key}/{n}"): id for g in made.fasteners for n in range(len(g.points))}
    written = set(
        re.findall(
            r"IFC(?:BEAM|COLUMN|MEMBER|PLATE|FASTENER|MECHANICALFASTENER|ELEMENTASSEMBLY)\('([^']+)'",
            ifc_text(job, shop, Marks(job)),
        )
    )
    assert written == set(found)
    return found


def test_what_is_in_it(sample, tmp_path):
    job, shop = sample
    model, marks = written(job, shop, tmp_path), Marks(job)
    assemblies = model.by_type("IfcElementAssembly")
    assert {a.GlobalId for a in assemblies} == {guid(id) for id in shop.shipped}
    assert sorted(a.Tag for a in assemblies) == sorted(marks.of_assembly(id) for id in shop.shipped)
    bolts = sum(len(f.points) for f in shop.fasteners())
    assert len(model.by_type("IfcMechanicalFastener")) == bolts
    assert len(model.by_type("IfcFastener")) == len(list(shop.welds()))
    holes = sum(len(p.part.features) for p in shop.pieces() if not p.part.is_formed)
    assert len(model.by_type("IfcOpeningElement")) == holes
    assert len({e.GlobalId for e in model.by_type("IfcRoot")}) == len(model.by_type("IfcRoot"))
    piece = next(iter(shop.pieces()))
    sizes = ifcopenshell.util.element.get_psets(model.by_guid(global_id(piece)))
    assert sizes["Steel"]["Mark"] == marks.of_part(piece.id)
    assert sizes["Steel"]["GrossWeight"] == pytest.approx(gross_weight(piece.part), abs=1e-3)
    (base,) = (facts for name, facts in sizes.items() if name.startswith("Qto_"))
    assert base["NetWeight"] == pytest.approx(net_weight(piece.part), abs=1e-3)
    assert base["Length"] == sizes["Steel"]["Length"] == pytest.approx(piece.part.length)
    assert len(model.by_type("IfcGrid")[0].UAxes) == 4


def test_only_what_the_lens_lets_through(sample, tmp_path):
    job, shop = sample
    model = written(job, shop, tmp_path, wanted=passes(lens_named(job, "roof").rule, job, shop))
    assert len(model.by_type("IfcElementAssembly")) == sum(a.member.lot == "3" for a in shop.shipped.values())
