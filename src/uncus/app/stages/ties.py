"""What holds what, in a tree: of one piece all that is shop-fixed to it, between two the welds and bolts that lead from
one to the other, else what is tied to nothing that stands."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QLabel, QPushButton, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from uncus.app.session import Session, Tied
from uncus.check.ties import Step, Tie, Ties
from uncus.units import counted


class TiesDialog(QDialog):
    """Follows the selection; a row leads to its weld or bolts in the model."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("What holds what")
        self.resize(560, 460)
        self.title = QLabel(wordWrap=True)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("What holds what")
        self.tree.setHeaderLabels(["Piece", "Held by"])
        self.tree.setColumnWidth(0, 230)
        self._ties: Ties | None = None
        self._before: Ties | None = None  # as it was before the last edits, of which what stays is not made anew
        self._shown: list[Tie] = []  # by the number that a row carries
        all_ = QPushButton("What is loose")
        all_.setToolTip("All that is tied to nothing that stands, in the whole job")
        layout = QVBoxLayout(self)
        for widget in (self.title, self.tree, all_):
            layout.addWidget(widget)
        all_.clicked.connect(self.show_loose)
        self.tree.currentItemChanged.connect(lambda item, _: self._go(item))
        session.selection_changed.connect(self.refresh)
        session.steel.connect(lambda _: self._forget())
        self.refresh()

    @property
    def ties(self) -> Ties:
        if self._ties is None:
            shop = self.session.shop
            self._ties = Ties(dict(shop.assemblies), dict(shop.connections), self.session.units, self._before)
        return self._ties

    def _forget(self) -> None:
        self._before, self._ties = self._ties or self._before, None
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """What the selection asks for."""
        members = [m.id for m in self.session.members]
        if len(members) == 1:
            self._of_one(members[0])
        elif len(members) == 2:
            self._between(*members)
        else:
            self._begin(
                "Select one piece for all that is shop-fixed to it, or two for what leads from one to the other."
            )

    def _begin(self, words: str, tied: Tied | None = None) -> None:
        self.title.setText(words)
        self.session.tied = tied
        self.session.coloured.emit()
        self.tree.blockSignals(True)
        self.tree.clear()
        self._shown = []
        self.tree.blockSignals(False)

    def _of_one(self, id: str) -> None:
        steps = self.ties.fixed_in_the_shop(id)
        site = [t for step in steps for t in self.ties.at(step.piece) if t.field]
        fixed, held = counted(max(0, len(steps) - 1), "part"), counted(len(site), "place")
        owner = self.ties.owner
        shop = frozenset(owner[step.piece] for step in steps)
        others = frozenset(owner[p] for t in site for p in (t.a, t.b) if p in owner)
        self._begin(f"{fixed} fixed in the shop to the {self.ties.words[id]}; held on site at {held}.",
            Tied(frozenset((id,)), shop - {id}, others - shop - {id}))  # fmt: skip
        rows: dict[str, QTreeWidgetItem] = {}
        for step in steps:
            tie = step.tie
            under = rows[tie.a if tie.b == step.piece else tie.b] if tie else None
            rows[step.piece] = self._row(step.piece, tie, under)
            for other in (t for t in self.ties.at(step.piece) if t.field):
                self._row(other.b if other.a == step.piece else other.a, other, rows[step.piece])
        self.tree.expandAll()

    def _between(self, a: str, b: str) -> None:
        steps = self.ties.between(a, b)
        one, other = self.ties.words[a], self.ties.words[b]
        if not steps:
            self._begin(f"No weld or bolt leads from the {one} to the {other}, but by way of the ground.")
            return
        way = frozenset(owner for step in steps if (owner := self.ties.owner.get(step.piece)))
        self._begin(f"From the {one} to the {other} in {counted(len(steps) - 1, 'step')}:",
            Tied(frozenset((a, b)), frozenset(), way - {a, b}))  # fmt: skip
        self._chain(steps)

    def _chain(self, steps: list[Step]) -> None:
        for step in steps:
            self._row(step.piece, step.tie, None)

    def show_loose(self) -> None:
        """What is tied to nothing that stands."""
        lots = self.ties.loose()
        loose = frozenset(self.ties.owner[piece] for lot in lots for piece in lot)
        self._begin(f"{counted(len(lots), 'lot')} of pieces tied to nothing that stands:" if lots
            else "✓ Every piece is tied to every other, down to the ground.",
            Tied(loose, frozenset(), frozenset()) if lots else None)  # fmt: skip
        for lot in lots:
            top = self._row(lot[0], None, None)
            for piece in lot[1:]:
                self._row(piece, None, top)

    def _row(self, piece: str, tie: Tie | None, under: QTreeWidgetItem | None) -> QTreeWidgetItem:
        marks, owner = self.session.marks, self.ties.owner.get(piece, "")
        mark = marks.of_assembly(owner) if piece == owner else marks.of_part(piece)
        words = self.ties.words[piece]
        item = QTreeWidgetItem([f"{mark}  {words}" if mark else words, tie.said if tie else ""])
        if under is None:
            self.tree.addTopLevelItem(item)
        else:
            under.addChild(item)
        if tie is not None:
            item.setData(0, Qt.ItemDataRole.UserRole, len(self._shown))
            self._shown.append(tie)
            item.setToolTip(1, tie.said)
        return item

    def _go(self, item: QTreeWidgetItem | None) -> None:
        """The view goes to what holds there."""
        number = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        if number is not None:
            self.session.spotted = self._shown[number].at
            self.session.gone_to.emit(self.session.spotted)

    def done(self, result: int) -> None:
        self.session.spotted, self.session.tied = None, None
        self.session.coloured.emit()
        super().done(result)
