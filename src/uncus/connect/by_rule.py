"""Connecting by rule: each free end gets the kind that the first of the office's rules which fits it says."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Any

import msgspec

from uncus.connect.attachments.kinds import ATTACHMENTS
from uncus.connect.kind import Body, Joint
from uncus.connect.kinds import KINDS, also_served
from uncus.connect.situation import Holding, Standing, Surroundings, near_pairs
from uncus.job.job import Job
from uncus.job.records import (
    Attachment,
    Both,
    Connection,
    Either,
    End,
    Fact,
    Member,
    Not,
    OfficeRule,
    Role,
    Rule,
    derived_id,
)
from uncus.steel.joint import Contribution, Severity

ENDS = ("both", "left", "right", "lower", "upper")
HOLDING = ("anything", *Holding)
Meets = Callable[[Rule], Callable[[str], bool]]  # a lens's rule on members by id


class Line(msgspec.Struct, frozen=True):
    """One end in the report, or a crossing along a member (`end` None): what became of it and why. `id` is the
    connection's or attachment's where there is one."""

    member: str
    end: End | None
    state: str
    why: str
    id: str = ""


DONE, LOOK, SKIPPED, FAILED = "done", "done, look", "skipped", "failed"


class Report(msgspec.Struct, frozen=True):
    """What a run would make, and a line for every end it looked at."""

    made: tuple[Connection, ...]
    lines: tuple[Line, ...]
    fixed: tuple[Attachment, ...] = ()

    @property
    def records(self) -> tuple[Connection | Attachment, ...]:
        return (*self.made, *self.fixed)

    def of(self, state: str) -> list[Line]:
        return [line for line in self.lines if line.state == state]

    @property
    def words(self) -> str:
        counts = [(len(self.of(s)), s) for s in (DONE, LOOK, SKIPPED, FAILED)]
        return ", ".join(f"{n:,} {s.replace(', ', ' to ')}" for n, s in counts if n) or "no free ends"


def _rule(name: str, kind: str, holding: str, members: Rule | None = None, **params: Any) -> OfficeRule:
    return OfficeRule(order=0, name=name, kind=kind, holding=holding, params=params, members=members or Both())


_TUBES = Either((Fact("shape", "is", "tube"), Fact("shape", "is", "round tube")))
_UPRIGHT = Either((Fact("role", "is", "column"), Fact("role", "is", "post")))
_BRACES = Fact("role", "is", "brace")
_RAFTERS = Fact("role", "is", "rafter")

USUAL: tuple[OfficeRule, ...] = tuple(
    msgspec.structs.replace(rule, id=f"rule {n}", order=n)
    for n, rule in enumerate(
        (
            _rule("Column bases", "base plate", Holding.GROUND),
            _rule("Webs of trusses", "welded end", Holding.CHORD),
            _rule("Columns in line", "column splice", Holding.COLUMN_ON),
            _rule("Beams over columns", "cap plate", Holding.OVER),
            _rule("Braces at beam and column", "corner gusset", Holding.CORNER, _BRACES),
            _rule("Braces at column bases", "base gusset", Holding.FOOT, _BRACES),
            _rule("Pairs of braces at beams", "chevron gusset", Holding.MATE, _BRACES),
            _rule("Braces that cross", "crossing gusset", Holding.CROSSING, _BRACES),
            _rule("Braces back to back", "crossing bolts", Holding.PASSING, _BRACES),
            _rule("Braces in plan", "plan gusset", Holding.PLAN, _BRACES),
            _rule("Braces in line", "brace splice", Holding.BRACE_ON, _BRACES),
            _rule("Other braces", "side gusset", "anything", _BRACES),
            _rule("Beams at plates in walls", "double angle", Holding.EMBED, Not(_BRACES),
                to_beam="welded", to_support="welded"),
            _rule("Beams in line", "beam splice", Holding.BEAM_ON),
            _rule("Rafters at the ridge", "apex", Holding.RIDGE),
            _rule("Lengths at an angle", "mitred ends", Holding.BENT),
            _rule("Rafters on columns", "knee", Holding.TOP, _RAFTERS),
            _rule("Tubes", "end tee", "anything", _TUBES),
            _rule("Beams", "shear tab", "anything", Not(_UPRIGHT)),
        ),
        1,
    )
)  # fmt: skip


def rules_of(job: Job) -> list[OfficeRule]:
    """The job's own rules in order; those the office would start from where it has none."""
    return sorted(job.all(OfficeRule) or USUAL, key=lambda rule: rule.order)


class Run:
    """One run of rules over ends."""

    def __init__(
        self,
        job: Job,
        joint_of: Callable[[Connection], Joint | None],
        build: Callable[[Joint], Contribution],
        meets: Meets,
        body_of: Callable[[str], Body | None],
        attach: Callable[[Attachment], Contribution],
    ) -> None:
        self.job, self.joint_of, self.build, self.body_of, self.attach = job, joint_of, build, body_of, attach
        self.rules = [(rule, meets(rule.members)) for rule in rules_of(job)]
        self.around = Surroundings(job.all(Member))
        self.taken: dict[tuple[str, End], Connection] = {(c.member, c.end): c for c in job.all(Connection)}
        for c in job.all(Connection):
            self._take_served(c)
        self.made: list[Connection] = []
        self.fixed: list[Attachment] = []
        self.lines: list[Line] = []

    def over(self, ids: Iterable[str], redo: bool) -> Report:
        wanted = set(ids)
        braces_last = sorted(self.job.all(Member), key=lambda m: m.role is Role.BRACE)  # they stand on others' joints
        for member in braces_last:
            if member.id in wanted:
                for end in End:
                    self._end(member, end, redo)
        self._crossings(wanted, redo)
        return Report(tuple(self.made), tuple(self.lines), tuple(self.fixed))

    def _crossings(self, wanted: set[str], redo: bool) -> None:
        """What members have between them where they pass back to back."""
        rules = [(r, fits) for r, fits in self.rules if r.holding == Holding.PASSING and r.kind in ATTACHMENTS]
        if not rules:
            return
        held = {frozenset(a.members): a for a in self.job.all(Attachment) if a.mate}
        bodies = [b for m in self.job.all(Member) if any(f(m.id) for _, f in rules) and (b := self.body_of(m.id))]
        for one, other in near_pairs(bodies):
            before = held.get(frozenset((one.id, other.id)))
            if not wanted.intersection((one.id, other.id)) or (before and (before.locked or not redo)):
                continue
            for rule, fits in rules:
                crosses = ATTACHMENTS[rule.kind].crosses
                if crosses and fits(one.id) and fits(other.id) and crosses(one, other):
                    self._fix(one, other, rule, before)
                    break

    def _fix(self, one: Body, other: Body, rule: OfficeRule, before: Attachment | None) -> None:
        id = before.id if before else derived_id("crossing", one.id, other.id)
        record = Attachment(id=id, kind=rule.kind, member=one.id, mate=other.id, params=rule.params)
        found = self.attach(record).findings
        self.fixed.append(record)
        self.lines.append(Line(one.id, None, LOOK if found else DONE, found[0].text if found else rule.name, record.id))

    def _say(self, member: Member, end: End, state: str, why: str, id: str = "") -> None:
        self.lines.append(Line(member.id, end, state, why, id))

    def _end(self, member: Member, end: End, redo: bool) -> None:
        before = self.taken.get((member.id, end))
        if before is not None and before.kind != "setback" and (before.locked or not redo or before in self.made):
            if redo and before.locked:
                self._say(member, end, SKIPPED, "its joint is locked", before.id)
            return
        standing = self.around.standing(member, end)
        if standing is None:
            return
        if isinstance(standing, str):
            self._say(member, end, SKIPPED, standing)
            return
        fitting = [
            (rule, taken)
            for rule, fits in self.rules
            if self._fits(rule, member, end) and (taken := standing.as_(rule.holding)) and fits(member.id)
        ]
        if not fitting:
            self._say(member, end, SKIPPED, f"no rule of the office says how it goes to {standing.holding}")
            return
        self._make(member, end, fitting, before)

    def _fits(self, rule: OfficeRule, member: Member, end: End) -> bool:
        if rule.kind not in KINDS:
            return False
        here, there = (member.start, member.end) if end is End.LEFT else (member.end, member.start)
        return {
            "both": True,
            "left": end is End.LEFT,
            "right": end is End.RIGHT,
            "lower": here[2] < there[2] - 1.0,
            "upper": here[2] > there[2] + 1.0,
        }.get(rule.ends, True)

    def _make(
        self, member: Member, end: End, rules: Sequence[tuple[OfficeRule, Standing]], before: Connection | None
    ) -> None:
        """The first rule whose joint can be made without anything wrong; else the first that can be made at all."""
        second: tuple[Connection, str] | None = None
        why = ""
        for rule, standing in rules:
            record = Connection(
                id=derived_id("connection", member.id, end),
                kind=rule.kind,
                member=member.id,
                end=end,
                support=standing.support,
                others=standing.others,
                params=rule.params,
                loads=before.loads if before else None,
            )
            joint = self.joint_of(record)
            if joint is None:
                continue
            held = {standing.support, *standing.others}
            under = tuple(
                c for m in sorted(filter(None, held)) for e in End if (c := self.taken.get((m, e))) and c.member == m
            )
            made = self.build(msgspec.structs.replace(joint, under=under))
            wrong = [f.text for f in made.findings if f.severity is Severity.WRONG]
            if (made.parts or made.cuts) and not wrong:
                looks = [f.text for f in made.findings]
                self._keep(record, LOOK if looks else DONE, looks[0] if looks else rule.name)
                return
            why = why or (wrong[0] if wrong else f"the {rule.kind} makes nothing here")
            if second is None and (made.parts or made.cuts):
                second = record, wrong[0]
        if second is not None:
            self._keep(second[0], LOOK, second[1])
        else:
            self._say(member, end, FAILED, why)

    def _keep(self, record: Connection, state: str, why: str) -> None:
        self.made.append(record)
        self.taken[(record.member, record.end)] = record
        self.lines.append(Line(record.member, record.end, state, why, record.id))
        self._take_served(record)

    def _take_served(self, record: Connection) -> None:
        """The ends of other members that the same joint serves, such as the other side of a splice."""
        member = self.job.get(record.member, Member)
        for id in also_served(record):
            mate = self.job.get(id, Member)
            if member is None or mate is None:
                continue
            here = member.start if record.end is End.LEFT else member.end
            near = sum((a - b) ** 2 for a, b in zip(mate.start, here, strict=True))
            far = sum((a - b) ** 2 for a, b in zip(mate.end, here, strict=True))
            self.taken[(mate.id, End.LEFT if near < far else End.RIGHT)] = record


def setbacks(job: Job, ids: Iterable[str], gap: float) -> Report:
    """A setback for every free end of members that something holds: what an advance bill is made from."""
    wanted, around = set(ids), Surroundings(job.all(Member))
    taken = {(c.member, c.end) for c in job.all(Connection) if c.kind != "setback"}
    made: list[Connection] = []
    lines: list[Line] = []
    for member in job.all(Member):
        for end in End:
            if member.id not in wanted or (member.id, end) in taken:
                continue
            standing = around.standing(member, end)
            if isinstance(standing, str):
                lines.append(Line(member.id, end, SKIPPED, standing))
                continue
            if standing is None or standing.support is None or standing.holding in (Holding.COLUMN_ON, Holding.BEAM_ON):
                continue
            id = derived_id("connection", member.id, end)
            record = Connection(id=id, kind="setback", member=member.id, end=end, support=standing.support,
                params={"gap": gap})  # fmt: skip
            made.append(record)
            lines.append(Line(member.id, end, DONE, f"held by {standing.holding}", id))
    return Report(tuple(made), tuple(lines))
