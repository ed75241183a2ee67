"""Stock and what is cut from it: bars by section, sheets by thickness, seen before they are sawn; what is left is kept
for the next job."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date

import msgspec
from PySide6.QtWidgets import (
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from uncus.app.facts.form import struct_form
from uncus.app.session import Session
from uncus.app.sheet.sheet_view import SheetView
from uncus.app.stages.files import folder_for
from uncus.app.stages.lens_field import LensField
from uncus.app.stages.lists import billing
from uncus.app.stages.ordered import plain_button
from uncus.app.stages.stock import StockDialog
from uncus.app.stages.working import Runner, Tell, say_on
from uncus.bill.changes import mill_table
from uncus.bill.nesting.bars import BarNest, cuts_of, mill_order, nest, offcuts_of
from uncus.bill.nesting.pictures import bar_pages, plate_pages
from uncus.bill.nesting.plates import PlateNest, blanks_of, nest_plates
from uncus.deliver.list_files import list_files
from uncus.job.billing import Offcut
from uncus.job.files import write_beside
from uncus.units import counted


class NestPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.found: BarNest | PlateNest | None = None
        self._options_shown: object = None
        self.lens = LensField(session, "Lens of what is nested", "Only what a lens lets through")
        self.view: SheetView = SheetView()
        self.view.words = "Nest bars or plates; each is shown as it is cut."
        self.words = QLabel(" ")
        self.words.setWordWrap(True)
        self.words.setAccessibleName("What the nest came to")
        self.bar, self.stop = QProgressBar(), QPushButton("Stop")
        self.stop.setAccessibleName("Stop nesting")
        self.runner = Runner(self.bar, self.stop, self._say)
        self.options = QScrollArea()
        self.options.setWidgetResizable(True)
        split = QSplitter()
        split.addWidget(self._left())
        split.addWidget(self._right())
        split.setSizes([330, 670])
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def _left(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.addLayout(self.lens.row())
        row = QHBoxLayout()
        self.go = plain_button("Nest bars", "Everything that is sawn, into the lengths that can be had", self.bars)
        self.go.setProperty("main", True)
        row.addWidget(self.go)
        row.addWidget(plain_button("Nest plates", "Everything cut from plate, into sheets", self.plates))
        row.addWidget(plain_button("Stock ...", "Lengths, sheets, prices and offcuts that can be had", self.stock))
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.options, 1)
        return box

    def _right(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.addWidget(self.view, 1)
        row = QHBoxLayout()
        row.addWidget(plain_button("← Page", "Page before", lambda: self.view.turn(-1)))
        row.addWidget(plain_button("Page →", "Next page", lambda: self.view.turn(1)))
        row.addWidget(self.words, 1)
        row.addWidget(self.bar)
        row.addWidget(self.stop)
        row.addWidget(plain_button("Keep offcuts", "What is left, under marks, for the next job", self.keep))
        row.addWidget(plain_button("Write files ...", "Pictures, what is to be bought, a DXF a sheet", self.write))
        column.addLayout(row)
        return box

    def refresh(self) -> None:
        self.lens.refresh()
        rules = self.session.job.stock
        if rules != self._options_shown:
            self._options_shown = rules
            box = QWidget()
            form = QFormLayout(box)
            struct_form(form, rules, self.session.units, self._set, "Stock: ")
            self.options.setWidget(box)

    def _set(self, name: str, read: Callable[[], object]) -> bool:
        def work() -> None:
            with self.session.job.change(f"Stock: {name}") as change:
                change.put(msgspec.structs.replace(self.session.job.stock, **{name: read()}))

        return self.session.attempt(work)

    def stock(self) -> None:
        if StockDialog(self.session, self).exec():
            self.refresh()

    # -- nesting ----------------------------------------------------------------------------------
    def bars(self) -> None:
        self._nest(False)

    def plates(self) -> None:
        self._nest(True)

    def _nest(self, plates: bool) -> None:
        session = self.session

        def begin() -> None:
            of = billing(session, self.lens.lens)
            rules, offcuts, units = session.job.stock, session.job.all(Offcut), session.units

            def work(tell: Tell, stopped: Callable[[], bool]) -> object:
                if plates:
                    return nest_plates(blanks, rules, offcuts, units, tell, stopped)
                return nest(cuts, rules, offcuts, units, tell, stopped)

            cuts = [] if plates else cuts_of(of.chosen, lambda p: of.marks.of_part(p.id))
            blanks = blanks_of(of.chosen, lambda p: of.marks.of_part(p.id)) if plates else []
            if not cuts and not blanks:
                self._say("There is nothing to cut yet: pieces are cut once they are marked.", True)
            else:
                self.runner.run(work, self.came)

        session.attempt(begin)

    def came(self, found: object) -> None:
        units, project = self.session.units, self.session.job.project.name
        if isinstance(found, BarNest):
            pages = bar_pages(found, units, project)
            words = (
                f"{counted(sum(1 for _ in found.bars), 'bar')}, drop {100 * found.drop:.1f} %, "
                f"{100 * found.over_bound:.2f} % over the least there can be"
            )
        elif isinstance(found, PlateNest):
            pages = plate_pages(found, units, project)
            words = f"{counted(len(found.sheets), 'sheet')}, {100 * found.fill:.1f} % filled"
        else:
            return
        self.found = found
        self.view.show_sheets(pages, "Nothing found stock.")
        self._say("   ▲ ".join((words, *found.told)), bool(found.told))

    # -- going out --------------------------------------------------------------------------------
    def keep(self) -> None:
        found, job = self.found, self.session.job
        if found is None:
            self._say("Nest first.", True)
            return
        name = f"nest of {date.today().isoformat()}"
        there = job.all(Offcut)
        if isinstance(found, BarNest):
            made = offcuts_of(found, job.stock, name, there)
        else:
            used = {s.offcut for s in found.sheets if s.offcut}
            made = [msgspec.structs.replace(o, used=name) for o in there if o.mark in used]
        if not made:
            self._say("Nothing is left that is long enough to be kept.", True)
        elif self.session.change("Offcuts kept", made):
            self._say(f"{counted(len(made), 'offcut')} kept; Ctrl+Z takes them back.", False)

    def write(self) -> None:
        found = self.found
        if found is None:
            self._say("Nest first.", True)
        elif folder := folder_for(self, "Folder of the nest"):

            def work() -> None:
                from uncus.deliver.nest_dxf import nest_dxf
                from uncus.deliver.pdf import pdf_bytes

                units, job = self.session.units, self.session.job
                if isinstance(found, BarNest):
                    files = list_files([mill_table(mill_order(found))], job)
                    files["bars.pdf"] = pdf_bytes(*bar_pages(found, units, job.project.name))
                else:
                    files = {f"sheet {n}.dxf": nest_dxf(s) for n, s in enumerate(found.sheets, 1)}
                    files["plates.pdf"] = pdf_bytes(*plate_pages(found, units, job.project.name))
                for file, data in files.items():
                    write_beside(folder / file, data)
                self._say(f"{counted(len(files), 'file')} in {folder}.", False)

            self.session.attempt(work)

    def _say(self, words: str, error: bool) -> None:
        say_on(self.words, words, error)
