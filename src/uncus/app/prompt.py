"""The prompt at the foot: what the tool wants next, what is typed, the snap and the work plane."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from uncus.app.session import Session
from uncus.frame.snaps import Snap
from uncus.units import format_elevation


class Entry(QLineEdit):
    left = Signal()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.clear()
            self.left.emit()
        else:
            super().keyPressEvent(event)


class Prompt(QWidget):
    """`left` says that the canvas should have the keys again."""

    left = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("foot")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedHeight(34)
        self.setAccessibleName("Prompt")
        self.tool = QLabel()
        self.tool.setStyleSheet("font-weight: 600;")
        self.words = QLabel()
        self.words.setAccessibleName("What comes next")
        self.entry = Entry()
        self.entry.setFixedWidth(130)
        self.entry.setAccessibleName("Typed value")
        self.entry.setToolTip("Lengths like 12'-6 1/2, 150.5\", 3825mm; just type, no click needed")
        self.entry.returnPressed.connect(self._entered)
        self.entry.left.connect(self.left)
        self.snap, self.plane = QLabel(), QLabel()
        for chip, name in ((self.snap, "Snap"), (self.plane, "Work plane")):
            chip.setProperty("chip", True)
            chip.setAccessibleName(name)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 2, 14, 2)
        layout.setSpacing(10)
        for widget in (self.tool, self.words, self.entry):
            layout.addWidget(widget)
        layout.addStretch(1)
        for widget in (self.snap, self.plane):
            layout.addWidget(widget)
        self._calm = QTimer(self, singleShot=True, interval=9000)
        self._calm.timeout.connect(self.refresh)
        session.tool_changed.connect(self.refresh)
        session.stage_changed.connect(lambda _: self.refresh())
        session.said.connect(self.say)
        self.refresh()

    def refresh(self) -> None:
        """The tool's own words again."""
        session = self.session
        in_model = session.stage in ("Frame", "Connect", "Check", "Mark")
        self.tool.setText(session.tool.words if in_model else session.stage)
        words = (
            session.tool.prompt
            if in_model
            else {
                "Draw": "pick a sheet in the register; wheel zooms, drag pans, Tab goes to the model",
                "Deliver": "choose what goes out, then produce the package",
            }[session.stage]
        )
        self._show(words, False)
        self.entry.setVisible(in_model)
        self.snap.setVisible(session.tool.picks_points and in_model)
        self.plane.setVisible(in_model)
        self.plane.setText(f"plane: {session.plane.name}, {format_elevation(session.plane.elevation, session.units)}")

    def _show(self, words: str, error: bool) -> None:
        self.words.setProperty("error", error)
        self.words.style().unpolish(self.words)
        self.words.style().polish(self.words)
        self.words.setText(("✕ " if error else "") + words)
        self.words.setToolTip(words)

    def say(self, words: str, error: bool) -> None:
        """One sentence; the tool's own words come back after a while."""
        self._show(words, error)
        self._calm.start()

    def show_snap(self, snap: Snap | None) -> None:
        self.snap.setText(f"snap: {snap.words}" if snap else "snap: none")

    def take(self, text: str) -> None:
        """A character typed on the canvas; a line end enters what is there."""
        if text == "\n":
            self._entered()
            return
        self.entry.setFocus()
        self.entry.insert(text)

    def _entered(self) -> None:
        if self.session.typed(self.entry.text()):
            self.entry.clear()
            self.left.emit()
        else:
            self.entry.selectAll()
