"""IFC against independent readers: ifcopenshell's validator and its geometry."""

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.validate
import numpy as np
import pytest

from uncus.deliver.ifc import guid, ifc_file
from uncus.deliver.nc import Heading, nc_text
from uncus.lens.criteria import lens_named, passes
from uncus.mark.marking import Marks
from uncus.standin.bench import work
from uncus.steel.flat import gross_weight, net_volume, net_weight


def written(job, shop, tmp_path, **more):
    path = tmp_path / "a.ifc"
    ifc_file(job, shop, Marks(job), **more).write(str(path))
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


def global_id(piece):
    return guid(f"{piece.id}/part" if piece.main else piece.id)


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


@pytest.mark.parametrize("lens", [pytest.param(None, marks=pytest.mark.long), "columns"])
def test_the_validator_finds_nothing(sample, tmp_path, lens):
    job, shop = sample
    wanted = {"wanted": passes(lens_named(job, lens).rule, job, shop)} if lens else {}
    model = written(job, shop, tmp_path, **wanted)
    log = ifcopenshell.validate.json_logger()
    ifcopenshell.validate.validate(model, log, express_rules=lens is not None)
    assert not log.statements


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
    assert sizes["BaseQuantities"]["NetWeight"] == pytest.approx(net_weight(piece.part), abs=1e-3)
    assert sizes["BaseQuantities"]["Length"] == pytest.approx(piece.part.length)
    assert len(model.by_type("IfcGrid")[0].UAxes) == 4


def test_only_what_the_lens_lets_through(sample, tmp_path):
    job, shop = sample
    model = written(job, shop, tmp_path, wanted=passes(lens_named(job, "roof").rule, job, shop))
    assert len(model.by_type("IfcElementAssembly")) == sum(a.member.lot == "3" for a in shop.shipped.values())
