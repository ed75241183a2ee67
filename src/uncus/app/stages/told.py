"""A list of sentences to read and hand on, such as the rows of a file that did not match."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget


class ToldDialog(QDialog):
    def __init__(self, title: str, words: str, lines: Sequence[str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.resize(640, 400)
        text = "\n".join(lines)
        head = QLabel(f"{words}.")
        head.setWordWrap(True)
        self.text = QPlainTextEdit(text)
        self.text.setReadOnly(True)
        self.text.setAccessibleName(title)
        layout = QVBoxLayout(self)
        layout.addWidget(head)
        layout.addWidget(self.text, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        copy, close = QPushButton("Copy"), QPushButton("Close")
        copy.setToolTip("Take the list to the clipboard")
        copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(text))
        close.setProperty("main", True)
        close.clicked.connect(self.accept)
        for button in (copy, close):
            button.setAccessibleName(button.text())
            button.setAutoDefault(button is close)
            row.addWidget(button)
        layout.addLayout(row)
