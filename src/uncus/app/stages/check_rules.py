"""The rules of checking: which are on, and their limits, as their own structs have them."""

from __future__ import annotations

from typing import Any

import msgspec
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.check.checking import rules_in, rules_problem, values_of
from uncus.check.rule import Rule
from uncus.check.rules import RULES
from uncus.job.errors import JobError
from uncus.job.forms import fields, shown_value, typed_value
from uncus.job.records import CheckRules


class CheckRulesDialog(QDialog):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Rules of checking")
        self.resize(620, 640)
        self.on: dict[str, QCheckBox] = {}
        self.values: dict[tuple[str, str], QLineEdit] = {}
        inner = QWidget()
        form = QFormLayout(inner)
        asked = rules_in(session.job.get("check rules", CheckRules))
        for rule in RULES.values():
            self._add(form, rule, asked)
        self._shown = {key: field.text() for key, field in self.values.items()}
        area = QScrollArea(widgetResizable=True)
        area.setWidget(inner)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Apply | QDialogButtonBox.StandardButton.Close)
        buttons.button(QDialogButtonBox.StandardButton.Apply).clicked.connect(self.apply)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(QLabel("A job keeps its own; they go with the office's standards."))
        layout.addWidget(area, 1)
        layout.addWidget(buttons)

    def _add(self, form: QFormLayout, rule: Rule, asked: CheckRules) -> None:
        box = self.on[rule.name] = QCheckBox(rule.words)
        box.setChecked(rule.name not in asked.off)
        box.setToolTip(rule.help)
        form.addRow(box)
        told = QLabel(rule.help, wordWrap=True)
        told.setProperty("quiet", True)
        form.addRow(told)
        now = values_of(rule, asked)
        for name, about in fields(rule.values).items():
            field = self.values[rule.name, name] = QLineEdit(shown_value(about, getattr(now, name), self.session.units))
            field.setAccessibleName(f"{rule.words}: {about.words}")
            field.setToolTip(about.help)
            form.addRow(about.words, field)

    def _usual(self, rule: str, name: str) -> str:
        """How a rule's own limit reads."""
        kind = RULES[rule].values
        return shown_value(fields(kind)[name], getattr(kind(), name), self.session.units)

    def apply(self) -> None:
        """What was typed, as one change; what cannot be is said, and nothing is changed."""
        if self.session.attempt(lambda: self._apply()):
            self.session.said.emit("The rules of checking are as they stand in the form.", False)

    def _apply(self) -> None:
        asked = rules_in(self.session.job.get("check rules", CheckRules))
        values: dict[str, dict[str, Any]] = {rule: dict(own) for rule, own in asked.values.items()}
        for (rule, name), field in self.values.items():
            if field.text() == self._shown[rule, name]:
                continue  # what is shown is rounded: it is not what was typed
            kind = RULES[rule].values
            found = typed_value(fields(kind)[name], field.text(), self.session.units)
            own = values.setdefault(rule, {})
            own[name] = msgspec.to_builtins(found)
            if found == getattr(kind(), name) or field.text() == self._usual(rule, name):
                del own[name]
        off = tuple(name for name, box in self.on.items() if not box.isChecked())
        wanted = CheckRules(off=off, values={rule: own for rule, own in values.items() if own})
        if problem := rules_problem(wanted):
            raise JobError(problem)
        with self.session.job.change("Rules of checking") as change:
            change.put(wanted)
        self._shown = {key: field.text() for key, field in self.values.items()}
