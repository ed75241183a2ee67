"""The key chart: every command with its key, searched, set anew, printed."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QTextDocument
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QLineEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from uncus.app import keys
from uncus.app.command import Command
from uncus.app.session import Session

_ID = Qt.ItemDataRole.UserRole


class KeysDialog(QDialog):
    """Changes hold at once; `session.keys_changed` lets shelf, menus and shortcuts follow."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        from uncus.app.commands import BY_ID, COMMANDS

        super().__init__(parent)
        self.session, self._commands, self._by_id = session, COMMANDS, BY_ID
        self.setWindowTitle("Keys")
        self.resize(640, 460)
        self.edit = QKeySequenceEdit()
        self.edit.setMaximumSequenceLength(1)
        self.edit.setClearButtonEnabled(True)
        self.edit.setAccessibleName("New key")
        self.search = QLineEdit()
        self.search.setAccessibleName("Search the keys")
        self.search.setPlaceholderText("Search: a word, a stage, a key")
        self.search.textChanged.connect(lambda _: self.refresh())
        self.table = QTableWidget(0, 4)
        self.table.setAccessibleName("Keys")
        self.table.setHorizontalHeaderLabels(["Command", "Key", "Stage", "What it does"])
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().setVisible(False)
        self.table.setShowGrid(False)
        for at, width in enumerate((150, 110, 80)):
            self.table.setColumnWidth(at, width)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.itemActivated.connect(lambda _: self.edit.setFocus())
        self.table.currentCellChanged.connect(lambda *_: self._show())
        self.told = QLabel(" ")
        self.told.setAccessibleName("What is wrong")
        self.told.setWordWrap(True)
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addWidget(self.table, 1)
        row = QHBoxLayout()
        row.addWidget(QLabel("Key"))
        row.addWidget(self.edit, 1)
        for words, help, do in (
            ("Set", "Give the chosen command this key; empty: none", self.set),
            ("As it was", "The command's own key again", self.reset),
            ("All as they were", "Every command's own key again", self.reset_all),
            ("Print", "The whole chart on the desktop's printers", self.print),
        ):
            button = QPushButton(words)
            button.setToolTip(help)
            button.setAccessibleName(words)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, do=do: do())
            row.addWidget(button)
        column.addLayout(row)
        column.addWidget(self.told)
        self.refresh()
        self.search.setFocus()

    def refresh(self) -> None:
        chosen = self.command
        rows = keys.found(self.search.text(), self._commands, self.session.preferences)
        self.table.setRowCount(len(rows))
        for n, command in enumerate(rows):
            own = command.id in self.session.preferences.keys
            key = keys.key_of(command, self.session.preferences)
            for column, text in enumerate((command.words, key + ("  ✎" if own else ""), command.stage, command.help)):
                item = QTableWidgetItem(text)
                item.setToolTip(command.help)
                item.setData(_ID, command.id)
                self.table.setItem(n, column, item)
        if rows:
            row = next((n for n, c in enumerate(rows) if chosen is not None and c.id == chosen.id), 0)
            self.table.setCurrentCell(row, 0)
        self._show()

    @property
    def command(self) -> Command | None:
        item = self.table.item(self.table.currentRow(), 0)
        return self._by_id.get(item.data(_ID)) if item is not None else None

    def _show(self) -> None:
        command = self.command
        if command is not None:
            self.edit.setKeySequence(QKeySequence(keys.key_of(command, self.session.preferences)))

    def set(self) -> None:
        """Give the chosen command the key; one that another has there is told, and not given."""
        command = self.command
        if command is None:
            return
        key = self.edit.keySequence().toString(QKeySequence.SequenceFormat.PortableText)
        taken = keys.clashes(command, key, self._commands, self.session.preferences)
        if taken:
            where = f"in {taken[0].stage}" if taken[0].stage else "everywhere"
            self.told.setText(f"▲ {key} is “{taken[0].words}” {where}; give that another key first.")
            return
        self._keep(keys.with_key(self.session.preferences, command, key))

    def reset(self) -> None:
        command = self.command
        if command is None:
            return
        taken = keys.clashes(command, command.key, self._commands, self.session.preferences)
        if taken:
            self.told.setText(f"▲ {command.key} is “{taken[0].words}” by now; give that another key first.")
            return
        self._keep(keys.with_key(self.session.preferences, command, command.key))

    def reset_all(self) -> None:
        self._keep({})

    def _keep(self, own: dict[str, str]) -> None:
        self.told.setText(" ")
        session = self.session
        session.attempt(lambda: session.prefer(keys=own))
        session.keys_changed.emit()
        self.refresh()

    def print(self) -> None:
        """The chart as a page or two."""
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        if QPrintDialog(printer, cast(QWidget, self)).exec() == QDialog.DialogCode.Accepted:
            print_chart(self.session, printer)


def print_chart(session: Session, printer: QPrinter) -> None:
    """Print the key chart."""
    from uncus.app.commands import COMMANDS

    page = QTextDocument()
    page.setHtml(keys.chart(COMMANDS, session.preferences))
    page.print_(printer)
