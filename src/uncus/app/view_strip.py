"""The strip over the model: the four views, kept views and frames, what is left out, and the lens that colours."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QBoxLayout, QHBoxLayout, QLineEdit, QMenu, QPushButton, QSizePolicy, QWidget

from uncus.app.command import Command
from uncus.app.frame_commands import VIEW
from uncus.app.keys import key_of
from uncus.app.session import Session
from uncus.app.theme import sized
from uncus.job.records import Lens, View, ViewFrame, ViewKind
from uncus.units import UnitError, parse_length

_SHOWING = ("hide", "only", "ghost", "show all", "style solid", "style outline", "style stick", "left ends", "frames")


class ViewStrip(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("strip")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName("View")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.commands = {c.id: c for c in VIEW}
        self.kinds: dict[ViewKind, QPushButton] = {}
        self._rows = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)  # one after the other, or under it
        self._rows.setContentsMargins(10, 3, 10, 3)
        self._rows.setSpacing(6)
        row, rest = QHBoxLayout(), QHBoxLayout()
        for each in (row, rest):
            each.setSpacing(6)
            self._rows.addLayout(each, int(each is rest))
        for kind in ViewKind:
            self.kinds[kind] = self._chip(str(kind), self.commands[f"view {kind}"])
            self.kinds[kind].setCheckable(True)
            row.addWidget(self.kinds[kind])
        self.views = self._menu_chip("views", "Kept views and view frames", self._fill_views)
        self.showing = self._menu_chip("show", "What is shown, and how", self._fill_showing)
        self.lens = self._menu_chip("lens", "Pick out pieces by what is known of them (Ctrl+L)", self._fill_lens)
        self.lens.setCheckable(True)
        row.addStretch(0)
        row = rest
        for chip in (self.views, self.showing, self.lens):
            row.addWidget(chip)
        row.addSpacing(8)
        self.before, self.behind = self._depth("Depth before", "before"), self._depth("Depth behind", "behind")
        row.addWidget(self.before)
        row.addWidget(self.behind)
        row.addStretch(1)
        self.partly = QPushButton()
        self.partly.setProperty("strip", True)
        self.partly.setAccessibleName("Not all is shown")
        self.partly.clicked.connect(lambda: session.wanted.emit(self.commands["show all"]))
        row.addWidget(self.partly)
        session.view_changed.connect(self.refresh)
        session.steel.connect(lambda _: self.refresh())
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            QTimer.singleShot(0, self, self._fit)

    def _fit(self) -> None:
        """In two rows where one has no room."""
        parts = [layout for n in range(2) if (layout := self._rows.itemAt(n)) is not None]
        wide = sum(part.minimumSize().width() for part in parts) + 26
        under = wide > self.width()
        way = QBoxLayout.Direction.TopToBottom if under else QBoxLayout.Direction.LeftToRight
        if self._rows.direction() != way:
            self._rows.setDirection(way)
        sized(self, high=64 if under else 32)

    def _chip(self, words: str, command: Command) -> QPushButton:
        chip = QPushButton(words)
        chip.setProperty("strip", True)
        chip.setAccessibleName(command.words)
        chip.setToolTip(f"{command.help}  ({key_of(command, self.session.preferences)})")
        chip.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        chip.clicked.connect(lambda: self.session.wanted.emit(command))
        return chip

    def _menu_chip(self, words: str, help: str, fill) -> QPushButton:  # type: ignore[no-untyped-def]
        chip = QPushButton(f"{words} ▾")
        chip.setProperty("strip", True)
        chip.setAccessibleName(words.capitalize())
        chip.setToolTip(help)
        chip.setFocusPolicy(Qt.FocusPolicy.TabFocus)

        def popup() -> None:
            menu = QMenu(self)
            fill(menu)
            self.refresh()
            menu.popup(chip.mapToGlobal(chip.rect().bottomLeft()))

        chip.clicked.connect(popup)
        return chip

    def _depth(self, name: str, placeholder: str) -> QLineEdit:
        field = QLineEdit()
        field.setAccessibleName(name)
        field.setPlaceholderText(placeholder)
        field.setToolTip(f"How far {placeholder} the middle of the view steel is still shown; empty: all of it")
        sized(field, wide=68)
        field.editingFinished.connect(self._clip)
        return field

    # -- menus ----------------------------------------------------------------------------------------
    def _add(self, menu: QMenu, command: Command) -> None:
        key = key_of(command, self.session.preferences)
        action = menu.addAction(command.words + (f"\t{key}" if key else ""))
        action.setEnabled(command.when(self.session))
        action.triggered.connect(lambda: self.session.wanted.emit(command))

    def _fill_views(self, menu: QMenu) -> None:
        session = self.session
        kept: list[View | ViewFrame] = [*session.job.all(View), *session.job.all(ViewFrame)]
        for record in kept:
            words = record.name + ("  (view frame)" if isinstance(record, ViewFrame) else "")
            menu.addAction(words).triggered.connect(lambda _=False, r=record: session.looked_at.emit(r))
        if menu.isEmpty():
            menu.addAction("No view is kept yet").setEnabled(False)
        menu.addSeparator()
        for id in ("keep view", "through frame"):
            self._add(menu, self.commands[id])
        gone = menu.addMenu("Take away")
        for view in session.job.all(View):
            gone.addAction(view.name).triggered.connect(
                lambda _=False, v=view: session.change(f"Take view {v.name} away", drop=[v.id])
            )
        gone.setEnabled(bool(session.job.all(View)))

    def _fill_showing(self, menu: QMenu) -> None:
        for id in _SHOWING:
            self._add(menu, self.commands[id])

    def _fill_lens(self, menu: QMenu) -> None:
        session = self.session
        for lens in session.job.all(Lens):
            menu.addAction(f"Colour: {lens.name}").triggered.connect(lambda _=False, x=lens: self._colour(x.name))
        if session.seeing.lens:
            menu.addAction("No colour").triggered.connect(lambda: self._colour(""))
        menu.addSeparator()
        self._add(menu, self.commands["lens"])

    def _colour(self, name: str) -> None:
        self.session.seeing.lens = name
        self.session.coloured.emit()

    # -- following ------------------------------------------------------------------------------------
    def _clip(self) -> None:
        session = self.session

        def read(field: QLineEdit) -> float | None:
            if not field.text().strip():
                return None
            value = parse_length(field.text(), session.units)
            if not 0 <= value < 1e7:
                raise UnitError("A depth is counted from the middle of the view: type nothing or more.")
            return value

        def work() -> None:
            now = (read(self.before), read(self.behind))
            if now != (session.seeing.before, session.seeing.behind):
                session.seeing.clip(*now)
                session.view_changed.emit()

        session.attempt(work)

    def refresh(self) -> None:
        seeing = self.session.seeing
        for kind, chip in self.kinds.items():
            chip.setChecked(kind is seeing.kind)
        for field, depth in ((self.before, seeing.before), (self.behind, seeing.behind)):
            if not field.hasFocus():
                field.setText("" if depth is None else self.session.length(depth))
                field.setCursorPosition(0)
        self.partly.setText(f"◐ {seeing.partly}" if len(seeing.partly) < 14 else "◐ not all")
        self.partly.setToolTip(f"{seeing.partly}; press to show all (Shift+A)")
        self.partly.setVisible(bool(seeing.partly))
        self.lens.setChecked(bool(seeing.lens))
