"""A job opened in a window under a screen: printed as JSON are seconds to read its records, to the first picture, to
all of its steel, the longest pauses of the window's thread in between, and the most memory; run by measure.py.

usage: PYTHONPATH=src xvfb-run -a python bench/opening.py JOB [CACHE_FOLDER]
"""

import json
import os
import resource
import sys
import time
from pathlib import Path

from PySide6.QtCore import QEventLoop

from uncus.app.main import application
from uncus.app.window import Window
from uncus.job.job import Job


def main() -> None:
    kept = len(sys.argv) > 2
    if kept:
        os.environ["XDG_CACHE_HOME"] = sys.argv[2]
    app = application()
    start = time.perf_counter()
    job = Job.open(Path(sys.argv[1]))
    read = time.perf_counter() - start
    window = Window(job, state=Path(sys.argv[2]) if kept else None)
    window.resize(1280, 800)
    window.show()
    for _ in range(3):
        app.processEvents()
    first = time.perf_counter() - start
    pauses = []
    filling = getattr(window.session, "filling", None)
    while filling is not None and (filling.running or window.session.shop.waiting):
        before = time.perf_counter()
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents)
        pauses.append(time.perf_counter() - before)
    whole = time.perf_counter() - start
    worst = sorted(pauses)[-3:] or [first]
    window.close()
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    found = {"read the records, s": read, "first picture, s": first, "all steel in the window, s": whole}
    print(json.dumps({**found, "third longest pause, ms": 1000 * worst[0], "memory with the window, MB": memory}))


if __name__ == "__main__":
    main()
