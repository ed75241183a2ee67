"""Joints and attachments changed in the window: by picks, keys and fields, each step undone again."""

import csv
import json
import math

import msgspec
import numpy as np
import pytest
from pypdf import PdfReader
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QInputDialog, QLineEdit, QPushButton
from tests.app.conftest import Driver

from uncus.app import by_rule, joining
from uncus.app.commands import BY_ID
from uncus.app.facts.fields import ChoiceField
from uncus.app.stages.joining_rules import RulesDialog
from uncus.app.stages.told import ToldDialog
from uncus.connect.by_rule import DONE, USUAL
from uncus.job.records import Attachment, Connection, Fact, Member, OfficeRule, Preset

KEY = Qt.Key


def tabs(session, section="W16X31"):
    return [
        c
        for c in session.job.all(Connection)
        if c.kind == "shear tab" and session.job.get(c.member, Member).section == section
    ]


def test_a_bolt_or_a_plate_leads_to_the_joint_that_made_it(full):
    d, session = full, full.window.session
    session.go("Connect")
    mine = tabs(session)[0]
    session.select([mine.id])
    d.window.do(BY_ID["frame"])
    made = session.shop.connections[mine.id]
    (group,) = made.fasteners
    tail = np.array(group.points[0]) + np.array(group.axis) * group.length
    found = set()
    for _ in range(4):  # from one of four sides a bolt's end is in sight
        for at in (group.points[0], tuple(tail.tolist())):
            session.select(())
            d.click(*at)
            found |= {c.id for c in session.connections}
        d.model.camera.yaw += 90.0
        session.select([mine.id])
        d.window.do(BY_ID["frame"])
    assert mine.id in found
    plate = next(p for p in session.shop.pieces() if p.maker == mine.id)
    assert session.shop.made_by(mine.id)[0] == [plate]


def test_kind_loads_lock_and_values_of_many_joints(full):
    d, session = full, full.window.session
    session.go("Connect")
    one, *others = tabs(session)
    session.select([one.id])
    d.enter("Shear", "30")
    assert round(d.job.get(one.id, Connection).loads.shear / 4448.2216, 3) == 30.0
    d.enter("Shear", "many")
    assert "is not a force" in d.said
    d.choose("Kind of joint", "shear end plate")
    assert d.job.get(one.id, Connection).kind == "shear end plate" and session.shop.connections[one.id].parts
    session.undo()
    d.enter("Bolt rows", "3")
    d.model.setFocus()
    d.key(KEY.Key_C, Qt.KeyboardModifier.ShiftModifier)
    assert session.copied is not None and session.copied.params["rows"] == 3
    session.select([c.id for c in others[:5]])
    joining.lock(session, session.connections[:1])
    locked = session.connections[0]
    d.model.setFocus()
    d.key(KEY.Key_V, Qt.KeyboardModifier.ShiftModifier)
    rows = [d.job.get(c.id, Connection).params.get("rows") for c in others[:5]]
    assert rows.count(3) == 4 and d.job.get(locked.id, Connection).params.get("rows") is None
    d.model.setFocus()
    d.key(KEY.Key_S, Qt.KeyboardModifier.ShiftModifier)
    assert sum(c.params.get("side") == "far" for c in session.connections) == 4, "the locked one stays"


def test_a_hundred_joints_are_changed_as_one_step(full):
    d, session = full, full.window.session
    session.go("Connect")
    many = [c for c in d.job.all(Connection) if c.kind == "shear tab"][:100]
    before = dict(session.shop.connections)
    session.select([c.id for c in many])
    d.enter("Tab thickness", "1/2")
    assert all(d.job.get(c.id, Connection).params["thickness"] == 12.7 for c in many)
    assert sum(session.shop.connections[c.id] != before[c.id] for c in many) == len(many)
    session.undo()
    assert session.shop.connections == before


def test_presets_are_named_used_and_shared(full, monkeypatch, tmp_path):
    d, session = full, full.window.session
    session.go("Connect")
    one, other = tabs(session)[:2]
    session.select([one.id])
    d.enter("Bolt rows", "2")
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("Light", True))
    d.choose("Preset", "keep as new")
    assert [p.name for p in d.job.all(Preset)] == ["Light"]
    session.select([other.id])
    d.choose("Preset", "Light")
    assert d.job.get(other.id, Connection).params == {"rows": 2}
    path = tmp_path / "standards.json"
    assert joining.export_standards(session, path) and json.loads(path.read_text())["presets"][0]["name"] == "Light"
    with d.job.change("x") as change:
        change.drop(d.job.all(Preset)[0].id)
    assert joining.import_standards(session, path)
    assert [p.name for p in d.job.all(Preset)] == ["Light"] and "reworked" in d.said
    path.write_text(path.read_text().replace('"rows": 2', '"rows": -2'))
    assert not joining.import_standards(session, path) and "Light" in d.said
    path.write_text("{")
    assert not joining.import_standards(session, path) and "cannot be read" not in d.job.rules.bolt


def test_attachments_are_offered_where_they_fit_and_follow(full):
    d, session = full, full.window.session
    session.go("Connect")
    beams = [m for m in d.job.all(Member) if m.section == "W16X31"]
    session.select([m.id for m in beams])
    assert "studs" in joining.fitting_kinds(session)
    posts = [m for m in d.job.all(Member) if m.section.startswith("HSS")]
    assert joining.attach(session, "nailer holes")
    assert len(session.attachments) == len(beams)
    d.enter("Spacing", "3'")
    words = [
        x.text() for x in d.window.facts.widget().findChildren(type(d.window.check.title)) if "Read as" in x.text()
    ]
    assert words == ["Read as: 3'-0 along one row, 1'-6 from one row to the next"]
    session.delete()
    assert not [a for a in d.job.all(Attachment) if a.kind == "nailer holes"]
    session.select([posts[0].id])
    assert "studs" not in joining.fitting_kinds(session)


def test_the_report_of_a_run_leads_to_each_end(full):
    d, session = full, full.window.session
    gone = tabs(session)[:3]
    session.change("drop", drop=[c.id for c in gone])
    rule = OfficeRule(order=1, name="Plates", kind="shear end plate")
    session.change("rule", (rule,))
    session.select(())
    d.model.setFocus()
    d.key(KEY.Key_R)
    assert session.stage == "Connect" and d.window.report.isVisible()
    assert len(session.report.of(DONE)) + len(session.report.of("done, look")) == 3
    assert {d.job.get(c.id, Connection).kind for c in gone} == {"shear end plate"}
    d.window.report.table.pick((gone[0].member, gone[0].id))
    assert [c.id for c in session.connections] == [gone[0].id]
    short = d.members()[0]
    session.change("alone", [msgspec.structs.replace(short, id="alone", role="beam", start=(0.0, -9000.0, 0.0),
        end=(3000.0, -9000.0, 0.0))])  # fmt: skip
    session.select(())
    d.model.setFocus()
    d.key(KEY.Key_R)
    assert session.report.of("skipped") and not session.selection, "the next run is not narrowed unsaid"
    d.window.report.left.click()
    assert "alone" in session.selection and len(session.selection) < 5
    d.window.report._close()
    assert not d.window.below.isVisible()


def test_setbacks_come_and_go_as_one(empty, monkeypatch):
    d, session = empty, empty.window.session
    post = Member(id="p", role="column", section="W10X49", start=(0, 0, 0), end=(0, 0, 4000))
    over = Member(id="b", role="beam", section="W12X26", start=(0, 0, 3000), end=(0, 5000, 3000), line="top of steel")
    session.change("steel", (post, over))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_, **__: ("1", True))
    d.model.setFocus()
    d.key(KEY.Key_G, Qt.KeyboardModifier.ShiftModifier)
    assert [c.kind for c in d.job.all(Connection)] == ["setback"]
    assert session.shop.assemblies["b"].main.part.length < 5000 - 127
    by_rule.clear_setbacks(session)
    assert not d.job.all(Connection) and session.shop.assemblies["b"].main.part.length == 5000


def test_a_calculation_sheet_is_written(full, tmp_path):
    d, session = full, full.window.session
    session.select([c.id for c in tabs(session)[:2]])
    path = tmp_path / "calc.pdf"
    assert joining.write_calculations(session, path)
    text = "".join(page.extract_text() for page in PdfReader(path).pages)
    assert text.count("AISC 360-22") == 2 and "no load is known" in text
    session.select(())
    assert not joining.write_calculations(session, path) and "Pick joints" in d.said


def test_rules_of_joining_are_edited_ordered_and_taken_back(full):
    d, session = full, full.window.session
    session.go("Connect")
    d.window.do(BY_ID["joining rules"])
    last = USUAL[-1].id
    dialog = d.window.keep_open(RulesDialog)
    assert dialog.isVisible() and len(dialog.records) == len(USUAL) and not d.job.all(OfficeRule)
    dialog.table.pick(last)
    d.enter("Members of the rule", "section begins W16")
    rule = d.job.get(last, OfficeRule)
    assert rule.members == Fact("section", "begins", "W16") and len(d.job.all(OfficeRule)) == len(USUAL)
    d.enter("Members of the rule", "secton is W16")
    assert "secton" in dialog.said.text() and d.job.get(last, OfficeRule).members == rule.members
    dialog.table.pick(last)
    d.choose("Kind of the rule", "shear end plate")
    d.enter("Gage", "5")
    assert d.job.get(last, OfficeRule).params == {"gage": 127.0}
    dialog.add()
    assert [r.name for r in dialog.records[-2:]] == ["Beams", "Beams, more"]
    dialog.step(-1)
    assert [r.name for r in dialog.records[-2:]] == ["Beams, more", "Beams"] and dialog.one.name == "Beams, more"
    dialog.remove()
    assert len(dialog.records) == len(USUAL)
    gone = tabs(session)[:2]
    session.change("drop", drop=[c.id for c in gone])
    session.select([c.member for c in gone])
    by_rule.connect_by_rule(session)
    assert {d.job.get(c.id, Connection).kind for c in gone} == {"shear end plate"}
    next(b for b in dialog.findChildren(QPushButton) if b.text() == "Usual rules").click()
    assert not d.job.all(OfficeRule)
    while session.job.can_undo:
        session.undo()
    assert not d.job.all(OfficeRule)
    dialog.close()


def test_attachments_go_along_with_a_copy(full):
    d, session = full, full.window.session
    session.go("Connect")
    (beam, *_) = [m for m in d.job.all(Member) if m.section == "W16X31"]
    session.select([beam.id])
    joining.attach(session, "stiffeners")
    session.select([beam.id])
    d.window.do(BY_ID["copy"])
    for text in ("0, 0, 0", "0, 0, 40'"):
        d.window.prompt.entry.setText(text)
        d.key(KEY.Key_Return, on=d.window.prompt.entry)
    assert len([a for a in d.job.all(Attachment) if a.kind == "stiffeners"]) == 2 and "1 attachment" in d.said


def test_the_engineers_loads_come_in_as_one_step_and_what_did_not_match_is_listed(qtbot, fresh, tmp_path, monkeypatch):
    job, shop = fresh(with_marks=True)
    d, path = Driver(qtbot, job, shop), tmp_path / "loads.csv"
    session = d.window.session
    monkeypatch.setattr("uncus.app.window.QFileDialog.getSaveFileName", lambda *_: (str(path), ""))
    monkeypatch.setattr("uncus.app.window.QFileDialog.getOpenFileName", lambda *_: (str(path), ""))
    d.window.do(BY_ID["export loads"])
    head, first, *_ = csv.reader(path.read_text().splitlines())
    path.write_text(f"Mark,End,Shear (kips)\n{first[0]},{first[head.index('End')]},12\nQ99,left,5\n")
    d.window.do(BY_ID["import loads"])
    loaded = [c for c in job.all(Connection) if c.loads]
    assert head[:2] == ["Mark", "Place"] and loaded and "1 row did not match" in d.said
    shown = d.window.findChild(ToldDialog)
    assert "Q99" in shown.text.toPlainText() and shown.isVisible()
    shown.accept()
    session.undo()
    assert not [c for c in job.all(Connection) if c.loads]


def test_what_a_value_measures_is_drawn_on_the_steel_while_its_field_has_the_keys(full):
    d, session = full, full.window.session
    d.window.do(BY_ID["stage connect"])
    tab = next(c for c in d.job.all(Connection) if c.kind == "shear tab")
    session.select([tab.id])
    field = d.named("Pitch", QLineEdit)
    field.setFocus()
    d.bot.waitUntil(lambda: session.pointing.shown is not None, timeout=3000)
    assert session.pointing.shown.words == "Pitch" and session.pointing.shown.at.value == pytest.approx(76.2)
    vermilion = QColor(d.window.theme.wrong).rgb()

    def drawn():
        d.bot.wait(80)
        picture = d.model.grabFramebuffer()
        return sum(picture.pixel(x, y) == vermilion for x in range(picture.width()) for y in range(picture.height()))

    d.model.frame()
    shown = drawn()
    d.enter("Pitch", "4")
    d.bot.waitUntil(
        lambda: session.pointing.shown is not None and abs(session.pointing.shown.at.value - 101.6) < 0.01, timeout=3000
    )
    d.model.setFocus()
    d.bot.waitUntil(lambda: session.pointing.shown is None, timeout=2000)
    assert drawn() < shown - 5  # the triad is left


def test_choices_show_pictures_of_the_joint_when_their_list_opens(full):
    d, session = full, full.window.session
    d.window.do(BY_ID["stage connect"])
    tab = next(c for c in d.job.all(Connection) if c.kind == "shear tab")
    session.select([tab.id])
    for words in ("Side of the web", "Bolt"):  # a bolt's own size does not show in lines
        field = d.named(words, ChoiceField)
        d.bot.wait(60)
        before = field.size()
        field.showPopup()
        images = [field.itemIcon(n).pixmap(field.iconSize()).toImage() for n in range(field.count())]
        drawn = [image for image in images if not image.isNull()]
        assert len(drawn) == (2 if words == "Side of the web" else 0)
        assert not drawn or drawn[0] != drawn[1]
        field.hidePopup()
        d.bot.wait(30)
        assert field.size() == before, "the pictures are of the list alone"


@pytest.mark.parametrize("longer", [25.4, -12.7])
def test_the_end_of_a_dimension_is_pulled_to_another_value(full, longer):
    d, session = full, full.window.session
    d.window.do(BY_ID["stage connect"])
    tab = next(c for c in d.job.all(Connection) if c.kind == "shear tab")
    session.select([tab.id])
    field = d.named("Pitch", QLineEdit)
    field.setFocus()
    d.bot.waitUntil(lambda: session.pointing.shown is not None, timeout=3000)
    at = session.pointing.shown.at
    d.key(Qt.Key.Key_F4)
    (x0, y0, _), (x1, y1, _) = d.model.camera.to_screen([at.a, at.b])
    assert math.hypot(x1 - x0, y1 - y0) * d.model.camera.scale == pytest.approx(at.value, rel=1e-3), "it lies across"
    assert session.seeing.ghosted == session.shop.assemblies.keys() - set(tab.members)
    d.bot.wait(30)
    n = (at.b - at.a) / at.value
    d.drag(d.at(*at.b), d.at(*(at.b + longer * n)))
    assert d.job.get(tab.id, Connection).params["pitch"] == pytest.approx(76.2 + longer, abs=1.6)
    assert round(d.job.get(tab.id, Connection).params["pitch"] / 25.4 * 16, 3) % 1 == 0, "in sixteenths"
    session.undo()
    assert "pitch" not in d.job.get(tab.id, Connection).params, "one change"
    assert session.selection == {tab.id} and not session.pointing.pulling
