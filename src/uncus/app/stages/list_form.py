"""The form of a list: what its rows are of, columns in order, what they are sorted and grouped by, and the words over
and under them. What cannot be read is said as it is typed."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.app.stages.files import open_file
from uncus.app.stages.ordered import plain_button
from uncus.bill.listing import checked
from uncus.bill.logo import logo
from uncus.bill.sources import SOURCES, facts_of
from uncus.job.billing import ListColumn, ListTemplate, SortBy
from uncus.job.errors import JobError
from uncus.job.files import read_outside, text_of
from uncus.lens.criteria import lens_named

_FALLING = "-"


class ListDialog(QDialog):
    """`made` is the list as it was asked for, once the dialog is accepted."""

    def __init__(self, session: Session, template: ListTemplate, title: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.template = session, template
        self.made: ListTemplate | None = None
        self.setWindowTitle(title)
        self.name, self.title = QLineEdit(template.name), QLineEdit(template.title)
        self.heading = QLineEdit(template.heading)
        self.office, self.lens = QLineEdit(template.office), QLineEdit(template.lens)
        self.group = QLineEdit("; ".join(template.group))
        self.sort = QLineEdit("; ".join(f"{_FALLING if s.falling else ''}{s.what}" for s in template.sort))
        self.notes = QPlainTextEdit("\n".join(template.notes))
        self.notes.setMaximumHeight(64)
        self.landscape = QCheckBox("Paper on its side")
        self.landscape.setChecked(template.landscape)
        self.of = QComboBox()
        for name, source in SOURCES.items():
            self.of.addItem(source.words, name)
        self.of.setCurrentIndex(max(0, self.of.findData(template.of)))
        self.of.activated.connect(lambda _: self._fill(()))
        self.columns = QTableWidget(0, 3)
        self.columns.setHorizontalHeaderLabels(["Fact, or such as number * weight each", "Head", "Added up"])
        self.columns.setAccessibleName("Columns of the list")
        self.columns.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.said = QLabel(" ")
        self.said.setProperty("error", True)
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What is wrong")
        self._lay_out()
        self._fill(template.columns)
        self.resize(720, 640)

    def _lay_out(self) -> None:
        form = QFormLayout()
        for words, widget, help in (
            ("Name", self.name, "What the list is called, and its files"),
            ("Rows are", self.of, "What a row stands for"),
            ("Grouped by", self.group, "Facts, parted by semicolons; each group is added up"),
            ("Sorted by", self.sort, "Facts, parted by semicolons; - before one: from the greatest"),
            ("Lens", self.lens, "A lens's name, or text such as: role is beam"),
            ("Title", self.title, "Over the list; empty: what its rows are"),
            ("Filed under", self.heading, "The office's own heading"),
            ("Office", self.office, "At the right of the title"),
            ("Notes", self.notes, "Under the last row, a line each"),
        ):
            widget.setToolTip(help)
            widget.setAccessibleName(words)
            form.addRow(words, widget)
        form.addRow("", self.landscape)
        self.logo_words = QLabel("has a logo" if self.template.logo else "no logo")
        row = QHBoxLayout()
        row.addWidget(self.logo_words)
        row.addWidget(plain_button("From a file ...", "An SVG of outlines, at the right of the title", self.take_logo))
        row.addWidget(plain_button("Without", "The list goes without a logo", lambda: self.put_logo("")))
        row.addStretch(1)
        form.addRow("Logo", row)
        buttons = QHBoxLayout()
        for words, help, do in (
            ("Add a column", "After the one that is picked", self.add),
            ("Up", "Before the one above", lambda: self.step(-1)),
            ("Down", "After the one below", lambda: self.step(1)),
            ("Take out", "The list goes without it", self.take_out),
        ):
            buttons.addWidget(plain_button(words, help, do))
        buttons.addStretch(1)
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        layout.addWidget(self.columns, 1)
        layout.addLayout(buttons)
        layout.addWidget(self.said)
        layout.addWidget(box)

    # -- logo -------------------------------------------------------------------------------------
    def take_logo(self) -> None:
        if path := open_file(self, "Logo", "Pictures of lines (*.svg)"):
            try:
                self.put_logo(text_of(read_outside(path), path.name))
            except JobError as error:
                self.said.setText(str(error))

    def put_logo(self, svg: str) -> None:
        """Raises JobError for one that cannot be read."""
        if svg:
            logo(svg)
        self.template = msgspec.structs.replace(self.template, logo=svg)
        self.logo_words.setText("has a logo" if svg else "no logo")

    # -- columns ----------------------------------------------------------------------------------
    def _facts(self) -> list[str]:
        return list(facts_of(SOURCES[str(self.of.currentData())]))

    def _fill(self, columns: tuple[ListColumn, ...]) -> None:
        """Columns as rows of the form; of another kind of rows those facts that they have too."""
        facts = self._facts()
        kept = columns or tuple(c for c in self._asked() if c.what in facts) or (ListColumn(facts[0]),)
        self.columns.setRowCount(0)
        for column in kept:
            self._put(self.columns.rowCount(), column)
        self.columns.resizeColumnToContents(0)
        self.columns.setColumnWidth(0, max(280, self.columns.columnWidth(0)))

    def _put(self, row: int, column: ListColumn) -> None:
        self.columns.insertRow(row)
        what = QComboBox()
        what.setEditable(True)
        what.addItems(self._facts())
        what.setCurrentText(column.what)
        what.setAccessibleName("What the column shows")
        self.columns.setCellWidget(row, 0, what)
        self.columns.setItem(row, 1, QTableWidgetItem(column.words))
        tick = QTableWidgetItem()
        tick.setFlags(Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEnabled)
        tick.setCheckState(Qt.CheckState.Checked if column.total else Qt.CheckState.Unchecked)
        self.columns.setItem(row, 2, tick)

    def _asked(self) -> tuple[ListColumn, ...]:
        found = []
        for row in range(self.columns.rowCount()):
            what, words, tick = self.columns.cellWidget(row, 0), self.columns.item(row, 1), self.columns.item(row, 2)
            if isinstance(what, QComboBox) and words is not None and tick is not None:
                total = tick.checkState() is Qt.CheckState.Checked
                found.append(ListColumn(what.currentText().strip(), words.text().strip(), total))
        return tuple(found)

    def add(self) -> None:
        row = self.columns.currentRow() + 1 or self.columns.rowCount()
        there = {c.what for c in self._asked()}
        self._put(row, ListColumn(next((f for f in self._facts() if f not in there), self._facts()[0])))
        self.columns.setCurrentCell(row, 0)

    def take_out(self) -> None:
        if self.columns.rowCount() > 1 and self.columns.currentRow() >= 0:
            self.columns.removeRow(self.columns.currentRow())

    def step(self, by: int) -> None:
        row, columns = self.columns.currentRow(), list(self._asked())
        if row >= 0 and 0 <= row + by < len(columns):
            columns[row], columns[row + by] = columns[row + by], columns[row]
            self._fill(tuple(columns))
            self.columns.setCurrentCell(row + by, 0)

    # -- accepting --------------------------------------------------------------------------------
    def asked(self) -> ListTemplate:
        """The list as the form has it."""
        names = [part.strip() for part in self.sort.text().split(";") if part.strip()]
        return msgspec.structs.replace(
            self.template,
            name=self.name.text().strip(),
            of=str(self.of.currentData()),
            columns=self._asked(),
            group=tuple(part.strip() for part in self.group.text().split(";") if part.strip()),
            sort=tuple(SortBy(n.removeprefix(_FALLING).strip(), n.startswith(_FALLING)) for n in names),
            lens=self.lens.text().strip(),
            title=self.title.text().strip(),
            heading=self.heading.text().strip(),
            office=self.office.text().strip(),
            notes=tuple(line for line in self.notes.toPlainText().splitlines() if line.strip()),
            landscape=self.landscape.isChecked(),
        )

    def accept(self) -> None:
        made = self.asked()
        try:
            if problem := made.problem():
                raise JobError(problem)
            checked(made)
            if made.lens:
                lens_named(self.session.job, made.lens)
        except JobError as error:
            self.said.setText(str(error))
            return
        self.made = made
        super().accept()
