"""Framing with mouse and keys: the end bays of the boathouse from an empty job, and what goes with framing."""

import math

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QTableView, QTableWidget, QWidget

from uncus.app.commands import BY_ID
from uncus.app.frame_commands import keep_view
from uncus.app.stages.lens import LensDialog
from uncus.catalog.sections import section
from uncus.frame.axes import member_frame
from uncus.frame.roll import toes_of
from uncus.frame.snaps import SnapKind
from uncus.job.records import Grid, Guide, Lens, Level, Member, Role, View, ViewFrame, ViewKind, WorkPlane
from uncus.sample.boathouse import boathouse
from uncus.units import FOOT, INCH

KEY = Qt.Key

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
X = [0.0, 22 * FOOT, 42 * FOOT, 64 * FOOT]
Y = [0.0, 20 * FOOT, 40 * FOOT]
FLOOR, EAVES, RIDGE = 12 * FOOT, 21 * FOOT, 26 * FOOT


def key_of(m: Member) -> tuple:
    ends = tuple(round(c / 0.1) for p in (m.start, m.end) for c in p)
    return (str(m.role), m.section, ends, round(m.roll * 100) % 36000, str(m.line), round(m.rise), m.lot)


def typed_line(d, text):
    d.model.setFocus()
    d.type(text[0], d.model)  # what is typed on the canvas goes to the prompt
    d.type(text[1:])
    d.key(KEY.Key_Return)
    d.model.setFocus()


def set_up_grid(d):
    def fill(dialog):
        for name, text in (
            ("Spacings of numbered lines", "22', 20', 22'"),
            ("Spacings of lettered lines", "2@20'"),
            ("Levels", "Slab 0, Club room 12'-0, Eaves 21'-0"),
        ):
            field = d.named(name, QLineEdit, dialog)
            field.setFocus()
            field.selectAll()
            d.type(text, field)
        QTest.keyClick(dialog, KEY.Key_Return)

    d.modal(fill)
    d.key(KEY.Key_G)
    d.activate()
    assert len(d.job.get("grid", Grid).numbers) == 4 and len(d.job.all(Level)) == 3


def set_facts(d, section, lot="", role="", line=""):
    if role:
        d.choose("Role", role)
    d.enter("Section", section)
    if lot:
        d.enter("Lot", lot)
    if line:
        d.choose("Work line at", line)
    d.model.setFocus()


@pytest.mark.long
def test_the_end_bays_of_the_boathouse_from_an_empty_job(empty):
    """By mouse and typed values alone; the records are the sample's."""
    d = empty
    set_up_grid(d)
    frames = (0, 1, 2, 3)
    bays = ((0, 1), (2, 3))
    d.key(KEY.Key_F5)
    # columns: a typed height, then a click on each crossing
    d.key(KEY.Key_C)
    for rows, name, height in (((0, 2), "W10X39", "21'"), ((1,), "W10X49", "26'")):
        set_facts(d, name)
        typed_line(d, height)
        for x in frames:
            for y in rows:
                d.click(X[x], Y[y], 0)
    # posts at places typed from the grid
    set_facts(d, "hss5x5x1/4", role="post")
    typed_line(d, "12' - 16.5")
    typed_line(d, "12'-0 - 16.5")
    for place in ("1/A + 0, 10'", "1/B + 0, 10'", "4/A + 0, 10'", "4/B + 0, 10'"):
        typed_line(d, place)
    assert [m.role for m in d.members()] == [Role.COLUMN] * 12 + [Role.POST] * 4
    d.key(KEY.Key_Escape, on=d.model)
    # the floor
    d.key(KEY.Key_PageUp, on=d.model)
    assert "Club room" in d.window.prompt.plane.text()
    d.key(KEY.Key_B)
    set_facts(d, "W16X31", lot="2")
    for x in frames:
        for a, b in ((0, 1), (1, 2)):
            d.click(X[x], Y[a], FLOOR), d.click(X[x], Y[b], FLOOR)
    set_facts(d, "W12X26")
    for a, b in bays:
        for y in Y:
            d.click(X[a], y, FLOOR), d.click(X[b], y, FLOOR)
    set_facts(d, "W12X19")
    for a, b in bays:
        for y in (10 * FOOT, 30 * FOOT):
            d.click(X[a], y, FLOOR), d.click(X[b], y, FLOOR)
    d.key(KEY.Key_Escape, on=d.model)
    # eaves and ridge, on the plane moved down and up from the eaves' level
    d.key(KEY.Key_PageUp, on=d.model)
    for depth, rows, z in (("-6", (0, 2), EAVES - 6 * INCH), ("4'-6", (1,), RIDGE - 6 * INCH)):
        d.key(KEY.Key_D)
        typed_line(d, depth)
        d.key(KEY.Key_B)
        set_facts(d, "W10X22", lot="3", role="eaves", line="top")
        for a, b in bays:
            for y in rows:
                d.click(X[a], Y[y], z), d.click(X[b], Y[y], z)
        d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_D)
    typed_line(d, "0")
    # rafters in the free view, from column top to column top
    d.key(KEY.Key_F8)
    d.key(KEY.Key_B)
    set_facts(d, "W14X22", lot="3", role="rafter", line="top")
    for x in frames:
        for y in (0, 2):
            d.click(X[x], Y[y], EAVES), d.click(X[x], Y[1], RIDGE)
    assert len(d.members(Role.RAFTER)) == 8, d.said
    d.key(KEY.Key_Escape, on=d.model)
    # purlins by numbers: two lines at the thirds of each slope, square to it
    d.key(KEY.Key_P, SHIFT)
    third = f'{math.hypot(20 * 12, 5 * 12) / 3:.5f}"'
    for name, text in (
        ("First line from the edge", third),
        ("Last line from the other edge", third),
        ("Else at most apart", "7'"),
    ):
        d.enter(name, text)
    d.choose("Work line at", "top")
    d.model.setFocus()
    pointing = d.window.session.pointing
    d.click(X[bays[0][0]], Y[0], EAVES), d.click(X[bays[0][0]], Y[1], RIDGE), d.move(X[bays[0][1]], Y[0], EAVES)
    d.named("First line from the edge", QLineEdit).setFocus()
    d.bot.waitUntil(lambda: pointing.shown is not None, timeout=3000)
    at = pointing.shown.at  # from the edge to the first line, before any of them stands
    assert np.linalg.norm(at.b - at.a) == pytest.approx(math.hypot(20, 5) / 3 * FOOT, abs=0.1)
    d.key(KEY.Key_F4)
    d.drag(d.at(*at.b), d.at(*(at.b + (at.b - at.a) / at.value * 304.8)))
    assert d.window.session.tool.options.first == pytest.approx(at.value + 304.8, abs=5.0) and not d.members(
        Role.PURLIN
    )
    d.enter("First line from the edge", third)
    d.key(KEY.Key_F8), d.model.frame()
    d.key(KEY.Key_Escape, on=d.model), d.key(KEY.Key_Escape, on=d.model)
    d.bot.waitUntil(lambda: pointing.shown is None, timeout=3000)
    for a, b in bays:
        for y in (0, 2):
            d.click(X[a], Y[y], EAVES), d.click(X[a], Y[1], RIDGE), d.click(X[b], Y[y], EAVES)
    assert "kept as plain members" in d.said
    purlins = d.members(Role.PURLIN)
    assert len(purlins) == 8
    d.key(KEY.Key_Escape, on=d.model)
    d.window.session.select([m.id for m in purlins])
    d.enter("Lot", "3")
    # a beam rolled to an arc: drawn straight, its middle then typed out of its line
    d.key(KEY.Key_F5)
    d.key(KEY.Key_D)
    typed_line(d, "-4'")
    d.key(KEY.Key_B)
    set_facts(d, "W12X26", lot="2", role="beam", line="centre")
    z = FLOOR + 5 * FOOT
    d.click(X[0], Y[0], z), d.click(X[0], Y[1], z)
    d.key(KEY.Key_Escape, on=d.model)
    arch = d.members(Role.BEAM)[-1]
    d.window.session.select([arch.id])
    d.enter("Stands out up", "1'")
    assert d.job.get(arch.id, Member).bow == pytest.approx((0, 0, FOOT))
    # compared with the sample: every member of its end bays, and nothing else but the lattice girder's tubes
    inside = [{round(X[a]), round(X[b])} for a, b in bays] + [{round(x)} for x in X]
    sample = [
        m
        for m in boathouse()
        if isinstance(m, Member)
        and {round(m.start[0]), round(m.end[0])} in inside
        and not (m.lot == "2" and m.section.startswith("HSS"))
    ]
    assert sorted(map(key_of, d.members())) == sorted(map(key_of, sample))
    # each step can be taken back
    for _ in range(400):
        if d.job.undo() is None:
            break
    assert d.members() == [] and d.job.all(Level)[0].name == "Ground"


def test_a_beam_lands_on_two_sloping_rafters_and_a_wrong_pick_says_so(full):
    d, session = full, full.window.session
    purlins = [m for m in d.members(Role.PURLIN) if m.start[1] < Y[1] and m.start[0] == 0]
    session.change(
        "room", drop=[m.id for m in purlins] + [c.id for m in purlins for c in session.shop.connections_at(m.id)]
    )
    from uncus.app.framing import planes

    session.set_plane(next(p for p in planes(session) if p.name == "Eaves"))
    d.key(KEY.Key_F5)
    guide = Guide(a=(0, Y[1] / 3, EAVES), b=(1000, Y[1] / 3, EAVES))
    session.change("guide", [guide])
    d.key(KEY.Key_B)
    d.key(KEY.Key_L, ALT)
    assert "crossing lifted only" in d.window.prompt.snap.text()
    d.click(X[0], Y[1] / 3, EAVES)
    assert session.only is None, "forced for one pick"
    d.click(X[1], Y[1] / 3, EAVES)
    new = d.members(Role.BEAM)[-1]
    third = EAVES + (RIDGE - EAVES) / 3
    assert new.start == pytest.approx((X[0], Y[1] / 3, third)) and new.end == pytest.approx((X[1], Y[1] / 3, third))
    session.undo()
    # the same picks left on the plane: made as asked, and said
    for x in X[:2]:
        d.key(KEY.Key_A, ALT)
        d.click(x, Y[1] / 3, EAVES)
    assert d.members(Role.BEAM)[-1].start[2] == pytest.approx(EAVES)
    assert "1'-8 under the rafter W14X22" in d.said and "Alt+L" in d.said
    session.undo()
    # a floor beam far below the roof is no mistake
    d.key(KEY.Key_PageDown, on=d.model)
    d.click(X[1], Y[0], FLOOR), d.click(X[2], 10 * FOOT, FLOOR)
    assert d.said.startswith("Beam made")
    session.undo()
    d.key(KEY.Key_PageUp, on=d.model)
    # held to the plane, the plain sign is there and even a lifted pick is dropped
    d.key(KEY.Key_H, ALT)
    assert d.window.prompt.held.isVisible()
    d.move(X[0], Y[1] / 3, EAVES)
    assert d.model.snap.point[2] == pytest.approx(EAVES) and "dropped onto the plane" in d.model.snap.words
    d.key(KEY.Key_H, ALT)
    assert not d.window.prompt.held.isVisible()


def test_bad_input_says_one_sentence_and_changes_nothing(full):
    d, session = full, full.window.session
    before = dict(d.job.records)
    d.key(KEY.Key_PageUp, on=d.model)
    d.key(KEY.Key_F5)
    d.key(KEY.Key_B)
    d.click(X[0], Y[0], FLOOR), d.click(X[0], Y[0], FLOOR)
    assert "no length" in d.said
    d.click(X[0], Y[1], FLOOR)
    assert "nothing was made" in d.said
    d.key(KEY.Key_Escape, on=d.model)  # the first pick is still there: one step back
    assert session.tool.words == "Beam" and not session.tool.picks
    d.click(X[1], Y[0], FLOOR), d.click(X[0], Y[0], FLOOR)
    assert "nothing was made" in d.said, "reversed is double too"
    d.enter("Section", "W99X99")
    assert "no section “W99X99”" in d.said
    session.use(None)
    session.select([m.id for m in d.members(Role.POST)])
    d.key(KEY.Key_A, on=d.model)
    d.enter("Copies", "10000000")
    d.model.setFocus()
    d.click(X[0], Y[0], FLOOR), d.click(X[1], Y[0], FLOOR)
    assert "more than the 20,000" in d.said
    session.use(None)
    d.window.do(BY_ID["frame"])

    d.window.do(BY_ID["three points"])
    for x in X[:3]:
        d.click(x, Y[0], FLOOR)
    assert "in line" in d.said
    assert dict(d.job.records) == before and d.job.can_undo is None


def test_grid_lines_move_skew_and_take_members_along(full):
    d = full

    def change(dialog):
        lines = d.named("Grid lines", QTableWidget, dialog)
        lines.item(1, 2).setText("23'-6")
        lines.item(1, 1).setText("2x")
        assert "stand on lines or levels that move" in dialog.count.text() and dialog.asked.isVisible()
        lines.item(3, 3).setText("80")
        assert "skewed by up to" in dialog.error.text()
        QTest.keyClick(dialog, KEY.Key_Return)
        assert dialog.isVisible(), "what is wrong keeps it open"
        lines.item(3, 3).setText("10")
        levels = d.named("Levels, one by one", QTableWidget, dialog)
        levels.item(2, 0).setText("Wall head")
        QTest.keyClick(dialog, KEY.Key_Return)

    standing = [m for m in d.members() if abs(m.start[0] - X[1]) < 1]
    d.modal(change)
    d.key(KEY.Key_G)
    grid = d.job.get("grid", Grid)
    assert [(g.label, round(g.at / FOOT, 1), g.turn) for g in grid.numbers][1::2] == [("2x", 23.5, 0), ("4", 64, 10)]
    assert all(d.job.get(m.id, Member).start[0] == pytest.approx(23.5 * FOOT) for m in standing)
    tip = next(
        m
        for m in d.members(Role.COLUMN)
        if m.start[0] < X[3] - 1000 and m.start[1] == pytest.approx(Y[2]) and m.start[0] > X[2] + 900
    )
    assert tip.start[0] == pytest.approx(X[3] - Y[2] * math.tan(math.radians(10)), abs=0.01)
    assert [x.name for x in d.job.all(Level)] == ["Slab", "Club room", "Wall head"] and d.job.get("level eaves", Level)
    d.window.session.undo()
    assert d.job.get("grid", Grid).numbers[1].label == "2" and d.job.get(standing[0].id, Member) == standing[0]


def test_guides_are_drawn_and_erased(full):
    d, session = full, full.window.session
    d.key(KEY.Key_F5)
    d.key(KEY.Key_U)
    d.choose("Guide", "par")
    d.model.setFocus()
    d.click(5 * FOOT, 0, 0)
    d.move(5 * FOOT, 3000, 0)
    typed_line(d, "6'-8")
    (guide,) = d.job.all(Guide)
    assert guide.a[1] == pytest.approx(80 * INCH)
    d.key(KEY.Key_Escape, on=d.model)
    d.key(KEY.Key_Escape, on=d.model)
    d.click(-1000, 80 * INCH, 0)
    assert session.selection == {guide.id}
    d.key(KEY.Key_Delete, on=d.model)
    assert d.job.all(Guide) == []
    session.undo()
    d.key(KEY.Key_U, SHIFT, on=d.model)
    assert d.job.all(Guide) == [] and "cleared" in d.said


def test_changes_of_the_selection_by_keys(full):
    d, session = full, full.window.session
    d.key(KEY.Key_F5)
    post = d.members(Role.POST)[0]
    session.select([post.id])
    d.key(KEY.Key_K, on=d.model)
    d.click(*post.start)
    typed_line(d, "0, 3'")
    copy = d.members(Role.POST)[-1]
    assert copy.start == pytest.approx((post.start[0], post.start[1] + 3 * FOOT, 0))
    joints = {c.kind: c.support for c in session.shop.connections_at(copy.id)}
    over = d.job.get(joints["cap plate"], Member)
    assert joints.keys() == {"base plate", "cap plate"}, "its base plate went along, and what it carries holds it too"
    assert over.start[0] == post.start[0] or over.start[1] == post.start[1]
    d.choose("Connections", "without")
    assert session.preferences.tools["Copy"] == {"connections": "without"}, "one's own default"
    d.model.setFocus()
    typed_line(d, "0, 6'")
    assert session.shop.connections_at(d.members(Role.POST)[-1].id) == []
    session.use(None)
    beam = next(m for m in d.members(Role.BEAM) if m.section == "W12X19")
    session.select([beam.id])
    d.key(KEY.Key_X, on=d.model)
    assert d.job.get(beam.id, Member).start == beam.end and "left end" in d.said
    known = {m.id for m in d.members()}
    d.key(KEY.Key_S, on=d.model)
    middle = (beam.start[0] + beam.end[0]) / 2
    for y in (-900, 900):
        d.key(KEY.Key_P, ALT)
        d.click(middle, beam.start[1] + y, 0)
    d.key(KEY.Key_Return, on=d.model)
    assert "1 cut into 2" in d.said
    halves = [m for m in d.members(Role.BEAM) if m.id == beam.id or m.id not in known]
    session.use(None)
    session.select([m.id for m in halves])
    d.key(KEY.Key_J, on=d.model)
    whole = session.members[0]
    assert len(session.members) == 1 and {whole.start, whole.end} == {beam.start, beam.end}, d.said
    purlin = d.members(Role.PURLIN)[0]
    session.change("flat", [__import__("msgspec").structs.replace(purlin, roll=0.0)])
    session.select([purlin.id])
    d.choose("Roll by", "square")
    assert d.job.get(purlin.id, Member).roll == pytest.approx(purlin.roll % 360) and "14.04°" in d.said
    rafters = [m for m in d.members(Role.RAFTER) if abs(m.start[0] - purlin.start[0]) < 9000]
    z, replace = purlin.start[2], __import__("msgspec").structs.replace
    level = [replace(m, start=(*m.start[:2], z), end=(*m.end[:2], z)) for m in rafters]
    session.change("Flat roof", level)
    assert d.job.get(purlin.id, Member).roll == 0.0 and "roll of 1 member worked out again" in d.said
    assert "worked out again" in d.job.can_undo, "in the words of the step"
    d.key(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier, on=d.model)
    assert d.job.get(purlin.id, Member).roll == pytest.approx(purlin.roll % 360), "one step takes both back"
    session.select([whole.id])
    d.enter("Left end at", f", , {whole.start[2] / 304.8 + 1:.3f}'")
    assert d.job.get(whole.id, Member).start == pytest.approx((*whole.start[:2], whole.start[2] + 304.8), abs=0.5)
    d.enter("To the far side", "3")
    assert d.job.get(whole.id, Member).aside == pytest.approx(76.2)


def test_toes_and_legs_are_turned_in_the_facts(full):
    d, session = full, full.window.session
    eaves = [m for m in d.members(Role.EAVES) if m.start[1] == Y[0]]
    session.select([m.id for m in eaves])
    d.enter("Section", "C10X15.3")
    d.choose("Toes", "in")
    assert all(toes_of(m)[1] > 0.99 for m in session.members), "north, to the middle"
    d.choose("Toes", "out")
    assert all(toes_of(m)[1] < -0.99 for m in session.members), (d.said, [m.roll for m in session.members])
    assert "toes out" in d.said
    d.enter("Section", "L6X4X1/2")
    for leg, up in (("up", 1), ("down", -1)):
        d.choose("Flat leg", leg)
        for m in session.members:
            flat = -member_frame(m, section(m.section)).z[2]
            assert flat * up > 0.99 and toes_of(m)[1] < -0.99, "the leg turns, the toes stay"


def test_seeing_less_and_views_that_are_kept(full):
    d, session = full, full.window.session
    columns = {m.id for m in d.members(Role.COLUMN)}
    session.select(columns)
    d.key(KEY.Key_H, SHIFT, on=d.model)
    assert (
        set(session.shop.assemblies) - session.seeing.hidden == columns and "72 hidden" in d.window.strip.partly.text()
    )
    session.select(())
    d.click(11 * FOOT, Y[0], FLOOR)
    assert not session.selection, "what is hidden is not picked"
    d.key(KEY.Key_F6, on=d.model)
    keep_view(d.window, "south columns")
    d.key(KEY.Key_A, SHIFT, on=d.model)
    assert not session.seeing.hidden
    d.key(KEY.Key_F5, on=d.model)
    view = d.job.all(View)[0]
    assert view.kind is ViewKind.ELEVATION and len(view.hidden) == 72
    session.looked_at.emit(view)
    assert session.seeing.kind is ViewKind.ELEVATION and d.model.camera.pitch == pytest.approx(0)
    assert len(session.seeing.hidden) == 72
    d.key(KEY.Key_A, SHIFT, on=d.model)
    # clipping by depth: only what is near the southern wall is left to pick
    field = d.named("Depth behind", QLineEdit)
    d.model.camera.target = np.array([X[1], Y[0], 3000.0])
    d.enter("Depth behind", "5'")
    d.enter("Depth before", "5'")
    assert field.text() == "5'-0" and session.seeing.behind == pytest.approx(5 * FOOT)
    d.model.setFocus()
    d.drag(QPoint(2, 2), QPoint(d.model.width() - 3, d.model.height() - 3))
    hit = d.model.pointer.piece(*_pixel(d, X[1] + 2000, Y[1], FLOOR - 100))
    assert hit is None or session.shop.assemblies[hit[0]].member.start[1] == Y[0]
    # turning an elevation makes it free, and the strip says so
    d.key(KEY.Key_F6, on=d.model)
    assert d.window.strip.kinds[ViewKind.ELEVATION].isChecked()
    d.drag(QPoint(300, 300), QPoint(350, 330), Qt.MouseButton.MiddleButton)
    assert d.window.strip.kinds[ViewKind.FREE].isChecked()
    # ghosts, sticks and outlines are drawn
    d.key(KEY.Key_F8, on=d.model)
    session.select(columns)
    d.key(KEY.Key_H, CTRL, on=d.model)
    assert session.seeing.ghosted.isdisjoint(columns)
    session.select([m.id for m in d.members(Role.BEAM)][:4])

    for style in ("outline", "stick", "solid"):
        d.window.do(BY_ID[f"style {style}"])
        QTest.qWait(60)
    assert session.seeing.styles == {}


def _pixel(d, *point):
    p = d.at(*point)
    return p.x(), p.y()


def test_a_view_frame_is_placed_stretched_and_looked_through(full):
    d, session = full, full.window.session
    d.key(KEY.Key_F5)
    d.key(KEY.Key_Z)
    d.click(X[0], Y[0], 0), d.click(X[1], Y[1], 0)
    (frame,) = d.job.all(ViewFrame)
    assert frame.width == pytest.approx(22 * FOOT) and "drag its grips" in d.said
    d.key(KEY.Key_Escape, on=d.model)
    session.seeing.hide(session.shop.assemblies)
    session.view_changed.emit()
    d.click(X[1], 5 * FOOT, 0)
    assert session.selection == {frame.id}
    d.drag(d.at(X[1], 10 * FOOT, 0), d.at(X[1] + 3000, 10 * FOOT, 0))
    wider = d.job.get(frame.id, ViewFrame)
    assert wider.width == pytest.approx(22 * FOOT + 3000, abs=60) and wider.height == frame.height
    d.enter("View frame name", "south-west")
    assert d.job.get(frame.id, ViewFrame).name == "south-west"
    d.window.do(BY_ID["through frame"])
    assert session.seeing.behind == frame.behind and np.allclose(d.model.camera.target, wider.origin)


def test_work_planes_are_chosen_named_and_kept(full):
    d, session = full, full.window.session
    from uncus.app import framing

    names = [p.name for p in framing.planes(session)]
    assert names == ["Slab", "Club room", "Eaves", *(f"grid {x}" for x in "1234ABC")]
    session.set_plane(framing.planes(session)[4])
    assert session.plane.name == "grid 2" and d.window.prompt.plane.text() == "plane: grid 2"
    d.key(KEY.Key_D)
    typed_line(d, "1'-6")
    assert "grid 2, 1'-6 out" in d.window.prompt.plane.text()
    framing.keep_plane(session, "beside 2")
    assert d.job.all(WorkPlane)[0].depth == pytest.approx(18 * INCH) and session.plane.name == "beside 2"
    assert "beside 2" in [p.name for p in framing.planes(session)]
    session.undo()
    assert d.job.all(WorkPlane) == [] and session.plane.name == "Slab", "a plane that is gone is not worked on"

    d.window.do(BY_ID["face plane"])
    column = d.members(Role.COLUMN)[0]
    d.click(column.start[0], column.start[1], 2500)
    assert session.plane.name.startswith("face of column") and abs(session.plane.base.z[2]) < 1e-6
    d.window.do(BY_ID["web plane"])
    d.click(column.start[0], column.start[1], 2500)
    assert session.plane.name == "web of column W10X39"
    d.window.do(BY_ID["flange plane"])
    d.click(column.start[0], column.start[1], 2500)
    assert session.plane.name == "flange of column W10X39"
    middle = d.model.rect().center()
    d.drag(middle, middle + QPoint(90, -60), Qt.MouseButton.MiddleButton)  # turned askew
    d.window.do(BY_ID["view plane"])
    across, up = d.model.camera.axes[0], d.model.camera.axes[1]
    assert np.allclose(np.abs([session.plane.base.z @ across, session.plane.base.z @ up]), 0.0, atol=1e-6)
    assert max(abs(session.plane.base.z)) < 0.999, "neither level nor a wall"


def test_snaps_are_named_and_forced_by_key(full):
    d, session = full, full.window.session
    d.key(KEY.Key_M)
    column = d.members(Role.COLUMN)[0]
    d.key(KEY.Key_M, ALT)
    d.move(column.start[0], column.start[1], column.end[2] / 2)
    assert d.model.snap.kind is SnapKind.MIDDLE and "middle of column" in d.window.prompt.snap.text()
    d.key(KEY.Key_O, ALT)
    plate = next(p for p in session.shop.assemblies[column.id].pieces if p.words == "base plate")
    from uncus.shop.lines import corner_snaps, hole_snaps

    hole = hole_snaps(plate)[0]
    session.select([column.id])
    d.key(KEY.Key_F, on=d.model)
    d.model.camera.zoom(0.1, *_pixel(d, *hole.point))
    d.move(*hole.point)
    assert d.model.snap.kind is SnapKind.HOLE and np.allclose(d.model.snap.point, hole.point)
    d.key(KEY.Key_C, ALT)
    corner = min(corner_snaps(plate), key=lambda s: (s.point[1], s.point[0], -s.point[2]))
    d.model.camera.zoom(3.0, *_pixel(d, *corner.point))
    d.move(*corner.point)
    assert d.model.snap.kind is SnapKind.CORNER and np.allclose(d.model.snap.point, corner.point)
    d.key(KEY.Key_E, ALT)
    QTest.mouseMove(d.model, QPoint(3, 3))
    QTest.qWait(30)
    assert d.model.snap is None and "end only: none" in d.window.prompt.snap.text()
    d.key(KEY.Key_E, ALT)
    assert session.only is None


def test_measures_stay_are_kept_and_cleared(full):
    d, session = full, full.window.session
    d.key(KEY.Key_M)
    d.click(0, 0, 0), d.click(X[1], 0, 0)
    d.choose("Measure", "chain")
    d.model.setFocus()
    for x in X[:3]:
        d.click(x, 0, 0)
    d.key(KEY.Key_Return, on=d.model)
    assert [m.words for m in session.measures] == ["22'-0", "22'-0 + 20'-0 = 42'-0"]
    assert d.named("Measure 2", QAbstractButton).text() == "2  chain: 22'-0 + 20'-0 = 42'-0", "they are listed"
    QTest.mouseClick(d.named("Keep with the job", QAbstractButton), Qt.MouseButton.LeftButton)
    assert len(d.job.all(type(session.measures[0]))) == 2
    d.click(X[0], Y[0], 0), d.click(X[0], Y[1], 0)
    d.key(KEY.Key_Return, on=d.model)
    QTest.mouseClick(d.named("Measure 3", QAbstractButton), Qt.MouseButton.LeftButton)
    assert len(session.measures) == 2
    d.model.setFocus()
    d.key(KEY.Key_M, SHIFT, on=d.model)
    assert session.measures == [] and d.job.can_undo == "Clear measures"
    session.undo()
    assert len(session.measures) == 2


def test_a_lens_by_text_and_rows(full, tmp_path):
    d, session = full, full.window.session
    d.key(KEY.Key_L, CTRL)
    dialog = d.window.keep_open(LensDialog)
    assert dialog.isVisible() and dialog.text.text() == "role is beam" and dialog.count.text() == "26 of 84 pieces"
    field = d.named("Lens as text", QLineEdit, dialog)
    field.setFocus()
    field.selectAll()
    d.type("role is column or (lot is 3 and not section begins W8)", field)
    QTest.qWait(200)
    expected = [m for m in d.members() if m.role is Role.COLUMN or (m.lot == "3" and not m.section.startswith("W8"))]
    assert dialog.count.text() == f"{len(expected)} of 84 pieces"
    group = dialog.group
    assert len(group.parts) == 2 and len(group.parts[1].parts) == 2 and group.parts[1].parts[1].turned.isChecked()
    group.parts[1].parts[1].turned.setChecked(False)
    assert "section begins W8" in field.text() and "not" not in field.text()
    dialog.select()
    assert session.selection == {
        m.id for m in d.members() if m.role is Role.COLUMN or (m.lot == "3" and m.section.startswith("W8"))
    }
    field.setText("colour is red")
    field.textEdited.emit(field.text())
    assert "known are" in dialog.error.text()
    field.setText("role is rafter")
    field.textEdited.emit(field.text())
    dialog.name.setText("slopes")
    dialog.keep()
    assert next(x for x in d.job.all(Lens) if x.name == "slopes").rule.value == "rafter"
    dialog.colour()
    assert set(d.model.colours) == {m.id for m in d.members(Role.RAFTER)} and d.model.key[0][1].endswith("8")
    dialog.show_only()
    assert len(session.seeing.hidden) == 76
    dialog.export_to(tmp_path / "lenses.json")
    dialog.remove()
    assert len(d.job.all(Lens)) == 2
    dialog.import_from(tmp_path / "lenses.json")
    assert len(d.job.all(Lens)) == 3
    (tmp_path / "bad.json").write_text("{")
    dialog.import_from(tmp_path / "bad.json")
    assert "no lenses that can be read" in dialog.error.text()
    dialog.clear()
    assert not session.seeing.hidden and not d.model.colours
    dialog.close()


def test_preferences_are_kept_and_carried(full, tmp_path):
    from uncus.app import preferences as settings
    from uncus.app.stages.preferences import PreferencesDialog

    d, session = full, full.window.session
    session._keep = tmp_path / "sub" / "preferences.json"
    dialog = PreferencesDialog(session, d.window.follow_preferences, d.window)
    dialog.show()
    for name, text in (("Snap distance, pixels", "20"), ("beam above it", "-1 1/2")):
        field = d.named(name, QLineEdit, dialog)
        field.setFocus()
        field.selectAll()
        d.type(text, field)
        QTest.keyClick(field, KEY.Key_Return)
    d.window.do(BY_ID["dark"])
    kept = settings.read(session._keep)
    assert (kept.snap, kept.theme, kept.offset(Role.BEAM)[1]) == (20, "dark", pytest.approx(-1.5 * INCH))
    d.key(KEY.Key_B, on=d.model)
    assert session.tool.template.rise == pytest.approx(-1.5 * INCH), "the usual offset of new beams"
    field = d.named("Snap distance, pixels", QLineEdit, dialog)
    field.setText("900")
    field.editingFinished.emit()
    assert "must lie between" in dialog.error.text() and session.preferences.snap == 20
    (tmp_path / "bad.json").write_text('{"offsets": {"roof": ["top of steel", 0]}}')
    dialog.import_from(tmp_path / "bad.json")
    assert "cannot be used" in dialog.error.text() and session.preferences.snap == 20
    settings.write(tmp_path / "good.json", settings.Preferences(snap=9))
    dialog.import_from(tmp_path / "good.json")
    assert session.preferences.snap == 9 and d.window.theme.paper == "#F5F2EA"
    dialog.close()


def test_nothing_is_cut_off_whatever_the_lettering(full):
    d, session = full, full.window.session
    d.window.do(BY_ID["stage mark"])
    d.window.do(BY_ID["stage frame"])
    table = d.window.findChild(QTableView)
    for text, rows in (("85 %", 1), ("200 %", 2), ("100 %", 1)):  # this screen has room for 147 %
        session.prefer(text=text)
        d.window.follow_preferences()
        d.bot.wait(150)
        seen = [w for w in d.window.findChildren(QAbstractButton) if w.isVisible() and w.text()]
        cut = [
            (w.text(), w.size(), w.sizeHint())
            for w in (*seen, *(f for f in d.window.findChildren(QLineEdit) if f.isVisible()))
            if w.height() + 1 < w.minimumSizeHint().height() or (w in seen and w.width() < w.minimumSizeHint().width())
        ]
        assert not cut, text
        assert table.verticalHeader().defaultSectionSize() > 1.3 * table.fontMetrics().height()
        strip = d.named("View")
        assert len({w.y() for w in strip.findChildren(QAbstractButton) if w.isVisible()}) == rows
        assert d.window.width() == 1280 and d.model.width() > 400


def test_a_pair_of_angles_is_set_in_the_facts(full):
    d, session = full, full.window.session
    d.key(KEY.Key_B)
    d.choose("Role", "brace")
    d.enter("Section", "L6x4x1/2")
    d.choose("Angles", "back")
    d.enter("Gap", "1/2")
    d.enter("Stitches", "2")
    d.model.setFocus()
    d.key(KEY.Key_F5)
    d.click(X[0], Y[0], 0), d.click(X[1], Y[1], 0)
    brace = d.members(Role.BRACE)[-1]
    assert brace.double.gap == pytest.approx(12.7) and brace.double.stitches == 2
    assert [p.words for p in session.shop.assemblies[brace.id].pieces] == [
        "brace",
        "second angle",
        "stitch plate",
        "stitch plate",
    ]
    session.use(None)
    session.select([brace.id])
    d.choose("Legs together", "short")
    assert str(d.job.get(brace.id, Member).double.leg) == "short"


def test_a_truss_shows_the_options_of_its_form_alone(full):
    d = full
    d.window.do(BY_ID["flat truss"])
    rises = {
        "parallel chords": [],
        "scissors": ["Upper chord rises", "Lower chord rises"],
        "bow": ["Upper chord rises"],
    }
    for form, expected in rises.items():
        d.choose("Form", form)
        assert d.window.session.tool.options.form == form
        shown = {w.accessibleName() for w in d.window.facts.widget().findChildren(QWidget)}
        assert [n for n in ("Upper chord rises", "Lower chord rises") if n in shown] == expected
