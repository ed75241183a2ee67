"""The series of marks in order: prefix and numbers, and which pieces they are for."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from uncus.app import marking
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.app.session import Session
from uncus.app.stages.joining_rules import plain_button
from uncus.app.stages.table import Table
from uncus.job.errors import JobError
from uncus.job.records import Role, Series, new_id
from uncus.lens.grammar import read, write
from uncus.mark.series import limits, name_of

_KINDS = ("assemblies", "parts")


class SeriesDialog(QDialog):
    """Stays open beside the model; each edit is one undo step. The first series that fits a piece gives its mark."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Series of marks")
        self.table = Table("Series", ("", "First", "Last", "For", "Roles or kinds", "Members"))
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
        buttons = QHBoxLayout()
        for words, help, do in (
            ("New", "A series after this one, like it", self.add),
            ("Up", "Asked before the one above", lambda: self.move_series(-1)),
            ("Down", "Asked after the one below", lambda: self.move_series(1)),
            ("Take away", "Pieces of it go to the next that fits", self.remove),
        ):
            buttons.addWidget(plain_button(words, help, do))
        buttons.addStretch(1)
        buttons.addWidget(plain_button("Close", "The series are kept with the job", self.close))
        left = QVBoxLayout()
        left.addWidget(QLabel("For each piece, the first series that fits it:"))
        left.addWidget(self.table, 1)
        left.addLayout(buttons)
        left.addWidget(self.said)
        both = QHBoxLayout(self)
        both.addLayout(left, 3)
        both.addWidget(self.area, 2)
        self.resize(900, 430)
        steel, said = session.steel.connect(lambda _: self.refresh()), session.said.connect(self._said)
        self.finished.connect(lambda _: (session.steel.disconnect(steel), session.said.disconnect(said)))
        self.picked = ""
        self.refresh()

    def _said(self, words: str, bad: bool) -> None:
        self.said.setText(words if bad else " ")

    @property
    def series(self) -> list[Series]:
        return sorted(self.session.job.all(Series), key=lambda s: s.order)

    @property
    def one(self) -> Series | None:
        return next((s for s in self.series if s.id == self.picked), None)

    def refresh(self) -> None:
        series = self.series
        ends = limits(series)
        rows = [
            (str(n), name_of(s, s.start), name_of(s, last) if (last := ends[s.id][0]) is not None else "", _KINDS[s.parts],
             ", ".join(s.roles) or "all", write(s.members) or "anything")
            for n, s in enumerate(series, 1)
        ]  # fmt: skip
        keys = [s.id for s in series]
        if (rows, keys) != (self.table.rows.rows, self.table.rows.keys):
            self._filling = True
            self.table.fill(rows, keys)
            self.picked = self.picked if self.picked in keys else next(iter(keys), "")
            self.table.pick(self.picked)
            self._filling = False
        self._show()

    def _show(self) -> None:
        found = self.table.picked()
        self.picked = str(found[0]) if found else self.picked
        page = Page(self.session)
        if self.one is None:
            page.words("No series: pieces are marked M1, M2 ... and parts x1, x2 ...; press New.")
        else:
            self._form(page, self.one)
        page.column.addStretch(1)
        old = self.area.takeWidget()
        if old is not None:
            old.deleteLater()
        self.area.setWidget(page)

    def _form(self, page: Page, one: Series) -> None:
        def text(words: str, name: str, shown: str, read_value: Callable[[str], object], help: str = "") -> None:
            page.row(words, TextField(f"Series {words.lower()}", shown, lambda t: self._set(one, name, read_value, t)), help)  # fmt: skip

        page.title(f"{name_of(one, one.start)}, {name_of(one, one.start + one.step)} ...", f"for {_KINDS[one.parts]}")
        page.heading("Numbers")
        text("Prefix", "prefix", one.prefix, str)
        text("First", "start", str(one.start), _whole)
        text("Step", "step", str(one.step), _whole)
        text("Figures", "pad", str(one.pad), _whole, "At least so many: 3 makes B007.")
        text("Last", "last", str(one.last) if one.last is not None else "", lambda t: _whole(t) if t else None, "Empty: no end but the next series' start.")  # fmt: skip
        page.heading("Which pieces")
        kinds = ChoiceField("Series for", _KINDS[one.parts], _KINDS, lambda t: self._set(one, "parts", lambda x: x == _KINDS[1], t))  # fmt: skip
        page.row("For", kinds)
        roles = "plate, rolled, or a part's own words such as shear tab" if one.parts else ", ".join(Role)
        text("Roles", "roles", ", ".join(one.roles), lambda t: tuple(r.strip() for r in t.split(",") if r.strip()), f"Some of: {roles}; empty for all.")  # fmt: skip
        text("Members", "members", write(one.members), read, "A lens as text, such as section begins W12 or lot is 2; empty for all.")  # fmt: skip

    def _set(self, one: Series, name: str, read_value: Callable[[str], object], text: str) -> bool:
        try:
            new = msgspec.structs.replace(one, **{name: read_value(text)})
        except (JobError, ValueError) as error:
            self.session.said.emit(str(error), True)
            return False
        return marking.change_series(self.session, f"Series {one.prefix}: {name}", [new if s.id == one.id else s for s in self.series])  # fmt: skip

    def add(self) -> None:
        series, now = self.series, self.one
        like = now or Series(prefix="B", roles=(Role.BEAM,))
        new = msgspec.structs.replace(like, id=new_id(), start=like.start + 100)
        at = next((i for i, s in enumerate(series) if s.id == self.picked), len(series) - 1)
        self.picked = new.id
        marking.change_series(self.session, f"New series {new.prefix}", [*series[: at + 1], new, *series[at + 1 :]])

    def move_series(self, step: int) -> None:
        series = self.series
        at = next((i for i, s in enumerate(series) if s.id == self.picked), -1)
        if at >= 0 and 0 <= at + step < len(series):
            series[at], series[at + step] = series[at + step], series[at]
            marking.change_series(self.session, "Order of series", series)

    def remove(self) -> None:
        if one := self.one:
            marking.change_series(self.session, f"Take series {one.prefix} away", [s for s in self.series if s.id != one.id])  # fmt: skip


def _whole(text: str) -> int:
    if not text.strip().isdigit():
        raise JobError(f"A whole number is wanted here; “{text}” is none.")
    return int(text)
