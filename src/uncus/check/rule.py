"""What a rule of checking is: a file of its own, with its own values, that finds things in a job as it stands."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from enum import StrEnum
from typing import Any

import msgspec

from uncus.check.found import Found
from uncus.check.looked import Looked


class NoValues(msgspec.Struct, frozen=True):
    """A rule that has nothing to set."""


class Over(StrEnum):
    """What a rule looks at, one after the other. Of a member it may read all joints at it and the members of those; of
    a joint its steel, its design and its members; of a piece, as it stands or as it ships, nothing else."""

    MEMBERS = "members"
    JOINTS = "joints"
    PIECES = "pieces"
    SHIPPED = "shipped"

    def things(self, looked: Looked) -> Mapping[str, object]:
        """All there are."""
        if self is Over.JOINTS:
            return looked.connections
        return looked.shipped if self is Over.SHIPPED else looked.assemblies

    def touched(self, looked: Looked) -> set[str]:
        """Those that an edit may have changed something at."""
        edits = looked.edits
        return {Over.MEMBERS: edits.members, Over.JOINTS: edits.joints, Over.PIECES: edits.assemblies,
            Over.SHIPPED: edits.shipped}[self]  # fmt: skip


class Rule(msgspec.Struct, frozen=True):
    """`name` is what verdicts and the office's values know it by, `words` its heading, `help` what it is for; `values`
    is a struct whose fields make its form.

    A rule has either `over` and `each`, what it finds of one thing by its id, which is asked again where that was
    touched (`also`: and of what else), or `whole`, what it finds in the job. `state` is what else it reads: where that
    is another than before everything is looked at again. `settled` tells whether all that it is for could be looked at
    yet.
    """

    name: str
    words: str
    help: str
    each: Callable[[Looked, Any, str], Iterable[Found]] | None = None
    over: Over = Over.MEMBERS
    whole: Callable[[Looked, Any], Iterable[Found]] | None = None
    values: type = NoValues
    state: Callable[[Looked], object] | None = None
    also: Callable[[Looked], set[str]] = lambda _: set()
    settled: Callable[[Looked], bool] = lambda _: True
