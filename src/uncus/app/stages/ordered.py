"""A window over records that are asked in order: a table of them, a form for the one picked, and what moves them
about."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Sequence
from typing import ClassVar

import msgspec
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from uncus.app.facts.page import Page
from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.job.errors import JobError
from uncus.job.records import OfficeRule, Series

Ordered = OfficeRule | Series


class OrderedDialog(QDialog):
    """Stays open beside the model; each edit is one undo step. Made for a kind of record by the methods left open."""

    title = ""
    intro = ""
    empty = ""
    foot = ""
    heads: ClassVar[tuple[str, ...]] = ()
    widths: ClassVar[tuple[int, ...]] = ()
    opens_at: ClassVar[tuple[int, int]] = (1000, 500)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle(self.title)
        self.table = Table(self.title, ("", *self.heads))
        self.table.setSortingEnabled(False)
        self._filling = False
        self.table.chosen.connect(lambda _: None if self._filling else self._show())
        self.said = QLabel(" ")
        self.said.setProperty("error", True)
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What is wrong")
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setMinimumWidth(290)
        self._lay_out()
        steel, said = session.steel.connect(lambda _: self.refresh()), session.said.connect(self._heard)
        self.finished.connect(lambda _: (session.steel.disconnect(steel), session.said.disconnect(said)))
        self.picked = ""
        self.refresh()

    def _lay_out(self) -> None:
        buttons = QHBoxLayout()
        for words, help, do in (
            ("New", "One after this, like it", self.add),
            ("Up", "Asked before the one above", lambda: self.step(-1)),
            ("Down", "Asked after the one below", lambda: self.step(1)),
            ("Take away", "It is no longer asked", self.remove),
            *self.more(),
        ):
            buttons.addWidget(plain_button(words, help, do))
        buttons.addStretch(1)
        left = QVBoxLayout()
        left.addWidget(QLabel(self.intro))
        left.addWidget(self.table, 1)
        left.addLayout(buttons)
        left.addWidget(self.said)
        both = QHBoxLayout()
        both.addLayout(left, 3)
        both.addWidget(self.area, 2)
        foot = QHBoxLayout()
        foot.addWidget(QLabel(self.foot), 1)
        foot.addWidget(plain_button("Close", "What is here is kept with the job", self.close))
        layout = QVBoxLayout(self)
        layout.addLayout(both, 1)
        layout.addLayout(foot)
        self.resize(*self.opens_at)

    # -- left open ----------------------------------------------------------------------------------------
    @property
    @abstractmethod
    def records(self) -> list[Ordered]:
        """All of them, in order."""

    @abstractmethod
    def cells(self, records: Sequence[Ordered]) -> list[tuple[str, ...]]:
        """A row of words for each."""

    @abstractmethod
    def form(self, page: Page, record: Ordered) -> None:
        """The form of one."""

    @abstractmethod
    def save(self, label: str, records: Sequence[Ordered]) -> bool:
        """Put them as they are to be."""

    @abstractmethod
    def another(self, like: Ordered | None) -> Ordered:
        """A new one, like one that is there."""

    def more(self) -> Sequence[tuple[str, str, Callable[[], object]]]:
        """Further buttons."""
        return ()

    # -- showing ------------------------------------------------------------------------------------------
    @property
    def one(self) -> Ordered | None:
        return next((r for r in self.records if r.id == self.picked), None)

    def _heard(self, words: str, bad: bool) -> None:
        self.said.setText(words if bad else " ")

    def refresh(self) -> None:
        records = self.records
        rows = [(str(n), *cells) for n, cells in enumerate(self.cells(records), 1)]
        keys = [r.id for r in records]
        if (rows, keys) != (self.table.rows.rows, self.table.rows.keys):
            self._filling = True
            self.table.fill(rows, keys)
            for column, width in enumerate(self.widths):
                self.table.setColumnWidth(column, width)
            self.picked = self.picked if self.picked in keys else next(iter(keys), "")
            self.table.pick(self.picked)
            self._filling = False
        self._show()

    def _show(self) -> None:
        found = self.table.picked()
        self.picked = str(found[0]) if found else self.picked
        page = Page(self.session)
        record = self.one
        if record is None:
            page.words(self.empty)
        else:
            self.form(page, record)
        page.column.addStretch(1)
        old = self.area.takeWidget()
        if old is not None:
            old.deleteLater()
        self.area.setWidget(page)

    # -- changing -----------------------------------------------------------------------------------------
    def replace(self, record: Ordered, label: str, **values: object) -> bool:
        return self.save(
            label, [msgspec.structs.replace(r, **values) if r.id == record.id else r for r in self.records]
        )

    def put(self, record: Ordered, name: str, read: Callable[[], object]) -> bool:
        """One value as it was typed; what cannot be read is said."""
        try:
            value = read()
        except (JobError, ValueError) as error:
            self.session.said.emit(str(error), True)
            return False
        return self.replace(record, f"{self.title}: {name}", **{name: value})

    def add(self) -> None:
        records = self.records
        new = self.another(self.one)
        at = next((i for i, r in enumerate(records) if r.id == self.picked), len(records) - 1)
        self.picked = new.id
        self.save(f"{self.title}: a new one", [*records[: at + 1], new, *records[at + 1 :]])

    def step(self, by: int) -> None:
        records = self.records
        at = next((i for i, r in enumerate(records) if r.id == self.picked), -1)
        if at >= 0 and 0 <= at + by < len(records):
            records[at], records[at + by] = records[at + by], records[at]
            self.save(f"{self.title}: their order", records)

    def remove(self) -> None:
        if record := self.one:
            self.save(f"{self.title}: one taken away", [r for r in self.records if r.id != record.id])


def button_row(buttons: Sequence[tuple[str, str, Callable[[], object]]]) -> QHBoxLayout:
    """Buttons from the left: words, help, what each does."""
    row = QHBoxLayout()
    for words, help, do in buttons:
        row.addWidget(plain_button(words, help, do))
    row.addStretch(1)
    return row


def keep_row(dialog: QDialog, keep: Callable[[], object], help: str = "") -> QHBoxLayout:
    """Cancel and Keep, at the right of a dialog's foot."""
    row = QHBoxLayout()
    row.addStretch(1)
    row.addWidget(plain_button("Cancel", "", dialog.reject))
    main = plain_button("Keep", help, keep)
    main.setProperty("main", True)
    row.addWidget(main)
    return row


def plain_button(words: str, help: str, do: Callable[[], object]) -> QPushButton:
    button = QPushButton(words)
    button.setAccessibleName(words)
    button.setToolTip(help)
    button.setAutoDefault(False)
    button.clicked.connect(lambda: do())
    return button
