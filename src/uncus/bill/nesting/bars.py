"""Cut lengths laid into stock: bars by section and grade, mitres head to tail, what is left kept or scrapped."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

import msgspec

from uncus.bill.nesting.patterns import Bar, Pattern, Want, cutting
from uncus.catalog.sections import Form, section
from uncus.job.billing import Offcut, StockLength, StockRules
from uncus.mark.marking import natural
from uncus.shop.pieces import Assembly, Piece
from uncus.steel.flat import is_cut_from_plate
from uncus.steel.part import Part
from uncus.units import Units, counted, format_length

_ALIKE = 0.01  # mm between lengths that are one to the saw
_SLOPE = 1e-4  # of mitres that are parallel
_TURNS = frozenset((Form.I, Form.BOX, Form.TUBE, Form.ROUND, Form.FLAT))  # that look the same turned half round
_RUNS = (1, 2, 3, 4, 6, 8)
_CHEAP = 0.5  # of its length, that an offcut costs: it is paid for


class Cut(msgspec.Struct, frozen=True):
    """A piece to be cut: over all it is so long; head to tail with one of its own the two take `saves` less, in runs
    or, where one end alone is mitred, in pairs. `turns`: every other one lies turned half round for that."""

    id: str
    mark: str
    section: str
    grade: str
    length: float
    lot: str = ""
    saves: float = 0.0
    pairs: bool = False
    turns: bool = False


class Laid(msgspec.Struct, frozen=True):
    """A piece on its bar, from the bar's first end on (mm); `turned` lies half round, the mitre at the other slope."""

    cut: Cut
    at: float
    turned: bool = False


class NestedBar(msgspec.Struct, frozen=True):
    """A bar and what is cut from it, in order; of an offcut the mark. `rest` is left at its end, in one length."""

    section: str
    grade: str
    lot: str
    length: float
    laid: tuple[Laid, ...]
    rest: float
    offcut: str = ""

    @property
    def used(self) -> float:
        return sum(one.cut.length for one in self.laid)


class Group(NamedTuple):
    """Bars of one section and grade (and lot): what they came to, beside the least that any cutting takes."""

    section: str
    grade: str
    lot: str
    bars: tuple[NestedBar, ...]
    cost: float
    bound: float


class BarNest(msgspec.Struct, frozen=True):
    groups: tuple[Group, ...]
    told: tuple[str, ...]

    @property
    def bars(self) -> Iterator[NestedBar]:
        return (bar for group in self.groups for bar in group.bars)

    @property
    def stock(self) -> float:
        """mm of bars that are cut."""
        return sum(bar.length for bar in self.bars)

    @property
    def drop(self) -> float:
        """The share of all bars that is no piece."""
        return 1.0 - sum(bar.used for bar in self.bars) / self.stock if self.groups else 0.0

    @property
    def over_bound(self) -> float:
        """How far above the least there can be, as a share of it."""
        bound = sum(g.bound for g in self.groups)
        return sum(g.cost for g in self.groups) / bound - 1.0 if bound else 0.0


def cuts_of(assemblies: Iterable[Assembly], mark: Callable[[Piece], str]) -> list[Cut]:
    """Everything that is sawn from bars."""
    found = []
    for a in assemblies:
        for piece in a.pieces:
            part = piece.part
            if part.section is not None and part.item is None and not is_cut_from_plate(part):
                found.append(_cut_of(piece, part, mark(piece), a.member.lot.strip()))
    return found


def _cut_of(piece: Piece, part: Part, mark: str, lot: str) -> Cut:
    assert part.section is not None
    saves, pairs, turns = 0.0, False, False
    if not part.is_formed and abs(part.left.ky) < _SLOPE > abs(part.right.ky):
        left, right, deep = part.left.kz, part.right.kz, part.section.d
        can_turn = part.section.form in _TURNS
        if abs(left) > _SLOPE and abs(left - right) < _SLOPE:
            saves = abs(left) * deep
        elif abs(left) > _SLOPE and abs(left + right) < _SLOPE and can_turn:
            saves, turns = abs(left) * deep, True
        elif (abs(left) > _SLOPE) != (abs(right) > _SLOPE) and can_turn:
            saves, pairs, turns = max(abs(left), abs(right)) * deep, True, True
    return Cut(
        piece.id, mark, part.section.name, part.grade, part.length, lot, min(saves, part.length / 2), pairs, turns
    )


def nest(
    cuts: Iterable[Cut],
    rules: StockRules,
    offcuts: Iterable[Offcut] = (),
    units: Units = Units.IMPERIAL,
    tell: Callable[[int, int, str], None] = lambda done, of, words: None,
    stopped: Callable[[], bool] = lambda: False,
) -> BarNest:
    """Bars for all cuts, those of one section and grade together, each lot by itself where the rules say so."""
    asked: dict[tuple[str, str, str], list[Cut]] = defaultdict(list)
    for cut in cuts:
        asked[cut.section, cut.grade, cut.lot if rules.by_lot else ""].append(cut)
    there = [o for o in offcuts if not o.used and not o.wide]
    groups, told = [], []
    for done, (name, grade, lot) in enumerate(sorted(asked, key=lambda key: tuple(map(natural, key)))):
        if stopped():
            break
        tell(done, len(asked), f"{name} {grade}".strip())
        own = asked[name, grade, lot]
        have = [o for o in there if o.section == name and o.grade == grade]
        group, short = _group(own, (name, grade, lot), rules, have, stopped)
        if group is not None:
            groups.append(group)
            taken = {bar.offcut for bar in group.bars if bar.offcut}
            there = [o for o in there if o.mark not in taken]
        told += [_too_long(name, some, rules, units) for some in short]
    return BarNest(tuple(groups), tuple(told))


def _too_long(name: str, cuts: Sequence[Cut], rules: StockRules, units: Units) -> str:
    marks = sorted({c.mark or c.id for c in cuts}, key=natural)
    said = f"{', '.join(marks[:4])}{' and others' if len(marks) > 4 else ''}"
    return (
        f"{counted(len(cuts), 'piece')} of {name} ({said}), {format_length(cuts[0].length, units)} long, found no "
        "stock; add a longer length, or more of it."
    )


def stock_for(rules: StockRules, name: str, grade: str) -> list[StockLength]:
    """The lengths a section can be had in: those said of it by the longest beginning of its name, of its grade before
    those of any."""
    fit = [s for s in rules.lengths if name.startswith(s.section) and s.grade in ("", grade)]
    best = max((len(s.section) for s in fit), default=0)
    fit = [s for s in fit if len(s.section) == best]
    own = [s for s in fit if s.grade]
    return own or fit


def _costs(lengths: Sequence[StockLength]) -> list[float]:
    """What each length costs: its price a metre; where none is said the length itself."""
    dearest = max((s.price for s in lengths), default=0.0)
    return [s.length / 1000.0 * (s.price or dearest) if dearest else s.length for s in lengths]


def _group(
    cuts: Sequence[Cut],
    of: tuple[str, str, str],
    rules: StockRules,
    offcuts: Sequence[Offcut],
    stopped: Callable[[], bool],
) -> tuple[Group | None, list[list[Cut]]]:
    """The bars of one section, and cuts that found no stock."""
    pools: dict[tuple[int, int, bool, bool], list[Cut]] = defaultdict(list)
    for cut in sorted(cuts, key=lambda c: (natural(c.mark), c.id)):
        saves = cut.saves if rules.mitres else 0.0
        pools[round(cut.length / _ALIKE), round(saves / _ALIKE), cut.pairs and saves > 0, cut.turns].append(cut)
    keys = sorted(pools, reverse=True)
    wants = [_want(key, pools[key], rules) for key in keys]
    lengths = stock_for(rules, of[0], of[1])
    marks = [""] * len(lengths) + [o.mark for o in offcuts]
    long = [s.length for s in lengths] + [o.length for o in offcuts]
    costs = [*_costs(lengths), *(_CHEAP * o.length * _rate(lengths) for o in offcuts)]
    spare = rules.trim + rules.grip
    numbers = [s.number or None for s in lengths] + [1] * len(offcuts)
    rooms = [max(0.0, size - spare + rules.kerf) for size in long]
    stock = [Bar(room, cost, number) for room, cost, number in zip(rooms, costs, numbers, strict=True)]
    if not stock:
        return None, [list(pools[key]) for key in keys]
    found = cutting(wants, stock, rules.most, stopped)
    rest = {key: list(pools[key]) for key in keys}
    bars = list[NestedBar]()
    for pattern, times in sorted(found.bars, key=lambda one: (-long[one[0].stock], one[0].runs)):
        for _ in range(times):
            bars.append(_filled(pattern, of, long[pattern.stock], marks[pattern.stock], keys, rest, rules))
    short = [rest[key] for key in keys if rest[key]]
    return (Group(*of, tuple(bars), found.cost, found.bound) if bars else None), short


def _rate(lengths: Sequence[StockLength]) -> float:
    """The least that a mm costs."""
    return min((cost / s.length for s, cost in zip(lengths, _costs(lengths), strict=True)), default=1.0)


def _want(key: tuple[int, int, bool, bool], pool: Sequence[Cut], rules: StockRules) -> Want:
    saves = key[1] * _ALIKE
    runs = (1,) if not saves else (1, 2) if key[2] else _RUNS
    longest = max(cut.length for cut in pool)
    return Want(longest + rules.kerf, len(pool), saves, tuple(r for r in runs if r <= len(pool)))


def _filled(
    pattern: Pattern,
    of: tuple[str, str, str],
    length: float,
    offcut: str,
    keys: Sequence[tuple[int, int, bool, bool]],
    rest: dict[tuple[int, int, bool, bool], list[Cut]],
    rules: StockRules,
) -> NestedBar:
    """A bar with pieces on it: the longest first, those that lie head to tail together."""
    laid = list[Laid]()
    at = rules.trim
    for want in dict.fromkeys(w for w, _, _ in pattern.runs):
        key = keys[want]
        for n in range(pattern.made(want)):  # all alike in one row: that is never longer than in several
            cut = rest[key].pop(0)
            if n % 2 or (n and not key[2]):
                at -= key[1] * _ALIKE
            laid.append(Laid(cut, at, bool(n % 2) and cut.turns))
            at += cut.length + rules.kerf
    left = length - rules.grip - at
    return NestedBar(*of, length, tuple(laid), max(0.0, left + rules.grip), offcut)


def offcuts_of(found: BarNest, rules: StockRules, name: str, known: Iterable[Offcut] = ()) -> list[Offcut]:
    """What is left that is long enough to be kept, each under a mark of its own, and those taken marked as used."""
    used = {bar.offcut for bar in found.bars if bar.offcut}
    known = list(known)
    names = {o.mark for o in known}
    made = [msgspec.structs.replace(o, used=name) for o in known if o.mark in used and not o.used]
    number = 1
    for bar in found.bars:
        if bar.rest >= rules.kept > 0.0:
            while f"R{number}" in names:
                number += 1
            names.add(f"R{number}")
            made.append(
                Offcut(mark=f"R{number}", section=bar.section, grade=bar.grade, length=round(bar.rest, 1), of=name)
            )
    return made


def mill_order(found: BarNest) -> list[tuple[str, str, float, int, float]]:
    """What is to be bought: section, grade, length, how many, kg."""
    counts: dict[tuple[str, str, float], int] = defaultdict(int)
    for bar in found.bars:
        if not bar.offcut:
            counts[bar.section, bar.grade, bar.length] += 1
    return [
        (name, grade, length, n, section(name).kg_m * length / 1000.0 * n)
        for (name, grade, length), n in sorted(counts.items(), key=lambda one: (natural(one[0][0]), one[0][1:]))
    ]
