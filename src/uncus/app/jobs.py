"""The jobs that are open, a window each, and the start page where none is."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt, QTimer, QUrl
from PySide6.QtGui import QDesktopServices, QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QFileDialog, QMainWindow, QMessageBox, QWidget

from uncus.app import preferences as settings
from uncus.app.preferences import Preferences
from uncus.app.starting.beside import beside
from uncus.app.starting.new_job import NewJobDialog
from uncus.app.starting.recent import Recent, RecentJobs
from uncus.app.starting.start_page import PICTURE, StartPage
from uncus.app.theme import DARK, LIGHT, wear
from uncus.app.window import Window
from uncus.job.errors import InUse, JobError
from uncus.job.job import Job
from uncus.sample.fresh import fresh_sample
from uncus.units import Units

_SETTLED = 4000  # ms after which a job's first picture is taken
_SIZE, _SHARE, _FRAME = (1280, 800), 0.8, (4, 36)  # px, of the screen, px that a window's frame takes


class Jobs(QObject):
    """`keep` is the file of the user's preferences, `state` the folder of traces (recent jobs, reports), `data` that of
    copies of the sample; None: nowhere."""

    def __init__(self, keep: Path | None, state: Path | None, data: Path | None) -> None:
        super().__init__()
        self._keep, self._state, self._data = keep, state, data
        self.recent = RecentJobs(state)
        self.windows: list[Window] = []
        self.start: StartWindow | None = None
        self._wrong = ""  # what is wrong with the preferences, said once

    # -- the start page ---------------------------------------------------------------------------
    def show_start(self) -> StartWindow:
        """The start page, in front."""
        if self.start is None:
            self.start = StartWindow(self, DARK if self.preferences().theme == "dark" else LIGHT)
        self.start.page.refresh()
        self.start.show()
        self.start.raise_()
        self.start.activateWindow()
        return self.start

    def preferences(self) -> Preferences:
        """The user's own, as they are kept now; the usual ones where they cannot be used, which is said."""
        try:
            return settings.read(self._keep) if self._keep is not None and self._keep.exists() else Preferences()
        except JobError as error:
            self._wrong = str(error)
            return Preferences()

    # -- opening ----------------------------------------------------------------------------------
    def open(self, path: Path, asker: QWidget | None = None) -> Window | None:
        """A window on a job: the one that there is, or a new one. What is wrong is said over `asker`."""
        path = path.absolute()
        for window in self.windows:
            if _path_of(window) == path.resolve():
                window.raise_()
                window.activateWindow()
                return window
        try:
            job = Job.open(path)
        except InUse as error:
            read = self._read(path, error, asker)
            return self._windowed(read) if read is not None else None
        except JobError as error:
            self._say(str(error), asker)
            return None
        return self._windowed(job)

    def _read(self, path: Path, error: InUse, asker: QWidget | None) -> Job | None:
        """A job that is open elsewhere, to look at, where that is wanted."""
        box = QMessageBox(QMessageBox.Icon.Information, "Open elsewhere", str(error), parent=asker)
        box.setInformativeText("It can be read here meanwhile: everything is shown, nothing can be changed.")
        read = box.addButton("Read it", QMessageBox.ButtonRole.AcceptRole)
        box.addButton(QMessageBox.StandardButton.Cancel)
        box.exec()
        if box.clickedButton() is not read:
            return None
        try:
            return Job.read(path)
        except JobError as wrong:
            self._say(str(wrong), asker)
            return None

    def _windowed(self, job: Job) -> Window:
        window = Window(job, self.preferences(), self._keep, self._state, self)
        self.windows.append(window)
        _fit(window)
        window.show()
        if self._wrong:
            QTimer.singleShot(0, lambda wrong=self._wrong: window.session.said.emit(wrong, True))
            self._wrong = ""
        QTimer.singleShot(0, window.session.said_on_opening)
        QTimer.singleShot(_SETTLED, lambda: self._note(window) if window in self.windows else None)
        if self.start is not None:
            self.start.hide()
        return window

    def _say(self, words: str, asker: QWidget | None) -> None:
        QMessageBox.warning(asker, "Uncus", words)  # type: ignore[arg-type]

    # -- what the commands ask for ----------------------------------------------------------------
    def new(self, asker: QWidget | None = None) -> None:
        """Ask for a new job's facts and open it."""
        dialog = NewJobDialog(Units(self.preferences().units), self._folder(), asker)
        if dialog.exec() and dialog.path is not None:
            self.open(dialog.path, asker)

    def choose(self, asker: QWidget | None = None) -> None:
        """Ask for a job's file and open it."""
        found, _ = QFileDialog.getOpenFileName(asker, "Open a job", str(self._folder()), "Jobs (*.uncus)")
        if found:
            self.open(Path(found), asker)

    def sample(self, asker: QWidget | None = None) -> None:
        """Open a fresh copy of the sample."""
        if self._data is None:
            return
        data = self._data
        try:
            data.mkdir(parents=True, exist_ok=True)
            words = "A fresh copy is built and marked: a boathouse with its stairs, rails and plate work."
            path = beside(lambda: fresh_sample(data), "The sample job", words, asker)
        except (JobError, OSError) as error:
            self._say(str(error), asker)
            return
        if path is not None:
            self.open(path, asker)

    def leave(self, window: Window) -> None:
        """Close a window's job; the start page comes where it was the last."""
        last = self.windows == [window]
        if last:
            self.show_start()
        window.close()

    def reveal(self, window: Window) -> None:
        """Show a job's folder in the desktop's own file manager."""
        path = _path_of(window)
        if path is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(path.parent)))

    def _folder(self) -> Path:
        """Where jobs lie: with the one that was open last."""
        paths = [Path(one.path).parent for one in self.recent.all]
        return next((folder for folder in paths if folder.is_dir() and folder != self._data), Path.home())

    # -- leaving ----------------------------------------------------------------------------------
    def closed(self, window: Window) -> None:
        """A window goes: its picture is kept, its job let go of."""
        if window not in self.windows:
            return
        self._note(window)
        self.windows.remove(window)
        window.session.job.close()
        if self.start is not None:
            self.start.page.refresh()

    def close_all(self) -> None:
        for window in list(self.windows):
            window.close()
        if self.start is not None:
            self.start.close()

    def _note(self, window: Window) -> None:
        """Keep among the recent jobs what a window shows, with a picture."""
        path, project = _path_of(window), window.session.job.project
        if path is None:
            return
        at = datetime.now().isoformat(timespec="seconds")
        self.recent.note(Recent(str(path), project.name, project.number, at))
        place = self.recent.picture(str(path))
        if place is None or not window.model.isValid():
            return
        try:
            place.parent.mkdir(parents=True, exist_ok=True)
        except OSError:
            return
        ratio = Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
        picture = window.model.grabFramebuffer().scaled(PICTURE, *ratio)
        left, top = (picture.width() - PICTURE.width()) // 2, (picture.height() - PICTURE.height()) // 2
        picture.copy(left, top, PICTURE.width(), PICTURE.height()).save(str(place))


def _fit(window: QWidget) -> None:
    """The reference size, more on a large screen, and never more than the screen shows with a frame round it."""
    room = window.screen().availableSize()
    wide, high = (max(usual, round(_SHARE * there)) for usual, there in zip(_SIZE, room.toTuple(), strict=True))
    window.resize(min(wide, room.width() - _FRAME[0]), min(high, room.height() - _FRAME[1]))


def _path_of(window: Window) -> Path | None:
    return window.session.job.path


class StartWindow(QMainWindow):
    """The start page in a window of its own."""

    def __init__(self, jobs: Jobs, theme) -> None:  # type: ignore[no-untyped-def]
        super().__init__()
        self.setWindowTitle("Uncus")
        _fit(self)
        self.setMinimumSize(820, 520)
        self.page = StartPage(jobs.recent)
        self.setCentralWidget(self.page)
        app = QApplication.instance()
        if isinstance(app, QApplication) and not jobs.windows:
            wear(app, theme, jobs.preferences().percent)
        self.page.opened.connect(lambda path: jobs.open(Path(path), self))
        self.page.new.connect(lambda: jobs.new(self))
        self.page.open.connect(lambda: jobs.choose(self))
        self.page.sample.connect(lambda: jobs.sample(self))
        for key, do in (("Ctrl+N", self.page.new.emit), ("Ctrl+O", self.page.open.emit), ("Ctrl+Q", self.close)):
            QShortcut(QKeySequence(key), self).activated.connect(do)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Show:
            (self.page.list if self.page.recent.all else self.page).setFocus()
        return super().event(event)
