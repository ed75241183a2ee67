"""Starts the window on a job."""

from __future__ import annotations

import signal
import sys
import traceback
from pathlib import Path

from platformdirs import user_state_path
from PySide6.QtCore import QTimer
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtWidgets import QApplication

from uncus.app import preferences as settings
from uncus.app.theme import load_fonts
from uncus.app.window import Window
from uncus.job.errors import JobError
from uncus.job.job import Job


def surface() -> QSurfaceFormat:
    """OpenGL 3.3 core. Steel is smoothed in a picture of its own (see Renderer), so the window needs no samples."""
    wanted = QSurfaceFormat()
    wanted.setVersion(3, 3)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(24)
    wanted.setStencilBufferSize(8)
    return wanted


def application() -> QApplication:
    """The one application, with our fonts."""
    QSurfaceFormat.setDefaultFormat(surface())
    app = QApplication.instance() or QApplication(["uncus"])
    assert isinstance(app, QApplication)
    app.setApplicationName("uncus")
    app.setStyle("Fusion")
    app.setFont(load_fonts())
    return app


def run(path: Path) -> int:
    """Open the window on a job file and stay until it closes; the exit code. Raises JobError."""
    job = Job.open(path)
    try:
        app = application()
        keep = settings.place()
        preferences, wrong = None, ""
        try:
            preferences = settings.read(keep) if keep.exists() else None
        except JobError as error:
            wrong = str(error)
        window = Window(job, preferences, keep, user_state_path("uncus"))
        if wrong:
            QTimer.singleShot(0, lambda: window.session.said.emit(wrong, True))
        QTimer.singleShot(0, window.session.said_on_opening)
        sys.excepthook = lambda kind, value, trace: _unforeseen(window, kind, value, trace)
        window.resize(1280, 800)
        window.show()
        awake = _close_on_signals(app, window)
        code = app.exec()
        awake.stop()
        return code
    finally:
        job.close()


def _close_on_signals(app: QApplication, window: Window) -> QTimer:
    """Close the window in order when the system asks the process to end. The timer lets Python see the signal."""

    def close(*_: object) -> None:
        window.close()
        app.quit()

    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, close)
    awake = QTimer(window, interval=300)
    awake.timeout.connect(lambda: None)
    awake.start()
    return awake


def _unforeseen(window: Window, kind, value, trace) -> None:  # type: ignore[no-untyped-def]
    """A fault of ours: said in one sentence, with a report; the job is safe on disk."""
    traceback.print_exception(kind, value, trace)
    words = f"A fault in the program ({kind.__name__}). The job is kept; undo (Ctrl+Z) if something looks wrong."
    window.session.fault(value, f"at the stage {window.session.stage}", (), words)
