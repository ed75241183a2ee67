"""The job kept safe in the window: faults followed by steel made anew, copies, going back, records set aside."""

from types import SimpleNamespace

import msgspec
from PySide6.QtWidgets import QFileDialog, QPlainTextEdit, QPushButton
from tests.app.conftest import Driver
from tests.job.test_file import forge

from uncus.app.commands import BY_ID
from uncus.job.job import Job
from uncus.job.records import Level, Mark, Member
from uncus.shop.shop import Shop, build


def longer(member: Member) -> Member:
    return msgspec.structs.replace(member, lot="77")


def test_a_fault_in_following_a_change_makes_the_steel_anew_and_keeps_a_report(full, monkeypatch, tmp_path):
    d, session = full, full.window.session
    session._state = tmp_path
    beam, secret = d.members()[0], "Riverside Rowing"

    def fails(self, delta):
        self.assemblies.clear()
        raise KeyError(secret)

    with monkeypatch.context() as patch:
        patch.setattr(Shop, "follow", fails)
        assert session.change("Lot", [longer(beam)])
    d.bot.waitUntil(lambda: "made anew" in d.said)
    assert d.job.get(beam.id, Member).lot == "77", "the change itself is kept"
    assert session.shop.assemblies == build(d.job).assemblies and session.shop.assemblies[beam.id].member.lot == "77"
    (kept,) = tmp_path.iterdir()
    assert beam.id in kept.read_text() and "KeyError" in kept.read_text() and secret not in kept.read_text()
    shown = []
    d.modal(lambda dialog: (shown.append(dialog.findChild(QPlainTextEdit).toPlainText()), dialog.accept()))
    d.named("Show report", QPushButton).click()
    assert shown == [kept.read_text()]
    session.undo()
    assert session.shop.assemblies[beam.id].member.lot == beam.lot, "what follows works on the steel made anew"
    with monkeypatch.context() as patch:
        patch.setattr(Shop, "follow", fails)
        patch.setattr("uncus.app.session.build", lambda job: 1 / 0)
        session.change("Lot", [longer(beam)])
        d.bot.waitUntil(lambda: "Take it back" in d.said)


def test_a_fault_anywhere_else_is_said_with_its_report(full):
    from uncus.app.main import _unforeseen

    try:
        raise AttributeError("client Riverside")
    except AttributeError as error:
        _unforeseen(SimpleNamespace(windows=[full.window]), type(error), error, error.__traceback__)
    full.bot.waitUntil(lambda: "A fault in the program" in full.said)
    assert "Riverside" not in full.said and full.named("Show report", QPushButton).isVisible()
    full.window.session.said.emit("Something else.", False)
    assert not full.window.prompt.report.isVisible()


def test_a_copy_is_saved_and_gone_back_to(empty, monkeypatch, tmp_path):
    d, copy = empty, tmp_path / "copy.uncus"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(copy), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(copy), ""))
    d.window.do(BY_ID["save copy"])
    assert "is a copy" in d.said
    before = dict(d.job.records)
    d.window.do(BY_ID["go back"])
    assert "nothing to go back to" in d.said
    d.window.session.change("more", [Level(id="more", name="More", elevation=1.0)])
    d.window.do(BY_ID["go back"])
    assert dict(d.job.records) == before and "Ctrl+Z takes it back" in d.said
    d.window.session.undo()
    assert "more" in d.job.records


def test_what_was_set_aside_on_opening_is_said_listed_and_cleared(qtbot, tmp_path, fresh):
    path = tmp_path / "j.uncus"
    records = list(fresh(with_marks=True)[0].records.values())
    Job.create(path, records).close()
    beam = next(r for r in records if isinstance(r, Member))
    mark = next(r for r in records if isinstance(r, Mark) and not r.part and r.piece != beam.id)
    forge(path, beam.id, msgspec.json.encode(msgspec.structs.replace(beam, end=beam.start)))
    forge(path, mark.id, msgspec.json.encode(msgspec.structs.replace(mark, mark="B\0")))
    with Job.open(path) as job:
        d = Driver(qtbot, job)
        d.window.session.said_on_opening()
        assert "1 more: see Check" in d.said and "has no length" in d.said
        d.window.session.go("Check")
        rows = [f.text for f in d.window.session.shop.all_findings]
        assert any("has no length" in text for text in rows)
        d.bot.waitUntil(lambda: mark.piece in d.window.check.owners(), timeout=20_000)
        d.window.do(BY_ID["clear aside"])
        assert not job.aside and not any("set aside" in f.text for f in d.window.session.shop.all_findings)
        d.window.close()
    with Job.open(path) as job:
        assert not job.aside and not job.notes
