"""The commands of the stage Check."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial

import msgspec

from uncus.app.command import Command, some_members, some_steel
from uncus.app.desk import Desk
from uncus.app.stages.check import CheckPanel
from uncus.app.stages.check_rules import CheckRulesDialog
from uncus.app.stages.ties import TiesDialog
from uncus.app.stages.topics import remark, send, take_in
from uncus.job.files import file_name
from uncus.job.holds import held, next_number
from uncus.job.records import Hold
from uncus.units import counted


def _check(
    id: str, words: str, key: str, group: str, icon: str, help: str, do: Callable[[CheckPanel], object]
) -> Command:
    return Command(id, words, key, "Check", group, icon, help, lambda desk: do(desk.check), some_steel)


def _ties(desk: Desk) -> None:
    desk.check.leave()  # what holds to a piece is seen beside a finding too
    desk.keep_open(TiesDialog)


def _rules(desk: Desk) -> None:
    desk.keep_open(CheckRulesDialog)


def _send(desk: Desk, version: str) -> None:
    offer = f"{file_name(desk.session.job.project.name, 'topics')}.bcf"
    if path := desk.file_to("Send topics", offer, "BCF (*.bcf)"):
        send(desk.check, path, version)


def _take_in(desk: Desk) -> None:
    if path := desk.file_from("Take in topics", "BCF (*.bcf *.bcfzip)"):
        take_in(desk.check, path)


def _hold(desk: Desk) -> None:
    session = desk.session
    question = desk.ask_name("Hold the selected pieces", "", "What is asked")
    if not question:
        return
    whom, number = desk.ask_name("Hold the selected pieces", "", "Whom it is put to"), next_number(session.job)
    today = date.today().isoformat()
    put = [Hold(member=m.id, number=number, question=question, whom=whom, on=today) for m in session.members]
    if session.change(f"Question {number} holds {counted(len(put), 'piece')}", put):
        session.said.emit(f"Question {number} holds {counted(len(put), 'piece')}; no package takes them.", False)


def _let_go(desk: Desk) -> None:
    session = desk.session
    holds = [h for m in session.members for h in held(session.job).get(m.id, ())]
    if not holds:
        session.said.emit("No question holds what is selected.", True)
        return
    answer = desk.ask_name("Answer and let go", "", f"The answer to: {holds[0].question}")
    if answer:
        numbers = {h.number for h in holds}
        put = [msgspec.structs.replace(h, answer=answer, let_go=True) for h in session.job.all(Hold)
            if h.number in numbers and not h.let_go]  # fmt: skip
        session.change(f"Question {', '.join(map(str, sorted(numbers)))} answered", put)


CHECK: tuple[Command, ...] = (
    _check("findings", "Look again", "L", "Findings", "look", "Look at everything by every rule that is on.",
        lambda panel: panel.look_again()),
    _check("next finding", "Next", "F9", "Findings", "down", "Go to the next place of a finding.",
        lambda panel: panel.step(1)),
    _check("previous finding", "Previous", "Shift+F9", "Findings", "view", "Go to the place before.",
        lambda panel: panel.step(-1)),
    _check("maker of finding", "To its joint", "F10", "Findings", "connect",
        "The joint that made what the finding is about, to give it other values.", lambda panel: panel.to_maker()),
    _check("values of a like joint", "As a like joint", "Shift+F10", "Findings", "copy",
        "Give the picked findings' joints the values of one of their kind that is right.",
        lambda panel: panel.give_values()),
    _check("put aside", "Put aside", "F11", "What is said", "clear",
        "The picked findings, by whom and why; they come back when a piece changes there.",
        lambda panel: panel.put_aside()),
    _check("open again", "Open again", "Shift+F11", "What is said", "undo",
        "Take back what was said of the picked findings.", lambda panel: panel.reopen()),
    _check("remark", "Remark", "", "What is said", "guide",
        "A remark on the picked findings, which goes out with their topics.", remark),
    _check("keep run", "Keep this run", "", "What is said", "package",
        "The next run then says what is solved and what came back.", lambda panel: panel.keep_run()),
    Command("hold pieces", "Hold", "", "Check", "What is said", "point",
        "A question that keeps the selected pieces out of packages until it is answered.", _hold, some_members),
    Command("let go", "Answer and let go", "", "Check", "What is said", "find",
        "The answer to the questions that hold the selected pieces.", _let_go, some_members),
    Command("send topics", "Send as BCF 3.0", "", "Check", "With others", "package",
        "Findings and topics with their views as a file that other programs read.", partial(_send, version="3.0"),
        some_steel),
    Command("send old topics", "Send as BCF 2.1", "", "Check", "With others", "package",
        "The same for programs that read the older version.", partial(_send, version="2.1"), some_steel),
    Command("take in topics", "Take in BCF", "", "Check", "With others", "down",
        "What others say of findings, and what they ask, into the list.", _take_in, some_steel),
    Command("ties", "What holds what", "F12", "Check", "Rules", "join",
        "Of one picked piece all that is fixed to it, between two what leads from one to the other; what is loose.",
        _ties, some_steel),
    Command("check rules", "Rules", "", "Check", "Rules", "rule",
        "Which rules a job is looked at by, and their limits.", _rules),
)  # fmt: skip
