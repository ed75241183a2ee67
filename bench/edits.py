"""Random edits by the thousand: what follows a job change by change against what is made anew. Run: python
bench/edits.py [steps] [seed]"""

import random
import sys
import time
from collections import Counter

from tests.edits import EDITS, Followed, differences, step

from uncus.sample.frames import frame


def main(steps: int = 2000, seed: int = 1) -> None:
    rng, of, done, since = random.Random(seed), Followed(frame(2, 1)), Counter[str](), list[str]()
    start = time.perf_counter()
    for n in range(1, steps + 1):
        since.append(step(rng, of))
        done[since[-1].partition(",")[0]] += 1
        if n % 10 == 0:
            if found := differences(of):
                raise SystemExit(f"step {n}, seed {seed}: {', '.join(found)} differ after {since}")
            since.clear()
    left = sorted(EDITS.keys() - done.keys())
    print(
        f"{steps} steps of {len(done)} kinds, compared every ten: all as made anew, {time.perf_counter() - start:.0f} s"
        + (f"; never tried: {left}" if left else "")
    )


if __name__ == "__main__":
    main(*(int(arg) for arg in sys.argv[1:]))
