"""Presets of sheets: for which pieces, which rules of dimensioning are on, and what is shown; shared as a file."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QFormLayout,
    QFrame,
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
from uncus.app.sheet.sheet_view import SheetView
from uncus.draw.drawn import draw_all
from uncus.draw.entries.plates import is_small
from uncus.draw.entry import Entry
from uncus.draw.gathered import GatheredJob
from uncus.draw.piece_job import PieceJob
from uncus.draw.preset import from_json, to_json
from uncus.draw.rules import RULES
from uncus.draw.template import MOST, names, read
from uncus.job.drawings import MANNERS
from uncus.job.errors import JobError
from uncus.job.files import read_outside, text_of, write_beside
from uncus.job.records import Role, SheetPreset, new_id

_MANNERS = {
    "along": ("Positions along", "All from one end, or each from the one before"),
    "start": ("Measured from", "The end that positions along the piece begin at"),
    "plates": ("To plates", "Plates that stand across the piece: to the nearer edge, or to their middle"),
    "gages": ("Web rows from", "Rows of holes in a web: down from the top, or the last step to the bottom"),
}
_SWITCHES = (
    ("twelfths", "Skewed plates by a bevel", "So much in 12 instead of degrees; imperial sheets"),
    ("degrees", "Bevels in degrees", "Instead of the run of 12"),
    ("neighbours", "Show neighbours", "What the ends frame to, on a layer that does not print"),
    ("shorten", "Shorten long pieces", "Stretches in which nothing happens are taken out"),
)
_TOGETHER = SheetPreset(name="small plates together", kinds=("part",), several=6)
_GATHER = "A preset that draws small plates and clips six to a sheet; each has a DXF of its own all the same"


class PresetsDialog(QDialog):
    """Each edit is one undo step; sheets follow at once."""

    def __init__(self, session: Session, parent: QWidget | None = None, entries: Sequence[Entry] = ()) -> None:
        super().__init__(parent)
        self.session = session
        self._jobs = [one.job for e in entries for one in (e.plates or (e,)) if isinstance(one.job, PieceJob)]
        self.setWindowTitle("Presets of sheets")
        self.resize(1180, 720)
        self.list = QListWidget()
        self.list.setAccessibleName("Presets")
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.form = QScrollArea()
        self.form.setWidgetResizable(True)
        self.form.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.form.setFrameShape(QFrame.Shape.NoFrame)
        self.form.setMinimumWidth(340)
        self.said = QLabel("The first preset that names a sheet's role or kind is used; without one, all rules are on.")
        self.said.setWordWrap(True)
        row = QHBoxLayout()
        row.addWidget(self.list, 1)
        row.addWidget(self.form, 2)
        self.view = SheetView()
        self.view.setAccessibleName("A sheet as this preset makes it")
        row.addWidget(self.view, 5)
        buttons = QHBoxLayout()
        for words, do, help in (("New", self.add, ""), ("Gather small plates", self.gather, _GATHER),
            ("Take away", self.remove, ""), ("Import ...", self.take_in, ""), ("Export ...", self.give_out, ""),
            ("Close", self.accept, "")):  # fmt: skip
            button = QPushButton(words)
            button.setAccessibleName(words)
            button.setToolTip(help)
            button.clicked.connect(do)
            buttons.addWidget(button)
        layout = QVBoxLayout(self)
        layout.addWidget(self.said)
        layout.addLayout(row, 1)
        layout.addLayout(buttons)
        self.refresh()

    @property
    def presets(self) -> list[SheetPreset]:
        return sorted(self.session.job.all(SheetPreset), key=lambda p: p.name)

    def refresh(self, pick: str = "") -> None:
        at = self.list.currentRow()
        self.list.blockSignals(True)
        self.list.clear()
        found = self.presets
        self.list.addItems([f"{p.name}   {', '.join(p.kinds)}" for p in found])
        row = next((i for i, p in enumerate(found) if p.id == pick), min(max(at, 0), len(found) - 1))
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self._show()

    def _show(self) -> None:
        new = QWidget()
        form = QFormLayout(new)
        at = self.list.currentRow()
        if not 0 <= at < len(self.presets):
            form.addRow(QLabel("No presets yet: all rules are on for every piece. Press New."))
        else:
            self._fill(form, self.presets[at])
        if (old := self.form.takeWidget()) is not None:
            old.deleteLater()  # one of its fields may be what called
        self.form.setWidget(new)
        self._preview(self.presets[at] if 0 <= at < len(self.presets) else None)

    def _preview(self, preset: SheetPreset | None) -> None:
        """A sheet of the job as the preset makes it: of the pieces it is for, one that has much to say."""
        if preset is None:
            self.view.show_sheets([], "A sheet as the preset makes it is shown here.")
            return
        fits = [job for job in self._jobs if job.role in preset.kinds or job.kind in preset.kinds]
        if not fits:
            self.view.show_sheets([], "No marked piece of this job is what the preset is for.")
            return
        plates = [msgspec.structs.replace(job, preset=preset, hand=None) for job in fits if is_small(job)][
            : preset.several
        ]
        if len(plates) > 1:
            self.view.show_sheets(draw_all(GatheredJob(f"{plates[0].name}-{plates[-1].name}", tuple(plates), "")))
            return
        most = max(fits, key=lambda job: (job.kind == "assembly", len(job.subject.fixed), len(job.subject.main.holes)))
        self.view.show_sheets(draw_all(msgspec.structs.replace(most, preset=preset, since="", hand=None)))

    def _fill(self, form: QFormLayout, one: SheetPreset) -> None:
        def put(**changes: object) -> None:
            self._put(msgspec.structs.replace(one, **changes))

        name, kinds = QLineEdit(one.name), QLineEdit(", ".join(one.kinds))
        name.setAccessibleName("Preset name")
        kinds.setAccessibleName("Preset kinds")
        kinds.setToolTip(f"assembly, part, or roles: {', '.join(Role)}")
        name.editingFinished.connect(lambda: put(name=name.text()) if name.text() != one.name else None)
        kinds.editingFinished.connect(lambda: put(kinds=tuple(k.strip() for k in kinds.text().split(",") if k.strip())))
        form.addRow("Name", name)
        form.addRow("For", kinds)
        paper = QComboBox()
        paper.setAccessibleName("Preset paper")
        paper.addItems(["usual", *names(), *([one.paper] if one.template else [])])
        paper.setCurrentText(one.paper or "usual")
        paper.activated.connect(lambda _: put(paper="" if paper.currentText() == "usual" else paper.currentText(),
            template=""))  # fmt: skip
        own = QPushButton("Own template ...")
        own.setToolTip("An SVG with named fields; docs/templates.md tells which")
        own.clicked.connect(lambda: self._template(one))
        row = QHBoxLayout()
        row.addWidget(paper, 1)
        row.addWidget(own)
        form.addRow("Paper", row)
        several = QComboBox()
        several.setAccessibleName("Plates to a sheet")
        several.addItems([str(n) for n in (1, 2, 4, 6, 9, 12)])
        several.setCurrentText(str(one.several))
        several.activated.connect(lambda _: put(several=int(several.currentText())))
        form.addRow("Plates to a sheet", several)
        for field, (words, help) in _MANNERS.items():
            form.addRow(words, self._choice(words, help, MANNERS[field], getattr(one, field),
                lambda text, f=field: put(**{f: text})))  # fmt: skip
        for field, words, help in _SWITCHES:
            form.addRow("", self._box(words, help, bool(getattr(one, field)), lambda on, f=field: put(**{f: on})))
        form.addRow(QLabel("Dimensioned and shown"))
        for rule in RULES:
            off = set(one.off)
            form.addRow("", self._box(rule.words, rule.help, rule.name not in off, lambda on, r=rule.name,
                off=off: put(off=tuple(sorted(off - {r} if on else off | {r})))))  # fmt: skip

    def _choice(self, words: str, help: str, choices: Sequence[str], now: str, do) -> QComboBox:  # type: ignore[no-untyped-def]
        box = QComboBox()
        box.setAccessibleName(words)
        box.setToolTip(help)
        box.addItems(choices)
        box.setCurrentText(now)
        box.activated.connect(lambda _: do(box.currentText()))
        return box

    def _box(self, words: str, help: str, on: bool, do) -> QCheckBox:  # type: ignore[no-untyped-def]
        box = QCheckBox(words)
        box.setAccessibleName(words)
        box.setToolTip(help)
        box.setChecked(on)
        box.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        box.toggled.connect(do)
        return box

    def _put(self, one: SheetPreset) -> None:
        if self.session.change(f"Preset {one.name}", [one]):
            self.refresh(one.id)

    def add(self) -> None:
        used = {p.name for p in self.presets}
        name = next(f"preset {n}" for n in range(1, 1000) if f"preset {n}" not in used)
        self._put(SheetPreset(id=new_id(), name=name, kinds=("beam",)))

    def gather(self) -> None:
        """The preset that draws small plates together, made once."""
        there = next((p for p in self.presets if p.name == _TOGETHER.name), None)
        if there is None:
            self._put(msgspec.structs.replace(_TOGETHER, id=new_id()))
        else:
            self.refresh(there.id)

    def remove(self) -> None:
        at = self.list.currentRow()
        if 0 <= at < len(self.presets):
            self.session.change("Preset taken away", drop=[self.presets[at].id])
            self.refresh()

    def _template(self, one: SheetPreset) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Sheet template", "", "SVG (*.svg)")

        def work() -> None:
            text = text_of(read_outside(Path(path), MOST), path)
            found = read(text, Path(path).stem)
            self._put(msgspec.structs.replace(one, paper=found.name, template=text))

        if path:
            self.session.attempt(work)

    def take_in(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Import presets", "", "Presets (*.json)")

        def work() -> None:
            known = {p.name: p.id for p in self.presets}
            found = from_json(read_outside(Path(path)), Path(path))
            self.session.change("Presets taken in", [msgspec.structs.replace(p, id=known.get(p.name, new_id())) for p
                in found])  # fmt: skip
            self.refresh()

        if path:
            self.session.attempt(work)

    def give_out(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Export presets", "sheet-presets.json", "Presets (*.json)")

        def work() -> None:
            if not self.presets:
                raise JobError("There are no presets to export yet.")
            write_beside(Path(path), to_json(self.presets))

        if path:
            self.session.attempt(work)
