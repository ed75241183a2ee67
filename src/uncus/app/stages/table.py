"""A plain table over rows of words, sorted as people sort, with a sign and colour for states."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from uncus.mark.marking import natural

Index = QModelIndex | QPersistentModelIndex


class Rows(QAbstractTableModel):
    """Rows of cells; `colours` gives a row's first cells their colour by the text of the first."""

    def __init__(self, heads: Sequence[str]) -> None:
        super().__init__()
        self.heads = list(heads)
        self.rows: list[tuple[str, ...]] = []
        self.keys: list[object] = []
        self.colours: dict[str, str] = {}

    def fill(self, rows: Sequence[tuple[str, ...]], keys: Sequence[object]) -> None:
        self.beginResetModel()
        self.rows, self.keys = list(rows), list(keys)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:
        return len(self.heads)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row = self.rows[index.row()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole, Qt.ItemDataRole.AccessibleTextRole):
            return row[index.column()]
        if role == Qt.ItemDataRole.ForegroundRole and index.column() == 0:
            colour = self.colours.get(row[0])
            return QColor(colour) if colour else None
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.heads[section]
        return None


class _Sorter(QSortFilterProxyModel):
    def lessThan(self, a: Index, b: Index) -> bool:
        return natural(str(a.data())) < natural(str(b.data()))


class Table(QTableView):
    """`chosen` carries the keys of the rows picked."""

    chosen = Signal(list)

    def __init__(self, name: str, heads: Sequence[str]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.rows = Rows(heads)
        self._sorter = _Sorter(self)
        self._sorter.setSourceModel(self.rows)
        self._sorter.setFilterKeyColumn(-1)
        self._sorter.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.setModel(self._sorter)
        self.setSortingEnabled(True)
        self.horizontalHeader().setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setShowGrid(False)
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(25)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        self.horizontalHeader().setStretchLastSection(True)
        self.setTabKeyNavigation(False)
        self.selectionModel().selectionChanged.connect(self._selected)

    def fill(self, rows: Sequence[tuple[str, ...]], keys: Sequence[object]) -> None:
        self.rows.fill(rows, keys)
        self.resizeColumnsToContents()

    def filter(self, text: str) -> None:
        self._sorter.setFilterFixedString(text)

    def picked(self) -> list[object]:
        return [self.rows.keys[self._sorter.mapToSource(i).row()] for i in self.selectionModel().selectedRows()]

    def pick(self, key: object) -> None:
        """Select the row of a key and bring it into view."""
        if key in self.rows.keys:
            index = self._sorter.mapFromSource(self.rows.index(self.rows.keys.index(key), 0))
            if index.isValid():
                # by the model: `selectRow` asks the header where it is, which it cannot say before it is shown
                flag = QItemSelectionModel.SelectionFlag
                self.selectionModel().setCurrentIndex(index, flag.ClearAndSelect | flag.Rows)
                self.scrollTo(index)

    def _selected(self) -> None:
        self.chosen.emit(self.picked())
