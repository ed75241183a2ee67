"""A joint's strength: its loads, given or by the office's rule, and every limit state of its kind."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from uncus.connect.kind import Joint
from uncus.connect.strength import axial, base, moment, shear
from uncus.connect.strength.aisc import Aisc, plastic_modulus
from uncus.connect.strength.case import Case, steel_of
from uncus.connect.strength.code import Code
from uncus.connect.strength.eurocode import Eurocode
from uncus.connect.strength.limit import Limit, governing
from uncus.job.records import STANDARDS, Loads
from uncus.steel.joint import Contribution

NEAR = 0.9  # of its capacity: a limit that is nearly used up

CHECKS: dict[str, Callable[[Case], None]] = {
    "shear tab": shear.shear_tab,
    "double angle": shear.double_angle,
    "shear end plate": shear.end_plate,
    "seat": shear.seat,
    "through plate": shear.through_plate,
    "end tee": shear.end_tee,
    "moment end plate": moment.moment_end_plate,
    "flange plates": moment.flange_plates,
    "welded moment": moment.welded_moment,
    "column splice": moment.splice,
    "beam splice": moment.splice,
    "knee": moment.plates_in_line,
    "apex": moment.plates_in_line,
    "corner gusset": axial.gusset,
    "gusset and tab": axial.gusset_and_tab,
    "side gusset": axial.gusset,
    "chevron gusset": axial.chevron,
    "base gusset": axial.gusset,
    "brace splice": axial.brace_splice,
    "welded end": axial.welded_end,
    "base plate": base.base_plate,
    "cap plate": base.cap_plate,
}


class Design(NamedTuple):
    """A joint's limits, the most used first; the loads, where they came from, and the standard."""

    limits: list[Limit]
    loads: Loads
    source: str
    code: Code

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


def design(joint: Joint, made: Contribution) -> Design:
    """Every limit state of a joint as made. A joint that could not be made has none.

    Raises KeyError or LookupError where the joint lacks what its kind is checked by, such as a grade not known.
    """
    code = code_of(joint)
    loads, source = loads_of(joint)
    check = CHECKS.get(joint.record.kind)
    if check is None or not made.parts:
        return Design([], loads, source, code)
    case = Case(joint, made, loads, code)
    check(case)
    return Design(governing(case.limits), loads, source, code)
