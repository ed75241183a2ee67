"""Cleaning up a sheet in the stage Draw: what is asked of people, and the records that follow."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from PySide6.QtWidgets import QInputDialog

from uncus.draw.by_hand import view_of
from uncus.draw.entry import Entry
from uncus.draw.keeping import drawing_of, edited, of_plate, reset, sectioned
from uncus.draw.piece_job import PieceJob
from uncus.job.drawings import Edit, Hidden, Recut, Scaled, Written
from uncus.job.errors import JobError
from uncus.job.records import ViewFrame, new_id
from uncus.units import parse_length

if TYPE_CHECKING:
    from uncus.app.stages.draw import DrawPanel


class Cleaning:
    """Edits by hand of the sheet that the panel shows."""

    def __init__(self, panel: DrawPanel) -> None:
        self.panel, self.session = panel, panel.session
        self.view = panel.view
        self.view.edited.connect(self.edit)
        self.view.wrote.connect(self.write)

    def _piece(self) -> Entry:
        """The sheet of one piece, which has sections and a scale to choose."""
        entry = self.panel.one()
        if not isinstance(entry.job, PieceJob):
            raise JobError(f"Sheet {entry.name} shows several pieces; this is for the sheet of one.")
        return entry

    def edit(self, edit: Edit) -> None:
        def work() -> None:
            entry, own = of_plate(self.panel.one(), edit)
            self.panel.put(f"{type(edit).__name__} on sheet {entry.name}", [edited(entry, own)])

        self.session.attempt(work)

    def write(self, note: Written) -> None:
        words, taken = QInputDialog.getText(self.panel, "Add a note", "Words")
        if taken and words.strip():
            key = f"{note.view}|note {new_id()[:8]}"
            self.edit(msgspec.structs.replace(note, key=key, words=words.strip().upper()))

    def section(self) -> None:
        entry = self._piece()
        at = self._asked_place("Add a section", entry)
        if at is not None:
            self.panel.put(f"Section on sheet {entry.name}", [sectioned(entry, at)])

    def _asked_place(self, title: str, entry: Entry) -> float | None:
        """A typed place along a piece; None where nothing was typed."""
        text, taken = QInputDialog.getText(self.panel, title, "From the left end")
        if not taken:
            return None
        at = parse_length(text, self.session.units)
        long = entry.job.subject.main.length  # type: ignore[union-attr]
        if not 0 < at < long:
            raise JobError(f"The section must lie on the piece, which is {self.session.length(long)} long.")
        return at

    def recut(self) -> None:
        entry, view = self._piece(), self.view.hand.section
        if not view:
            raise JobError("Click the section, or its letter on the view it is cut in, first.")
        at = self._asked_place("Cut elsewhere", entry)
        if at is not None:
            self.edit(Recut(view, at))

    def _asked_scale(self, title: str, now: float) -> float | None:
        """A typed scale, 0 to leave it to the program; None where nothing was typed."""
        text, taken = QInputDialog.getText(self.panel, title, "One to", text=f"{now:g}" if now else "")
        if not taken:
            return None
        try:
            return float(text) if text.strip() else 0.0
        except ValueError:
            raise JobError(f"“{text}” is no scale; type the number after 1:, such as 12.") from None

    def scale(self) -> None:
        entry = self._piece()
        hand = drawing_of(entry)
        scale = self._asked_scale("Scale", hand.scale)
        if scale is not None:
            self.panel.put(f"Scale of sheet {entry.name}", [msgspec.structs.replace(hand, scale=scale)])

    def view_scale(self) -> None:
        view = self.view.hand.viewed
        frame = self.view.hand.frame(view)
        if frame is None:
            raise JobError("Click the view first whose scale should be another.")
        own = self.session.job.get(view, ViewFrame)
        scale = self._asked_scale("Scale of the view", own.scale if own is not None else frame.scale)
        if own is not None:
            if scale is not None:
                self.session.change("Scale of the view", [msgspec.structs.replace(own, scale=scale)])
            return
        if self.panel.one().kind == "erection":
            raise JobError("A plan is as large as its paper lets it be; make a view frame of it for another scale.")
        if scale:
            self.edit(Scaled(view, scale))
        elif scale == 0.0:
            entry, edit = of_plate(self.panel.one(), Scaled(view, 1.0))
            hand = drawing_of(entry)
            kept = tuple(e for e in hand.edits if not (isinstance(e, Scaled) and e.key == edit.key))
            self.panel.put("Scale of the view", [msgspec.structs.replace(hand, edits=kept)])

    def reset_one(self) -> None:
        if not self.view.hand.picked:
            raise JobError("Pick what should be as the program has it first.")
        entry, hidden = of_plate(self.panel.one(), Hidden(self.view.hand.picked))
        self.panel.put("Reset", [reset(entry, hidden.key)])

    def reset_view(self) -> None:
        view = self.view.hand.viewed
        if not view:
            raise JobError("Click the view first that should be as the program has it.")
        entry = self.panel.one()
        hand = drawing_of(entry)
        kept = tuple(e for e in hand.edits if view_of(e) != view)
        if kept != hand.edits:
            self.panel.put("Reset the view", [msgspec.structs.replace(hand, edits=kept)])

    def reset_all(self) -> None:
        entry = self.panel.one()
        self.panel.put(f"Reset sheet {entry.name}", [reset(one) for one in (entry.plates or (entry,))])
