"""Check: findings as a list; a row leads to its piece."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.job.records import Connection, Member


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

    def refresh(self) -> None:
        session = self.session
        marks = session.marks
        rows, keys = [], []
        for finding in session.shop.all_findings:
            connection = session.job.get(finding.about, Connection)
            owner = connection.member if connection else finding.about
            member = session.job.get(owner, Member)
            piece = marks.of_assembly(owner) or (f"{member.role} {member.section}" if member else "?")
            rows.append((f"▲ {finding.severity}", piece, finding.text))
            keys.append(owner)
        self.table.rows.colours = {"▲ wrong": "#B83A22", "▲ look here": "#8A5E0A"}
        self.table.fill(rows, keys)
        self.table.setColumnWidth(1, 150)
        self.table.resizeRowsToContents()
        words = "1 finding" if len(rows) == 1 else f"{len(rows)} findings"
        self.title.setText(words if rows else "✓ Nothing is found wrong")

    def owners(self) -> set[str]:
        return {str(k) for k in self.table.rows.keys}

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        if keys:
            self.session.select(set(keys))
            self.session.asked.emit("frame")
