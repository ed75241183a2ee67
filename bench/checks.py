"""A look at a whole job by every rule, and one after an edit that goes by it.

usage: PYTHONPATH=src python bench/checks.py [--sizes 500,2000,10000]
Prints seconds, how many of the latter go into the former, and the growth per member of a whole look. The collector of
cycles is told to pass over the job, as the window does once a job is filled.
"""

from __future__ import annotations

import argparse
import gc
import statistics
import time

import msgspec

from uncus.check.checking import look
from uncus.check.looked import Looked
from uncus.job.job import Job
from uncus.job.records import Member, Role
from uncus.sample.frames import frame_of
from uncus.shop.shop import build

EDITS = 9


def measured(members: int) -> tuple[int, float, float]:
    """How many members there are, a whole look, and the median of one after an edit; the first of those apart, which
    makes what is made once."""
    job = Job(frame_of(members))
    shop = build(job)
    job.follow(shop.follow)
    gc.collect()
    gc.freeze()
    start = time.perf_counter()
    looked = Looked(job, shop)
    look(looked)
    whole = time.perf_counter() - start
    beams = [m for m in job.all(Member) if m.role is Role.BEAM]
    took = []
    for m in beams[5 : 5 + EDITS + 1]:
        with job.change("another camber") as change:
            change.put(msgspec.structs.replace(m, camber=m.camber + 1.0))
        start = time.perf_counter()
        looked = Looked(job, shop, before=looked)
        look(looked)
        took.append(time.perf_counter() - start)
    gc.unfreeze()
    return len(shop.assemblies), whole, statistics.median(took[1:])


def main() -> None:
    asked = argparse.ArgumentParser()
    asked.add_argument("--sizes", default="500,2000,10000")
    print(f"{'members':>8} {'whole look, s':>14} {'after an edit, s':>17} {'share':>8} {'ms a member':>12}")
    each = []
    for size in map(int, asked.parse_args().sizes.split(",")):
        members, whole, after = measured(size)
        each.append(whole / members)
        print(f"{members:8} {whole:14.2f} {after:17.4f} {f'1/{whole / after:.0f}':>8} {whole / members * 1000:12.3f}")
    print(f"growth per member: {each[-1] / each[0]:.2f}")


if __name__ == "__main__":
    main()
