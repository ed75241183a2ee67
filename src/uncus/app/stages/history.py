"""The history: every change in words with its time; gone to by a click, named, taken back alone, held against now."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QInputDialog,
    QLabel,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.app.starting.start_page import when
from uncus.job.history import take_back
from uncus.job.store import Past

_MOST = 2000  # changes that are listed, the latest
_NUMBER = Qt.ItemDataRole.UserRole


class HistoryDialog(QDialog):
    """Stays beside the model and follows the job; the job's beginning is the last row."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("History")
        self.resize(560, 330)
        words = QLabel(
            "A double click (Enter) goes to a moment and back again; nothing is lost before something else is changed "
            "there."
        )
        words.setWordWrap(True)
        words.setProperty("quiet", True)
        self.table = QTableWidget(0, 3)
        self.table.setAccessibleName("History")
        self.table.setHorizontalHeaderLabels(["When", "Change", "Moment"])
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().setVisible(False)
        self.table.setShowGrid(False)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.setColumnWidth(0, 118)
        self.table.setColumnWidth(1, 280)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setAccessibleName("What differs")
        column = QVBoxLayout(self)
        for widget in (words, self.table, self.told):
            column.addWidget(widget)
        column.setStretchFactor(self.table, 1)
        row = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        for name, key, help, do in (
            (
                "Go there",
                "Enter",
                "The job as it was after this change; Ctrl+Z and Ctrl+Shift+Z step from there",
                self.go,
            ),
            ("Name it", "F2", "A name for this moment, such as: sent for approval", self.name),
            ("Take back alone", "", "This one change, where nothing that came after it stands on it", self.alone),
            ("Then beside now", "F3", "What is new, changed or gone since, in colours on the model", self.beside),
        ):
            button = QPushButton(name)
            button.setToolTip(f"{help}  ({key})" if key else help)
            button.setAccessibleName(name)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, do=do: do())
            self.buttons[name] = button
            row.addWidget(button)
        self.buttons["Then beside now"].setCheckable(True)
        column.addLayout(row)
        self.table.itemActivated.connect(lambda _: self.go())
        QShortcut(QKeySequence("F2"), self).activated.connect(self.name)
        QShortcut(QKeySequence("F3"), self).activated.connect(self.beside)
        self._stop = session.job.follow(lambda _: self.refresh())
        self.refresh()

    # -- showing ----------------------------------------------------------------------------------
    def refresh(self) -> None:
        """The changes as they are now, the one that the job stands after marked."""
        chosen = self.number
        past = self.session.job.past()[::-1]  # the latest first
        head = self.session.job.head
        rows = [*past[:_MOST], Past(0, "The job's beginning")]
        self.table.setRowCount(len(rows))
        for n, one in enumerate(rows):
            here = one.number == head
            sign = "●  " if here else "↺  " if one.number > head else "    "
            for column, text in enumerate((when(one.at), f"{sign}{one.label}", one.moment and f"◆ {one.moment}")):
                item = QTableWidgetItem(text)
                item.setData(_NUMBER, one.number)
                item.setToolTip(_told(one, head))
                font = item.font()
                font.setBold(here)
                item.setFont(font)
                if one.number > head:
                    item.setForeground(QColor(self.palette().placeholderText().color()))
                self.table.setItem(n, column, item)
        wanted = chosen if chosen is not None else head
        self._choose(next((n for n, one in enumerate(rows) if one.number == wanted), 0))
        self._say()

    def _choose(self, row: int) -> None:
        self.table.setCurrentCell(row, 1)

    @property
    def number(self) -> int | None:
        item = self.table.item(self.table.currentRow(), 1)
        return item.data(_NUMBER) if item is not None else None

    def _say(self) -> None:
        since = self.session.compared()
        self.buttons["Then beside now"].setChecked(since is not None)
        self.told.setVisible(since is not None)
        self.told.setText(f"Since then: {since.words}." if since is not None else "")

    # -- doing ------------------------------------------------------------------------------------
    def go(self) -> None:
        """To the state after the chosen change."""
        number = self.number
        if number is not None:
            self.session.attempt(lambda: self.session.travel(number))

    def name(self) -> None:
        """Ask for a moment's name; an empty one takes it away."""
        number = self.number
        if not number:
            return
        now = next((p.moment for p in self.session.job.past() if p.number == number), "")
        text, taken = QInputDialog.getText(self, "Name this moment", "Name", text=now)
        if taken and self.session.attempt(lambda: self.session.job.name_moment(number, text.strip())):
            self.refresh()

    def alone(self) -> None:
        """Take the chosen change back and nothing else."""
        number = self.number
        if number is not None:
            self.session.attempt(lambda: self.session.said.emit(f"{take_back(self.session.job, number)}.", False))

    def beside(self) -> None:
        """Hold the chosen moment against now; the same again stops it."""
        number = self.number
        self.session.compare(None if self.session.since == number else number)
        self._say()

    def done(self, result: int) -> None:
        self.session.compare(None)
        self._stop()
        super().done(result)


def _told(one: Past, head: int) -> str:
    where = "taken back" if one.number > head else "where the job stands" if one.number == head else ""
    return "\n".join(filter(None, (one.label, one.at.replace("T", " "), one.moment, where)))
