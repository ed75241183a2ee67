"""Looks at the session's job by its rules, in a thread of its own, and again after edits."""

from __future__ import annotations

import threading
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from uncus.check.checking import Seen, Told, look, open_first, stand
from uncus.check.looked import Looked
from uncus.job.records import Verdict

if TYPE_CHECKING:
    from uncus.app.session import Session

_PAUSE = 250  # ms after an edit before it is looked at again


class Checker(QObject):
    """`told` are all findings as they stood when it was `done` last; `progressed` (how many of how many rules, which)
    in between. Edits go on meanwhile: a look that they overtake is left for one anew."""

    done = Signal()
    progressed = Signal(int, int, str)
    _found = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.told: list[Told] = []
        self.looked: Looked | None = None
        self._seen = Seen([], frozenset())
        self._thread: threading.Thread | None = None
        self._stop = threading.Event()
        self._again = False
        self._wait = QTimer(self, singleShot=True, interval=_PAUSE)
        self._wait.timeout.connect(self._begin)
        self._found.connect(self._take)

    @property
    def running(self) -> bool:
        return self._wait.isActive() or self._thread is not None

    @property
    def open(self) -> list[Told]:
        """What is open or came back."""
        return list(open_first(self.told))

    def ask(self) -> None:
        """Look again, as soon as nothing is edited for a moment."""
        self._wait.start()

    def stop(self) -> None:
        """Leave what is under way; what was found before stays."""
        self._wait.stop()
        self._again = False
        self._stop.set()

    def wind_up(self) -> None:
        """For good: the window closes."""
        self.stop()
        if self._thread is not None:
            self._thread.join()

    def restand(self) -> None:
        """What was said of findings changed, and nothing else."""
        self.told = stand(self._seen, self._session.job.all(Verdict))
        self.done.emit()

    def _begin(self) -> None:
        if self._thread is not None:
            self._again = True
            self._stop.set()
            return
        session = self._session
        self._stop.clear()
        looked = Looked(session.job, session.shop, session.marks, self.looked)
        self._thread = threading.Thread(target=self._run, args=(looked,), name="check", daemon=True)
        self._thread.start()

    def _run(self, looked: Looked) -> None:
        found: Seen | None = None
        try:
            found = look(looked, self.progressed.emit, self._stop.is_set)
        finally:  # whatever happens, another look can begin
            self._found.emit(looked, None if self._stop.is_set() else found)

    def _take(self, looked: Looked, found: Seen | None) -> None:
        self._thread = None
        if found is not None:
            self.looked, self._seen = looked, found
            self.told = stand(found, self._session.job.all(Verdict))
            self.done.emit()
        if self._again:
            self._again = False
            self.ask()
