"""Drawing in the window: a sheet cleaned up by mouse and keys, kept through a change; worklist, revisions, drawing
by the hundred."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QPageLayout
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QInputDialog, QSplitter
from tests.app.conftest import BUTTON, KEY, Driver

from uncus.app.commands import BY_ID
from uncus.app.sheet.printing import Preview
from uncus.draw.keeping import issue_of
from uncus.draw.register import register
from uncus.job.drawings import Hidden, Merged, Moved, Reached, Recut, Scaled, Spanned, Split, Written
from uncus.job.records import Drawing, Member, Role, SheetPreset, ViewFrame
from uncus.steel.solid import plain_mesh

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def d(qtbot, fresh):
    driver = Driver(qtbot, *fresh(with_marks=True))
    driver.window.session.go("Draw")
    yield driver
    driver.window.close()


class Paper:
    """The sheet under the mouse."""

    def __init__(self, d, name):
        self.d, self.panel, self.view = d, d.window.draw, d.window.draw.view
        self.panel.open(name)
        self.view.setFocus()

    def spot(self, start):
        return next(s for s in self.view.sheet.spots if s.key.startswith(start))

    def at(self, x, y) -> QPoint:
        return self.view.place(x, y).toPoint()

    def click(self, x, y, mods=Qt.KeyboardModifier.NoModifier):
        QTest.mouseClick(self.view, BUTTON.LeftButton, mods, self.at(x, y))
        QTest.qWait(20)

    def drag(self, a, b):
        QTest.mousePress(self.view, BUTTON.LeftButton, pos=a)
        QTest.mouseMove(self.view, (a + b) / 2)
        QTest.mouseMove(self.view, b)
        QTest.mouseRelease(self.view, BUTTON.LeftButton, pos=b)
        QTest.qWait(20)

    def stop(self, start, n):
        key, x, y = self.spot(start).stops[n]
        self.click(x, y)
        self.click(x, y)
        assert self.view.hand.stop == key
        return key

    def key(self, key, mods=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(self.view, key, mods)
        QTest.qWait(20)

    @property
    def edits(self):
        entry = self.panel.current
        return entry.hand.edits if entry.hand else ()

    def point(self, view, start):
        frame = next(f for f in self.view.sheet.frames if f.name == view)
        return next((k, p[0], p[1]) for k, p in frame.points.items() if k.startswith(start))


def test_one_sheet_cleaned_up_by_mouse_and_keys_and_kept_through_a_change(d, monkeypatch):
    paper = Paper(d, "B3")
    along = paper.spot("front|along")
    _, x, y = along.stops[1]
    low = along.stops[0][2]
    paper.drag(paper.at(x, y), paper.at(x, y - 8))
    moved = paper.edits[0]
    assert isinstance(moved, Moved) and moved.dy == pytest.approx(-8, abs=0.8)  # a pixel, and a half
    frame = next(f for f in paper.view.sheet.frames if f.name == "front")
    assert frame.box[1] - paper.spot("front|along").stops[0][2] == pytest.approx(7 - moved.dy, abs=0.01) and low
    paper.key(KEY.Key_Down)
    assert paper.edits[0].dy == pytest.approx(moved.dy - 1)
    dropped = paper.stop("front|along", 2)
    paper.key(KEY.Key_Delete)
    assert paper.edits[1] == Hidden(along.key, dropped)
    d.window.session.undo()
    assert len(paper.edits) == 1
    # a dimension of one's own, from an end to a plate, and a note
    paper.key(KEY.Key_D)
    _, x0, y0 = paper.point("front", "left end")
    name, x1, y1 = paper.point("front", next(k for k in frame.points if k.endswith("|edge")))
    paper.click(x0, y0)
    paper.click(x1, y1)
    assert isinstance(paper.edits[-1], Spanned) and paper.edits[-1].b.endswith("|edge") and name
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("grind smooth", True))
    paper.key(KEY.Key_N)
    paper.click(x1, y1)
    assert isinstance(paper.edits[-1], Written) and "GRIND SMOOTH" in paper.spot("front|note").words
    # the model changes: all of it is still there, once
    member = d.job.get(paper.panel.current.piece, Member)
    d.window.session.change("longer", [msgspec.structs.replace(member, right_back=member.right_back - 25.4)])
    assert len(paper.edits) == 3 and not paper.view.sheet.lost
    assert [s.key for s in paper.view.sheet.spots].count(paper.spot("front|note").key) == 1
    paper.key(KEY.Key_R, SHIFT)
    assert not paper.edits


def test_chains_are_split_and_merged_and_reach_further(d):
    paper = Paper(d, "B3")
    key = paper.spot("front|along").key
    stop = paper.stop("front|along", 1)
    paper.key(KEY.Key_S)
    assert paper.edits == (Split(key, stop),)
    paper.key(KEY.Key_Escape)
    gages = [s for s in paper.view.sheet.spots if s.key.startswith("front|gage")]
    overall = paper.spot("front|overall")
    paper.click(overall.stops[0][1], overall.stops[0][2])
    paper.key(KEY.Key_M)
    assert "that is to come into" in paper.panel.hint.text()
    other = paper.spot("front|work points")
    middle = (other.stops[0][1] + other.stops[-1][1]) / 2 + 20
    paper.click(middle, other.stops[0][2])
    assert paper.edits[-1] == Merged(overall.key, other.key) and gages
    paper.click(*paper.spot("front|overall").stops[0][1:])
    paper.key(KEY.Key_P)
    name, x, y = paper.point("front", next(k for k in next(f for f in paper.view.sheet.frames
        if f.name == "front").points if k.endswith("|edge")))  # fmt: skip
    paper.click(x, y)
    assert isinstance(paper.edits[-1], Reached) and paper.edits[-1].stop.endswith("|edge") and name
    paper.click(*paper.spot("front|overall").stops[0][1:])
    paper.key(KEY.Key_R)
    assert all(e.key != overall.key for e in paper.edits)


def test_a_section_is_dragged_along_and_a_view_has_its_own_scale(d, monkeypatch):
    name = next(e.name for e in d.window.draw.entries if e.kind == "assembly"
        and any(not s.at_end for s in e.job.subject.sections()))  # fmt: skip
    paper = Paper(d, name)
    letter = paper.spot("front|cut section")
    view = letter.key.partition("|cut ")[2].rpartition(" ")[0]
    (_, box), *_ = letter.texts
    at = paper.at((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    QTest.mouseClick(paper.view, BUTTON.LeftButton, pos=at)
    QTest.mouseClick(paper.view, BUTTON.LeftButton, pos=at)
    assert not paper.view.hand.stop and paper.view.hand.enter("merge"), "a letter is no chain"
    paper.drag(at, at + QPoint(30, 0))
    assert isinstance(paper.edits[-1], Recut) and paper.edits[-1].key == view
    cut = next(e.at for e in paper.edits if isinstance(e, Recut))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("3'-6", True))
    d.window.do(BY_ID["recut"])  # the letter is still picked
    assert paper.edits[0].at == pytest.approx(42 * 25.4) != cut and len(paper.edits) == 1
    frame = next(f for f in paper.view.sheet.frames if f.name == view)
    paper.click((frame.box[0] + frame.box[2]) / 2, (frame.box[1] + frame.box[3]) / 2)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("16", True))
    d.window.do(BY_ID["view scale"])
    assert paper.edits[-1] == Scaled(view, 16.0)
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("", True))
    d.window.do(BY_ID["view scale"])
    assert [type(e) for e in paper.edits] == [Recut]


def test_gathered_plates_and_plans_are_cleaned_up_like_other_sheets(d):
    d.window.session.change("preset", [SheetPreset(name="plates", kinds=("part",), several=6)])
    together = next(e for e in d.window.draw.entries if e.plates)
    paper, plate = Paper(d, together.name), together.plates[1]
    overall = paper.spot(f"{plate.name} front|overall")
    paper.click(*overall.stops[0][1:])
    paper.key(KEY.Key_Down)
    again = next(e for e in d.window.draw.entries if e.name == together.name)
    assert again.plates[1].hand.edits == (Moved("front|overall", 0.0, -1.0),) and again.hand is None
    paper.key(KEY.Key_R)
    assert not next(e for e in d.window.draw.entries if e.name == together.name).plates[1].hand.edits
    plan = Paper(d, next(e.name for e in d.window.draw.entries if e.title.startswith("plan")))
    (_, box), *_ = plan.spot("plan|mark").texts
    plan.click((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    plan.key(KEY.Key_Up)
    assert isinstance(plan.edits[0], Moved)


def test_a_worklist_is_gone_through_and_shows_in_the_model(d, monkeypatch):
    paper = Paper(d, "B2")
    paper.key(KEY.Key_W)
    paper.panel.open("C1")
    paper.key(KEY.Key_W)
    assert [e.name for e in paper.panel._listed()] == ["B2", "C1"]
    d.window.session.select(set(paper.panel.current.pieces))
    from uncus.lens.criteria import chosen
    from uncus.lens.grammar import read

    assert set(paper.panel.current.pieces) <= set(
        chosen(read("worklist is on"), d.job, d.window.session.shop, d.window.session.above)
    )
    paper.panel.open("B2")
    paper.key(KEY.Key_PageDown)
    assert paper.panel.current.name == "C1"
    paper.key(KEY.Key_PageDown)
    paper.key(KEY.Key_W, SHIFT)
    assert paper.panel.current.name == "C1" and [e.name for e in paper.panel._listed()] == ["C1"]
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("B4-B6", True))
    d.window.do(BY_ID["list by marks"])
    assert {e.name for e in paper.panel._listed()} == {"C1", "B4", "B5", "B6"}


def test_a_stale_sheet_says_why_is_compared_and_revised(d, monkeypatch):
    paper = Paper(d, "B15")
    session, entry = d.window.session, paper.panel.current
    session.change("sent", [issue_of(entry, "2026-11-01")])
    assert "is current" in paper.panel.state.text()
    member = d.job.get(entry.piece, Member)
    session.change("longer", [msgspec.structs.replace(member, right_back=member.right_back - 25.4)])
    assert "stale" in paper.panel.state.text() and "1 longer" in paper.panel.state.text()
    paper.key(KEY.Key_O)
    assert paper.view.over is not None and "only as sent" in paper.panel.hint.text()
    paper.key(KEY.Key_Escape)
    assert paper.view.over is None

    def fill(dialog):
        assert "1 longer" in d.named("What changed", root=dialog).text()
        d.named("Drawn by", root=dialog).setText("AB")
        dialog.accept()

    d.modal(fill)
    paper.key(KEY.Key_V)
    assert paper.panel.current.revision == "1"
    assert any(getattr(i, "layer", "") == "cloud" for i in paper.view.sheet.items)
    assert not session.job.all(SheetPreset)


def test_sheets_are_drawn_in_the_background_and_a_failing_one_is_named(d, monkeypatch):
    import uncus.draw.batch as batch

    panel = d.window.draw
    whole = batch.draw_all

    def fails(job):
        if job.name == "B2":
            raise ValueError("no such view")
        return whole(job)

    monkeypatch.setattr(batch, "draw_all", fails)
    d.enter("Filter Sheet", "B2")
    assert len(panel._listed()) < 9
    panel.view.setFocus()
    panel.start()
    d.bot.waitUntil(lambda: panel.batch is None, timeout=20_000)
    assert "B2" in panel.failures and "1 sheet failed" in d.said
    assert any(row[1] == "B2" and row[0] == "✕" for row in panel.table.rows.rows)


def test_small_plates_are_gathered_by_one_button(d):
    alone = [e for e in d.window.draw.entries if e.kind == "part"]

    def work(dialog):
        for _ in range(2):  # once is enough
            QTest.mouseClick(d.named("Gather small plates", root=dialog), BUTTON.LeftButton)
        assert len([s for s in dialog.view.sheet.spots if s.key.endswith(" front|overall")]) in range(4, 7)
        dialog.accept()

    d.modal(work)
    Paper(d, "B3").panel.edit_presets()
    assert [(p.several, p.kinds) for p in d.job.all(SheetPreset)] == [(6, ("part",))]
    together = [e for e in d.window.draw.entries if e.kind == "plates"]
    left = [e for e in d.window.draw.entries if e.kind == "part"]
    assert len(together) >= 2 and max(len(e.plates) for e in together) == 6
    assert len(left) + sum(len(e.plates) for e in together) == len(alone)


def test_presets_leave_rules_off_for_some_pieces(d):
    paper = Paper(d, "B3")
    assert paper.spot("front|overall") and d.job.all(Drawing) == []

    def work(dialog):
        dialog.add()
        d.named("Gages", root=dialog).click()
        beside = dialog.view.sheet  # a sheet as the preset makes it, at once
        assert beside is not None and not [s for s in beside.spots if s.key.startswith("front|gage")]
        running = [s.key for s in beside.spots if s.key == "front|along"]
        box = d.named("Positions along", QComboBox, dialog)
        QTest.keyClick(box, KEY.Key_Down)
        assert d.job.all(SheetPreset)[0].along == "each from the next" and running
        assert dialog.view.sheet.spots != beside.spots
        QTest.keyClick(d.named("Positions along", QComboBox, dialog), KEY.Key_Up)
        dialog.accept()

    d.modal(work)
    paper.panel.edit_presets()
    assert d.job.all(SheetPreset)[0].off == ("gages",)
    assert not [s for s in paper.view.sheet.spots if s.key.startswith("front|gage")]


def test_the_dimensions_of_a_sheet_stand_on_the_piece(d):
    session = d.window.session
    entry = next(e for e in d.window.draw.entries if e.name == "B3")
    session.go("Frame")
    session.select([entry.piece])
    d.window.do(BY_ID["dimensions"])
    marks = d.window.model.dimensions.of(entry.piece)
    printed = {w for s in Paper(d, "B3").view.sheet.spots for w, _ in s.texts}
    assert len(marks) > 5 and sum(m.words in printed for m in marks) > len(marks) / 2
    assert "Dimensions of the selected" in d.said
    d.window.do(BY_ID["dimensions"])
    assert "Dimensions of their parts" in d.said
    of_parts = d.window.model.dimensions.of(entry.piece)
    parts = [e for e in d.window.draw.entries if e.kind == "part" and entry.piece in e.pieces]
    printed = {w for e in parts for s in Paper(d, e.name).view.sheet.spots for w, _ in s.texts}
    assert len(parts) > 1 and of_parts and sum(m.words in printed for m in of_parts) > len(of_parts) / 2
    steel = np.vstack(
        [p.placement.to_model(plain_mesh(p.part).points) for p in session.shop.shipped[entry.piece].pieces]
    )
    feet = np.array([foot[0] for m in of_parts for foot in m.feet])
    assert (feet > steel.min(axis=0) - 1.0).all() and (feet < steel.max(axis=0) + 1.0).all(), (
        "from the steel, as it lies"
    )
    d.window.do(BY_ID["dimensions"])
    assert not d.window.model.dimensions.on


def test_the_register_keeps_its_width_when_a_sheet_turns_stale(d):
    draw = d.window.draw
    QTest.qWait(30)
    split = draw.findChild(QSplitter)
    before, columns = split.sizes(), [draw.table.columnWidth(n) for n in range(6)]
    beam = d.members(Role.BEAM)[0]
    d.window.session.change("deeper", [msgspec.structs.replace(beam, finish="a finish with a long name")])
    draw.refresh()
    draw.title.setText("Register: 1,286, 1,112 stale, 214 past")
    QTest.qWait(30)
    assert split.sizes() == before and [draw.table.columnWidth(n) for n in range(6)] == columns


def test_picked_sheets_are_previewed_and_printed_from_there(d):
    seen = []

    def look(dialog):
        assert isinstance(dialog, Preview)
        seen.append((dialog.windowTitle(), dialog.printer_.pageLayout().orientation()))
        dialog.reject()

    d.modal(look)
    d.key(KEY.Key_P, Qt.KeyboardModifier.ControlModifier | SHIFT, on=d.window.draw.view)
    (title, turn), *_ = seen
    assert title.startswith(f"Print {d.window.draw.current.name}") and turn == QPageLayout.Orientation.Landscape


def test_elevations_are_made_in_one_step_hidden_in_the_model_and_drawn(d):
    session = d.window.session
    d.window.do(BY_ID["stage frame"])
    assert BY_ID["elevations"].when(session)
    BY_ID["elevations"].do(d.window)
    frames = d.job.all(ViewFrame)
    assert {f.name for f in frames} >= {"Elevation 1", "Elevation A"} and "elevations made" in d.said
    assert not session.seeing.frames and BY_ID["frames"].when(session)
    BY_ID["elevations"].do(d.window)
    assert len(d.job.all(ViewFrame)) == len(frames) and "already" in d.said
    session.select([frames[0].id])
    assert session.seeing.frame_shown(frames[0].id, session.selection)
    assert not session.seeing.frame_shown(frames[1].id, session.selection)
    BY_ID["frames"].do(d.window)
    assert session.seeing.frame_shown(frames[1].id, session.selection)
    titles = {e.title for e in register(d.job, session.shop)}
    assert {f"view: {f.name}" for f in frames} <= titles
    BY_ID["frames"].do(d.window)
    d.model.setFocus()
    d.key(KEY.Key_Z, on=d.model)
    assert session.seeing.frames and "corner" in session.tool.prompt
    session.undo()
    assert not d.job.all(ViewFrame)
