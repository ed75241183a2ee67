"""A plain table over rows of words, sorted as people sort, with a sign and colour for states."""

from __future__ import annotations

from collections.abc import Container, Sequence

from PySide6.QtCore import (
    QAbstractTableModel,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QSortFilterProxyModel,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QWidget

from uncus.app.theme import sized
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
    """Sorted by the column clicked last, ties by the one before, and so on; filtered by a text anywhere and by
    columns."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.before: list[tuple[int, bool]] = []  # columns and whether upwards, the last clicked first
        self.wanted: dict[int, str] = {}

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        if column >= 0:
            up = order == Qt.SortOrder.AscendingOrder
            self.before = [(column, up), *((c, u) for c, u in self.before if c != column)][:4]
        super().sort(column, order)

    def lessThan(self, a: Index, b: Index) -> bool:
        model = self.sourceModel()
        first_up = self.before[0][1] if self.before else True
        for column, up in self.before or [(a.column(), True)]:
            one, other = (natural(str(model.index(i.row(), column).data())) for i in (a, b))
            if one != other:
                return (one < other) == (up == first_up)
        return a.row() < b.row()

    def filterAcceptsRow(self, row: int, parent: Index) -> bool:
        model = self.sourceModel()
        for column, text in self.wanted.items():
            if text.casefold() not in str(model.index(row, column, parent).data()).casefold():
                return False
        return super().filterAcceptsRow(row, parent)

    def want(self, column: int, text: str) -> None:
        self.wanted = {c: t for c, t in {**self.wanted, column: text.strip()}.items() if t}
        self.invalidate()


class Table(QTableView):
    """`chosen` carries the keys of the rows picked."""

    chosen = Signal(list)

    def __init__(self, name: str, heads: Sequence[str]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.rows = Rows(heads)
        self.widest: dict[int, int] = {}  # px that columns take at most when they are fitted
        self._fitted = False
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
        sized(self.verticalHeader(), row=25)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        self.horizontalHeader().setStretchLastSection(True)
        self.setTabKeyNavigation(False)
        self.selectionModel().selectionChanged.connect(self._selected)

    def fill(self, rows: Sequence[tuple[str, ...]], keys: Sequence[object]) -> None:
        """Show rows. The columns fit the first that come, and stay as they are from then on, or as the user makes
        them."""
        self.rows.fill(rows, keys)
        if rows and not self._fitted:
            self._fitted = True
            self.resizeColumnsToContents()
            for column, most in self.widest.items():
                self.setColumnWidth(column, min(most, self.columnWidth(column)))

    def filter(self, text: str) -> None:
        self._sorter.setFilterFixedString(text)

    def filter_column(self, column: int, text: str) -> None:
        self._sorter.want(column, text)

    def picked(self) -> list[object]:
        return [self.rows.keys[self._sorter.mapToSource(i).row()] for i in self.selectionModel().selectedRows()]

    def shown(self) -> list[object]:
        """Keys of the rows that the filters let through, in their order."""
        rows = range(self._sorter.rowCount())
        return [self.rows.keys[self._sorter.mapToSource(self._sorter.index(r, 0)).row()] for r in rows]

    def pick(self, key: object) -> None:
        """Select the row of a key and bring it into view."""
        if key in self.rows.keys:
            index = self._sorter.mapFromSource(self.rows.index(self.rows.keys.index(key), 0))
            if index.isValid():
                # by the model: `selectRow` asks the header where it is, which it cannot say before it is shown
                flag = QItemSelectionModel.SelectionFlag
                self.selectionModel().setCurrentIndex(index, flag.ClearAndSelect | flag.Rows)
                self.scrollTo(index)

    def pick_all(self, keys: Container[object]) -> None:
        """Select the rows of some keys."""
        found = QItemSelection()
        for row, key in enumerate(self.rows.keys):
            index = self._sorter.mapFromSource(self.rows.index(row, 0))
            if key in keys and index.isValid():
                found.select(index, index)
        flag = QItemSelectionModel.SelectionFlag
        self.selectionModel().select(found, flag.ClearAndSelect | flag.Rows)

    def _selected(self) -> None:
        self.chosen.emit(self.picked())
