"""Lines of text that a dialog asks for, and its two buttons."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLineEdit


def ask_lines(dialog: QDialog, form: QFormLayout, lines: Iterable[tuple[str, QLineEdit, str]]) -> None:
    """Rows of words, field and what it is for, then OK and Cancel."""
    for words, field, help in lines:
        field.setAccessibleName(words)
        field.setToolTip(help)
        form.addRow(words, field)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    form.addRow(buttons)
