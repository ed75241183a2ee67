"""What changed between two packages, told of each piece that is shipped: by who it is, never by its mark."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

import msgspec

from uncus.bill.compare import ADDED, GONE, MARK, MOVED, Difference, compare
from uncus.bill.stood import Pieces, Whole
from uncus.job.billing import Stood
from uncus.mark.marking import natural
from uncus.units import Units

CAME, WENT, CHANGED, ELSEWHERE, RENAMED = "added", "gone", "changed", "moved", "marked otherwise"
HOWS = (CAME, WENT, CHANGED, ELSEWHERE, RENAMED)  # as they are told, one after another
_MOST = 6  # reasons that are told of a piece
_HELD = "bolts, welds or the places of its parts are otherwise"


class PieceChange(msgspec.Struct, frozen=True):
    """A piece that is not as it was: its id, its mark as it is now (or was), how it changed and in what, in words."""

    piece: str
    mark: str
    how: str
    words: str


class Changes(msgspec.Struct, frozen=True):
    """What is different in `now` against `was` (names of both), by the marks of pieces."""

    was: str
    now: str
    pieces: tuple[PieceChange, ...] = ()

    def of(self, *hows: str) -> tuple[str, ...]:
        """The pieces that changed so, by id."""
        return tuple(one.piece for one in self.pieces if one.how in hows)

    @property
    def in_short(self) -> str:
        """What changed, counted."""
        found = [f"{len(of)} {how}" for how in HOWS if (of := self.of(how))]
        return ", ".join(found) or "nothing changed"


def pieces_changed(was: Pieces, now: Pieces, names: tuple[str, str], units: Units = Units.IMPERIAL) -> Changes:
    """Pieces that came, went, changed, are elsewhere, or are the same under other marks. What is not in `now` though
    the job still has it is not told: it is of another package."""
    told: dict[str, list[Difference]] = defaultdict(list)
    for one in compare(was.parts, now.parts, names, units=units).differences:
        for owner in {s.owner for s in (one.was, one.now) if s is not None}:
            told[owner].append(one)
    before, after = _owners(was.parts), _owners(now.parts)
    both = before.keys() & after.keys()
    for id in both:
        old, new = was.assemblies.get(id), now.assemblies.get(id)
        if id not in told and old is not None and new is not None and old != new:
            told[id] = []
    found = []
    apart, late = frozenset(now.others), frozenset(was.others)
    for id, differences in told.items():
        if id in apart:
            continue
        mark = _mark(id, now) or _mark(id, was)
        if id not in both:
            words = after.get(id) or before[id]
            words += f"; it was there, and not in {names[0]}" if id in late else ""
            found.append(PieceChange(id, mark, CAME if id in after else WENT, words))
        else:
            found.append(_changed(was.assemblies.get(id), now.assemblies.get(id), id, mark, differences))
    found.sort(key=lambda one: (HOWS.index(one.how), natural(one.mark), one.piece))
    return Changes(*names, tuple(found))


def _owners(parts: Iterable[Stood]) -> dict[str, str]:
    """What each piece is, in a word, by its id: its heaviest part."""
    heaviest: dict[str, Stood] = {}
    for one in parts:
        if one.owner not in heaviest or one.kg > heaviest[one.owner].kg:
            heaviest[one.owner] = one
    return {id: f"{one.role} {one.section}".strip() for id, one in heaviest.items()}


def _mark(id: str, of: Pieces) -> str:
    whole = of.assemblies.get(id)
    return whole.mark if whole is not None else next((p.mark for p in of.parts if p.owner == id), "")


def _changed(old: Whole | None, new: Whole | None, id: str, mark: str, differences: list[Difference]) -> PieceChange:
    kinds = {kind for one in differences for kind in one.kinds} - {MARK}
    other = old is not None and new is not None and old.content != new.content
    how = CHANGED if other or kinds - {MOVED} else ELSEWHERE if kinds else RENAMED
    words = [_in_words(one) for one in differences]
    if other and not kinds - {MOVED}:
        words.insert(0, _HELD)
    if old is not None and new is not None and old.mark != new.mark and old.mark and new.mark:
        words.insert(0, f"marked {new.mark}, was {old.mark}")
    more = f"; and {len(words) - _MOST} more" if len(words) > _MOST else ""
    return PieceChange(id, mark, how, "; ".join(dict.fromkeys(words[:_MOST])) + more)


def _in_words(one: Difference) -> str:
    if ADDED in one.kinds or GONE in one.kinds:
        return f"{one.one.mark or 'part'} {one.words}"
    return f"{one.one.mark}: {one.words}" if one.one.mark else one.words
