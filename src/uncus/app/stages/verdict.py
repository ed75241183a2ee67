"""Putting findings aside: by whom and why."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QFormLayout, QLabel, QLineEdit, QWidget

from uncus.app.stages.lines import ask_lines
from uncus.units import counted


class AsideDialog(QDialog):
    def __init__(self, parent: QWidget, number: int, name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Put aside")
        self.setMinimumWidth(460)
        form = QFormLayout(self)
        form.addRow(QLabel(f"{counted(number, 'finding')}; each comes back when either of its pieces changes there."))
        self._by, self._why = QLineEdit(name), QLineEdit()
        ask_lines(self, form, (
            ("By", self._by, "Who answers for it"),
            ("Why", self._why, "What a checker reads who comes upon it"),
        ))  # fmt: skip
        (self._why if name else self._by).setFocus()

    @property
    def by(self) -> str:
        return self._by.text()

    @property
    def why(self) -> str:
        return self._why.text()
