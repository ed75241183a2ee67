"""Frames a second while the view of a job is orbited; run by measure.py under a virtual screen."""

import sys
import time
from pathlib import Path

import numpy as np

from uncus.app.main import application
from uncus.app.window import Window
from uncus.job.job import Job


def main() -> None:
    app = application()
    job = Job.open(Path(sys.argv[1]))
    window = Window(job)
    window.resize(1280, 800)
    window.show()
    for _ in range(20):
        app.processEvents()
        time.sleep(0.02)
    view = window.model
    view._moving = True
    centre = view.camera.target.copy()
    for warm in (True, False):
        frames = 5 if warm else 40
        start = time.perf_counter()
        for _ in range(frames):
            view.camera.orbit(6, 1 if np.sin(time.perf_counter()) > 0 else -1, centre)
            view.repaint()
            app.processEvents()
        seconds = time.perf_counter() - start
    print(f"{frames / seconds:.1f}")


if __name__ == "__main__":
    main()
