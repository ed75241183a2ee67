"""Lists, what changed, and stock in the window, by mouse and keys: seen, changed, kept, undone, shown in the model."""

import msgspec
import pytest
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton, QWidget
from tests.app.conftest import BUTTON, Driver

from uncus.app.commands import BY_ID
from uncus.app.stages.list_form import ListDialog
from uncus.app.stages.stock import StockDialog
from uncus.job.billing import KeptList, ListTemplate, Load, Offcut
from uncus.job.records import AdvanceMark, Member, Role


@pytest.fixture
def d(qtbot, fresh):
    driver = Driver(qtbot, *fresh(with_marks=True))
    driver.qtbot = qtbot
    driver.window.session.go("Deliver")
    yield driver
    driver.window.close()


def press(d, name, root):
    QTest.mouseClick(d.named(name, QPushButton, root), BUTTON.LeftButton)
    QTest.qWait(30)


def words(view):
    return {i.text for i in view.sheet.items if hasattr(i, "text")} if view.sheet else set()


def test_a_list_is_seen_as_it_prints_made_ones_own_and_undone(d):
    BY_ID["lists"].do(d.window)
    lists = d.window.delivering.lists
    assert lists.isVisible() and lists.view.sheet is not None, "the first list is there at once"
    lists.table.pick("usual cuts")
    QTest.qWait(30)
    assert "Cut lengths" in words(lists.view) and "rows on" in lists.words.text()
    dialog = ListDialog(d.window.session, lists.one, "List cuts", lists)
    dialog.show()
    QTest.qWaitForWindowExposed(dialog)
    for name, typed in (("Title", "To be sawn"), ("Notes", "")):
        field = d.named(name, QWidget, dialog)
        field.setFocus()
        QTest.keyClicks(field, typed)
    what = dialog.columns.cellWidget(0, 0)
    assert isinstance(what, QComboBox)
    what.setCurrentText("length * section")
    dialog.accept()
    assert "words" in dialog.said.text() and dialog.made is None, "what cannot be read is said, and nothing is lost"
    what.setCurrentText("running length / number")
    QTest.mouseClick(d.named("Up", QPushButton, dialog), BUTTON.LeftButton)
    dialog.accept()
    assert dialog.made is not None and dialog.made.columns[0].what == "running length / number"
    own = msgspec.structs.replace(dialog.made, id="own", heading="B-7")
    assert d.window.session.change("List", [own])
    lists.refresh()
    lists.table.pick("own")
    QTest.qWait(30)
    assert "To be sawn" in words(lists.view) and d.job.all(ListTemplate) == [own]
    press(d, "Take away", lists)
    assert d.job.all(ListTemplate) == []
    d.window.session.undo()
    assert d.job.all(ListTemplate) == [own]
    lists.lens.setCurrentText("everything")
    lists.refresh()
    lists.table.pick("own")
    QTest.qWait(30)
    assert lists.keep_as("sent", "2026-11-20")
    lists.refresh()
    (sent,) = d.job.all(KeptList)
    lists.table.pick(sent.id)
    QTest.qWait(30)
    assert "AS SENT ON 2026-11-20" in words(lists.view) and "To be sawn" in words(lists.view)


def test_lengths_are_ordered_ahead_and_pieces_go_on_loads(d):
    BY_ID["lists"].do(d.window)
    lists, session = d.window.delivering.lists, d.window.session
    lists.order_as("AB-1", "2026-11-20")
    QTest.qWait(30)
    ordered = [a for a in d.job.all(AdvanceMark) if a.part]
    assert ordered and all(a.length > 0 for a in ordered) and "ordered in AB-1" in d.said
    assert "To be ordered ahead" in words(lists.view)
    lists.order_as("AB-2", "2026-11-21")
    assert "ordered before" in d.said and {a.package for a in d.job.all(AdvanceMark)} == {"AB-1"}
    session.select(())
    lists.load_as("1")
    assert "Select the pieces" in d.said and not d.job.all(Load)
    session.select({m.id for m in d.job.all(Member)})
    lists.load_as("1")
    (load,) = d.job.all(Load)
    assert set(load.pieces) == set(session.shop.shipped) and "on load 1" in d.said
    assert session.change("a small truck", [msgspec.structs.replace(load, pieces=load.pieces[1:], most_kg=3500.0)])
    lists.load_as("1")
    assert "Load 1 weighs" in d.said and "at most" in d.said
    lists.table.pick("usual shipping")
    QTest.qWait(30)
    assert any("Load 1 weighs" in w for w in words(lists.view)) or lists.view.sheet.of > 1


def test_what_changed_since_a_kept_list_is_told_coloured_and_copied(d):
    BY_ID["lists"].do(d.window)
    stage, session = d.window.delivering, d.window.session
    assert stage.lists.keep_as("for approval", "2026-11-20")
    BY_ID["changes"].do(d.window)
    changes = stage.changes
    assert "for approval" in changes.kept.currentText()
    press(d, "Compare", changes)
    assert "Nothing changed" in changes.words.text()
    one, other, *_ = [m for m in d.job.all(Member) if m.role is Role.BEAM]
    session.change("x", [msgspec.structs.replace(one, lot="9")], drop=[other.id])
    press(d, "Compare", changes)
    assert "Gone" in changes.words.text() and "Another lot" in changes.words.text()
    kinds = {row[1] for row in changes.table.rows.rows}
    assert any("gone" in k for k in kinds) and any("lot" in k for k in kinds)
    changes.filter.setFocus()
    QTest.keyClicks(changes.filter, "gone")
    assert 0 < len(changes.table.shown()) < len(changes.table.rows.rows)
    changes.filter.clear()
    changes.table.pick(one.id)
    assert one.id in session.selection
    press(d, "Copy the words", changes)
    assert QApplication.clipboard().text() == changes.words.text()
    press(d, "Show in the model", changes)
    assert (
        session.stage == "Frame" and d.window.model.colours[one.id] and any("gone" in k[1] for k in d.window.model.key)
    )
    session.go("Deliver")
    press(d, "Show in the model", changes)
    session.go("Frame")
    assert one.id not in d.window.model.colours
    assert len(d.job.all(KeptList)) == 1


def test_bars_and_sheets_are_nested_beside_the_window_and_offcuts_kept(d, tmp_path, monkeypatch):
    BY_ID["nest"].do(d.window)
    nests = d.window.delivering.nests
    press(d, "Nest bars", nests)
    d.qtbot.waitUntil(lambda: nests.runner.under_way is None and nests.found is not None, timeout=60_000)
    assert "drop" in nests.words.text() and "Bars as they are cut" in words(nests.view)
    press(d, "Keep offcuts", nests)
    kept = d.job.all(Offcut)
    assert kept and "kept" in nests.words.text()
    dialog = StockDialog(d.window.session, nests)
    dialog.bars.item(0, 0).setText("a foot")
    dialog.accept()
    assert "a foot" in dialog.said.text() and dialog.isVisible() is False and dialog.result() == 0
    dialog.bars.item(0, 0).setText("25'")
    dialog.offcuts.item(0, 0).setText("")
    dialog.accept()
    assert d.job.stock.lengths[0].length == pytest.approx(7620.0) and len(d.job.all(Offcut)) == len(kept) - 1
    d.window.session.undo()
    assert {o.id: o for o in d.job.all(Offcut)} == {o.id: o for o in kept} and d.job.stock.lengths[
        0
    ].length == pytest.approx(6096.0)
    press(d, "Nest plates", nests)
    d.qtbot.waitUntil(lambda: nests.runner.under_way is None, timeout=60_000)
    assert "filled" in nests.words.text() and nests.view.sheet.of == len(nests.found.sheets)
    monkeypatch.setattr("uncus.app.stages.nests.folder_for", lambda parent, title: tmp_path)
    press(d, "Write files ...", nests)
    assert (tmp_path / "plates.pdf").exists() and (tmp_path / "sheet 1.dxf").exists()
    nests.runner.run(lambda tell, stopped: [tell(n, 9, "x") for n in iter(lambda: 0 if not stopped() else 1, 1)], print)
    QTest.mouseClick(nests.stop, BUTTON.LeftButton)
    d.qtbot.waitUntil(lambda: nests.runner.under_way is None, timeout=20_000)
    assert "Stopped" in nests.words.text()
