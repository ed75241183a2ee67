"""Deliver: what goes out, where to, progress and stop. The work runs on a thread of its own, on plain records."""

from __future__ import annotations

import os
from collections.abc import Callable
from datetime import date
from pathlib import Path

import msgspec
from PySide6.QtCore import Qt, QThread, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from uncus.app.facts.form import struct_form
from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.app.stages.working import say_on
from uncus.deliver.outputs import OUTPUTS
from uncus.deliver.package import Made, Progress, Stopped, produce, went_out
from uncus.job.errors import JobError
from uncus.job.files import file_name
from uncus.job.job import Job
from uncus.job.records import Lens, NcOptions
from uncus.shop.cluster import handed_to
from uncus.units import format_weight


class Work(QThread, Progress):
    """One run of `produce` on a copy of the records: the job can be worked on meanwhile."""

    told = Signal(int, int, str)
    done = Signal(object)
    failed = Signal(str)

    def __init__(self, job: Job, out: Path, lens: str | None, only: list[str], cluster: str = "") -> None:
        super().__init__()
        self.cluster = cluster
        self.warned: list[str] = []
        self.job = job.copied()
        self.out, self.lens, self.only = out, lens, only

    def run(self) -> None:
        try:
            with handed_to(self.cluster, self.warned.append) as make:
                self.done.emit(produce(self.job, self.out, self.lens, self.only, self, make))
        except Stopped:
            self.failed.emit("Stopped; nothing was left behind.")
        except JobError as error:
            self.failed.emit(str(error))
        except Exception as error:
            self.failed.emit(f"The package could not be made: {error or type(error).__name__}.")

    def tell(self, done: int, of: int, words: str) -> None:
        self.told.emit(done, of, words)

    def stopped(self) -> bool:
        return self.isInterruptionRequested()


class DeliverPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.work: Work | None = None
        self._options_shown: NcOptions | None = None
        title = QLabel("Package")
        title.setProperty("title", True)
        self.boxes = {output.name: QCheckBox(output.words) for output in OUTPUTS if not output.asked}
        for box in self.boxes.values():
            box.setChecked(True)
            box.setAccessibleName(box.text())
        self.folder = QLineEdit()
        self.folder.setAccessibleName("Folder of the package")
        self.lens = QComboBox()
        self.lens.setAccessibleName("Lens")
        choose = QPushButton("Choose ...")
        choose.setAccessibleName("Choose the folder")
        choose.clicked.connect(self._choose)
        self.go = QPushButton("Produce package")
        self.go.setProperty("main", True)
        self.go.setAccessibleName("Produce")
        self.go.clicked.connect(self.start)
        self.stop = QPushButton("Stop")
        self.stop.setAccessibleName("Stop producing")
        self.stop.setEnabled(False)
        self.stop.clicked.connect(self._stop)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("Progress")
        self.bar.setVisible(False)
        self.words = QLabel(
            "Everything that is ticked goes into one folder, with a manifest. Every NC file is proved on the bench "
            "first."
        )
        self.words.setWordWrap(True)
        self.words.setAccessibleName("What happened")
        self.table = Table("Files of the package", ("File", "Kind", "Mark", "Number", "Net each", "Gross each"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.setSpacing(8)
        layout.addWidget(title)
        kinds = QHBoxLayout()
        for box in self.boxes.values():
            kinds.addWidget(box)
        kinds.addStretch(1)
        layout.addLayout(kinds)
        where = QHBoxLayout()
        for words, widget, stretch in (("Lens", self.lens, 0), ("Folder", self.folder, 1)):
            label = QLabel(words)
            label.setBuddy(widget)
            where.addWidget(label)
            where.addWidget(widget, stretch)
        where.addWidget(choose)
        layout.addLayout(where)
        self.options = QHBoxLayout()
        layout.addLayout(self.options)
        run = QHBoxLayout()
        run.addWidget(self.go)
        run.addWidget(self.stop)
        run.addWidget(self.bar, 1)
        run.addStretch(0)
        layout.addLayout(run)
        layout.addWidget(self.words)
        layout.addWidget(self.table, 1)

    def refresh(self) -> None:
        if not self.folder.text():
            path = self.session.job.path
            number = self.session.job.project.number or "job"
            base = path.parent if path else Path.home()
            self.folder.setText(str(base / file_name(f"{number} package {date.today().isoformat()}")))
        self._show_options()
        chosen = self.lens.currentText()
        self.lens.clear()
        self.lens.addItems(["everything", *(lens.name for lens in self.session.job.all(Lens))])
        self.lens.setCurrentText(chosen or "everything")

    def _show_options(self) -> None:
        """A field for each option of NC."""
        job = self.session.job
        if job.nc == self._options_shown:
            return
        self._options_shown = job.nc
        while (item := self.options.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        box = QWidget()
        form = QFormLayout(box)
        form.setContentsMargins(0, 0, 0, 0)
        struct_form(form, job.nc, self.session.units, self._set_option, "NC: ")
        self.options.addWidget(QLabel("NC"), 0, Qt.AlignmentFlag.AlignTop)
        self.options.addWidget(box)
        self.options.addStretch(1)

    def _set_option(self, name: str, read: Callable[[], object]) -> bool:
        def work() -> None:
            with self.session.job.change(f"NC: {name}") as change:
                change.put(msgspec.structs.replace(self.session.job.nc, **{name: read()}))

        return self.session.attempt(work)

    def _choose(self) -> None:
        found = QFileDialog.getExistingDirectory(self, "Folder of the package", self.folder.text())
        if found:
            self.folder.setText(found)

    def start(self) -> None:
        if self.work is not None:
            return
        only = [kind for kind, box in self.boxes.items() if box.isChecked()]
        if not only or not self.folder.text().strip():
            self._say("Tick what should go out and name a folder first.", True)
            return
        lens = self.lens.currentText()
        wanted = None if lens in ("", "everything") else lens
        self.work = Work(self.session.job, Path(os.path.expanduser(self.folder.text().strip())), wanted, only,
            self.session.preferences.cluster)  # fmt: skip
        self.work.told.connect(self._told)
        self.work.done.connect(self._done)
        self.work.failed.connect(lambda words: self._say(words, True))
        self.work.finished.connect(self._finished)
        self.go.setEnabled(False)
        self.stop.setEnabled(True)
        self.bar.setVisible(True)
        self.bar.setRange(0, 0)
        self._say("Producing ...", False)
        self.work.start()

    def _stop(self) -> None:
        if self.work is not None:
            self.work.requestInterruption()
            self._say("Stopping ...", False)

    def _told(self, done: int, of: int, words: str) -> None:
        self.bar.setRange(0, of)
        self.bar.setValue(done)
        self.bar.setFormat(f"{words}   {done} of {of}")

    def _done(self, made: Made) -> None:
        units = self.session.job.project.units
        rows = [
            (
                f.file,
                f.kind,
                f.mark,
                str(f.number),
                format_weight(f.net_kg, units) if f.net_kg else "",
                format_weight(f.gross_kg, units) if f.gross_kg else "",
            )
            for f in made.files
        ]
        self.table.fill(rows, [f.file for f in made.files])
        words = f"✓ {len(made.files)} files in {made.folder}"
        if made.failures:
            words += f"; ▲ {len(made.failures)} could not be made: {made.failures[0]}"
        warned = self.work.warned if self.work is not None else []
        self._say("; ▲ ".join((words, *warned)), bool(made.failures))
        records = went_out(self.session.job, made)
        if records:
            self.session.change("Sheets sent", records)

    def _finished(self) -> None:
        self.work = None
        self.go.setEnabled(True)
        self.stop.setEnabled(False)
        self.bar.setVisible(False)

    def _say(self, words: str, error: bool) -> None:
        say_on(self.words, words, error)

    def wind_up(self) -> None:
        """Stop and wait, as the window closes."""
        if self.work is not None:
            self.work.requestInterruption()
            self.work.wait(20_000)
