"""The commands on the job as a whole: copies, going back, what was set aside on opening, reports of faults."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, cast

from uncus.app.command import Command, by
from uncus.app.desk import Desk
from uncus.app.session import Session
from uncus.app.stages.fault import FaultDialog
from uncus.app.stages.guide import GuideDialog, TourDialog
from uncus.app.stages.history import HistoryDialog
from uncus.app.stages.keys import KeysDialog
from uncus.job.files import file_name
from uncus.job.going_back import go_back

if TYPE_CHECKING:
    from uncus.app.jobs import Jobs
    from uncus.app.window import Window


def _save_copy(desk: Desk) -> None:
    session, project = desk.session, desk.session.job.project
    name = file_name(f"{project.number} {project.name} {date.today().isoformat()}".strip())
    folder = session.job.path.parent if session.job.path else Path.home()
    path = desk.file_to("Save a copy", str(folder / f"{name}.uncus"), "Jobs (*.uncus)")
    if path is not None and session.attempt(lambda: session.job.save_copy(path, replace=True)):
        session.said.emit(f"{path.name} is a copy of the job as it stands.", False)


def _go_back(desk: Desk) -> None:
    session, path = desk.session, desk.file_from("Go back to a copy", "Jobs (*.uncus)")
    if path is not None:
        session.attempt(lambda: session.said.emit(f"{go_back(session.job, path)}; Ctrl+Z takes it back.", False))


def _with_jobs(do: Callable[[Jobs, Window], object]) -> Callable[[Desk], None]:
    """What is done with the jobs that are open, by a window that is one of them."""

    def work(desk: Desk) -> None:
        if desk.jobs is None:
            desk.session.said.emit("This window stands alone: other jobs are opened from the program itself.", True)
        else:
            do(desk.jobs, cast("Window", desk))

    return work


def _compact(desk: Desk) -> None:
    session = desk.session

    def work() -> None:
        before, after = session.job.compact()
        session.said.emit(
            f"The job's file takes {_kb(after)} where it took {_kb(before)}; nothing of it is lost.", False
        )

    session.attempt(work)


def _kb(size: int) -> str:
    return f"{size / 1e6:.1f} MB" if size >= 1e6 else f"{math.ceil(size / 1000)} kB"


def _on_disk(session: Session) -> bool:
    return session.job.path is not None


FAULT = Command("fault report", "Show the last report", "", "", "", "look",
    "What is known of the last fault of the program.", lambda desk: desk.hold(FaultDialog),
    lambda s: bool(s.fault_report))  # fmt: skip

JOB = (
    Command("new job", "New job", "Ctrl+N", "", "", "sheet",
        "Make a job: name, number, units, and an office's own rules; it opens in a window of its own.",
        _with_jobs(lambda jobs, window: jobs.new(window))),
    Command("open job", "Open a job", "Ctrl+O", "", "", "package",
        "Open another job in a window of its own; a file dropped on the window opens as well.",
        _with_jobs(lambda jobs, window: jobs.choose(window))),
    Command("close job", "Close the job", "Ctrl+W", "", "", "clear",
        "Leave the job, which is kept as it is; the start page comes after the last.",
        _with_jobs(lambda jobs, window: jobs.leave(window))),
    Command("start page", "Start page", "", "", "", "frame",
        "Jobs that were open lately, new ones, the sample and what is new.",
        _with_jobs(lambda jobs, window: jobs.show_start())),
    Command("reveal job", "Show in its folder", "", "", "", "find",
        "Open the folder that the job's file lies in.",
        _with_jobs(lambda jobs, window: jobs.reveal(window)), _on_disk),
    Command("compact job", "Compact the job's file", "", "", "", "package",
        "Give back the room in the file that nothing needs any more; the history stays.", _compact, _on_disk),
    Command("history", "History", "Ctrl+T", "", "", "undo",
        "Every change in words, with its time: go back and forth, name a moment, take one back, see then beside now.",
        lambda desk: desk.keep_open(HistoryDialog)),
    Command("guide pages", "Guide", "F1", "", "", "sheet",
        "What the tool at hand does, and the guide: eleven short chapters with pictures.",
        lambda desk: desk.keep_open(GuideDialog)),
    Command("tour", "First job, step by step", "", "", "", "rule",
        "A tour of a whole small job that ticks off what is done; it can be left at any time.",
        lambda desk: desk.keep_open(TourDialog)),
    Command("keys", "Keys", "Shift+F1", "", "", "rule",
        "The chart of all keys: search it, set keys anew, print it.",
        lambda desk: desk.keep_open(KeysDialog)),
    Command("save copy", "Save a copy", "Ctrl+Shift+S", "", "", "package",
        "Write the whole job, history included, to another file; the job stays open.", _save_copy),
    Command("go back", "Go back to a copy", "", "", "", "undo",
        "Make the job what a copy of it holds, as one change that Ctrl+Z takes back.", _go_back),
    Command("clear aside", "Clear what was set aside", "", "", "", "clear",
        "Take records out of the file that could not be used when it was opened; Check lists them.",
        by(lambda s: s.clear_aside()), lambda s: bool(s.job.aside)),
    FAULT,
)  # fmt: skip
