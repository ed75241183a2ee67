"""How long a job with nothing drawn yet takes to be summed up by the command line, and to stand in a window, each
from a cold process; beside the imports that neither can do without. The best of some runs.

usage: PYTHONPATH=src python bench/starting.py
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from compiled import installed
from uncus.job.job import Job
from uncus.job.start import new_job
from uncus.units import Units

_WINDOW = """
import os, sys, time
from pathlib import Path
import gc
from uncus.cli import SELDOM
gc.set_threshold(*SELDOM)
from uncus.app.main import application
app = application()
from uncus.app.window import Window
from uncus.job.job import Job
window = Window(Job.open(Path(sys.argv[1])))
window.resize(1280, 800)
window.show()
for _ in range(3):
    app.processEvents()
os._exit(0)
"""


def best(command: list[str], environment: dict[str, str], times: int = 5) -> float:
    """Seconds of the quickest run, the first (which compiles what is imported) left out."""
    found = []
    for _ in range(times + 1):
        start = time.perf_counter()
        subprocess.run(command, env=environment, check=True, capture_output=True)
        found.append(time.perf_counter() - start)
    return min(found[1:])


def main() -> None:
    environment = {**installed(), "QT_QPA_PLATFORM": "xcb", "LIBGL_ALWAYS_SOFTWARE": "1"}
    screen = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24"]
    with tempfile.TemporaryDirectory() as folder:
        job = Path(folder) / "empty.uncus"
        Job.create(job, new_job("Empty", "", Units.IMPERIAL)).close()
        environment |= {"XDG_CACHE_HOME": f"{folder}/cache", "XDG_CONFIG_HOME": f"{folder}/config"}
        rows = {
            "numpy and typer imported, s": [sys.executable, "-c", "import numpy, typer"],
            "summary of an empty job, s (aim 0.4)": [sys.executable, "-m", "uncus", "summary", str(job)],
            "a screen, numpy and Qt imported, s": [*screen, sys.executable, "-c", "import numpy, PySide6.QtWidgets"],
            "window on an empty job, s (aim 1)": [*screen, sys.executable, "-c", _WINDOW, str(job)],
        }
        for name, command in rows.items():
            print(f"{name:40}{best(command, environment):8.2f}")


if __name__ == "__main__":
    main()
