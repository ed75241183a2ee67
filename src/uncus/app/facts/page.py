"""One page of the facts: titles, headings and rows, as its makers ask for them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFormLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from uncus.app.command import Command
from uncus.app.facts.form import add_row, new_form
from uncus.app.session import Session


class Page(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("facts")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 12, 14, 12)
        self.column.setSpacing(4)
        self.form: QFormLayout = new_form()

    def title(self, words: str, quiet: str) -> None:
        title, under = QLabel(words), QLabel(quiet)
        title.setProperty("title", True)
        under.setProperty("quiet", True)
        for label in (title, under):
            label.setWordWrap(True)
            self.column.addWidget(label)

    def heading(self, words: str) -> None:
        label = QLabel(words.upper())
        label.setProperty("heading", True)
        label.setContentsMargins(0, 10, 0, 2)
        self.column.addWidget(label)
        self.form = new_form()
        self.column.addLayout(self.form)

    def row(self, words: str, field: QWidget, help: str = "") -> None:
        add_row(self.form, words, field, help)

    def fact(self, words: str, value: str) -> None:
        label = QLabel(value)
        label.setAccessibleName(words)
        label.setWordWrap(True)
        label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.row(words, label)

    def words(self, words: str) -> None:
        label = QLabel(words)
        label.setWordWrap(True)
        label.setProperty("quiet", True)
        self.column.addWidget(label)

    def finding(self, words: str) -> None:
        label = QLabel(f"▲ {words}")
        label.setWordWrap(True)
        label.setProperty("error", True)
        label.setAccessibleName("Finding")
        self.column.addWidget(label)

    def command(self, command: Command, words: str = "") -> None:
        """A button for a command of the table."""
        self.button(words or command.words, command.help, lambda: self.session.wanted.emit(command))

    def button(self, words: str, help: str, do: Callable[[], object], name: str = "") -> None:
        button = QPushButton(words)
        button.setAccessibleName(name or words)
        button.setToolTip(help)
        button.clicked.connect(lambda: do())
        self.column.addWidget(button)
