"""A real window under a virtual screen, driven with mouse and keys; controls are found by their accessible names."""

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QWidget

from uncus.app.main import application
from uncus.app.window import Window
from uncus.job.job import Job
from uncus.job.records import Member
from uncus.job.start import new_job
from uncus.sample.boathouse import boathouse
from uncus.units import Units

KEY, BUTTON = Qt.Key, Qt.MouseButton


@pytest.fixture(scope="session")
def qapp():
    return application()


class Driver:
    """Mouse and keys on one window."""

    def __init__(self, qtbot, job):
        self.bot, self.job = qtbot, job
        self.window = Window(job)
        qtbot.addWidget(self.window)
        self.window.resize(1280, 800)
        self.window.show()
        qtbot.waitExposed(self.window)
        self.model = self.window.model
        self.activate()

    def activate(self):
        """Give the window the keys: a virtual screen has no window manager to do it."""
        self.window.activateWindow()
        self.bot.waitUntil(lambda: self.window.isActiveWindow(), timeout=5000)
        self.model.setFocus()
        self.bot.waitUntil(lambda: self.model.hasFocus(), timeout=3000)

    def named(self, name, kind=QWidget, root=None):
        found = [w for w in (root or self.window).findChildren(kind) if w.accessibleName() == name and not w.isHidden()]
        assert found, f"no {kind.__name__} is called {name}"
        return found[-1]

    def key(self, key, mods=Qt.KeyboardModifier.NoModifier, on=None):
        QTest.keyClick(on or QApplication.focusWidget() or self.model, key, mods)
        QTest.qWait(20)

    def type(self, text, on=None):
        for char in text:
            QTest.keyClick(on or QApplication.focusWidget(), char)
        QTest.qWait(20)

    def at(self, *point):
        x, y, _ = self.model.camera.to_screen(point)[0]
        return QPoint(round(x), round(y))

    def move(self, *point):
        QTest.mouseMove(self.model, self.at(*point))
        QTest.qWait(20)

    def click(self, *point, mods=Qt.KeyboardModifier.NoModifier):
        self.move(*point)
        QTest.mouseClick(self.model, BUTTON.LeftButton, mods, self.at(*point))
        QTest.qWait(20)

    def drag(self, a, b, button=BUTTON.LeftButton, mods=Qt.KeyboardModifier.NoModifier):
        QTest.mousePress(self.model, button, mods, a)
        # moves with a button held must say which
        for step in (0.3, 0.7, 1.0):
            p = QPointF(a.x() + (b.x() - a.x()) * step, a.y() + (b.y() - a.y()) * step)
            event = QMouseEvent(QEvent.Type.MouseMove, p, self.model.mapToGlobal(p), BUTTON.NoButton, button, mods)
            QApplication.sendEvent(self.model, event)
        QTest.mouseRelease(self.model, button, mods, b)
        QTest.qWait(20)

    def enter(self, name, text):
        field = self.named(name, QLineEdit)
        field.setFocus()
        field.selectAll()
        self.type(text, field)
        QTest.keyClick(field, KEY.Key_Return)
        QTest.qWait(30)

    def choose(self, name, text):
        """A choice by the keyboard: its first letters, then Enter."""
        box = self.named(name, QComboBox)
        box.setFocus()
        QTest.qWait(QApplication.keyboardInputInterval() + 20)  # letters typed at once make one word
        QTest.keyClick(box, text[0])
        QTest.keyClicks(box.view(), text[1:])
        QTest.keyClick(box.view(), KEY.Key_Return)
        QTest.qWait(30)

    def modal(self, work):
        """Do something in the dialog that the next key opens."""
        QTimer.singleShot(150, lambda: work(QApplication.activeModalWidget()))

    def members(self, role=None):
        return [m for m in self.job.all(Member) if role is None or m.role is role]

    @property
    def said(self):
        return self.window.prompt.words.text()


@pytest.fixture
def empty(qtbot, tmp_path):
    job = Job.create(tmp_path / "new.uncus", new_job("New", "1", Units.IMPERIAL))
    driver = Driver(qtbot, job)
    yield driver
    driver.window.close()
    job.close()


@pytest.fixture
def full(qtbot):
    driver = Driver(qtbot, Job(boathouse()))
    yield driver
    driver.window.close()
