"""Which columns of a table are shown, and a field over each that filters by it."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QLineEdit, QMenu, QPushButton, QWidget

from uncus.app.stages.table import Table
from uncus.app.theme import sized

_HIGH = 26


class FilterRow(QWidget):
    """A field over each shown column; it moves with the header."""

    def __init__(self, table: Table) -> None:
        super().__init__()
        self.table = table
        sized(self, high=_HIGH)
        self.fields: list[QLineEdit] = []
        for n, words in enumerate(table.rows.heads):
            field = QLineEdit(self)
            field.setAccessibleName(f"Filter {words}")
            field.setPlaceholderText("filter")
            field.setToolTip(f"Only rows whose {words.lower()} has this in it")
            sized(field, high=_HIGH - 2)
            field.textChanged.connect(lambda text, n=n: table.filter_column(n, text))
            self.fields.append(field)
        head = table.horizontalHeader()
        for signal in (head.sectionResized, head.geometriesChanged, table.horizontalScrollBar().valueChanged):
            signal.connect(self._place)
        QTimer.singleShot(0, self, self._place)

    def _place(self, *_: object) -> None:
        head = self.table.horizontalHeader()
        for n, field in enumerate(self.fields):
            field.setVisible(not head.isSectionHidden(n))
            field.setGeometry(head.sectionViewportPosition(n) + 1, 0, max(20, head.sectionSize(n) - 4), field.height())


def columns_button(table: Table, fixed: Iterable[int] = ()) -> QPushButton:
    """A button whose menu shows and hides columns."""
    button = QPushButton("Columns")
    button.setAccessibleName("Columns")
    button.setToolTip("Which columns are shown; click heads to sort, one after another to sort by several")
    menu = QMenu(button)
    for n, words in enumerate(table.rows.heads):
        action = menu.addAction(words)
        action.setCheckable(True)
        action.setChecked(not table.isColumnHidden(n))
        action.setEnabled(n not in fixed)
        action.toggled.connect(lambda on, n=n: table.setColumnHidden(n, not on))
    button.setMenu(menu)
    return button
