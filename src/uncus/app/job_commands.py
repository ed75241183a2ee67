"""The commands on the job as a whole: copies, going back, what was set aside on opening, reports of faults."""

from __future__ import annotations

from uncus.app.command import Command, ask

JOB = (
    Command("save copy", "Save a copy", "Ctrl+Shift+S", "", "", "package", "Write the whole job, history included, to another file; the job stays open.", ask("save copy")),
    Command("go back", "Go back to a copy", "", "", "", "undo", "Make the job what a copy of it holds, as one change that Ctrl+Z takes back.", ask("go back")),
    Command("clear aside", "Clear what was set aside", "", "", "", "clear", "Take records out of the file that could not be used when it was opened; Check lists them.", ask("clear aside"), lambda s: bool(s.job.aside)),
    Command("fault report", "Show the last report", "", "", "", "look", "What is known of the last fault of the program.", ask("fault report"), lambda s: bool(s.fault_report)),
)  # fmt: skip
