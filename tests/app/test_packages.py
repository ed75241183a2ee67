"""The whole way in the window: a kind of package, ready or not, its cause, made, changed since, answered, coloured."""

import json
import re

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from tests.app.conftest import BUTTON, Driver
from tests.conftest import marked
from tests.deliver.test_ids import asking, prop

from uncus.app.commands import BY_ID
from uncus.app.stages.package_kind import KindDialog
from uncus.deliver.sending import kind_named
from uncus.job.errors import JobError
from uncus.job.job import Job
from uncus.job.packages import MATERIAL, PackageKind, PieceProgress, Receiver, Sending, Stage
from uncus.job.records import Lens, Member, Role
from uncus.lens.grammar import read
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame
from uncus.shop.shop import build
from uncus.standin.intake import Intake, to_json
from uncus.standin.noticeboard import Noticeboard


@pytest.fixture
def d(qtbot, once, tmp_path):
    records = once("frame to be sent", lambda: tuple(marked(frame(1, 1))[0].records.values()))
    job = Job.create(tmp_path / "j.uncus", records)
    driver = Driver(qtbot, job, build(job))
    driver.qtbot, driver.panel = qtbot, driver.window.delivering.packages
    driver.window.session.go("Deliver")
    driver.panel.folder.setText(str(tmp_path / "out"))
    yield driver
    driver.window.close()
    job.close()


def wait(d):
    d.qtbot.waitUntil(lambda: d.panel.runner.under_way is None, timeout=60_000)
    QTest.qWait(20)


def press(d, name, root=None):
    QTest.mouseClick(d.named(name, QPushButton, root or d.panel), BUTTON.LeftButton)
    QTest.qWait(20)


def counted(d, sending):
    d.panel.went.sent.pick(sending.id)
    press(d, "Intake ...")
    wait(d)
    return d.panel.went.desk


def own_kind(d, **fields):
    made = PackageKind(id="own", name="IFC and lists", **{"outputs": ("ifc", "bills"), "lists": ("parts", "cuts"),
        "must": ("marked", "lists")} | fields)  # fmt: skip
    d.panel.keep_kind(made)
    assert d.panel.kind.currentText() == made.name
    return made


def test_from_the_kind_to_the_answer(d, tmp_path):
    panel, session, job = d.panel, d.window.session, d.job
    own_kind(d)
    panel.to.setEditText("Made-up Steel")
    panel.model.setCurrentIndex(panel.model.findData(MATERIAL))
    BY_ID["ready"].do(d.window)
    wait(d)
    assert "Ready to go" in panel.said.text() and [line.name for line in panel.lines] == [
        "marked", "held", "findings", "lists"], "what a kind has nothing of is not asked"  # fmt: skip
    BY_ID["package"].do(d.window)
    wait(d)
    (first,) = job.all(Sending)
    folder = tmp_path / "out" / first.folder
    there = {p.relative_to(folder).as_posix() for p in folder.rglob("*") if p.is_file()}
    assert "material.csv" in {p.rpartition("/")[2] for p in there} and not any(p.endswith(".ifc") for p in there)
    assert {p for p in there if p.endswith(".csv") and p.startswith("bills")} == {"bills/parts.csv", "bills/cuts.csv"}
    assert [r.name for r in job.all(Receiver)] == ["Made-up Steel"] and first.receiver == "Made-up Steel"
    assert panel.went.since.rows.rows == [], "nothing changed since"
    panel.went.written(first, tmp_path / "again")
    assert (tmp_path / "again" / first.folder / "transmittal.pdf").read_bytes() == (
        folder / "transmittal.pdf").read_bytes()  # fmt: skip

    # the office takes it and answers; what was cut is then changed
    office = Intake(tmp_path / "office")
    receipt = office.take(folder)
    assert receipt.accepted and receipt.pieces == len(session.shop.shipped)
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    told = office.report(receipt.job, receipt.number, Stage.CUT, (), "2026-11-29")
    (tmp_path / "progress.json").write_bytes(to_json(told))
    panel.went.progress_from(tmp_path / "progress.json")
    assert len(job.all(PieceProgress)) == receipt.pieces and f"{receipt.pieces} pieces reported" in panel.said.text()
    press(d, "Colour by progress")
    assert session.stage == "Frame" and d.window.model.key == [("◔", f"cut: {receipt.pieces}", d.window.theme.look),
        ("", "not reported: 0", d.window.theme.steel)]  # fmt: skip
    d.window.session.change("heavier", [msgspec.structs.replace(beam, section="W12X40")])
    session.go("Deliver")
    panel.went.sent.pick(first.id)
    panel.refresh()
    assert (
        all(row[1].startswith("changed: ") for row in panel.went.since.rows.rows)
        and beam.id in panel.went.since.rows.keys
    )
    assert "W12X40, was" in dict(zip(panel.went.since.rows.keys, panel.went.since.rows.rows, strict=True))[beam.id][1]
    assert all(row[0] for row in panel.went.since.rows.rows)
    press(d, "Show them")
    assert session.selection == set(panel.went.since.rows.keys) and session.stage == "Frame"

    # now the piece is not as it is marked: that stands in the way, and leads there
    session.go("Deliver")
    BY_ID["ready"].do(d.window)
    wait(d)
    assert panel.asked.picked() == ["marked"] and "in its way" in panel.said.text()
    session.select(())
    panel.against.setFocus()
    QTest.keyClick(panel.against, Qt.Key.Key_Return)
    assert session.stage == "Mark" and session.selection == {panel.against.picked()[0].about}
    session.undo()
    assert not panel.lines, "what was looked at of another job says nothing of this one"


def test_what_stands_in_the_way_needs_a_reason_and_a_finding_leads_to_its_place(d, tmp_path):
    panel, session, job = d.panel, d.window.session, d.job
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    low = {"start": (*beam.start[:2], beam.start[2] - 2000), "end": (*beam.end[:2], beam.end[2] - 2000)}
    session.change("lost", [Member(id="lost", role=Role.BEAM, section="W12X26", **low)])
    own_kind(d, must=("findings",), outputs=("bills",))
    BY_ID["ready"].do(d.window)
    wait(d)
    assert panel.asked.picked() == ["findings"] and panel.against.picked()
    key = panel.against.picked()[0].about
    press(d, "To its cause")
    assert session.stage == "Check"
    d.qtbot.waitUntil(lambda: (at := d.window.check.current()) is not None and at.found.key == key, timeout=30_000)
    session.go("Deliver")
    BY_ID["package"].do(d.window)
    wait(d)
    assert "give the reason" in panel.said.text() and not job.all(Sending) and not (tmp_path / "out").exists()
    assert panel.lines or panel.said.property("error")


def test_a_kind_is_made_of_ticks_kept_undone_and_refused_in_a_sentence(d):
    panel, session, job = d.panel, d.window.session, d.job
    session.change("lens", [Lens(id="l", name="beams", rule=read("role is beam"))])
    dialog = KindDialog(session, kind_named(job, "for erection"), panel)
    dialog.show()
    assert set(dialog.goes.ticked()) == {"sheets", "ifc", "bills", "page"} and dialog.sheets.ticked() == ("erection",)
    dialog.name_by.setText("{nonsense}")
    assert "no other brackets" in dialog.preview.text()
    dialog.keep()
    assert dialog.made is None and "no other brackets" in dialog.said.text()
    dialog.name_by.setText("{kind} {no}")
    assert dialog.preview.text() == "as for erection 007"
    dialog.goes.boxes["nc"].setChecked(True)
    dialog.lens.setCurrentText("beams")
    dialog.keep()
    panel.keep_kind(dialog.made)
    (own,) = job.all(PackageKind)
    assert (own.name, own.lens, "nc" in own.outputs, own.sheets) == ("for erection", "beams", True, ("erection",))
    again = KindDialog(session, kind_named(job, "for erection"), panel)
    again.keep()
    assert again.made.id == own.id, "a kind of this job is changed, not made twice"
    again.name.setText("for erection, beams")
    again.keep()
    assert again.made.id != own.id
    session.undo()
    assert not job.all(PackageKind)


def test_looked_at_laid_out_counted_and_answered(d, tmp_path):
    """The rest of the way: his IDS, the page, the noticeboard, the office's receipt and answer."""
    panel, session, job = d.panel, d.window.session, d.job
    own_kind(d, outputs=("material", "page", "nc"), sheets=("erection",), lists=())
    panel.to.setEditText("Made-up Steel")
    (tmp_path / "his.ids").write_text(asking(prop("Mark")))
    panel.ids_from(tmp_path / "his.ids")
    assert panel.ids.text() == "his.ids" and job.all(Receiver)[0].ids_name == "his.ids"
    panel.to.setEditText("Somebody else")
    assert panel.ids.text() == "IDS ..."
    with pytest.raises(JobError):
        panel.ids_from(tmp_path / "j.uncus")
    panel.to.setEditText("Made-up Steel")
    BY_ID["package"].do(d.window)
    wait(d)
    (first,) = job.all(Sending)
    page = panel.went.page_of(first)
    assert page.read_bytes() == (tmp_path / "out" / first.folder / "viewer.html").read_bytes()
    panel.went.publish_on(first, tmp_path / "board")
    wait(d)
    assert "is version 1 on" in panel.said.text()
    board = Noticeboard(tmp_path / "board")
    (key,) = board.jobs()
    board.note_taken(key, "Made-up Steel", 1, "2026-11-29")
    dialog = counted(d, first)
    assert dialog.receipt.accepted and dialog.receipt.pieces == len(session.shop.shipped)
    assert f"{dialog.receipt.pieces} pieces" in dialog.counts.text() and dialog.receipt.nc > 3
    dialog.marks.setText("no such mark")
    press(d, "Answer", dialog)
    assert "has no piece marked" in dialog.said.text() and not job.all(PieceProgress)
    mark = session.marks.of_assembly(next(iter(session.shop.shipped)))
    dialog.marks.setText(mark)
    dialog.stage.setCurrentText("fitted")
    press(d, "Answer", dialog)
    assert {session.marks.of_assembly(p.piece) for p in job.all(PieceProgress)} == {mark}
    assert {p.stage for p in job.all(PieceProgress)} == {Stage.FITTED} and "told as fitted" in dialog.said.text()
    beam = next(m for m in job.all(Member) if m.role is Role.BEAM)
    d.window.session.change("lot", [msgspec.structs.replace(beam, lot="9")])
    apply(job, propose(job, session.shop))
    BY_ID["package"].do(d.window)
    wait(d)
    second = max(job.all(Sending), key=lambda s: s.number)
    panel.went.publish_on(second, tmp_path / "board")
    wait(d)
    assert "Made-up Steel has version 1; 1 changed" in panel.said.text()
    dialog.close()
    told = re.search(rb'id="changes">([^<]*)<', panel.went.page_of(second).read_bytes())[1]
    assert beam.id in {one["piece"] for one in json.loads(told)["pieces"]}, "his page says what changed since his last"
    d.window.session.change("another", [msgspec.structs.replace(beam, lot="10")])
    d.qtbot.waitUntil(lambda: beam.id in panel.went.since.rows.keys)  # as soon as the job is another
    d.window.session.undo()
    d.qtbot.waitUntil(lambda: not panel.went.since.rows.keys)
    again = counted(d, second)
    assert len([row for row in again.listed.rows.rows if row[0] == "changed"]) == 1


def test_work_goes_to_other_machines_where_some_are_named(d, tmp_path):
    from distributed import LocalCluster

    own_kind(d, outputs=("nc", "bills"), must=("marked",))
    with LocalCluster(n_workers=1, threads_per_worker=1, dashboard_address=":0", silence_logs=50) as away:
        d.window.session.prefer(cluster=away.scheduler_address)
        BY_ID["package"].do(d.window)
        assert away.scheduler_address in d.panel.said.text()
        wait(d)
        assert "Package 1:" in d.panel.said.text() and len(d.job.all(Sending)) == 1
    d.window.session.prefer(cluster="tcp://127.0.0.1:9")
    BY_ID["package"].do(d.window)
    wait(d)
    assert "No Dask scheduler answers" in d.panel.said.text() and len(d.job.all(Sending)) == 1
