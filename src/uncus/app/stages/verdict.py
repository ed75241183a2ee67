"""Putting findings aside: by whom and why."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QWidget

from uncus.units import counted


class AsideDialog(QDialog):
    def __init__(self, parent: QWidget, number: int, name: str) -> None:
        super().__init__(parent)
        self.setWindowTitle("Put aside")
        self.setMinimumWidth(460)
        form = QFormLayout(self)
        form.addRow(QLabel(f"{counted(number, 'finding')}; each comes back when either of its pieces changes there."))
        self._by, self._why = QLineEdit(name), QLineEdit()
        for words, field, help in (
            ("By", self._by, "Who answers for it"),
            ("Why", self._why, "What a checker reads who comes upon it"),
        ):
            field.setAccessibleName(words)
            field.setToolTip(help)
            form.addRow(words, field)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        form.addRow(buttons)
        (self._why if name else self._by).setFocus()

    @property
    def by(self) -> str:
        return self._by.text()

    @property
    def why(self) -> str:
        return self._why.text()
