"""The commands of the stage Check."""

from __future__ import annotations

from collections.abc import Callable

from uncus.app.command import Command, some_steel
from uncus.app.desk import Desk
from uncus.app.stages.check import CheckPanel
from uncus.app.stages.check_rules import CheckRulesDialog


def _check(
    id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[CheckPanel], object]
) -> Command:
    return Command(id, words, key, "Check", group, icon, help, lambda desk: do(desk.check), some_steel)


def _rules(desk: Desk) -> None:
    desk.keep_open(CheckRulesDialog)


CHECK: tuple[Command, ...] = (
    _check("findings", "Look again", "L", "Findings", "look", "Look at everything by every rule that is on.",
        lambda panel: panel.look_again()),
    _check("next finding", "Next", "F9", "Findings", "down", "Go to the next place of a finding.",
        lambda panel: panel.step(1)),
    _check("previous finding", "Previous", "Shift+F9", "Findings", "view", "Go to the place before.",
        lambda panel: panel.step(-1)),
    _check("maker of finding", "To its joint", "F10", "Findings", "connect",
        "The joint that made what the finding is about, to give it other values.", lambda panel: panel.to_maker()),
    _check("put aside", "Put aside", "F11", "What is said", "clear",
        "The picked findings, by whom and why; they come back when a piece changes there.",
        lambda panel: panel.put_aside()),
    _check("open again", "Open again", "Shift+F11", "What is said", "undo",
        "Take back what was said of the picked findings.", lambda panel: panel.reopen()),
    _check("keep run", "Keep this run", "", "What is said", "package",
        "The next run then says what is solved and what came back.", lambda panel: panel.keep_run()),
    Command("check rules", "Rules", "", "Check", "Rules", "rule",
        "Which rules a job is looked at by, and their limits.", _rules),
)  # fmt: skip
