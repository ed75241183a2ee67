"""The commands of the stage Draw."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from uncus.app.command import Command, some_members, some_steel
from uncus.app.desk import Desk
from uncus.app.stages.view_list import ViewsDialog
from uncus.job.errors import JobError

if TYPE_CHECKING:
    from uncus.app.stages.draw import DrawPanel


def _of(do: Callable[[DrawPanel], object]) -> Callable[[Desk], object]:
    return lambda desk: desk.session.attempt(lambda: do(desk.draw))


def _draw(
    id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[DrawPanel], object]
) -> Command:
    return Command(id, words, key, "Draw", group, icon, help, _of(do), some_steel)


def _to_sheet_or_back(desk: Desk) -> None:
    session = desk.session
    if session.stage == "Draw":
        entry = desk.draw.current
        session.go("Frame")
        if entry is not None and entry.kind != "erection":
            session.select(set(entry.pieces))
            desk.model.frame()
    elif session.members:
        desk.open_sheet(session.members[0].id)
    else:
        raise JobError("Pick a piece first; Tab then opens its sheet.")


def _views(desk: Desk) -> None:
    desk.session.go("Draw")
    dialog = desk.keep_open(ViewsDialog)
    assert isinstance(dialog, ViewsDialog)
    dialog.opened.connect(desk.draw.open_view, Qt.ConnectionType.UniqueConnection)


SHEET = Command(
    "sheet",
    "Sheet of the piece",
    "Tab",
    "Draw",
    "Sheets",
    "sheet",
    "From the selected piece to its sheet, and back to the model.",
    lambda desk: desk.session.attempt(lambda: _to_sheet_or_back(desk)),
    some_steel,
    stays=True,
)

DRAW: tuple[Command, ...] = (
    SHEET,
    _draw("next sheet", "Next sheet", "PgDown", "Sheets", "down",
        "The next sheet of the list, or of the same piece where it has more.", lambda d: d.step(1)),
    _draw("previous sheet", "Previous sheet", "PgUp", "Sheets", "look", "The sheet before.", lambda d: d.step(-1)),
    Command("fit", "Fit the sheet", "Shift+F", "Draw", "Sheets", "frame", "Show the whole sheet.",
        lambda desk: desk.draw.view.fit(), some_steel),
    _draw("omit", "Leave out", "Del", "Clean up", "delete",
        "Leave the picked dimension, stop or note out of the sheet.", lambda d: d.view.leave_out()),
    _draw("merge", "Merge chains", "M", "Clean up", "join", "Take another chain's stops into the picked one.",
        lambda d: d.view.enter("merge")),
    _draw("part chain", "Split a chain", "S", "Clean up", "split",
        "Make two of the picked chain, at the stop picked by a second click.", lambda d: d.view.split()),
    _draw("reach", "Add a point", "P", "Clean up", "point", "The picked chain goes to one more hole, edge or corner.",
        lambda d: d.view.enter("reach")),
    _draw("from", "Add a dimension", "D", "Clean up", "measure",
        "Between two points of a view; with Shift straight between them.", lambda d: d.view.enter("from")),
    _draw("note", "Add a note", "N", "Clean up", "sheet", "Words with a leader to a place of a view.",
        lambda d: d.view.enter("note")),
    _draw("section", "Add a section", "X", "Clean up", "trim", "A section across the piece, so far from its left end.",
        lambda d: d.cleaning.section()),
    _draw("scale", "Scale", "", "Clean up", "view", "Another scale for this sheet; empty leaves it to the program.",
        lambda d: d.cleaning.scale()),
    _draw("view scale", "Scale of a view", "", "Clean up", "view",
        "Another scale for the view clicked last; empty gives it the sheet's again.",
        lambda d: d.cleaning.view_scale()),
    _draw("recut", "Cut elsewhere", "", "Clean up", "trim",
        "The section clicked last is cut so far from the piece's left end; or drag its letter.",
        lambda d: d.cleaning.recut()),
    _draw("reset", "Reset the picked", "R", "Clean up", "undo",
        "What was done by hand to the picked thing is dropped.", lambda d: d.cleaning.reset_one()),
    _draw("reset view", "Reset the view", "", "Clean up", "undo",
        "Everything done by hand in the view clicked last is dropped.", lambda d: d.cleaning.reset_view()),
    _draw("reset all", "Reset the sheet", "Shift+R", "Clean up", "clear",
        "Everything done to this sheet by hand is dropped.", lambda d: d.cleaning.reset_all()),
    _draw("flag", "On or off the worklist", "W", "Worklist", "mark",
        "Sheets to go through one by one; in the model the selected pieces.", lambda d: d.flag()),
    _draw("done", "Done, the next", "Shift+W", "Worklist", "rule",
        "Take this sheet off the worklist and open the next one on it.", lambda d: d.done()),
    _draw("list by marks", "List by marks", "", "Worklist", "find",
        "Put sheets on the worklist by their marks: B1-B7, C2.", lambda d: d.list_by_marks()),
    _draw("list by lens", "List by lens", "", "Worklist", "look",
        "Put the sheets of what a lens lets through on the worklist.", lambda d: d.list_by_lens()),
    _draw("draw listed", "Draw all in the list", "B", "Worklist", "redo",
        "Draw the sheets shown in the register in the background; a failing one is named.", lambda d: d.start()),
    _draw("revise", "Revise", "V", "Issue", "rule",
        "A revision on the picked sheets: what changed is clouded, the old issue kept.", lambda d: d.revise()),
    _draw("checked", "Checked", "", "Issue", "rule", "Note who checked the picked sheets.", lambda d: d.check()),
    _draw("compare", "Old over new", "O", "Issue", "look",
        "The last issue and the sheet of today over each other; again to go back.", lambda d: d.compare()),
    _draw("issues", "Issued copies", "", "Issue", "package", "Open a copy of this sheet as it went out.",
        lambda d: d.issued_copies()),
    _draw("print sheets", "Print", "Ctrl+Shift+P", "Issue", "sheet",
        "The picked sheets on the desktop's printers, with a preview first.", lambda d: d.print()),
    _draw("presets", "Presets", "", "Issue", "runs", "What is dimensioned and shown, for each kind of piece.",
        lambda d: d.edit_presets()),
    Command("views", "Views and schedules", "", "Draw", "Sheets", "view",
        "The erector's views by list: sheets, scales, how steel is shown, what is left out; and schedules.", _views,
        some_steel),
    Command("flag pieces", "Sheets to worklist", "", "", "View", "mark",
        "Put the selected pieces' sheets on the worklist, or take them off.", _of(lambda d: d.flag_pieces()),
        some_members),
    Command("dimensions", "Sheet dimensions", "Shift+D", "", "View", "measure",
        "Show the dimensions of the selected piece's own sheet on it in the model; again: those of its parts' sheets; "
        "once more to take them off.",
        lambda desk: desk.model.show_dimensions(), some_members),
)  # fmt: skip
