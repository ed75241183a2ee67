"""The commands of the stage Draw."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app.command import Command, ask, some_members, some_steel
from uncus.app.session import Session


def _draw(id: str, words: str, key: str, group: str, icon: str, help: str, when: Callable[[Session], bool] = some_steel) -> Command:  # fmt: skip
    return Command(id, words, key, "Draw", group, icon, help, ask(f"draw {id}"), when)


DRAW: tuple[Command, ...] = (
    Command("sheet", "Sheet of the piece", "Tab", "Draw", "Sheets", "sheet", "From the selected piece to its sheet, and back to the model.", ask("sheet"), some_steel),
    _draw("next sheet", "Next sheet", "PgDown", "Sheets", "down", "The next sheet of the list, or of the same piece where it has more."),
    _draw("previous sheet", "Previous sheet", "PgUp", "Sheets", "look", "The sheet before."),
    Command("fit", "Fit the sheet", "Shift+F", "Draw", "Sheets", "frame", "Show the whole sheet.", ask("fit sheet"), some_steel),
    _draw("omit", "Leave out", "Del", "Clean up", "delete", "Leave the picked dimension, stop or note out of the sheet."),
    _draw("merge", "Merge chains", "M", "Clean up", "join", "Take another chain's stops into the picked one."),
    _draw("part chain", "Split a chain", "S", "Clean up", "split", "Make two of the picked chain, at the stop picked by a second click."),
    _draw("reach", "Add a point", "P", "Clean up", "point", "The picked chain goes to one more hole, edge or corner."),
    _draw("from", "Add a dimension", "D", "Clean up", "measure", "Between two points of a view; with Shift straight between them."),
    _draw("note", "Add a note", "N", "Clean up", "sheet", "Words with a leader to a place of a view."),
    _draw("section", "Add a section", "X", "Clean up", "trim", "A section across the piece, so far from its left end."),
    _draw("scale", "Scale", "", "Clean up", "view", "Another scale for this sheet; empty leaves it to the program."),
    _draw("view scale", "Scale of a view", "", "Clean up", "view", "Another scale for the view clicked last; empty gives it the sheet's again."),
    _draw("recut", "Cut elsewhere", "", "Clean up", "trim", "The section clicked last is cut so far from the piece's left end; or drag its letter."),
    _draw("reset", "Reset the picked", "R", "Clean up", "undo", "What was done by hand to the picked thing is dropped."),
    _draw("reset all", "Reset the sheet", "Shift+R", "Clean up", "clear", "Everything done to this sheet by hand is dropped."),
    _draw("flag", "On or off the worklist", "W", "Worklist", "mark", "Sheets to go through one by one; in the model the selected pieces."),
    _draw("done", "Done, the next", "Shift+W", "Worklist", "rule", "Take this sheet off the worklist and open the next one on it."),
    _draw("list by marks", "List by marks", "", "Worklist", "find", "Put sheets on the worklist by their marks: B1-B7, C2."),
    _draw("list by lens", "List by lens", "", "Worklist", "look", "Put the sheets of what a lens lets through on the worklist."),
    _draw("draw listed", "Draw all in the list", "B", "Worklist", "redo", "Draw the sheets shown in the register in the background; a failing one is named."),
    _draw("revise", "Revise", "V", "Issue", "rule", "A revision on the picked sheets: what changed is clouded, the old issue kept."),
    _draw("checked", "Checked", "", "Issue", "rule", "Note who checked the picked sheets."),
    _draw("compare", "Old over new", "O", "Issue", "look", "The last issue and the sheet of today over each other; again to go back."),
    _draw("issues", "Issued copies", "", "Issue", "package", "Open a copy of this sheet as it went out."),
    _draw("presets", "Presets", "", "Issue", "runs", "What is dimensioned and shown, for each kind of piece."),
    Command("flag pieces", "Sheets to worklist", "", "", "View", "mark", "Put the selected pieces' sheets on the worklist, or take them off.", ask("draw flag pieces"), some_members),
    Command("dimensions", "Sheet dimensions", "Shift+D", "", "View", "measure", "Show the dimensions of the selected piece's own sheet on it in the model; again to take them off.", ask("dimensions"), some_members),
)  # fmt: skip
