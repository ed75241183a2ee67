"""Sizes of the holes that are not the sheet's common ones, at one of them; holes in one wall of a tube alone."""

from collections import Counter, defaultdict
from collections.abc import Iterator

from uncus.catalog.sections import Form
from uncus.draw.annotation import Annotation, Note
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen, SeenHole
from uncus.steel.features import Face, Hole
from uncus.steel.part import Part

_OPPOSITE = {Face.WEB: Face.BACK, Face.BACK: Face.WEB}
_TOGETHER = 150.0  # mm along the piece from one hole of a group to the next
_LEVEL = 0.5  # degrees within which a slot lies along or across the piece


def alone(part: Part) -> list[Hole]:
    """Holes in one side of a tube that have none like them behind them in the other."""
    if part.form is not Form.BOX:
        return []

    def at(h: Hole, face: Face) -> tuple[object, ...]:
        return face, round(h.x, 1), round(h.w, 1), round(h.d, 1), round(h.slot, 1)

    there = {at(h, h.face) for h in part.holes}
    return [h for h in part.holes if h.face in _OPPOSITE and at(h, _OPPOSITE[h.face]) not in there]


def through_walls(part: Part) -> bool:
    """Whether holes go through both sides of a tube, as a note says once for all of them."""
    sides = sum(h.face in _OPPOSITE for h in part.holes)
    return part.form is Form.BOX and sides > len(alone(part))


def make(seen: Seen) -> Iterator[Annotation]:
    every = Counter((round(h.d, 2), round(h.slot, 2)) for p, _ in seen.subject.bodies for h in p.holes)
    round_ones = Counter({size: n for size, n in every.items() if not size[1]})
    common = round_ones.most_common(1)[0][0] if round_ones else None
    sizes: dict[tuple[str, float, float, float], list[SeenHole]] = {}
    for hole in seen.holes:
        size = round(hole.d, 2), round(hole.slot, 2)
        if size != common:
            sizes.setdefault((hole.column.partition("|")[0], *size, hole.lean), []).append(hole)
    for (group, d, slot, lean), holes in sizes.items():
        if not seen.first("size", group, d, slot, lean):
            continue
        first = min(holes, key=lambda h: (h.u, -h.v))
        turned = f" {lean:g}" if lean else ""
        yield Note(
            f"{seen.name}|size {group} {d:g} {slot:g}{turned}",
            (first.u, first.v),
            _words(seen, len(holes), d, slot, lean),
            first.v >= 0,
        )
    if seen.name == "front" and seen.main.form is Form.BOX:
        yield from _walls(seen)


def _words(seen: Seen, count: int, d: float, slot: float, lean: float) -> str:
    many, number = ("S", f"{count} ") if count > 1 else ("", "")
    if not slot:
        return f"{number}HOLE{many} {seen.said(d)} DIA."
    turned = abs(lean) > _LEVEL and abs(abs(lean) - 90) > _LEVEL
    return f"{number}{seen.said(d)} X {seen.said(slot)} SLOT{many}" + (f" AT {abs(lean):.1f} DEG" if turned else "")


def _walls(seen: Seen) -> Iterator[Annotation]:
    """Said at each group of holes: the first, and every one that stands apart from those before."""
    noted: dict[tuple[Face, str], list[float]] = defaultdict(list)
    for hole in sorted(alone(seen.main), key=lambda h: (h.face, h.x)):
        source = seen.subject.source(seen.main.holes.index(hole))
        before = noted[hole.face, source]
        if before and hole.x - before[-1] < _TOGETHER:
            before[-1] = hole.x
            continue
        before.append(hole.x)
        words = "NEAR WALL ONLY" if hole.face is Face.WEB else "FAR WALL ONLY"
        yield Note(f"{seen.name}|wall {source}/{hole.face} {len(before)}", (hole.x, hole.w), words, hole.w >= 0)


RULE = Rule("hole sizes", "Odd hole sizes", make, "Holes of another size than the note's, and slots, at one of each.")
