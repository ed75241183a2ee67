"""A mark for each group of same pieces: by what was typed, issued and standard, by the policy, and by its series'
numbers."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

import msgspec

from uncus.job.records import Mark, MarkRules, Series
from uncus.mark.content import mark_id, natural
from uncus.mark.groups import SAME, Group
from uncus.mark.proposal import Choices, Option, Row, State
from uncus.mark.series import letters, limits, name_of, read_mark
from uncus.units import counted

_SPARE = 20  # numbers left free when a series is moved out of another's way
_ROUND = 100  # and where it then starts: at a whole hundred


class Given(NamedTuple):
    """What a run goes by beside the groups: marks now by piece, the rules and series, contents of issued marks,
    marks of pieces that are gone by form, marks of standard parts by group, the answers, and the pieces asked for
    (None: all)."""

    marks: Mapping[tuple[bool, str], Mark]
    rules: MarkRules
    series: Sequence[Series]
    issued: Mapping[str, Collection[str]]
    gone: Mapping[str, str]
    standard: Mapping[object, str]
    choices: Choices
    only: frozenset[str] | None = None


class Settling:
    """One run over the groups of assemblies, or of parts."""

    def __init__(self, groups: Sequence[Group], given: Given) -> None:
        self.given, self.policy = given, given.rules.policy
        self.groups: list[Group] = []
        self.outside: list[Group] = []
        self.series = {s.id: s for s in given.series}
        for group in groups:
            whole = given.only is None and not group.out
            (self.groups if whole or self._inside(group) else self.outside).append(group)
        self.names: dict[int, str] = {}
        self.owner: dict[str, Group] = {}
        self.asked: dict[int, tuple[str, tuple[Option, ...]]] = {}
        self.limits = limits(given.series)

    # -- what is asked of a group -----------------------------------------------------------------------
    def _series(self, group: Group) -> Series:
        """A group's series as the answers leave it."""
        return self.series.get(group.series.id, group.series)

    def _inside(self, group: Group) -> list[str]:
        """The pieces of a group that this run marks."""
        out, only = group.out, self.given.only
        if only is None and not out:
            return list(group.pieces)
        return [p for p in group.pieces if p not in out and (only is None or p in only)]

    def _answer(self, group: Group) -> str | None:
        given = self.given.choices.given
        if not given:
            return None
        return next((given[id] for p in group.pieces if (id := mark_id(p, group.is_part)) in given), None)

    # -- the run ----------------------------------------------------------------------------------------
    def rows(self) -> list[Row]:
        for group in self.outside:
            for name in group.held:
                self.owner.setdefault(name, group)
        self._fixed()
        if self.policy != "loose":
            self._kept()
        elif self.given.only is not None:
            self._joined_with_outside()
        self._numbered()
        found = [row for group in self.groups for row in self._rows(group)]
        left = [(g, p) for g in (*self.groups, *self.outside) for p in g.out]
        return found + [self._left_out(g, p) for g, p in left if self.given.only is None or p in self.given.only]

    def _take(self, group: Group, name: str) -> bool:
        """Give a group a mark that no other has."""
        if self.owner.setdefault(name, group) is not group:
            return False
        self.names[id(group)] = name
        return True

    def _ask(self, group: Group, why: str, *options: Option) -> None:
        self.asked.setdefault(id(group), (why, options))

    def _keeping(self, group: Group, words: str, name: str) -> Option:
        return Option(words, Choices({mark_id(p, group.is_part): name for p in group.pieces}))

    # -- marks that are fixed -----------------------------------------------------------------------------
    def _fixed(self) -> None:
        """Typed, answered, issued and standard marks, in this order of strength."""
        for group in self.groups:
            typed, answer = sorted(group.typed, key=natural), self._answer(group)
            if answer:
                if not self._take(group, answer):
                    self._clash(group, answer)
            elif typed and answer is None:
                if len(typed) > 1:
                    options = [self._keeping(group, f"all {name}", name) for name in typed]
                    self._ask(group, f"typed {' and '.join(typed)} on pieces that are the same", *options)
                if (holder := self._frozen_on(group, typed[0])) is not None:
                    self._take(holder, typed[0])
                if not self._take(group, typed[0]):
                    self._clash(group, typed[0])
        for group in self.groups:
            if id(group) not in self.names and self._answer(group) is None:
                self._issued(group)
        for group in self.groups:
            name = self.given.standard.get(group.key, "") if group.is_part else ""
            if name and id(group) not in self.names and id(group) not in self.asked and not self._take(group, name):
                self._clash(group, name)

    def _frozen_on(self, group: Group, name: str) -> Group | None:
        """Others that have a mark, as they were when they got it, where marks do not change hands; None where none
        has."""
        if self.policy != "frozen":
            return None
        there = (g for g in self.groups if g is not group and g.held[name] >= SAME and name not in g.typed)
        return next(there, None)

    def _clash(self, group: Group, name: str) -> None:
        other = self.owner[name]
        swap = {
            **{mark_id(p, group.is_part): name for p in group.pieces},
            **{mark_id(p, group.is_part): "" for p in other.pieces},
        }
        self._ask(
            group,
            f"{name} is the mark of {counted(len(other.pieces), 'other piece')} that differ",
            self._keeping(group, "a new mark for these", ""),
            Option(f"{name} for these, a new mark for the others", Choices(swap)),
        )

    def _issued(self, group: Group) -> None:
        held = group.held
        for name in sorted(held, key=lambda n: (-held[n], natural(n))):
            contents = self.given.issued.get(name)
            if contents is None:
                continue
            if any(content in contents for content in group.pieces.values()) or (not contents and held[name] >= SAME):
                if self._take(group, name):
                    return
            elif id(group) not in self.names:
                free = not any(g is not group and name in g.held for g in self.groups)
                keep = [self._keeping(group, f"keep {name}, to be issued again", name)] if free else []
                self._ask(group, f"{name} was issued and these changed since", self._keeping(group, "a new mark", ""),
                    *keep)  # fmt: skip

    # -- marks that are kept ------------------------------------------------------------------------------
    def _kept(self) -> None:
        """Firm and frozen: a mark stays with pieces that are as they were, then with the most of them; of a piece drawn
        anew it comes back."""
        claims = []
        for index, group in enumerate(self.groups):
            if id(group) in self.names or id(group) in self.asked or self._answer(group) == "":
                continue
            for name, weight in group.held.items():
                claims.append((-weight, natural(name), index, name))
            gone = self.given.gone
            back = {gone[group.form]} if gone and group.fresh and group.form in gone else set()
            claims += [(-1, natural(name), index, name) for name in back]
        for weight, _, index, name in sorted(claims):
            group = self.groups[index]
            if id(group) in self.names or id(group) in self.asked or (name in self.given.issued and -weight < SAME):
                continue
            changed = -weight < SAME and bool(group.held.get(name))
            if name not in self.owner and changed and self.policy == "frozen":
                self._ask(group, f"{name} is frozen and these changed since", self._keeping(group, "a new mark", ""),
                    self._keeping(group, f"keep {name}", name))  # fmt: skip
                self.owner[name] = group
            elif name not in self.owner and read_mark(self._series(group), name):
                self._take(group, name)

    def _joined_with_outside(self) -> None:
        """Of a run over some pieces: the same pieces outside it give theirs their mark."""
        for group in self.groups:
            inside = set(self._inside(group))
            there = {
                m.mark
                for p in group.pieces
                if p not in inside and (m := self.given.marks.get((group.is_part, p))) and m.mark
            }
            if there and id(group) not in self.names:
                self._take(group, min(there, key=natural))

    # -- marks that are numbered --------------------------------------------------------------------------
    def _numbered(self) -> None:
        by_series: dict[str, list[Group]] = defaultdict(list)
        for group in self.groups:
            if id(group) not in self.names and id(group) not in self.asked:
                by_series[group.series.id].append(group)
        for series_id in sorted(by_series):
            self._number(by_series[series_id])

    def _number(self, groups: list[Group]) -> None:
        series = self._series(groups[0])
        families = self.given.rules.families != "none"
        alike = [g for g in self.groups if g.series.prefix == series.prefix]
        numbers: dict[tuple[object, ...], int] = {}
        suffixes: dict[int, set[str]] = defaultdict(set)
        taken: set[int] = set()
        for name in (*self.owner, *self.given.issued, *(self.given.gone.values() if self.policy != "loose" else ())):
            if read := read_mark(series, name):
                taken.add(read[0])
                suffixes[read[0]].add(read[1])
        if families:
            for group in alike:
                if (name := self.names.get(id(group))) and (read := read_mark(series, name)):
                    numbers.setdefault(group.family, read[0])
        number = series.start
        if taken and (self.policy == "frozen" or (self.policy == "firm" and not self.given.rules.refill)):
            number = max(number, max(taken) + series.step)
        last, after = self.limits.get(series.id, (None, None))
        for group in groups:
            own = numbers.get(group.family) if families else None
            if own is None:
                while number in taken:
                    number += series.step
                own = number
                taken.add(own)
                numbers[group.family] = own
            suffix = ""
            if families:
                suffix = next(s for n in range(10_000) if (s := letters(n)) not in suffixes[own])
                suffixes[own].add(suffix)
            if last is not None and own > last:
                self._over(group, series, last, after, own)
            else:
                self._take(group, name_of(series, own, suffix))

    def _over(self, group: Group, series: Series, last: int, after: Series | None, number: int) -> None:
        """A series that runs into the next, or past its last number."""
        if after is None:
            end = number + _SPARE * series.step
            longer = Option(f"let it run on to {name_of(series, end)}", Choices({}, {f"{series.id} last": end}))
            self._ask(group, f"{name_of(series, last)} is the last of its series and there are more pieces", longer)
            return
        room = series.start + (self._count_of(series) + _SPARE) * series.step
        start = (room // _ROUND + 1) * _ROUND
        shift = Option(f"start the later series at {name_of(after, start)}", Choices({}, {after.id: start}))
        beyond = name_of(series, after.start + (self._count_of(after) + _SPARE) * after.step + number - last)
        why = f"{name_of(series, last)} is the last before the series that starts at {name_of(after, after.start)}"
        self._ask(group, why, shift, self._keeping(group, f"{beyond} for these, past the later series", beyond))

    def _count_of(self, series: Series) -> int:
        return sum(1 for g in self.groups if g.series.id == series.id)

    # -- rows ---------------------------------------------------------------------------------------------
    def _rows(self, group: Group) -> list[Row]:
        asked, name = self.asked.get(id(group)), self.names.get(id(group), "")
        known = (name, self.policy, self.given.only)
        if asked is None and group.rows is not None and group.rows[0] == known:
            return group.rows[1]
        pieces = self._inside(group)
        if asked is not None:
            before = tuple(sorted(group.held, key=natural))
            return [self._row(group, before[0] if before else "", State.CONFLICT, pieces, before, *asked)]
        group.rows = known, self._named_rows(group, name, pieces)
        return group.rows[1]

    def _named_rows(self, group: Group, name: str, pieces: list[str]) -> list[Row]:
        rows = []
        if self.policy == "frozen" and len(group.held) > 1:  # what became the same keeps the marks it went out with
            marks, part = self.given.marks, group.is_part
            for other in sorted(group.held, key=natural):
                own = [p for p in pieces if (m := marks.get((part, p))) and m.mark == other
                    and m.content == group.pieces[p]]  # fmt: skip
                if other != name and own and self.owner.get(other, group) is group:
                    rows.append(self._row(group, other, State.KEPT, own, (), "the same as others by now; frozen"))
                    pieces = [p for p in pieces if p not in own]
        if not pieces:
            return rows
        whole = len(pieces) == len(group.pieces)
        inside = set() if whole else set(pieces)
        held = group.held if whole else {m.mark for p in pieces if (m := self.given.marks.get((group.is_part, p)))}
        before = tuple(sorted(set(held) - {name}, key=natural))
        fresh, changed = (len(s if whole else s & inside) for s in (group.fresh, group.changed))
        if not fresh and not before:
            state, why = State.KEPT, "changed since marked, still the only one of its kind" if changed else ""
        elif before:
            state, why = State.MOVED, f"{counted(changed, 'piece')} changed" if changed else "numbered anew"
        else:
            state, why = State.NEW, f"{fresh} more of it" if fresh < len(pieces) else f"{fresh} not marked yet"
        if group.wide:
            far = f"two of them are more than {2 * self.given.rules.tolerance:g} mm apart, by steps of less"
            why = f"{why}; {far}" if why else far
        return [*rows, self._row(group, name, state, pieces, before, why)]

    def _row(self, group: Group, name: str, state: State, pieces: Sequence[str], before: tuple[str, ...], why: str,
        options: tuple[Option, ...] = ()) -> Row:  # fmt: skip
        ordered = tuple(sorted(pieces))  # not as they came into the group
        contents = tuple(group.pieces[p] for p in ordered)
        form = group.form if self.policy != "loose" else ""
        return Row(name, state, group.is_part, ordered, before, why, contents, form, options)

    def _left_out(self, group: Group, piece: str) -> Row:
        return Row("", State.LEFT_OUT, group.is_part, (piece,), (), "left out by hand", (group.pieces[piece],))


def shifted(series: Sequence[Series], choices: Choices) -> list[Series]:
    """Series with the starts and ends that the answers give them."""
    out = []
    for one in series:
        start = choices.starts.get(one.id, one.start)
        last = choices.starts.get(f"{one.id} last", one.last)
        out.append(
            one if (start, last) == (one.start, one.last) else msgspec.structs.replace(one, start=start, last=last)
        )
    return out
