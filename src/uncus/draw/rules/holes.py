"""Sizes of the holes that are not the sheet's common ones, at one of them."""

from collections import Counter
from collections.abc import Iterator

from uncus.draw.annotation import Annotation, Note
from uncus.draw.rules.rule import Rule
from uncus.draw.seen import Seen


def make(seen: Seen) -> Iterator[Annotation]:
    every = Counter((round(h.d, 2), round(h.slot, 2)) for p, _ in seen.subject.bodies for h in p.holes)
    round_ones = Counter({size: n for size, n in every.items() if not size[1]})
    common = round_ones.most_common(1)[0][0] if round_ones else None
    sizes: dict[tuple[str, float, float], list] = {}  # type: ignore[type-arg]
    for hole in seen.holes:
        size = round(hole.d, 2), round(hole.slot, 2)
        if size != common:
            sizes.setdefault((hole.column.partition("|")[0], *size), []).append(hole)
    for (group, d, slot), holes in sizes.items():
        if not seen.first("size", group, d, slot):
            continue
        first = min(holes, key=lambda h: (h.u, -h.v))
        words = f"{seen.said(d)} X {seen.said(slot)} SLOT" if slot else f"{seen.said(d)} DIA."
        count = f"{len(holes)} " if len(holes) > 1 else ""
        kind = "SLOTS" if slot and len(holes) > 1 else ""
        words = (
            f"{count}{seen.said(d)} X {seen.said(slot)} {kind or 'SLOT'}"
            if slot
            else f"{count}HOLE{'S' if len(holes) > 1 else ''} {words}"
        )
        yield Note(f"{seen.name}|size {group} {d:g} {slot:g}", (first.u, first.v), words, first.v >= 0)


RULE = Rule("hole sizes", "Odd hole sizes", make, "Holes of another size than the note's, and slots, at one of each.")
