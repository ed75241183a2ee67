"""Bought items: the catalogue that colleagues share beside what this job uses of it; set, kept, made, taken over."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from datetime import date
from getpass import getuser
from pathlib import Path
from typing import Annotated, NamedTuple

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QDialog, QLabel, QLineEdit, QSplitter, QVBoxLayout, QWidget

from uncus.app.facts.form import new_form, struct_form
from uncus.app.facts.item_picture import item_picture
from uncus.app.session import Session
from uncus.app.stages.files import folder_for, open_file
from uncus.app.stages.ordered import button_row, keep_row, plain_button
from uncus.app.stages.table import Table
from uncus.app.stages.working import say_on
from uncus.app.theme import theme_of
from uncus.app.tools.set_item import SetItemTool
from uncus.catalog.bought import SHIPPED, Bought, bought_items, key_of
from uncus.job.bought import shipped_item
from uncus.job.errors import JobError
from uncus.job.files import read_outside
from uncus.job.forms import FLAGS, About
from uncus.job.records import BoughtItem
from uncus.reference.catalogue import OUT, Catalogue, Entry, body_of_ifc, body_of_parts, find, newer, turned_out
from uncus.reference.items import users
from uncus.steel.bodies import body_solid, is_closed
from uncus.units import STEEL_DENSITY, counted, format_weight

replace = msgspec.structs.replace
_TEACHES = (
    "A bought item is one line for the buyer, whatever it is made of: no part sheet, no CNC. Choose the catalogue that "
    "your colleagues share, or make an item here."
)
_HEADS = ("Code", "What it is", "State", "Used", "Maker", "Weight", "No")
NEWER, BOTH, HERE, SHIPS = "▲ newer there", "◆ two versions", "○ here alone", "ships with Uncus"


class Row(NamedTuple):
    """An item by its code: the job's copy, the catalogue's versions, how many there are in the model."""

    code: str
    item: BoughtItem | None
    entry: Entry | None
    used: int

    @property
    def facts(self) -> Bought:
        if self.item is not None:
            return self.item.facts
        return self.entry.newest.facts if self.entry is not None else bought_items()[self.code]

    @property
    def version(self) -> int:
        return self.item.version if self.item else self.entry.newest.version.version if self.entry else 1

    @property
    def state(self) -> str:
        if self.entry is None:
            return SHIPS if self.item is None or self.item.catalogue == SHIPPED else HERE
        if len(self.entry.heads) > 1:
            return BOTH
        return NEWER if self.item is not None and self.item.digest != self.entry.newest.digest else ""


class ItemValues(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is typed of an item."""

    code: Annotated[str, About("Product code", unit="text")] = ""
    words: Annotated[str, About("What it is", unit="text")] = ""
    maker: Annotated[str, About("Maker", unit="text")] = ""
    finish: Annotated[str, About("Finish", unit="text")] = ""
    kg: Annotated[float, About("Weight", unit="weight", low=0, high=100_000, help="Nothing: as solid steel.")] = 0.0
    out: Annotated[str, About("Points out", unit="choice", choices=OUT, help="The axis of its shape that points out of "
        "what it is fixed to.")] = "x"  # fmt: skip
    deep: Annotated[float, About("Out", low=1, high=30_000, help="Of one made from numbers.")] = 300.0
    wide: Annotated[float, About("Across", low=1, high=30_000, help="Of one made from numbers.")] = 100.0
    tall: Annotated[float, About("Up", low=1, high=30_000, help="Of one made from numbers.")] = 200.0
    bolt: Annotated[str, About("Bolts", unit="text", help="Their size, where it has holes of its own.")] = ""
    turns: Annotated[str, About("May be turned", unit="choice", choices=FLAGS)] = FLAGS[0]
    mirrors: Annotated[str, About("Mirror image is made", unit="choice", choices=FLAGS)] = FLAGS[1]
    black: Annotated[str, About("Sold without finish", unit="choice", choices=FLAGS)] = FLAGS[0]


class ItemDialog(QDialog):
    """What is typed of a new item, or of a new version of one."""

    def __init__(self, session: Session, values: ItemValues, parent: QWidget, left_out: tuple[str, ...] = ()) -> None:
        super().__init__(parent)
        self.session, self.values = session, values
        self.setWindowTitle("Bought item")
        self.setMinimumWidth(420)
        self.holder = QVBoxLayout()
        layout = QVBoxLayout(self)
        layout.addLayout(self.holder)
        layout.addLayout(keep_row(self, self.accept))
        form = new_form()
        struct_form(form, values, session.units, self._set, "Item ")
        widget = QWidget()
        widget.setLayout(form)
        self.holder.addWidget(widget)

    def _set(self, name: str, read: Callable[[], object]) -> bool:
        def work() -> None:
            self.values = replace(self.values, **{name: read()})  # type: ignore[arg-type]

        return self.session.attempt(work)


class BoughtPanel(QWidget):
    """The items on the left, the picked one with its picture on the right."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.catalogue: Catalogue | None = None
        self._sought = False
        self.search = QLineEdit()
        self.search.setPlaceholderText("search: code, maker, what it is")
        self.search.setAccessibleName("Search bought items")
        self.table = Table("Bought items", _HEADS)
        self.table.widest = {0: 100, 1: 130, 2: 120, 3: 45, 4: 120, 5: 60}
        self.table.chosen.connect(lambda _: self._show())
        self.search.textChanged.connect(self.table.filter)
        self.picture, self.facts = QLabel(), QLabel()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setAccessibleName("Picture of the item")
        self.facts.setWordWrap(True)
        self.facts.setAccessibleName("The item")
        self.said = QLabel(_TEACHES)
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What happened to bought items")
        layout = QVBoxLayout(self)
        layout.addLayout(self._buttons())
        split = QSplitter()
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.search)
        column.addWidget(self.table, 1)
        split.addWidget(left)
        split.addWidget(self._right())
        split.setSizes([560, 230])
        layout.addWidget(split, 1)
        layout.addWidget(self.said)
        self._stop = session.job.follow(lambda delta: self._followed())

    def _buttons(self) -> QVBoxLayout:
        both = QVBoxLayout()
        for some in (
            (("Set in the model", "The picked item, where its foot is picked and which way it stands out", self.set),
             ("Take newer", "The catalogue's newest version of the picked ones, with what changed", self.take_newer),
             ("Take all newer", "Of every item that this job uses", self.take_all),
             ("Change ...", "The picked item's facts, as a new version of this job's", self.edit),
             ("Picture ...", "A photograph of the picked item (PNG)", self.picture_of),
             ("Where used", "Select what has the picked item", self.where)),
            (("From steel ...", "One item of the picked pieces, whatever they are made of", self.from_steel),
             ("From IFC ...", "The shape of a file as an item", self.from_ifc),
             ("From numbers ...", "A box of so much out, across and up", self.from_numbers),
             ("Share", "The job's version of the picked items into the catalogue, as a new version", self.share),
             ("Catalogue ...", "The folder that colleagues share", self.choose)),
        ):  # fmt: skip
            row = button_row(some)
            both.addLayout(row)
        row.addWidget(plain_button("Put away", "The panel; the items stay", lambda: self.session.put_below("")))
        return both

    def _right(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(8, 0, 0, 0)
        column.addWidget(self.picture)
        column.addWidget(self.facts)
        column.addStretch(1)
        return box

    # -- the catalogue ---------------------------------------------------------------------------------------------
    def seek(self) -> None:
        """The catalogue of the preferences, where its folder is by now."""
        own = self.session.preferences
        self._sought = True
        if not own.catalogue:
            return
        job = self.session.job.path
        near = (job.parent,) if job is not None else ()
        found = find(Path(own.catalogue), own.catalogue_id, near)
        if found is None:
            self._say(f"The catalogue {own.catalogue} is not there; choose its folder.", True)
        else:
            self.use(found)

    def use(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        if str(catalogue.folder) != self.session.preferences.catalogue:
            self.session.prefer(catalogue=str(catalogue.folder), catalogue_id=catalogue.about.id)
        self.refresh(True)

    def choose(self) -> None:
        folder = folder_for(self, "The catalogue's folder; an empty one becomes one")
        if folder is not None:
            self.session.attempt(lambda: self.use(Catalogue.make(folder)))

    # -- rows ------------------------------------------------------------------------------------------------------
    def rows(self) -> list[Row]:
        job = self.session.job
        own = {key_of(i.code): i for i in job.all(BoughtItem)}
        entries = {key_of(e.code): e for e in self.catalogue.entries()} if self.catalogue else {}
        count = Counter(key_of(p.part.item.code) for p in self.session.shop.pieces() if p.part.item is not None)
        codes = sorted({*own, *entries, *bought_items()})
        return [Row(c, own.get(c), entries.get(c), count[c]) for c in codes]

    @property
    def picked(self) -> list[Row]:
        found = self.table.picked()
        return [r for r in found if isinstance(r, Row)]

    def _one(self) -> Row | None:
        if not self.picked:
            self._say("Pick an item in the list first.", True)
            return None
        return self.picked[0]

    def _followed(self) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self, again: bool = False) -> None:
        rows = self.rows()
        code = self.picked[0].code if self.picked else ""
        theme = theme_of(self)
        self.table.rows.colours = {}
        units = self.session.units
        cells = [(r.code, r.facts.words, r.state, str(r.used or ""), r.facts.maker, format_weight(r.facts.kg, units),
            str(r.version)) for r in rows]  # fmt: skip
        self.table.fill(cells, rows)
        self.table.pick(next((r for r in rows if r.code == code), None))
        fresh = sum(r.state == NEWER for r in rows)
        faults = self.catalogue.faults if self.catalogue else []
        where = f"{self.catalogue.about.name} in {self.catalogue.folder}. " if self.catalogue else ""
        if faults:
            self._say(f"{where}{faults[0]}" + (f" And {len(faults) - 1} more." if len(faults) > 1 else ""), True)
        elif self.catalogue:
            self._say(f"{where}{counted(fresh, 'item')} of this job newer there." if fresh else where, False)
        self._theme = theme
        self._show()

    def _show(self) -> None:
        row = self.picked[0] if self.picked else None
        if row is None:
            self.picture.setPixmap(QPixmap())
            self.facts.setText("")
            return
        theme, facts = theme_of(self), row.facts
        item = row.item or shipped_item(row.code)
        if item is None and self.catalogue is not None and row.entry is not None and not row.entry.newest.version.shape:
            item = BoughtItem(id=BoughtItem.named(facts.code), facts=facts)
        if item is not None:
            self.picture.setPixmap(item_picture(item, 240, 150, theme.steel, theme.ink))
        elif row.entry is not None and row.entry.newest.version.picture:
            photo = QPixmap(str(row.entry.newest.file.with_suffix(".png")))
            self.picture.setPixmap(photo.scaled(240, 150, Qt.AspectRatioMode.KeepAspectRatio))
        else:
            self.picture.setText("Its shape is read when it is taken into the job.")
        told = [f"{facts.code}: {facts.words}", facts.maker, facts.finish and f"finish {facts.finish}",
            "" if facts.turns else "set upright only", "" if facts.mirrors else "no mirror image",
            f"{len(facts.holes)} holes, bolts {facts.bolt}" if facts.holes else "", facts.note]  # fmt: skip
        if row.item is not None and self.catalogue is not None and row.state in (NEWER, BOTH):
            fresh = next((n for n in newer([row.item], self.catalogue)), None)
            told += [f"newer: {words}" for words in fresh.words] if fresh else []
        if row.entry is not None and len(row.entry.heads) > 1:
            told += [f"version {h.version.version} by {h.version.by or '?'}, {h.version.on}: {h.version.what}" for h in
                row.entry.heads]  # fmt: skip
        self.facts.setText("\n".join(words for words in told if words))

    # -- what is done ----------------------------------------------------------------------------------------------
    def set(self) -> None:
        row = self._one()
        if row is None:
            return
        if row.item is None and row.entry is not None:
            self._take([row.entry], lambda: self._set_tool(row.code))
        else:
            self._set_tool(row.facts.code)

    def _set_tool(self, code: str) -> None:
        self.session.use(lambda: SetItemTool(self.session, code))
        self.session.to_canvas.emit()

    def _take(self, entries: list[Entry], then: Callable[[], None] = lambda: None) -> None:
        """Versions out of the catalogue into the job; shapes are read in the background."""
        catalogue = self.catalogue
        if catalogue is None or not entries:
            self._say("There is nothing newer to take.", False)
            return

        def taken(found: object) -> None:
            assert isinstance(found, list)
            self.session.change(f"{counted(len(found), 'bought item')} of the catalogue", found)
            self.refresh()
            then()

        self.session.others.work(lambda tell, stop: [catalogue.item(e.newest, tell) for e in entries], taken)

    def take_newer(self) -> None:
        self._take([r.entry for r in self.picked if r.entry is not None])

    def take_all(self) -> None:
        self._take(
            [r.entry for r in self.rows() if r.entry is not None and r.item is not None and r.state in (NEWER, BOTH)]
        )

    def where(self) -> None:
        row = self._one()
        if row is not None:
            self.session.select(users(self.session.job, row.code))
            self.session.framed.emit()

    def share(self) -> None:
        catalogue = self.catalogue
        if catalogue is None:
            self._say("Choose the catalogue's folder first.", True)
            return
        own = [r for r in self.picked if r.item is not None or shipped_item(r.code) is not None]
        if not own:
            self._say("Pick items that this job has.", True)
            return

        def work() -> None:
            put = []
            for row in own:
                item = row.item or shipped_item(row.code)
                assert item is not None
                after = (item.digest,) if item.digest else tuple(h.digest for h in row.entry.heads) if row.entry else ()
                held = catalogue.keep(item, getuser(), date.today().isoformat(), "", after)
                put.append(
                    replace(item, catalogue=catalogue.about.id, digest=held.digest, version=held.version.version)
                )
            self.session.change(f"Share {counted(len(put), 'bought item')}", put)

        if self.session.attempt(work):
            self.refresh(True)

    # -- making items ----------------------------------------------------------------------------------------------
    def make(self, values: ItemValues, body: bytes, picture: bytes = b"") -> bool:
        """An item of this job, of typed values and a body (none: a box)."""

        def work() -> None:
            shape = turned_out(body, values.out) if body else b""
            ring = ((0.0, 0.0), (values.deep, 0.0), (values.deep, values.tall), (0.0, values.tall))
            kg = values.kg or round((body_solid(shape).volume() if shape else values.deep * values.wide * values.tall)
                * STEEL_DENSITY, 2)  # fmt: skip
            facts = Bought(values.code.strip(), values.maker, values.words or "bought item", kg, values.finish,
                () if shape else ring, 0.0 if shape else values.wide, bolt=values.bolt,
                turns=values.turns == FLAGS[0], mirrors=values.mirrors == FLAGS[0],
                black=values.black == FLAGS[0])  # fmt: skip
            before = self.session.job.get(BoughtItem.named(facts.code), BoughtItem)
            made = BoughtItem(id=BoughtItem.named(facts.code), facts=facts, version=before.version + 1 if before else 1,
                body=shape, picture=picture)  # fmt: skip
            if problem := made.problem():
                raise JobError(problem)
            if not self.session.change(f"Bought item {facts.code}", (made,)):
                return
            if shape and not is_closed(shape):
                self.session.said.emit(f"{facts.code} encloses nothing; the least solid that holds it is shown.", True)

        done = self.session.attempt(work)
        self.refresh()
        return done

    def _asked(self, values: ItemValues, body: bytes) -> None:
        dialog = ItemDialog(self.session, values, self)
        if dialog.exec():
            self.make(dialog.values, body)

    def from_numbers(self) -> None:
        self._asked(ItemValues("ITEM-1"), b"")

    def from_steel(self) -> None:
        pieces = [p for m in self.session.members for p in self.session.shop.assemblies[m.id].pieces]
        if not pieces:
            self._say("Select the pieces that the item is made of first.", True)
            return
        body = body_of_parts([(p.part, p.placement) for p in pieces])
        self._asked(ItemValues("ITEM-1", f"made of {counted(len(pieces), 'part')}"), body)

    def from_ifc(self) -> None:
        path = open_file(self, "The shape of an item", "IFC (*.ifc)")
        if path is not None:
            self.session.others.work(lambda tell, stop: body_of_ifc(path, tell),
                lambda body: self._asked(ItemValues(path.stem), body))  # type: ignore[arg-type]  # fmt: skip

    def edit(self) -> None:
        """Other facts for the picked item; its shape stays."""
        row = self._one()
        item = (row.item or shipped_item(row.code)) if row is not None else None
        if row is None or item is None:
            return
        f = item.facts
        values = ItemValues(f.code, f.words, f.maker, f.finish, f.kg, bolt=f.bolt, turns=FLAGS[not f.turns],
            mirrors=FLAGS[not f.mirrors], black=FLAGS[not f.black])  # fmt: skip
        dialog = ItemDialog(self.session, values, self)
        if dialog.exec():
            self.session.attempt(lambda: self._changed(item, dialog.values))

    def _changed(self, item: BoughtItem, v: ItemValues) -> None:
        facts = replace(item.facts, words=v.words, maker=v.maker, finish=v.finish, kg=v.kg, bolt=v.bolt,
            turns=v.turns == FLAGS[0], mirrors=v.mirrors == FLAGS[0], black=v.black == FLAGS[0])  # fmt: skip
        if key_of(v.code) != key_of(item.code):
            raise JobError("An item keeps its code; make another one for another code.")
        made = replace(item, facts=facts, version=item.version + 1)
        if problem := made.problem():
            raise JobError(problem)
        self.session.change(f"Change {item.code}", (made,))
        self.refresh()

    def picture_of(self) -> None:
        path = open_file(self, "A photograph", "Pictures (*.png)")
        if path is not None:
            self.session.attempt(lambda: self.picture_from(path))

    def picture_from(self, path: Path) -> None:
        """A photograph of the picked item. Raises JobError."""
        row = self._one()
        item = (row.item or shipped_item(row.code)) if row is not None else None
        if item is not None:
            data = read_outside(path, 400_000)
            if not data.startswith(b"\x89PNG"):
                raise JobError(f"{path.name} is no PNG picture.")
            self.session.change(f"Picture of {item.code}", (replace(item, picture=data),))
            self.refresh()

    # -- saying ----------------------------------------------------------------------------------------------------
    def _say(self, words: str, error: bool) -> None:
        say_on(self.said, words, error)

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        if not self._sought:
            self.seek()
        self.refresh()
