"""A new job: its name and number, units and standard, an office's own rules, and where its file lies."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from uncus.connect.standards import from_json, taken_in
from uncus.job.errors import JobError
from uncus.job.files import file_name, read_outside
from uncus.job.going_back import records_of
from uncus.job.job import Job
from uncus.job.records import STANDARDS, AnyRecord, Project
from uncus.job.start import new_job, new_like
from uncus.units import Units

_BY_UNITS = "by the units"


class NewJobDialog(QDialog):
    """Makes the file when it is accepted; `path` is where."""

    def __init__(self, units: Units, folder: Path, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("New job")
        self.setMinimumWidth(520)
        self.path: Path | None = None
        self._own_name = False
        self.name, self.number, self.place, self.office = (_line(w) for w in ("Name", "Number", "File", "Like"))
        self.name.setPlaceholderText("what the job is called")
        self.office.setPlaceholderText("usual rules where this is empty")
        self.units = _choice("Units", [str(u) for u in Units], str(units))
        self.standard = _choice("Joints designed by", [_BY_UNITS, *STANDARDS], _BY_UNITS)
        self.error = QLabel()
        self.error.setProperty("error", True)
        self.error.setWordWrap(True)
        self._folder = folder
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("Number", self.number)
        form.addRow("Units", self.units)
        form.addRow("Joints designed by", self.standard)
        form.addRow("Goes by", _with(self.office, "Choose", self._choose_office,
            "A job whose rules, series, lenses and presets this one starts with, or a file of standards"))  # fmt: skip
        form.addRow("File", _with(self.place, "Choose", self._choose_place, "Where the job's one file lies"))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.make = buttons.addButton("Make the job", QDialogButtonBox.ButtonRole.AcceptRole)
        self.make.setProperty("main", True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.error)
        column.addWidget(buttons)
        self.name.textChanged.connect(self._name_file)
        self.number.textChanged.connect(self._name_file)
        self.place.textEdited.connect(lambda _: setattr(self, "_own_name", True))
        self._name_file()

    def _name_file(self) -> None:
        """The file is called as the job until it is called otherwise."""
        if not self._own_name:
            words = f"{self.number.text()} {self.name.text()}".strip() or "New job"
            self.place.setText(str(self._folder / f"{file_name(words)}.uncus"))

    def _choose_office(self) -> None:
        kinds = "Jobs and standards (*.uncus *.json)"
        found, _ = QFileDialog.getOpenFileName(self, "Go by an office's own", str(self._folder), kinds)
        if found:
            self.office.setText(found)

    def _choose_place(self) -> None:
        found, _ = QFileDialog.getSaveFileName(self, "Where the job lies", self.place.text(), "Jobs (*.uncus)")
        if found:
            self._own_name = True
            self.place.setText(found)

    def accept(self) -> None:
        """Make the file; what is wrong is said here, and nothing is made."""
        try:
            self.path = self._made()
        except JobError as error:
            self.error.setText(f"▲ {error}")
            return
        super().accept()

    def _made(self) -> Path:
        name = self.name.text().strip()
        if not name:
            raise JobError("Give the job a name.")
        text = self.place.text().strip()
        if not text:
            raise JobError("Say where the job's file lies.")
        path = Path(text).expanduser()
        path = path if path.suffix == ".uncus" else path.with_name(f"{path.name}.uncus")
        if path.exists():
            raise JobError(f"{path.name} is there already; give the new job another file.")
        Job.create(path, self.records()).close()
        return path

    def records(self) -> list[AnyRecord]:
        """What the job starts with. Raises JobError."""
        name, number = self.name.text().strip(), self.number.text().strip()
        units, office = Units(self.units.currentText()), self.office.text().strip()
        if office.endswith(".uncus"):
            made = new_like(name, number, records_of(Path(office).expanduser()).values())
        else:
            made = new_job(name, number, units)
            if office:
                source = Path(office).expanduser()
                taken = taken_in(Job(made), from_json(read_outside(source), source))
                ids = {r.id for r in taken}
                made = [*(r for r in made if r.id not in ids), *taken]
        if self.standard.currentText() != _BY_UNITS:
            made = [_designed_by(r, self.standard.currentText()) if isinstance(r, Project) else r for r in made]
        return made


def _designed_by(project: Project, standard: str) -> Project:
    return msgspec.structs.replace(project, standard=standard)


def _line(name: str) -> QLineEdit:
    made = QLineEdit()
    made.setAccessibleName(name)
    return made


def _choice(name: str, choices: list[str], shown: str) -> QComboBox:
    made = QComboBox()
    made.setAccessibleName(name)
    made.addItems(choices)
    made.setCurrentText(shown)
    return made


def _with(field: QLineEdit, words: str, do, help: str) -> QWidget:  # type: ignore[no-untyped-def]
    """A field with a button that fills it."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 0, 0, 0)
    button = QPushButton(words)
    button.setToolTip(help)
    field.setToolTip(help)
    button.setAccessibleName(f"{words}: {field.accessibleName()}")
    button.clicked.connect(lambda: do())
    layout.addWidget(field, 1)
    layout.addWidget(button)
    return row
