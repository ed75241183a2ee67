"""Starts the window on a job."""

from __future__ import annotations

import signal
import sys
import traceback
from pathlib import Path

from platformdirs import user_data_path, user_state_path
from PySide6.QtCore import QTimer
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtWidgets import QApplication

from uncus.app import preferences as settings
from uncus.app.jobs import Jobs
from uncus.app.theme import load_fonts


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


def run(path: Path | None) -> int:
    """Open the window on a job file, or the start page, and stay until all is closed; the exit code."""
    app = application()
    jobs = Jobs(settings.place(), user_state_path("uncus"), user_data_path("uncus"))
    sys.excepthook = lambda kind, value, trace: _unforeseen(jobs, kind, value, trace)
    if path is None or jobs.open(path) is None:
        jobs.show_start()
    awake = _close_on_signals(app, jobs)
    code = app.exec()
    awake.stop()
    jobs.close_all()
    return code


def _close_on_signals(app: QApplication, jobs: Jobs) -> QTimer:
    """Close every window in order when the system asks the process to end. The timer lets Python see the signal."""

    def close(*_: object) -> None:
        jobs.close_all()
        app.quit()

    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, close)
    awake = QTimer(jobs, interval=300)
    awake.timeout.connect(lambda: None)
    awake.start()
    return awake


def _unforeseen(jobs: Jobs, kind, value, trace) -> None:  # type: ignore[no-untyped-def]
    """A fault of ours: said in one sentence, with a report, in the window at work; every job is safe on disk."""
    traceback.print_exception(kind, value, trace)
    active = QApplication.activeWindow()
    window = next((w for w in jobs.windows if w is active), jobs.windows[-1] if jobs.windows else None)
    if window is None:
        return
    words = f"A fault in the program ({kind.__name__}). The job is kept; undo (Ctrl+Z) if something looks wrong."
    window.session.fault(value, f"at the stage {window.session.stage}", (), words)
