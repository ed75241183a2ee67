"""What a job keeps of its checks: the office's limits, what was said of a finding, and questions that hold a piece."""

from __future__ import annotations

from typing import Any

import msgspec

from uncus.job.record import Record


class CheckRules(Record, frozen=True, tag=True):
    """Which rules are looked at and with what limits, by the rule's name; one a job, with a fixed id. What is not said
    is as the rule has it."""

    id: str = "check rules"
    off: tuple[str, ...] = ()
    values: dict[str, dict[str, Any]] = msgspec.field(default_factory=dict)


STANDS = ("seen", "aside", "solved")


class Verdict(Record, frozen=True, tag=True):
    """What was said of a finding, which is known by its rule and the pieces it is about; its id is `verdict:` and
    these.

    `text` is what was found, in words. `stands`: `seen` by a run that kept what it found, put `aside` (by whom and
    why), or `solved` by a later run. `form` is the fingerprint of what was looked at, so that what was put aside comes
    back when either piece changes there.
    """

    rule: str
    about: tuple[str, ...]
    text: str = ""
    stands: str = "seen"
    by: str = ""
    why: str = ""
    on: str = ""
    form: str = ""

    def problem(self) -> str | None:
        if self.stands not in STANDS:
            return f"A finding is {', '.join(STANDS)}; “{self.stands[:40]}” is none of them."
        if self.stands == "aside" and not (self.by.strip() and self.why.strip()):
            return "Say who puts this aside, and why."
        return None


class Hold(Record, frozen=True, tag=True):
    """A question that holds a piece: until it is let go the piece is kept out of packages."""

    member: str
    number: int
    question: str
    whom: str = ""
    on: str = ""
    answer: str = ""
    let_go: bool = False

    def problem(self) -> str | None:
        return None if self.question.strip() else "A hold needs its question."
