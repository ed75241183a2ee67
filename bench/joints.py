"""Joints drawn by lot, each made and clean or refused with a sentence; and what holding steel against steel costs of a
build.

usage: PYTHONPATH=src:. python bench/joints.py [--number 2000] [--first 0] [--frame 8] Prints a table by kind and
every joint with something wrong that nothing said, with the seed that repeats it; ends with 1 where there is one.
`tests/connect/sound.py` is the judge: solids, holes and welds worked out anew, without the net's short ways.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import Counter, defaultdict
from typing import Any

from tests.connect.sound import sound

from uncus.connect import clash
from uncus.job.job import Job
from uncus.job.records import Connection
from uncus.sample.chance import drawn
from uncus.sample.frames import frame
from uncus.shop.inspection import Inspection
from uncus.shop.shop import Shop, build
from uncus.steel import solid
from uncus.steel.joint import Severity

_ENDS = ("clean", "told", "refused", "UNSAID", "FAULT")


def judged(seed: int) -> tuple[str, str, str]:
    """A joint's kind, how it ended, and what went unsaid."""
    records = drawn(seed)
    kind = next(r.kind for r in records if isinstance(r, Connection) and r.id == "c")
    try:
        shop = Shop(records)
        said = [f.text for f in shop.all_findings if f.severity is Severity.WRONG]
        if any("fault of the program" in text for text in said):
            return kind, "FAULT", said[0]
        made = shop.connections["c"]
        if said:
            return kind, "told" if made.parts or made.cuts else "refused", ""
        sound(shop, film=0.1, root=1.6)
    except AssertionError as error:
        return kind, "UNSAID", str(error).partition("\n")[0]
    except Exception as error:
        return kind, "FAULT", repr(error)
    return kind, "clean", ""


def cost(bays: int) -> str:
    """What of a whole build holding steel against steel takes, no pair or solid known before."""
    job, taken, follow = Job(frame(bays, bays)), 0.0, Inspection.follow

    def timed(self: Inspection, *given: Any) -> None:
        nonlocal taken
        start = time.perf_counter()
        follow(self, *given)
        taken += time.perf_counter() - start

    clash._KNOWN.clear()
    for known in (solid.solid, solid.plain_solid):  # making the frame has built it once already
        known.cache_clear()
    Inspection.follow = timed  # type: ignore[method-assign]
    start = time.perf_counter()
    shop = build(job)
    whole = time.perf_counter() - start
    pieces = sum(len(a.pieces) for a in shop.assemblies.values())
    return (
        f"{len(shop.assemblies)} members, {pieces} pieces: build {whole:.2f} s, of it the net {taken:.2f} s "
        f"({taken / whole:.1%})"
    )


def main() -> int:
    parse = argparse.ArgumentParser(description=__doc__)
    parse.add_argument("--number", type=int, default=2000)
    parse.add_argument("--first", type=int, default=0)
    parse.add_argument("--frame", type=int, default=8)
    given = parse.parse_args()
    table: dict[str, Counter[str]] = defaultdict(Counter)
    bad = []
    start = time.perf_counter()
    for seed in range(given.first, given.first + given.number):
        kind, end, what = judged(seed)
        table[kind][end] += 1
        if end in ("UNSAID", "FAULT"):
            bad.append(f"seed {seed}, {kind}: {what}")
    print(f"{'':20}" + "".join(f"{end:>10}" for end in _ENDS))
    for kind, ends in [*sorted(table.items()), ("all", sum(table.values(), Counter()))]:
        print(f"{kind:20}" + "".join(f"{ends[end]:10}" for end in _ENDS))
    print(f"{given.number} joints in {time.perf_counter() - start:.0f} s")
    print("\n".join(bad))
    print(cost(given.frame))
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
