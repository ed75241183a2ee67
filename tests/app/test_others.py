"""Others' models and bought items in the window, by mouse and keys."""

import ezdxf
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton, QTreeWidget
from tests.app.conftest import BUTTON, KEY, Driver, in_dialog
from tests.reference.made_up import Written, moved
from tests.reference.test_bought import HOIST, item

from uncus.app.canvas.others import Others
from uncus.app.commands import BY_ID
from uncus.app.stages.bought import NEWER, ItemValues
from uncus.catalog.sections import section
from uncus.frame.snaps import SnapKind
from uncus.job.job import Job
from uncus.job.records import BoughtItem, Grid, Level, Reference, Role, Taken, ViewKind
from uncus.job.start import new_job
from uncus.reference.catalogue import Catalogue
from uncus.reference.reading import read
from uncus.units import Units


def hall(path, long=6000.0):
    w = Written("IFC4", "mm")
    w.storey("First", 3600.0)
    for n in range(3):
        w.bar(section("HEB200"), (n * 6000, 0, 0), (n * 6000, 0, 3600), kind="IfcColumn", name=f"C{n}",
            guid=f"00000000000000000000c{n}")  # fmt: skip
        w.bar(section("IPE300"), (n * 6000, 0, 3450), (n * 6000 + long, 0, 3450), name=f"B{n}", storey="First",
            guid=f"00000000000000000000b{n}")  # fmt: skip
    w.product("IfcWall", w.shape(w.box(18_000, 200, 3000)), moved(0, 4000, 0), name="Wall", layer="A-WALL",
        guid="0000000000000000000001")  # fmt: skip
    return w.save(path)


@pytest.fixture
def d(qtbot, tmp_path):
    records = [r for r in new_job("New", "1", Units.METRIC) if not isinstance(r, Grid)]
    driver = Driver(qtbot, Job.create(tmp_path / "j.uncus", records))
    driver.folder = tmp_path
    yield driver
    driver.window.close()


def idle(d):
    d.bot.waitUntil(lambda: not d.window.session.others.busy, timeout=20_000)
    QTest.qWait(30)


def press(d, name, root=None):
    QTest.mouseClick(d.named(name, QPushButton, root), BUTTON.LeftButton)
    QTest.qWait(30)


def laid_in(d, path):
    d.key(KEY.Key_M, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert d.window.others.isVisible()
    d.window.session.others.lay(path)
    idle(d)
    return d.job.all(Reference)[-1]


def test_a_model_is_laid_in_hidden_by_storey_coloured_and_taken_out(d):
    of = laid_in(d, hall(d.folder / "hall.ifc"))
    panel, others = d.window.others, d.window.session.others
    assert of.path == "hall.ifc" and len(d.model.pointer.others) == 7 and "7 things" in panel.said.text()
    tree = d.named("Others' models", QTreeWidget)
    storeys = tree.topLevelItem(0).child(0)
    first = next(storeys.child(n) for n in range(storeys.childCount()) if storeys.child(n).text(0) == "First")
    first.setCheckState(0, Qt.CheckState.Unchecked)
    assert d.job.get(of.id, Reference).hidden == ("storey/First",) and len(d.model.pointer.others) == 4
    d.window.session.undo()
    assert len(d.model.pointer.others) == 7
    d.choose("Colour others' models by", "class")
    assert {words for _, words, _ in others.key} == {"Column: 3", "Beam: 3", "Wall: 1"}
    d.enter("Lens on others' models", "class is IfcWall or name is B1")
    assert sum(map(len, others.colours.values())) == 2
    d.enter("Lens on others' models", "colour is red")
    assert "known are" in panel.said.text()
    d.enter("Lens on others' models", "layer is A-WALL")
    press(d, "Show only these")
    assert len(d.model.pointer.others) == 1
    d.model.grab()  # it is drawn, whatever is shown of it
    press(d, "Take out")
    assert not d.job.all(Reference) and not len(d.model.pointer.others)


def test_it_is_snapped_to_picked_and_clipped(d):
    of = laid_in(d, hall(d.folder / "hall.ifc"))
    d.model.look(ViewKind.FREE)
    BY_ID["measure"].do(d.window)
    snap = d.model.snap_at(d.at(18_000, 4000, 3000).toPointF())
    assert snap is not None and snap.kind is SnapKind.CORNER and "Wall" in snap.words
    assert np.allclose(snap.point, (18_000, 4000, 3000))
    d.window.session.use(None)
    d.click(9000, 4000, 2000)
    assert "Wall" in d.window.others.facts.text() and "A-WALL" in d.window.others.facts.text()
    d.window.session.seeing.clip(1.0, 1.0)
    assert d.model.pointer.other(*d.at(4000, 4000, 100).toTuple()) is None
    d.window.session.seeing.clip(None, None)
    panel = d.window.others
    panel.tabs.setCurrentIndex(1)
    d.enter(f"Offset x of {of.name}", "2500")
    assert d.job.get(of.id, Reference).origin[0] == 2500.0
    d.enter(f"Turned of {of.name}", "nonsense")
    assert d.job.get(of.id, Reference).turn == 0.0


def test_two_points_place_it_and_its_steel_becomes_members_again_and_again(d):
    of = laid_in(d, hall(d.folder / "hall.ifc"))
    session = d.window.session
    press(d, "Place by points")
    for typed in ("origin", "origin + 1000, 0", "origin + 6000, 0", "origin + 1000, 6000"):
        session.tool.pointer = None
        d.window.prompt.entry.setFocus()
        d.type(typed, d.window.prompt.entry)
        QTest.keyClick(d.window.prompt.entry, KEY.Key_Return)
    placed = d.job.get(of.id, Reference)
    assert placed.turn == pytest.approx(90.0)
    session.use(None)
    press(d, "Make members ...")
    idle(d)
    dialog = d.window.others.taking
    assert dialog.tabs.tabText(0) == "To be made (6)" and "1 level" in dialog.said.text()
    press(d, "Make all", dialog)
    idle(d)
    members = d.members()
    assert len(members) == 6 == len(d.job.all(Taken)) and {x.name for x in d.job.all(Level)} >= {"First"}
    assert {m.section for m in d.members(Role.COLUMN)} == {"HEB200"}
    beam = d.members(Role.BEAM)[0]
    assert abs(beam.end[0] - beam.start[0]) < 0.01, "it stands as the model does: turned"
    hall(d.folder / "hall.ifc", long=5500.0)
    press(d, "Read again")
    idle(d)
    press(d, "What changed")
    idle(d)
    assert d.window.others.tabs.tabText(2) == "Changes (3)" and len(session.others.key) == 1
    dialog.look()
    idle(d)
    assert dialog.tabs.tabText(0) == "To be made (3)"
    press(d, "Make all", dialog)
    idle(d)
    assert len(d.members()) == 6 and {round(m.work_length) for m in d.members(Role.BEAM)} == {5500}
    dialog.learn("IPE 301", "IPE300")
    idle(d)
    assert any("names" in r.id for r in d.job.records.values())
    dialog.close()


def test_lines_of_a_drawing_become_grid_lines_members_and_plates(d):
    document = ezdxf.new(units=4)
    space = document.modelspace()
    space.add_line((0, -2000), (0, 9000), dxfattribs={"layer": "AXES"})
    space.add_lwpolyline([(2000, 2000), (5000, 2000), (5000, 4000), (2000, 4000)], close=True)
    space.add_text("DECK", height=250).set_placement((2100, 2100))
    document.saveas(d.folder / "plan.dxf")
    laid_in(d, d.folder / "plan.dxf")
    d.model.look(ViewKind.PLAN)
    d.model.frame()
    BY_ID["follow lines"].do(d.window)
    d.click(0, 3000, 0)
    (grid,) = d.job.all(Grid)
    assert [(line.label, line.at) for line in grid.numbers] == [("1", 0.0)]
    d.click(0, 3000, 0)
    assert "already" in d.said
    session = d.window.session
    session.set_option("make", "plate")
    d.click(3500, 2000, 0)
    (plate,) = d.members(Role.PLATE)
    assert plate.blank is not None and section(plate.section).d == pytest.approx(2000) and plate.work_length == 3000
    session.set_option("make", "member")
    session.set_option("section", "IPE300")
    d.click(3500, 4000, 0)
    assert d.members(Role.BEAM)[0].work_length == pytest.approx(3000)
    d.model.grab()


def test_what_cannot_be_read_is_said_and_the_rest_goes_on(d):
    (d.folder / "bad.ifc").write_text("nothing")
    d.window.session.others.lay(d.folder / "bad.ifc")
    idle(d)
    assert "no IFC file" in d.said and not d.job.all(Reference)
    of = laid_in(d, hall(d.folder / "hall.ifc"))
    (d.folder / "hall.ifc").unlink()
    press(d, "Read again")
    idle(d)
    assert "not at" in d.window.others.said.text() and len(d.model.pointer.others) == 7 and d.job.get(of.id, Reference)


def test_bought_items_are_made_shared_set_and_taken_newer(d):
    session = d.window.session
    d.key(KEY.Key_B, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    panel = d.window.bought
    assert panel.isVisible() and {r.code for r in panel.rows()} >= {"RACK-600", "HOOK-120"}
    catalogue = Catalogue.make(d.folder / "shared")
    first = catalogue.keep(item())
    panel.use(catalogue)
    row = next(r for r in panel.rows() if r.code == "HOIST-5")
    panel.table.pick(row)
    QTest.qWait(30)
    press(d, "Set in the model")
    idle(d)
    assert d.job.get(BoughtItem.named("HOIST-5"), BoughtItem).digest == first.digest
    d.model.look(ViewKind.PLAN)
    d.click(1000, 1000, 0)
    d.click(3000, 1000, 0)
    (alone,) = [m for m in d.members() if m.item is not None]
    assert alone.start == pytest.approx((1000, 1000, 0), abs=20) and alone.role is Role.BOUGHT
    session.use(None)
    heavier = item(HOIST.__class__(**{n: getattr(HOIST, n) for n in HOIST.__struct_fields__} | {"kg": 14.0}))
    catalogue.keep(heavier, after=(first.digest,))
    panel.refresh()
    assert next(r for r in panel.rows() if r.code == "HOIST-5").state == NEWER
    assert "newer: weight" in panel.facts.text() or panel.picked
    press(d, "Take all newer")
    idle(d)
    assert d.job.get(BoughtItem.named("HOIST-5"), BoughtItem).facts.kg == 14.0
    session.undo()
    assert d.job.get(BoughtItem.named("HOIST-5"), BoughtItem).facts.kg == 12.5
    panel.table.pick(next(r for r in panel.rows() if r.code == "HOIST-5"))
    press(d, "Where used")
    assert session.selection == {alone.id}

    def numbers(dialog):
        dialog.values = ItemValues("BOX-1", "box", deep=200.0, wide=100.0, tall=50.0)
        dialog.accept()

    in_dialog(numbers)
    press(d, "From numbers ...")
    own = d.job.get(BoughtItem.named("BOX-1"), BoughtItem)
    assert own.facts.kg == pytest.approx(200 * 100 * 50 * 7.85e-6, rel=1e-3)
    panel.table.pick(next(r for r in panel.rows() if r.code == "BOX-1"))
    press(d, "Share")
    assert catalogue.entry("BOX-1") is not None and d.job.get(own.id, BoughtItem).catalogue == catalogue.about.id
    session.select({alone.id})
    in_dialog(lambda dialog: dialog.accept())
    press(d, "From steel ...")
    assert d.job.get(BoughtItem.named("ITEM-1"), BoughtItem).body
    assert session.preferences.catalogue == str(catalogue.folder)


def test_what_moves_is_drawn_in_no_more_than_its_share(tmp_path):
    """Thousands of things: while the view moves, the largest by their shapes and the rest as boxes, all within it."""
    from uncus.app.canvas.camera import Camera
    from uncus.app.canvas.others import MOST

    w = Written("IFC4", "mm")
    one = w.mapped(w.extruded(w.profile(section("HEB200")), 3000.0))
    for n in range(700):
        w.product("IfcColumn", w.instance(one), moved(n % 30 * 2000, n // 30 * 2000, 0), name=str(n))
    model = read(w.save(tmp_path / "a.ifc"), tmp_path / "kept").model
    others = Others({"r": (Reference(id="r", name="a", path="a.ifc"), model)})
    drawn = others.drawn({})
    camera = Camera()
    camera.width, camera.height = 1280, 800
    camera.frame(others.extent)
    picture = others.moving(camera)
    count = sum(len(b.shape.triangles) // 3 * len(b.places) for b in picture.values())
    assert 0 < count <= MOST and sum(len(b.places) for b in picture.values()) == 700
    assert others.moving(camera) is picture
    assert sum(len(b.places) for b in drawn.rest.values()) == 700 and len(drawn.rest) == 1
    ray = camera.ray(*camera.to_screen(np.array([(0.0, 0.0, 1500.0)]))[0][:2].tolist())
    assert others.at(*ray) is not None
