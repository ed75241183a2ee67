"""The office's rules of joining: which members, which ends, what holds them, and the kind and values they get, in order."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from uncus.app import joining
from uncus.app.facts.connection_facts import value_row
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.page import Page
from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.connect.by_rule import ENDS, HOLDING, rules_of
from uncus.connect.kinds import KINDS
from uncus.job.errors import JobError
from uncus.job.forms import checked, fields
from uncus.job.records import Fact, OfficeRule, Preset, new_id
from uncus.lens.criteria import chosen
from uncus.lens.grammar import read, write

_NEVER = ("setback",)


class RulesDialog(QDialog):
    """Stays open beside the model; each edit is one undo step. The first rule that fits an end and can be made is used."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Rules of joining")
        self.table = Table("Rules of joining", ("", "Name", "Members", "Ends", "Held by", "Kind"))
        self.table.setSortingEnabled(False)
        self._filling = False
        self.table.chosen.connect(lambda _: None if self._filling else self._show())
        self.said = QLabel(" ")
        self.said.setProperty("error", True)
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What is wrong")
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setMinimumWidth(300)
        self._lay_out()
        steel = session.steel.connect(lambda _: self.refresh())
        said = session.said.connect(self._said)
        self.finished.connect(lambda _: (session.steel.disconnect(steel), session.said.disconnect(said)))
        self.picked = self.rules[0].id if self.rules else ""
        self.refresh()

    def _lay_out(self) -> None:
        buttons = QHBoxLayout()
        for words, help, do in (
            ("New", "A rule after this one, like it", self.add),
            ("Up", "Asked before the one above", lambda: self.move_rule(-1)),
            ("Down", "Asked after the one below", lambda: self.move_rule(1)),
            ("Take away", "This rule is no longer asked", self.remove),
            ("Usual rules", "Start again from the usual ones; Ctrl+Z takes it back", self.usual),
        ):
            buttons.addWidget(plain_button(words, help, do))
        buttons.addStretch(1)
        left = QVBoxLayout()
        left.addWidget(QLabel("For each end, the first rule that fits it and can be made:"))
        left.addWidget(self.table, 1)
        left.addLayout(buttons)
        left.addWidget(self.said)
        both = QHBoxLayout()
        both.addLayout(left, 3)
        both.addWidget(self.area, 2)
        foot = QHBoxLayout()
        foot.addWidget(QLabel("Shared with other jobs by “Export standards” among the shop rules."), 1)
        foot.addWidget(plain_button("Close", "The rules are kept with the job", self.close))
        layout = QVBoxLayout(self)
        layout.addLayout(both, 1)
        layout.addLayout(foot)
        self.resize(1080, 540)

    @property
    def rules(self) -> list[OfficeRule]:
        return rules_of(self.session.job)

    @property
    def rule(self) -> OfficeRule | None:
        return next((r for r in self.rules if r.id == self.picked), None)

    def _said(self, words: str, bad: bool) -> None:
        self.said.setText(words if bad else " ")

    # -- showing ------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        rules = self.rules
        rows = [
            (
                str(n),
                r.name,
                write(r.members) or "anything",
                r.ends,
                r.holding,
                KINDS[r.kind].words if r.kind in KINDS else r.kind,
            )
            for n, r in enumerate(rules, 1)
        ]
        keys = [r.id for r in rules]
        if (rows, keys) != (self.table.rows.rows, self.table.rows.keys):
            self._filling = True
            self.table.fill(rows, keys)
            for column, width in enumerate((28, 150, 120, 52, 120)):
                self.table.setColumnWidth(column, width)
            self.picked = self.picked if self.picked in keys else next(iter(keys), "")
            self.table.pick(self.picked)
            self._filling = False
        self._show()

    def _show(self) -> None:
        found = self.table.picked()
        self.picked = str(found[0]) if found else self.picked
        page = Page(self.session)
        rule = self.rule
        if rule is None:
            page.words("No rules: press New, or start from the usual ones.")
        else:
            self._form(page, rule)
        page.column.addStretch(1)
        old = self.area.takeWidget()
        if old is not None:
            old.deleteLater()
        self.area.setWidget(page)

    def _form(self, page: Page, rule: OfficeRule) -> None:
        page.title(rule.name, f"rule {rule.order}: {self._reach(rule)}")
        page.heading("When")
        page.row("Name", TextField("Rule's name", rule.name, lambda t: self._set(rule, "name", lambda: t)))
        page.row(
            "Members",
            TextField(
                "Members of the rule", write(rule.members), lambda t: self._set(rule, "members", lambda: read(t))
            ),
            'A lens as text, such as role is beam and depth over 12"; “anything” for all.',
        )
        page.row("Ends", ChoiceField("Ends of the rule", rule.ends, ENDS, lambda t: self._set(rule, "ends", lambda: t)))
        holding = ChoiceField("Held by", str(rule.holding), [str(h) for h in HOLDING], lambda t: self._set(rule, "holding", lambda: t))  # fmt: skip
        page.row("Held by", holding, "What the end stands at.")
        page.heading("Then")
        kinds = [k for k in KINDS if k not in _NEVER]
        page.row("Kind", ChoiceField("Kind of the rule", rule.kind, kinds, lambda t: self._set_kind(rule, t)))
        presets = [p.name for p in self.session.job.all(Preset) if p.kind == rule.kind]
        picked = any(c.kind == rule.kind for c in self.session.connections)
        offers = ["choose", *presets, *(["the picked joint"] if picked else []), "the kind's own"]
        values = ChoiceField("Values from", "choose", offers, lambda t: self._values_from(rule, t), does=True)
        page.row("Values from", values, "A preset, a joint picked in the model, or none but the kind's own.")
        if rule.kind in KINDS:
            for name, about in fields(KINDS[rule.kind].params).items():
                value_row(page, name, about, [rule], lambda n, v: self._set_value(rule, n, v))

    def _reach(self, rule: OfficeRule) -> str:
        try:
            return f"{len(chosen(rule.members, self.session.job, self.session.shop)):,} pieces are meant"
        except JobError as error:
            return str(error)

    # -- changing -----------------------------------------------------------------------------------------
    def _change(self, label: str, rules: list[OfficeRule]) -> bool:
        return joining.change_rules(self.session, label, rules)

    def _replace(self, rule: OfficeRule, label: str, **values: object) -> bool:
        return self._change(label, [msgspec.structs.replace(r, **values) if r.id == rule.id else r for r in self.rules])

    def _set(self, rule: OfficeRule, name: str, read_value: Callable[[], object]) -> bool:
        try:
            value = read_value()
        except JobError as error:
            self.session.said.emit(str(error), True)
            return False
        return self._replace(rule, f"Rule {rule.name}: {name}", **{name: value})

    def _set_kind(self, rule: OfficeRule, kind: str) -> bool:
        known = fields(KINDS[kind].params)
        params = {}
        for name, value in rule.params.items():
            if name in known:
                try:
                    checked(KINDS[kind].params, {name: value})
                except JobError:
                    continue
                params[name] = value
        return self._replace(rule, f"Rule {rule.name}: {kind}", kind=kind, params=params)

    def _set_value(self, rule: OfficeRule, name: str, value: object) -> bool:
        params = {k: v for k, v in rule.params.items() if k != name}
        if value is not None:
            params[name] = value
        try:
            checked(KINDS[rule.kind].params, params)
        except JobError as error:
            self.session.said.emit(str(error), True)
            return False
        return self._replace(rule, f"Rule {rule.name}: {name}", params=params)

    def _values_from(self, rule: OfficeRule, text: str) -> bool:
        found: dict[str, object] | None = {} if text == "the kind's own" else None
        if text == "the picked joint":
            found = next((dict(c.params) for c in self.session.connections if c.kind == rule.kind), None)
        preset = next((p for p in self.session.job.all(Preset) if p.kind == rule.kind and p.name == text), None)
        if preset is not None:
            found = dict(preset.params)
        return found is not None and self._replace(rule, f"Rule {rule.name}: values", params=found)

    def add(self) -> None:
        rules, now = self.rules, self.rule
        new = (
            msgspec.structs.replace(now, id=new_id(), name=f"{now.name}, more")
            if now
            else OfficeRule(order=1, name="Beams", kind="shear tab", members=Fact("role", "is", "beam"))
        )
        at = next((i for i, r in enumerate(rules) if r.id == self.picked), len(rules) - 1)
        self.picked = new.id
        self._change(f"New rule {new.name}", [*rules[: at + 1], new, *rules[at + 1 :]])

    def move_rule(self, step: int) -> None:
        rules = self.rules
        at = next((i for i, r in enumerate(rules) if r.id == self.picked), -1)
        if at >= 0 and 0 <= at + step < len(rules):
            rules[at], rules[at + step] = rules[at + step], rules[at]
            self._change("Order of rules", rules)

    def remove(self) -> None:
        if rule := self.rule:
            if len(self.rules) == 1:
                self.session.said.emit("The last rule stays: without any, the usual ones are asked.", True)
                return
            self._change(f"Take rule {rule.name} away", [r for r in self.rules if r.id != rule.id])

    def usual(self) -> None:
        self._change("The usual rules", [])


def plain_button(words: str, help: str, do: Callable[[], object]) -> QPushButton:
    button = QPushButton(words)
    button.setAccessibleName(words)
    button.setToolTip(help)
    button.setAutoDefault(False)
    button.clicked.connect(lambda: do())
    return button
