"""What changed between two moments of a job, piece by piece: by who a piece is and never by its mark."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import NamedTuple

import msgspec
import numpy as np

from uncus.bill.stood import is_bar
from uncus.job.billing import Stood
from uncus.mark.marking import natural
from uncus.units import FOOT, Units, counted, format_length, format_weight

TOLERANCE = 1.0  # mm that a length may differ by
_MOVED, _TURNED = 0.6, 2e-3  # mm, and of direction, by which a piece is elsewhere
_LEAST = 0.005  # kg
_PLATE, _THICK = "PL ", 0.05  # how plates are told, and mm between thicknesses that are two

ADDED, GONE = "added", "gone"
SECTION, GRADE, LENGTH, FINISH = "section", "grade", "length", "finish"
DETAIL, LOT, MOVED, MARK = "detail", "lot", "moved", "mark"
KINDS = (ADDED, GONE, SECTION, GRADE, LENGTH, FINISH, DETAIL, LOT, MOVED, MARK)
SERVES, SHORT, LEFT_OVER = "serves", "too short", "left over"


class Difference(msgspec.Struct, frozen=True):
    """A piece that is not as it was: in what, how it was and is (None: was not or is not there), why in words, and
    what comes or goes in pieces, metres of bars and kg."""

    id: str
    kinds: tuple[str, ...]
    was: Stood | None
    now: Stood | None
    words: str

    @property
    def one(self) -> Stood:
        found = self.now or self.was
        assert found is not None
        return found

    @property
    def pieces(self) -> int:
        return (self.now is not None) - (self.was is not None)

    @property
    def metres(self) -> float:
        return _metres(self.now) - _metres(self.was)

    @property
    def kg(self) -> float:
        change = (self.now.kg if self.now else 0.0) - (self.was.kg if self.was else 0.0)
        return change if abs(change) > _LEAST else 0.0


class Ordered(NamedTuple):
    """A length that was ordered, and whether it still does: the piece as it is now (None: gone)."""

    was: Stood
    now: Stood | None
    how: str
    words: str


class Compared(msgspec.Struct, frozen=True):
    """Both sides as counted, what is different, and what became of lengths that were ordered."""

    was: str
    now: str
    before: tuple[int, float]  # pieces, kg
    after: tuple[int, float]
    differences: tuple[Difference, ...]
    ordered: tuple[Ordered, ...]


def _metres(one: Stood | None) -> float:
    return one.length / 1000.0 if one is not None and is_bar(one) else 0.0


def compare(
    before: Iterable[Stood],
    after: Iterable[Stood],
    names: tuple[str, str] = ("then", "now"),
    tolerance: float = TOLERANCE,
    units: Units = Units.IMPERIAL,
    why: Callable[[str], Sequence[str]] = lambda _: (),
) -> Compared:
    """Everything that differs, the heaviest change first. `why` tells of a piece's id in what it is detailed otherwise,
    where both are at hand."""
    old, new = {s.id: s for s in before}, {s.id: s for s in after}
    found = []
    for id in old.keys() | new.keys():
        was, now = old.get(id), new.get(id)
        kinds = _kinds(was, now, tolerance)
        if kinds:
            found.append(Difference(id, kinds, was, now, _words(kinds, was, now, units, why)))
    found.sort(key=lambda d: (-abs(d.kg), KINDS.index(d.kinds[0]), natural(d.one.mark), d.id))
    ordered = [_ordered(s, new.get(s.id), tolerance, units) for s in _asked(old, new)]
    return Compared(*names, _counted(old), _counted(new), tuple(found), tuple(ordered))


def _asked(old: Mapping[str, Stood], new: Mapping[str, Stood]) -> list[Stood]:
    """Pieces whose lengths were ordered, as they were then."""
    there = {id: s for id, s in {**new, **old}.items() if s.ordered or (id in new and new[id].ordered)}
    asked = [s if s.ordered else new[s.id] for s in there.values()]
    return sorted(asked, key=lambda s: (natural(s.advance), s.id))


def _counted(some: Mapping[str, Stood]) -> tuple[int, float]:
    return len(some), sum(s.kg for s in some.values())


def _kinds(was: Stood | None, now: Stood | None, tolerance: float) -> tuple[str, ...]:
    if was is None or now is None:
        return (ADDED,) if was is None else (GONE,)
    found = [SECTION] if _is_other(was.section, now.section, tolerance) else []
    if was.grade.casefold() != now.grade.casefold():
        found.append(GRADE)
    if abs(was.length - now.length) > tolerance:
        found.append(LENGTH)
    if was.finish != now.finish:
        found.append(FINISH)
    if not found and was.form != now.form:
        found.append(DETAIL)
    if was.lot != now.lot:
        found.append(LOT)
    if _is_elsewhere(was.place, now.place):
        found.append(MOVED)
    if was.mark != now.mark and was.mark and now.mark:
        found.append(MARK)
    return tuple(found)


def _is_elsewhere(a: Sequence[float], b: Sequence[float]) -> bool:
    """Whether a member's work line lies elsewhere, or its section otherwise about it. One of which an end alone went
    along the line is longer or shorter, not elsewhere."""
    if len(a) != 12 or len(b) != 12:
        return False
    p, q = np.array(a).reshape(4, 3), np.array(b).reshape(4, 3)
    if np.abs(p[1:3] - q[1:3]).max() > _TURNED:
        return True
    start, end = q[0] - p[0], q[3] - p[3]
    aside = max(float(np.linalg.norm(off - (off @ p[1]) * p[1])) for off in (start, end))
    along = min(abs(float(start @ p[1])), abs(float(end @ p[1])))
    return max(aside, along) > _MOVED


def _is_other(a: str, b: str, tolerance: float) -> bool:
    """Whether two parts are of other stuff: another section or thickness, or wider by more than the tolerance."""
    if a.casefold() == b.casefold():
        return False
    if not (a.startswith(_PLATE) and b.startswith(_PLATE)):
        return True
    (thick, wide), (other_thick, other_wide) = _measures(a), _measures(b)
    return abs(thick - other_thick) > _THICK or abs(wide - other_wide) > tolerance


def _measures(section: str) -> tuple[float, float]:
    """A plate's thickness and shorter side."""
    thick, _, wide = section.removeprefix(_PLATE).partition(" x ")
    try:
        return float(thick), float(wide)
    except ValueError:
        return 0.0, 0.0


def _words(
    kinds: Sequence[str], was: Stood | None, now: Stood | None, units: Units, why: Callable[[str], Sequence[str]]
) -> str:
    """Why a piece is told of."""
    if was is None or now is None:
        one = now or was
        assert one is not None
        return f"{'new' if was is None else 'gone'}: {shown(one.section, units)} {format_length(one.length, units)}"
    said = {
        SECTION: f"{shown(now.section, units)}, was {shown(was.section, units)}",
        GRADE: f"{now.grade}, was {was.grade}",
        LENGTH: f"{format_length(now.length, units)} long, was {format_length(was.length, units)}",
        FINISH: f"{now.finish or 'no finish'}, was {was.finish or 'no finish'}",
        LOT: f"lot {now.lot or 'none'}, was {was.lot or 'none'}",
        MOVED: "stands elsewhere or otherwise",
        MARK: f"marked {now.mark}, was {was.mark}",
    }
    if DETAIL in kinds:
        said[DETAIL] = "; ".join(why(now.id)) or "cut, drilled or bent otherwise"
    return "; ".join(said[k] for k in kinds)


def _ordered(was: Stood, now: Stood | None, tolerance: float, units: Units) -> Ordered:
    have = format_length(was.ordered, units)
    if now is None:
        return Ordered(was, None, LEFT_OVER, f"{was.advance}: {have} of {was.section} is left over; its piece is gone")
    if (now.section, now.grade) != (was.section, was.grade):
        what = f"{shown(now.section, units)} {now.grade}".strip()
        return Ordered(was, now, LEFT_OVER, f"{was.advance}: {have} of {was.section} is left over; it is {what} now")
    if now.length > was.ordered + tolerance:
        short = format_length(now.length - was.ordered, units)
        return Ordered(was, now, SHORT, f"{was.advance}: {have} ordered is too short by {short}")
    return Ordered(was, now, SERVES, f"{was.advance}: {have} ordered serves {format_length(now.length, units)}")


def shown(section: str, units: Units) -> str:
    """What a part is made of, a plate's measures in the job's units."""
    if not section.startswith(_PLATE):
        return section
    thick, wide = _measures(section)
    return f"PL {format_length(thick, units)} x {format_length(wide, units)}" if thick else section


class Summed(NamedTuple):
    """Like differences put together: of one kind, section and grade."""

    kind: str
    section: str
    grade: str
    marks: tuple[str, ...]
    pieces: int
    number: int
    metres: float
    kg: float


def summed(found: Iterable[Difference]) -> list[Summed]:
    """Differences by what is different, and the section that is there now: how many pieces it concerns, how many more
    or fewer there are, metres and kg more or less."""
    alike: dict[tuple[str, str, str], list[Difference]] = defaultdict(list)
    for d in found:
        alike[d.kinds[0], d.one.section, d.one.grade].append(d)
    keys = sorted(alike, key=lambda k: (KINDS.index(k[0]), natural(k[1]), k[2]))
    return [
        Summed(*key, tuple(sorted({d.one.mark for d in own if d.one.mark}, key=natural)), len(own),
            sum(d.pieces for d in own), sum(d.metres for d in own), sum(d.kg for d in own))
        for key in keys
        for own in (alike[key],)
    ]  # fmt: skip


def in_words(c: Compared, units: Units) -> str:
    """What a lead can send: a sentence for all, one for each kind, and what became of ordered lengths."""
    (pieces, kg), (now_pieces, now_kg) = c.before, c.after
    if not c.differences:
        first = f"Nothing changed between {c.was} and {c.now}: {counted(now_pieces, 'piece')}, {_heavy(now_kg, units)}."
        return "\n".join([first, *_of_orders(c)])
    change = now_kg - kg
    way = f"{_heavy(abs(change), units)} {'more' if change > 0 else 'less'}" if abs(change) > 0.5 else "no heavier"
    lines = [
        f"Between {c.was} and {c.now} {counted(len(c.differences), 'piece')} changed: "
        f"{counted(pieces, 'piece')} of {_heavy(kg, units)} then, {now_pieces} of {_heavy(now_kg, units)} now, {way}."
    ]
    for kind in KINDS:
        own = [d for d in c.differences if kind in d.kinds]
        if own:
            more = sum(d.kg for d in own)
            signed = f" ({'+' if more > 0 else '-'}{_heavy(abs(more), units)})" if abs(more) > 0.5 else ""
            lines.append(f"{_KIND_WORDS[kind]}: {counted(len(own), 'piece')}{signed}.")
    return "\n".join([*lines, *_of_orders(c)])


_KIND_WORDS = {ADDED: "Added", GONE: "Gone", SECTION: "Another section", GRADE: "Another grade",
    LENGTH: "Another length", FINISH: "Another finish", DETAIL: "Detailed otherwise", LOT: "Another lot",
    MOVED: "Moved or turned", MARK: "Marked otherwise"}  # fmt: skip


def _of_orders(c: Compared) -> list[str]:
    if not c.ordered:
        return []
    counts = {how: sum(o.how == how for o in c.ordered) for how in (SERVES, SHORT, LEFT_OVER)}
    said = ", ".join(f"{n} {'serve' if how == SERVES and n != 1 else how}" for how, n in counts.items() if n)
    return [f"Of {counted(len(c.ordered), 'ordered length')}: {said}."]


def _heavy(kg: float, units: Units) -> str:
    """Tonnes (of 1000 kg, or of 2000 lb) from one on."""
    ton = 907.18474 if units is Units.IMPERIAL else 1000.0
    return f"{kg / ton:,.2f} {'tons' if units is Units.IMPERIAL else 't'}" if kg >= ton else format_weight(kg, units)


def long(metres: float, units: Units) -> str:
    """A running length: feet, or metres."""
    return f"{metres * 1000.0 / FOOT:,.1f} ft" if units is Units.IMPERIAL else f"{metres:,.1f} m"
