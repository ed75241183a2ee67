"""How a sheet stands to its copy that went out, and why."""

from __future__ import annotations

from uncus.caches import Cache
from uncus.draw.entry import Entry, State
from uncus.draw.inputs import SheetJob, printed
from uncus.draw.issue import opened, reasons
from uncus.job.errors import JobError
from uncus.job.records import Issue

_WHY: Cache[tuple[str, str], list[str]] = Cache(5000)
_SENT: Cache[str, str] = Cache(5000)


def state_of(job: SheetJob, issue: Issue | None) -> State:
    """How a sheet that there is stands to what went out last."""
    if issue is None:
        return State.NEW
    return State.CURRENT if job.content in (issue.content, _sent_as(issue)) else State.STALE


def _sent_as(issue: Issue) -> str:
    """The fingerprint of a copy as it would be taken today, which one of an older version may have taken otherwise;
    none for a copy that cannot be read."""

    def read() -> str:
        try:
            return printed(opened(issue.packed)[0]).content
        except JobError:
            return ""

    return _SENT.of(issue.packed, read)


def why(entry: Entry) -> list[str]:
    """Why a sheet is stale, superseded or gone, in words; a copy that cannot be compared says so."""
    if entry.state is State.SUPERSEDED:
        return [f"its pieces are on {' and '.join(entry.heirs)} now"]
    if entry.state is State.GONE:
        return ["all of its pieces are gone"]
    issue = entry.issue
    if entry.state is not State.STALE or issue is None:
        return []
    if not issue.packed:
        return ["sent before copies were kept; what changed is not known"]

    def compare() -> list[str]:
        try:
            return reasons(opened(issue.packed)[0], entry.job) or ["it would print otherwise"]
        except JobError as error:
            return [str(error)]

    return _WHY.of(
        (issue.packed, entry.job.content), compare
    )  # comparing opens the copy: once while both stay the same
