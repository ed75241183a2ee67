"""Work on plain data in a thread of its own, with progress and stop."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QThread, Signal
from PySide6.QtWidgets import QLabel, QProgressBar, QPushButton

from uncus.job.errors import JobError

Tell = Callable[[int, int, str], None]
Work = Callable[[Tell, Callable[[], bool]], object]


def say_on(label: QLabel, words: str, error: bool) -> None:
    """What happened, on a panel's own line."""
    label.setProperty("error", error)
    label.style().unpolish(label)
    label.style().polish(label)
    label.setText(words)


class Aside(QThread):
    """`came` carries what the work came to, `failed` a sentence."""

    told = Signal(int, int, str)
    came = Signal(object)
    failed = Signal(str)

    def __init__(self, work: Work) -> None:
        super().__init__()
        self._work = work

    def run(self) -> None:
        try:
            found = self._work(self.told.emit, self.isInterruptionRequested)
        except JobError as error:
            self.failed.emit(str(error))
        except Exception as error:
            self.failed.emit(f"It could not be worked out: {error or type(error).__name__}.")
        else:
            if self.isInterruptionRequested():
                self.failed.emit("Stopped; nothing was changed.")
            else:
                self.came.emit(found)


class Runner:
    """One piece of work at a time, its progress in a bar and a button that stops it."""

    def __init__(self, bar: QProgressBar, stop: QPushButton, say: Callable[[str, bool], None]) -> None:
        self.bar, self.stop, self._say = bar, stop, say
        self.under_way: Aside | None = None
        stop.clicked.connect(self._stop)
        bar.hide()
        stop.hide()

    def run(self, work: Work, came: Callable[[object], None]) -> bool:
        """Begin, unless something is under way."""
        if self.under_way is not None:
            return False
        aside = self.under_way = Aside(work)
        aside.told.connect(self._told)
        aside.came.connect(came)
        aside.failed.connect(lambda words: self._say(words, True))
        aside.finished.connect(self._finished)
        self.bar.setRange(0, 0)
        self.bar.show()
        self.stop.show()
        aside.start()
        return True

    def _told(self, done: int, of: int, words: str) -> None:
        self.bar.setRange(0, of)
        self.bar.setValue(done)
        self.bar.setFormat(f"{words}   {done} of {of}")

    def _stop(self) -> None:
        if self.under_way is not None:
            self.under_way.requestInterruption()

    def _finished(self) -> None:
        self.under_way = None
        self.bar.hide()
        self.stop.hide()

    def wind_up(self) -> None:
        """Stop and wait, as the window closes."""
        if self.under_way is not None:
            self.under_way.requestInterruption()
            self.under_way.wait(20_000)
