"""The report of a fault of the program: what it says, where it is kept, and a way to hand it on."""

from __future__ import annotations

from PySide6.QtCore import QUrl
from PySide6.QtGui import QDesktopServices, QGuiApplication
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from uncus.app.session import Session


class FaultDialog(QDialog):
    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Report of a fault")
        self.resize(720, 460)
        self.text = QPlainTextEdit(session.fault_report)
        self.text.setReadOnly(True)
        self.text.setAccessibleName("Report")
        kept = session.fault_kept
        words = QLabel(
            "Something in the program went wrong. The job is kept and nothing of it is lost. Send this report to "
            "whoever "
            "looks after Uncus for you: it holds nothing of the job but ids of records."
            + (f" It is kept as {kept}." if kept else "")
        )
        words.setWordWrap(True)
        layout = QVBoxLayout(self)
        layout.addWidget(words)
        layout.addWidget(self.text, 1)
        row = QHBoxLayout()
        row.addStretch(1)
        copy = QPushButton("Copy")
        copy.setToolTip("Take the report to the clipboard")
        copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(session.fault_report))
        row.addWidget(copy)
        if kept is not None:
            folder = QPushButton("Open its folder")
            folder.clicked.connect(lambda: QDesktopServices.openUrl(QUrl.fromLocalFile(str(kept.parent))))
            row.addWidget(folder)
        close = QPushButton("Close")
        close.setProperty("main", True)
        close.clicked.connect(self.accept)
        row.addWidget(close)
        layout.addLayout(row)
        for button in self.findChildren(QPushButton):
            button.setAccessibleName(button.text())
            button.setAutoDefault(button is close)
