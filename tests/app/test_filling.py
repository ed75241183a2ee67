"""A large job is there before its steel is made, and can be worked on in the meantime."""

import msgspec
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from tests.edits import steel_differences

from uncus.app import filling
from uncus.app.commands import COMMANDS
from uncus.app.window import Window
from uncus.job.job import Job
from uncus.job.records import Connection, Member
from uncus.sample.frames import frame, irregular
from uncus.shop import joints
from uncus.shop.shop import build


def opened(qtbot, job) -> Window:
    window = Window(job)
    qtbot.addWidget(window)
    window.resize(1200, 760)
    window.show()
    qtbot.waitExposed(window)
    return window


def dragged(view, to: QPoint) -> None:
    """The middle button moved on with."""
    at, button = QPointF(to), Qt.MouseButton.MiddleButton
    event = QMouseEvent(QEvent.Type.MouseMove, at, view.mapToGlobal(at), Qt.MouseButton.NoButton, button,
        Qt.KeyboardModifier.NoModifier)  # fmt: skip
    QApplication.sendEvent(view, event)


def made(qtbot, window):
    qtbot.waitUntil(lambda: not window.session.filling.running, timeout=60_000)
    assert not window.session.shop.waiting


def test_the_view_is_turned_and_steel_picked_and_changed_while_joints_are_made(qtbot):
    job = Job(frame(6, 4))
    window = opened(qtbot, job)
    session, view = window.session, window.model
    assert len(session.shop.so_far) == len(job.all(Member)) and len(session.shop.waiting.joints) > filling.AT_ONCE
    yaw, middle, n = view.camera.yaw, QPoint(view.width() // 2, view.height() // 2), 0
    QTest.mousePress(view, Qt.MouseButton.MiddleButton, pos=middle)
    qtbot.waitUntil(lambda: session.filling.running)
    while session.filling.running and n < 20:
        n += 1
        dragged(view, middle + QPoint(n, 0))
        qtbot.wait(1)
    assert session.shop.waiting and abs(view.camera.yaw - yaw) > 1, "the view turns before all is made"
    QTest.mouseRelease(view, Qt.MouseButton.MiddleButton, pos=middle)
    beam = next(m for m in job.all(Member) if m.section == "W16X31")
    x, y, _ = view.camera.to_screen([[(a + b) / 2 for a, b in zip(beam.start, beam.end, strict=True)]])[0]
    hit = view.pointer.piece(float(x), float(y))
    assert hit is not None and hit[0] in session.shop.so_far
    session.select((beam.id,))
    assert session.change("Another section", [msgspec.structs.replace(beam, section="W16X40")])
    assert session.shop.assemblies[beam.id].main.part.section.name == "W16X40"
    session.undo()
    made(qtbot, window)
    assert not steel_differences(session.shop, build(job))
    assert view.pointer.laid.count == len(list(session.shop.pieces())), "the view knows all that was made"


def test_what_needs_all_steel_gets_it(qtbot):
    window = opened(qtbot, Job(frame(4, 4)))
    assert window.session.shop.waiting
    assert window.session.go("Check")
    assert not window.session.shop.waiting and not window.session.filling.running


def test_who_does_not_want_to_wait_goes_on_where_he_was(qtbot, monkeypatch):
    window = opened(qtbot, Job(frame(4, 4)))
    session = window.session
    monkeypatch.setattr(filling.QProgressDialog, "wasCanceled", lambda self: True)
    window.do(next(c for c in COMMANDS if c.id == "stage mark"))
    assert session.stage == "Frame" and session.shop.waiting, "nothing of it is begun"
    assert window.rail.buttons["Frame"].isChecked(), "nor shown as open"
    window.palette_field.open()
    assert session.shop.waiting, "searching waits for nothing"
    read = session.shop.connections  # what cannot be put off is waited for all the same
    assert not session.shop.waiting and set(read) >= {c.id for c in session.job.all(Connection)}
    made(qtbot, window)


def test_joints_that_nothing_is_known_of_are_made_by_worker_processes(qtbot, monkeypatch):
    job = Job(irregular(3, 4))
    joints.forget()
    monkeypatch.setattr(filling, "WORTH_IT", 20)
    monkeypatch.setattr(joints, "made_at_home", lambda home: pytest.fail("made in the window's process"))
    window = opened(qtbot, job)
    work, known = window.session.filling, len(joints._JOINTS)
    qtbot.waitUntil(lambda: work._worker is not None and len(joints._JOINTS) > known + 20, timeout=90_000)
    window.session.go("Check")  # which waits for what is under way, and makes none of it twice
    assert not window.session.shop.waiting and not work.running
    monkeypatch.undo()
    assert not steel_differences(window.session.shop, build(job))


def test_a_window_that_is_closed_leaves_nothing_at_work(qtbot):
    window = opened(qtbot, Job(frame(4, 4)))
    qtbot.waitUntil(lambda: window.session.filling.running)
    window.close()
    assert not window.session.filling.running and window.session.filling._worker is None
