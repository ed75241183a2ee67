"""The shelf: the stage's tools as words, each with its icon and key."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from PySide6.QtCore import QByteArray, QSize, Qt
from PySide6.QtGui import QFontMetrics, QIcon, QPainter, QPixmap, QShowEvent
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from uncus.app.command import Command
from uncus.app.commands import on_shelf
from uncus.app.keys import key_of
from uncus.app.session import STAGES, Session
from uncus.app.theme import lettering, sized

_LEFT, _BETWEEN, _RIGHT = 36, 14, 12  # px: to the words, from them to the key, and to the edge


@cache
def icon(name: str, colour: str = "#5A6B74") -> QIcon:
    """One of our own line icons in a colour."""
    source = (files("uncus") / "app" / "icons" / f"{name}.svg").read_text().replace("#5A6B74", colour)
    renderer = QSvgRenderer(QByteArray(source.encode()))
    pixmap = QPixmap(36, 36)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    renderer.render(painter)
    painter.end()
    return QIcon(pixmap)


class ToolButton(QPushButton):
    """A command on the shelf: icon, words, key."""

    def __init__(self, command: Command, session: Session) -> None:
        super().__init__(f" {command.words}")
        self.command = command
        self.setProperty("tool", True)
        self.setIcon(icon(command.icon))
        sized(self, icon=17)
        self.setCheckable(True)
        self.setAccessibleName(command.words)
        self._session = session
        own = self._own_key(command)
        self.setToolTip(command.help + (f"  ({own})" if own else ""))
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        key = QLabel(own)
        key.setProperty("quiet", True)
        self.key = key
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, _RIGHT, 0)
        layout.addStretch(1)
        layout.addWidget(key)
        self.clicked.connect(lambda: self._do(session))

    def sizeHint(self) -> QSize:
        self.ensurePolished()
        return QSize(self.width_for(self.command), super().sizeHint().height())

    def width_for(self, command: Command) -> int:
        """Room for icon, words (bold while the tool is at hand) and key of a command, side by side, in this row's
        letters."""
        bold = self.font()
        bold.setBold(True)
        words = QFontMetrics(bold).horizontalAdvance(f" {command.words}")
        key = QFontMetrics(self.key.font()).horizontalAdvance(self._own_key(command))
        return round(_LEFT * lettering()) + words + _BETWEEN + key + _RIGHT

    def _own_key(self, command: Command) -> str:
        return key_of(command, self._session.preferences).replace("Return", "Enter")

    def _do(self, session: Session) -> None:
        self.setChecked(session.tool.words == self.command.words)
        session.wanted.emit(self.command)


class Shelf(QScrollArea):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("shelf")
        self.setAccessibleName("Shelf")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        body.setObjectName("shelf")
        body.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setWidget(body)
        self._layout = QVBoxLayout(body)
        self._layout.setContentsMargins(0, 4, 0, 4)
        self._layout.setSpacing(0)
        self.buttons: dict[str, ToolButton] = {}
        session.stage_changed.connect(self.show_stage)
        session.tool_changed.connect(self._check)
        session.selection_changed.connect(self._enable)
        session.steel.connect(lambda _: self._enable())
        session.keys_changed.connect(lambda: self.show_stage(session.stage))
        self.show_stage(session.stage)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.fit()

    def fit(self) -> None:
        """As wide as the widest row of any stage, now that its lettering is known: it stays so from stage to stage."""
        commands = [c for stage in STAGES for c in on_shelf(stage)]
        row = ToolButton(commands[0], self.session)
        row.setParent(self)
        for widget in (row, row.key):
            widget.ensurePolished()
        widest = max(row.width_for(command) for command in commands)
        row.deleteLater()
        self.setMinimumWidth(widest + self.verticalScrollBar().sizeHint().width())

    def show_stage(self, stage: str) -> None:
        while (item := self._layout.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.buttons.clear()
        group = ""
        for command in on_shelf(stage):
            if command.group != group:
                group = command.group
                heading = QLabel(group)
                heading.setProperty("quiet", True)
                heading.setContentsMargins(14, 7, 0, 2)
                heading.setProperty("group", True)
                self._layout.addWidget(heading)
            button = ToolButton(command, self.session)
            self.buttons[command.id] = button
            self._layout.addWidget(button)
        self._layout.addStretch(1)
        self._enable()
        self._check()

    def _enable(self) -> None:
        for button in self.buttons.values():
            button.setEnabled(button.command.when(self.session))

    def _check(self) -> None:
        for button in self.buttons.values():
            button.setChecked(button.command.words == self.session.tool.words)
