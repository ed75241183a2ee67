"""Stairs and rails beside the work of one member: a winding stair of 40 steps and 200 m of rail, each changed in one
value and followed to its steel, as so many edits of one member in the same run. Run: python bench/composites.py"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import msgspec

from uncus.compose.following import amended
from uncus.job.composites import Anchor, Composite
from uncus.job.job import Job
from uncus.job.records import Member, Role
from uncus.sample.frames import frame
from uncus.shop.shop import build

AIMS = {"winding stair": 40.0, "rail": 100.0}  # edits of one member
_TRIES = 5
WOUND = Composite(id="stair", kind="winding stair", anchors=(Anchor((90_000.0, 0.0, 0.0)), Anchor((91_000.0, 0.0, 0.0)),
    Anchor((90_000.0, 0.0, 7112.0))), params={"risers": 41, "turn": 900.0})  # fmt: skip
CORNERS = ((0, 0), (60, 0), (60, 40), (0, 40), (0, 8), (40, 8), (40, 0.5))
RAILED = Composite(id="rail", kind="rail", anchors=tuple(Anchor((90_000.0 + x * 1000.0, 90_000.0 + y * 1000.0, 0.0))
    for x, y in CORNERS))  # fmt: skip


def spent(job: Job, edit: Callable[[int], object]) -> float:
    """The median seconds of a change, with the steel that follows from it."""
    took = []
    for n in range(_TRIES):
        start = time.perf_counter()
        with job.change("measure") as change:
            change.put(edit(n))  # type: ignore[arg-type]
        took.append(time.perf_counter() - start)
    return statistics.median(took)


def main() -> None:
    job = Job(frame(4, 2))
    job.amend(amended)
    shop = build(job)
    job.follow(shop.follow)
    beams = [m for m in job.all(Member) if m.role is Role.BEAM and m.section == "W12X19"]
    one = spent(job, lambda n: msgspec.structs.replace(beams[n], section="W12X26"))
    print(f"one member, ms                {one * 1000:8.1f}")
    for made, params in ((WOUND, "outer"), (RAILED, "height")):
        with job.change("make") as change:
            change.put(made)
        parts = sum(m.maker == made.id for m in job.all(Member))
        own = {"outer": 1066.8, "height": 1066.8}[params]
        took = spent(job, lambda n, made=made, params=params, own=own:  # type: ignore[misc]
            msgspec.structs.replace(made, params={**made.params, params: own + 10.0 * (n + 1)}))  # fmt: skip
        ratio, aim = took / one, AIMS[made.kind]
        print(f"{made.kind}, {parts} members, ms {took * 1000:8.1f}  = {ratio:6.1f} edits, aim {aim:g}"
            f"{'' if ratio <= aim else '  MISSED'}")  # fmt: skip


if __name__ == "__main__":
    main()
