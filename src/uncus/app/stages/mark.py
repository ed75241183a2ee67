"""Mark: the proposal under the model; nothing changes until it is applied."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from uncus.app.session import Session
from uncus.app.stages.table import Table
from uncus.app.theme import Theme
from uncus.mark.marking import Proposal, Row, State, apply, propose
from uncus.steel.describe import describe

SIGNS = {State.NEW: "✚", State.KEPT: "=", State.MOVED: "↦"}


class MarkPanel(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.title = QLabel("Mark proposal")
        self.title.setProperty("title", True)
        self.counts = QLabel()
        self.counts.setAccessibleName("Proposal counts")
        self.button = QPushButton("Apply marks")
        self.button.setProperty("main", True)
        self.button.setAccessibleName("Apply marks")
        self.button.clicked.connect(self.apply)
        self.table = Table("Mark proposal", ("State", "Mark", "What", "Number", "Length", "Kind", "Why"))
        self.table.chosen.connect(self._chosen)
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addSpacing(12)
        head.addWidget(self.counts)
        head.addStretch(1)
        head.addWidget(self.button)
        layout = QVBoxLayout(self)
        layout.addLayout(head)
        layout.addWidget(self.table)

    @property
    def proposal(self) -> Proposal:
        if self.session.proposal is None:
            self.session.proposal = propose(self.session.job, self.session.shop)
        return self.session.proposal

    def refresh(self) -> None:
        """Work the proposal out again; the job is not touched."""
        proposal, session = self.proposal, self.session
        pieces = {p.id: p for p in session.shop.pieces()}
        rows, keys = [], []
        for row in sorted(proposal.rows, key=lambda r: r.state is State.KEPT and not r.why):
            part = pieces[row.pieces[0]].part
            mark = f"{', '.join(row.before)} → {row.mark}" if row.before else row.mark
            rows.append(
                (
                    f"{SIGNS[row.state]} {row.state}",
                    mark,
                    describe(part, session.units),
                    str(len(row.pieces)),
                    session.length(part.length),
                    "part" if row.part else "assembly",
                    row.why,
                )
            )
            keys.append(row)
        self.table.fill(rows, keys)
        self.counts.setText("    ".join(f"{SIGNS[s]} {s} {proposal.count(s)}" for s in State))
        changed = sum(r.state is not State.KEPT or bool(r.why) for r in proposal.rows)
        self.button.setText(f"Apply {changed} marks" if changed else "All marks applied")
        self.button.setEnabled(bool(changed))

    def colours(self, theme: Theme) -> tuple[dict[str, str], list[tuple[str, str, str]]]:
        """Pieces by the state of their proposed mark, and the key."""
        hues = {State.NEW: theme.new, State.MOVED: theme.moved, State.KEPT: theme.steel}
        self.table.rows.colours = {f"{SIGNS[s]} {s}": hues[s] if s is not State.KEPT else theme.slate for s in State}
        found = {p: hues[r.state] for r in self.proposal.rows if not r.part for p in r.pieces}
        key = [
            (SIGNS[s], f"{s} {sum(r.state is s and not r.part for r in self.proposal.rows)}", hues[s]) for s in State
        ]
        return found, key

    def apply(self) -> None:
        proposal = self.proposal

        def work() -> None:
            changed = apply(self.session.job, proposal)
            self.session.said.emit(f"{changed} pieces marked; Ctrl+Z takes it back.", False)

        self.session.attempt(work)

    def _chosen(self, keys: list[Row]) -> None:
        if keys:
            owners = {piece.split("/")[0] for row in keys for piece in row.pieces}
            shop = self.session.shop
            by_piece = {p.id: p.owner for p in shop.pieces()} if any(row.part for row in keys) else {}
            self.session.select({by_piece.get(p, p) for row in keys for p in row.pieces} if by_piece else owners)
