"""Which key does what: the table's own, and those that the user has set anew."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape

from uncus.app.command import Command
from uncus.app.preferences import Preferences

FIXED = (
    ("Esc", "Step back one pick, then put the tool down"),
    ("Enter", "Finish what is being picked; take what is typed"),
    ("Left button", "Pick; a box dragged left to right takes what is whole in it, right to left what it touches"),
    ("Middle button, dragged", "Turn the view about what is under the pointer; with Shift move it"),
    ("Wheel", "Nearer and farther at the pointer"),
    ("Figures", "Typed at any time, they go to the prompt: lengths, angles, relative points"),
)  # what no command stands for


def key_of(command: Command, preferences: Preferences) -> str:
    """The key of a command; empty where it has none."""
    return preferences.keys.get(command.id, command.key)


def with_key(preferences: Preferences, command: Command, key: str) -> dict[str, str]:
    """The user's own keys with another for a command; the table's own is not kept twice."""
    others = {id: own for id, own in preferences.keys.items() if id != command.id}
    return others if key == command.key else {**others, command.id: key}


def clashes(command: Command, key: str, commands: Iterable[Command], preferences: Preferences) -> list[Command]:
    """The other commands that have a key where this one would have it: everywhere, or in the same stage. (A stage's own
    use of a key comes before the one that holds everywhere.)"""
    others = (c for c in commands if c.id != command.id)
    return [c for c in others if key and key_of(c, preferences) == key and c.stage == command.stage]


def found(words: str, commands: Iterable[Command], preferences: Preferences) -> list[Command]:
    """The commands that some letters are in: their words, help, stage or key."""
    wanted = words.casefold().split()
    return [
        c
        for c in commands
        if all(w in f"{c.words} {c.help} {c.stage} {key_of(c, preferences)}".casefold() for w in wanted)
    ]


def chart(commands: Iterable[Command], preferences: Preferences) -> str:
    """The key chart as a page: a table a stage, then what no command stands for."""
    stages: dict[str, list[Command]] = {}
    for command in commands:
        if key_of(command, preferences):
            stages.setdefault(command.stage or "Everywhere", []).append(command)
    parts = ["<h1>Keys of Uncus</h1>"]
    for stage, some in stages.items():
        rows = "".join(_row(key_of(c, preferences), c.words) for c in some)
        parts.append(f"<h2>{escape(stage)}</h2><table cellspacing='6'>{rows}</table>")
    parts.append(f"<h2>Always</h2><table cellspacing='6'>{''.join(_row(k, w) for k, w in FIXED)}</table>")
    return "".join(parts)


def _row(key: str, words: str) -> str:
    return f"<tr><td><b>{escape(key)}</b></td><td>{escape(words)}</td></tr>"
