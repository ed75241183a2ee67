"""Building a lens: by typed text or by rows, with a live count; select, colour, show only, keep, hand on."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.app.theme import sized
from uncus.job.errors import JobError
from uncus.job.files import read_outside, write_beside
from uncus.job.records import Both, Either, Fact, Lens, Not, Rule, new_id
from uncus.lens.criteria import chosen, from_json, to_json
from uncus.lens.facts import FACTS, relations
from uncus.lens.grammar import read, write
from uncus.lens.unmet import unmet

_GROUPS: dict[str, type[Both] | type[Either]] = {"all of these": Both, "any of these": Either}


class RuleRow(QWidget):
    """One fact, relation and value, with its not."""

    def __init__(self, rule: Fact, turned: bool, changed: Callable[[], None], remove: Callable[[], None]) -> None:
        super().__init__()
        self.changed = changed
        self.turned = QCheckBox("not")
        self.turned.setChecked(turned)
        self.fact, self.relation, self.value = QComboBox(), QComboBox(), QComboBox()
        self.value.setEditable(True)
        self.value.setMinimumWidth(150)
        for box, name in ((self.fact, "Fact"), (self.relation, "Relation"), (self.value, "Value")):
            box.setAccessibleName(name)
            box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for name, asked in FACTS.items():
            self.fact.addItem(asked.words, name)
        self.fact.setCurrentIndex(self.fact.findData(rule.fact))
        self._fill()
        self.relation.setCurrentIndex(max(0, self.relation.findData(rule.relation)))
        self.value.setEditText(rule.value)
        self.fact.activated.connect(self._fact_changed)
        self.relation.activated.connect(lambda _: changed())
        self.value.editTextChanged.connect(lambda _: changed())
        self.turned.toggled.connect(lambda _: changed())
        away = _away("Take this row away", remove)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        for widget in (self.turned, self.fact, self.relation, self.value, away):
            layout.addWidget(widget, 1 if widget is self.value else 0)

    def _fill(self) -> None:
        asked = FACTS[self.fact.currentData()]
        self.relation.clear()
        for relation in relations(self.fact.currentData()):
            self.relation.addItem(relation.words, str(relation))
        text = self.value.currentText()
        self.value.blockSignals(True)
        self.value.clear()
        self.value.addItems(list(asked.choices))
        self.value.setEditText(text)
        self.value.blockSignals(False)
        self.value.setToolTip(asked.help)

    def _fact_changed(self) -> None:
        self._fill()
        self.changed()

    @property
    def rule(self) -> Rule:
        plain = Fact(self.fact.currentData(), self.relation.currentData(), self.value.currentText().strip())
        return Not(plain) if self.turned.isChecked() else plain


class RuleGroup(QWidget):
    """All or any of some rows and groups, with its not."""

    def __init__(self, rule: Rule, changed: Callable[[], None], remove: Callable[[], None] | None = None) -> None:
        super().__init__()
        self.changed = changed
        turned = isinstance(rule, Not)
        inner = rule.of if isinstance(rule, Not) else rule
        if not isinstance(inner, Both | Either):
            inner, turned = Both((rule,)), False
        self.turned = QCheckBox("not")
        self.turned.setChecked(turned)
        self.turned.toggled.connect(lambda _: changed())
        self.kind = QComboBox()
        self.kind.setAccessibleName("All or any")
        self.kind.addItems(list(_GROUPS))
        self.kind.setCurrentIndex(1 if isinstance(inner, Either) else 0)
        self.kind.activated.connect(lambda _: changed())
        head = QHBoxLayout()
        head.addWidget(self.turned)
        head.addWidget(self.kind)
        adders = (("Add row", lambda: self._add(Fact("role", "is", "beam"))),
            ("Add group", lambda: self._add(Both((Fact("lot", "is", "1"),)))))  # fmt: skip
        for words, do in adders:
            button = QPushButton(words)
            button.setAccessibleName(words)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, do=do: do())
            head.addWidget(button)
        if remove is not None:
            head.addWidget(_away("Take this group away", remove))
        head.addStretch(1)
        self.rows = QVBoxLayout()
        self.rows.setContentsMargins(22, 0, 0, 0)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(head)
        layout.addLayout(self.rows)
        self.parts: list[RuleRow | RuleGroup] = []
        for one in inner.of:
            self._add(one, quietly=True)

    def _add(self, rule: Rule, quietly: bool = False) -> None:
        plain = rule.of if isinstance(rule, Not) else rule
        part: RuleRow | RuleGroup
        if isinstance(plain, Fact):
            part = RuleRow(plain, isinstance(rule, Not), self.changed, lambda: self._remove(part))
        else:
            part = RuleGroup(rule, self.changed, lambda: self._remove(part))
        self.parts.append(part)
        self.rows.addWidget(part)
        if not quietly:
            self.changed()

    def _remove(self, part: RuleRow | RuleGroup) -> None:
        self.parts.remove(part)
        part.hide()
        part.deleteLater()
        self.changed()

    @property
    def rule(self) -> Rule:
        of = tuple(part.rule for part in self.parts)
        plain: Rule = of[0] if len(of) == 1 else _GROUPS[self.kind.currentText()](of)
        return Not(plain) if self.turned.isChecked() else plain


class LensDialog(QDialog):
    """Stays open beside the model: what it does is seen at once."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Lens")
        self.rule: Rule = Fact("role", "is", "beam")
        self.lenses = QListWidget()
        self.lenses.setAccessibleName("Kept lenses")
        self.lenses.setMaximumWidth(130)
        self.name, self.text = QLineEdit(), QLineEdit()
        self.name.setAccessibleName("Name of the lens")
        self.name.setPlaceholderText("name, to keep it")
        self.text.setAccessibleName("Lens as text")
        self.text.setPlaceholderText("role is beam and (section begins W12 or not lot is 3) and weight over 200 lb")
        self.error, self.count = QLabel(" "), QLabel()
        self.error.setProperty("error", True)
        self.error.setWordWrap(True)
        self.error.setAccessibleName("What is wrong")
        self.count.setAccessibleName("How many pieces")
        self.count.setProperty("title", True)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self._counting = QTimer(self, singleShot=True, interval=120)
        self._counting.timeout.connect(self._count)
        self._lay_out()
        self.text.textEdited.connect(lambda _: self._typed())
        for picked in (self.lenses.itemClicked, self.lenses.itemActivated):
            picked.connect(lambda item: self._opened(item.text()))
        stop = session.steel.connect(lambda _: self._counting.start())
        self.finished.connect(lambda _: session.steel.disconnect(stop))
        self._list()
        self._show_rule(self.rule)

    def _lay_out(self) -> None:
        grid = QGridLayout()
        grid.addWidget(QLabel("Kept"), 0, 0)
        grid.addWidget(self.lenses, 1, 0, 4, 1)
        grid.addWidget(self.text, 0, 1)
        grid.addWidget(self.error, 1, 1)
        grid.addWidget(self.area, 2, 1)
        grid.addWidget(self.count, 3, 1)
        grid.setRowStretch(2, 1)
        grid.setColumnStretch(1, 1)
        keep = QHBoxLayout()
        keep.addWidget(self.name, 1)
        for words, help, do in (
            ("Keep", "Keep it with the job under this name", self.keep),
            ("Take away", "Take the kept lens of this name away", self.remove),
            ("Export", "Write all kept lenses to a file", self._export),
            ("Import", "Read lenses from a file", self._import),
        ):
            keep.addWidget(_button(words, help, do))
        use = QHBoxLayout()
        for words, help, do in (
            ("Select", "Select what it lets through", self.select),
            ("Show only", "Leave the rest out of the view", self.show_only),
            ("Colour", "Colour what it lets through", self.colour),
            ("Clear", "No colour, everything shown", self.clear),
        ):
            use.addWidget(_button(words, help, do, main=words == "Select"))
        use.addStretch(1)
        use.addWidget(_button("Close", "Close; colours stay until cleared", self.close))
        layout = QVBoxLayout(self)
        layout.addLayout(grid, 1)
        layout.addLayout(keep)
        layout.addLayout(use)
        self.resize(700, 380)

    # -- rule, text and rows follow one another -------------------------------------------------------------
    def _show_rule(self, rule: Rule) -> None:
        self.rule = rule
        self.text.setText(write(rule))
        self._show_rows()
        self._count()

    def _show_rows(self) -> None:
        self.group = RuleGroup(self.rule, self._rows_changed)
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.addWidget(self.group)
        column.addStretch(1)
        self.area.setWidget(holder)

    def _typed(self) -> None:
        try:
            self.rule = read(self.text.text())
        except JobError as error:
            self.error.setText(str(error))
            return
        self._show_rows()
        self._counting.start()

    def _rows_changed(self) -> None:
        self.rule = self.group.rule
        self.text.setText(write(self.rule))
        self._counting.start()

    def _found(self) -> list[str]:
        return chosen(self.rule, self.session.job, self.session.shop, self.session.above)

    def _count(self) -> None:
        try:
            found = len(self._found())
        except JobError as error:
            self.error.setText(str(error))
            self.count.setText("–")
            return
        session = self.session
        self.error.setText(" ".join(unmet(self.rule, session.job, session.shop, session.above)) or " ")
        self.count.setText(f"{found} of {len(self.session.shop.assemblies)} pieces")

    # -- using --------------------------------------------------------------------------------------------
    def _use(self, work: Callable[[list[str]], None]) -> None:
        try:
            work(self._found())
        except JobError as error:
            self.error.setText(str(error))

    def select(self) -> None:
        self._use(self.session.select)

    def show_only(self) -> None:
        def work(ids: list[str]) -> None:
            self.session.seeing.show_only(ids, self.session.shop.assemblies)
            self.session.view_changed.emit()

        self._use(work)

    def colour(self) -> None:
        def work(ids: list[str]) -> None:
            self.session.seeing.lens = write(self.rule)
            self.session.coloured.emit()

        self._use(work)

    def clear(self) -> None:
        self.session.seeing.lens = ""
        self.session.seeing.show_all()
        self.session.view_changed.emit()
        self.session.coloured.emit()

    # -- keeping ------------------------------------------------------------------------------------------
    def _list(self) -> None:
        self.lenses.blockSignals(True)
        self.lenses.clear()
        self.lenses.addItems([lens.name for lens in self.session.job.all(Lens)])
        self.lenses.blockSignals(False)

    def _named(self, name: str) -> Lens | None:
        return next((x for x in self.session.job.all(Lens) if x.name.casefold() == name.strip().casefold()), None)

    def _opened(self, name: str) -> None:
        if lens := self._named(name):
            self.name.setText(lens.name)
            self._show_rule(lens.rule)

    def _put(self, lenses: list[Lens], label: str) -> None:
        with self.session.job.change(label) as change:
            for lens in lenses:
                old = self._named(lens.name)
                change.put(msgspec.structs.replace(lens, id=old.id if old else new_id()))

    def keep(self) -> None:
        def work(_: list[str]) -> None:
            self._put([Lens(name=self.name.text().strip(), rule=self.rule)], f"Keep lens {self.name.text().strip()}")
            self._list()

        self._use(work)

    def remove(self) -> None:
        lens = self._named(self.name.text())
        if lens is None:
            self.error.setText(f"No lens is kept under “{self.name.text()}”.")
            return
        self.session.change(f"Take lens {lens.name} away", drop=[lens.id])
        self._list()

    def _export(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Export lenses", "lenses.json", "Lenses (*.json)")
        if path:
            self.export_to(Path(path))

    def _import(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Import lenses", "", "Lenses (*.json)")
        if path:
            self.import_from(Path(path))

    def export_to(self, path: Path) -> None:
        try:
            write_beside(path, to_json(self.session.job.all(Lens)))
        except JobError as error:
            self.error.setText(str(error))

    def import_from(self, path: Path) -> None:
        try:
            self._put(from_json(read_outside(path), path), "Import lenses")
        except JobError as error:
            self.error.setText(str(error))
        self._list()


def _away(name: str, do: Callable[[], object]) -> QPushButton:
    button = _button("×", name, do)
    button.setAccessibleName(name)
    sized(button, wide=28)
    button.setProperty("small", True)
    return button


def _button(words: str, help: str, do: Callable[[], object], main: bool = False) -> QPushButton:
    button = QPushButton(words)
    button.setAccessibleName(words)
    button.setToolTip(help)
    button.setAutoDefault(False)
    button.setProperty("main", main)
    button.clicked.connect(lambda: do())
    return button
