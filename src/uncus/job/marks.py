"""Records of marking: series, what makes pieces the same and how readily marks change, the marks themselves, advance
marks, the office's standard parts, and marks that went out."""

from __future__ import annotations

from typing import Annotated, Any

import msgspec

from uncus.job.criterion import Both, Rule
from uncus.job.forms import About, problem_of
from uncus.job.record import FAR, Record
from uncus.words import quoted


class Series(Record, frozen=True, tag=True):
    """How marks are made: prefix and numbers of assemblies of some roles, or of parts of some kinds ("plate",
    "rolled", "bought", or a part's own words such as "shear tab"), where `members` (a lens's rule on the assembly)
    lets them through. The first series in `order` that fits a piece gives its mark. Numbers run from `start` by
    `step`, at least `pad` figures long, up to `last` where that is given."""

    prefix: str
    roles: tuple[str, ...]
    start: int = 1
    parts: bool = False
    step: int = 1
    pad: int = 0
    last: int | None = None
    members: Rule = Both()
    order: int = 0

    def problem(self) -> str | None:
        if len(self.prefix) > 30 or mark_problem(self.prefix):
            return f"Series “{self.prefix}” needs a prefix of letters, figures or - _ . only."
        if self.prefix[-1].isdigit():
            return f"Series “{self.prefix}” must not end in a figure: its numbers could not be told from it."
        if not (0 <= self.start < 10**9 and 1 <= self.step <= 1000 and 0 <= self.pad <= 9):
            return f"Series “{self.prefix}” needs a start from 0, a step from 1 to 1000 and at most nine figures."
        if self.last is not None and self.last < self.start:
            return f"Series “{self.prefix}” ends before it starts."
        return None


POLICIES = ("loose", "firm", "frozen")
FAMILIES = ("none", "length", "holes", "length and holes")


class MarkRules(Record, frozen=True, tag=True):
    """What makes two pieces the same, and how readily marks change; one a job, with a fixed id."""

    id: str = "mark rules"
    holes: Annotated[bool, About("Holes count", unit="flag")] = True
    grade: Annotated[bool, About("Grade counts", unit="flag")] = True
    finish: Annotated[bool, About("Finish counts", unit="flag")] = True
    camber: Annotated[bool, About("Camber counts", unit="flag")] = True
    lot: Annotated[bool, About("Lot counts", unit="flag", help="Pieces of two lots never share a mark.")] = False
    names: Annotated[
        bool, About("Names count", unit="flag", help="A beam and a strut alike in steel are two marks.")
    ] = False
    as_erected: Annotated[
        bool,
        About("As erected", unit="flag", help="Turned end for end or upside down in the building is another mark."),
    ] = False
    tolerance: Annotated[float, About("Tolerance", low=0.05, high=3.0)] = 0.5
    policy: Annotated[
        str,
        About(
            "Marks are",
            unit="choice",
            choices=POLICIES,
            help="Loose: numbered anew each run. Firm: kept while the piece is. Frozen: what is marked stays as it is.",
        ),
    ] = "loose"
    refill: Annotated[
        bool,
        About(
            "Gaps are refilled", unit="flag", help="Numbers that came free are given to new pieces; firm marks only."
        ),
    ] = True
    families: Annotated[
        str,
        About(
            "Families differ by",
            unit="choice",
            choices=FAMILIES,
            help="Pieces alike but for this share a number and differ by a letter.",
        ),
    ] = "none"

    def problem(self) -> str | None:
        return problem_of(self)


def mark_problem(mark: str) -> str | None:
    """Why a text cannot be a mark, which is painted on steel, punched by machines and names files."""
    if 0 < len(mark) <= 60 and all(c.isalnum() or c in "-_." for c in mark):
        return None
    return f"{quoted(mark, 40)} is no mark: letters, figures and - _ . only."


HOW = ("", "typed", "unique", "left out")


class Mark(Record, frozen=True, tag=True):
    """The mark of one piece; its id is `mark:`, assembly or part, and the piece's id.

    `content` is the fingerprint of the piece the mark was given to, so that a piece changed since is seen; `form`
    that of its form whichever way it was drawn, by which a piece drawn anew gets its mark back. A mark of a version
    that reckoned fingerprints otherwise has no `content`. `how` says what was
    asked for it: a `typed` mark is kept as it is, a `unique` piece shares its mark with none, one `left out` has
    none.
    """

    piece: str
    mark: str
    content: str = ""
    part: bool = False
    how: str = ""
    form: str = ""

    def problem(self) -> str | None:
        if self.how not in HOW:
            return f"A mark is made in one of {', '.join(HOW[1:])}; “{self.how}” is none of them."
        return mark_problem(self.mark) if self.mark or self.how == "typed" else None


class AdvanceMark(Record, frozen=True, tag=True):
    """What a piece was called when it was ordered: kept for good; its id is `advance:` and the mark's own."""

    piece: str
    mark: str
    content: str
    on: str
    package: str
    part: bool = False
    length: float = 0.0  # mm, as it was ordered; 0 where no length was

    def problem(self) -> str | None:
        if not 0.0 <= self.length < FAR:
            return f"Advance mark {self.mark} was ordered at a length."
        return mark_problem(self.mark)


class IssuedMark(Record, frozen=True, tag=True):
    """A mark that went out, and the contents of the pieces under it (none where an older version reckoned them): it is
    never given to another piece."""

    mark: str
    contents: tuple[str, ...]
    on: str
    part: bool = False

    def problem(self) -> str | None:
        return mark_problem(self.mark)


class StandardPart(Record, frozen=True, tag=True):
    """A part that has the same mark in every job of an office; `shape` is the part as data."""

    mark: str
    shape: dict[str, Any] = msgspec.field(default_factory=dict)
    words: str = ""

    def problem(self) -> str | None:
        return mark_problem(self.mark)
