"""What can be had: lengths of bars, sizes of sheets, and offcuts that lie in the shop; typed as rows of a table."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from uncus.app.session import Session
from uncus.job.billing import Allowance, Offcut, PlateSize, StockLength
from uncus.job.errors import JobError
from uncus.job.records import new_id
from uncus.lens.criteria import lens_named
from uncus.units import UnitError, format_typed, parse_length

_BARS = ("Length", "Section begins", "Grade", "Number (0: any)", "Price a metre")
_PLATES = ("Long", "Wide", "Thickness (0: any)", "Grade", "Number (0: any)")
_AHEAD = ("Section begins", "More, always", "For a mitre", "For camber", "% of its length")
_OFFCUTS = ("Mark", "Section", "Grade", "Length", "Wide", "Thickness", "Used")
_MORE = 6  # empty rows to type in


class StockDialog(QDialog):
    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Stock")
        rules, units = session.job.stock, session.units

        def mm(value: float) -> str:
            return format_typed(value, units) if value else "0"

        self.bars = _table("Bars", _BARS, [
            (mm(s.length), s.section, s.grade, str(s.number), f"{s.price:g}") for s in rules.lengths])  # fmt: skip
        self.plates = _table("Sheets", _PLATES, [
            (mm(p.long), mm(p.wide), mm(p.thickness), p.grade, str(p.number)) for p in rules.plates])  # fmt: skip
        self.there = session.job.all(Offcut)
        self.offcuts = _table("Offcuts", _OFFCUTS, [
            (o.mark, o.section, o.grade, mm(o.length), mm(o.wide), mm(o.thickness), o.used)
            for o in self.there])  # fmt: skip
        ahead = session.job.advance
        allowed = [(a.section, mm(a.more), mm(a.mitre), mm(a.camber), f"{100 * a.share:g}") for a in ahead.allowances]
        self.ahead = _table("Ordered ahead", _AHEAD, allowed)
        self.step, self.without = QLineEdit(mm(ahead.step)), QLineEdit(ahead.without)
        tabs = QTabWidget()
        for table in (self.bars, self.plates, self.offcuts, self.ahead):
            tabs.addTab(table, table.accessibleName())
        rules_ahead = QFormLayout()
        for words, field, help in (
            ("Ordered in steps of", self.step, "Lengths ordered ahead are rounded up to it; 0: not at all"),
            ("Not yet to be bought", self.without, "What this lens lets through is left out of the advance bill"),
        ):
            field.setAccessibleName(words)
            field.setToolTip(help)
            rules_ahead.addRow(words, field)
        self.said = QLabel("A row without a length is left out.")
        self.said.setWordWrap(True)
        self.said.setAccessibleName("What is wrong")
        box = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        box.accepted.connect(self.accept)
        box.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addWidget(tabs, 1)
        layout.addLayout(rules_ahead)
        layout.addWidget(self.said)
        layout.addWidget(box)
        self.resize(760, 460)

    def _mm(self, text: str) -> float:
        return parse_length(text, self.session.units) if text.strip(" 0") else 0.0

    def _read(self) -> list[object]:
        """The records as they are typed. Raises JobError, UnitError and ValueError."""
        lengths = [
            StockLength(self._mm(r[0]), r[1].upper(), r[2], int(r[3] or 0), float(r[4] or 0))
            for r in _rows(self.bars)
            if r[0]
        ]
        plates = [
            PlateSize(self._mm(r[0]), self._mm(r[1]), self._mm(r[2]), r[3], int(r[4] or 0))
            for r in _rows(self.plates)
            if r[0]
        ]
        rules = msgspec.structs.replace(self.session.job.stock, lengths=tuple(lengths), plates=tuple(plates))
        ids = {o.mark: o for o in self.there}
        offcuts = []
        for mark, section, grade, length, wide, thick, used in (r for r in _rows(self.offcuts) if r[0]):
            old = ids.get(mark)
            offcuts.append(Offcut(id=old.id if old else new_id(), mark=mark, section=section.upper(), grade=grade,
                length=self._mm(length), wide=self._mm(wide), thickness=self._mm(thick), of=old.of if old else "",
                used=used))  # fmt: skip
        allowances = [
            Allowance(r[0].upper(), self._mm(r[1]), self._mm(r[2]), self._mm(r[3]), float(r[4] or 0) / 100)
            for r in _rows(self.ahead)
            if any(r)
        ]
        without = self.without.text().strip()
        if without:
            lens_named(self.session.job, without)
        step = self._mm(self.step.text())
        ahead = msgspec.structs.replace(
            self.session.job.advance, step=step, without=without, allowances=tuple(allowances)
        )
        for record in (rules, ahead, *offcuts):
            if problem := record.problem():
                raise JobError(problem)
        return [rules, ahead, *offcuts]

    def accept(self) -> None:
        try:
            made = self._read()
        except (JobError, UnitError) as error:
            self.said.setText(str(error))
            return
        except ValueError as error:
            self.said.setText(f"A number or a price cannot be read ({error}).")
            return
        kept = {r.id for r in made}  # type: ignore[attr-defined]
        gone = [o.id for o in self.there if o.id not in kept]
        self.session.change("Stock", made, drop=gone)  # type: ignore[arg-type]
        super().accept()


def _table(name: str, heads: Sequence[str], rows: Sequence[Sequence[str]]) -> QTableWidget:
    table = QTableWidget(len(rows) + _MORE, len(heads))
    table.setAccessibleName(name)
    table.setHorizontalHeaderLabels(list(heads))
    table.horizontalHeader().setStretchLastSection(True)
    for r, row in enumerate(rows):
        for c, text in enumerate(row):
            table.setItem(r, c, QTableWidgetItem(text))
    table.resizeColumnsToContents()
    return table


def _rows(table: QTableWidget) -> list[list[str]]:
    return [
        [item.text().strip() if (item := table.item(r, c)) is not None else "" for c in range(table.columnCount())]
        for r in range(table.rowCount())
    ]
