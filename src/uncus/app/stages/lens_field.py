"""A field that limits a panel to what a lens lets through."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel

from uncus.app.session import Session
from uncus.job.records import Lens

_ALL = "everything"


class LensField(QComboBox):
    def __init__(self, session: Session, name: str, help: str) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName(name)
        self.setToolTip(help)

    @property
    def lens(self) -> str:
        """The lens's name; nothing where all is let through."""
        chosen = self.currentText()
        return "" if chosen == _ALL else chosen

    def refresh(self) -> None:
        chosen = self.currentText()
        self.clear()
        self.addItems([_ALL, *(lens.name for lens in self.session.job.all(Lens))])
        self.setCurrentText(chosen or _ALL)

    def row(self) -> QHBoxLayout:
        """The field beside its word."""
        found = QHBoxLayout()
        label = QLabel("Lens")
        label.setBuddy(self)
        found.addWidget(label)
        found.addWidget(self, 1)
        return found
