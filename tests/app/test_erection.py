"""The erection set in the window: views by list, signs that lead on, a view moved by its title; cranes and areas
placed, their facts typed."""

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from tests.app.conftest import BUTTON, KEY, Driver
from tests.app.test_drawing import Paper

from uncus.app.commands import BY_ID
from uncus.app.stages.view_list import ViewsDialog
from uncus.draw.sheet import linked
from uncus.job.drawings import Moved
from uncus.job.records import Crane, ErectionRules, LayDown, ViewFrame
from uncus.units import FOOT


@pytest.fixture
def d(qtbot, fresh):
    driver = Driver(qtbot, *fresh(with_marks=True))
    yield driver
    driver.window.close()


def press(d, name, root):
    QTest.mouseClick(d.named(name, QPushButton, root), BUTTON.LeftButton)
    QTest.qWait(30)


def test_views_are_made_named_put_together_and_left_out_by_list_with_the_sheet_beside(d):
    BY_ID["views"].do(d.window)
    dialog = next(w for w in d.window.findChildren(ViewsDialog) if w.isVisible())
    assert "No views yet" in dialog.said.text()
    press(d, "Usual set", dialog)
    names = [f.name for f in d.job.all(ViewFrame)]
    assert {"Elevation 1", "Elevation A", "Isometric"} <= set(names) and d.job.erection.columns
    assert dialog.table.rows.rowCount() == len(names) and d.window.session.stage == "Draw"
    ids = {f.name: f.id for f in d.job.all(ViewFrame)}
    dialog.table.pick(ids["Elevation 1"])
    QTest.qWait(30)
    assert d.window.draw.current.title == "view: Elevation 1"
    d.enter("View frame name", "West wall")
    assert d.job.get(ids["Elevation 1"], ViewFrame).name == "West wall" and len(dialog.picked) == 1
    flag = Qt.KeyboardModifier.ControlModifier
    for name in ("Elevation 2", "Elevation 3"):
        row = dialog.table.rows.keys.index(ids[name])
        at = dialog.table.visualRect(dialog.table.model().index(row, 0)).center()
        QTest.mouseClick(dialog.table.viewport(), BUTTON.LeftButton, flag, at)
    assert len(dialog.picked) == 3
    d.enter("View frame sheet", "Walls")
    d.choose("View Steel", "as outlines")
    three = [d.job.get(ids[n], ViewFrame) for n in ("Elevation 1", "Elevation 2", "Elevation 3")]
    assert {(f.sheet, f.shows.steel) for f in three} == {("Walls", "as outlines")} and len(dialog.picked) == 3
    d.enter("View frame scale", "twelve")
    assert "no scale" in d.said and all(f.scale == 0.0 for f in d.job.all(ViewFrame))
    press(d, "Draw or leave out", dialog)
    assert not any(d.job.get(f.id, ViewFrame).drawn for f in three)
    assert "views: Walls" not in {e.title for e in d.window.draw.entries}
    press(d, "Draw or leave out", dialog)
    assert "views: Walls" in {e.title for e in d.window.draw.entries}
    press(d, "Rules of the set", dialog)
    d.enter("Erection Spare bolts", "10 %")
    assert d.job.get("erection rules", ErectionRules).spare == pytest.approx(0.1)
    d.window.session.undo()
    assert d.job.erection.spare == 0.03
    press(d, "Close", dialog)


def test_a_sign_leads_to_its_sheet_and_a_view_is_moved_by_its_title_and_put_back(d):
    session = d.window.session
    BY_ID["elevations"].do(d.window)
    frames = [f for f in d.job.all(ViewFrame) if f.name in ("Elevation 1", "Elevation 2")]
    session.change("together", [msgspec.structs.replace(f, sheet="Walls") for f in frames])
    session.go("Draw")
    entry = next(e for e in d.window.draw.entries if e.title == "view: Elevation A")
    paper = Paper(d, entry.name)
    sign = next(s for s in paper.view.sheet.spots if linked(s))
    _, (x0, y0, x1, y1) = sign.texts[0]
    paper.click((x0 + x1) / 2, (y0 + y1) / 2)
    assert d.window.draw.current.name == linked(sign) != entry.name
    paper = Paper(d, next(e.name for e in d.window.draw.entries if e.title == "views: Walls"))
    spot = next(s for s in paper.view.sheet.spots if s.kind == "view")
    middle = paper.at((spot.box[0] + spot.box[2]) / 2, spot.box[3] - 1.5)
    before = {f.name: f.box for f in paper.view.sheet.frames}
    paper.drag(middle, middle + (paper.at(12.0, 0.0) - paper.at(0.0, 0.0)))
    (edit,) = paper.edits
    assert isinstance(edit, Moved) and edit.key == spot.key and edit.dx == pytest.approx(12.0, abs=1.0)
    id = spot.key.partition("|")[0]
    after = {f.name: f.box for f in paper.view.sheet.frames}
    assert after[id][0] - before[id][0] == pytest.approx(edit.dx) and paper.view.sheet.lost == ()
    assert "list" in (paper.view.hand.left_out() or "")
    paper.click(*[(after[id][0] + after[id][2]) / 2, (after[id][1] + after[id][3]) / 2])
    d.window.draw.cleaning.reset_view()
    assert paper.edits == () and {f.name: f.box for f in paper.view.sheet.frames} == before


def test_a_crane_and_an_area_are_placed_by_picks_and_their_facts_typed(d):
    session = d.window.session
    BY_ID["view plan"].do(d.window)
    BY_ID["crane"].do(d.window)
    d.click(-10 * FOOT, 10 * FOOT, 0.0)
    (crane,) = d.job.all(Crane)
    assert crane.at[:2] == pytest.approx((-10 * FOOT, 10 * FOOT), abs=100.0) and "load table" in d.said
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_Escape, on=d.model)
    session.select([crane.id])
    for n, text in enumerate(("50' 1400", "20' 9000 lb", "none")):
        d.enter(f"Load table row {n + 1}", text)
    table = d.job.get(crane.id, Crane).table
    assert [round(r.radius / FOOT) for r in table] == [20, 50] and "no row of a load table" in d.said
    d.named("Load table row 1").clear()
    d.enter("Load table row 1", "")
    assert [round(r.radius / FOOT) for r in d.job.get(crane.id, Crane).table] == [50]
    d.enter("Crane X", "-6'")
    assert d.job.get(crane.id, Crane).at[0] == pytest.approx(-6 * FOOT)
    BY_ID["lay down"].do(d.window)
    d.click(-8 * FOOT, -4 * FOOT, 0.0)
    d.click(8 * FOOT, -2 * FOOT, 0.0)
    (area,) = d.job.all(LayDown)
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_Escape, on=d.model)
    session.select([])
    d.click(0.0, *[area.corners[0][1]], 0.0)
    assert session.selection == {area.id}, "picked by its edge"
    d.enter("Area lots", "2, 3")
    d.enter("Area bears", "900 lb")
    area = d.job.get(area.id, LayDown)
    assert area.lots == ("2", "3") and area.bears == pytest.approx(900 * 0.45359237)
    session.go("Draw")
    assert "site plan" in {e.title for e in d.window.draw.entries}
    session.go("Frame")
    session.select([crane.id, area.id])
    session.delete()
    assert not d.job.all(Crane) and not d.job.all(LayDown)
