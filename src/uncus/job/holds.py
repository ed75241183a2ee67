"""Which pieces of a job are held by a question that is not settled yet."""

from __future__ import annotations

from uncus.job.checks import Hold
from uncus.job.job import Job


def held(job: Job) -> dict[str, list[Hold]]:
    """The open questions of each member that has any, in their order."""
    found: dict[str, list[Hold]] = {}
    for hold in sorted(job.all(Hold), key=lambda h: h.number):
        if not hold.let_go:
            found.setdefault(hold.member, []).append(hold)
    return found


def ended(text: str) -> str:
    """A question or sentence with its end: a full stop, where it has none."""
    said = text.strip()
    return said if said.endswith(("?", "!", ".")) else f"{said}."


def held_words(hold: Hold) -> str:
    """A question in words: `question 3 (the engineer): which camber`."""
    whom = f" ({hold.whom.strip()})" if hold.whom.strip() else ""
    return f"question {hold.number}{whom}: {hold.question.strip().rstrip('.')}"


def next_number(job: Job) -> int:
    """The number of the next question."""
    return max((h.number for h in job.all(Hold)), default=0) + 1
