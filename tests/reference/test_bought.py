"""Bought items: one line for the buyer whatever they are made of, and a catalogue in which nothing is lost."""

import json
import random
import shutil
import subprocess
import sys

import ifcopenshell
import msgspec
import numpy as np
import pytest
from manifold3d import Manifold
from typer.testing import CliRunner

from tests.conftest import marked
from tests.reference.made_up import Written
from uncus.bill.listing import listed, template_named
from uncus.bill.sources import Billing
from uncus.catalog.bought import BoltHole, Bought, bought_items
from uncus.deliver.ifc import ifc_text
from uncus.draw.register import register
from uncus.frame.cuts import split
from uncus.frame.moves import flipped, mirror_in, transformed, turn_about
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Attachment, BoughtItem, Member, Role
from uncus.job.start import new_job
from uncus.mark.marking import Marks
from uncus.reference.catalogue import Catalogue, body_of_ifc, body_of_parts, find, newer, turned_out
from uncus.reference.items import set_item, users, uses
from uncus.shop.shop import build
from uncus.steel.bodies import body_solid, is_closed, item_part, mirrored, packed, unpacked
from uncus.steel.flat import net_volume
from uncus.steel.solid import solid
from uncus.units import Units


def body(*boxes):
    """Boxes of (size, at) as one body."""
    whole = Manifold()
    for size, at in boxes:
        whole += Manifold.cube(size).translate(at)
    made = whole.to_mesh64()
    return packed(np.array(made.vert_properties)[:, :3], made.tri_verts)


HOIST = Bought("HOIST-5", "Quayside Castings", "chain hoist bracket", 12.5, "galvanized", holes=(BoltHole(-30, 40, 14),
    BoltHole(30, -40, 14)), foot=10.0, bolt="M12", mirrors=True)  # fmt: skip
SHAPE = body(((10, 100, 140), (0, -50, -70)), ((150, 40, 30), (5, -10, -15)))


def item(facts=HOIST, shape=SHAPE, **more):
    return BoughtItem(id=BoughtItem.named(facts.code), facts=facts, body=shape, **more)


def job_with(*records):
    beam = Member(id="b1", role=Role.COLUMN, section="HEA200", start=(0, 0, 0), end=(0, 0, 4000))
    return marked([*new_job("j", "1", Units.METRIC), beam, *records])


def fixed(**params):
    places = {"code": "HOIST-5", "on": "top", "by": "places", "places": "1000, 1000", **params}
    return Attachment(id="a1", member="b1", kind="bought items", params=places)


def test_one_line_for_the_buyer_wherever_it_is(tmp_path):
    """Fixed twice with its own bolts, once by itself: three of one mark, apart from the steel, on no sheet, no NC."""
    alone = set_item(item(), (3000, 0, 1500), (1, 0, 0), (0, 0, 1))
    job, shop = job_with(item(), fixed(), alone)
    marks = Marks(job, shop.carried)
    found = [p for p in shop.pieces() if p.part.item]
    assert len(found) == 3 and len({marks.of_part(p.id) for p in found}) == 1
    assert marks.of_assembly(alone.id) == marks.of_part(alone.id) != ""
    assert not marks.unmarked(shop.shipped.values())
    of = Billing(job, shop, marks)
    (row,) = listed(template_named((), "bought"), of).rows
    assert row[:2] == (marks.of_part(alone.id), 3) and "HOIST-5" in row
    column = shop.shipped["b1"]
    assert column.bought == pytest.approx(25.0) and column.lifted == pytest.approx(column.gross + 25.0)
    assert column.gross == pytest.approx(sum(p.part.section.kg_m * p.part.length / 1000 for p in column.pieces[:1]))
    assert len(listed(template_named((), "assemblies"), of).rows) == 1
    entries = register(job, shop)
    assert not any(alone.id in e.pieces and e.kind in ("assembly", "part") for e in entries)
    bolts = [g for g in column.holds if g.size == "M12"]
    assert len(bolts) == 2 and all(len(g.points) == 2 and g.grip == pytest.approx(10.0 + 10.0) for g in bolts)
    holes = [h for h in column.main.part.holes if h.d == pytest.approx(13.5, abs=1)]
    assert len(holes) == 4
    assert not [f for f in shop.all_findings if "item" in f.text or "HOIST" in f.text]
    (tmp_path / "a.ifc").write_text(ifc_text(job, shop, marks))
    model = ifcopenshell.open(str(tmp_path / "a.ifc"))
    assert len(model.by_type("IfcDiscreteAccessory")) == 3


@pytest.mark.parametrize(
    ("facts", "params", "says"),
    [
        ({"mirrors": False}, {"mirror": True}, "mirror"),
        ({"turns": False}, {"turn": 30.0}, "upright"),
        ({"black": False}, {"order": "black"}, "finish"),
        ({"holes": ()}, {"held": "bolts"}, "no holes"),
    ],
)
def test_what_its_maker_does_not_allow_is_said(facts, params, says):
    _, shop = job_with(item(msgspec.structs.replace(HOIST, **facts)), fixed(**params))
    assert any(says in f.text for f in shop.all_findings)
    _, shop = job_with(item(), fixed(**params))
    assert not any(says in f.text for f in shop.all_findings if "bracket" in f.text) or says == "no holes"


def test_black_or_finished_and_mirrored_are_other_lines():
    job, shop = job_with(item(), fixed(), msgspec.structs.replace(fixed(order="black"), id="a2"),
        msgspec.structs.replace(fixed(mirror=True, places="2500"), id="a3"))  # fmt: skip
    rows = listed(template_named((), "bought"), Billing(job, shop, Marks(job, shop.carried))).rows
    assert sorted(r[1] for r in rows) == [1, 2, 2]
    part, _, foot = item_part(HOIST, SHAPE)
    turned, _, _ = item_part(HOIST, SHAPE, mirror=True)
    assert solid(part).volume() == pytest.approx(solid(turned).volume()) and part != turned
    assert item_part(HOIST, mirrored(SHAPE))[0] == turned and mirrored(mirrored(SHAPE)) == SHAPE
    assert (foot.wide, foot.tall) == (100, 140)


def test_a_change_of_the_item_reworks_what_has_it():
    job, shop = job_with(item(), fixed(), set_item(item(), (3000, 0, 1500), (0, 1, 0), (0, 0, 1)))
    longer = item(shape=body(((10, 100, 140), (0, -50, -70)), ((250, 40, 30), (5, -20, -15))))
    job.follow(lambda delta: shop.follow(delta))
    with job.change("longer") as change:
        change.put(longer)
    again = build(job)
    assert {p.id: p.part for p in shop.pieces()} == {p.id: p.part for p in again.pieces()}
    assert {p.part.length for p in shop.pieces() if p.part.item} == {255.0}
    assert users(job, "hoist-5") and uses(job)[longer.id] == 2
    with job.change("gone") as change:
        change.drop(longer.id)
    assert any("HOIST-5" in f.text for f in shop.all_findings)


def test_placed_any_way_its_body_is_where_it_was_put():
    rng = np.random.default_rng(5)
    for _ in range(12):
        at, out, up = rng.uniform(-5000, 5000, 3), rng.normal(size=3), rng.normal(size=3)
        alone = set_item(item(), tuple(at), tuple(out), tuple(up))
        _, shop = job_with(item(), alone)
        piece = shop.shipped[alone.id].main
        points = piece.placement.to_model(np.array(solid(piece.part).to_mesh64().vert_properties)[:, :3])
        x = out / np.linalg.norm(out)
        along = (points - at) @ x
        assert along.min() == pytest.approx(0, abs=1e-3) and along.max() == pytest.approx(155, abs=1e-3)
        feet = points[along < 0.5]
        assert np.allclose((feet.min(axis=0) + feet.max(axis=0)) / 2, at, atol=0.01) or len(feet) > 4
        assert np.allclose(feet.mean(axis=0), at, atol=0.01)
        z = up - (up @ x) * x
        assert piece.placement.z @ z / np.linalg.norm(z) == pytest.approx(1.0, abs=1e-6)


def test_made_of_modelled_parts_or_ifc_it_is_one_thing(tmp_path):
    _, shop = job_with(fixed(code="RACK-600", on="bottom"))
    parts = [(p.part, p.placement) for p in shop.shipped["b1"].pieces]
    whole = body_of_parts(parts)
    assert is_closed(whole)
    assert body_solid(whole).volume() == pytest.approx(sum(solid(p).volume() for p, _ in parts), rel=0.01)
    w = Written("IFC2X3", "ft")
    w.product("IfcBuildingElementProxy", w.shape(w.box(300, 200, 500)), name="base")
    w.product("IfcBuildingElementProxy", w.shape(w.box(100, 100, 900, (0, 0, 500))), name="top")
    made = body_of_ifc(w.save(tmp_path / "a.ifc"))
    assert body_solid(made).volume() == pytest.approx(300 * 200 * 500 + 100 * 100 * 900, rel=1e-4)
    turned = turned_out(made, "z")
    points, _ = unpacked(turned)
    assert np.ptp(points, axis=0) == pytest.approx((1400, 200, 300), rel=1e-5)
    open_ = packed([(0, 0, 0), (9, 0, 0), (0, 9, 0), (0, 0, 9)], [(0, 1, 2), (0, 1, 3), (0, 1, 2), (0, 1, 3)])
    assert not is_closed(open_) and body_solid(open_).volume() > 100
    rng = random.Random(1)
    for _ in range(50):
        data = bytearray(SHAPE)
        data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
        try:
            body_solid(bytes(data[: rng.randrange(8, len(data) + 1)]))
        except ValueError:
            continue


def test_moved_mirrored_and_never_cut():
    """Its steel comes to lie exactly where a motion takes it; nothing cuts, trims, joins or flips it."""
    alone = set_item(item(), (3000, 0, 1500), (1, 0.5, 0.2), (0, 0, 1))
    _, shop = job_with(item(), alone)
    points = shop.shipped[alone.id].main.placement.to_model(unpacked_points(shop.shipped[alone.id].main.part))
    for motion in (
        mirror_in((0, 0, 0), (1, 0, 0)),
        mirror_in((0, 0, 0), (0.6, 0.8, 0)),
        turn_about((0, 0, 0), (0, 0, 1), 33),
    ):
        other = transformed(alone, motion)
        _, again = job_with(item(), msgspec.structs.replace(other, id="moved"))
        piece = again.shipped["moved"].main
        there = piece.placement.to_model(unpacked_points(piece.part))
        want = np.array([motion(p) for p in points])
        assert np.allclose(np.sort(there.round(2), axis=0), np.sort(want.round(2), axis=0), atol=0.05)
        assert other.item.mirrored is bool(motion.mirrors)
    with pytest.raises(JobError, match="bought as it is"):
        split([alone], [[0.5]])
    with pytest.raises(JobError):
        flipped(alone)


def unpacked_points(part):
    return np.array(solid(part).to_mesh64().vert_properties)[:, :3]


def test_a_package_of_a_job_with_bought_items_is_whole(tmp_path):
    alone = set_item(item(), (3000, 0, 1500), (1, 0, 0), (0, 0, 1))
    job, _ = job_with(item(), fixed(), alone)
    path = tmp_path / "j.uncus"
    Job.create(path, job.records.values()).close()
    done = subprocess.run([sys.executable, "-m", "uncus", "produce", str(path), "--out", str(tmp_path / "out")],
        capture_output=True, text=True)  # fmt: skip
    assert done.returncode == 0, done.stderr
    names = [p.name for p in (tmp_path / "out").rglob("*") if p.is_file()]
    assert not [n for n in names if n.startswith("q1.")] and any(n.startswith("C1.") for n in names)
    checked = CliRunner().invoke(cli(), ["check", str(path), "--json"])
    assert "HOIST" not in checked.output.replace("HOIST-5 chain", "") or checked.exit_code == 0


def cli():
    from uncus.cli import checks  # noqa: F401
    from uncus.cli.common import app

    return app


# -- the catalogue -----------------------------------------------------------------------------------------------------
def test_what_is_kept_comes_back_and_anybody_can_read_it(tmp_path):
    catalogue = Catalogue.make(tmp_path / "shared")
    own = item(picture=b"\x89PNG not really")
    held = catalogue.keep(own, "ann", "2026-11-29", "first")
    again = Catalogue.open(tmp_path / "shared")
    back = again.item(again.entry("hoist-5").newest)
    assert back.facts == HOIST and back.picture == own.picture and back.digest == held.digest
    assert body_solid(back.body).volume() == pytest.approx(body_solid(SHAPE).volume(), rel=1e-6)
    shape = ifcopenshell.open(str(held.file.with_suffix(".ifc")))
    assert shape.by_type("IfcDiscreteAccessory")[0].Name == "HOIST-5"
    assert json.loads(held.file.read_text())["facts"]["maker"] == "Quayside Castings"
    assert catalogue.keep(own).file == held.file  # nothing new: nothing written
    assert len(list((tmp_path / "shared" / "items" / "HOIST-5").iterdir())) == 3


def test_two_people_who_change_one_item_make_two_versions(tmp_path):
    mine, theirs = Catalogue.make(tmp_path / "shared"), Catalogue.open(Catalogue.make(tmp_path / "shared").folder)
    first = mine.keep(item())
    a = mine.keep(item(msgspec.structs.replace(HOIST, kg=13.0)), "ann", after=(first.digest,))
    b = theirs.keep(item(msgspec.structs.replace(HOIST, kg=14.0)), "bob", after=(first.digest,))
    entry = mine.entry("HOIST-5")
    assert a.version.version == b.version.version == 2 and {h.digest for h in entry.heads} == {a.digest, b.digest}
    settled = mine.keep(
        item(msgspec.structs.replace(HOIST, kg=13.5)), "ann", after=tuple(h.digest for h in entry.heads)
    )
    entry = theirs.entry("HOIST-5")
    assert entry.heads == (settled,) and len(entry.versions) == 4 and settled.version.version == 3


def test_a_job_hears_of_newer_versions_and_takes_them(tmp_path):
    catalogue = Catalogue.make(tmp_path / "shared")
    first = catalogue.keep(item())
    own = catalogue.item(first)
    assert not newer([own], catalogue)
    catalogue.keep(item(msgspec.structs.replace(HOIST, kg=13.0, finish="painted")), after=(first.digest,))
    (one,) = newer([own], catalogue)
    assert set(one.words) == {"weight in kg: 12.5 is now 13", "finish: galvanized is now painted"}
    other = msgspec.structs.replace(own, catalogue="another")
    assert not newer([other], catalogue)
    path = tmp_path / "j.uncus"
    Job.create(path, [*new_job("j", "1", Units.METRIC), own]).close()
    from uncus.cli import bought as _  # noqa: F401
    from uncus.cli.common import app

    ask = ["bought", "--folder", str(catalogue.folder), "--job", str(path), "--json"]
    told = json.loads(CliRunner().invoke(app, ask).stdout)
    assert told["newer"][0]["code"] == "HOIST-5" and told["items"][0]["version"] == 1
    told = json.loads(CliRunner().invoke(app, [*ask, "--take", "all newer"]).stdout)
    assert told["taken"] == ["HOIST-5"] and not told["newer"] and told["items"][0]["version"] == 2


def test_the_folder_is_found_where_it_was_moved_to(tmp_path):
    catalogue = Catalogue.make(tmp_path / "office" / "bought")
    catalogue.keep(item())
    (tmp_path / "office" / "elsewhere").mkdir()
    shutil.move(catalogue.folder, tmp_path / "office" / "elsewhere" / "items of ours")
    found = find(catalogue.folder, catalogue.about.id)
    assert found is not None and found.folder.name == "items of ours" and found.entry("HOIST-5")
    assert find(catalogue.folder, "another") is None and find(catalogue.folder, "") is None


def test_an_ugly_folder_is_told_and_the_rest_goes_on(tmp_path):
    catalogue = Catalogue.make(tmp_path / "shared")
    held = catalogue.keep(item())
    folder = held.file.parent
    (folder / "0009-aaaaaaaaaaaa.json").write_bytes(held.file.read_bytes())
    (folder / "0010-bbbbbbbbbbbb.json").write_bytes(b"{")
    (folder / "notes.txt").write_text("x")
    (tmp_path / "shared" / "items" / "linked").symlink_to("/")
    bad = msgspec.structs.replace(HOIST, code="../../up", kg=1.0)
    up = catalogue.keep(item(bad))
    assert up.file.resolve().is_relative_to((tmp_path / "shared" / "items").resolve())
    entries = catalogue.entries()
    assert [e.code for e in entries] == ["../../up", "HOIST-5"] and len(catalogue.faults) == 2
    shape = held.file.with_suffix(".ifc")
    shape.write_bytes(shape.read_bytes() + b" ")
    with pytest.raises(JobError, match="not the shape"):
        catalogue.item(catalogue.entry("HOIST-5").newest)
    with pytest.raises(JobError, match="no catalogue"):
        Catalogue.open(tmp_path)
    with pytest.raises(JobError, match="weight"):
        catalogue.keep(item(msgspec.structs.replace(HOIST, kg=0.0)))


def test_an_item_is_imported_by_the_command_line(tmp_path):
    w = Written("IFC4", "mm")
    w.product("IfcBuildingElementProxy", w.shape(w.box(100, 80, 300)), name="thing")
    path = w.save(tmp_path / "thing.ifc")
    from uncus.cli import bought as _  # noqa: F401
    from uncus.cli.common import app

    ask = ["bought", "--folder", str(tmp_path / "shared"), "--make", "--import", str(path), "--code", "T-1", "--maker",
        "Made up", "--out", "z"]  # fmt: skip
    done = CliRunner().invoke(app, ask)
    assert done.exit_code == 0, done.output
    told = json.loads(CliRunner().invoke(app, ["bought", "--folder", str(tmp_path / "shared"), "--json"]).stdout)
    assert told[0]["code"] == "T-1" and told[0]["kg"] == pytest.approx(100 * 80 * 300 * 7.85e-6, rel=1e-3)
    nothing = CliRunner().invoke(app, ["bought", "--folder", str(tmp_path / "nowhere")])
    assert nothing.exit_code == 2 and nothing.output.count("\n") == 1


def test_all_that_ships_is_sound():
    for code, facts in bought_items().items():
        assert facts.problem() is None and facts.code == code
        part, _, _ = item_part(facts, b"")
        assert solid(part).volume() == pytest.approx(net_volume(part), rel=1e-6)
