"""The report of a run of rules: every end it looked at, what became of it and why; a row leads to its end."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.app.theme import theme_of
from uncus.connect.by_rule import DONE, FAILED, LOOK, SKIPPED
from uncus.job.records import Member

_SIGNS = {DONE: "✓ done", LOOK: "▲ done, look", SKIPPED: "○ skipped", FAILED: "✕ failed"}


class ReportPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        layout = QVBoxLayout(self)
        head = QHBoxLayout()
        self.title = QLabel()
        self.title.setProperty("title", True)
        close = QPushButton("Put away")
        close.setToolTip("The report goes; what was connected stays")
        close.clicked.connect(self._close)
        self.left = QPushButton("Select what was left")
        self.left.setToolTip("The members with an end that was skipped or failed; the next command works on them alone")
        self.left.clicked.connect(self._select_left)
        head.addWidget(self.title, 1)
        head.addWidget(self.left)
        head.addWidget(close)
        self.table = Table("Report", ("State", "Piece", "End", "Kind or reason"))
        self.table.chosen.connect(self._chosen)
        layout.addLayout(head)
        layout.addWidget(self.table)
        self._shown: object = None

    def refresh(self) -> None:
        report = self.session.report
        if report is None or report is self._shown:
            return
        self._shown = report
        theme = theme_of(self)
        self.table.rows.colours = {
            "✓ done": theme.go, "▲ done, look": theme.look, "○ skipped": theme.slate, "✕ failed": theme.wrong
        }  # fmt: skip
        order = {FAILED: 0, LOOK: 1, SKIPPED: 2, DONE: 3}
        rows, keys = [], []
        for line in sorted(report.lines, key=lambda line: order[line.state]):
            member = self.session.job.get(line.member, Member)
            piece = self.session.marks.of_assembly(line.member) or (
                f"{member.role} {member.section}" if member else "?"
            )
            rows.append((_SIGNS[line.state], piece, str(line.end or "crossing"), line.why))
            keys.append((line.member, line.id))
        self.table.fill(rows, keys)
        self.table.setColumnWidth(0, 110)
        self.title.setText(f"By rule: {report.words}")
        self.left.setEnabled(bool(self._members_left()))

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        if not keys:
            return
        joints = {joint for _, joint in keys if joint in self.session.job.records}
        self.session.select(joints or {member for member, _ in keys})
        self.session.framed.emit()

    def _members_left(self) -> set[str]:
        report = self.session.report
        return {line.member for line in (*report.of(FAILED), *report.of(SKIPPED))} if report else set()

    def _select_left(self) -> None:
        self.session.select(self._members_left() & self.session.job.records.keys())
        self.session.framed.emit()

    def _close(self) -> None:
        self.session.report = None
        self._shown = None
        self.session.reported.emit()
