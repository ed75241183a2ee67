"""A job looked at by every rule that is on; what was said of findings before; what that comes to."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from enum import StrEnum
from types import MappingProxyType
from typing import Any, NamedTuple

import msgspec

from uncus import faults
from uncus.check.found import Found, form_of
from uncus.check.looked import Kept, Looked
from uncus.check.rule import Rule
from uncus.check.rules import RULES
from uncus.job.errors import JobError
from uncus.job.forms import checked
from uncus.job.records import CheckRules, Verdict
from uncus.steel.joint import Severity

_AT_ONCE = 64  # things that are looked at before it is asked whether to stop


class Stands(StrEnum):
    """How a finding stands."""

    OPEN = "open"
    BACK = "come back"
    ASIDE = "put aside"
    SOLVED = "solved"


class Told(msgspec.Struct, frozen=True):
    """A finding and how it stands; one that is solved is not found any more, and is what its verdict says of it."""

    found: Found
    stands: Stands
    verdict: Verdict | None = None

    @property
    def counts(self) -> bool:
        """Whether something is wrong and open."""
        return self.found.severity is Severity.WRONG and self.stands in (Stands.OPEN, Stands.BACK)


def rules_in(record: CheckRules | None) -> CheckRules:
    """Which rules a job is looked at by, with their values, whether it says so or not."""
    return record or CheckRules()


def values_of(rule: Rule, asked: CheckRules) -> Any:
    """A rule's values. Raises JobError for one it cannot have."""
    return checked(rule.values, asked.values.get(rule.name, {}))


def rules_problem(asked: CheckRules) -> str | None:
    """Why rules read from outside cannot be used, as a sentence."""
    by_name = {rule.name: rule for rule in RULES.values()}
    for name in (*asked.off, *asked.values):
        if name not in by_name:
            return f"There is no rule of checking called “{name[:40]}”; there are {', '.join(sorted(by_name))}."
    for name in asked.values:
        try:
            values_of(by_name[name], asked)
        except JobError as error:
            return f"The rule “{name}”: {error}"
    return None


Elsewhere = Mapping[str, Mapping[str, tuple[Found, ...]]]  # what was found already, by rule and thing


class Seen(NamedTuple):
    """What a look found, and the rules that were looked at to the end: of others nobody knows what is solved."""

    found: list[Found]
    rules: frozenset[str]


def look(
    looked: Looked,
    told: Callable[[int, int, str], None] = lambda *_: None,
    stopped: Callable[[], bool] = lambda: False,
    elsewhere: Elsewhere = MappingProxyType({}),
) -> Seen:
    """All that is found. `told` is called as rules come to their turn; where asked to stop, what is found by then. A
    rule that fails somewhere is one more finding there, and the rest go on. `elsewhere`: what was found at things by
    workers (`shares.py`)."""
    asked = rules_in(looked.get("check rules", CheckRules))
    on = [rule for rule in RULES.values() if rule.name not in asked.off]
    found: dict[str, Found] = {}  # what two things both say of each other is one
    settled: set[str] = set()
    for n, rule in enumerate(on):
        told(n, len(on), rule.words)
        kept, through = _looked_at(rule, looked, asked, stopped, elsewhere.get(rule.name, {}))
        found |= {f.key: f for some in kept.found.values() for f in some}
        if not through:
            return Seen(list(found.values()), frozenset(settled))
        looked.kept[rule.name] = kept
        if rule.settled(looked) and not any(f.broken for some in kept.found.values() for f in some):
            settled.add(rule.name)
    looked.settle()
    return Seen(list(found.values()), frozenset(settled))


def _looked_at(
    rule: Rule,
    looked: Looked,
    asked: CheckRules,
    stopped: Callable[[], bool],
    known: Mapping[str, tuple[Found, ...]],
) -> tuple[Kept, bool]:
    """What a rule finds, of what was not touched what it found before; and whether it came to an end."""
    before = looked.before.kept.get(rule.name) if looked.before else None
    try:
        values = values_of(rule, asked)
        key = values, looked.project, rule.state(looked) if rule.state else None
        if before is not None and before.key != key:
            before = None
        if rule.whole is not None:
            if before is None or rule.state is None:
                return Kept(key, {"": tuple(rule.whole(looked, values))}), True
            return before, True
        things = rule.over.things(looked)
        some = _asked_again(rule, looked, before) if before is not None else things.keys()
    except Exception as error:
        return Kept(None, {"": (_broken(rule, "check rules", error),)}), True
    found = {id: own for id, own in before.found.items() if id not in some} if before is not None else {}
    for n, id in enumerate(sorted(some & things.keys())):
        if n % _AT_ONCE == 0 and stopped():
            return Kept(key, found), False
        if own := known[id] if id in known else tuple(found_at(rule, looked, values, id)):
            found[id] = own
    return Kept(key, {id: found[id] for id in sorted(found)}), True


def _asked_again(rule: Rule, looked: Looked, before: Kept) -> set[str]:
    """What a rule looks at again: what was touched, and that of which it said something that is about what was."""
    edits = looked.edits
    touched = rule.over.touched(looked) | rule.also(looked)
    any_ = touched | edits.members | edits.joints | edits.shipped
    return touched | {id for id, own in before.found.items() if any(not any_.isdisjoint(f.records) for f in own)}


def found_at(rule: Rule, looked: Looked, values: Any, id: str) -> Iterable[Found]:
    try:
        return tuple(rule.each(looked, values, id)) if rule.each is not None else ()
    except JobError as error:  # of its values, and so everywhere the same
        return (_broken(rule, "check rules", error),)
    except Exception as error:
        return (_broken(rule, id, error),)


def _broken(rule: Rule, about: str, error: Exception) -> Found:
    said = isinstance(error, JobError)
    why = str(error) if said else f"a fault of the program at {faults.place(error)}; tell its makers."
    return Found(rule.name, (about,), f"The rule “{rule.words}” could not be looked at: {why}", form=form_of(why),
        broken=True)  # fmt: skip


# -- what was said of it --------------------------------------------------------------------------------------
def stand(seen: Seen, verdicts: Iterable[Verdict]) -> list[Told]:
    """Findings with what was said of them. What was put aside is open again when its form changed; what was solved and
    is there again has come back. Only what a rule that was looked at to the end does not find is solved."""
    said = {v.id: v for v in verdicts}
    told, there = [], set()
    for one in seen.found:
        verdict = said.get(one.key)
        there.add(one.key)
        told.append(Told(one, _stands(one, verdict), verdict))
    gone = [v for id, v in said.items() if id not in there and v.rule in seen.rules]
    return [*told, *(Told(Found(v.rule, v.about, v.text), Stands.SOLVED, v) for v in gone)]


def _stands(found: Found, verdict: Verdict | None) -> Stands:
    if verdict is None or verdict.stands == "seen":
        return Stands.OPEN
    if verdict.stands == "aside":
        return Stands.ASIDE if verdict.form == found.form else Stands.BACK
    return Stands.BACK


def aside(found: Iterable[Found], by: str, why: str, on: str) -> list[Verdict]:
    """Records that put findings aside. Raises JobError where it is not said by whom and why."""
    by, why = by.strip(), why.strip()
    made = [
        Verdict(id=f.key, rule=f.rule, about=f.about, text=f.text, stands="aside", by=by, why=why, on=on, form=f.form)
        for f in found
    ]
    for one in made:
        if problem := one.problem():
            raise JobError(problem)
    return made


def seen(told: Sequence[Told], on: str) -> list[Verdict]:
    """What a run keeps: what is open as seen, what is not found any more as solved; what was put aside stays so."""
    kept: list[Verdict] = []
    for one in told:
        old, f = one.verdict, one.found
        if one.stands is Stands.SOLVED and old is not None:
            if old.stands != "solved":
                kept.append(msgspec.structs.replace(old, stands="solved", on=on))
        elif one.stands is not Stands.ASIDE and (old is None or old.stands != "seen" or old.form != f.form):
            kept.append(Verdict(id=f.key, rule=f.rule, about=f.about, text=f.text, stands="seen", on=on, form=f.form))
    return kept


def alike(told: Iterable[Told]) -> list[list[Told]]:
    """What is the same put together, a row each: the gravest first, then those at most places, then by words."""
    found: dict[tuple[object, ...], list[Told]] = {}
    for one in told:
        found.setdefault((one.found.rule, one.found.text, one.found.severity, one.stands), []).append(one)
    order = list(Severity)
    return sorted(found.values(), key=lambda r: (order.index(r[0].found.severity), -len(r), r[0].found.text))


def open_first(told: Iterable[Told]) -> Iterator[Told]:
    """Those that are open or have come back."""
    return (one for one in told if one.stands in (Stands.OPEN, Stands.BACK))
