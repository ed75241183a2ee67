"""The stage Check with mouse and keys: rows lead to their places, and what is said of them stays."""

import threading
import time
import uuid

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from tests.app.conftest import Driver

from uncus.app.commands import BY_ID
from uncus.app.stages import check, topics
from uncus.app.stages.check_rules import CheckRulesDialog
from uncus.app.stages.ties import TiesDialog
from uncus.check import checking
from uncus.check.checking import Stands
from uncus.deliver.bcf import bcf_bytes, read_bcf
from uncus.deliver.topics import Sent
from uncus.job.job import Job
from uncus.job.records import CheckRules, Connection, Hold, Member, Remark, Role, Verdict
from uncus.sample.frames import frame

replace = msgspec.structs.replace


@pytest.fixture
def d(qtbot):
    """A frame in which two flats stand in one another and all bases have another rule's number of rods."""
    job = Job(frame(1, 1))
    with job.change("trial") as change:
        for id, start, end in (("one", (9e3, 0, 0), (11e3, 0, 0)), ("two", (1e4, -1e3, 0), (1e4, 1e3, 0))):
            change.put(Member(id=id, role=Role.BRACE, section="FL100X10", start=start, end=end))
        change.put(CheckRules(values={"rods": {"least": 5}}, off=("hanging", "loose")))
    made = Driver(qtbot, job)
    yield made
    made.window.close()


def looked(d):
    panel = d.window.check
    d.window.session.go("Check")
    d.bot.waitUntil(lambda: panel.checker.looked is not None and not panel.checker.running, timeout=20_000)
    return panel


def row_of(panel, words):
    return next(n for n, row in enumerate(panel.table.rows.rows) if words in row[3])


def test_a_row_leads_through_its_places_and_the_view_is_given_back(d):
    panel, session = looked(d), d.window.session
    rods = panel.table.rows.rows[row_of(panel, "anchor rods")]
    assert rods[0] == "▲ wrong" and rods[1] == "8" and "and 7 more places" in rods[3]
    panel.table.pick(row_of(panel, "fill the same space"))
    assert session.spotted == pytest.approx((1e4, 0, 0), abs=1.0)
    assert d.model.camera.target == pytest.approx((1e4, 0, 0), abs=1.0)
    assert d.model.colours == {"one": d.window.theme.wrong, "two": d.window.theme.look}
    assert "one" not in session.seeing.ghosted and len(session.seeing.ghosted) > 20 and session.seeing.before
    panel.table.pick(row_of(panel, "anchor rods"))
    assert panel.places.isVisible() and panel.places.count() == 8
    seen = {session.spotted}
    for _ in range(7):
        d.window.do(BY_ID["next finding"])
        seen.add(session.spotted)
    assert len(seen) == 8, "each place once"
    d.window.do(BY_ID["maker of finding"])
    assert session.connections and session.connections[0].kind == "base plate"
    session.go("Frame")
    assert not session.seeing.ghosted and session.seeing.before is None and session.spotted is None


def test_putting_aside_is_a_step_that_comes_back_when_a_piece_changes_there(d, monkeypatch):
    panel, session = looked(d), d.window.session
    panel.table.pick(row_of(panel, "fill the same space"))

    def answered(dialog):
        QTest.keyClicks(dialog._by, "R. Ito")
        QTest.keyClicks(dialog._why, "one piece later")
        return True

    monkeypatch.setattr(check.AsideDialog, "exec", answered)
    panel.put_aside()
    assert [v.by for v in session.job.all(Verdict)] == ["R. Ito"]
    assert (
        not [r for r in panel.table.rows.rows if "fill the same space" in r[3]] and "1 put aside" in panel.title.text()
    )
    panel.shown.setCurrentText("put aside")
    (row,) = panel.table.rows.rows
    assert row[0] == "✓ put aside" and "R. Ito" in row[3] and "one piece later" in row[3]
    panel.shown.setCurrentText("open")
    session.change("thicker", [replace(session.job.get("two", Member), section="FL100X12")])
    panel.refresh()
    d.bot.waitUntil(lambda: any(t.stands is Stands.BACK for t in panel.checker.told), timeout=20_000)
    row = panel.table.rows.rows[row_of(panel, "fill the same space")]
    assert row[0] == "▲ come back" and "was changed there since" in row[3]
    panel.table.pick(row_of(panel, "fill the same space"))
    d.model.camera.target = d.model.camera.target + 500.0
    there = d.model.camera.target.tolist()
    session.change("a lot", [replace(session.job.get("two", Member), lot="2")])
    d.bot.waitUntil(lambda: not panel.checker.running and not panel._stale, timeout=20_000)
    assert panel.current().found.rule == "overlap", "the place in the list is kept through an edit"
    assert d.model.camera.target.tolist() == there, "and the view stays where it was"
    session.undo()
    session.undo()
    session.undo()
    assert not session.job.all(Verdict)


def test_a_finding_that_is_mended_goes_and_a_kept_run_says_so(d):
    panel, session = looked(d), d.window.session
    panel.keep_run()
    session.change("mended", drop=["two"])
    panel.refresh()
    d.bot.waitUntil(lambda: not any("fill" in t.found.text for t in panel.checker.open), timeout=20_000)
    panel.shown.setCurrentText("solved")
    assert any("fill the same space" in row[3] and row[0] == "✓ solved" for row in panel.table.rows.rows)


def test_rules_are_set_in_their_own_form(d):
    panel, session = looked(d), d.window.session
    dialog = CheckRulesDialog(session, d.window)
    d.bot.addWidget(dialog)
    dialog.values["rods", "least"].setText("99")
    dialog.apply()
    assert "between 1 and 12" in d.said
    dialog.values["rods", "least"].setText("4")
    dialog.on["deck"].setChecked(False)
    dialog.apply()
    kept = session.job.get("check rules", CheckRules)
    assert set(kept.off) == {"hanging", "loose", "deck"} and kept.values == {}, "what is usual is not kept"
    panel.refresh()
    d.bot.waitUntil(lambda: not any("anchor rods" in t.found.text for t in panel.checker.told), timeout=20_000)


def test_what_holds_what_follows_the_selection(d):
    session = d.window.session
    tab = next(c for c in session.job.all(Connection) if c.kind == "shear tab")
    session.select((tab.member, tab.support))
    dialog = TiesDialog(session, d.window)
    d.bot.addWidget(dialog)
    rows = [dialog.tree.topLevelItem(n) for n in range(dialog.tree.topLevelItemCount())]
    assert rows[0].text(1) == "" and {row.text(1).rpartition(", ")[2] for row in rows[1:]} == {"on site", "in the shop"}
    dialog.tree.setCurrentItem(rows[1])
    assert session.spotted == pytest.approx(d.model.camera.target)
    session.select((tab.support,))
    top = dialog.tree.topLevelItem(0)
    shop = [top.child(n) for n in range(top.childCount()) if "in the shop" in top.child(n).text(1)]
    theme = d.window.theme
    beams = {c.member for c in session.job.all(Connection) if c.support == tab.support}
    assert d.model.colours == {tab.support: theme.moved, **dict.fromkeys(beams, theme.look)}, "all that holds to it"
    assert "column" in top.text(0) and len(shop) >= 3 and any("base plate" in row.text(0) for row in shop)
    assert any(row.child(n).text(0) == "the ground" for row in shop for n in range(row.childCount()))
    session.select(("one", "two"))
    assert "No weld or bolt leads" in dialog.title.text()
    dialog.show_loose()
    assert dialog.tree.topLevelItemCount() == 2 and d.model.colours == dict.fromkeys(("one", "two"), theme.moved)
    session.change("away", drop=["one", "two"])
    dialog.show_loose()
    assert dialog.title.text().startswith("✓ Every piece is tied")
    dialog.reject()
    assert session.spotted is None and tab.support not in d.model.colours


def test_a_question_holds_a_piece_until_it_is_answered(d, monkeypatch):
    panel, session = looked(d), d.window.session
    beam = next(m for m in session.job.all(Member) if m.role is Role.BEAM)
    session.select((beam.id,))
    answers = iter(["4' or 5' wide?", "R. Ito", "5'"])
    monkeypatch.setattr(type(d.window), "ask_name", lambda self, title, offer, words="Name": next(answers))
    d.window.do(BY_ID["hold pieces"])
    panel.refresh()
    d.bot.waitUntil(lambda: any("question 1 to R. Ito" in t.found.text for t in panel.checker.told), timeout=20_000)
    session.select((beam.id,))
    d.window.do(BY_ID["let go"])
    (hold,) = session.job.all(Hold)
    assert hold.let_go and hold.answer == "5'"
    d.window.do(BY_ID["let go"])
    assert "No question holds" in d.said


def test_filters(d):
    panel, session = looked(d), d.window.session
    panel.filter.setText("flat")
    assert panel.table.shown() == []
    panel.filter.setText("same space")
    assert len(panel.table.shown()) == 1
    panel.filter.clear()
    base = next(c for c in session.job.all(Connection) if c.kind == "base plate")
    session.select((base.member,))
    panel.lensed.setCurrentIndex(2)
    assert [row[1] for row in panel.table.rows.rows] == ["1"]
    panel.lensed.setCurrentIndex(0)


def test_an_arrow_points_at_what_is_out_of_sight(d):
    panel = looked(d)
    panel.table.pick(row_of(panel, "fill the same space"))
    wrong = [int(d.window.theme.wrong[k : k + 2], 16) for k in (1, 3, 5)]

    def reds():
        image = d.model.grabFramebuffer().convertToFormat(QImage.Format.Format_RGB888)
        spots = ((x, y) for y in range(0, image.height(), 3) for x in range(0, image.width(), 3))
        rgb = {at: image.pixelColor(*at).getRgb()[:3] for at in spots}
        return [at for at, own in rgb.items() if all(abs(v - w) < 12 for v, w in zip(own, wrong, strict=True))]

    d.model.camera.target = d.model.camera.target + d.model.camera.axes[0] * 50_000
    d.model.update()
    QTest.qWait(50)
    spots = [(x, y) for x, y in reds() if y > 80]  # under the key
    assert spots and max(x for x, _ in spots) < 60, "at the left edge, towards it"


def test_edits_are_followed_whatever_stage_is_open(d):
    panel, session = looked(d), d.window.session
    there = len(panel.checker.open)
    session.go("Frame")
    session.change("apart", drop=["two"])
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert len(panel.checker.open) == there - 1, "the clash is gone, and the list asked nobody to look"
    session.undo()
    session.go("Check")
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert row_of(panel, "fill the same space") is not None


def test_a_look_is_left_and_taken_up_again(d, monkeypatch):
    panel, session = looked(d), d.window.session
    slow = threading.Event()
    each = checking.found_at
    monkeypatch.setattr(checking, "found_at", lambda *of: (slow.wait(0.02), each(*of))[1])
    panel.checker.looked = None
    d.window.do(BY_ID["findings"])
    d.bot.waitUntil(panel.stop.isVisible, timeout=5000)
    d.bot.waitUntil(lambda: panel.checker.running and panel.title.text().startswith("Looking"), timeout=5000)
    QTest.mouseClick(panel.stop, Qt.MouseButton.LeftButton)
    assert "stopped" in panel.title.text() and not panel.stop.isVisible()
    slow.set()
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    d.window.do(BY_ID["findings"])
    d.bot.waitUntil(lambda: panel.checker.looked is not None and not panel.checker.running, timeout=20_000)
    assert "stopped" not in panel.title.text() and session.stage == "Check"


def test_topics_go_out_with_remarks_and_answers_come_in(d, tmp_path, monkeypatch):
    panel, session = looked(d), d.window.session
    said = []
    session.said.connect(lambda words, wrong: said.append(words))
    panel.table.pick(row_of(panel, "fill the same space"))

    def type_in(dialog):
        dialog._by.setText("R. Ito")
        dialog._text.setText("Which of the two goes?")
        return True

    monkeypatch.setattr(topics.RemarkDialog, "exec", type_in)
    d.window.do(BY_ID["remark"])
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert "R. Ito" in panel.table.rows.rows[row_of(panel, "fill the same space")][3]
    monkeypatch.setattr(d.window, "file_to", lambda *_: tmp_path / "out.bcf")
    d.window.do(BY_ID["send old topics"])
    d.bot.waitUntil(lambda: any("written to out.bcf" in words for words in said), timeout=20_000)
    out = read_bcf(tmp_path / "out.bcf")
    clash = next(t for t in out if t.kind == "Clash")
    assert [r.text for r in clash.remarks] == ["Which of the two goes?"] and len(out) == len(panel.checker.told)
    panel.sending.wait()
    theirs = replace(clash, guid=str(uuid.uuid4()), title="The duct crosses here", remarks=(), kind="Issue")
    said_back = Remark(str(uuid.uuid4()), "K. Berg", "2026-11-29T08:00:00Z", "The second.")
    answer = replace(clash, remarks=(*clash.remarks, said_back))
    (tmp_path / "in.bcf").write_bytes(bcf_bytes((Sent(t, (), b"") for t in (theirs, answer)), session.job.project))
    monkeypatch.setattr(d.window, "file_from", lambda *_: tmp_path / "in.bcf")
    d.window.do(BY_ID["take in topics"])
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert "2 topics of 2 taken in." in said and "K. Berg" in panel.table.rows.rows[row_of(panel, "fill the same")][3]
    panel.table.pick(row_of(panel, "The duct crosses here"))
    assert session.spotted == pytest.approx((1e4, 0, 0), abs=1.0) and d.model.colours.keys() == {"one", "two"}
    session.undo()
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert not any("duct" in row[3] for row in panel.table.rows.rows)
    (tmp_path / "in.bcf").write_bytes(b"nothing")
    d.window.do(BY_ID["take in topics"])
    assert "in.bcf is no BCF file" in said[-1]


def test_joints_that_are_wrong_get_the_values_of_one_that_is_right(d):
    session = d.window.session
    tabs = [c for c in session.job.all(Connection) if c.kind == "shear tab"]
    sections = {m.id: m.section for m in session.job.all(Member)}
    like = [c for c in tabs if (sections[c.member], sections[c.support]) == ("W12X19", "W18X35")]
    bad = {"edge": 15.0, "thickness": 3.0}
    session.change("bad", [replace(c, params={**c.params, **bad}) for c in like[:1]])
    panel = looked(d)
    row = next(n for n, r in enumerate(panel._rows) if like[0].id in r[0].found.records)
    panel.table.pick(row)
    d.window.do(BY_ID["values of a like joint"])
    assert session.job.get(like[0].id, Connection).params == like[-1].params
    d.bot.waitUntil(lambda: not panel.checker.running, timeout=20_000)
    assert not any(like[0].id in one.found.records for one in panel.checker.open), "looked at again at once"
    session.undo()
    assert session.job.get(like[0].id, Connection).params["thickness"] == 3.0


def test_a_window_that_closes_leaves_what_is_on_its_way(d, tmp_path, monkeypatch):
    panel = looked(d)
    begun = threading.Event()

    def slowly(*_):
        begun.set()
        while not panel.sending.stopped.is_set():
            time.sleep(0.01)
        yield from ()

    monkeypatch.setattr(topics, "going_out", slowly)
    topics.send(panel, tmp_path / "out.bcf", "3.0")
    d.bot.waitUntil(begun.is_set, timeout=5000)
    d.window.close()
    assert panel.sending.isFinished() and not (tmp_path / "out.bcf").exists()
