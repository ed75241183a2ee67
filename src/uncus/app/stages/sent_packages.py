"""Packages that went: what each held and what changed since; looked at, written again, laid out, and answered."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QTimer, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QShowEvent
from PySide6.QtWidgets import QSplitter, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.files import folder_for, open_file
from uncus.app.stages.intake import IntakeDialog
from uncus.app.stages.ordered import button_row
from uncus.app.stages.table import Table
from uncus.app.stages.working import Tell, Work
from uncus.bill.pieces_changed import Changes
from uncus.deliver.answers import taken_in
from uncus.deliver.sending import kept_folder, since_sent, written_again, zip_bytes
from uncus.job.errors import JobError
from uncus.job.files import read_outside
from uncus.job.packages import Sending
from uncus.standin.intake import Intake, Receipt, read_progress
from uncus.standin.noticeboard import PAGE, Noticeboard
from uncus.standin.parcels import unpacked
from uncus.units import counted

Run = Callable[[Work, Callable[[object], None], str], None]


class SentPackages(QWidget):
    """`said` is what happened and whether it is wrong. Long work is given to `run`."""

    said = Signal(str, bool)

    def __init__(self, session: Session, run: Run) -> None:
        super().__init__()
        self.session, self._run = session, run
        self.sent = Table("Packages that went", ("No", "On", "Kind", "To", "Pieces", "Files", "In its way", "Reason"))
        self.sent.widest = {0: 40, 1: 86, 2: 110, 3: 120, 4: 56, 5: 48, 6: 76}
        self.since = Table("Changed since", ("Mark", "Since it went"))
        self.desk: IntakeDialog | None = None  # the office's, with the package that was counted last
        self._known: dict[str, Changes] = {}  # what was told of packages, as long as the job stays as it is
        self._soon = QTimer(self)  # once, after all that one change brings with it
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._show_since)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        whole = QSplitter()
        whole.addWidget(with_buttons(self.sent, (
            ("Write again ...", "The picked package, byte by byte as it went", self.write_again),
            ("Viewer", "The page of the picked package, in the browser", self.open_page),
            ("Publish ...", "Lay the picked package out on a noticeboard: a folder that others see", self.publish),
            ("Intake ...", "Counted as the fabricator's office does, with its receipt and its answer", self.intake),
            ("Progress in ...", "The fabricator's answer: how far each piece is", self.take_progress),
            ("Colour by progress", "The model, by how far pieces are", self.colour))))  # fmt: skip
        whole.addWidget(with_buttons(self.since, (
            ("Show them", "What came or changed since, picked in the model", self.show_since),)))  # fmt: skip
        whole.setSizes([620, 340])
        layout.addWidget(whole)
        self.sent.chosen.connect(lambda _: self._show_since())
        self.since.chosen.connect(self._select)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._soon.start()

    def other(self) -> None:
        """The job is another: what was told of it counts no more."""
        self._known.clear()
        self._soon.start()

    def refresh(self) -> None:
        """What there is of packages; what is picked stays picked."""
        sendings = sorted(self.session.job.all(Sending), key=lambda s: -s.number)
        picked = self.sent.picked()
        self.sent.fill([(str(s.number), s.on, s.kind, s.receiver, str(len(s.pieces)), str(len(s.files)),
            str(len(s.against) or ""), s.reason) for s in sendings], [s.id for s in sendings])  # fmt: skip
        if sendings:
            self.sent.pick(picked[0] if picked else sendings[0].id)
        self._show_since()

    def _picked(self) -> Sending | None:
        for id in self.sent.picked()[:1]:
            return self.session.job.get(str(id), Sending)
        return None

    def _with_picked(self, do: Callable[[Sending], object]) -> None:
        sending = self._picked()
        if sending is None:
            self.said.emit("Pick a package that went first.", True)
        else:
            self.session.attempt(lambda: do(sending))

    # -- what changed since ---------------------------------------------------------------------------------------
    def _show_since(self) -> None:
        sending = self._picked()
        if sending is None:
            self.since.fill([], [])
            return
        if not self.isVisible():
            return  # it is asked again as it is shown

        def work() -> None:
            session = self.session
            found = self._known.get(sending.id)
            if found is None:
                found = since_sent(session.job, session.shop, sending, session.content)
                self._known[sending.id] = found
            rows = [(one.mark or "(no mark)", f"{one.how}: {one.words}".rstrip(": ")) for one in found.pieces]
            self.since.fill(rows, [one.piece for one in found.pieces])

        self.session.attempt(work)

    def _select(self, keys: list[object]) -> None:
        self.session.select(set(map(str, keys)) & self.session.shop.assemblies.keys())

    def show_since(self) -> None:
        """What came or changed since the picked package went, all of it, in the model."""
        found = set(map(str, self.since.rows.keys)) & self.session.shop.assemblies.keys()
        if not found:
            self.said.emit("Nothing came or changed since.", False)
            return
        self.session.go("Frame")
        self.session.select(found)
        self.session.framed.emit()

    # -- written, looked at, laid out -----------------------------------------------------------------------------
    def write_again(self) -> None:
        def begin(sending: Sending) -> None:
            if (out := folder_for(self, "The folder that it is written in")) is not None:
                self.written(sending, out)

        self._with_picked(begin)

    def written(self, sending: Sending, out: Path) -> None:
        """Raises JobError."""
        self.said.emit(f"✓ Package {sending.number} is in {written_again(self.session.job, sending, out)}.", False)

    def open_page(self) -> None:
        self._with_picked(lambda sending: QDesktopServices.openUrl(QUrl.fromLocalFile(str(self.page_of(sending)))))

    def page_of(self, sending: Sending) -> Path:
        """The page of a package, where a browser can open it. Raises JobError where it had none."""
        path = self.session.job.path
        if path is None or all(one.file != PAGE for one in sending.files):
            raise JobError(f"Package {sending.number} went without a viewer; tick it among what goes into its kind.")
        return written_again(self.session.job, sending, kept_folder(path) / "opened") / PAGE

    def publish(self) -> None:
        def begin(sending: Sending) -> None:
            if (board := folder_for(self, "The folder of the noticeboard")) is not None:
                self.publish_on(sending, board)

        self._with_picked(begin)

    def publish_on(self, sending: Sending, board: Path) -> None:
        """Lay a package out, in the background."""
        job = self.session.job

        def work(tell: Tell, stopped: Callable[[], bool]) -> object:
            tell(0, 0, "laying out")
            with tempfile.TemporaryDirectory(prefix="uncus-") as place:
                folder = written_again(job, sending, Path(place))
                data = zip_bytes(folder, sending.on)
            on = Noticeboard(board)
            notice = on.lay_out(unpacked(data, sending.folder))
            told = "".join(f" {who} {words}." for who, words in on.to_learn(notice).items())
            return f"✓ Package {sending.number} is version {notice.version} on {board}.{told}"

        self._run(work, lambda words: self.said.emit(str(words), False), f"Laying out package {sending.number} ...")

    # -- answers ----------------------------------------------------------------------------------------------------
    def intake(self) -> None:
        self._with_picked(self.count)

    def count(self, sending: Sending) -> None:
        """A package counted by the office in the background; then its desk is shown. Raises JobError."""
        job = self.session.job
        if job.path is None:
            raise JobError("This job is in memory alone and keeps no packages.")
        office = Intake(kept_folder(job.path) / "intake", "Intake")

        def work(tell: Tell, stopped: Callable[[], bool]) -> object:
            tell(0, 0, "counting")
            with tempfile.TemporaryDirectory(prefix="uncus-") as place:
                return office.take(written_again(job, sending, Path(place)))

        def came(receipt: object) -> None:
            assert isinstance(receipt, Receipt)
            self.said.emit(f"The office has counted package {sending.number}.", False)
            self.desk = IntakeDialog(self.session, sending, office, receipt, self)
            self.desk.answered.connect(self._take_in)
            self.desk.open()

        self._run(work, came, f"The office counts package {sending.number} ...")

    def _take_in(self, data: bytes) -> None:
        self.session.attempt(lambda: self.progress_of(data, "The intake's answer"))

    def take_progress(self) -> None:
        if (path := open_file(self, "The fabricator's progress", "Progress (*.json)")) is not None:
            self.session.attempt(lambda: self.progress_from(path))

    def progress_from(self, path: Path) -> None:
        """Raises JobError."""
        self.progress_of(read_outside(path), path.name)

    def progress_of(self, data: bytes, name: str) -> None:
        """Raises JobError."""
        told = read_progress(data, name)
        answer = taken_in(self.session.job, self.session.shop, told)
        if answer.records:
            self.session.change(f"Progress of {told.by or name}", answer.records)
        notes = " ".join(("", *answer.notes))
        self.said.emit(f"{counted(len(answer.records), 'piece')} reported.{notes}", bool(answer.notes))

    def colour(self) -> None:
        """The model by how far pieces are; once more: as it was."""
        self.session.by_progress = not self.session.by_progress
        if self.session.by_progress:
            self.session.go("Frame")
        self.session.coloured.emit()


def with_buttons(table: Table, buttons: Sequence[tuple[str, str, Callable[[], object]]]) -> QWidget:
    """A table with its buttons under it."""
    box = QWidget()
    column = QVBoxLayout(box)
    column.setContentsMargins(0, 0, 0, 0)
    column.addWidget(table, 1)
    column.addLayout(button_row(buttons))
    return box
