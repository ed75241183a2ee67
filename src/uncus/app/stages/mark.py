"""Mark: the proposal under the model, what is behind each row, and conflicts settled beside it; nothing changes
until it is applied."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QSplitter, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.columns import FilterRow, columns_button
from uncus.app.stages.laid import LaidView
from uncus.app.stages.table import Table
from uncus.app.theme import Theme
from uncus.mark.differences import between, differences, laid_over
from uncus.mark.groups import alike_by
from uncus.mark.kept import since_ordered
from uncus.mark.proposal import Proposal, Row, State, apply
from uncus.shop.pieces import Piece
from uncus.steel.describe import describe
from uncus.steel.flat import gross_weight
from uncus.units import counted, format_weight

SIGNS = {State.NEW: "✚", State.KEPT: "=", State.MOVED: "↦", State.CONFLICT: "▲", State.LEFT_OUT: "○"}
_HEADS = ("State", "Mark", "Was", "What", "Number", "Length", "Each", "Kind", "Grade", "Lot", "Ordered as", "Why")
_HIDDEN = ("Grade", "Lot", "Ordered as")
_SHOWN = 60  # pieces of a row that are listed


class MarkPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.title = QLabel("Mark proposal")
        self.title.setProperty("title", True)
        self.counts = QLabel()
        self.counts.setAccessibleName("Proposal counts")
        self.button = _button("Apply marks", "Write them as one step; what is in conflict stays as it was", self.apply)
        self.button.setProperty("main", True)
        self.drop = _button("Drop", "Forget the answers; the job was not touched", lambda: session.settle())
        self.part = _button("Only selected", "Propose for the selected pieces alone, or for all again", self._only)
        self.table = Table("Mark proposal", _HEADS)
        self.table.widest = {_HEADS.index("What"): 170}
        for words in _HIDDEN:
            self.table.setColumnHidden(_HEADS.index(words), True)
        self.table.chosen.connect(self._chosen)
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addSpacing(12)
        head.addWidget(self.counts)
        head.addStretch(1)
        rules = _button("Rules", "What makes pieces the same, and how readily marks change", self._rules)
        for widget in (rules, columns_button(self.table, fixed=(0, 1)), self.part, self.drop, self.button):
            head.addWidget(widget)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(FilterRow(self.table))
        column.addWidget(self.table)
        self.detail = QScrollArea()
        self.detail.setWidgetResizable(True)
        self.detail.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.detail.setAccessibleName("Behind the row")
        both = QSplitter(Qt.Orientation.Horizontal)
        both.addWidget(left)
        both.addWidget(self.detail)
        both.setStretchFactor(0, 3)
        both.setStretchFactor(1, 2)
        both.setSizes([440, 270])
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addWidget(both, 1)
        self._pieces: dict[str, Piece] = {}
        self._choosing = False
        session.selection_changed.connect(self._picked_in_model)

    @property
    def proposal(self) -> Proposal:
        return self.session.proposal

    def refresh(self) -> None:
        """Show the proposal as it is; the job is not touched."""
        proposal, session = self.proposal, self.session
        self._pieces = {p.id: p for p in session.shop.pieces()}
        order = {State.CONFLICT: 0, State.NEW: 1, State.MOVED: 1, State.KEPT: 2, State.LEFT_OUT: 3}
        rows = sorted(proposal.rows, key=lambda r: 1 if r.why and r.state is State.KEPT else order[r.state])
        self.table.fill([self._cells(row) for row in rows], rows)
        self.counts.setText("    ".join(f"{SIGNS[s]} {s} {n}" for s in State if (n := proposal.count(s))))
        changed = sum(
            r.state in (State.NEW, State.MOVED) or bool(r.why and r.state is State.KEPT) for r in proposal.rows
        )
        self.button.setText(f"Apply {changed} marks" if changed else "All marks applied")
        self.button.setEnabled(bool(changed or proposal.series))
        only = session.mark_only
        self.part.setText("Everything" if only else "Only selected")
        self.drop.setEnabled(bool(session.choices.given or session.choices.starts or only))
        self._show([])

    def _cells(self, row: Row) -> tuple[str, ...]:
        session, piece = self.session, self._pieces[row.pieces[0]]
        assembly = session.shop.shipped[session.shop.ships_as(piece.owner)]
        weight = assembly.gross if not row.part else gross_weight(piece.part)
        return (
            f"{SIGNS[row.state]} {row.state}",
            row.mark,
            ", ".join(row.before),
            describe(piece.part, session.units),
            str(len(row.pieces)),
            session.length(piece.part.length),
            format_weight(weight, session.units),
            "part" if row.part else "assembly",
            piece.part.grade,
            assembly.member.lot,
            since_ordered(session.job, session.shop, row.pieces[0], row.part, row.mark),
            row.why,
        )

    def colours(self, theme: Theme) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """Pieces by the state of their proposed mark, and the key."""
        hues = {State.NEW: theme.new, State.MOVED: theme.moved, State.KEPT: theme.steel, State.CONFLICT: theme.wrong,
            State.LEFT_OUT: theme.slate}  # fmt: skip
        self.table.rows.colours = {f"{SIGNS[s]} {s}": hues[s] if s is not State.KEPT else theme.slate for s in State}
        found = {p: hues[r.state] for r in self.proposal.rows if not r.part for p in r.pieces}
        counts = {s: sum(r.state is s and not r.part for r in self.proposal.rows) for s in State}
        return found, [(SIGNS[s], f"{s} {n}", hues[s]) for s, n in counts.items() if n or s in (State.NEW, State.KEPT)]

    def apply(self) -> None:
        proposal = self.proposal

        def work() -> None:
            changed = apply(self.session.job, proposal)
            left = proposal.count(State.CONFLICT)
            words = f"{changed} pieces marked; Ctrl+Z takes it back." + (
                f" {counted(left, 'conflict')} left to settle." if left else "")  # fmt: skip
            self.session.settle()
            self.session.said.emit(words, False)

        self.session.attempt(work)

    def _rules(self) -> None:
        self.session.select(())
        self.session.to_facts.emit()

    def _only(self) -> None:
        ids = frozenset(m.id for m in self.session.members)
        if self.session.mark_only is None and not ids:
            self.session.said.emit("Pick the pieces to be marked first; a lens can pick them.", True)
            return
        self.session.settle(self.session.choices, None if self.session.mark_only is not None else ids)

    # -- behind the rows ----------------------------------------------------------------------------------
    def _chosen(self, keys: list[Row]) -> None:
        if keys and not self._choosing:
            self._choosing = True
            owners = {self._pieces[p].owner for row in keys for p in row.pieces}
            self.session.select({m for o in owners for m in self.session.shop.in_piece(o)})
            self._choosing = False
        self._show(keys)

    def _picked_in_model(self) -> None:
        """The row of a piece that was picked in the model."""
        if self._choosing or self.session.stage != "Mark" or len(self.session.selection) != 1:
            return
        (id,) = self.session.selection
        row = next((r for r in self.table.rows.keys if isinstance(r, Row) and not r.part and id in r.pieces), None)
        if row is not None and row not in self.table.picked():
            self._choosing = True
            self.table.pick(row)
            self._choosing = False

    def _show(self, rows: Sequence[Row]) -> None:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(8, 2, 8, 2)
        if not rows:
            column.addWidget(_words("Pick a row to see the pieces behind it; two to see why they are not the same."))
        elif len(rows) == 1:
            self._one(column, rows[0])
        else:
            self._two(column, rows[0], rows[1])
        column.addStretch(1)
        old = self.detail.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.detail.setWidget(page)

    def _one(self, column: QVBoxLayout, row: Row) -> None:
        head = QLabel(f"{row.mark or 'No mark'}: {counted(len(row.pieces), 'piece')}")
        head.setProperty("title", True)
        column.addWidget(head)
        if row.why:
            column.addWidget(_words(row.why, row.state is State.CONFLICT))
        for option in row.options:
            column.addWidget(_button(option.words, "Settle it so; nothing is written yet",
                lambda o=option: self.session.settle(o.choices, self.session.mark_only)))  # type: ignore[misc]  # fmt: skip
        for id in row.pieces[:_SHOWN]:
            piece = self._pieces[id]
            member = self.session.shop.assemblies[piece.owner].member
            mark = self.session.marks.of_part(id) if row.part else self.session.marks.of_assembly(id)
            said = [piece.words if row.part else str(member.role), mark or "no mark", f"lot {member.lot}"]
            if ordered := since_ordered(self.session.job, self.session.shop, id, row.part, row.mark):
                said.append(f"ordered as {ordered}")
            button = _button(", ".join(filter(None, said)), "Select this one", lambda o=piece.owner: self._go(o))  # type: ignore[misc]
            button.setProperty("row", True)
            column.addWidget(button)
        if len(row.pieces) > _SHOWN:
            column.addWidget(_words(f"and {len(row.pieces) - _SHOWN} more"))

    def _two(self, column: QVBoxLayout, a: Row, b: Row) -> None:
        session, alike = self.session, alike_by(self.session.job.mark_rules)
        one, other = self._pieces[a.pieces[0]], self._pieces[b.pieces[0]]
        names = (a.mark or "no mark", b.mark or "no mark")
        head = QLabel(f"{names[0]} against {names[1]}")
        head.setProperty("title", True)
        column.addWidget(head)
        if a.part and b.part:
            said = differences(one.part, other.part, session.units, alike)
        elif not a.part and not b.part:
            shop = session.shop.shipped
            said = between(shop[one.owner], shop[other.owner], session.units, alike)
        else:
            said = ["one is an assembly, the other a part"]
        for words in said or ["the same steel"]:
            column.addWidget(_words(words))
        if one.part.is_plate == other.part.is_plate:
            column.addWidget(LaidView(laid_over(one.part, other.part), names))

    def _go(self, owner: str) -> None:
        self.session.select([owner])
        self.session.framed.emit()


def _words(text: str, error: bool = False) -> QLabel:
    label = QLabel(f"▲ {text}" if error else text)
    label.setWordWrap(True)
    label.setProperty("error" if error else "quiet", True)
    return label


def _button(words: str, help: str, do) -> QPushButton:  # type: ignore[no-untyped-def]
    button = QPushButton(words)
    button.setAccessibleName(words)
    button.setToolTip(help)
    button.clicked.connect(lambda: do())
    return button
