"""Topics from the window: sent as BCF, taken in, and remarks on findings."""

from __future__ import annotations

import threading
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QThread, Signal
from PySide6.QtWidgets import QDialog, QFormLayout, QLabel, QLineEdit, QProgressDialog, QWidget

from uncus.app.stages.lines import ask_lines
from uncus.check.checking import Told
from uncus.check.looked import Looked
from uncus.deliver.bcf import bcf_bytes, read_bcf
from uncus.deliver.topics import coming_in, going_out, remarked
from uncus.job.errors import JobError
from uncus.job.files import writable, write_beside
from uncus.units import counted

if TYPE_CHECKING:
    from uncus.app.stages.check import CheckPanel


def now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")


class Sending(QThread):
    """Writes topics in a thread of its own; `progressed` says how many are drawn, `problem` why it was not written."""

    progressed = Signal(int)

    def __init__(self, looked: Looked, told: list[Told], by: str, path: Path, version: str) -> None:
        super().__init__()
        self._looked, self._told, self._by, self._path, self._version = looked, told, by, path, version
        self.stopped, self.problem, self.sent = threading.Event(), "", 0

    def run(self) -> None:
        try:
            data = bcf_bytes(self._drawn(), self._looked.project, self._version)
            if not self.stopped.is_set():
                write_beside(self._path, data)
        except JobError as error:
            self.problem = str(error)

    def _drawn(self):  # type: ignore[no-untyped-def]
        for one in going_out(self._looked, self._told, self._by, now()):
            if self.stopped.is_set():
                return
            self.sent += 1
            self.progressed.emit(self.sent)
            yield one


def send(panel: CheckPanel, path: Path, version: str) -> None:
    """Write what the list is about as topics, with progress that can be stopped."""
    session, looked = panel.session, panel.checker.looked
    if looked is None:
        session.said.emit("Nothing was looked at yet.", True)
        return
    told = panel.concerning()
    work = Sending(looked, told, panel.signed, path, version)

    def write() -> None:
        writable(path)
        shown = QProgressDialog("Drawing what each topic shows.", "Stop", 0, max(1, len(told)), panel,
            Qt.WindowType.Dialog)  # fmt: skip
        shown.setWindowModality(Qt.WindowModality.WindowModal)
        shown.setMinimumDuration(400)
        work.progressed.connect(shown.setValue)
        shown.canceled.connect(work.stopped.set)
        work.finished.connect(shown.reset)
        work.finished.connect(lambda: _told(panel, work, path))
        panel.sending = work
        work.start()

    session.attempt(write)


def _told(panel: CheckPanel, work: Sending, path: Path) -> None:
    said = panel.session.said
    if work.problem:
        said.emit(work.problem, True)
    elif work.stopped.is_set():
        said.emit("Stopped; nothing was written.", False)
    else:
        said.emit(f"{counted(work.sent, 'topic')} written to {path.name}.", False)


def take_in(panel: CheckPanel, path: Path) -> None:
    """Topics of a file: remarks at our findings, and what others ask as rows of the list."""
    session, looked = panel.session, panel.checker.looked
    if looked is None:
        session.said.emit("Nothing was looked at yet.", True)
        return

    def work() -> None:
        topics = read_bcf(path)
        new = coming_in(looked, panel.checker.told, topics)
        if not new:
            session.said.emit(f"{path.name} says nothing new ({counted(len(topics), 'topic')}).", False)
        elif session.change(f"Take in {counted(len(new), 'topic')}", new):
            session.said.emit(f"{counted(len(new), 'topic')} of {len(topics)} taken in.", False)
            panel.look_again()

    session.attempt(work)


def remark(panel: CheckPanel) -> None:
    """A remark on the picked findings, which goes out with their topics."""
    session, looked, told = panel.session, panel.checker.looked, panel.picked()
    if looked is None or not told:
        session.said.emit("Pick findings first, then remark on them.", True)
        return
    dialog = RemarkDialog(panel, len(told), panel.signed)
    if dialog.exec():
        panel.signed = dialog.by
        put = remarked(looked, told, dialog.by, dialog.text, now())
        if put and session.change(f"Remark on {counted(len(put), 'finding')}", put):
            panel.look_again()


class RemarkDialog(QDialog):
    def __init__(self, parent: QWidget, number: int, name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Remark")
        self.setMinimumWidth(460)
        form = QFormLayout(self)
        form.addRow(QLabel(f"Said of {counted(number, 'finding')}, here and to others."))
        self._by, self._text = QLineEdit(name), QLineEdit()
        ask_lines(self, form, (("By", self._by, "Who says so"), ("Remark", self._text, "What is said or asked")))
        (self._text if name else self._by).setFocus()

    @property
    def by(self) -> str:
        return self._by.text()

    @property
    def text(self) -> str:
        return self._text.text()
