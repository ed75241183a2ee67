"""Jobs in the window: the start page, new, open, closed, opened elsewhere, dropped; by mouse and keys."""

import re
import subprocess
import sys
import threading
from datetime import date, datetime
from importlib.resources import files
from uuid import uuid4

import msgspec
import pytest
from pypdf import PdfReader
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QKeySequence
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMessageBox, QPushButton
from tests.app.conftest import KEY, in_dialog, press

from uncus.app import guide
from uncus.app import preferences as settings
from uncus.app.canvas.overlay import thinning
from uncus.app.commands import BY_ID, COMMANDS
from uncus.app.keys import clashes
from uncus.app.preferences import Preferences
from uncus.app.progress import progress
from uncus.app.stages.guide import GuideDialog
from uncus.app.stages.history import HistoryDialog
from uncus.app.stages.keys import KeysDialog, print_chart
from uncus.app.starting.new_job import NewJobDialog
from uncus.app.starting.recent import MOST, Recent, RecentJobs
from uncus.app.starting.start_page import dropped_jobs, whats_new, when
from uncus.app.theme import DARK, LIGHT
from uncus.connect.standards import of_job, to_json
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.records import Lens, Level, Member, Project, Role, Series, ShopRules
from uncus.job.start import new_job
from uncus.units import Units


def answer(words):
    """Press a button of the box that comes up."""

    in_dialog(lambda box: next(b for b in box.findChildren(QPushButton) if b.text() == words).click())


def test_a_job_from_the_start_page_and_back_to_it(jobs, tmp_path):
    settings.write(tmp_path / "preferences.json", Preferences(text="130 %"))
    start = jobs.show_start()
    assert start.page.none.isVisible() and "look at the sample" in start.page.none.text()

    def fill(dialog):
        assert isinstance(dialog, NewJobDialog)
        dialog.accept()
        assert "Give the job a name" in dialog.error.text()
        dialog.name.setText("Quay House")
        dialog.number.setText("26-101")
        assert dialog.place.text().endswith("26-101 Quay House.uncus"), "the file is called as the job"
        dialog.place.setText(str(tmp_path / "quay.uncus"))
        dialog.units.setCurrentText("metric")
        dialog.standard.setCurrentText("AISC 360")
        dialog.accept()

    in_dialog(fill)
    press(start, KEY.Key_N)
    (window,) = jobs.windows
    assert window.prompt.height() == 52, "as large as on the start page"
    project = window.session.job.project
    assert (project.name, project.number, project.units) == ("Quay House", "26-101", Units.METRIC)
    assert project.designed_by == "AISC 360" and not start.isVisible()
    assert all(through.there == 0 for through in progress(window.session).values())
    press(window, KEY.Key_W)
    assert not jobs.windows and start.isVisible()
    (kept,) = jobs.recent.all
    assert (kept.name, kept.number) == ("Quay House", "26-101") and jobs.recent.picture(kept.path).exists()
    assert "Quay House" in start.page.list.item(0).text() and not start.page.none.isVisible()
    QTest.keyClick(start.page.list, Qt.Key.Key_Return)
    assert jobs.windows[0].session.job.path == tmp_path / "quay.uncus"
    assert jobs.open(tmp_path / "quay.uncus") is jobs.windows[0], "a job has one window"


def test_several_jobs_each_in_a_window_and_the_others_in_the_field(jobs, tmp_path):
    for name in ("one", "two"):
        Job.create(tmp_path / f"{name}.uncus", new_job(name, "1", Units.IMPERIAL)).close()
        jobs.open(tmp_path / f"{name}.uncus")
    one, two = jobs.windows
    jobs._note(one)
    two.palette_field.open()
    assert "Open one 1 (one.uncus)" in two.palette_field._entries
    one.close()
    two.palette_field._chosen("Open one 1 (one.uncus)")
    assert [w.session.job.project.name for w in jobs.windows] == ["two", "one"]
    before = (tmp_path / "two.uncus").stat().st_size
    with two.session.job.change("much") as change:
        for n in range(400):
            change.put(Level(id=f"l{n}", name=f"L{n}", elevation=float(n)))
    two.session.job.undo()
    told = []
    two.session.said.connect(lambda words, _: told.append(words))
    two.do(BY_ID["compact job"])
    assert "nothing of it is lost" in told[-1] and (tmp_path / "two.uncus").stat().st_size > before
    assert two.session.job.can_redo == "much"


def test_a_job_that_is_open_elsewhere_is_read(jobs, tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path, new_job("Held", "1", Units.IMPERIAL)).close()
    script = (
        "import sys; from pathlib import Path; from uncus.job.job import Job; j = Job.open(Path(sys.argv[1]));"
        "print('open', flush=True); sys.stdin.read()"
    )
    other = subprocess.Popen([sys.executable, "-c", script, str(path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    try:
        assert other.stdout.readline()
        seen = []

        def look(box):
            assert isinstance(box, QMessageBox)
            seen.append(box.text())
            next(b for b in box.findChildren(QPushButton) if b.text() == "Read it").click()

        in_dialog(look)
        window = jobs.open(path)
        assert f"process {other.pid})" in seen[0]
        assert window.kept.text() == "▲ read only"
        told = []
        window.session.said.connect(lambda words, _: told.append(words))
        assert not window.session.change("x", [Level(id="l", name="L", elevation=1.0)])
        assert "only read here" in told[-1] and "l" not in window.session.job.records
        assert path not in [w.session.job.path for w in jobs.windows]
    finally:
        other.communicate()
    answer("OK")
    path.write_bytes(b"no job")
    assert jobs.open(path) is None


def test_jobs_dropped_on_the_start_page_open(jobs, tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path, new_job("Dropped", "1", Units.IMPERIAL)).close()
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(p)) for p in (path, tmp_path / "note.txt")])
    action, button = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    event = QDropEvent(QPointF(9, 9), action, data, button, Qt.KeyboardModifier.NoModifier)
    assert dropped_jobs(event) == [path]
    jobs.show_start().page.dropEvent(event)
    assert jobs.windows[0].session.job.project.name == "Dropped"


def test_a_new_job_goes_by_an_offices_own(qapp, tmp_path):
    series = Series(id="own", prefix="ZZ", roles=(Role.BEAM,))
    office = [*new_job("Old", "7", Units.METRIC), Lens(id="lens", name="Ours"), series,
        Member(id="m", role=Role.BEAM, section="IPE200", start=(0, 0, 0), end=(5000, 0, 0))]  # fmt: skip
    office = [msgspec.structs.replace(r, bolt="M24") if isinstance(r, ShopRules) else r for r in office]
    Job.create(tmp_path / "office.uncus", office).close()
    (tmp_path / "standards.json").write_bytes(to_json(of_job(Job(office))))
    for source in ("office.uncus", "standards.json"):
        dialog = NewJobDialog(Units.METRIC, tmp_path)
        dialog.name.setText("New")
        dialog.office.setText(str(tmp_path / source))
        made = Job(dialog.records())
        assert made.project.name == "New" and made.rules.bolt == "M24" and not made.all(Member)
        assert made.project.units is Units.METRIC
        if source == "office.uncus":
            assert made.all(Lens) and [s.prefix for s in made.all(Series)].count("ZZ") == 1
        dialog.deleteLater()
    dialog = NewJobDialog(Units.METRIC, tmp_path)
    dialog.name.setText("Again")
    dialog.office.setText(str(tmp_path / "none.uncus"))
    dialog.accept()
    assert "cannot be read" in dialog.error.text() and not list(tmp_path.glob("Again*"))


def test_recent_jobs_are_few_and_a_broken_list_is_no_hindrance(tmp_path):
    kept = RecentJobs(tmp_path)
    for n in range(MOST + 5):
        kept.note(Recent(f"/jobs/{n}.uncus", f"Job {n}"))
    kept.note(Recent("/jobs/9.uncus", "Job 9"))
    assert len(kept.all) == MOST and RecentJobs(tmp_path).all == kept.all and kept.all[0].name == "Job 9"
    kept.forget("/jobs/9.uncus")
    assert all(one.name != "Job 9" for one in RecentJobs(tmp_path).all)
    (tmp_path / "recent.json").write_text("[{")
    assert RecentJobs(tmp_path).all == []


def test_what_is_new_and_when():
    assert whats_new(lambda: "# Changes\n## 2\n- *One* thing: more\n  of it\n- Two. Three\n## 1\n- old") == [
        "One thing",
        "Two",
    ]
    assert 3 <= len(whats_new()) < 40
    today = date(2026, 5, 20)
    said = [when(datetime(2026, 5, d, 9, 5).isoformat(), today) for d in (20, 19, 15, 1)]
    assert said == ["today 09:05", "yesterday 09:05", "5 days ago", "2026-05-01"] and when("x") == ""


@pytest.mark.parametrize("count", [0, 1, 2, 5, 61])
def test_what_stands_in_a_row_thins_out_from_its_ends(count):
    order = thinning(count)
    assert sorted(order) == list(range(count)) and order[:2] == [0, count - 1][: min(2, count)] * (count > 0)


def test_rings_tell_what_is_done_of_what_is_there(empty):
    session = empty.window.session

    def said():
        empty.window._measure_progress()
        return {name: b.said for name, b in empty.window.rail.buttons.items()}

    assert set(said().values()) == {"–"}
    column = Member(id="c", role=Role.COLUMN, section="W10X49", start=(0, 0, 0), end=(0, 0, 4000.0))
    session.change("column", [column, Project(name="x")])
    assert said() == {"Frame": "1", "Connect": "–", "Check": "–", "Mark": "–", "Draw": "–", "Deliver": "–"}


def test_the_history_is_gone_through_named_and_held_against_now(empty, monkeypatch):
    session, job = empty.window.session, empty.window.session.job
    for n in range(4):
        session.change(f"column {n}", [column_at(n)])
    session.change("higher", [column_at(1, 5000.0)])
    empty.key(KEY.Key_T, Qt.KeyboardModifier.ControlModifier)
    dialog = empty.window.keep_open(HistoryDialog)
    rows = [dialog.table.item(n, 1).text().strip() for n in range(dialog.table.rowCount())]
    assert rows[0] == "●  higher" and rows[-1] == "The job's beginning" and len(rows) == 6
    assert dialog.table.item(0, 0).text().startswith("today ")

    def choose(words):
        row = next(n for n in range(dialog.table.rowCount()) if words in dialog.table.item(n, 1).text())
        dialog.table.setCurrentCell(row, 1)

    def hit(key):
        dialog.activateWindow()  # else its shortcuts are nobody's
        assert QTest.qWaitForWindowActive(dialog)
        QTest.keyClick(dialog, key)

    choose("column 1")
    QTest.keyClick(dialog.table, Qt.Key.Key_Return)
    assert {m.id for m in job.all(Member)} == {"c0", "c1"} and set(session.shop.assemblies) == {"c0", "c1"}
    assert "●  column 1" in [dialog.table.item(n, 1).text().strip() for n in range(6)]
    monkeypatch.setattr("uncus.app.stages.history.QInputDialog.getText", lambda *_, **__: ("Sent", True))
    hit(Qt.Key.Key_F2)
    assert [p.moment for p in job.past()] == ["", "Sent", "", "", ""]
    choose("higher")
    dialog.go()
    assert len(job.all(Member)) == 4
    choose("column 1")
    session.change("gone", drop=["c0"])
    choose("column 1")
    hit(Qt.Key.Key_F3)
    assert "2 records new, 1 record changed, 1 record gone" in dialog.told.text()
    theme = empty.window.theme
    assert empty.model.colours == {"c1": theme.moved, "c2": theme.new, "c3": theme.new}
    session.undo()
    assert "1 record gone" not in dialog.told.text(), "it follows the job"
    hit(Qt.Key.Key_F3)
    assert session.since is None and not dialog.told.isVisible()
    choose("column 2")
    dialog.buttons["Take back alone"].click()
    assert "c2" not in job.records and job.can_undo == "Take back: column 2"
    choose("column 1")
    dialog.buttons["Take back alone"].click()
    assert "“higher” came after it on the same thing" in empty.said and "c1" in job.records
    dialog.close()


def column_at(n, top=4000.0):
    return Member(id=f"c{n}", role=Role.COLUMN, section="W10X49", start=(n * 3000.0, 0, 0), end=(n * 3000.0, 0, top))


def test_keys_are_searched_set_anew_and_printed(empty, tmp_path):
    session = empty.window.session
    empty.key(KEY.Key_F1, Qt.KeyboardModifier.ShiftModifier)
    dialog = empty.window.keep_open(KeysDialog)
    assert dialog.table.rowCount() == len(COMMANDS)
    dialog.search.setText("column frame")
    assert BY_ID["column"].words in [dialog.table.item(n, 0).text() for n in range(dialog.table.rowCount())]

    def choose(id):
        dialog.search.setText(BY_ID[id].words)
        row = next(n for n in range(dialog.table.rowCount()) if dialog.table.item(n, 0).text() == BY_ID[id].words)
        dialog.table.setCurrentCell(row, 0)

    def give(id, key):
        choose(id)
        dialog.edit.setKeySequence(QKeySequence(key))
        dialog.set()
        return dialog.told.text()

    assert "“Beam” in Frame" in give("column", "B") and not session.preferences.keys
    assert give("column", "F9").strip() == "" and session.preferences.keys == {"column": "F9"}
    assert empty.window.shelf.buttons["column"].key.text() == "F9"
    dialog.close()
    empty.activate()
    empty.key(KEY.Key_C)
    assert session.tool.words != "Column"
    empty.key(KEY.Key_F9)
    assert session.tool.words == "Column"
    dialog = empty.window.keep_open(KeysDialog)
    assert give("beam", "C").strip() == "", "a key that is free by now can be given"
    choose("column")
    dialog.reset()
    assert "C is “Beam” by now" in dialog.told.text()
    printer = QPrinter()
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "keys.pdf"))
    print_chart(session, printer)
    text = " ".join(p.extract_text() for p in PdfReader(tmp_path / "keys.pdf").pages).replace("\t", " ")
    assert "F9" in text and "Keys of Uncus" in text and "Middle button" in text
    dialog.reset_all()
    assert session.preferences.keys == {} and empty.window.shelf.buttons["column"].key.text() == "C"
    dialog.close()


def test_no_two_commands_of_one_stage_have_one_key():
    for command in COMMANDS:
        assert not clashes(command, command.key, COMMANDS, Preferences())
        assert not command.key or QKeySequence(command.key).toString() == command.key


def luminance(colour):
    """Relative luminance (WCAG 2.2)."""
    parts = [int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


@pytest.mark.parametrize("theme", [LIGHT, DARK], ids=["light", "dark"])
def test_words_and_signs_can_be_read(theme):
    """WCAG 2.2 AA: 4.5 to 1 for text; 3 to 1 for what is drawn."""

    def contrast(a, b):
        high, low = sorted((luminance(a), luminance(b)), reverse=True)
        return (high + 0.05) / (low + 0.05)

    for ground in (theme.paper, theme.bone):
        for ink in (theme.ink, theme.slate, theme.go, theme.wrong, theme.look, theme.new, theme.moved):
            assert contrast(ink, ground) >= 4.5, (ink, ground)
    assert contrast(theme.ink, theme.wash) >= 4.5 and contrast(theme.go, theme.wash) >= 4.5
    assert contrast(theme.bone if theme is LIGHT else theme.paper, theme.go) >= 4.5, "the main button"
    assert contrast(theme.rail_ink, theme.rail) >= 4.5


def test_the_guide_is_whole_and_follows_the_tool_at_hand(empty):
    places = [p.name for p in (files("uncus") / "guide").iterdir()]
    assert sorted(n for n in places if n.endswith(".md")) == [f"{name}.md" for name in guide.CHAPTERS]
    linked = set()
    for name in guide.CHAPTERS:
        text = guide.chapter(name)
        assert text.startswith(f"# {int(name[:2])}. ") and 400 < len(text) < 2500, name
        linked |= set(re.findall(r"\]\(([^)]+)\)", text))
        for key in re.findall(r"\*\*((?:Ctrl\+|Shift\+)*(?:F\d|[A-Z]))\*\*", text):
            assert key in {c.key for c in COMMANDS} | {"F2", "F3"}, f"{name} names {key}, which nothing has"
    assert linked <= set(places) and {n for n in places if n.endswith(".svg")} <= linked, "every picture is used"
    assert all(step.command in BY_ID for step in guide.TOUR)
    window = empty.window
    empty.key(KEY.Key_F1)
    dialog = window.keep_open(GuideDialog)
    assert "Select" in dialog.head.text() and dialog.pages.toPlainText().startswith("3. Steel")
    window.do(BY_ID["beam"])
    assert BY_ID["beam"].help in dialog.head.text() and "(B)" in dialog.head.text()
    picture = dialog.pages.loadResource(2, QUrl("frame.svg"))
    assert not picture.isNull() and picture.width() == 560
    dialog.search.setText("worklist")
    assert [dialog.chapters.item(n).text() for n in range(dialog.chapters.count())] == ["7. Sheets"]
    dialog.pages.anchorClicked.emit(QUrl("08-deliver.md"))
    assert dialog.pages.toPlainText().startswith("8. Delivering")
    window.do(BY_ID["stage mark"])
    assert dialog.pages.toPlainText().startswith("6. Marks")
    dialog.close()


def test_the_sample_is_made_beside_a_dialog_that_can_be_left(jobs, monkeypatch, tmp_path):
    start, began, told = jobs.show_start(), threading.Event(), threading.Event()

    def slow(folder):
        began.set()
        path = folder / f"{uuid4()}.uncus"
        assert told.wait(20)
        Job.create(path, new_job("Made", "1", Units.METRIC)).close()
        return path

    monkeypatch.setattr("uncus.app.jobs.fresh_sample", slow)

    def leave(box):
        assert began.is_set() and "fresh copy" in box.labelText()
        next(b for b in box.findChildren(QPushButton) if b.text() == "Not now").click()

    in_dialog(leave)
    jobs.sample(start)
    assert not jobs.windows
    in_dialog(lambda box: told.set())
    jobs.sample(start)
    assert jobs.windows[0].session.job.project.name == "Made"
    monkeypatch.setattr("uncus.app.jobs.fresh_sample", lambda folder: (_ for _ in ()).throw(JobError("no room")))
    said = []
    monkeypatch.setattr(jobs, "_say", lambda words, asker: said.append(words))
    jobs.sample(start)
    assert said == ["no room"] and len(jobs.windows) == 1
