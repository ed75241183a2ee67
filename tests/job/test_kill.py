"""A process that writes is killed at any moment: no finished change is lost, and the job opens."""

import random
import subprocess
import sys
import time

from tests.conftest import how_many

from uncus.job.job import Job
from uncus.job.records import Level

WRITER = """
import sys
from pathlib import Path
from uncus.job.job import Job
from uncus.job.records import Level
with Job.open(Path(sys.argv[1])) as job:
    n = len(job.all(Level))
    while True:
        with job.change(f"level {n}") as change:
            change.put(Level(id=f"level {n}", name=f"L{n} " + "x" * (n * 97 % 3000), elevation=float(n)))
        print(n, flush=True)
        n += 1
        if n % 7 == 0:
            job.undo()
            job.redo()
"""


def test_killed_many_times_nothing_finished_is_lost(tmp_path):
    path = tmp_path / "a.uncus"
    Job.create(path).close()
    rng = random.Random(7)
    for _ in range(how_many(8, 200)):
        writer = subprocess.Popen([sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True)
        first = writer.stdout.readline()
        assert first, "the job opened after the last kill and a change was made"
        time.sleep(rng.random() * 0.06)
        writer.kill()
        said = [int(first), *(int(line) for line in writer.stdout.read().split() if line.isdigit())]
        writer.wait()
        with Job.open(path) as job:
            there = {level.id for level in job.all(Level)}
            # the undo and redo after a change may be cut between the two: then its step is still there to redo
            while job.redo():
                pass
            there |= {level.id for level in job.all(Level)}
        assert {f"level {n}" for n in range(max(said) + 1)} <= there
        assert len(there) <= max(said) + 2
