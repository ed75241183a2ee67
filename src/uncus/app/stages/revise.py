"""What a revision says: its mark, what for, by whom, checked by whom."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QDialog, QFormLayout, QLabel, QLineEdit, QWidget

from uncus.app.stages.lines import ask_lines
from uncus.draw.entry import Entry
from uncus.draw.keeping import next_mark
from uncus.draw.states import why


class ReviseDialog(QDialog):
    def __init__(self, entries: Sequence[Entry], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Revise")
        self.setMinimumWidth(460)
        names = ", ".join(e.name for e in entries[:6]) + (f" and {len(entries) - 6} more" if len(entries) > 6 else "")
        form = QFormLayout(self)
        form.addRow(QLabel(f"Sheets {names}" if len(entries) > 1 else f"Sheet {names}"))
        reasons = list(dict.fromkeys(w for e in entries for w in why(e)))
        self.mark, self.words, self.drawn, self.checked = (QLineEdit() for _ in range(4))
        marks = {next_mark(e) for e in entries}
        self.mark.setPlaceholderText(marks.pop() if len(marks) == 1 else "each its next")
        self.words.setText("; ".join(reasons[:3]))
        ask_lines(self, form, (
            ("Mark", self.mark, "Empty: each sheet's next mark"),
            ("What changed", self.words, "As it stands in the sheet's block of revisions"),
            ("Drawn by", self.drawn, ""),
            ("Checked by", self.checked, ""),
        ))  # fmt: skip
        self.words.setFocus()
