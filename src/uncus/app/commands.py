"""One table of commands: shelf, palette, keys and tests all read it."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from uncus.app.session import STAGES, Session


class Command(msgspec.Struct, frozen=True):
    """`stage` "" means everywhere; `group` is its heading on the shelf ("" keeps it off the shelf)."""

    id: str
    words: str
    key: str
    stage: str
    group: str
    icon: str
    help: str
    do: Callable[[Session], None]
    when: Callable[[Session], bool] = lambda _: True


def _any(session: Session) -> bool:
    return bool(session.shop.assemblies)


def _selected(session: Session) -> bool:
    return bool(session.selection)


def _ask(what: str) -> Callable[[Session], None]:
    return lambda session: session.asked.emit(what)


def _go(stage: str) -> Callable[[Session], None]:
    return lambda session: session.go(stage)


COMMANDS: tuple[Command, ...] = (
    Command(
        "plane",
        "Work plane",
        "W",
        "Frame",
        "Lay out",
        "plane",
        "Go to the next level's work plane: picks and new steel lie on it.",
        Session.next_plane,
    ),
    Command(
        "grid",
        "Grid and levels",
        "G",
        "Frame",
        "Lay out",
        "grid",
        "Type the spacings of the grid and the heights of the levels.",
        _ask("grid"),
    ),
    Command(
        "column",
        "Column",
        "C",
        "Frame",
        "Steel",
        "column",
        "Pick a foot for each column; type its height.",
        Session.column,
    ),
    Command(
        "beam",
        "Beam",
        "B",
        "Frame",
        "Steel",
        "beam",
        "Pick the left end, then the far end or type a length.",
        Session.beam,
    ),
    Command(
        "delete",
        "Delete",
        "Del",
        "Frame",
        "Change",
        "delete",
        "Delete what is selected, with its connections.",
        Session.delete,
        _selected,
    ),
    Command(
        "measure",
        "Measure",
        "M",
        "Frame",
        "See",
        "measure",
        "Pick two points: straight, and along each axis.",
        Session.measure,
    ),
    Command(
        "clear",
        "Clear measures",
        "Shift+M",
        "Frame",
        "See",
        "clear",
        "Take all measures out of the view.",
        Session.clear_measures,
    ),
    Command(
        "rule",
        "Connect by rule",
        "R",
        "Connect",
        "Connect",
        "rule",
        "Connect the free ends of what is selected, or of everything.",
        Session.connect_by_rule,
        _any,
    ),
    Command(
        "one",
        "Connect one",
        "O",
        "Connect",
        "Connect",
        "connect",
        "Pick a member near its end, then what holds it; Enter for a base plate.",
        Session.connect_one,
        _any,
    ),
    Command(
        "uncouple",
        "Delete these",
        "Shift+Del",
        "Connect",
        "Change",
        "delete",
        "Delete the selected connections.",
        Session.delete,
        _selected,
    ),
    Command(
        "findings",
        "Look again",
        "L",
        "Check",
        "Findings",
        "look",
        "List what does not fit, with the piece and what to do.",
        _ask("findings"),
    ),
    Command(
        "propose",
        "Propose marks",
        "P",
        "Mark",
        "Marks",
        "mark",
        "See every mark before it is applied.",
        _ask("propose"),
        _any,
    ),
    Command(
        "apply",
        "Apply marks",
        "Ctrl+Return",
        "Mark",
        "Marks",
        "rule",
        "Write the proposed marks as one step.",
        _ask("apply"),
        _any,
    ),
    Command(
        "sheet",
        "Sheet of the piece",
        "Tab",
        "Draw",
        "Sheets",
        "sheet",
        "From the selected piece to its sheet, and back to the model.",
        _ask("sheet"),
        _any,
    ),
    Command(
        "fit", "Fit the sheet", "Shift+F", "Draw", "Sheets", "frame", "Show the whole sheet.", _ask("fit sheet"), _any
    ),
    Command(
        "produce",
        "Produce package",
        "Ctrl+P",
        "Deliver",
        "Package",
        "package",
        "Write sheets, NC, DXF, IFC and bills into one folder.",
        _ask("produce"),
        _any,
    ),
    Command(
        "frame",
        "Frame the view",
        "F",
        "",
        "View",
        "frame",
        "Show all of the selection, or of everything.",
        _ask("frame"),
    ),
    Command("all", "Select all", "Ctrl+A", "", "", "select", "Select every piece.", Session.select_all, _any),
    Command("undo", "Undo", "Ctrl+Z", "", "", "undo", "Take the last change back, however long ago.", Session.undo),
    Command("redo", "Redo", "Ctrl+Shift+Z", "", "", "redo", "Do again what was taken back.", Session.redo),
    Command("repeat", "Last tool again", "Space", "", "", "redo", "Take up the last tool again.", Session.repeat),
    Command(
        "find",
        "Do anything",
        "Ctrl+K",
        "",
        "",
        "find",
        "Type a few letters of a command, a mark or a piece.",
        _ask("find"),
    ),
    Command("dark", "Light or dark", "", "", "", "look", "Change between the light and the dark look.", _ask("dark")),
    *(
        Command(f"stage {s.lower()}", f"Go to {s}", f"Ctrl+{n}", "", "", "frame", f"Open the stage {s}.", _go(s))
        for n, s in enumerate(STAGES, 1)
    ),
)

BY_ID = {command.id: command for command in COMMANDS}


def on_shelf(stage: str) -> list[Command]:
    """The commands a stage's shelf shows, in order: its own, then those of every stage that shows the model."""
    shown = (stage,) if stage in ("Draw", "Deliver") else (stage, "")
    return [c for c in COMMANDS if c.group and c.stage in shown]
