"""The erector's views by list: renamed, put together on sheets, left out, and how each shows steel; nothing picked, the
rules of the whole set."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from uncus.app import framing
from uncus.app.facts.form import new_form, struct_form
from uncus.app.facts.view_form import own_rows, shown_rows
from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.draw.sights import looking
from uncus.frame.usual_views import Steel, fitted
from uncus.job.forms import FLAGS
from uncus.job.job import Delta
from uncus.job.records import ErectionRules, ViewFrame
from uncus.units import counted

_HEADS = ("View", "Drawn", "Sheet", "Scale", "Looks", "Steel")
_TEACHES = (
    "No views yet. Usual set makes an elevation at each grid line, of braced walls, and isometrics; or place a view "
    "frame by hand in Frame (Z)."
)


class ViewsDialog(QDialog):
    """Each edit is one undo step. `opened` carries the frame whose sheet is to be seen."""

    opened = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Views and schedules")
        self.resize(860, 440)
        self.table = Table("Views", _HEADS)
        self.table.setSelectionMode(Table.SelectionMode.ExtendedSelection)
        self.table.chosen.connect(self._chosen)
        self.table.setMinimumWidth(430)
        self.form = QScrollArea(widgetResizable=True)
        self.form.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.form.setFrameShape(QFrame.Shape.NoFrame)
        self.form.setMinimumWidth(330)
        self.said = QLabel()
        self.said.setWordWrap(True)
        self.said.setProperty("quiet", True)
        row = QHBoxLayout()
        row.addWidget(self.table, 3)
        row.addWidget(self.form, 2)
        buttons = QHBoxLayout()
        for words, help, do in (
            ("Usual set", "Elevations, braced walls, isometrics and schedules that are not there yet",
                lambda: framing.usual_set(session)),
            ("Plans as views", "Views of the levels in place of their plans, to show steel in other ways",
                lambda: framing.plans_as_views(session)),
            ("Fit to the steel", "The picked usual views, with their boxes as they would be made today", self.fit),
            ("Draw or leave out", "The picked views; what is left out stays in the list", self.leave_out),
            ("Delete", "The picked views", self.delete),
            ("Rules of the set", "Let go of what is picked: the rules of all erection drawings",
                self.table.clearSelection),
            ("Close", "", self.accept),
        ):  # fmt: skip
            button = QPushButton(words)
            button.setAccessibleName(words)
            button.setToolTip(help)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _, do=do: do())
            buttons.addWidget(button)
        layout = QVBoxLayout(self)
        layout.addWidget(self.said)
        layout.addLayout(row, 1)
        layout.addLayout(buttons)
        self._stop = session.job.follow(self._followed)
        self.finished.connect(lambda _: self._stop())
        self.refresh()

    def _followed(self, delta: Delta) -> None:
        if any(isinstance(one, (ViewFrame, ErectionRules)) for e in delta.edits for one in (e.before, e.after)):
            self.refresh()

    @property
    def frames(self) -> list[ViewFrame]:
        return self.session.job.all(ViewFrame)

    @property
    def picked(self) -> list[ViewFrame]:
        ids = set(self.table.picked())
        return [frame for frame in self.frames if frame.id in ids]

    def refresh(self) -> None:
        picked = {frame.id for frame in self.picked}
        rows = [(f.name, FLAGS[not f.drawn], f.sheet or "its own", f"1:{f.scale:g}" if f.scale else "",
            looking(f).capitalize(), f.shows.steel) for f in self.frames]  # fmt: skip
        self.table.blockSignals(True)
        self.table.fill(rows, [f.id for f in self.frames])
        self.table.pick_all(picked)
        self.table.blockSignals(False)
        drawn = sum(f.drawn for f in self.frames)
        self.said.setText(f"{counted(drawn, 'view')} of {len(self.frames)} drawn." if self.frames else _TEACHES)
        self._show()

    def _chosen(self, keys: list[object]) -> None:
        self._show()
        if len(keys) == 1:
            self.opened.emit(str(keys[0]))

    def _show(self) -> None:
        new, picked = QWidget(), self.picked
        column = QVBoxLayout(new)
        if picked:
            told = picked[0].name if len(picked) == 1 else f"{len(picked)} views: what is typed goes to all"
            self._part(column, told, lambda form: own_rows(form, self.session, picked))
            self._part(column, "How they show steel", lambda form: shown_rows(form, self.session, picked))
        else:
            self._part(column, "Rules of the set", lambda form: struct_form(form, self.session.job.erection,
                self.session.units, self._set_rule, "Erection "))  # fmt: skip
        column.addStretch(1)
        at = self.form.verticalScrollBar().value()
        if (old := self.form.takeWidget()) is not None:
            old.deleteLater()  # one of its fields may be what called
        self.form.setWidget(new)
        self.form.verticalScrollBar().setValue(at)

    def _part(self, column: QVBoxLayout, words: str, fill) -> None:  # type: ignore[no-untyped-def]
        head = QLabel(words.upper())
        head.setProperty("heading", True)
        head.setWordWrap(True)
        column.addWidget(head)
        form = new_form()
        fill(form)
        column.addLayout(form)

    def _set_rule(self, name: str, read: Callable[[], object]) -> bool:
        def work() -> None:
            with self.session.job.change("Rules of erection drawings") as change:
                change.put(replace(self.session.job.erection, **{name: read()}))

        return self.session.attempt(work)

    def leave_out(self) -> None:
        """Leave the picked out; where all are out already, draw them again."""
        drawn = not any(f.drawn for f in self.picked)
        if self._some():
            self.session.change("Views drawn" if drawn else "Views left out",
                [replace(f, drawn=drawn) for f in self.picked])  # fmt: skip

    def fit(self) -> None:
        if not self._some():
            return
        steel = Steel.of(self.session.job, self.session.units)
        found = [fitted(f, steel) for f in self.picked]
        made = [new for old, new in zip(self.picked, found, strict=True) if new is not None and new != old]
        if made:
            self.session.change("Fit views to the steel", made)
        else:
            self.session.said.emit("The picked views fit already, or are none of the usual set.", False)

    def delete(self) -> None:
        if self._some():
            self.session.change(f"Delete {counted(len(self.picked), 'view')}", drop=[f.id for f in self.picked])

    def _some(self) -> bool:
        if not self.picked:
            self.session.said.emit("Pick views in the list first.", True)
        return bool(self.picked)
