"""A real window under a virtual screen, driven with mouse and keys; controls are found by their accessible names."""

import json
import math

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible, QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QDialog, QLineEdit, QWidget
from tests.app.conftest import Driver, in_dialog, press

from uncus.app.canvas.renderer import rgb
from uncus.app.commands import BY_ID, COMMANDS, on_shelf
from uncus.app.guide import TOUR
from uncus.app.session import STAGES
from uncus.app.stages.guide import TourDialog
from uncus.draw.entry import State
from uncus.frame.numbers.kinds import BY_NUMBERS
from uncus.job.records import Attachment, Connection, Grid, Level, Loads, Mark, Member, Role

KEY, BUTTON = Qt.Key, Qt.MouseButton


def test_from_the_start_page_to_a_package(jobs, tmp_path, qtbot):
    """A job begun, its grid typed, a column and two beams drawn, connected, changed, undone, marked, seen on a sheet,
    produced."""

    def name_it(dialog):
        dialog.name.setText("Quay House")
        dialog.place.setText(str(tmp_path / "quay.uncus"))
        dialog.accept()

    start = jobs.show_start()
    in_dialog(name_it)
    press(start, KEY.Key_N)
    (window,) = jobs.windows
    d = Driver(qtbot, window.session.job, window=window)
    d.window.do(BY_ID["tour"])
    tour = d.window.keep_open(TourDialog)
    assert tour.done_so_far == [False] * len(TOUR) and "grid" in tour.help.text().casefold() + tour.list.item(0).text()
    tour.hide()  # it would lie between the pointer and the model
    d.activate()

    def fill_grid(dialog):
        assert isinstance(dialog, QDialog)
        for name, text in (
            ("Spacings of numbered lines", "20', 24'"),
            ("Spacings of lettered lines", "18'"),
            ("Levels", "Slab 0, Floor 12'-6 1/2"),
        ):
            field = d.named(name, QLineEdit, dialog)
            field.setFocus()
            field.selectAll()
            d.type(text, field)
        QTest.keyClick(dialog, KEY.Key_Return)

    in_dialog(fill_grid)
    d.key(KEY.Key_G)
    assert [level.name for level in d.job.all(Level)] == ["Slab", "Floor"] and len(d.job.get("grid", Grid).numbers) == 3
    floor = d.job.all(Level)[1].elevation
    assert floor == pytest.approx(150.5 * 25.4)
    assert tour.done_so_far[:3] == [True, True, False] and tour.list.currentRow() == 2
    assert tour.list.item(0).text().startswith("✓")
    d.model.frame()
    d.activate()
    # a column on grid 1/A, its height that of the next level, then two more
    d.key(KEY.Key_C)
    assert d.window.session.tool.words == "Column" and d.named("Column", QAbstractButton).isChecked()
    d.move(0, 0, 0)
    assert d.window.prompt.snap.text() == "snap: grid 1/A"
    for x in (0.0, 20 * 304.8):
        d.click(x, 0, 0)
    assert [m.end for m in d.members(Role.COLUMN)] == [
        (0, 0, pytest.approx(floor)),
        (pytest.approx(6096), 0, pytest.approx(floor)),
    ]
    d.key(KEY.Key_Escape)
    # two beams on the floor's plane: one between columns, one by a typed length
    d.key(KEY.Key_PageUp, on=d.model)
    assert "Floor, +12'-6 1/2" in d.window.prompt.plane.text()
    d.model.frame()
    d.key(KEY.Key_B)
    d.enter("Section", "w10x22")
    d.model.setFocus()
    d.click(0, 0, floor)
    d.click(20 * 304.8, 0, floor)
    d.click(0, 0, floor)
    d.move(0, 18 * 304.8, floor)
    d.type("17'-6")
    d.key(KEY.Key_Return)
    beams = d.members(Role.BEAM)
    assert [b.section for b in beams] == ["W10X22"] * 2, d.said
    assert beams[1].end == pytest.approx((0, 17.5 * 304.8, floor))
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_Escape, on=d.model)
    # columns run up so that the tabs have steel to stand on
    d.window.session.select([m.id for m in d.members(Role.COLUMN)])
    d.enter("Pull back right", "-6")
    # connect by rule
    d.window.session.select(())
    d.model.setFocus()
    d.key(KEY.Key_R)
    assert d.window.session.stage == "Connect"
    kinds = sorted(c.kind for c in d.job.all(Connection))
    assert kinds == ["base plate", "base plate", "shear tab", "shear tab", "shear tab"]
    assert not d.window.session.shop.all_findings
    assert "1 skipped. First left: nothing stands" in d.said
    # change a section in the facts, undo, redo
    d.window.session.select([beams[0].id])
    d.enter("Section", "W12X26")
    assert d.job.get(beams[0].id, Member).section == "W12X26"
    d.model.setFocus()
    d.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert d.job.get(beams[0].id, Member).section == "W10X22"
    d.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert d.job.get(beams[0].id, Member).section == "W12X26"
    # mark
    d.key(KEY.Key_4, Qt.KeyboardModifier.ControlModifier)
    button = d.named("Apply marks", QAbstractButton, d.window.mark)
    assert button.isEnabled() and button.text() == f"Apply {len(d.window.mark.proposal.rows)} marks"
    QTest.mouseClick(button, BUTTON.LeftButton)
    assert {m.mark for m in d.job.all(Mark) if not m.part} >= {"B1", "B2", "C1"} and not button.isEnabled()
    # to the sheet and back
    d.window.session.select([beams[0].id])
    d.model.setFocus()
    d.key(KEY.Key_Tab, on=d.model)
    sheet = d.window.draw.view.sheet
    assert d.window.session.stage == "Draw" and sheet is not None and sheet.name == d.window.draw.current.name
    assert beams[0].id in d.window.draw.current.pieces
    d.key(KEY.Key_Tab, on=d.window.draw.view)
    assert d.window.session.stage == "Frame" and beams[0].id in d.window.session.selection
    # produce
    d.key(KEY.Key_6, Qt.KeyboardModifier.ControlModifier)
    d.enter("Folder of the package", str(tmp_path / "out"))
    QTest.mouseClick(d.named("Produce", QAbstractButton), BUTTON.LeftButton)
    qtbot.waitUntil(lambda: d.window.deliver.work is None, timeout=90_000)
    manifest = json.loads((tmp_path / "out" / "manifest.json").read_text())
    assert {f["kind"] for f in manifest["files"]} >= {
        "nc",
        "ifc",
        "bill",
        "assembly sheet",
        "part sheet",
        "erection sheet",
    }
    assert d.window.deliver.words.text().startswith("✓")
    d.window.session.go("Draw")
    assert {e.state for e in d.window.draw.entries} == {State.CURRENT}
    assert all(tour.done_so_far) and "a whole job" in tour.help.text()
    tour.close()


def test_picking_adding_boxing_and_deleting(full):
    d, session = full, full.window.session
    foot = next(m for m in d.members(Role.COLUMN))
    d.click(foot.start[0], foot.start[1], 2500)
    assert session.selection == {foot.id} and d.named("Section", QLineEdit).text() == foot.section
    other = d.members(Role.COLUMN)[3]
    d.click(other.start[0], other.start[1], 2500, mods=Qt.KeyboardModifier.ControlModifier)
    assert session.selection == {foot.id, other.id}
    size = d.model.size()
    d.drag(QPoint(2, 2), QPoint(size.width() - 3, size.height() - 3))
    assert session.selection == set(session.shop.assemblies), "left to right: all inside"
    d.drag(QPoint(size.width() // 2, size.height() - 5), QPoint(2, 2))
    touched = set(session.selection)
    assert 0 < len(touched) < len(session.shop.assemblies), "right to left: all it touches"
    session.select({foot.id})
    d.model.setFocus()
    count = len(d.job.records)
    d.key(KEY.Key_Delete, on=d.model)
    assert foot.id not in d.job.records and len(d.job.records) < count - 4, "its connections go with it"
    d.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier, on=d.model)
    assert foot.id in d.job.records and len(d.job.records) == count
    d.key(KEY.Key_Escape, on=d.model)
    assert not session.selection


def test_the_view_turns_pans_zooms_and_frames(full):
    camera, d = full.model.camera, full
    start = (camera.yaw, camera.pitch, camera.scale)
    d.drag(QPoint(300, 300), QPoint(360, 330), BUTTON.MiddleButton)
    assert (camera.yaw, camera.pitch) != start[:2]
    target = camera.target.copy()
    d.drag(QPoint(300, 300), QPoint(360, 330), BUTTON.MiddleButton, Qt.KeyboardModifier.ShiftModifier)
    assert abs(camera.target - target).max() > 1
    d.window.session.select([d.members()[0].id])
    d.key(KEY.Key_F, on=d.model)
    assert camera.scale < start[2]
    QTest.qWait(250)
    picture = d.model.grabFramebuffer()
    colours = {
        picture.pixelColor(x, y).name() for x in range(0, picture.width(), 7) for y in range(0, picture.height(), 7)
    }
    assert len(colours) > 20, "steel is drawn"


def test_many_at_once_mixed_shown_and_one_undo(full):
    d, session = full, full.window.session
    beams = d.members(Role.BEAM)
    session.select([b.id for b in beams])
    field = d.named("Section", QLineEdit)
    assert field.text() == "" and field.placeholderText() == "mixed"
    d.enter("Section", "w14x30")
    assert {m.section for m in d.members(Role.BEAM)} == {"W14X30"}
    before = dict(d.job.records)
    d.enter("Section", "W14X31")
    assert "Nearest" in d.said and dict(d.job.records) == before and d.named("Section", QLineEdit).property("bad")
    session.undo()
    assert {m.section for m in d.members(Role.BEAM)} == {b.section for b in beams}


def test_connections_are_edited_many_at_once_from_their_own_struct(full):
    d, session = full, full.window.session
    beams = [m for m in d.members(Role.BEAM) if m.section == "W12X19"]
    session.select([b.id for b in beams])
    QTest.mouseClick(d.named(f"{2 * len(beams)} shear tabs", QAbstractButton), BUTTON.LeftButton)
    assert len(session.connections) == 2 * len(beams)
    d.enter("Bolt rows", "2")
    assert all(len(session.shop.assemblies[b.id].main.part.holes) == 4 for b in beams)
    d.enter("Bolt rows", "9")
    assert any("do not fit" in f.text for f in session.shop.all_findings), "a finding, not a refusal"
    d.enter("Gap at the beam's end", "no length")
    assert "is not a length" in d.said
    choice = d.named("Side of the web", QComboBox)
    choice.setCurrentText("far")
    choice.textActivated.emit("far")
    assert all(c.params["side"] == "far" for c in session.connections)
    session.undo(), session.undo()
    assert not session.shop.all_findings


def test_a_shop_rule_reworks_every_connection_at_once(full):
    d, session = full, full.window.session
    session.go("Connect")
    d.enter("Shop rule Tab thickness", "1/2")
    assert "reworked" in d.said
    tabs = [p.part.thickness for p in session.shop.pieces() if p.words == "shear tab"]
    assert len(tabs) > 100 and set(tabs) == {12.7}
    d.enter("Shop rule Pitch of bolts", "none")
    assert "is not a length" in d.said and d.job.rules.pitch == 76.2


def test_check_lists_findings_and_leads_to_the_piece(full):
    d, session = full, full.window.session
    first = d.job.all(Connection)[20]
    import msgspec

    session.change("bad", [msgspec.structs.replace(first, params={"rows": 12})])
    d.key(KEY.Key_3, Qt.KeyboardModifier.ControlModifier, on=d.model)
    table = d.window.check.table
    d.bot.waitUntil(lambda: len(table.rows.rows) == 1, timeout=20_000)
    assert table.rows.rows[0][0] == "▲ wrong"
    table.selectRow(0)
    assert session.selection == {first.member} and d.model.colours == {first.member: d.window.theme.wrong}


def test_check_lists_joints_that_fail_or_are_not_checked_in_full(full):
    """Worked out a slice at a time once the stage is open; kept up to date by what is changed there."""
    d, session = full, full.window.session
    tabs = list({c.member: c for c in d.job.all(Connection) if c.kind == "shear tab"}.values())[:3]
    import msgspec

    given = (Loads(shear=2e6), Loads(shear=4e4, axial=1e4), Loads(shear=1e4))
    session.change("loads", [msgspec.structs.replace(c, loads=n) for c, n in zip(tabs, given, strict=True)])
    session.go("Check")
    rows = d.window.check.table.rows
    d.bot.waitUntil(lambda: len(rows.rows) == 2 and d.window.check.title.text() == "2 findings", timeout=20_000)
    assert [row[0] for row in rows.rows] == ["▲ wrong", "▲ look here"]
    assert "fails" in rows.rows[0][3] and "not checked for" in rows.rows[1][3]
    assert d.window.check.owners() == {tabs[0].member, tabs[1].member} == set(d.model.colours)
    assert set(d.model.colours) == {tabs[0].member, tabs[1].member}
    session.undo()
    d.bot.waitUntil(lambda: d.window.check.title.text() == "✓ Nothing is found wrong", timeout=20_000)


def test_measure_and_connect_one_by_hand(full):
    d, session = full, full.window.session
    tab = next(c for c in d.job.all(Connection) if c.kind == "shear tab")
    beam, support = d.job.get(tab.member, Member), d.job.get(tab.support, Member)
    session.change("free", drop=[tab.id])
    session.go("Connect")
    d.model.setFocus()
    d.key(KEY.Key_O)
    near = [a + (b - a) * (0.2 if tab.end == "left" else 0.8) for a, b in zip(beam.start, beam.end, strict=True)]
    from uncus.frame.snaps import Snap

    session.picked(Snap(tuple(near), "face", beam.id))
    assert f"{tab.end} end" in d.said
    session.picked(Snap(support.start, "face", support.id))
    assert d.job.get(tab.id, Connection) == tab, "the same joint has the same identity"
    session.go("Frame")
    d.model.setFocus()
    d.key(KEY.Key_M)
    d.click(0, 0, 0)
    d.click(22 * 304.8, 0, 0)
    assert len(session.measures) == 1
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_Space, on=d.model)
    assert session.tool.words == "Measure", "Space repeats the last tool"


def test_do_anything_finds_commands_marks_and_sections(full):
    d, session = full, full.window.session
    session.go("Mark")
    d.window.mark.apply()
    d.key(KEY.Key_K, Qt.KeyboardModifier.ControlModifier, on=d.model)
    field = d.named("Do anything", QLineEdit)
    assert field.hasFocus()
    d.type("R1", field)
    d.key(KEY.Key_Return, on=field)
    assert {d.job.get(i, Member).role for i in session.selection} == {Role.RAFTER}
    d.window.palette_field.open()
    d.type("go to draw", field)
    d.key(KEY.Key_Return, on=field)
    assert session.stage == "Draw"
    d.window.palette_field.open()
    d.type("xyzzy", field)
    d.key(KEY.Key_Return, on=field)
    assert "Nothing is called" in d.said


def test_the_register_filters_steps_and_zooms(full):
    d = full
    d.window.session.go("Mark")
    d.window.mark.apply()
    d.window.session.go("Draw")
    panel, view = d.window.draw, d.window.draw.view
    assert panel.current.name == "AP1"  # of several sheets, which are gone through one by one
    for _ in range(9):
        QTest.mouseClick(d.named("Next sheet", QAbstractButton), BUTTON.LeftButton)
        if panel.current.name == "E1":
            break
    first = panel.current.name
    QTest.mouseClick(d.named("Next sheet", QAbstractButton), BUTTON.LeftButton)
    assert panel.current.name != first and view.sheet.name == panel.current.name
    QTest.mouseClick(d.named("Previous sheet", QAbstractButton), BUTTON.LeftButton)
    assert panel.current.name == first
    d.type("rafter", d.named("Filter the register", QLineEdit))
    assert 0 < panel.table.model().rowCount() < len(panel.entries)
    zoom = view._zoom
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QWheelEvent

    wheel = QWheelEvent(
        QPointF(50, 50),
        view.mapToGlobal(QPointF(50, 50)),
        QPoint(),
        QPoint(0, 120),
        BUTTON.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(view, wheel)
    assert view._zoom > zoom
    picture = view.grab().toImage()
    dark = sum(
        picture.pixelColor(x, y).lightness() < 90
        for x in range(0, picture.width(), 3)
        for y in range(0, picture.height(), 3)
    )
    assert dark > 50, "the sheet is painted"


def test_a_package_can_be_stopped(full, tmp_path, qtbot):
    d = full
    d.window.session.go("Mark")
    d.window.mark.apply()
    d.window.session.go("Deliver")
    panel = d.window.deliver
    panel.folder.setText(str(tmp_path / "p"))
    QTest.mouseClick(d.named("Produce", QAbstractButton), BUTTON.LeftButton)
    qtbot.waitUntil(lambda: panel.bar.maximum() > 0, timeout=30_000)
    QTest.mouseClick(d.named("Stop producing", QAbstractButton), BUTTON.LeftButton)
    qtbot.waitUntil(lambda: panel.work is None, timeout=60_000)
    assert "Stopped" in panel.words.text() and not list(tmp_path.iterdir())


def test_every_control_has_a_name_and_every_command_a_place(full):
    d = full
    for stage in STAGES:
        d.window.session.go(stage)
        for widget in d.window.findChildren(QWidget):
            if isinstance(widget, (QAbstractButton, QLineEdit, QComboBox)) and widget.isVisible():
                inner = isinstance(widget.parent(), QComboBox)
                assert (
                    widget.accessibleName()
                    or inner
                    or "Corner" in type(widget).__name__
                    or widget.parent().accessibleName()
                ), (stage, widget)
        assert on_shelf(stage) and {c.id for c in on_shelf(stage)} == set(d.window.shelf.buttons)
    assert len({c.id for c in COMMANDS}) == len(COMMANDS)
    for stage in STAGES:  # Draw shows no model: there a key means what is done to the sheet
        keys = [c.key for c in COMMANDS if (c.key and (c.stage == "Draw") == (stage == "Draw")) or not c.stage]
        keys = [k for k in keys if k]
        assert len(keys) == len(set(keys)) and all(c.words and c.help for c in COMMANDS)
    interface = QAccessible.queryAccessibleInterface(d.model)
    assert interface.text(QAccessible.Text.Name) == "Model"


def test_light_and_dark_both_read_well(full):
    from uncus.app.canvas.renderer import rgb
    from uncus.app.theme import DARK, LIGHT

    def luminance(colour):
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in rgb(colour)]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    for theme in (LIGHT, DARK):
        for words in (theme.ink, theme.slate, theme.wrong, theme.look, theme.new, theme.moved, theme.go):
            for ground in (theme.paper, theme.bone):
                a, b = sorted((luminance(words), luminance(ground)))
                assert (b + 0.05) / (a + 0.05) >= 4.5, (words, ground)
    before = full.window.theme
    full.window.do(BY_ID["dark"])
    assert full.window.theme is not before


def test_every_stage_opens_on_an_empty_job(empty):
    for stage in STAGES:
        empty.window.session.go(stage)
        QTest.qWait(30)
        assert empty.window.rail.buttons[stage].isChecked()


@pytest.mark.parametrize(
    ("across", "levels", "says"),
    [
        ("20' 24'", "Slab 0", "not a length"),
        ("0@20'", "Slab 0", "between 1 and 1,000"),
        ("20', -4'", "Slab 0", "more than nothing"),
        ("20'", "Slab", "needs a name and a height"),
        ("20'", "Slab 0, Slab 12'-6", "Two levels"),
    ],
)
def test_a_grid_that_cannot_be_says_why_and_changes_nothing(empty, across, levels, says):
    from uncus.app.stages.grid import GridDialog

    before = dict(empty.job.records)
    dialog = GridDialog(empty.window.session, empty.window)
    dialog.across.setText(across)
    dialog.up.setText("18'")
    dialog.levels.setText(levels)
    dialog.accept()
    assert says in dialog.error.text() and dict(empty.job.records) == before
    dialog.across.setText("3@20', 18'-6 1/2")
    dialog.levels.setText("Slab 0, Club room 12'-6 1/2")
    dialog.accept()
    assert [level.name for level in empty.job.all(Level)] == ["Slab", "Club room"]
    again = GridDialog(empty.window.session, empty.window)
    assert again.across.text() == "3@20'-0, 18'-6 1/2" and again.levels.text() == "Slab 0, Club room 12'-6 1/2"


def test_hovering_names_the_piece_and_a_double_click_opens_its_sheet(full):
    d, session = full, full.window.session
    session.go("Mark")
    d.window.mark.apply()
    session.go("Frame")
    d.model.frame()
    column = d.members(Role.COLUMN)[0]
    d.move(column.start[0], column.start[1], 2500)
    assert d.model.hovered == column.id
    shown = d.model._tints()[d.model.pointer.laid.owner_of(column.id)]
    assert shown.tolist() == pytest.approx(rgb(d.window.theme.look))
    QTest.mouseDClick(
        d.model, BUTTON.LeftButton, Qt.KeyboardModifier.NoModifier, d.at(column.start[0], column.start[1], 2500)
    )
    assert session.stage == "Draw" and column.id in d.window.draw.current.pieces


def test_job_facts_are_edited_where_nothing_is_selected(full):
    d, session = full, full.window.session
    session.select(())
    d.enter("Job number", "27-001")
    d.enter("Job finish", "galvanized")
    assert (d.job.project.number, d.job.project.finish) == ("27-001", "galvanized")
    assert {p.part.finish for p in session.shop.pieces()} == {"galvanized"}
    d.enter("Job name", " ")
    assert d.job.project.name == "Tern Point Boathouse"
    QTest.qWait(350)
    assert "27-001" in d.window.name.text()


def test_panels_fold_and_the_proposal_shows_what_moved(full):
    d, session = full, full.window.session
    for name, panel in (("Fold the shelf", d.window.shelf), ("Fold the facts", d.window.facts)):
        QTest.mouseClick(d.named(name, QAbstractButton), BUTTON.LeftButton)
        assert not panel.isVisible()
        QTest.mouseClick(d.named(name, QAbstractButton), BUTTON.LeftButton)
        assert panel.isVisible()
    session.go("Mark")
    d.window.mark.apply()
    purlin = d.members(Role.PURLIN)[0]
    session.select([purlin.id])
    session.go("Frame")
    d.enter("Section", "W8X21")
    session.go("Mark")
    first = d.window.mark.table.rows.rows[0]
    assert first[0].startswith("↦ moved") and first[2] and first[1] != first[2] and first[-1]
    d.window.mark.table.selectRow(0)
    assert purlin.id in session.selection
    assert d.model.colours[purlin.id] == d.window.theme.moved and d.model.key[2][1] != "moved 0"


def test_left_ends_are_shown_until_they_are_taken_off(full):
    """A dot a little way along each piece from its left end, and none where that would be nearer its middle."""
    look = QColor(full.window.model.theme.look).rgb()
    members = full.members()

    def dotted() -> set[str]:
        picture, found = QApplication.primaryScreen().grabWindow(0).toImage(), set()
        corner = full.model.mapToGlobal(QPoint())
        for m in members:
            p, q = (full.model.camera.to_screen(end)[0][:2] for end in (m.start, m.end))
            long = math.dist(p, q)
            x, y = (a + (b - a) * 12.0 / max(long, 12.0) for a, b in zip(p, q, strict=True))
            if picture.pixel(corner.x() + round(x), corner.y() + round(y)) == look:
                found.add(m.id)
        return found

    full.bot.wait(300)
    shown = dotted()
    assert len(shown) > 0.8 * sum(m.work_length > 3000 for m in members)
    full.key(KEY.Key_L, Qt.KeyboardModifier.ShiftModifier)
    full.bot.wait(300)
    assert not dotted()
    full.key(KEY.Key_L, Qt.KeyboardModifier.ShiftModifier)
    full.bot.wait(300)
    assert dotted() == shown


def test_no_field_of_the_facts_is_cut_off_and_the_panel_keeps_its_width(full):
    window, session = full.window, full.window.session
    window.split.setSizes([214, 2000, 1])  # as narrow as it goes
    QTest.qWait(20)
    width = window.facts.width()

    def fits(what):
        QTest.qWait(1)
        assert window.facts.widget().minimumSizeHint().width() <= window.facts.viewport().width(), what
        assert window.facts.width() == width, what

    for stage in ("frame", "connect", "check"):
        window.do(BY_ID[f"stage {stage}"])
        session.select([])
        fits(stage)
    for kind in (Member, Connection, Attachment):
        told = set()
        for record in session.job.all(kind):
            if (name := record.role if kind is Member else record.kind) not in told:
                told.add(name)
                session.select([record.id])
                fits(name)
    session.select([])
    window.do(BY_ID["stage frame"])
    for name in BY_NUMBERS:
        window.do(BY_ID[name])
        fits(name)


def test_words_and_keys_of_the_shelf_stand_side_by_side(full):
    QTest.qWait(30)
    window, width = full.window, full.window.shelf.width()
    for stage in STAGES:
        window.do(BY_ID[f"stage {stage.lower()}"])
        QTest.qWait(5)
        for button in window.shelf.buttons.values():
            assert button.sizeHint().width() <= button.width(), button.command.words
        assert window.shelf.width() == width or not window.shelf.isVisible()


def test_tab_goes_through_the_controls_as_they_are_read(full):
    """In each panel downwards, and along a row; no control that takes keys is left out of the round."""
    window = full.window
    for stage in STAGES:
        window.do(BY_ID[f"stage {stage.lower()}"])
        QTest.qWait(20)
        round_, widget = [window], window.nextInFocusChain()
        while widget is not window and len(round_) < 5000:
            round_.append(widget)
            widget = widget.nextInFocusChain()
        for panel in (window.shelf, window.facts):
            if not panel.isVisible():
                continue
            inside = [
                w
                for w in round_
                if panel.isAncestorOf(w)
                and w.isVisible()
                and w.focusPolicy() & Qt.FocusPolicy.TabFocus
                and w.isEnabled()
            ]
            there = [w for w in panel.findChildren(QWidget) if w.isVisible() and w.isEnabled()
                and w.focusPolicy() & Qt.FocusPolicy.TabFocus]  # fmt: skip
            assert set(there) <= set(inside)
            fields = [w for w in inside if not w.findChildren(QAbstractButton) and w.width() > 8]
            places = [(w.mapTo(panel, QPoint(0, 0)).y() // 12, w.mapTo(panel, QPoint(0, 0)).x()) for w in fields]
            assert places == sorted(places), (stage, panel.accessibleName())
