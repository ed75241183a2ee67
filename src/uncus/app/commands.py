"""One table of commands: shelf, palette, keys and tests all read it."""

from __future__ import annotations

from uncus.app.check_commands import CHECK
from uncus.app.command import Command, by, go, some_steel
from uncus.app.connect_commands import CONNECT
from uncus.app.deliver_commands import DELIVER
from uncus.app.desk import Desk
from uncus.app.draw_commands import DRAW
from uncus.app.frame_commands import FRAME
from uncus.app.job_commands import JOB
from uncus.app.mark_commands import MARK
from uncus.app.other_commands import OTHERS
from uncus.app.session import STAGES, Session


def _other_look(desk: Desk) -> None:
    session = desk.session
    other = "light" if session.preferences.theme == "dark" else "dark"
    session.attempt(lambda: session.prefer(theme=other))
    desk.follow_preferences()


COMMANDS: tuple[Command, ...] = (
    *FRAME,
    *OTHERS,
    *CONNECT,
    *CHECK,
    Command(
        "propose",
        "Propose marks",
        "P",
        "Mark",
        "Marks",
        "mark",
        "See every mark before it is applied.",
        by(Session.settle),
        some_steel,
    ),
    Command(
        "apply",
        "Apply marks",
        "Ctrl+Return",
        "Mark",
        "Marks",
        "rule",
        "Write the proposed marks as one step.",
        lambda desk: desk.mark.apply(),
        some_steel,
    ),
    *MARK,
    *DRAW,
    *DELIVER,
    Command(
        "frame",
        "Frame the view",
        "F",
        "",
        "View",
        "frame",
        "Show all of the selection, or of everything.",
        lambda desk: desk.model.frame(),
    ),
    Command("all", "Select all", "Ctrl+A", "", "", "select", "Select every piece.", by(Session.select_all), some_steel),
    Command("undo", "Undo", "Ctrl+Z", "", "", "undo", "Take the last change back, however long ago.", by(Session.undo)),
    Command("redo", "Redo", "Ctrl+Shift+Z", "", "", "redo", "Do again what was taken back.", by(Session.redo)),
    Command("repeat", "Last tool again", "Space", "", "", "redo", "Take up the last tool again.", by(Session.repeat)),
    Command(
        "find",
        "Do anything",
        "Ctrl+K",
        "",
        "",
        "find",
        "Type a few letters of a command, a mark or a piece.",
        lambda desk: desk.palette_field.open(),
    ),
    *JOB,
    Command("dark", "Light or dark", "", "", "", "look", "Change between the light and the dark look.", _other_look),
    *(
        Command(f"stage {s.lower()}", f"Go to {s}", f"Ctrl+{n}", "", "", "frame", f"Open the stage {s}.", go(s))
        for n, s in enumerate(STAGES, 1)
    ),
)

BY_ID = {command.id: command for command in COMMANDS}


def on_shelf(stage: str) -> list[Command]:
    """The commands a stage's shelf shows, in order: its own, then those of every stage that shows the model."""
    shown = (stage,) if stage in ("Draw", "Deliver") else (stage, "")
    return [c for c in COMMANDS if c.group and c.stage in shown]
