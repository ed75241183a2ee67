"""Nests beside what they can be measured against: bars beside the least of the linear program; rectangles beside
`rectpack`'s ways (where it is installed: it has no wheel, so it is no dependency); true outlines beside the rectangles
about them, with the same gap.

usage: pip install rectpack; PYTHONPATH=src python bench/nesting.py
"""

from __future__ import annotations

import random
import time

import shapely

from uncus.bill.nesting.patterns import Bar, Want, cutting
from uncus.bill.nesting.plates import Blank, nest_plates
from uncus.job.billing import PlateSize, StockRules

_LONG, _WIDE = 6096.0, 2438.4
RULES = StockRules(plates=(PlateSize(_LONG, _WIDE),))


def bars(seed: int) -> None:
    lot = random.Random(seed)
    wants = [Want(lot.uniform(600, 9000) + 3.2, 50) for _ in range(40)]
    start = time.perf_counter()
    found = cutting(wants, [Bar(long - 9.5, long) for long in (6096.0, 12192.0, 18288.0)])
    over = 100 * (found.cost / found.bound - 1)
    seconds = time.perf_counter() - start
    print(f"2,000 cuts of 40 lengths: {seconds:.1f} s, {over:.3f} % over the bound (aims 20 s, 1 %)")


def blank(n: int, outline: shapely.Polygon) -> Blank:
    return Blank(str(n), str(n), "A36", 9.53, outline)


def rectangles(seed: int, number: int) -> list[Blank]:
    lot = random.Random(seed)
    return [blank(n, shapely.box(0, 0, lot.uniform(80, 900), lot.uniform(80, 600))) for n in range(number)]


def outlines(seed: int, number: int) -> list[Blank]:
    """Gussets of three, four and five corners."""
    lot = random.Random(seed)
    found = []
    for n in range(number):
        w, h = lot.uniform(200, 700), lot.uniform(200, 600)
        shapes = [
            [(0, 0), (w, 0), (0, h)],
            [(0, 0), (w, 0), (w * 0.6, h), (w * 0.1, h)],
            [(0, 0), (w, 0), (w, h * 0.3), (w * 0.3, h), (0, h)],
        ]
        found.append(blank(n, shapely.Polygon(lot.choice(shapes))))
    return found


def reach(blanks: list[Blank]) -> float:
    """The share of what is used that is plates: of full sheets and, of the last, as far along as anything lies."""
    sheets = nest_plates(blanks, RULES).sheets
    last = min(sheets, key=lambda s: s.fill)
    far = max(p.outline.bounds[2] for p in last.plates)
    used = _WIDE * (_LONG * (len(sheets) - 1) + far)
    return sum(b.outline.area for b in blanks) / used


def best_of_peer(blanks: list[Blank]) -> float:
    import rectpack as peer

    best = 0.0
    sides = [(b.outline.bounds[2] + RULES.gap, b.outline.bounds[3] + RULES.gap) for b in blanks]
    room = _LONG - 2 * RULES.margin + RULES.gap, _WIDE - 2 * RULES.margin + RULES.gap
    ways = (peer.MaxRectsBssf, peer.MaxRectsBl, peer.MaxRectsBaf, peer.MaxRectsBlsf, peer.SkylineBl, peer.SkylineMwf,
        peer.GuillotineBssfSas)  # fmt: skip
    for way in ways:
        for sort in (peer.SORT_AREA, peer.SORT_LSIDE, peer.SORT_PERI, peer.SORT_SSIDE):
            packer = peer.newPacker(pack_algo=way, sort_algo=sort, rotation=True)
            for side in sides:
                packer.add_rect(*side)
            packer.add_bin(*room, count=50)
            packer.pack()
            if sum(len(b) for b in packer) == len(sides):
                best = max(best, sum(b.outline.area for b in blanks) / (len(packer) * _LONG * _WIDE))
    return best


def main() -> None:
    for seed in (1, 2, 3):
        bars(seed)
    for seed, number in ((1, 100), (2, 200), (3, 300)):
        some = rectangles(seed, number)
        ours = nest_plates(some, RULES).fill
        try:
            theirs = f"{100 * best_of_peer(some):.1f} %"
        except ImportError:
            theirs = "not installed"
        print(f"{number} rectangles: filled {100 * ours:.1f} %, the best of rectpack's ways {theirs}")
    for seed in (1, 2):
        some = outlines(seed, 150)
        boxes = [blank(n, shapely.box(*b.outline.bounds)) for n, b in enumerate(some)]
        area = sum(b.outline.area for b in some)
        start = time.perf_counter()
        true = nest_plates(some, RULES).fill
        seconds = time.perf_counter() - start
        around = area / (len(nest_plates(boxes, RULES).sheets) * _LONG * _WIDE)
        ours, boxed, along = (f"{100 * share:.1f} %" for share in (true, around, reach(some)))
        print(
            f"150 gussets: {ours} by outlines ({seconds:.0f} s; {along} of what is used), {boxed} by their rectangles"
        )


if __name__ == "__main__":
    main()
