"""The user's settings: a form of their own struct, each role's usual offset, and a file to carry them in."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QDialog, QFileDialog, QFormLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from uncus.app import preferences as settings
from uncus.app.facts.fields import ChoiceField, TextField
from uncus.app.facts.form import new_form, struct_form
from uncus.app.session import Session
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.records import Line, Role
from uncus.units import UnitError, format_typed, parse_length


class PreferencesDialog(QDialog):
    """Each value holds as soon as it is typed; `changed` lets the window follow."""

    def __init__(self, session: Session, changed: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.changed = session, changed
        self.setWindowTitle("Preferences")
        self.error = QLabel(" ")
        self.error.setProperty("error", True)
        self.error.setWordWrap(True)
        self.error.setAccessibleName("What is wrong")
        self.body = QVBoxLayout()
        buttons = QHBoxLayout()
        for words, help, do in (
            ("Export", "Write these settings to a file", self._export),
            ("Import", "Take the settings of a file", self._import),
            ("Close", "Close; everything is kept already", self.accept),
        ):
            button = QPushButton(words)
            button.setAccessibleName(words)
            button.setToolTip(help)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, do=do: do())
            buttons.addWidget(button)
        layout = QVBoxLayout(self)
        layout.addLayout(self.body)
        layout.addWidget(self.error)
        layout.addLayout(buttons)
        self._fill()
        self.resize(420, 560)

    def _fill(self) -> None:
        while (item := self.body.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        form = new_form()
        column.addLayout(form)
        struct_form(form, self.session.preferences, self.session.units, self._enter)
        heading = QLabel("USUAL OFFSETS: WHERE NEW STEEL LIES ON ITS WORK LINE")
        heading.setProperty("heading", True)
        column.addSpacing(8)
        column.addWidget(heading)
        offsets = new_form()
        column.addLayout(offsets)
        for role in Role:
            self._offset_row(offsets, role)
        self.body.addWidget(page)

    def _offset_row(self, form: QFormLayout, role: Role) -> None:
        line, rise = self.session.preferences.offset(role)
        choice = ChoiceField(
            f"{role} work line", str(line), [str(x) for x in Line], lambda t: self._offset(role, line=t)
        )
        above = TextField(
            f"{role} above it", format_typed(rise, self.session.units), lambda t: self._offset(role, rise=t)
        )
        above.setToolTip("How far the section is raised above the work line; minus lowers it")
        row = QHBoxLayout()
        row.addWidget(choice, 1)
        row.addWidget(above, 1)
        label = QLabel(str(role).capitalize())
        label.setProperty("quiet", True)
        form.addRow(label, row)

    def _attempt(self, work: Callable[[], object]) -> bool:
        try:
            work()
        except (JobError, UnitError, LookupError) as error:
            self.error.setText(str(error))
            return False
        self.error.setText(" ")
        self.changed()
        return True

    def _enter(self, name: str, read: Callable[[], Any]) -> bool:
        def work() -> None:
            value = read()
            self._checked(name, value)
            self.session.prefer(**{name: value})

        return self._attempt(work)

    def _checked(self, name: str, value: Any) -> None:
        checked(settings.Preferences, {name: value})

    def _offset(self, role: Role, line: str | None = None, rise: str | None = None) -> bool:
        def work() -> None:
            old_line, old_rise = self.session.preferences.offset(role)
            above = parse_length(rise, self.session.units) if rise is not None else old_rise
            offsets = {**self.session.preferences.offsets, str(role): (line or str(old_line), above)}
            self.session.prefer(offsets=offsets)
            self.session.templates.pop(str(role), None)

        return self._attempt(work)

    def _export(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Export preferences", "preferences.json", "Preferences (*.json)")
        if path:
            self._attempt(lambda: settings.write(Path(path), self.session.preferences))

    def _import(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Import preferences", "", "Preferences (*.json)")
        if path:
            self.import_from(Path(path))

    def import_from(self, path: Path) -> None:
        def work() -> None:
            found = settings.read(path)
            self.session.prefer(**{name: getattr(found, name) for name in found.__struct_fields__})

        if self._attempt(work):
            self._fill()
