"""Work that takes a while before there is a window to show it: done beside a small dialog that can be left."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

T = TypeVar("T")
_LOOKED = 30  # ms from one look at whether it is done to the next
_NOTICED = 300  # ms of work before anything is shown of it


def beside(work: Callable[[], T], title: str, words: str, asker: QWidget | None) -> T | None:
    """What some work comes to; None where it was left, which goes on unseen to its end. Raises what it raises."""
    shown = QProgressDialog(words, "Not now", 0, 0, asker)  # type: ignore[arg-type]
    shown.setWindowTitle(title)
    shown.setAccessibleName(words)
    shown.setWindowModality(Qt.WindowModality.ApplicationModal)
    shown.setMinimumDuration(0)
    shown.reset()
    loop, pool = QEventLoop(), ThreadPoolExecutor(1, title)
    done = pool.submit(work)
    timer = QTimer(interval=_LOOKED)
    timer.timeout.connect(lambda: loop.quit() if done.done() else None)
    timer.start()
    QTimer.singleShot(_NOTICED, shown, shown.show)
    shown.canceled.connect(loop.quit)
    try:
        loop.exec()
    finally:
        timer.stop()
        shown.close()
        shown.deleteLater()
        pool.shutdown(wait=False)
    return done.result() if done.done() else None
