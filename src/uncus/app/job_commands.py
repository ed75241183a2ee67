"""The commands on the job as a whole: copies, going back, what was set aside on opening, reports of faults."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from uncus.app.command import Command, by
from uncus.app.desk import Desk
from uncus.app.stages.fault import FaultDialog
from uncus.job.files import file_name
from uncus.job.going_back import go_back


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


FAULT = Command("fault report", "Show the last report", "", "", "", "look",
    "What is known of the last fault of the program.", lambda desk: desk.hold(FaultDialog),
    lambda s: bool(s.fault_report))  # fmt: skip

JOB = (
    Command("save copy", "Save a copy", "Ctrl+Shift+S", "", "", "package",
        "Write the whole job, history included, to another file; the job stays open.", _save_copy),
    Command("go back", "Go back to a copy", "", "", "", "undo",
        "Make the job what a copy of it holds, as one change that Ctrl+Z takes back.", _go_back),
    Command("clear aside", "Clear what was set aside", "", "", "", "clear",
        "Take records out of the file that could not be used when it was opened; Check lists them.",
        by(lambda s: s.clear_aside()), lambda s: bool(s.job.aside)),
    FAULT,
)  # fmt: skip
