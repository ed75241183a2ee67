"""Marking a job as it changes: pieces stay sorted, so that after an edit only what it touched is compared again."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable

from uncus.job.job import Delta, Job
from uncus.job.records import Both, IssuedMark, Lens, Mark, MarkRules, Project, Series, StandardPart
from uncus.lens.criteria import passes, reads
from uncus.mark.content import natural
from uncus.mark.groups import Groups
from uncus.mark.proposal import Choices, Proposal, Row
from uncus.mark.sameness import maps
from uncus.mark.series import Lets
from uncus.mark.settling import Given, Settling, shifted
from uncus.mark.standards import readable
from uncus.shop.pieces import Assembly, Touched
from uncus.shop.shop import Shop

_ANEW = (
    Series,
    MarkRules,
    Lens,
    Project,
)  # records whose change sorts everything again, and those that series' lenses read


class Marker:
    """Feed `follow` every delta with what the shop rebuilt; ask for a `proposal` at any time: the job is not
    touched."""

    def __init__(self, job: Job, shop: Shop) -> None:
        self.job, self.shop = job, shop
        self._sort()

    def _sort(self) -> None:
        asked = [s.members for s in self.job.all(Series) if s.members != Both()]
        self._lensed = bool(asked)
        self._anew = (*_ANEW, *frozenset().union(*map(reads, asked)))
        self._standard: dict[object, str] = {}
        self.groups = Groups(self.job.mark_rules, self.job.all(Series), self._lets(), self.job.all(Mark))
        for assembly in self.shop.shipped.values():
            self.groups.put(assembly)
        self.groups.settle()
        self._match_standards()

    def _lets(self) -> Lets:
        tests: dict[str, Callable[[Assembly], bool]] = {}

        def lets(series: Series, assembly: Assembly) -> bool:
            if series.members == Both():
                return True
            if series.id not in tests:
                tests[series.id] = passes(series.members, self.job, self.shop, before=(Mark,))
            return tests[series.id](assembly)

        return lets

    # -- following ----------------------------------------------------------------------------------------
    def follow(self, delta: Delta, touched: Touched) -> None:
        """Take a change in."""
        records = [r for e in delta.edits for r in (e.before, e.after) if r is not None]
        if any(isinstance(r, self._anew) for r in records):
            self._sort()
            return
        if self._lensed:
            self.groups.lets = self._lets()
        for id in touched.withdrawn | touched.shipped:  # all out first: a part may go from one piece to another
            self.groups.drop(id)
        for id in touched.shipped:
            self.groups.put(self.shop.shipped[id])
        again: set[str | None] = set()
        for edit in delta.edits:
            mark = edit.after or edit.before
            if isinstance(mark, Mark):
                again.add(
                    self.groups.remark((mark.part, mark.piece), edit.after if isinstance(edit.after, Mark) else None)
                )
        for again_id in filter(None, again):
            if again_id in self.shop.shipped:
                self.groups.put(self.shop.shipped[again_id])
        self.groups.settle()
        if any(isinstance(r, StandardPart) for r in records) or touched.any:
            self._match_standards()

    def _match_standards(self) -> None:
        """Marks of standard parts for the groups that are the same as one."""
        standards = [(one.mark, part) for one in self.job.all(StandardPart) if (part := readable(one)) is not None]
        parts = [g for g in self.groups.all.values() if g.is_part] if standards else []
        alike = self.groups.alike
        self._standard = {g.key: next((m for m, part in standards if maps(g.part, part, alike)), "") for g in parts}

    # -- proposing ----------------------------------------------------------------------------------------
    def proposal(self, choices: Choices = Choices(), only: frozenset[str] | None = None) -> Proposal:
        """What a run would do with the answers given so far; `only`: over these assemblies and their parts alone."""
        rules = self.job.mark_rules
        series = shifted(self.groups.series, choices)
        rows: list[Row] = []
        marks = self.groups.marks
        away = marks.keys() - self.groups.of.keys()
        for part in (False, True):
            issued: dict[str, set[str]] = defaultdict(set)
            for one in self.job.all(IssuedMark):
                if one.part == part:
                    issued[one.mark].update(one.contents)
            gone = {m.form: m.mark for at in away if at[0] == part and (m := marks[at]).mark and m.form}
            inside = (
                None
                if only is None
                else (only if not part else frozenset(p for p, o in self.groups.owner.items() if o in only))
            )
            given = Given(marks, rules, series, issued, gone, self._standard, choices, inside)
            rows += Settling(self.groups.kinds(part), given).rows()
        shifts = tuple(s for s in series if s not in self.groups.series)
        ordered = tuple(sorted(rows, key=lambda r: (r.part, natural(r.mark))))
        return Proposal(ordered, shifts, rules.policy != "loose", only)
