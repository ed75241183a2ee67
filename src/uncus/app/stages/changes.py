"""What changed since a kept list, a package or another job: piece by piece, in words that can be sent, in the model's
colours."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.app.stages.files import folder_for, open_file
from uncus.app.stages.lists import billing
from uncus.app.stages.ordered import plain_button
from uncus.app.stages.table import Table
from uncus.app.stages.working import Runner, Tell, say_on
from uncus.bill.changes import change_tables
from uncus.bill.compare import Compared, Difference, compare, in_words, shown
from uncus.bill.stood import of_package, stood
from uncus.deliver.list_files import list_files
from uncus.job.billing import KeptList, Stood
from uncus.job.files import write_beside
from uncus.job.job import Job
from uncus.mark.differences import differences
from uncus.mark.marking import Marks
from uncus.shop.shop import build
from uncus.steel.part import Part
from uncus.units import format_length, format_weight

_HEADS = ("Mark", "Change", "Section or plate", "Length", "Weight", "What", "Lot")


class ChangesPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: Compared | None = None
        self.kept = QComboBox()
        self.kept.setAccessibleName("Kept list to compare with")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter")
        self.filter.setAccessibleName("Filter what changed")
        self.words = QLabel(
            "Pick a list that was kept, a package's folder or another job: what changed since is told piece by piece, "
            "by who a piece is and not by its mark."
        )
        self.words.setWordWrap(True)
        self.words.setAccessibleName("What changed, in words")
        self.table = Table("What changed", _HEADS)
        self.table.widest = {2: 160, 5: 420}
        self.table.chosen.connect(self._pick)
        self.filter.textChanged.connect(self.table.filter)
        self.bar, self.stop = QProgressBar(), QPushButton("Stop")
        self.stop.setAccessibleName("Stop comparing")
        self.runner = Runner(self.bar, self.stop, self._say)
        top = QHBoxLayout()
        label = QLabel("Since")
        label.setBuddy(self.kept)
        top.addWidget(label)
        top.addWidget(self.kept, 1)
        for words, help, do in (
            ("Compare", "With the kept list", self.with_kept),
            ("A package ...", "With what a package held", self.with_package),
            ("Another job ...", "With a job file, which is only read", self.with_job),
        ):
            top.addWidget(plain_button(words, help, do))
        foot = QHBoxLayout()
        foot.addWidget(self.filter)
        foot.addWidget(self.bar, 1)
        foot.addWidget(self.stop)
        foot.addStretch(1)
        for words, help, do in (
            ("Show in the model", "Pieces in colours, with a key; once more: as before", self.show_in_model),
            ("Copy the words", "To send them", self.copy_words),
            ("Write files ...", "What changed as PDF, XLSX and CSV", self.write),
        ):
            foot.addWidget(plain_button(words, help, do))
        layout = QVBoxLayout(self)
        layout.addLayout(top)
        layout.addWidget(self.words)
        layout.addWidget(self.table, 1)
        layout.addLayout(foot)

    def refresh(self) -> None:
        chosen = self.kept.currentData()
        self.kept.clear()
        for one in reversed(self.session.job.all(KeptList)):
            self.kept.addItem(f"{one.name}, {one.on}", one.id)
        if self.kept.count() == 0:
            self.kept.addItem("No list is kept yet: keep one under Lists, as it is sent", "")
        self.kept.setCurrentIndex(max(0, self.kept.findData(chosen)))

    # -- comparing --------------------------------------------------------------------------------
    def with_kept(self) -> None:
        kept = self.session.job.get(str(self.kept.currentData()), KeptList)
        if kept is None:
            self._say("Keep a list first, or compare with a package or another job.", True)
            return
        self.tell(self._compared(kept.parts, f"{kept.name}, {kept.on}"))

    def with_package(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Folder of the package")
        if folder:
            self.session.attempt(lambda: self.tell(self._compared(of_package(Path(folder)), Path(folder).name)))

    def with_job(self) -> None:
        if path := open_file(self, "Another job", "Jobs (*.uncus)"):
            self.with_job_file(path)

    def with_job_file(self, path: Path) -> None:
        """Its steel is made aside; what it came to is compared here."""

        def work(tell: Tell, stopped: Callable[[], bool]) -> object:
            tell(0, 1, f"steel of {path.name}")
            there = Job.read(path)
            shop = build(there)
            return stood(there, shop, Marks(there, shop.carried)), {p.id: p.part for p in shop.pieces()}

        def came(found: object) -> None:
            if isinstance(found, tuple):
                self.tell(self._compared(found[0], path.stem, found[1]))

        self.runner.run(work, came)

    def _compared(self, then: Sequence[Stood], name: str, old: dict[str, Part] | None = None) -> Compared:
        of, units = billing(self.session), self.session.units
        now = stood(of.job, of.shop, of.marks)
        new = {p.id: p.part for p in of.shop.pieces()} if old else {}

        def why(id: str) -> Sequence[str]:
            return differences(new[id], old[id], units) if old else ()

        return compare(then, now, (name, "now"), units=units, why=why)

    def tell(self, found: Compared) -> None:
        """What changed, in words and row by row."""
        self.found = found
        units = self.session.units
        self._say(in_words(found, units), False)
        self.table.fill([self._row(d) for d in found.differences], [d.id for d in found.differences])

    def _row(self, d: Difference) -> tuple[str, ...]:
        units, one = self.session.units, d.one
        kg = f"{'+' if d.kg > 0 else '-'}{format_weight(abs(d.kg), units)}" if abs(d.kg) >= 0.25 else ""
        return (one.mark, ", ".join(d.kinds), shown(one.section, units), format_length(one.length, units), kg, d.words,
            one.lot)  # fmt: skip

    # -- what can be done with it -----------------------------------------------------------------
    def _pick(self, keys: list[object]) -> None:
        if self.found is not None:
            picked = set(map(str, keys))
            owners = {d.now.owner for d in self.found.differences if d.id in picked and d.now is not None}
            self.session.select(owners & self.session.shop.assemblies.keys())

    def show_in_model(self) -> None:
        session = self.session
        session.differing = None if session.differing is self.found else self.found
        if session.differing is not None:
            session.go("Frame")
        session.coloured.emit()

    def copy_words(self) -> None:
        if self.found is not None:
            QApplication.clipboard().setText(in_words(self.found, self.session.units))
            self.session.said.emit("What changed is copied, to be pasted into a letter.", False)

    def write(self) -> None:
        found = self.found
        if found is None:
            self._say("Compare first.", True)
        elif folder := folder_for(self, "Folder of what changed"):

            def work() -> None:
                tables = change_tables(found, self.session.units)
                for file, data in list_files(tables, self.session.job).items():
                    write_beside(folder / file, data)
                self.session.said.emit(f"What changed is in {folder}.", False)

            self.session.attempt(work)

    def _say(self, words: str, error: bool) -> None:
        say_on(self.words, words, error)
