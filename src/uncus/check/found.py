"""What a check finds: about one or two pieces, at a place, in words that like findings share."""

from __future__ import annotations

import hashlib

import msgspec

from uncus.job.record import Point
from uncus.steel.joint import Severity


class Found(msgspec.Struct, frozen=True):
    """Something a rule finds. It is known by its rule and `about`: ids of members, joints or attachments, or of what
    those make (after a stroke), one or two. `text` says what and what to do, without saying where, so that the same at
    forty like joints is one row; `at` is where (model), `form` the fingerprint of what was looked at there;
    `broken`: the rule itself failed there."""

    rule: str
    about: tuple[str, ...]
    text: str
    severity: Severity = Severity.WRONG
    at: Point | None = None
    form: str = ""
    volume: float = 0.0
    depth: float = 0.0
    broken: bool = False

    @property
    def key(self) -> str:
        """The same for the same finding, whatever else is edited."""
        return f"verdict:{self.rule}:{':'.join(self.about)}"

    @property
    def records(self) -> tuple[str, ...]:
        """The records it is about."""
        return tuple(dict.fromkeys(id.partition("/")[0] for id in self.about))


def form_of(*what: object) -> str:
    """A fingerprint of what was looked at."""
    return hashlib.blake2b(repr(what).encode(), digest_size=10).hexdigest()
