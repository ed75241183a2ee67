"""Pick, hover, snap, edit and orbit times in the window's own code, at about 100, 2,000 and 10,000 members.

usage: PYTHONPATH=src python bench/framing.py [--sizes 100,2000,10000] [--no-window]
Prints one table and the growth from the smallest size to the largest. Orbiting needs a screen (xvfb-run will do).
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np

from uncus.app.canvas.camera import Camera
from uncus.app.canvas.massing import Massing
from uncus.app.canvas.pointer import Pointer
from uncus.app.canvas.scene import Solid, extent
from uncus.app.framing import beam
from uncus.app.main import application
from uncus.app.session import Session
from uncus.job.job import Job
from uncus.job.records import Member
from uncus.lens.criteria import chosen
from uncus.lens.grammar import read
from uncus.sample.frames import frame_of


def median(work: Callable[[], object], times: int) -> float:
    """Milliseconds of the median run."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return 1000 * float(np.median(found))


def measured(size: int, window: bool) -> dict[str, float]:
    records = frame_of(size)
    session = Session(Job(records))
    camera = Camera()
    camera.width, camera.height = 730, 690
    camera.frame(extent(session.shop.assemblies.values()))
    pointer = Pointer(session, camera)
    spots = iter(np.random.default_rng(7).uniform((60, 90), (670, 600), (400, 2)).tolist() * 9)
    out: dict[str, float] = {"members": len(session.shop.assemblies)}

    def here() -> object:
        return pointer.snap(*next(spots))

    here()
    out["pick a piece, ms"] = median(here, 60)
    beam(session)
    here()
    out["hover with snaps, ms"] = median(here, 60)
    session.use(None)
    first = session.job.all(Member)[-1]

    solid = Solid()
    session.steel.connect(lambda touched: pointer.forget_steel(touched.any))

    def edit() -> None:
        other = "W12X30" if session.job.get(first.id, Member).section != "W12X30" else "W12X26"  # type: ignore[union-attr]
        session.change("bench", [msgspec.structs.replace(first, section=other)])
        shown = pointer.laid.flags((), False)
        solid.follow(pointer.laid, shown)
        Massing(pointer.laid, shown).picture(camera)
        assert len(pointer.pickables)

    edit()
    out["edit, to arrays for the view, ms"] = median(edit, 7)
    lens = read("role is beam and (section begins W12 or not lot is 3) and length over 20'")
    out["lens of three rows, ms"] = median(lambda: chosen(lens, session.job, session.shop), 5)
    if window:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "job.uncus"
            Job.create(path, records).close()
            out["frames a second, orbiting"] = float(_under_screen(path))
    return out


def _under_screen(path: Path) -> str:
    env = {**os.environ, "QT_QPA_PLATFORM": "xcb", "LIBGL_ALWAYS_SOFTWARE": "1"}
    orbit = [sys.executable, str(Path(__file__).with_name("orbit.py")), str(path)]
    command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", *orbit]
    return subprocess.run(command, env=env, capture_output=True, text=True, check=True).stdout.strip() or "0"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--sizes", default="100,2000,10000")
    parser.add_argument("--no-window", action="store_true")
    given = parser.parse_args()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = application()
    rows = [measured(int(size), not given.no_window) for size in given.sizes.split(",")]
    for name in rows[0]:
        print(f"{name:36}" + "".join(f"{row[name]:12.4g}" for row in rows))
    ratio = rows[-1]["members"] / rows[0]["members"]
    print(f"\ngrowth for {ratio:.0f} times the members")
    for name in list(rows[0])[1:]:
        print(f"{name:36}{rows[-1][name] / rows[0][name]:12.3g}")
    app.quit()


if __name__ == "__main__":
    main()
