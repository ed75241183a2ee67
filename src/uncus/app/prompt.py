"""The prompt at the foot: what the tool wants next, what is typed, the snap and the work plane."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QMenu, QPushButton, QSizePolicy, QWidget

from uncus.app import framing
from uncus.app.command import Command
from uncus.app.frame_commands import PLANES, SNAPS
from uncus.app.job_commands import FAULT
from uncus.app.session import Session
from uncus.app.theme import sized
from uncus.frame.snaps import Snap


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
        sized(self, high=40)
        self.setAccessibleName("Prompt")
        self.tool = QLabel()
        self.tool.setStyleSheet("font-weight: 600;")
        self.words = QLabel()
        self.words.setAccessibleName("What comes next")
        self.words.setWordWrap(True)  # a long sentence takes a second line
        self.words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.entry: Entry = Entry()
        sized(self.entry, wide=140)
        self.entry.setAccessibleName("Typed value")
        self.entry.setToolTip(
            "Just type, no click needed (F2 for letters):\n"
            "12'-6 or (24'-6)/3   so far along the pointer\n"
            "12' at 30 or 12' at 4:12   at an angle\n"
            "3', -2'   along the plane's x and y; a third goes out of it\n"
            "2/B or 2/B + 3', -2'   from a grid crossing, or origin + ..."
        )
        self.entry.returnPressed.connect(self._entered)
        self.entry.left.connect(self.left)
        self.report = QPushButton("Show report")
        self.report.setAccessibleName("Show report")
        self.report.setToolTip("What is known of the fault; it holds nothing of the job but ids")
        self.report.setProperty("chip", True)
        self.report.setVisible(False)
        self.report.clicked.connect(lambda: session.wanted.emit(FAULT))
        session.faulted.connect(lambda: self.report.setVisible(True))
        self.snap, self.plane, self.held = QPushButton(), QPushButton(), QLabel("▰ held to the plane")
        for chip, name, help in (
            (self.snap, "Snap", "What the pointer snaps to; press to take one kind only, or hold picks to the plane"),
            (self.plane, "Work plane", "What picks and typed values lie on; press to choose another (W)"),
        ):
            chip.setProperty("chip", True)
            chip.setAccessibleName(name)
            chip.setToolTip(help)
            chip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.held.setProperty("chip", True)
        self.held.setProperty("error", True)
        self.held.setAccessibleName("Held to the plane")
        self.held.setToolTip("Every pick is dropped onto the work plane; Alt+H lets go")
        self.snap.clicked.connect(self.choose_snap)
        self.plane.clicked.connect(self.choose_plane)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 2, 14, 2)
        layout.setSpacing(10)
        layout.addWidget(self.tool)
        layout.addWidget(self.words, 1)
        layout.addWidget(self.report)
        layout.addWidget(self.entry)
        for widget in (self.held, self.snap, self.plane):
            layout.addWidget(widget)
        self._snap: Snap | None = None
        self._tool: object = session.tool
        self._calm = QTimer(self, singleShot=True, interval=9000)
        self._calm.timeout.connect(self.refresh)
        session.tool_changed.connect(self.refresh)
        session.stage_changed.connect(lambda _: self.refresh())
        session.said.connect(self.say)
        self.refresh()

    def refresh(self) -> None:
        """The tool's own words again."""
        session = self.session
        if session.tool is not self._tool:  # what was typed for another tool means nothing to this one
            self._tool = session.tool
            self.entry.clear()
        in_model = session.stage in ("Frame", "Connect", "Check", "Mark")
        self.tool.setText(session.tool.words if in_model else session.stage)
        words = (
            session.tool.prompt
            if in_model
            else {
                "Draw": "pick a sheet in the register; wheel zooms, drag pans, Tab goes to the model",
                "Deliver": "choose what goes and to whom, ask whether it is ready, then make it",
            }[session.stage]
        )
        self._show(words, False)
        self.entry.setVisible(in_model)
        self.snap.setVisible(session.tool.picks_points and not session.tool.picks_pieces and in_model)
        self.held.setVisible(session.held and in_model)
        self.plane.setVisible(in_model)
        self.plane.setText(f"plane: {session.plane_words()}")
        self.show_snap(self._snap)

    def _show(self, words: str, error: bool) -> None:
        self.words.setProperty("error", error)
        self.words.style().unpolish(self.words)
        self.words.style().polish(self.words)
        self.words.setText(("✕ " if error else "") + words)
        self.words.setToolTip(words)

    def say(self, words: str, error: bool) -> None:
        """One sentence; the tool's own words come back after a while."""
        self._show(words, error)
        self.report.setVisible(False)
        self._calm.start()

    def show_snap(self, snap: Snap | None) -> None:
        self._snap = snap
        only = f"{self.session.only} only: " if self.session.only else ""
        words = f"snap: {only}{snap.words if snap else 'none'}"
        self.snap.setText(words if len(words) < 52 else words[:50] + "…")
        self.snap.setToolTip(words)

    # -- menus ------------------------------------------------------------------------------------
    def _menu(self, over: QWidget, fill) -> None:  # type: ignore[no-untyped-def]
        menu = QMenu(self)
        fill(menu)
        menu.popup(over.mapToGlobal(QPoint(0, 0)) - QPoint(0, menu.sizeHint().height() + 4))

    def _add(self, menu: QMenu, command: Command) -> None:
        if command.when(self.session):
            action = menu.addAction(command.words + (f"\t{command.key}" if command.key else ""))
            action.setToolTip(command.help)
            action.triggered.connect(lambda: self.session.wanted.emit(command))

    def choose_snap(self) -> None:
        """The kinds of snap with their keys."""

        def fill(menu: QMenu) -> None:
            for command in SNAPS:
                self._add(menu, command)

        self._menu(self.snap, fill)

    def choose_plane(self) -> None:
        """Every work plane there is, then ways to get another."""

        def fill(menu: QMenu) -> None:
            for n, plane in enumerate(framing.planes(self.session)):
                key = f"&{n + 1} " if n < 9 else ""
                action = menu.addAction(f"{key}{plane.name}")
                action.setCheckable(True)
                action.setChecked(plane.name == self.session.plane.name)
                action.triggered.connect(lambda _=False, plane=plane: self.session.set_plane(plane))
            menu.addSeparator()
            for command in PLANES:
                self._add(menu, command)

        self._menu(self.plane, fill)

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
