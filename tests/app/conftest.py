"""A real window under a virtual screen, driven with mouse and keys; controls are found by their accessible names."""

import atexit
import os
import pickle
import subprocess

os.environ |= {"QT_QPA_PLATFORM": "xcb", "LIBGL_ALWAYS_SOFTWARE": "1"}

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QWidget
from tests.conftest import marked

from uncus.app.jobs import Jobs
from uncus.app.main import application
from uncus.app.window import Window
from uncus.job.job import Job
from uncus.job.records import Member
from uncus.job.start import new_job
from uncus.sample.boathouse import boathouse
from uncus.shop.shop import Shop, build
from uncus.units import Units

KEY, BUTTON = Qt.Key, Qt.MouseButton


@pytest.fixture(scope="session")
def screen():
    """A virtual screen of this process's own: two windows on one screen take the keys from each other."""
    read, write = os.pipe()
    words = ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp", "-terminate"]
    server = subprocess.Popen(words, pass_fds=[write], stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as told:
        os.environ["DISPLAY"] = f":{told.readline().strip()}"
    atexit.register(server.terminate)  # not sooner: windows still talk to it as Python ends


@pytest.fixture(scope="session")
def qapp(screen):
    return application()


@pytest.fixture(scope="session")
def fresh(once):
    """The sample job and its steel, built once a run: each call gives its own copy, to be changed freely."""

    def get(with_marks: bool = False) -> tuple[Job, Shop]:
        def make() -> bytes:
            job, shop = marked(boathouse()) if with_marks else (Job(boathouse()), None)
            return pickle.dumps((tuple(job.records.values()), shop or build(job)), -1)

        records, shop = pickle.loads(once(f"sample for windows {with_marks}", make))
        return Job(records), shop

    return get


class Driver:
    """Mouse and keys on one window."""

    def __init__(self, qtbot, job, shop=None, window=None):
        self.bot, self.job = qtbot, job
        with pytest.MonkeyPatch.context() as patch:
            if shop is not None:
                patch.setattr("uncus.app.session.build", lambda *_: shop)
            self.window = window or Window(job)
        if window is None:  # else it is closed by what opened it
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
        in_dialog(work)

    def members(self, role=None):
        return [m for m in self.job.all(Member) if role is None or m.role is role]

    @property
    def said(self):
        return self.window.prompt.words.text()


def in_dialog(work):
    """Do something in the dialog that comes up next, as soon as it is there; where that fails it is left, so that the
    test goes on to say so."""

    def look():
        dialog = QApplication.activeModalWidget()
        if dialog is None:
            QTimer.singleShot(25, look)
            return
        try:
            work(dialog)
        except BaseException:
            dialog.reject()
            raise

    QTimer.singleShot(25, look)


def press(window, key):
    """A key with Ctrl, in a window that has the keys."""
    QTest.qWait(20)
    window.activateWindow()
    window.setFocus()
    assert QTest.qWaitForWindowActive(window)
    QTest.keyClick(window, key, Qt.KeyboardModifier.ControlModifier)


@pytest.fixture
def jobs(qapp, tmp_path):
    made = Jobs(tmp_path / "preferences.json", tmp_path / "state", tmp_path / "data")
    yield made
    made.close_all()
    for window in (*made.windows, made.start):
        if window is not None:
            window.deleteLater()
    QTest.qWait(1)


@pytest.fixture
def empty(qtbot, tmp_path):
    job = Job.create(tmp_path / "new.uncus", new_job("New", "1", Units.IMPERIAL))
    driver = Driver(qtbot, job)
    yield driver
    driver.window.close()
    job.close()


@pytest.fixture
def full(qtbot, fresh):
    driver = Driver(qtbot, *fresh())
    yield driver
    driver.window.close()
