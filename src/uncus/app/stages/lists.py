"""Lists as they will be printed, beside the templates they are made by: taken from the office's file, made one's own,
written, and kept as they were sent."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import msgspec
from PySide6.QtWidgets import QHBoxLayout, QInputDialog, QLabel, QSplitter, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.sheet.sheet_view import SheetView
from uncus.app.stages.files import folder_for, open_file, save_file
from uncus.app.stages.lens_field import LensField
from uncus.app.stages.list_form import ListDialog
from uncus.app.stages.ordered import button_row, plain_button
from uncus.app.stages.table import Table
from uncus.bill.advance import keep_advance
from uncus.bill.kept import kept, table_of
from uncus.bill.listing import from_json, listed, templates_of, to_json
from uncus.bill.loads import put_on, too_much
from uncus.bill.printed import printed
from uncus.bill.sources import SOURCES, Billing, through, to_order
from uncus.bill.stood import stood
from uncus.bill.table import Table as BillTable
from uncus.deliver.list_files import list_files
from uncus.job.billing import KeptList, ListTemplate, Load
from uncus.job.errors import JobError
from uncus.job.files import read_outside, write_beside
from uncus.job.records import new_id
from uncus.mark.marking import Marks
from uncus.units import counted

_FILES = "List templates (*.json)"


def billing(session: Session, lens: str = "") -> Billing:
    """The job as its lists see it. Raises JobError."""
    job, shop = session.job, session.shop
    return Billing(job, shop, Marks(job, shop.carried), through(job, shop, lens))


class ListsPanel(QWidget):
    """The lists there are on the left, the picked one as it will be printed on the right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.made: BillTable | None = None
        self.lens = LensField(session, "Lens of the lists", "Only what a lens lets through, beside a list's own")
        self.lens.activated.connect(lambda _: self.show_list())
        self.table = Table("Lists", ("List", "Of", "Filed under"))
        self.table.chosen.connect(lambda _: self.show_list())
        self.view: SheetView = SheetView()
        self.view.words = "Pick a list; it is shown as it will be printed."
        self.words = QLabel(" ")
        self.words.setWordWrap(True)
        self.words.setAccessibleName("What the list says")
        split = QSplitter()
        split.addWidget(self._left())
        split.addWidget(self._right())
        split.setSizes([320, 680])
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def _left(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.addLayout(self.lens.row())
        column.addWidget(self.table, 1)
        for some in (
            (("Change ...", "Columns, order, groups and notes of this list; ours become the job's own", self.edit),
             ("Another ...", "A list of one's own, like this one", self.another),
             ("Take away", "It is no longer one of the job's own", self.remove)),
            (("Order ahead ...", "Today's marks and lengths kept as they are ordered, for good", self.order),
             ("Load ...", "The selected pieces onto a load, for the shipping list", self.load)),
            (("From a file ...", "Lists as the office keeps them", self.take_in),
             ("To a file ...", "The job's own lists, for the office's file", self.give_out)),
        ):  # fmt: skip
            row = button_row(some)
            column.addLayout(row)
        return box

    def _right(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.addWidget(self.view, 1)
        row = QHBoxLayout()
        row.addWidget(plain_button("← Page", "Page before", lambda: self.view.turn(-1)))
        row.addWidget(plain_button("Page →", "Next page", lambda: self.view.turn(1)))
        row.addWidget(self.words, 1)
        row.addWidget(plain_button("Write files ...", "This list as PDF, XLSX and CSV", self.write))
        row.addWidget(plain_button("Keep as sent ...", "As it is now, under a name, to compare with later", self.keep))
        column.addLayout(row)
        return box

    # -- showing ----------------------------------------------------------------------------------
    @property
    def templates(self) -> list[ListTemplate]:
        return templates_of(self.session.job.all(ListTemplate))

    @property
    def one(self) -> ListTemplate | None:
        picked = self.table.picked()
        return next((t for t in self.templates if picked and t.id == picked[0]), None)

    def refresh(self) -> None:
        there = self.templates
        own = {t.id for t in self.session.job.all(ListTemplate)}
        rows = [
            (t.name, SOURCES[t.of].words if t.of in SOURCES else t.of, t.heading or ("" if t.id in own else "ours"))
            for t in there
        ]
        keys = [t.id for t in there]
        sent = self.session.job.all(KeptList)
        rows += [(one.name, f"as sent on {one.on}", "kept") for one in reversed(sent)]
        keys += [one.id for one in reversed(sent)]
        if (rows, keys) != (self.table.rows.rows, self.table.rows.keys):
            picked = self.table.picked()
            self.table.fill(rows, keys)
            if there:
                self.table.pick(picked[0] if picked and picked[0] in keys else keys[0])
        self.lens.refresh()
        self.show_list()

    def show_list(self) -> None:
        template = self.one
        if template is None:
            picked = self.table.picked()
            sent = self.session.job.get(str(picked[0]), KeptList) if picked else None
            if sent is not None:
                self.made = table_of(sent)
                self._show(self.made)
            return
        try:
            self.made = listed(template, billing(self.session, self.lens.lens))
        except JobError as error:
            self.made = None
            self.view.show_sheets((), str(error))
            return
        if not self.made.rows:
            self.view.show_sheets((), f"Nothing is in “{template.name}” yet; pieces are listed once they are marked.")
            self.words.setText(" ")
            return
        self._show(self.made)

    def _show(self, made: BillTable) -> None:
        try:
            pages = printed(made, self.session.units, self._project())
        except JobError as error:  # a logo that cannot be read
            self.view.show_sheets((), str(error))
            return
        self.view.show_sheets(pages, page=min(self.view.hand.page, len(pages) - 1))
        self.words.setText(f"{counted(len(made.rows), 'row')} on {counted(len(pages), 'page')}")

    def _project(self) -> str:
        project = self.session.job.project
        return "   ".join(filter(None, (project.name, project.number)))

    # -- templates --------------------------------------------------------------------------------
    def edit(self) -> None:
        if (template := self.one) is not None:
            is_own = template.id in self.session.job.records
            own = template if is_own else msgspec.structs.replace(template, id=new_id())
            self._ask(own, f"List {own.name}")

    def another(self) -> None:
        if (template := self.one) is not None:
            made = msgspec.structs.replace(template, id=new_id(), name=f"{template.name} 2")
            self._ask(made, "Another list")

    def _ask(self, template: ListTemplate, title: str) -> None:
        dialog = ListDialog(self.session, template, title, self)
        if dialog.exec() and dialog.made is not None and self.session.change(title, [dialog.made]):
            self.refresh()
            self.table.pick(dialog.made.id)

    def remove(self) -> None:
        picked = self.table.picked()
        record = self.session.job.records.get(str(picked[0])) if picked else None
        if not isinstance(record, ListTemplate | KeptList):
            self.session.said.emit("This list is one of ours; change it, and it is the job's own.", True)
        elif self.session.change(f"List {record.name} taken away", drop=[record.id]):
            self.refresh()

    def take_in(self) -> None:
        if path := open_file(self, "Lists from a file", _FILES):
            self.session.attempt(lambda: self._take_in(path))

    def _take_in(self, path: Path) -> None:
        found = from_json(read_outside(path), path.name)
        there = {t.name.casefold(): t.id for t in self.session.job.all(ListTemplate)}
        put = [msgspec.structs.replace(t, id=there.get(t.name.casefold(), new_id())) for t in found]
        if self.session.change(f"Lists from {path.name}", put):
            self.session.said.emit(f"{counted(len(put), 'list')} from {path.name}.", False)
            self.refresh()

    def give_out(self) -> None:
        own = self.session.job.all(ListTemplate) or self.templates
        if path := save_file(self, "Lists to a file", "lists.json", _FILES):
            self.session.attempt(lambda: write_beside(path, to_json(own)))

    # -- ordering and shipping --------------------------------------------------------------------
    def order(self) -> None:
        """The advance bill: what was not ordered before keeps its mark and length from now on."""
        name, taken = QInputDialog.getText(self, "Order ahead", "Name of the advance bill", text="AB-1")
        if taken and name.strip():
            self.session.attempt(lambda: self.order_as(name.strip(), date.today().isoformat()))

    def order_as(self, name: str, today: str) -> None:
        of = billing(self.session, self.lens.lens)
        found = to_order(of)
        made = keep_advance(of.job, list(of.shop.shipped.values()), found, today, name)
        if not made:
            self.session.said.emit("All of these were ordered before, or there is nothing to order.", True)
        elif self.session.change(f"Advance bill {name}", made):
            self.table.pick("usual advance bill")
            self.session.said.emit(f"{counted(sum(m.part for m in made), 'length')} kept as ordered in {name}.", False)

    def load(self) -> None:
        name, taken = QInputDialog.getText(self, "Load", "Name of the load", text="1")
        if taken and name.strip():
            self.load_as(name.strip())

    def load_as(self, name: str) -> None:
        """The selected pieces ride on a load of a name; what is too much for it is said."""
        session = self.session
        pieces = tuple(dict.fromkeys(session.shop.ships_as(m.id) for m in session.members))
        if not pieces:
            session.said.emit("Select the pieces first, in the model or among what changed.", True)
            return
        if session.change(f"Load {name}", put_on(session.job.all(Load), name, pieces)):
            of = billing(session)
            told = list(too_much(session.job.all(Load), of.shop.shipped, of.marks, session.units))
            session.said.emit(" ".join(told) or f"{counted(len(pieces), 'piece')} on load {name}.", bool(told))
            self.show_list()

    # -- going out --------------------------------------------------------------------------------
    def write(self) -> None:
        made = self.made
        if made is None or not made.rows:
            self.session.said.emit("There is nothing in this list to write.", True)
            return
        if folder := folder_for(self, "Folder of the list"):

            def work() -> None:
                for file, data in list_files([made], self.session.job).items():
                    write_beside(folder / file, data)
                self.session.said.emit(f"{made.name} is in {folder}.", False)

            self.session.attempt(work)

    def keep(self) -> None:
        if self.made is None or not self.made.rows:
            self.session.said.emit("There is nothing in this list to keep.", True)
            return
        today = date.today().isoformat()
        name, taken = QInputDialog.getText(self, "Keep as sent", "Name", text=f"{self.made.name} {today}")
        if taken and name.strip():
            self.keep_as(name.strip(), today)

    def keep_as(self, name: str, today: str) -> bool:
        """The list as it is now and the parts it is of, kept under a name."""
        made = self.made
        if made is None:
            return False
        of = billing(self.session, self.lens.lens)
        record = kept(made, stood(of.job, of.shop, of.marks, of.wanted), name, today)
        return self.session.change(f"List kept: {name}", [record])
