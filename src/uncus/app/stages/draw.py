"""Draw: the register beside the sheet."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QSplitter, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.sheet.sheet_view import SheetView
from uncus.app.stages.table import Table
from uncus.draw.register import Entry, State, register, sheet

SIGNS = {State.NEW: "○", State.CURRENT: "●", State.STALE: "▲"}


class DrawPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.entries: list[Entry] = []
        self._read_for: object = None
        self.title = QLabel("Register")
        self.title.setProperty("title", True)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("filter")
        self.filter.setAccessibleName("Filter the register")
        self.filter.setFixedWidth(110)
        self.table = Table("Register", ("", "Sheet", "What", "State"))
        self.table.chosen.connect(self._chosen)
        self.filter.textChanged.connect(self.table.filter)
        left = QWidget()
        column = QVBoxLayout(left)
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addStretch(1)
        head.addWidget(self.filter)
        column.addLayout(head)
        column.addWidget(self.table)
        self.view = SheetView()
        right = QWidget()
        box = QVBoxLayout(right)
        box.setContentsMargins(0, 0, 0, 0)
        box.addWidget(self.view, 1)
        bar = QHBoxLayout()
        bar.setContentsMargins(8, 4, 8, 6)
        self.before, self.after = QPushButton("← Previous"), QPushButton("Next →")
        self.to_model = QPushButton("Show in the model   Tab")
        for button, name in (
            (self.before, "Previous sheet"),
            (self.after, "Next sheet"),
            (self.to_model, "Show in the model"),
        ):
            button.setAccessibleName(name)
        self.before.clicked.connect(lambda: self._step(-1))
        self.after.clicked.connect(lambda: self._step(1))
        self.to_model.clicked.connect(lambda: session.asked.emit("sheet"))
        self.state = QLabel()
        self.state.setAccessibleName("State of the sheet")
        bar.addWidget(self.before)
        bar.addWidget(self.after)
        bar.addSpacing(10)
        bar.addWidget(self.state, 1)
        bar.addWidget(self.to_model)
        box.addLayout(bar)
        split = QSplitter(Qt.Orientation.Horizontal)
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([330, 670])
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def refresh(self) -> None:
        """Read the register again; the sheet shown stays the one it was."""
        session = self.session
        name = self.current.name if self.current else ""
        marks = session.marks
        missing = marks.unmarked(session.shop.assemblies.values())
        self.entries = register(session.job, session.shop) if session.shop.assemblies else []
        rows = [(SIGNS[e.state], e.name, e.title, str(e.state)) for e in self.entries]
        self.table.rows.colours = {"●": "#2C7A70", "▲": "#8A5E0A", "○": "#5A6B74"}
        self.table.fill(rows, [e.name for e in self.entries])
        self.title.setText(f"Register: {len(rows)}")
        if not self.entries:
            self.view.show_sheet(
                None, "No sheets yet: sheets are made of marked pieces.\nOpen Mark (Ctrl+4) and apply the marks first."
            )
        elif missing:
            session.said.emit(
                f"{len(missing)} pieces have changed or have no mark yet, so their sheets may not be right; apply marks (Ctrl+4).",
                True,
            )
        if self.entries:
            self.open(name if any(e.name == name for e in self.entries) else self.entries[0].name)

    @property
    def current(self) -> Entry | None:
        picked = self.table.picked()
        return next((e for e in self.entries if picked and e.name == picked[0]), None)

    def open(self, name: str) -> None:
        self.table.pick(name)

    def open_piece(self, id: str) -> bool:
        """The sheet of an assembly; False where it has none."""
        entry = next((e for e in self.entries if e.kind == "assembly" and id in e.pieces), None)
        if entry is None:
            return False
        self.filter.clear()
        self.open(entry.name)
        return True

    def _step(self, by: int) -> None:
        current = self.current
        if current is not None:
            at = (self.entries.index(current) + by) % len(self.entries)
            self.open(self.entries[at].name)

    def _chosen(self, keys: list) -> None:  # type: ignore[type-arg]
        entry = self.current
        if entry is None:
            return
        try:
            self.view.show_sheet(sheet(entry))
        except Exception as error:  # a sheet that fails must not take the window with it
            self.view.show_sheet(None, f"Sheet {entry.name} could not be drawn: {error or type(error).__name__}.")
        self.state.setText(f"{SIGNS[entry.state]} {entry.name} is {entry.state}   {entry.title}")
        shown = self.view.sheet
        if shown is not None:
            self.session.select(set(entry.pieces) if entry.kind != "erection" else ())
