"""Pieces sorted into groups of same ones, kept up to date with what a change touched."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from functools import partial
from itertools import groupby
from operator import attrgetter

import msgspec

from uncus.job.records import Mark, MarkRules, Series
from uncus.mark.canonical import assembly_form, assembly_reading, part_form, part_order, part_reading
from uncus.mark.clusters import AssemblyClusters
from uncus.mark.content import part_content
from uncus.mark.proposal import Row
from uncus.mark.sameness import Alike
from uncus.mark.series import Lets, series_for
from uncus.shop.pieces import Assembly
from uncus.steel.features import Hole
from uncus.steel.part import Part

Key = tuple[object, ...]


def alike_by(rules: MarkRules) -> Alike:
    """The rules of marks that ask what makes two pieces the same, by their own names; `mm` is the tolerance."""
    own = {name: getattr(rules, name) for name in Alike.__struct_fields__ if name != "mm"}
    return Alike(mm=rules.tolerance, **own)


SAME = 1000  # a claim of a piece that is as it was when it got its mark, against one that has changed


class Group:
    """Same pieces within one series: `pieces` with the fingerprint of each. `part` is one of them (an assembly's main
    one).

    What the pieces' marks say is counted as they come and go: marks `held` and how strongly, marks `typed`, pieces
    left `out`, `fresh` ones without a mark, those `changed` since they were marked. `rows` are kept by the settling
    until then. `wide`: two of them are further apart than twice the tolerance, by steps of less.
    """

    __slots__ = ("_detail", "_form", "assemblies", "changed", "family", "fresh", "held", "is_part", "key", "out",
        "part", "pieces", "rows", "series", "size", "typed", "wide")  # fmt: skip

    def __init__(self, key: Key, series: Series, part: Part, is_part: bool, families: str) -> None:
        self.key, self.series, self.part, self.is_part = key, series, part, is_part
        self.pieces: dict[str, str] = {}
        self.held: Counter[str] = Counter()
        self.typed: Counter[str] = Counter()
        self.out: set[str] = set()
        self.fresh: set[str] = set()
        self.changed: set[str] = set()
        self.size = part_order(part)
        self.family: tuple[object, ...] = family_of(part, families) if families != "none" else (key,)
        self._detail: tuple[object, ...] | None = None
        self._form = ""
        self.assemblies: dict[str, Assembly] = {}
        self.wide = False
        self.rows: tuple[tuple[object, ...], list[Row]] | None = None

    def join(self, piece: str, content: str, mark: Mark | None) -> None:
        self.pieces[piece], self._form = content, ""
        self._count(piece, mark, 1)

    def leave(self, piece: str, mark: Mark | None) -> None:
        self._count(piece, mark, -1)
        del self.pieces[piece]
        self.assemblies.pop(piece, None)
        self._form = ""

    def remark(self, piece: str, before: Mark | None, after: Mark | None) -> None:
        self._count(piece, before, -1)
        self._count(piece, after, 1)

    def _count(self, piece: str, mark: Mark | None, sign: int) -> None:
        self.rows = None
        same = mark is not None and mark.content == self.pieces[piece]
        if mark is None or mark.how == "left out":
            aside = self.fresh if mark is None else self.out
            (aside.add if sign > 0 else aside.discard)(piece)
            return
        _add(self.held, mark.mark, sign * (SAME if same else 1))
        if mark.how == "typed":
            _add(self.typed, mark.mark, sign)
        if not same:
            (self.changed.add if sign > 0 else self.changed.discard)(piece)

    @property
    def form(self) -> str:
        """The fingerprint of their common form, whichever way each was drawn."""
        if not self._form:
            first = self._first
            self._form = assembly_form(first) if first else part_form(self.part)
        return self._form

    @property
    def _first(self) -> Assembly | None:
        """The same of its assemblies, whichever came first."""
        id = min(self.assemblies, key=lambda id: (self.pieces[id], id), default="")
        return self.assemblies.get(id)

    @property
    def detail(self) -> tuple[object, ...]:
        """Where its number comes among those of its size: as a person could tell the pieces apart. A fingerprint
        decides only between those that read the same."""
        content = min(self.pieces.values())
        if self._detail is None or self._detail[-2] != content:
            first = self._first
            fixed = (assembly_reading(first), *_fixing(first)) if first else ()
            self._detail = part_reading(self.part), fixed, content, str(self.key[2:])
        return self._detail


_size, _detail = attrgetter("size"), attrgetter("detail")


def _fixing(assembly: Assembly) -> tuple[object, ...]:
    """What fixes the pieces of an assembly, in values that can be ordered."""
    welds, bolts = assembly.shop_welds, assembly.shop_bolts
    sizes = sorted((round(w.size, 1), str(w.sides), w.around) for own in welds.values() for w in own)
    return sizes, sorted(str(own) for own in bolts.values())


def _add(counter: Counter[str], name: str, weight: int) -> None:
    counter[name] += weight
    if not counter[name]:
        del counter[name]


def family_of(part: Part, families: str) -> tuple[object, ...]:
    """What the pieces of a family have in common."""
    section = part.section.name if part.section else f"PL{part.thickness:.2f}"
    length = () if "length" in families else (round(part.length),)
    holes = [f for f in part.features if isinstance(f, Hole)]
    bored = () if "holes" in families else (len(holes), tuple(sorted({round(h.d, 1) for h in holes})))
    return (section, part.grade, length, bored)


def _is_old(mark: Mark) -> bool:
    return bool(mark.mark) and not mark.content


class Groups:
    """All pieces in groups, assemblies and parts apart. Feed `put` every assembly that was built anew, `drop` those
    gone, and `settle` before the groups are read."""

    def __init__(self, rules: MarkRules, series: Iterable[Series], lets: Lets, marks: Iterable[Mark]) -> None:
        self.rules, self.lets = rules, lets
        self.marks = {(m.part, m.piece): m for m in marks}
        self.series = sorted(series, key=lambda s: (s.order, s.start))
        self.alike = alike_by(rules)
        self._clusters = AssemblyClusters(self.alike)
        self.all: dict[Key, Group] = {}
        self.of: dict[tuple[bool, str], Group] = {}
        self._pieces: dict[str, tuple[Assembly, Series]] = {}
        self.owner: dict[str, str] = {}  # the assembly of each part

    def drop(self, id: str) -> None:
        if id not in self._pieces:
            return
        assembly, _ = self._pieces.pop(id)
        self._clusters.drop(id)
        for piece in assembly.pieces:
            self._leave((True, piece.id))
            self.owner.pop(piece.id, None)
        self._leave((False, id))

    def _leave(self, at: tuple[bool, str]) -> None:
        group = self.of.pop(at, None)
        if group is None:
            return
        group.leave(at[1], self.marks.get(at))
        if not group.pieces:
            del self.all[group.key]

    def put(self, assembly: Assembly) -> None:
        self.drop(assembly.id)
        own = series_for(self.series, assembly, None, self.lets)
        self._clusters.put(assembly, own.id)
        self._pieces[assembly.id] = assembly, own
        self.owner |= {p.id: assembly.id for p in assembly.pieces}

    def settle(self) -> None:
        """Put every piece that was built, or whose cluster is another now, into its group."""
        for id in sorted(self._clusters.settle()):
            self._enter(*self._pieces[id])

    def _enter(self, assembly: Assembly, own: Series) -> None:
        clusters, id = self._clusters, assembly.id
        lead, head = clusters.of(id)
        content = clusters.content(id)
        form = partial(assembly_form, assembly)
        if assembly.is_bought:  # it is one thing, and has the mark of its part
            self._leave((False, id))
        else:
            self._join((False, lead, own.id, head), own, clusters.main(id), id, content, form)
            self.of[(False, id)].assemblies[id] = assembly
        for piece in assembly.pieces:
            of_part = series_for(self.series, assembly, piece, self.lets)
            lead, _ = clusters.parts.of(piece.part)
            lot, words = assembly.member.lot if self.rules.lot else "", piece.words if self.rules.names else ""
            if piece.part.item is not None:  # one line for the buyer, wherever it goes and whatever it is called there
                lot = words = ""
            content = part_content(piece.part)
            form = partial(part_form, piece.part)
            self._join(
                (True, lead, of_part.id, lot, words), of_part, clusters.parts.lead(lead), piece.id, content, form
            )

    def _bring_up(self, at: tuple[bool, str], content: str, form: Callable[[], str]) -> None:
        """A mark of an older version, whose fingerprints were other ones, is read as given to the piece as it is,
        unless it says by its form that it was not: nobody changed the steel."""
        mark = self.marks.get(at)
        if mark is not None and _is_old(mark) and mark.form in ("", form()):
            self.marks[at] = msgspec.structs.replace(mark, content=content)

    def _join(self, key: Key, series: Series, part: Part, piece: str, content: str, form: Callable[[], str]) -> None:
        at = (bool(key[0]), piece)
        mark = self.marks.get(at)
        if mark is not None and mark.how == "unique":
            key = (*key, piece)
        there = self.of.get(at)
        if there is not None and there.key == key and there.pieces[piece] == content:
            return  # where it is; one that was built anew has been taken out before
        self._leave(at)
        self._bring_up(at, content, form)
        group = self.all.get(key)
        if group is None:
            group = self.all[key] = Group(key, series, part, at[0], self.rules.families)
        group.join(piece, content, self.marks.get(at))
        self.of[at] = group

    def remark(self, at: tuple[bool, str], after: Mark | None) -> str | None:
        """A piece's mark is another; the assembly to put again, where the piece became unique or is so no more."""
        before = self.marks.get(at)
        group = self.of.get(at)
        unique = (before is not None and before.how == "unique", after is not None and after.how == "unique")
        if unique[0] != unique[1] or (after is not None and _is_old(after)):
            self._leave(at)
            group = None
        if after is None:
            self.marks.pop(at, None)
        else:
            self.marks[at] = after
        if group is not None:
            group.remark(at[1], before, after)
            return None
        return self.owner.get(at[1], at[1])

    def kinds(self, part: bool) -> list[Group]:
        """Groups of parts or of assemblies in the order in which they are numbered: by the steel alone, whenever it
        was drawn (and whoever leads its cluster)."""
        found = [g for g in self.all.values() if g.is_part == part]
        for group in found:
            wide = (self._clusters.parts if part else self._clusters).wide(str(group.key[1]))
            if wide != group.wide:
                group.wide, group.rows = wide, None
        found.sort(key=_size)
        same = (list(groups) for _, groups in groupby(found, _size))  # few: details are read where sizes do not tell
        return [g for groups in same for g in (sorted(groups, key=_detail) if len(groups) > 1 else groups)]
