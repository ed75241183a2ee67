"""Makes the steel of a large job while the window is open: a little at a time between what the hand does, its joints
by worker processes where there are many that nothing is known of."""

from __future__ import annotations

import gc
import threading
import time
from queue import Empty, SimpleQueue
from typing import TYPE_CHECKING

from PySide6.QtCore import QEventLoop, QObject, Qt, QThread, QTimer, Signal
from PySide6.QtWidgets import QApplication, QProgressDialog

from uncus.connect.alike import Home
from uncus.connect.kind import Joint
from uncus.connect.kinds import KINDS
from uncus.job.records import Connection
from uncus.shop import joints
from uncus.shop.ahead import WORTH_IT, made_ahead, placed
from uncus.shop.joints import Made
from uncus.shop.pieces import Touched

if TYPE_CHECKING:
    from uncus.app.session import Session

_LARGE = 3000  # joints and members that wait, beyond which a pause of the collector of cycles is felt
AT_ONCE = 300  # joints of a job, more than which are made when its window is open
_SLICE = 0.012  # s of work between two looks at what the hand does
_TOLD = 2.0  # s between two times that the views are told of what is new
_PROGRESS = 0.5  # s between two times that its share is told
_REGULAR = 0.25  # of joints looked at of late that are like none: where fewer are, they are made here as they come
_REMEMBERED = 10.0  # looks that count as of late
_NOTICED = 300  # ms of waiting before it is said
_FEW = 4  # joints or members that are begun without looking at the clock


class Filling(QObject):
    """Runs from `start` until all steel of the session's shop is made; `done` then, `progressed` now and then, `made`
    with each few members. Edits, and what is asked for in the meantime, go on as ever."""

    done = Signal()
    progressed = Signal()
    made = Signal(frozenset)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._timer = QTimer(self, interval=0)
        self._timer.timeout.connect(self._tick)
        self._unsorted = 0  # joints not looked at yet
        self._fresh = 1.0  # of those looked at of late, the share that was like none before
        self._whole = 0  # joints and members that waited at first
        self._unknown: dict[bytes, Home[Joint]] = {}  # that workers are to make
        self._next: dict[bytes, Home[Joint]] = {}  # to be made here, one at a time
        self._made: SimpleQueue[tuple[bytes, Made] | None] = SimpleQueue()
        self._worker: threading.Thread | None = None
        self._stopped = threading.Event()
        self._rebuilt, self._shipped = set[str](), set[str]()  # that the views have not been told of
        self._finishing = False
        self._last = self._said = 0.0  # when the views, and the share, were told

    @property
    def running(self) -> bool:
        return self._timer.isActive()

    @property
    def share(self) -> float:
        """How much of it is made, from nothing to one."""
        return 1.0 - min(1.0, len(self._session.shop.waiting) / max(1, self._whole))

    def start(self) -> None:
        waiting = self._session.shop.waiting
        self._unsorted, self._whole, self._last = len(waiting.joints), len(waiting), time.monotonic()
        if len(waiting) > _LARGE:
            gc.freeze()  # the records and bare steel stay: a look at all of them for cycles takes a tenth of a second
            kinds = {c.kind for c in self._session.job.all(Connection)}
            threading.Thread(target=lambda: [KINDS.get(kind) for kind in kinds], daemon=True).start()
        self._timer.start()

    def finish(self, stoppable: bool = True) -> bool:
        """Make all that waits now, for what cannot go on without it, with how far it is and, where `stoppable`, a way
        to leave it; whether all of it is made."""
        if not self._session.shop.waiting:
            return True
        if self._finishing or QThread.currentThread() is not self.thread():
            return False
        self._finishing = True
        try:
            return self._finished(stoppable)
        finally:
            self._finishing = False

    def _finished(self, stoppable: bool) -> bool:
        if not self.running:
            self.start()
        leave = "Not now" if stoppable else ""
        shown = QProgressDialog("Making the rest of the steel, which this needs.", leave, 0, 100,
            QApplication.activeWindow())  # fmt: skip
        if not stoppable:
            shown.setCancelButton(None)
        shown.setWindowTitle("All of the steel")
        shown.setAccessibleName("How much of the steel is made")
        shown.setWindowModality(Qt.WindowModality.ApplicationModal)
        shown.setMinimumDuration(_NOTICED)
        try:
            while self.running:
                self._tick()
                shown.setValue(int(100 * self.share))
                # nothing else is begun before the dialog stands in its way
                events = QEventLoop.ProcessEventsFlag
                QApplication.processEvents(events.AllEvents if shown.isVisible() else events.ExcludeUserInputEvents)
                if stoppable and shown.wasCanceled():
                    return False
        finally:
            shown.close()
            shown.deleteLater()
        return True

    def stop(self) -> None:
        """For good: the window closes, or the shop is another."""
        gc.unfreeze()
        self._timer.stop()
        self._stopped.set()
        if self._worker is not None:
            self._worker.join()
            self._worker = None

    # -- a slice of it ----------------------------------------------------------------------------
    def _tick(self) -> None:
        until = time.monotonic() + _SLICE
        while time.monotonic() < until and self._step():
            pass
        if not self._session.shop.waiting:
            self._timer.stop()
            self._note(self._session.shop.fill())
            self._tell()
            self.done.emit()
        elif time.monotonic() - self._said > _PROGRESS:
            if self._rebuilt and time.monotonic() - self._last > _TOLD:
                self._tell()
            self._said = time.monotonic()
            self.progressed.emit()

    def _step(self) -> bool:
        """A little work; False where there is none for now."""
        shop = self._session.shop
        if not shop.waiting:
            return False
        if self._next:
            key, home = self._next.popitem()
            shop.take({key: joints.made_at_home(home)})
            return True
        if self._unsorted > 0 and shop.waiting.joints:
            self._unsorted -= _FEW
            new = {home.key: home for home in shop.join_known(_FEW) if home.key not in self._unknown}
            self._fresh += (len(new) / _FEW - self._fresh) / _REMEMBERED
            if self._fresh < _REGULAR:
                self._next |= new
            else:
                self._unknown |= new
            if self._unsorted <= 0 and len(self._unknown) > WORTH_IT:
                self._send(self._unknown)
            return True
        if self._worker is not None:
            return self._take()
        self._note(shop.fill(1, _FEW))
        return True

    def _note(self, touched: Touched) -> None:
        self._rebuilt |= touched.rebuilt
        if touched.rebuilt:
            self.made.emit(touched.rebuilt)
        self._shipped |= touched.shipped

    def _tell(self) -> None:
        """The views see what is new."""
        there = self._session.shop.so_far.keys()
        touched = Touched(frozenset(self._rebuilt & there), frozenset(), frozenset(self._shipped & there))
        self._rebuilt, self._shipped, self._last = set(), set(), time.monotonic()
        self._session.steel.emit(touched)

    # -- workers ----------------------------------------------------------------------------------
    def _send(self, unknown: dict[bytes, Home[Joint]]) -> None:
        put, stopped = self._made.put, self._stopped.is_set

        def run() -> None:
            try:
                for one in made_ahead(placed(unknown.values()), stopped):
                    put(one)
            finally:
                put(None)

        self._worker = threading.Thread(target=run, name="joints", daemon=True)
        self._worker.start()

    def _take(self) -> bool:
        """Know what a worker made; False where there is nothing yet."""
        try:
            one = self._made.get_nowait()
        except Empty:
            time.sleep(0.002)
            return False
        if one is None:
            self._worker = None
            return True
        self._session.shop.take(dict([one]))
        return True
