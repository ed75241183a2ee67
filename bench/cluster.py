"""Sheets drawn and checks looked at by one worker of a Dask cluster and by two, against this machine's own processes,
in one run.

    PYTHONPATH=src python bench/cluster.py [--bays 6] [--sheets 120]
"""

import argparse
import sys
import time

from distributed import LocalCluster

from uncus.check.shares import found_elsewhere
from uncus.deliver.package import DrawWork, done
from uncus.draw.drawn import going_out
from uncus.draw.register import register
from uncus.job.job import Job
from uncus.mark.marking import apply, propose
from uncus.sample.frames import frame
from uncus.shop.batch import Make, each, worker_pool
from uncus.shop.cluster import handed_to
from uncus.shop.shop import build

AIM = 1.5  # times what one worker does that two of two cores should do


def drawn(works: list[DrawWork], make: Make) -> float:
    """Sheets a second, workers warm."""
    list(each(done, works[:8], few=0, make=make))
    start = time.perf_counter()
    made = list(each(done, works, few=0, make=make))
    assert len(made) == len(works) and not any(one.failure for one in made)
    return len(works) / (time.perf_counter() - start)


def main() -> int:
    words = argparse.ArgumentParser(description=__doc__.partition("\n")[0])
    words.add_argument("--bays", type=int, default=6)
    words.add_argument("--sheets", type=int, default=120)
    given = words.parse_args()
    job = Job(frame(given.bays, given.bays))
    shop = build(job)
    apply(job, propose(job, shop))
    entries = register(job, shop)
    some = [entries[n % len(entries)] for n in range(given.sheets)]
    works = [DrawWork(going_out(e, "2026-11-29"), e.kind, ("sheets",)) for e in some]
    speed: dict[int, float] = {}
    for workers in (1, 2):
        with LocalCluster(n_workers=workers, threads_per_worker=1, dashboard_address=":0", silence_logs=50) as own, \
                handed_to(own.scheduler_address) as make:  # fmt: skip
            speed[workers] = drawn(works, make)
            start = time.perf_counter()
            found_elsewhere(job, make)
            first = time.perf_counter() - start
            start = time.perf_counter()
            found_elsewhere(job, make)
            again = time.perf_counter() - start
        print(f"{workers} worker(s): {speed[workers]:.1f} sheets a second; every check in {first:.1f} s, of which "
            f"{again:.1f} s once they have the steel")  # fmt: skip
    print(f"worker processes here: {drawn(works, worker_pool):.1f} sheets a second (started each time)")
    ratio = speed[2] / speed[1]
    print(f"two do {ratio:.2f} times what one does (aim {AIM})")
    return int(ratio < AIM)


if __name__ == "__main__":
    sys.exit(main())
