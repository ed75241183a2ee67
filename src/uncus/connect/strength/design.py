"""A joint's strength: its loads, given or by the office's rule, and every limit state of its kind."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum
from typing import NamedTuple

from uncus.connect.kind import Joint, Kind
from uncus.connect.strength.aisc import Aisc, plastic_modulus
from uncus.connect.strength.case import Case, steel_of
from uncus.connect.strength.code import Code
from uncus.connect.strength.eurocode import Eurocode
from uncus.connect.strength.limit import Limit, governing
from uncus.connect.strength.missing import missing
from uncus.faults import place
from uncus.job.errors import JobError
from uncus.job.records import STANDARDS, Loads
from uncus.steel.joint import Contribution
from uncus.words import quoted

NEAR = 0.9  # of its capacity: a limit that is nearly used up
_SAYS = ((1.0, "fails"), (NEAR, "nearly used"), (0.0, "holds"))


def says(used: float) -> str:
    """Whether a limit holds, in words."""
    return next(words for least, words in _SAYS if used > least or least == 0.0)


class State(StrEnum):
    """How a joint fares."""

    PASSES = "passes"
    FAILS = "fails"
    NOT_CHECKED = "not checked"
    NO_LOAD = "no load given"


class Design(NamedTuple):
    """A joint's limits, the most used first; the loads, where they came from, and the standard; and the limit states
    that were not checked, by name, or why there are none."""

    limits: list[Limit]
    loads: Loads
    source: str
    code: Code
    unchecked: tuple[str, ...] = ()

    @property
    def state(self) -> State:
        """A joint is never silently safe: it passes only where it is loaded and every limit state that is known of was
        looked at."""
        if self.used > 1.0:
            return State.FAILS
        if not self.limits and self.unchecked:
            return State.NOT_CHECKED
        if not any((self.loads.shear, self.loads.axial, self.loads.moment)):
            return State.NO_LOAD
        return State.NOT_CHECKED if self.unchecked or not self.limits else State.PASSES

    @property
    def used(self) -> float:
        """The largest share of a capacity; nothing where no load is known."""
        return self.limits[0].used if self.limits else 0.0


def code_of(joint: Joint) -> Code:
    """The standard a job is designed by."""
    rules = joint.rules
    return Aisc(rules.method, rules.electrode) if joint.standard == STANDARDS[0] else Eurocode()


def loads_of(joint: Joint) -> tuple[Loads, str]:
    """The loads given on the connection, completed by the office's rule; and where they came from."""
    given = joint.record.loads or Loads()
    rules, member = joint.rules, joint.member
    if given.shear is not None or rules.load_rule == "none" or not member.section.flanged:
        return given, "given" if joint.record.loads else "none given"
    shear: float | None = None
    source = ""
    if rules.load_rule == "share of the beam's capacity":
        s = member.section
        code = code_of(joint)
        bending = code.beam_moment(steel_of(member.grade), plastic_modulus(s.d, s.b, s.tw, s.tf))
        shear = rules.load_share * 4 * bending / member.length
        source = f"{rules.load_share * 100:g} % of the uniform load that the beam carries over its span"
    else:
        row = rules.row_at(member.section.d)
        if row is not None and row.shear is not None:
            shear, source = row.shear, "the office's table by depth"
    if shear is None:
        return given, "none given"
    return Loads(shear=shear, axial=given.axial, moment=given.moment), source


def design(joint: Joint, made: Contribution, kind: Kind | None, sharing: Joint | None = None) -> Design:
    """Every limit state of a joint as made; what keeps some or all of them from being worked out is named. `sharing`
    is the joint whose bolts through the support are also this one's."""
    code = code_of(joint)
    try:
        loads, source = loads_of(joint)
    except (LookupError, JobError):
        why = f"the strength of {quoted(joint.member.grade)} is not known"
        return Design([], joint.record.loads or Loads(), "none given", code, (why,))
    if kind is None or kind.checks is None:
        return Design([], loads, source, code, ("no limit state of this kind is known",))
    if not (made.parts or made.welds or made.fasteners):
        return Design([], loads, source, code, ("the joint could not be made",))
    case = Case(joint, made, loads, code)
    try:
        case.beside = abs(loads_of(sharing)[0].shear or 0.0) if sharing is not None else 0.0
        kind.checks(case)
    except Exception as error:  # one joint that cannot be worked out must not end the rest
        why = str(error) if isinstance(error, JobError) else f"a fault of the program at {place(error)}"
        case.leave(f"what comes after {case.limits[-1].words.lower()}: {why}" if case.limits else why)
    case.leave(*missing(kind.missing, case), *_untaken(case, kind.checks))
    return Design(governing(case.limits), loads, source, code, tuple(case.unchecked))


def _untaken(case: Case, checks: Callable[[Case], None]) -> list[str]:
    """Loads of a joint that none of its limit states takes: each given alone, so that no other one hides it."""
    given = {"shear": case.shear, "axial": case.axial, "moment": case.moment}
    loaded = {name: value for name, value in given.items() if value}
    found = []
    for name, value in loaded.items():
        alone = case
        if len(loaded) > 1 or case.beside:
            alone = Case(case.joint, case.made, Loads(**{name: value}), case.code)
            try:
                checks(alone)
            except Exception:  # said of the joint under all its loads
                continue
        if not any(limit.demand for limit in alone.limits):
            words = {"shear": "shear", "axial": "tension" if value > 0 else "compression", "moment": "moment"}[name]
            found.append(f"the {words}, which no limit state of this kind takes")
    return found
