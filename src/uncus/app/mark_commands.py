"""The commands of the stage Mark, beside proposing and applying."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app import marking
from uncus.app.command import Command, by, some_members
from uncus.app.desk import Desk
from uncus.app.session import Session
from uncus.app.stages.series import SeriesDialog


def _how(how: str) -> Callable[[Desk], object]:
    return by(lambda session: marking.set_how(session, [m.id for m in session.members], how))


def _keep_ordered(desk: Desk) -> None:
    if name := desk.ask_name("Keep as ordered", "AB-1"):
        marking.keep_advance(desk.session, name)


_FILES = "Standard parts (*.json)"


def _export(desk: Desk) -> None:
    if path := desk.file_to("Export standard parts", "standard-parts.json", _FILES):
        marking.export_standard_parts(desk.session, path)


def _import(desk: Desk) -> None:
    if path := desk.file_from("Import standard parts", _FILES):
        marking.import_standard_parts(desk.session, path)


def _always(session: Session) -> bool:
    return True


def _mark(id: str, words: str, group: str, icon: str, help: str, do: Callable[[Desk], object],
    when: Callable[[Session], bool]) -> Command:  # fmt: skip
    return Command(id, words, "", "Mark", group, icon, help, do, when)


SERIES = _mark("series", "Series", "Marks", "runs", "Prefixes and numbers, and which pieces they are for, in order.",
    lambda desk: desk.keep_open(SeriesDialog), _always)  # fmt: skip
KEEP_ORDERED = _mark(
    "advance marks",
    "Keep as ordered",
    "Pieces",
    "package",
    "Today's marks kept for good, with date and package; of all pieces where none is selected.",
    _keep_ordered,
    _always,
)
EXPORT_PARTS = Command(
    "export standard parts",
    "Export standard parts",
    "",
    "",
    "",
    "sheet",
    "Write them to a file for other jobs.",
    _export,
)
IMPORT_PARTS = Command(
    "import standard parts", "Import standard parts", "", "", "", "sheet", "Take in an office's file.", _import
)
MARK: tuple[Command, ...] = (
    SERIES,
    _mark("unique", "Unique", "Pieces", "point", "The selected pieces share their mark with none.", _how("unique"),
        some_members),
    _mark("leave out", "Leave out", "Pieces", "clear", "The selected pieces have no mark.", _how("left out"),
        some_members),
    _mark("by the rules", "By the rules", "Pieces", "undo", "The selected pieces are marked by the rules again.",
        _how(marking.BY_RULE), some_members),
    KEEP_ORDERED,
    _mark("standard parts", "Make parts standard", "Pieces", "look",
        "Parts of the selected pieces keep their marks in every job.", by(marking.make_standard), some_members),
    EXPORT_PARTS,
    IMPORT_PARTS,
)  # fmt: skip
