"""The fabricator's office beside the window: what it counts in a package, what it asks for, and its answer."""

from __future__ import annotations

from datetime import date

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.ordered import plain_button
from uncus.app.stages.table import Table
from uncus.app.stages.working import say_on
from uncus.job.packages import Sending, Stage
from uncus.standin.intake import Intake, Receipt, to_json
from uncus.units import counted, format_weight

_TEACHES = (
    "This is what the office that gets the package makes of it, by the package alone. Answer for pieces by their marks "
    "(none: all that it has), and the answer comes back into the job as a file from outside would."
)


class IntakeDialog(QDialog):
    """The office's desk with a package and its receipt on it. `answered` carries the progress file."""

    answered = Signal(bytes)

    def __init__(self, session: Session, sending: Sending, office: Intake, receipt: Receipt, parent: QWidget) -> None:
        super().__init__(parent)
        self.session, self.sending, self.office, self.receipt = session, sending, office, receipt
        self.setWindowTitle(f"Intake: package {sending.number}, {sending.kind}")
        self.resize(720, 240)
        self.counts = QLabel(_counts(self.receipt, session))
        self.counts.setAccessibleName("What the office counts")
        self.counts.setWordWrap(True)
        taken = f"✓ Nothing is missing; the receipt is given. Against what it had: {_against(receipt)}"
        self.said = QLabel(taken if receipt.accepted else "✕ Not taken: it asks for what is listed.")
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What the office says")
        self.listed = Table("What the office notes", ("What", "Of"))
        rows = _rows(self.receipt)
        self.listed.fill(rows, list(range(len(rows))))
        self.listed.setVisible(bool(rows))
        self.marks, self.stage = QLineEdit(), QComboBox()
        self.marks.setPlaceholderText("marks, such as B1, C3; none: all")
        self.marks.setAccessibleName("Marks that are answered for")
        self.stage.setAccessibleName("How far they are")
        self.stage.addItems([str(s) for s in Stage])
        self._lay_out()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.setSpacing(8)
        teaches = QLabel(_TEACHES)
        teaches.setWordWrap(True)
        for widget in (teaches, self.counts, self.said):
            layout.addWidget(widget)
        layout.addWidget(self.listed, 1)
        answer = QGridLayout()
        for column, (words, field) in enumerate((("Pieces", self.marks), ("are", self.stage))):
            label = QLabel(words)
            label.setBuddy(field)
            answer.addWidget(label, 0, 2 * column)
            answer.addWidget(field, 0, 2 * column + 1)
        answer.setColumnStretch(1, 1)
        layout.addLayout(answer)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(plain_button("Close", "", self.reject))
        self.answer_button = plain_button("Answer", "The progress file, taken into the job", self.answer)
        self.answer_button.setProperty("main", True)
        self.answer_button.setEnabled(self.receipt.accepted)
        row.addWidget(self.answer_button)
        layout.addLayout(row)

    def answer(self) -> None:
        """The office's progress file, given back."""
        marks = [m.strip() for m in self.marks.text().split(",") if m.strip()]
        stage = Stage(self.stage.currentText())
        told = self.office.report(self.receipt.job, self.receipt.number, stage, marks, date.today().isoformat())
        there = {p.mark for p in told.pieces}
        if unknown := [m for m in marks if m not in there]:
            say_on(self.said, f"The office has no piece marked {', '.join(unknown)}.", True)
            return
        say_on(self.said, f"✓ {counted(len(told.pieces), 'piece')} told as {stage}.", False)
        self.answered.emit(to_json(told))


def _counts(receipt: Receipt, session: Session) -> str:
    weight = format_weight(receipt.kg, session.job.project.units)
    return (f"{counted(receipt.pieces, 'piece')}, {counted(receipt.parts, 'part')}, {counted(receipt.bolts, 'bolt')}, "
        f"{weight}, {receipt.nc} NC, {counted(receipt.sheets, 'sheet')}.")  # fmt: skip


def _against(receipt: Receipt) -> str:
    told = (("new", receipt.added), ("gone", receipt.gone), ("changed", receipt.changed))
    return (", ".join(f"{len(marks)} {what}" for what, marks in told if marks) or "nothing is different") + "."


def _rows(receipt: Receipt) -> list[tuple[str, str]]:
    return [("asks for", words) for words in receipt.missing] + [(what, mark) for what, marks in
        (("new", receipt.added), ("gone", receipt.gone), ("changed", receipt.changed)) for mark in marks]  # fmt: skip
