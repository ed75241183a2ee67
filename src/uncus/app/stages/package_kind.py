"""What goes into a kind of package, and what stands in its way: a form of boxes to tick."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QGridLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from uncus.app.facts.form import new_form
from uncus.app.session import Session
from uncus.app.stages.ordered import keep_row
from uncus.app.stages.working import say_on
from uncus.bill.listing import templates_of
from uncus.deliver.outputs import OUTPUTS
from uncus.deliver.ready import CHECKS
from uncus.deliver.sending import USUAL, folder_name
from uncus.draw.register import KINDS
from uncus.job.billing import ListTemplate
from uncus.job.packages import SEVERITIES, PackageKind
from uncus.job.record import new_id
from uncus.job.records import Lens

_JOB = "job itself"
_EVERYTHING = "everything"


class Ticks(QWidget):
    """Names to tick, in columns; `none` says what none of them means."""

    def __init__(
        self, name: str, offers: Iterable[tuple[str, str]], ticked: Iterable[str], columns: int = 3, none: str = ""
    ) -> None:
        super().__init__()
        self.setAccessibleName(name)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        self.boxes: dict[str, QCheckBox] = {}
        ticked = set(ticked)
        for k, (value, words) in enumerate(offers):
            box = self.boxes[value] = QCheckBox(words)
            box.setAccessibleName(f"{name}: {words}")
            box.setChecked(value in ticked)
            grid.addWidget(box, k // columns, k % columns)
        if none:
            words_of_none = QLabel(none)
            words_of_none.setProperty("quiet", True)
            grid.addWidget(words_of_none, grid.rowCount(), 0, 1, columns)

    def ticked(self) -> tuple[str, ...]:
        return tuple(value for value, box in self.boxes.items() if box.isChecked())


class KindDialog(QDialog):
    """`made` is the kind as it was kept; under another name it is another kind."""

    def __init__(self, session: Session, kind: PackageKind, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.kind = session, kind
        self.made: PackageKind | None = None
        self.setWindowTitle("Kind of package")
        self.setMinimumWidth(680)
        job = session.job
        self.name, self.name_by = QLineEdit(kind.name), QLineEdit(kind.name_by)
        self.preview = QLabel()
        self.preview.setProperty("quiet", True)
        outputs = [(o.name, o.words) for o in OUTPUTS] + [(_JOB, "The job itself")]
        self.goes = Ticks("What goes", outputs, (*kind.outputs, *([_JOB] if kind.job else [])))
        self.sheets = Ticks("Sheets", [(k, k) for k in KINDS], kind.sheets, 4, "none ticked: all")
        self.lists = Ticks(
            "Lists", [(t.name, t.name) for t in templates_of(job.all(ListTemplate))], kind.lists, 4, "none ticked: all"
        )
        self.must = Ticks("Stands in its way", [(n, c.words) for n, c in CHECKS.items()], kind.must, 2)
        self.lens, self.severity = QComboBox(), QComboBox()
        self.lens.addItems([_EVERYTHING, *(one.name for one in job.all(Lens))])
        self.lens.setCurrentText(kind.lens or _EVERYTHING)
        self.severity.addItems(SEVERITIES)
        self.severity.setCurrentText(kind.severity)
        self.said = QLabel(" ")
        self.said.setWordWrap(True)
        for widget, name in ((self.name, "Name of the kind"), (self.name_by, "Name of its folder"),
                (self.preview, "Its folder's name would be"), (self.lens, "Limited to"), (self.severity,
                "Findings from"), (self.said, "What is wrong with the kind")):  # fmt: skip
            widget.setAccessibleName(name)
        self.name_by.textChanged.connect(lambda _: self._show_name())
        self._lay_out()
        self._show_name()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        form = new_form()
        rows: Sequence[tuple[str, QWidget, str]] = (
            ("Name", self.name, "Another name makes another kind"),
            ("What goes", self.goes, "IFC or the material file, by what the receiver reads"),
            ("Sheets", self.sheets, "None ticked: all"),
            ("Lists", self.lists, "None ticked: all"),
            ("Limited to", self.lens, "A lens of this job"),
            ("In its way", self.must, "What must be so before it goes; the others are told"),
            ("Findings from", self.severity, "Those of this weight and graver stand in its way"),
            ("Folder", self.name_by, "{job}, {number}, {kind}, {date} and {no} are filled in"),
            ("", self.preview, ""),
        )
        form.setVerticalSpacing(10)
        for words, widget, help in rows:
            label = QLabel(words)
            label.setBuddy(widget)
            label.setToolTip(help)
            widget.setToolTip(help)
            form.addRow(label, widget)
        layout.addLayout(form)
        layout.addWidget(self.said)
        layout.addLayout(keep_row(self, self.keep, "As a kind of this job"))

    def value(self) -> PackageKind:
        """The kind as it is typed and ticked: this office's own, the usual ones stay."""
        goes, name = self.goes.ticked(), self.name.text().strip()
        own = not any(self.kind.id == k.id for k in USUAL) and name.casefold() == self.kind.name.casefold()
        lens = self.lens.currentText()
        return PackageKind(id=self.kind.id if own else new_id(), name=name,
            outputs=tuple(n for n in goes if n != _JOB), sheets=self.sheets.ticked(), lists=self.lists.ticked(),
            lens="" if lens == _EVERYTHING else lens, job=_JOB in goes, name_by=self.name_by.text().strip(),
            must=self.must.ticked(), severity=self.severity.currentText())  # fmt: skip

    def keep(self) -> None:
        made = self.value()
        if problem := made.problem():
            say_on(self.said, problem, True)
            return
        self.made = made
        self.accept()

    def _show_name(self) -> None:
        made = self.value()
        shown = made.problem() or f"as {folder_name(self.session.job, made, date.today().isoformat(), 7)}"
        self.preview.setText(shown)
