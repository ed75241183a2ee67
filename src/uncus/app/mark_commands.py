"""The commands of the stage Mark, beside proposing and applying."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app import marking
from uncus.app.command import Command, ask, some_members
from uncus.app.session import Session


def _how(how: str) -> Callable[[Session], None]:
    def do(session: Session) -> None:
        marking.set_how(session, [m.id for m in session.members], how)

    return do


def _standard(session: Session) -> None:
    marking.make_standard(session)


def _always(session: Session) -> bool:
    return True


def _mark(id: str, words: str, group: str, icon: str, help: str, do: Callable[[Session], None], when: Callable[[Session], bool]) -> Command:  # fmt: skip
    return Command(id, words, "", "Mark", group, icon, help, do, when)


MARK: tuple[Command, ...] = (
    _mark("series", "Series", "Marks", "runs", "Prefixes and numbers, and which pieces they are for, in order.", ask("series"), _always),
    _mark("unique", "Unique", "Pieces", "point", "The selected pieces share their mark with none.", _how("unique"), some_members),
    _mark("leave out", "Leave out", "Pieces", "clear", "The selected pieces have no mark.", _how("left out"), some_members),
    _mark("by the rules", "By the rules", "Pieces", "undo", "The selected pieces are marked by the rules again.", _how(marking.BY_RULE), some_members),
    _mark("advance marks", "Keep as ordered", "Pieces", "package", "Today's marks kept for good, with date and package; of all pieces where none is selected.", ask("advance marks"), _always),
    _mark("standard parts", "Make parts standard", "Pieces", "look", "Parts of the selected pieces keep their marks in every job.", _standard, some_members),
)  # fmt: skip
