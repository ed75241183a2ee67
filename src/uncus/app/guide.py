"""The guide that ships with the program: its chapters, what each is about, and the first job as steps."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import cache
from importlib.resources import files
from typing import TYPE_CHECKING, NamedTuple

from uncus.job.records import Connection, Issue, Level, Mark, Member, Role

if TYPE_CHECKING:
    from uncus.app.session import Session

CHAPTERS = ("01-a-job", "02-grid", "03-steel", "04-joints", "05-check", "06-marks", "07-sheets", "08-deliver",
    "09-history", "10-keys", "11-others")  # fmt: skip
_OF_STAGE = {"Frame": "03-steel", "Connect": "04-joints", "Check": "05-check", "Mark": "06-marks", "Draw": "07-sheets",
    "Deliver": "08-deliver"}  # fmt: skip
_OF_COMMAND = {
    "grid": "02-grid", "plane": "02-grid", "guide": "02-grid", "history": "09-history", "lens": "09-history",
    "keys": "10-keys", "preferences": "10-keys", "new job": "01-a-job", "open job": "01-a-job",
    **dict.fromkeys(("others", "lay in", "follow lines", "bought", "set item"), "11-others"),
}  # fmt: skip


@cache
def chapter(name: str) -> str:
    """A chapter's Markdown."""
    return (files("uncus") / "guide" / f"{name}.md").read_text(encoding="utf-8")


def title(name: str) -> str:
    found = re.search(r"^# (.+)$", chapter(name), re.MULTILINE)
    return found[1] if found else name


def chapter_of(stage: str, command: str = "") -> str:
    """Which chapter a tool, or else a stage, is in."""
    return _OF_COMMAND.get(command, _OF_STAGE.get(stage, CHAPTERS[0]))


def found(words: str) -> list[str]:
    """The chapters that all of some words are in."""
    wanted = words.casefold().split()
    return [name for name in CHAPTERS if all(w in chapter(name).casefold() for w in wanted)]


class TourStep(NamedTuple):
    """What to do, the command that does it, and how it shows in the job that it was done."""

    words: str
    help: str
    command: str
    done: Callable[[Session], bool]


def _members(session: Session, *roles: Role) -> int:
    return sum(m.role in roles for m in session.job.all(Member))


def _gridded(session: Session) -> bool:
    return session.grid is not None and bool(session.grid.numbers and session.grid.letters)


TOUR: tuple[TourStep, ...] = (
    TourStep("Type the grid and the levels", "Spacings such as 3@20' one way and 2@16' the other, then Enter.", "grid",
        _gridded),
    TourStep("Give the job a second level", "In the same window: a name and a height, such as Roof, 14'.", "grid",
        lambda s: len(s.job.all(Level)) > 1),
    TourStep("Place columns", "Pick crossings of grid lines; the section is in the facts at the right.", "column",
        lambda s: _members(s, Role.COLUMN) >= 2),
    TourStep("Draw beams between them", "Pick the top of one column, then the next; two beams are enough.", "beam",
        lambda s: _members(s, Role.BEAM) >= 2),
    TourStep("Connect all of it", "Select everything (Ctrl+A) and let the office's rules join it.", "rule",
        lambda s: len(s.job.all(Connection)) >= 4),
    TourStep("Give every piece its mark", "Look at the proposal, then apply it.", "stage mark",
        lambda s: bool(s.job.all(Mark))),
    TourStep("Look at a sheet", "Pick one in the register; drag a dimension if you like.", "stage draw",
        lambda s: s.seen_sheet),
    TourStep("Send a package", "Choose a folder; sheets, NC and lists are written there.", "stage deliver",
        lambda s: any(i.packed for i in s.job.all(Issue))),
)  # fmt: skip
