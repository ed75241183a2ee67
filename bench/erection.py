"""An erector's drawings beside sheets of assemblies: the largest plan and elevation of frames of growing size, as so
many assembly sheets of the same run, how they grow by the piece, and what words cost. Run: python bench/erection.py"""

from __future__ import annotations

import math
import statistics
import time

from uncus.draw.drawn import draw_all
from uncus.draw.entry import Entry
from uncus.draw.legibility import legibility
from uncus.draw.register import register
from uncus.draw.sheet import Sheet
from uncus.frame.usual_views import Steel, elevations
from uncus.job.job import Job
from uncus.job.records import Member
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame_of
from uncus.shop.shop import build

SIZES = 100, 500, 2_000
AIM, GROWTH = 10.0, 1.15  # assembly sheets, and how time may grow by the piece
_TRIES = 3


def spent(entry: Entry) -> float:
    """The median seconds of drawing a sheet anew."""
    took = []
    for _ in range(_TRIES):
        start = time.perf_counter()
        draw_all(entry.job)
        took.append(time.perf_counter() - start)
    return statistics.median(took)


def distances(sheet: Sheet) -> list[float]:
    """How far on paper marks are from the ends that they are of, mm."""
    tips = {key.partition("|")[0]: p[:2] for f in sheet.frames for key, p in f.points.items()}
    found = []
    for spot in sheet.spots:
        if "|mark " in spot.key:
            (x, y), (x0, y0, x1, y1) = tips[spot.key.partition("|mark ")[2]], spot.texts[0][1]
            found.append(math.hypot(max(x0 - x, 0.0, x - x1), max(y0 - y, 0.0, y - y1)))
    return found


def main() -> None:
    by_piece: dict[str, list[tuple[int, float]]] = {"plan": [], "view": []}
    for size in SIZES:
        job = Job(frame_of(size))
        with job.change("views") as change:
            for made in elevations(Steel.of(job, job.project.units)):
                change.put(made)
        shop = build(job)
        apply(job, propose(job, shop))
        entries = register(job, shop)
        sheets = [e for e in entries if e.kind == "assembly"][:20]
        one = statistics.mean(spent(e) for e in sheets)
        print(f"{len(job.all(Member))} members, an assembly sheet {one * 1000:.1f} ms")
        for what, found in by_piece.items():
            entry = max((e for e in entries if e.title.startswith(what)), key=lambda e: len(e.pieces))
            drawn = draw_all(entry.job)
            took, cost = spent(entry), legibility(drawn[0])
            found.append((len(entry.pieces), took))
            ratio, far = took / one, sorted(distances(drawn[0]))
            words = (f"words on words {cost.on_text}, on lines {cost.on_lines}, leaders crossing {cost.crossings}; "
                f"marks from their ends {far[len(far) // 2]:.1f} mm, nine in ten within {far[len(far) * 9 // 10]:.1f}, "
                f"all within {far[-1]:.1f}")  # fmt: skip
            pages = f", on {len(drawn)} of paper: {ratio / len(drawn):.1f} each" if len(drawn) > 1 else ""
            told = f"{took * 1000:.1f} ms = {ratio:.1f} sheets, aim {AIM:g}{'' if ratio <= AIM else '  MISSED'}{pages}"
            print(f"  {entry.title}, {len(entry.pieces)} pieces: {told}; {words}")
    for what, found in by_piece.items():
        (n1, t1), (n2, t2) = found[0], found[-1]
        growth = math.log(t2 / t1) / math.log(n2 / n1)
        print(f"{what}: grows as the {growth:.2f}th power of its pieces, aim {GROWTH:g}"
            f"{'' if growth <= GROWTH else '  MISSED'}")  # fmt: skip


if __name__ == "__main__":
    main()
