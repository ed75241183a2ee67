"""Stairs, rails, transitions and plates by mouse and keys."""

import runpy
from pathlib import Path

import ezdxf
import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton
from tests.app.test_framing import set_up_grid, typed_line

from uncus.app import composing
from uncus.app.commands import BY_ID
from uncus.app.facts.choice_pictures import Drawn, drawn
from uncus.app.facts.fields import ChoiceField
from uncus.catalog.sections import section
from uncus.compose.kinds import COMPOUNDS
from uncus.frame.outlines import rectangle
from uncus.frame.placement import Placement
from uncus.frame.plates import plate_in
from uncus.job.blanks import Blank
from uncus.job.forms import fields
from uncus.job.records import Attachment, Composite, Member, Role
from uncus.units import FOOT, INCH

KEY, SHIFT = Qt.Key, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def site(empty):
    set_up_grid(empty)
    empty.model.frame()
    QTest.qWait(60)
    return empty


def stair(d):
    d.key(KEY.Key_I, SHIFT, on=d.model)
    typed_line(d, "2', 4'")
    typed_line(d, "18', 4'")
    return d.job.all(Composite)[-1]


def button(d, name):
    return next(b for b in d.window.findChildren(QPushButton) if b.accessibleName() == name and not b.isHidden())


def cleared(d, name):
    field = d.named(name, QLineEdit)
    field.setFocus()
    field.selectAll()
    QTest.keyClick(field, KEY.Key_Delete)
    QTest.keyClick(field, KEY.Key_Return)
    QTest.qWait(30)


def closed(d):
    """An Enter in the empty prompt."""
    d.model.setFocus()
    d.key(KEY.Key_Return, on=d.model)


def labels(d):
    return " ".join(w.text() for w in d.window.findChildren(QLabel) if not w.isHidden())


def test_a_stair_is_drawn_from_floor_to_floor_shown_before_and_changed_by_its_values(site):
    d = site
    d.key(KEY.Key_I, SHIFT, on=d.model)
    assert "foot" in d.window.session.tool.prompt and d.named("Width").text() == "3'-0"
    typed_line(d, "2', 4'")
    d.move(18 * FOOT, 4 * FOOT, 0)
    shown = d.window.session.tool.preview()
    assert len(shown.members) > 15 and "risers" in shown.words
    d.model.setFocus()
    typed_line(d, "18', 4'")
    record = d.job.all(Composite)[0]
    treads = d.members(Role.TREAD)
    assert max(m.start[2] for m in treads) < 12 * FOOT < max(m.start[2] for m in treads) + 8 * INCH  # to the next floor
    assert d.job.all(Attachment) and not [f for f in d.window.session.shop.all_findings if f.severity == "wrong"]
    d.key(KEY.Key_Escape, on=d.model)
    d.window.session.select({treads[4].id})
    button(d, "Part of the stair").click()
    assert treads[3].id in d.window.session.selection and "risers" in labels(d)
    d.enter("Width", "4'")
    assert d.job.get(record.id, Composite).params["width"] == 4 * FOOT
    assert d.members(Role.TREAD)[0].work_length == pytest.approx(4 * FOOT)
    d.enter("Risers", "30")
    assert "asks for at least" in labels(d) and len(d.members(Role.TREAD)) == 29
    cleared(d, "Risers")  # left to the rule again
    assert d.job.get(record.id, Composite).params.get("risers") is None and len(d.members(Role.TREAD)) < 25
    d.window.session.undo()
    assert len(d.members(Role.TREAD)) == 29


def test_what_cannot_be_made_is_said_and_nothing_changes(site):
    d = site
    record = stair(d)
    d.key(KEY.Key_Escape, on=d.model)
    d.window.session.select({record.id})
    before = dict(d.job.records)
    d.enter("Stringers", "W12X26")
    assert "channels, flats or tubes" in d.said and dict(d.job.records) == before
    d.enter("Width", "1")
    assert dict(d.job.records) == before


def test_hand_edits_can_be_given_back_and_parts_made_plain(site):
    d = site
    record = stair(d)
    d.key(KEY.Key_Escape, on=d.model)
    first = d.members(Role.TREAD)[0]
    d.window.session.select({first.id})
    d.enter("Lot", "7")
    composing.select_whole(d.window.session, d.job.get(record.id, Composite))
    assert d.job.get(record.id, Composite).hand and "by hand" in labels(d)
    button(d, "Give them back").click()
    assert d.job.get(first.id, Member).lot == "1" and not d.job.get(record.id, Composite).hand
    count = len(d.members())
    button(d, "Make it plain pieces").click()
    assert not d.job.all(Composite) and len(d.members()) == count and {m.maker for m in d.members()} == {""}


def test_a_rail_takes_points_until_enter_and_goes_with_delete(site):
    d = site
    d.key(KEY.Key_N, SHIFT, on=d.model)
    for text in ("2', 2'", "12', 2'", "12', 10'"):
        typed_line(d, text)
    closed(d)
    record = d.job.all(Composite)[0]
    assert record.kind == "rail" and len(record.anchors) == 3 and d.members(Role.RAIL)
    d.key(KEY.Key_Escape, on=d.model)
    composing.select_whole(d.window.session, record)
    d.model.setFocus()
    d.key(KEY.Key_Delete, on=d.model)
    assert not d.members() and not d.job.all(Composite)
    d.window.session.undo()
    assert d.members() and d.job.all(Composite)


def test_a_plate_is_drawn_by_corners_and_an_arc_then_bored_bent_and_typed(site):
    d = site
    d.key(KEY.Key_O, SHIFT, on=d.model)
    for text in ("0, 0", "2', 0"):
        typed_line(d, text)
    d.choose("Next edge", "arc")
    d.model.setFocus()
    for text in ("1', 1'", "-1', 1'", "-2', 0"):
        typed_line(d, text)
    assert d.window.session.tool.options.edge == "straight"
    closed(d)
    (plate,) = d.members(Role.PLATE)
    assert plate.section.startswith("PL3/8X") and len(plate.blank.outline) == 4
    assert plate.work_length == pytest.approx(3 * FOOT) and sum(bool(c.bulge) for c in plate.blank.outline) == 1
    d.key(KEY.Key_Escape, on=d.model)
    session = d.window.session
    session.select({plate.id})
    BY_ID["plate holes"].do(d.window)
    session.set_option("columns", 3)
    typed_line(d, "3, 3")
    d.key(KEY.Key_Escape, on=d.model)
    assert [h.count for h in d.job.get(plate.id, Member).blank.holes] == [3]
    BY_ID["bend plate"].do(d.window)
    typed_line(d, "1', 0")
    typed_line(d, "0, 2'")
    d.key(KEY.Key_Escape, on=d.model)
    assert len(d.job.get(plate.id, Member).blank.folds) == 1
    assert not [f.text for f in session.shop.all_findings]
    session.select({plate.id})
    d.enter("Thickness", "1/2")
    assert section(d.job.get(plate.id, Member).section).tw == pytest.approx(12.7)
    d.enter("Bend 1", "45")
    assert d.job.get(plate.id, Member).blank.folds[0].angle == 45.0
    cleared(d, "Bend 1")
    cleared(d, "Holes 1")
    d.enter("Corner 1", "0, -1', r 2")
    blank = d.job.get(plate.id, Member).blank
    assert not blank.folds and not blank.holes and blank.outline[0].round == pytest.approx(2 * INCH)
    d.enter("Corner 1", "nonsense")
    assert "A corner is two lengths" in d.said
    BY_ID["plate opening"].do(d.window)
    typed_line(d, "6, 6")
    typed_line(d, "1', 1'")
    assert len(d.job.get(plate.id, Member).blank.openings) == 1
    d.key(KEY.Key_Escape, on=d.model)
    session.select({plate.id})
    BY_ID["plate point"].do(d.window)
    typed_line(d, "0, 2'")
    typed_line(d, "-3, 0")
    assert d.job.get(plate.id, Member).work_length == pytest.approx(3 * FOOT + 3 * INCH)
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_S, on=d.model)
    typed_line(d, "4, -1'")
    typed_line(d, "0, 5'")
    closed(d)
    lengths = [m.work_length for m in d.members(Role.PLATE)]
    assert sum(lengths) == pytest.approx(3 * FOOT + 3 * INCH) and len(lengths) == 2


def test_a_plates_outline_comes_from_a_drawing(site, tmp_path):
    d = site
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = 1
    document.modelspace().add_lwpolyline([(3, 3), (15, 3), (15, 9), (3, 9)], close=True)
    document.saveas(tmp_path / "a.dxf")
    d.window.session.attempt(lambda: composing.plate_from(d.window.session, tmp_path / "a.dxf"))
    typed_line(d, "1', 1'")
    (plate,) = d.members(Role.PLATE)
    assert (plate.work_length, section(plate.section).d) == pytest.approx((12 * INCH, 6 * INCH))
    assert not d.window.session.attempt(lambda: composing.plate_from(d.window.session, tmp_path / "none.dxf"))
    assert "none.dxf" in d.said


def test_tools_for_plates_ask_for_one(site):
    d = site
    for id in ("plate holes", "plate opening", "bend plate", "plate point"):
        assert not BY_ID[id].when(d.window.session)
        BY_ID[id].do(d.window)
        assert "pick one" in d.said


def test_a_member_climbs_about_an_axis_that_is_picked(site):
    d = site
    d.key(KEY.Key_Q, SHIFT, on=d.model)
    d.window.session.set_option("turn", 120.0)
    typed_line(d, "20', 20'")
    typed_line(d, "5', 0")
    (member,) = d.members(Role.STRINGER)
    assert member.climb.turn == 120.0 and member.climb.radius(member.end) == pytest.approx(5 * FOOT)
    d.key(KEY.Key_Escape, on=d.model)
    d.window.session.select({member.id})
    d.enter("Turns by", "-90")
    assert d.job.get(member.id, Member).climb.turn == -90.0
    d.choose("Left end cut", "square")
    assert d.job.get(member.id, Member).left_cut == "square"
    assert not d.window.session.shop.all_findings


def test_choices_of_a_stair_show_pictures_and_there_is_one_of_every_choice(site):
    d = site
    d.key(KEY.Key_I, SHIFT, on=d.model)
    field = d.named("Head", ChoiceField)
    field.showPopup()
    images = [field.itemIcon(n).pixmap(field.iconSize()).toImage() for n in range(field.count())]
    field.hidePopup()
    assert len(images) == 5 and len({bytes(image.constBits()) for image in images}) == 5
    for (kind, name), choices in drawn().items():
        about = fields(COMPOUNDS[kind].params)[name]
        assert set(choices) == set(about.choices), f"run tools/choice_pictures.py: {kind}, {about.words}"
        assert all(len(of.lines) > 3 for of in choices.values())
        assert len({repr(of) for of in choices.values()}) == len(choices), f"{kind}, {about.words}: alike"


@pytest.mark.long
def test_the_pictures_of_choices_are_what_is_built_today():
    tool = runpy.run_path(str(Path(__file__).parents[2] / "tools" / "choice_pictures.py"))
    for shot in tool["SHOTS"]:
        made = msgspec.convert(tool["pictured"](shot), dict[str, Drawn])
        for kind in shot.kinds:
            assert drawn()[kind, shot.field] == made


def test_a_rail_gets_gates_and_sockets_by_typing(site):
    d = site
    d.key(KEY.Key_N, SHIFT, on=d.model)
    for text in ("2', 2'", "14', 2'"):
        typed_line(d, text)
    closed(d)
    record = d.job.all(Composite)[0]
    d.key(KEY.Key_Escape, on=d.model)
    composing.select_whole(d.window.session, record)
    before = len(d.members())
    d.enter("Gates in bays", "1")
    assert len(d.members()) > before and d.job.get(record.id, Composite).params["gates"] == "1"
    assert not [f for f in d.window.session.shop.all_findings if f.severity == "wrong"]
    d.enter("Gates in bays", "19")
    assert "19" in d.said and d.job.get(record.id, Composite).params["gates"] == "1"
    for words in ("Posts", "Top rail", "Middle rails"):
        d.enter(words, "PIPE1-1/4STD")
    d.choose("Posts stand", "into a socket")
    assert "do not go into sockets" in d.said
    whole = d.job.get(record.id, Composite)
    d.window.session.change("Sockets", [msgspec.structs.replace(whole, params={**whole.params, "socket": "PIPE2STD"})])
    d.choose("Posts stand", "into a socket")
    assert sum(m.section == "PIPE2STD" for m in d.members()) > 2
    d.window.session.undo()
    assert not [m for m in d.members() if m.section == "PIPE2STD"]


@pytest.mark.parametrize(
    ("command", "points", "values", "sections"),
    [
        ("bent plate", ("0, 0", "2', 0", "0, 1'"), (("Length", "2'"), ("Plate", "3/8")), {"PL3/8"}),
        ("floor plate", ("0, 0", "8', 5'"), (("Stiffeners", "PL3/8X4"),), {"PL1/4", "PL3/8X4"}),
        ("lintel", ("0, 0", "6', 0"), (("Angles", "L4X4X3/8"),), {"L4X4X3/8"}),
        ("grating", ("0, 0", "6', 4'"), (), {"PL1-1/4"}),
    ],
)
def test_plate_work_is_picked_and_takes_what_is_typed_before(site, command, points, values, sections):
    d = site
    BY_ID[command].do(d.window)
    for words, text in values:
        d.enter(words, text)
    d.model.setFocus()
    for text in points:
        typed_line(d, text)
    if COMPOUNDS[command].open:
        closed(d)
    made = {m.section for m in d.members()}
    assert made and all(any(s.startswith(one) for one in sections) for s in made)
    assert len({next(one for one in sections if s.startswith(one)) for s in made}) == len(sections)
    assert not [f for f in d.window.session.shop.all_findings if f.severity == "wrong"]
    d.window.session.undo()
    assert not d.members()


def test_two_plates_that_meet_are_joined_to_a_bent_one_by_a_key(site):
    d, session = site, site.window.session
    level = np.column_stack([[1.0, 0, 0], [0, 0, -1.0], [0, 1.0, 0]])
    blank = Blank(rectangle((0.0, 0.0), (600.0, 250.0)))
    flat, upright = (plate_in(Placement(np.zeros(3), axes), blank, 9.525, session.units) for axes in (level, np.eye(3)))
    session.change("Plates", [flat, upright])
    session.select([flat.id, upright.id])
    d.model.setFocus()
    d.key(KEY.Key_J, on=d.model)
    (plate,) = d.members()
    assert [round(abs(f.angle)) for f in plate.blank.folds] == [90] and "bent by 90" in d.said
    assert session.selection == {plate.id}
    d.enter("Bend 1", "90, 1")
    assert d.job.get(plate.id, Member).blank.folds[0].radius == pytest.approx(INCH)
    session.undo()
    session.undo()
    assert len(d.members()) == 2
    session.select([flat.id, upright.id])
    session.change("Apart", [msgspec.structs.replace(upright, start=(0.0, 900.0, 125.0), end=(600.0, 900.0, 125.0))])
    d.model.setFocus()
    d.key(KEY.Key_J, on=d.model)
    assert "No straight edge" in d.said and len(d.members()) == 2
