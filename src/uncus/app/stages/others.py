"""Others' models beside the steel: laid in, shown by storey, class and layer, coloured, placed, compared, made ours."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from typing import cast

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QProgressBar,
    QScrollArea,
    QSplitter,
    QTabWidget,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from uncus.app.canvas.renderer import rgb
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.form import add_row, new_form
from uncus.app.session import Session
from uncus.app.stages.files import open_file
from uncus.app.stages.ordered import button_row, plain_button
from uncus.app.stages.table import Table
from uncus.app.stages.takings import TakingDialog
from uncus.app.stages.working import say_on
from uncus.app.theme import theme_of
from uncus.app.tools.place_model import PlaceModelTool
from uncus.frame.placement import point_of
from uncus.job.errors import JobError
from uncus.job.records import Reference
from uncus.lens.others import FACTS, lens_on_products
from uncus.reference.changes import Compared, Way
from uncus.reference.model import Model, Product
from uncus.reference.placing import placed
from uncus.units import counted, format_angle, format_typed, parse_angle, parse_length

_TEACHES = (
    "Lay in an architect's or another trade's model (IFC), or a drawing (DXF): it stays theirs, is snapped to, "
    "measured and checked against, and its steel can be made into members of this job."
)
_FILES = "Models and drawings (*.ifc *.dxf)"
_BY = ("as the file has it", "class", "storey", "layer", "material", "model")
_HUES = ("#3D55A0", "#2C7A70", "#C38A1A", "#8A4678", "#C8452C", "#5A6B74", "#7B8F3B", "#2F6E91", "#A0603D", "#6B5B95")
_MOST = 9  # colours of a key
_ID, _KEY = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
replace = msgspec.structs.replace
Read = Callable[[str], dict[str, object]]


class OthersPanel(QWidget):
    """The tree on the left, what is picked of it on the right; every change is one undo step."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.others = session, session.others
        self.setObjectName("panel")
        self.taking: TakingDialog | None = None
        self._shown = -1
        self._filling = False
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("Others' models")
        self.tree.setHeaderLabels(("Shown", "Things"))
        self.tree.header().setStretchLastSection(False)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.itemChanged.connect(self._ticked)
        self.tree.currentItemChanged.connect(lambda now, _: self._picked(now))
        self.said = QLabel(_TEACHES)
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What happened to others' models")
        self.bar, self.halt = (
            QProgressBar(),
            plain_button("Stop", "Stop reading; nothing is taken in", self.others.stop),
        )
        self.bar.hide()
        self.halt.hide()
        layout = QVBoxLayout(self)
        layout.addLayout(self._buttons())
        split = QSplitter()
        split.addWidget(self.tree)
        split.addWidget(self._right())
        split.setSizes([460, 420])
        layout.addWidget(split, 1)
        foot = QHBoxLayout()
        foot.addWidget(self.said, 1)
        foot.addWidget(self.bar)
        foot.addWidget(self.halt)
        layout.addLayout(foot)
        self.others.changed.connect(self.refresh)
        self.others.told.connect(self._told)
        self.others.failed.connect(lambda words: self._say(words, True))
        self.others.came.connect(self._came)
        self.others.picked.connect(self.show_product)

    # -- what it is made of ----------------------------------------------------------------------------------------
    def _buttons(self) -> QVBoxLayout:
        both = QVBoxLayout()
        for some in (
            (("Lay in ...", "An IFC model or a DXF drawing beside the steel", self.lay_in),
             ("Read again", "Its file as it is now: a newer copy is held against this one", self.again),
             ("What changed", "Since the copy before, in colour and in the list", self.changes),
             ("Take out", "It is no longer beside the steel; members made of it stay", self.take_out)),
            (("Make members ...", "Its beams, columns, braces and plates as ours; of a newer copy what changed",
              self.members),
             ("Place by points", "Two points of it onto two points of the job", self.by_points)),
        ):  # fmt: skip
            row = button_row(some)
            both.addLayout(row)
        self.through = QCheckBox("See through")
        self.through.setToolTip("Steel behind and within others' models shows through them")
        self.through.setChecked(self.others.see_through)
        self.through.toggled.connect(self._see_through)
        row.insertWidget(row.count() - 1, self.through)
        row.addWidget(plain_button("Put away", "The panel; the models stay", self.put_away))
        return both

    def _right(self) -> QWidget:
        box = QWidget()
        column = QVBoxLayout(box)
        column.setContentsMargins(8, 0, 0, 0)
        form = QFormLayout()
        self.by = ChoiceField("Colour others' models by", _BY[0], _BY, lambda _: self.colour())
        self.lens = QLineEdit()
        self.lens.setAccessibleName("Lens on others' models")
        self.lens.setPlaceholderText("class is IfcWall and storey is Ground")
        self.lens.setToolTip(f"What it lets through is coloured; facts: {', '.join(FACTS)}")
        self.lens.returnPressed.connect(self.colour)
        form.addRow("Colour by", self.by)
        form.addRow("Lens", self.lens)
        column.addLayout(form)
        row = QHBoxLayout()
        row.addWidget(plain_button("Show only these", "What the lens lets through; the rest is hidden", self.only_lens))
        row.addWidget(plain_button("Hide this", "What was picked last in the model or the tree", self.hide_picked))
        row.addWidget(plain_button("Show all", "All of what is picked in the tree", self.show_all))
        row.addStretch(1)
        column.addLayout(row)
        self.facts = QLabel("Pick a thing of others' in the model.")
        self.facts.setWordWrap(True)
        self.facts.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.facts.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.facts.setAccessibleName("Picked thing")
        self.place = QWidget()
        self.place_form = QVBoxLayout(self.place)
        self.place_form.setContentsMargins(0, 0, 0, 0)
        self.changed = Table("What changed in the model", ("What", "Thing", "How"))
        self.changed.widest = {0: 90, 1: 140}
        self.changed.chosen.connect(self._go_to)
        self.tabs = QTabWidget()
        self.tabs.setDocumentMode(True)
        for words, page in (("Picked", self.facts), ("Placed", self.place)):
            scroll = QScrollArea(widgetResizable=True)
            scroll.setFrameShape(QFrame.Shape.NoFrame)
            scroll.setWidget(page)
            self.tabs.addTab(scroll, words)
        self.tabs.addTab(self.changed, "Changes")
        column.addWidget(self.tabs, 1)
        return box

    # -- what is picked --------------------------------------------------------------------------------------------
    @property
    def reference(self) -> Reference | None:
        """The reference that is picked, or that what is picked is of; the only one there is."""
        item = self.tree.currentItem()
        id = item.data(0, _ID) if item is not None else ""
        found = self.session.job.get(id, Reference) if id else None
        there = self.others.references
        return found or (there[0] if len(there) == 1 else None)

    def _one(self) -> Reference | None:
        found = self.reference
        if found is None:
            self._say("Pick a model in the tree first." if self.others.references else _TEACHES, False)
        return found

    # -- showing ---------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        if not self.others.busy:
            self.bar.hide()
            self.halt.hide()
        if self.others.version == self._shown or not self.isVisible():
            return
        self._shown = self.others.version
        open_, now = self._opened(), self._now()
        self._filling = True
        self.tree.clear()
        for reference in self.others.references:
            self._row(reference, self.others.model(reference.id))
        self._filling = False
        for item in self._items():
            item.setExpanded((item.data(0, _ID), item.data(0, _KEY)) in open_ or item.parent() is None)
            if (item.data(0, _ID), item.data(0, _KEY)) == now:
                self.tree.setCurrentItem(item)
        if not self.others.references:
            self._say(_TEACHES, False)
        self._place()

    def _row(self, reference: Reference, model: Model | None) -> None:
        top = _item(self.tree, reference.name, "" if model else "not read", reference.id, "")
        top.setCheckState(0, Qt.CheckState.Checked if reference.shown else Qt.CheckState.Unchecked)
        if model is None:
            return
        top.setText(1, f"{len(model.products):,}")
        for head, kind, told in (("Storeys", "storey", lambda p: p.storey), ("Classes", "class", lambda p: p.cls),
                ("Layers", "layer", lambda p: p.layer)):  # fmt: skip
            counts = Counter(told(p) for p in model.products)
            if set(counts) <= {"", "Layer"}:
                continue
            group = _item(top, head, "", reference.id, "")
            group.setFlags(group.flags() & ~Qt.ItemFlag.ItemIsUserCheckable)
            for name, n in sorted(counts.items()):
                key = f"{kind}/{name}"
                row = _item(group, name.removeprefix("Ifc") or f"no {kind}", f"{n:,}", reference.id, key)
                row.setCheckState(0, Qt.CheckState.Unchecked if key in reference.hidden else Qt.CheckState.Checked)

    def _items(self) -> Iterator[QTreeWidgetItem]:
        waiting = [self.tree.topLevelItem(n) for n in range(self.tree.topLevelItemCount())]
        while waiting:
            item = waiting.pop()
            if item is not None:
                yield item
                waiting += [item.child(n) for n in range(item.childCount())]

    def _opened(self) -> set[tuple[str, str]]:
        return {(i.data(0, _ID), i.data(0, _KEY)) for i in self._items() if i.isExpanded()}

    def _now(self) -> tuple[str, str]:
        item = self.tree.currentItem()
        return (item.data(0, _ID), item.data(0, _KEY)) if item is not None else ("", "")

    def _ticked(self, item: QTreeWidgetItem, column: int) -> None:
        reference = self.session.job.get(item.data(0, _ID), Reference)
        if self._filling or reference is None or column:
            return
        on, key = item.checkState(0) == Qt.CheckState.Checked, item.data(0, _KEY)
        if not key:
            made = replace(reference, shown=on)
        else:
            hidden = [k for k in reference.hidden if k != key] + ([] if on else [key])
            made = replace(reference, hidden=tuple(hidden))
        if made != reference:
            self.session.change(f"{'Show' if on else 'Hide'} {item.text(0)} of {reference.name}", (made,))

    def _picked(self, item: QTreeWidgetItem | None) -> None:
        if item is not None and not self._filling:
            self._product = None
            self._place()

    _product: tuple[str, int] | None = None

    def show_product(self, reference: str, number: int) -> None:
        """What is known of a product that was picked in the model."""
        model, of = self.others.model(reference), self.session.job.get(reference, Reference)
        if model is None or of is None:
            return
        self._product = reference, number
        self.facts.setText(_lines(_facts(of, model.products[number])))
        self.tabs.setCurrentIndex(0)
        self.session.said.emit(f"{model.products[number].name or model.products[number].cls} of {of.name}", False)

    # -- placing ---------------------------------------------------------------------------------------------------
    def _place(self) -> None:
        """Where the picked model lies, to be typed."""
        while (old := self.place_form.takeAt(0)) is not None:
            if (widget := old.widget()) is not None:
                widget.deleteLater()
        reference = self.reference
        if reference is None:
            return
        holder = QWidget()
        form = new_form()
        holder.setLayout(form)
        units = self.session.units
        for n, axis in enumerate("xyz"):
            self._row_of(form, f"Offset {axis}", format_typed(reference.origin[n], units), self._offset(reference, n),
                "Where the file's own origin lies in this job")  # fmt: skip
        self._row_of(form, "Turned", format_angle(reference.turn), lambda text: {"turn": parse_angle(text)},
            "About its own z, counter-clockwise")  # fmt: skip
        self._row_of(form, "Scale", f"{reference.scale:g}", lambda text: {"scale": _number(text)},
            "Of its lengths, where its unit is not what it says")  # fmt: skip
        if any(reference.shift):
            words = ", ".join(f"{v / 1000:,.0f} m" for v in reference.shift)
            form.addRow(QLabel("Shifted by"), QLabel(words))
        self.place_form.addWidget(holder)

    def _row_of(self, form: QFormLayout, words: str, shown: str, read: Read, help: str) -> None:
        """A field and what is done with what is typed into it."""

        def enter(text: str) -> bool:
            return self.session.attempt(lambda: self._set(**read(text)))

        name = self.reference.name if self.reference else ""
        add_row(form, words, TextField(f"{words} of {name}", shown, enter), help)

    def _offset(self, reference: Reference, n: int) -> Read:
        return lambda text: {"origin": _at(reference.origin, n, parse_length(text, self.session.units))}

    def _set(self, **values: object) -> None:
        reference = self.reference
        if reference is not None:
            made = replace(reference, **values)  # type: ignore[arg-type]
            if problem := made.problem():
                raise JobError(problem)
            self.session.change(f"Place {reference.name}", (made,))

    def by_points(self) -> None:
        reference = self._one()
        if reference is not None:
            self.session.use(lambda: PlaceModelTool(self.session, reference.id))

    # -- what is done ----------------------------------------------------------------------------------------------
    def lay_in(self) -> None:
        path = open_file(self, "Lay in a model or drawing", _FILES)
        if path is not None:
            self.others.lay(path)

    def again(self) -> None:
        reference = self._one()
        if reference is not None:
            self.others.again(reference)

    def take_out(self) -> None:
        reference = self._one()
        if reference is not None:
            self.session.change(f"Take out {reference.name}", drop=[reference.id])

    def members(self) -> None:
        reference = self._one()
        model = self.others.model(reference.id) if reference else None
        if reference is not None and model is not None:
            self.taking = TakingDialog(self.session, reference.id, self.window())
            self.taking.show()

    def changes(self) -> None:
        reference = self._one()
        if reference is None:
            return
        if not reference.before:
            self._say(f"Of {reference.name} there is only this copy; read a newer one first.", False)
            return
        self.others.differences(reference, lambda found: self._changed(reference, found))

    def _changed(self, reference: Reference, found: Compared | None) -> None:
        if found is None:
            self._say(f"The copy of {reference.name} before this one is not kept any more.", True)
            return
        theme, model = theme_of(self), self.others.model(reference.id)
        hues = {Way.CAME: (theme.new, "+"), Way.MOVED: (theme.moved, "◆"), Way.CHANGED: (theme.look, "▲"),
            Way.WENT: (theme.wrong, "✕")}  # fmt: skip
        colours = {}
        for change in found.changes if model is not None else ():
            if change.way is not Way.WENT and model is not None:
                colours[model.by_guid[change.product.guid]] = rgb(hues[change.way][0])
        ways = found.ways
        key = [(sign, f"{way}: {ways[way]}", hue) for way, (hue, sign) in hues.items() if ways[way]]
        self.others.colour({reference.id: colours}, key)
        self.changed.rows.colours = {f"{sign} {way}": hue for way, (hue, sign) in hues.items()}
        rows = [(f"{hues[c.way][1]} {c.way}", c.product.name or c.product.cls, c.words) for c in found.changes]
        self.changed.fill(rows, [(reference.id, c.product.guid) for c in found.changes])
        self.tabs.setTabText(2, f"Changes ({len(rows)})")
        self.tabs.setCurrentIndex(2)
        moved = found.moved and f"All of it lies elsewhere by {', '.join(f'{v:.0f}' for v in found.moved)} mm. "
        total = ", ".join(f"{n} {way}" for way, n in ways.items()) or "Nothing changed"
        self._say(f"{moved or ''}{total} since the copy before.", False)

    def _go_to(self, keys: list[object]) -> None:
        """Bring what a row is about to the middle of the view."""
        for key in keys[:1]:
            id, guid = cast("tuple[str, str]", key)
            of, model = self.session.job.get(id, Reference), self.others.model(id)
            number = model.by_guid.get(guid) if model is not None else None
            instance = model.instance_of.get(number) if model is not None and number is not None else None
            if of is not None and model is not None and instance is not None and number is not None:
                points = placed(of, model.points_of(instance))
                self.session.gone_to.emit(point_of((points.min(axis=0) + points.max(axis=0)) / 2))
                self._product = id, number
                self.facts.setText(_lines(_facts(of, model.products[number])))

    # -- colour ----------------------------------------------------------------------------------------------------
    def colour(self) -> bool:
        """By a fact, each of its commonest words in a colour; what a lens lets through in one."""
        if self.lens.text().strip():
            self._colour_lens()
            return True
        by = self.by.currentText()
        if by == _BY[0]:
            self.others.colour({})
            return True
        told = {"class": lambda r, p: p.cls.removeprefix("Ifc"), "storey": lambda r, p: p.storey, "layer": lambda r, p:
            p.layer, "material": lambda r, p: p.material, "model": lambda r, p: r.name}[by]  # fmt: skip
        standing = self.others.standing().values()
        counts = Counter(told(r, p) for r, model in standing for p in model.products)
        hues = {word: _HUES[n] for n, (word, _) in enumerate(counts.most_common(_MOST))}
        colours = {r.id: {n: rgb(hues[w]) for n, p in enumerate(model.products) if (w := told(r, p)) in hues}
            for r, model in standing}  # fmt: skip
        self.others.colour(
            colours,
            [(str(n), f"{word or 'none'}: {counts[word]:,}", hue) for n, (word, hue) in enumerate(hues.items(), 1)],
        )
        return True

    def _through(self) -> Callable[[Reference, Product], bool] | None:
        try:
            return lens_on_products(self.lens.text())
        except JobError as error:
            self._say(str(error), True)
            return None

    def _colour_lens(self) -> None:
        lets = self._through()
        if lets is None:
            return
        hue = rgb(theme_of(self).go)
        colours = {r.id: {n: hue for n, p in enumerate(model.products) if lets(r, p)}
            for r, model in self.others.standing().values()}  # fmt: skip
        count = sum(map(len, colours.values()))
        self.others.colour(colours, [("✓", f"{self.lens.text()}: {count:,}", theme_of(self).go)])
        self._say(f"{counted(count, 'thing')} through the lens.", False)

    def only_lens(self) -> None:
        lets = self._through()
        if lets is None:
            return
        put = []
        for r, model in self.others.standing().values():
            hidden = tuple(p.guid for p in model.products if not lets(r, p))
            put.append(replace(r, hidden=hidden, shown=len(hidden) < len(model.products)))
        self.session.change("Show only what a lens lets through", put)

    def hide_picked(self) -> None:
        if self._product is None:
            self._say("Pick a thing of others' in the model first.", False)
            return
        id, number = self._product
        reference, model = self.session.job.get(id, Reference), self.others.model(id)
        if reference is not None and model is not None:
            guid = model.products[number].guid
            self.session.change(f"Hide a thing of {reference.name}",
                (replace(reference, hidden=(*reference.hidden, guid)),))  # fmt: skip

    def show_all(self) -> None:
        reference = self._one()
        if reference is not None:
            self.session.change(f"Show all of {reference.name}", (replace(reference, hidden=(), shown=True),))

    def _see_through(self, on: bool) -> None:
        self.others.see_through = on
        self.others.changed.emit()

    # -- saying ----------------------------------------------------------------------------------------------------
    def _say(self, words: str, error: bool) -> None:
        say_on(self.said, words, error)

    def _told(self, done: int, of: int, words: str) -> None:
        self.bar.show()
        self.halt.show()
        self.bar.setRange(0, of)
        self.bar.setValue(done)
        self._say(f"{words}{f': {done:,} of {of:,}' if of else ' ...'}", False)

    def _came(self, id: str) -> None:
        reference, model = self.session.job.get(id, Reference), self.others.model(id)
        if reference is not None and model is not None:
            notes = " ".join(model.facts.notes)
            self._say(f"{reference.name}: {len(model.products):,} things. {notes}".strip(), bool(notes))
        self.refresh()

    def put_away(self) -> None:
        self.others.colour({})
        self.session.put_below("")

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().showEvent(event)
        self.refresh()


def _item(parent: QTreeWidget | QTreeWidgetItem, words: str, count: str, id: str, key: str) -> QTreeWidgetItem:
    item = QTreeWidgetItem(parent, [words, count])
    item.setData(0, _ID, id)
    item.setData(0, _KEY, key)
    return item


def _facts(of: Reference, p: Product) -> list[tuple[str, str]]:
    rows = [(name.capitalize(), told(of, p)) for name, told in FACTS.items()]
    rows += [("GlobalId", p.guid), ("", p.why)]
    return [(name, value) for name, value in rows if value]


def _lines(rows: list[tuple[str, str]]) -> str:
    return "\n".join(f"{name}: {value}" if name else value for name, value in rows)


def _at(point: tuple[float, float, float], n: int, value: float) -> tuple[float, float, float]:
    found = list(point)
    found[n] = value
    x, y, z = found
    return x, y, z


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise JobError(f"A scale is a number such as 25.4; “{text}” is none.") from None
