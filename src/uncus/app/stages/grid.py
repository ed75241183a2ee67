"""Grid and levels: typed as spacings, or line by line in tables; members on what moves follow or stay."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.frame.grids import Family, follow_grid, follow_levels, respaced
from uncus.job.errors import JobError
from uncus.job.records import Grid, GridLine, Level, Member
from uncus.units import (
    UnitError,
    Units,
    format_angle,
    format_length,
    format_typed,
    parse_angle,
    parse_length,
    parse_lengths,
)

_OLD = Qt.ItemDataRole.UserRole  # a line's or level's name or id before
_FAMILIES = {Family.NUMBERS: "number", Family.LETTERS: "letter"}


class GridDialog(QDialog):
    """Nothing changes until it is accepted; then it is one undo step."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Grid and levels")
        self.before = session.grid or Grid(id="grid")
        example = "3@24', 20', 2@18'-6" if session.imperial else "3@7200, 6000"
        heights = "Ground 0, Floor 12'-0" if session.imperial else "Ground 0, Floor 3600"
        self.across = _typed("Spacings of numbered lines", example)
        self.up = _typed("Spacings of lettered lines", example)
        self.levels = _typed("Levels", heights)
        self.lines = _table(
            "Grid lines", ("Family", "Name", "Position", "Skew", "From", "To"), (64, 60, 96, 60, 84, 84)
        )
        self.heights = _table("Levels, one by one", ("Name", "Elevation"), (110, 96))
        self.error = QLabel(" ")
        self.error.setProperty("error", True)
        self.error.setAccessibleName("What is wrong")
        self.error.setWordWrap(True)
        self._lay_out(example)
        self._fill(self.before, sorted(session.job.all(Level), key=lambda level: level.elevation))
        for field, take in (
            (self.across, self._take_across),
            (self.up, self._take_up),
            (self.levels, self._take_levels),
        ):
            field.editingFinished.connect(lambda take=take: self._attempt(take))
        self.lines.itemChanged.connect(lambda _: self._preview())
        self.heights.itemChanged.connect(lambda _: self._preview())

    def _lay_out(self, example: str) -> None:
        form = QFormLayout()
        form.addRow("Numbered lines, left to right", self.across)
        form.addRow("Lettered lines, front to back", self.up)
        form.addRow("Levels", self.levels)
        hint = QLabel(
            f"Type spacings such as {example}, or change lines one by one below: uneven, added, skewed, ending."
        )
        hint.setProperty("quiet", True)
        tables = QHBoxLayout()
        for table, add in ((self.lines, self._add_line), (self.heights, self._add_level)):
            column = QVBoxLayout()
            column.addWidget(table)
            row = QHBoxLayout()
            for words, do in (("Add", add), ("Take away", lambda t=table: self._remove(t))):
                button = QPushButton(words)
                button.setAccessibleName(f"{words}: {table.accessibleName()}")
                button.setAutoDefault(False)
                button.clicked.connect(lambda _=False, do=do: do())
                row.addWidget(button)
            row.addStretch(1)
            column.addLayout(row)
            tables.addLayout(column, 5 if table is self.lines else 3)
        self.follow, self.stay = QRadioButton("follow"), QRadioButton("stay where they are")
        self.follow.setChecked(True)
        group = QButtonGroup(self)
        self.count = QLabel()
        asked = QHBoxLayout()
        asked.addWidget(self.count)
        for choice in (self.follow, self.stay):
            group.addButton(choice)
            button.setAccessibleName(f"Members {button.text()}")
            asked.addWidget(button)
        asked.addStretch(1)
        self.asked = QWidget()
        self.asked.setLayout(asked)
        self.asked.hide()
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(hint)
        layout.addLayout(form)
        layout.addLayout(tables)
        layout.addWidget(self.asked)
        layout.addWidget(self.error)
        layout.addWidget(buttons)
        self.resize(840, 560)

    # -- between typed text and tables ------------------------------------------------------------------
    def _fill(self, grid: Grid, levels: list[Level]) -> None:
        units = self.session.units
        _show(self.across, spacings_words([g.at for g in grid.numbers], units))
        _show(self.up, spacings_words([g.at for g in grid.letters], units))
        self._fill_lines(grid.numbers, grid.letters, {g.label: g.label for g in (*grid.numbers, *grid.letters)})
        self._fill_levels([(level.id, level.name, level.elevation) for level in levels])

    def _fill_lines(self, numbers: tuple[GridLine, ...], letters: tuple[GridLine, ...], old: dict[str, str]) -> None:
        units = self.session.units
        self.lines.blockSignals(True)
        self.lines.setRowCount(0)
        for family, lines in ((Family.NUMBERS, numbers), (Family.LETTERS, letters)):
            for g in lines:
                ends = ["" if e is None else format_typed(e, units) for e in (g.first, g.last)]
                row = (
                    _FAMILIES[family],
                    g.label,
                    format_typed(g.at, units),
                    format_angle(g.turn) if g.turn else "",
                    *ends,
                )
                _append(self.lines, row, old.get(g.label, ""), fixed=(0,))
        self.lines.blockSignals(False)
        self._preview()

    def _fill_levels(self, rows: list[tuple[str, str, float]]) -> None:
        self.heights.blockSignals(True)
        self.heights.setRowCount(0)
        for id, name, z in rows:
            _append(self.heights, (name, format_typed(z, self.session.units)), id)
        self.heights.blockSignals(False)
        self._preview()

    def _attempt(self, take) -> bool:  # type: ignore[no-untyped-def]
        try:
            take()
        except (UnitError, JobError) as error:
            self.error.setText(str(error))
            return False
        self.error.setText(" ")
        return True

    def _take_across(self) -> None:
        self._take_spacings(self.across, Family.NUMBERS)

    def _take_up(self) -> None:
        self._take_spacings(self.up, Family.LETTERS)

    def _take_spacings(self, field: QLineEdit, family: Family) -> None:
        if not _changed(field):
            return
        grid, old = self._grid()
        now = grid.numbers if family is Family.NUMBERS else grid.letters
        spacings = parse_lengths(field.text(), self.session.units)
        if min(spacings, default=1) <= 0:
            raise UnitError("Spacings run one way: each must be more than nothing.")
        names = {g.label: old.get(g.label, "") for g in (*grid.numbers, *grid.letters)}
        lines = respaced(now, spacings, family) if spacings or now else ()
        numbers, letters = (lines, grid.letters) if family is Family.NUMBERS else (grid.numbers, lines)
        _show(field, field.text())
        self._fill_lines(numbers, letters, {k: v for k, v in names.items() if v})

    def _take_levels(self) -> None:
        if not _changed(self.levels):
            return
        typed = parse_levels(self.levels.text(), self.session.units)
        known = {name: id for id, name, _ in self._rows()}
        taken = {known[name] for name, _ in typed if name in known}
        spare = [id for id, _, _ in self._rows() if id and id not in taken]
        rows = []
        for n, (name, z) in enumerate(typed):
            id = known.get(name, "")
            if not id and len(typed) == len(self._rows()):  # the same number of levels: one was given another name
                id = self._rows()[n][0] if self._rows()[n][0] in spare else ""
            rows.append((id, name, z))
        _show(self.levels, self.levels.text())
        self._fill_levels(rows)

    # -- reading the tables -------------------------------------------------------------------------------
    def _grid(self) -> tuple[Grid, dict[str, str]]:
        """The grid as the table has it, and old names by new ones. Raises UnitError or JobError."""
        units = self.session.units
        families: dict[str, list[GridLine]] = {"number": [], "letter": []}
        old = {}
        for row in range(self.lines.rowCount()):
            cells = [_cell(self.lines, row, column).text().strip() for column in range(6)]
            name = cells[1]
            ends = [parse_length(text, units) if text else None for text in cells[4:]]
            turn = parse_angle(cells[3]) if cells[3] else 0.0
            line = GridLine(name, parse_length(cells[2], units), turn, ends[0], ends[1])
            families[cells[0]].append(line)
            was = _cell(self.lines, row, 0).data(_OLD)
            if was:
                old[name] = was
        order = {name: tuple(sorted(lines, key=lambda g: g.at)) for name, lines in families.items()}
        grid = Grid(id=self.before.id, numbers=order["number"], letters=order["letter"])
        if problem := grid.problem():
            raise JobError(problem)
        return grid, old

    def _rows(self) -> list[tuple[str, str, float]]:
        """Levels as the table has them: id or nothing, name, elevation."""
        out = []
        for row in range(self.heights.rowCount()):
            name, z = _cell(self.heights, row, 0).text().strip(), _cell(self.heights, row, 1).text()
            out.append((_cell(self.heights, row, 0).data(_OLD) or "", name, parse_length(z, self.session.units)))
        return out

    def _levels_now(self) -> list[Level]:
        names = [name for _, name, _ in self._rows()]
        twice = next((name for name in names if names.count(name) > 1), None)
        if twice is not None:
            raise JobError(f"Two levels are called “{twice}”; give each its own name.")
        return [Level(id=id, name=n, elevation=z) if id else Level(name=n, elevation=z) for id, n, z in self._rows()]

    def _moved(self) -> list[Member]:
        """Members that would follow."""
        grid, old = self._grid()
        renamed = {was: name for name, was in old.items()}
        members = {m.id: m for m in self.session.job.all(Member)}
        for m in follow_grid(members.values(), self.before, grid, renamed):
            members[m.id] = m
        levels = [level for level in self._levels_now() if level.id in self.session.job.records]
        for m in follow_levels(members.values(), self.session.job.all(Level), levels):
            members[m.id] = m
        return [m for m in members.values() if m != self.session.job.records[m.id]]

    def _preview(self) -> None:
        """Say how many members stand on what moves."""
        try:
            count = len(self._moved())
        except (UnitError, JobError) as error:
            self.error.setText(str(error))
            self.asked.hide()
            return
        self.error.setText(" ")
        self._type_out()
        self.count.setText(f"{count} members stand on lines or levels that move; they")
        self.asked.setVisible(count > 0)

    def _type_out(self) -> None:
        """The typed lists as the tables have them now."""
        grid, _ = self._grid()
        units = self.session.units
        for field, lines in ((self.across, grid.numbers), (self.up, grid.letters)):
            if not _changed(field):
                _show(field, spacings_words([g.at for g in lines], units))
        if not _changed(self.levels):
            _show(self.levels, ", ".join(f"{name} {format_length(z, units)}" for _, name, z in self._rows()))

    # -- changing -----------------------------------------------------------------------------------------
    def _add_line(self) -> None:
        family = Family.NUMBERS
        selected = self.lines.currentRow()
        if selected >= 0 and _cell(self.lines, selected, 0).text() == "letter":
            family = Family.LETTERS
        at = [
            _cell(self.lines, r, 2).text()
            for r in range(self.lines.rowCount())
            if _cell(self.lines, r, 0).text() == _FAMILIES[family]
        ]
        try:
            last = max((parse_length(t, self.session.units) for t in at), default=0.0)
        except UnitError:
            last = 0.0
        _append(
            self.lines,
            (_FAMILIES[family], "new", format_typed(last + 3048.0, self.session.units), "", "", ""),
            "",
            fixed=(0,),
        )
        self.lines.editItem(_cell(self.lines, self.lines.rowCount() - 1, 1))

    def _add_level(self) -> None:
        _append(self.heights, ("new", "0"), "")
        self.heights.editItem(_cell(self.heights, self.heights.rowCount() - 1, 0))

    def _remove(self, table: QTableWidget) -> None:
        for row in sorted({i.row() for i in table.selectedIndexes()}, reverse=True):
            table.removeRow(row)
        self._preview()

    def accept(self) -> None:
        for take in (self._take_across, self._take_up, self._take_levels):
            if not self._attempt(take):
                return
        if self._attempt(self._write):
            super().accept()

    def _write(self) -> None:
        grid, _ = self._grid()
        levels = self._levels_now()
        moved = self._moved() if self.follow.isChecked() else []
        kept = {level.id for level in levels}
        with self.session.job.change("Grid and levels") as change:
            for level in self.session.job.all(Level):
                if level.id not in kept:
                    change.drop(level.id)
            change.put(grid)
            for level in levels:
                change.put(level)
            for member in moved:
                change.put(member)
        if moved:
            self.session.said.emit(f"{len(moved)} members followed the grid and levels.", False)


def _typed(name: str, example: str) -> QLineEdit:
    field = QLineEdit()
    field.setAccessibleName(name)
    field.setPlaceholderText(example)
    return field


def _show(field: QLineEdit, text: str) -> None:
    """Put the tables' own words into a typed field."""
    field.setText(text)
    field.setProperty("shown", text.strip())


def _changed(field: QLineEdit) -> bool:
    """Whether something else was typed since."""
    return field.text().strip() != (field.property("shown") or "")


def _table(name: str, columns: tuple[str, ...], widths: tuple[int, ...]) -> QTableWidget:
    table = QTableWidget(0, len(columns))
    table.setAccessibleName(name)
    table.setHorizontalHeaderLabels(list(columns))
    table.verticalHeader().hide()
    table.horizontalHeader().setStretchLastSection(True)
    table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    for column, width in enumerate(widths):
        table.setColumnWidth(column, width)
    return table


def _cell(table: QTableWidget, row: int, column: int) -> QTableWidgetItem:
    """A cell of a table of ours, in which every cell is filled."""
    item = table.item(row, column)
    assert item is not None
    return item


def _append(table: QTableWidget, cells: tuple[str, ...], old: str, fixed: tuple[int, ...] = ()) -> None:
    row = table.rowCount()
    blocked = table.blockSignals(True)
    table.insertRow(row)
    for column, text in enumerate(cells):
        item = QTableWidgetItem(text)
        if column in fixed:
            item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
        table.setItem(row, column, item)
    _cell(table, row, 0).setData(_OLD, old)
    table.blockSignals(blocked)


def parse_levels(text: str, units: Units) -> list[tuple[str, float]]:
    """Levels typed as `name height` pairs with commas between. Raises UnitError."""
    levels: list[tuple[str, float]] = []
    for item in filter(None, (piece.strip() for piece in text.split(","))):
        name, _, height = item.rpartition(" ")
        if "/" in height and name.rpartition(" ")[2][:1].isdigit():  # a height such as 12'-6 1/2 has a space of its own
            name, _, whole = name.rpartition(" ")
            height = f"{whole} {height}"
        if not name:
            raise UnitError(f"“{item}” needs a name and a height, such as Floor 12'-0.")
        if any(name == other for other, _ in levels):
            raise UnitError(f"Two levels are called “{name}”; give each its own name.")
        levels.append((name, parse_length(height, units)))
    return levels


def spacings_words(positions: list[float], units: Units) -> str:
    """Steps between positions as they are typed: `3@24'-0, 20'-0`."""
    steps = [b - a for a, b in zip(positions, positions[1:], strict=False)]
    out: list[tuple[int, str]] = []
    for step in steps:
        words = format_typed(step, units)
        if out and out[-1][1] == words:
            out[-1] = (out[-1][0] + 1, words)
        else:
            out.append((1, words))
    return ", ".join(f"{n}@{w}" if n > 1 else w for n, w in out)
