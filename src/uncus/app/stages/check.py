"""Check: findings as a list, joints that fail or are not checked among them; a row leads to its piece."""

from __future__ import annotations

import time

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.app.theme import theme_of
from uncus.job.records import Attachment, Connection, Member
from uncus.units import counted

_SLICE = 0.02  # s of the window's thread at a time for the strength of joints


class CheckPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        layout = QVBoxLayout(self)
        self.title = QLabel()
        self.title.setProperty("title", True)
        self.table = Table("Findings", ("State", "Piece", "What does not fit, and what to do"))
        self.table.setWordWrap(True)
        self.table.chosen.connect(self._chosen)
        layout.addWidget(self.title)
        layout.addWidget(self.table)
        self._undesigned: list[str] = []
        self._designing = QTimer(self, interval=0)
        self._designing.timeout.connect(self._design_some)

    def refresh(self) -> None:
        shop = self.session.shop
        self._undesigned = [id for id in shop.connections if not shop.is_designed(id)]
        if self._undesigned:
            self._designing.start()
        self._show()

    def _design_some(self) -> None:
        """Work out the strength of joints a slice at a time, so that the window stays quick."""
        shop, since = self.session.shop, time.monotonic()
        while self._undesigned and time.monotonic() - since < _SLICE:
            shop.design(self._undesigned.pop())
        if self._undesigned and self.isVisible():
            self._entitle(self.table.rows.rowCount())
            return
        self._designing.stop()
        if self.isVisible():
            self._show()
            self.session.coloured.emit()

    def _show(self) -> None:
        session = self.session
        marks = session.marks
        rows, keys = [], []
        for finding in session.shop.known_findings:
            joined = session.job.get(finding.about, Connection) or session.job.get(finding.about, Attachment)
            owner = joined.member if joined else finding.about
            member = session.job.get(owner, Member)
            piece = marks.of_assembly(owner) or (f"{member.role} {member.section}" if member else "?")
            rows.append((f"▲ {finding.severity}", piece, finding.text))
            keys.append(owner)
        theme = theme_of(self)
        self.table.rows.colours = {"▲ wrong": theme.wrong, "▲ look here": theme.look}
        self.table.fill(rows, keys)
        self.table.setColumnWidth(1, 150)
        self.table.resizeRowsToContents()
        self._entitle(len(rows))

    def _entitle(self, number: int) -> None:
        words = counted(number, "finding")
        if self._undesigned:
            words += f"; the strength of {counted(len(self._undesigned), 'joint')} is being worked out"
        elif not number:
            words = "✓ Nothing is found wrong"
        self.title.setText(words)

    def owners(self) -> set[str]:
        return {str(k) for k in self.table.rows.keys}

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        if keys:
            self.session.select(set(keys))
            self.session.framed.emit()
